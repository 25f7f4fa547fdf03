// What is to be reported, in which order and under which names: kept with the site, and as a template for
// others.
//
// Laws (tested): 1. A setup comes back the same from JSON. 2. "What was not checked" is always in. 3. Parts
// of a template that the site has nothing for are left out.

#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/report/pages.h"
#include "core/site/site.h"

namespace pristine::report {

/// A part to be made. What it is about is named by numbers of the site.
struct PartSetup {
    std::string kind;   ///< of part_kinds()
    std::string title;  ///< empty: the usual one
    std::string note;   ///< of the person's own, below the part
    bool on = true;
    std::vector<std::uint64_t> items, lines;
    std::map<std::string, double> numbers;     ///< "band", "every", "scale": lengths in data units
    std::map<std::string, std::string> words;  ///< "pictures": "none", "map", "all"; "base": a pile base
    bool operator==(const PartSetup&) const = default;

    double number(const std::string& name, double usual) const;
    std::string word(const std::string& name, const std::string& usual) const;
};

struct Setup {
    std::string title, client, place, method;  ///< empty: nothing is said
    std::string office, surveyor;
    std::string logo;  ///< bytes of a PNG; empty: none
    PageForm page;
    std::vector<PartSetup> parts;
    bool operator==(const Setup&) const = default;
};

struct PartKind {
    const char* id;
    const char* title;  ///< usual
    const char* help;   ///< one sentence
    bool always = false;
};
/// In their usual order.
const std::vector<PartKind>& part_kinds();
/// Throws Error(Usage) with a list of what there is.
const PartKind& part_kind(const std::string& id);

/// All parts that the site has something for; those that would say the same twice or take long are not on.
Setup proposed(const site::Site&);
/// The order, titles, notes and settings of a template on what `proposed` found. Parts that only one of the
/// two has are left out, and not on.
Setup by_template(const Setup& templ, const site::Site&);
/// Only these kinds are on, in this order; "what was not checked" last if it is not named. Throws
/// Error(Usage) for an unknown kind, and Error(Empty) for one that the site has nothing for.
Setup with_parts(Setup, const std::vector<std::string>& kinds);
/// Parts whose items or lines are gone are left out; what can be reported now and could not before is added,
/// not on.
Setup on_site(Setup, const site::Site&);

std::string json_of(const Setup&);
/// Throws Error(Format).
Setup setup_from_json(const std::string&);

/// Notes of a project that hold the setup, and the templates of the site by name.
inline constexpr const char* kSetupNote = "report";
inline constexpr const char* kTemplatesNote = "report-templates";

}  // namespace pristine::report
