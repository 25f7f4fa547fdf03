#include "core/site/cause.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/error.h"

namespace pristine::site {
namespace {

using nlohmann::json;
constexpr int kDeepest = 40;  // parts in parts; what a person does is far below

constexpr std::array<const char*, 17> kKinds{
    "said",         "tool",    "growth",   "rule",     "things",    "lining",
    "lines",        "markers", "kept",     "inverse",  "keep_only", "not_connected",
    "would_change", "repair",  "together", "findings", "build"};
constexpr std::array<const char*, 4> kCombine{"new", "add", "take_away", "both"};

constexpr std::pair<const char*, const char*> kPhrases[] = {
    {"select.rectangle", "rectangle fence"},
    {"select.polygon", "polygon fence"},
    {"select.freehand", "freehand fence"},
    {"select.circle", "circle fence"},
    {"select.strip", "strip fence"},
    {"select.across", "line across triangles"},
    {"select.brush", "disc brush"},
    {"select.ball_brush", "ball brush"},
    {"select.ball", "ball"},
    {"select.cylinder", "upright cylinder"},
    {"select.box", "box"},
    {"select.plane", "plane through three points"},
    {"select.painted_plane", "plane from a painted patch"},
    {"select.level", "level plane"},
    {"select.region", "region up to an angle"},
    {"select.single", "single point or triangle"},
    {"select.grow", "grown"},
    {"select.shrink", "shrunk"},
    {"select.connected", "and what is connected"},
    {"select.similar", "and what is alike"},
    {"select.rim", "and what lies round the rim"},
    {"repair.check", "repair"},
    {"repair.one", "repair of one place"},
    {"repair.hole", "filled hole"},
    {"repair.wider_hole", "hole filled with a ring round it"},
    {"repair.patch", "patch replaced"},
    {"repair.reduce", "reduced"},
    {"repair.markers", "markers healed"},
    {"repair.refine", "refined"},
    {"repair.smooth", "smoothing"},
    {"repair.flat", "flattening"},
    {"repair.relax", "relax brush"},
    {"repair.flatten", "flatten brush"},
    {"surface.drop_points", "points of the surface dropped"},
    {"surface.smooth", "part of the surface smoothed"},
    {"surface.replace_part", "part of the surface replaced"},
    {"surface.limits", "triangles beyond limits left off"},
    {"surface.thinning", "points of the surface thinned"},
};

template <class T>
const T* setting(const Act& a, const char* name) {
    const auto it = a.settings.find(name);
    return it == a.settings.end() ? nullptr : std::get_if<T>(&it->second);
}

std::string listed(const std::vector<std::string>& words) {
    std::string all;
    for (const std::string& w : words) all += (all.empty() ? "" : ", ") + w;
    return all;
}

// Sentences in the words of one reader.
class Teller {
  public:
    explicit Teller(const Wording& w) : w_(w) {}

    std::string acts(const std::vector<Act>& all) const {
        std::string text;
        for (const Act& a : all) {
            if (!text.empty())
                text += a.how == Combine::Add        ? say("; with ")
                        : a.how == Combine::TakeAway ? say("; without ")
                                                     : say("; only within ");
            text += act(a);
        }
        return text.empty() ? say("a selection") : text;
    }

  private:
    std::string say(const char* english) const { return w_.phrase ? w_.phrase(english) : english; }
    template <class... Args>
    std::string say(const char* english, const Args&... args) const {
        return fmt::format(fmt::runtime(say(english)), args...);
    }
    std::string length(double v) const { return w_.length ? w_.length(v) : fmt::format("{:g}", v); }
    std::string area(double v) const { return w_.area ? w_.area(v) : fmt::format("{:g}", v); }
    std::string named(const std::string& id) const {
        const char* phrase = phrase_of(id);
        return phrase ? say(phrase) : id;
    }

    std::string act(const Act& a) const {
        switch (a.kind) {
            case Act::Kind::Said:
                if (const auto* s = setting<std::string>(a, "sentence")) return *s;
                return say("a selection");
            case Act::Kind::Tool:
                return tool(a);
            case Act::Kind::Growth: {
                std::string text = acts(a.parts) + ", " + named(a.id);
                if (const auto* d = setting<double>(a, "step")) text += say(" by {}", length(*d));
                if (const auto* n = setting<double>(a, "times")) text += say(", {:.0f} times", *n);
                return text;
            }
            case Act::Kind::Rule:
                return a.rule ? say("rule {}", score::text_of(*a.rule)) : say("a rule");
            case Act::Kind::Things:
                return things(a);
            case Act::Kind::Lining: {
                const auto* line = setting<std::string>(a, "line");
                return line ? say("what lies inside the lining along {}", *line)
                            : say("what lies inside the lining of the tunnel");
            }
            case Act::Kind::Lines:
                if (const auto* file = setting<std::string>(a, "file"))
                    return say("inside closed lines of {}", *file);
                if (const auto* names = setting<std::vector<std::string>>(a, "lines"))
                    return say("inside the closed lines {}", listed(*names));
                return say("inside closed lines");
            case Act::Kind::Markers:
                return say("markers of the list");
            case Act::Kind::Kept: {
                const auto* name = setting<std::string>(a, "name");
                const std::string kept = say("kept selection '{}'", name ? *name : std::string());
                return a.parts.empty() ? kept : kept + say(", by ") + acts(a.parts);
            }
            case Act::Kind::Inverse:
                return say("inverse of ") + acts(a.parts);
            case Act::Kind::KeepOnly:
                return say("keep only what was selected by ") + acts(a.parts);
            case Act::Kind::NotConnected:
                return say("not connected to ") + acts(a.parts);
            case Act::Kind::WouldChange:
                return say("what a repair would take");
            case Act::Kind::Repair:
                return repair(a);
            case Act::Kind::Together:
                return "(" + acts(a.parts) + ")";
            case Act::Kind::Findings:
                return a.id.empty() ? say("findings of the check") : say("findings of the check: {}", a.id);
            case Act::Kind::Build:
                return build(a);
        }
        return {};
    }

    std::string tool(const Act& a) const {
        std::string text = named(a.id);
        if (const bool* visible = setting<bool>(a, "visible_only"))
            text += *visible ? say(", visible only") : say(", through");
        if (const bool* in = setting<bool>(a, "panorama"); in && *in) text += say(", in a panorama");
        if (const auto* by = setting<double>(a, "by")) {
            const bool* below = setting<bool>(a, "below");
            text += below && *below ? say(", what lies below it by more than {}", length(*by))
                                    : say(", what lies above it by more than {}", length(*by));
        }
        return text;
    }

    std::string things(const Act& a) const {
        std::string kinds;
        for (const auto& [name, value] : a.settings)
            if (const double* n = std::get_if<double>(&value))
                kinds += fmt::format("{}{} ({:g})", kinds.empty() ? "" : ", ", say(name.c_str()), *n);
        return say("things on the ground: {}", kinds);
    }

    std::string repair(const Act& a) const {
        std::string text = named(a.id);
        if (const auto* kinds = setting<std::vector<std::string>>(a, "kinds")) text += ": " + listed(*kinds);
        if (const auto* edge = setting<double>(a, "edge")) text += say(", edges up to {}", length(*edge));
        if (const auto* r = setting<double>(a, "radius")) text += say(", radius {}", length(*r));
        if (const auto* s = setting<double>(a, "strength")) text += say(", strength {:.0f} %", 100 * *s);
        const auto *taken = setting<double>(a, "taken"), *made = setting<double>(a, "made");
        if (taken && made) text += say("; {:.0f} triangles taken, {:.0f} made", *taken, *made);
        const auto *lost = setting<double>(a, "area_taken"), *won = setting<double>(a, "area_made");
        if (lost && won) text += say("; {} of surface taken, {} made", area(*lost), area(*won));
        const auto *mean = setting<double>(a, "off_mean"), *most = setting<double>(a, "off_max");
        if (mean && most)
            text +=
                say("; it lies {} from what was there in the mean, {} at most", length(*mean), length(*most));
        if (const bool* sound = setting<bool>(a, "sound"); sound && *sound)
            text += say("; the mesh is sound");
        if (const auto* left = setting<std::vector<std::string>>(a, "left"))
            text += say("; left: {}", listed(*left));
        return text;
    }

    std::string build(const Act& a) const {
        std::string text = named(a.id);
        const auto add = [&](const std::string& more) { text += (text.empty() ? "" : ", ") + more; };
        if (const auto* n = setting<double>(a, "points")) add(say("points: {:.0f}", *n));
        if (const auto* lines = setting<std::vector<std::string>>(a, "lines"))
            if (!lines->empty()) add(say("along {}", listed(*lines)));
        if (const auto* l = setting<double>(a, "longest")) add(say("edges up to {}", length(*l)));
        if (const auto* l = setting<double>(a, "rim")) add(say("edges at the rim up to {}", length(*l)));
        if (const auto* d = setting<double>(a, "angle")) add(say("angles at the rim up to {:g}°", *d));
        if (const auto* l = setting<double>(a, "largest"))
            add(say("heights changed by {} at most", length(*l)));
        if (const auto* t = setting<double>(a, "tolerance")) add(say("within {} in height", length(*t)));
        const auto *used = setting<double>(a, "used"), *of = setting<double>(a, "of");
        if (used && of) add(say("{:.0f} of {:.0f} points used", *used, *of));
        return text;
    }

    const Wording& w_;
};

json json_of_setting(const Setting& s) {
    return std::visit([](const auto& v) { return json(v); }, s);
}

Setting setting_from(const json& j) {
    if (j.is_boolean()) return j.get<bool>();
    if (j.is_number()) return j.get<double>();
    if (j.is_string()) return j.get<std::string>();
    return j.get<std::vector<std::string>>();
}

json json_of_act(const Act& a) {
    json j{{"kind", kKinds[static_cast<std::size_t>(a.kind)]}};
    if (!a.id.empty()) j["id"] = a.id;
    for (const auto& [name, value] : a.settings) j["settings"][name] = json_of_setting(value);
    if (a.rule) j["rule"] = json::parse(score::json_of_step(*a.rule));
    for (const Act& part : a.parts) j["parts"].push_back(json_of_act(part));
    if (a.how != Combine::New) j["how"] = kCombine[static_cast<std::size_t>(a.how)];
    return j;
}

template <std::size_t N>
std::size_t index_in(const std::array<const char*, N>& names, const std::string& name) {
    const auto it = std::find_if(names.begin(), names.end(), [&](const char* n) { return name == n; });
    if (it == names.end()) throw Error(ErrorCode::Format, "'" + name + "' is not known in a cause");
    return static_cast<std::size_t>(it - names.begin());
}

Act act_from(const json& j, int depth) {
    if (depth > kDeepest) throw Error(ErrorCode::Format, "The parts of a cause never end");
    Act a;
    a.kind = static_cast<Act::Kind>(index_in(kKinds, j.at("kind").get<std::string>()));
    a.id = j.value("id", "");
    const json settings = j.value("settings", json::object());
    for (const auto& [name, value] : settings.items()) a.settings[name] = setting_from(value);
    if (j.contains("rule")) a.rule = score::step_from_json(j.at("rule").dump());
    const json parts = j.value("parts", json::array());
    for (const json& part : parts) a.parts.push_back(act_from(part, depth + 1));
    if (j.contains("how")) a.how = static_cast<Combine>(index_in(kCombine, j.at("how").get<std::string>()));
    return a;
}

}  // namespace

const char* phrase_of(const std::string& id) {
    for (const auto& [known, phrase] : kPhrases)
        if (id == known) return phrase;
    return nullptr;
}

Cause by(Act act) {
    Cause c;
    c.acts.push_back(std::move(act));
    return c;
}

Cause said(const std::string& sentence) {
    if (sentence.empty()) return {};
    return by({.kind = Act::Kind::Said, .settings = {{"sentence", sentence}}});
}

Cause by_rule(score::Step step) {
    return by({.kind = Act::Kind::Rule, .rule = std::move(step)});
}

Cause combined(const Cause& before, const Cause& fresh, Combine how) {
    if (fresh.empty() || how == Combine::New) return fresh.empty() ? before : fresh;
    if (before.empty()) return fresh;
    Cause all = before;
    // One act stays one; several together are one thing that is added or taken away.
    Act act = fresh.acts.size() == 1 ? fresh.acts.front() : wrapped(fresh, Act::Kind::Together).acts[0];
    act.how = how;
    const bool known = std::any_of(all.acts.begin(), all.acts.end(), [&](Act a) {
        if (a.how == Combine::New) a.how = Combine::Add;  // the one that began it
        return a == act;
    });
    if (!known) all.acts.push_back(std::move(act));
    return all;
}

Cause wrapped(const Cause& parts, Act::Kind kind, const std::string& id, Settings settings) {
    return by({.kind = kind, .id = id, .settings = std::move(settings), .parts = parts.acts});
}

Cause grown(const Cause& before, const std::string& id, Settings settings) {
    if (before.acts.size() == 1 && before.acts[0].kind == Act::Kind::Growth && before.acts[0].id == id) {
        Cause again = before;
        Settings& own = again.acts[0].settings;
        const auto times = own.find("times");
        const double n = times == own.end() ? 1 : std::get<double>(times->second);
        Settings without = own;
        without.erase("times");
        if (without == settings) {
            own["times"] = n + 1;
            return again;
        }
    }
    return wrapped(before, Act::Kind::Growth, id, std::move(settings));
}

std::string tool_of(const Cause& c) {
    for (const Act& a : c.acts) {
        if (a.kind == Act::Kind::Tool) return a.id;
        if (const std::string inner = tool_of({a.parts}); !inner.empty()) return inner;
    }
    return {};
}

const score::Step* rule_of(const Cause& c) {
    const bool one = c.acts.size() == 1 && c.acts[0].kind == Act::Kind::Rule && c.acts[0].rule;
    return one ? &*c.acts[0].rule : nullptr;
}

Cause cause_of_sentence(const std::string& sentence) {
    constexpr const char* kRule = "rule ";
    if (sentence.starts_with(kRule)) {
        const std::string rule = sentence.substr(5);
        try {
            score::Step step = score::parse_step(rule);
            if (score::text_of(step) == rule) return by_rule(std::move(step));
        } catch (const Error&) {
            // A fence of a recipe, or a rule of another program version: its sentence is kept.
        }
    }
    return said(sentence);
}

std::string told(const Cause& c, const Wording& wording) {
    return c.empty() ? std::string() : Teller(wording).acts(c.acts);
}

std::string json_of(const Cause& c) {
    json acts = json::array();
    for (const Act& a : c.acts) acts.push_back(json_of_act(a));
    return acts.dump();
}

Cause cause_from_json(const std::string& text) {
    try {
        Cause c;
        for (const json& a : json::parse(text)) c.acts.push_back(act_from(a, 0));
        return c;
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format, std::string("This is no cause: ") + e.what());
    }
}

}  // namespace pristine::site
