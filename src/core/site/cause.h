// What made a selection or a ledger entry: a value, from which a sentence is made where somebody reads it.
//
// Laws (tested): 1. A cause comes back the same from JSON and so from a project file. 2. A cause that is one
// rule gives the step of a recipe that takes the same points.

#pragma once

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "core/recipe/recipe.h"

namespace pristine::site {

/// How a set goes together with what is selected.
enum class Combine : std::uint8_t { New, Add, TakeAway, Both };

/// Lengths in data units.
using Setting = std::variant<bool, double, std::string, std::vector<std::string>>;
using Settings = std::map<std::string, Setting>;

/// One thing that took part.
struct Act {
    enum class Kind : std::uint8_t {
        Said,          ///< only a sentence is known ("sentence"): projects of before this was a value
        Tool,          ///< a hand tool; `id` is its command
        Growth,        ///< `parts`, grown or shrunk; `id` is the command
        Rule,          ///< `rule`
        Things,        ///< things on the ground; a setting for each kind: how many
        Lining,        ///< what lies inside the lining of a tunnel ("line")
        Lines,         ///< inside closed lines ("file" or "lines")
        Markers,       ///< markers that a scanner recorded ("count")
        Kept,          ///< a kept selection ("name") that `parts` made
        Inverse,       ///< everything but what `parts` selected
        KeepOnly,      ///< what `parts` selected stays, everything else goes
        NotConnected,  ///< what is not connected to what was selected
        WouldChange,   ///< what a repair would take
        Repair,        ///< `id` is the repair; what it took and made, and what is left
        Together,      ///< `parts`, combined with each other before they are combined with the rest
        Findings,      ///< what a check of a mesh found; `id` is the kind of fault
        Build          ///< a change of what a surface is built from; `id` is that of surface_edits.h
    };
    Kind kind = Kind::Said;
    std::string id{};
    Settings settings{};
    std::optional<score::Step> rule{};
    std::vector<Act> parts{};
    Combine how = Combine::New;  ///< with what stands before it
    bool operator==(const Act&) const = default;
};

/// All that took part, in order; empty: nobody knows.
struct Cause {
    std::vector<Act> acts;
    bool empty() const { return acts.empty(); }
    bool operator==(const Cause&) const = default;
};

/// A cause of one act.
Cause by(Act);
/// Of a sentence alone; empty for an empty one.
Cause said(const std::string& sentence);
Cause by_rule(score::Step);
/// `fresh` combined with what was there. What already is the last that took part is told once.
Cause combined(const Cause& before, const Cause& fresh, Combine how);
/// Wraps all that took part into one act, as its parts.
Cause wrapped(const Cause&, Act::Kind, const std::string& id = {}, Settings = {});
/// `before`, grown or shrunk; the same once more is counted.
Cause grown(const Cause& before, const std::string& id, Settings);
/// Command of the hand tool that took part first; empty: none did.
std::string tool_of(const Cause&);
/// The step when one rule alone made it; else null.
const score::Step* rule_of(const Cause&);
/// What a project of before wrote: a rule that is written back to the same sentence is one, all else is said.
Cause cause_of_sentence(const std::string& sentence);

/// How a reader wants it; each may be null.
struct Wording {
    std::function<std::string(const char* english)> phrase{};
    std::function<std::string(double data_units)> length{}, area{};
};
/// "polygon fence, through; without rule height >0.3". Empty for an empty cause.
std::string told(const Cause&, const Wording& = {});
/// The phrase of a tool, of growth, of a repair: "polygon fence"; null for an id that is not known.
const char* phrase_of(const std::string& id);

/// As it stands in projects and ledgers; read back by cause_from_json.
std::string json_of(const Cause&);
/// Throws Error(Format).
Cause cause_from_json(const std::string&);

}  // namespace pristine::site
