// What was decided: counts by reason, pictures before and after, rules, and every entry.

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <map>

#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/cloud/classes.h"
#include "core/report/figures/histogram.h"
#include "core/report/figures/view.h"
#include "core/report/parts/context.h"
#include "core/site/written.h"

namespace pristine::report {
namespace {

using site::Item;
using site::ItemPtr;
using site::LedgerEntry;

constexpr std::uint64_t kMostForHistogram = 5'000'000;

std::string short_time(const std::string& when) {
    std::string out = when.substr(0, std::min<std::size_t>(16, when.size()));
    std::replace(out.begin(), out.end(), 'T', ' ');
    return out;
}

Image as_image(const site::Thumbnail& t) {
    Image out{t.width, t.height, {}};
    for (std::size_t k = 0; k + 2 < t.rgb.size(); k += 3)
        out.argb.push_back(0xff000000u | static_cast<std::uint32_t>(t.rgb[k]) << 16 |
                           static_cast<std::uint32_t>(t.rgb[k + 1]) << 8 | t.rgb[k + 2]);
    return out;
}

std::string kind_of(const LedgerEntry& e) {
    if (e.to_class) {
        const std::string name = cloud::class_name(*e.to_class);
        return "given class " + std::to_string(*e.to_class) + (name.empty() ? "" : " (" + name + ")");
    }
    if (e.edit != 0) return "change of the build";
    return e.made ? "repaired" : "removed";
}

// What was out just before an entry, and just after it, as far as decisions still in force say.
std::pair<site::SetPtr, site::SetPtr> around(const Item& i, const LedgerEntry& of) {
    ElementSet out(i.cloud->size());
    if (i.scope) out = ~*i.scope;
    for (const LedgerEntry& e : i.ledger) {
        if (&e == &of) break;
        if (e.active && e.removes()) out = out | *e.elements;
        if (!e.active && e.made) out = out | *e.made;
    }
    ElementSet before = out, after = out | *of.elements;
    // What this and later repairs made was not there yet.
    bool later = false;
    for (const LedgerEntry& e : i.ledger) {
        later = later || &e == &of;
        if (!later || !e.made) continue;
        before = before | *e.made;
        if (&e != &of) after = after | *e.made;
    }
    return {std::make_shared<const ElementSet>(std::move(before)),
            std::make_shared<const ElementSet>(std::move(after))};
}

// A box round most of what an entry took, with some of what is round it: of scattered strays a few would make
// all else tiny.
Box3 box_of(const Item& i, const ElementSet& set) {
    std::array<std::vector<double>, 3> sample;
    const std::uint64_t stride = 1 + set.count() / 20'000;
    std::uint64_t k = 0;
    set.for_each([&](std::uint64_t e) {
        if (k++ % stride != 0) return;
        const Vec3 p = i.cloud->position(e);
        for (int a = 0; a < 3; ++a) sample[static_cast<std::size_t>(a)].push_back(p[a]);
    });
    Box3 box;
    if (sample[0].empty()) return box;
    const auto at = [&](double share) {
        Vec3 p;
        for (int a = 0; a < 3; ++a) {
            auto& v = sample[static_cast<std::size_t>(a)];
            const auto n = static_cast<std::ptrdiff_t>(share * static_cast<double>(v.size() - 1));
            std::nth_element(v.begin(), v.begin() + n, v.end());
            p[a] = v[static_cast<std::size_t>(n)];
        }
        return p;
    };
    box.add(at(0.03));
    box.add(at(0.97));
    const Vec3 size = box.hi - box.lo;
    const double pad = 0.25 * std::max({size.x, size.y, size.z, 1e-6});
    Box3 around = box;
    around.lo = around.lo - Vec3{pad, pad, pad};
    around.hi = around.hi + Vec3{pad, pad, pad};
    box = around;
    return box;
}

void picture_of(Context& c, const Item& i, const LedgerEntry& e, std::size_t number) {
    const double yaw = c.part.number("yaw", 45), pitch = c.part.number("pitch", -35);
    const auto [out_before, out_after] = around(i, e);
    const double width = (c.room.x - 3) / 2, height = width * 0.72;
    Shot shot;
    shot.box = box_of(i, *e.elements);
    if (shot.box.empty()) return;
    const Shown shown(c.site(), i.cloud->reference());
    ViewLook look{width, height, "before", shown.factor(), shown.unit()};
    shot.yaw_deg = yaw;
    shot.pitch_deg = pitch;
    shot.things = {seen(i)};
    shot.things[0].hidden = out_before;
    shot.things[0].marked = e.elements;
    Drawing before = view(shot, look, c.material.draw, c.material.dpi);
    shot.things[0].hidden = e.removes() ? out_after : out_before;
    shot.things[0].marked = nullptr;
    look.title = "after";
    Drawing after = view(shot, look, c.material.draw, c.material.dpi);
    Figure f;
    f.id = fmt::format("entry_{}_{}", e.id, i.id);
    f.caption = fmt::format("{}: {}, {}, in {}. {}.", number, e.reason.empty() ? "no reason given" : e.reason,
                            counted_elements(i, e.count()), i.name, told_view(yaw, pitch));
    f.alt = "Left the item before the decision, what it is about in violet; right the same after it.";
    f.drawings = {std::move(before), std::move(after)};
    c.add(std::move(f));
}

// Rules anywhere in a cause.
void rules_in(const site::Act& a, std::vector<score::Step>& out) {
    if (a.rule && std::find(out.begin(), out.end(), *a.rule) == out.end()) out.push_back(*a.rule);
    for (const site::Act& part : a.parts) rules_in(part, out);
}

std::string unit_of_score(const Shown& shown, const std::string& unit) {
    if (unit == "length") return shown.unit();
    if (unit == "area") return shown.unit(2);
    return unit == "angle" ? "°" : unit;
}

Cell value_cell(const Shown& shown, const std::string& unit, double v, int digits) {
    if (unit == "length") return shown.length(v, 1);
    if (unit == "area") return shown.area(v);
    return {figure(v, digits), v, unit_of_score(shown, unit)};
}

void add_histogram(Context& c, const Item& i, const LedgerEntry& e, const score::Score& s,
                   const score::Step& step, const Shown& shown) {
    if (s.needs_other || s.needs_line || s.looks_beside) {
        c.say("The histogram is left out: this rule also looks at other items or lines.",
              Paragraph::Kind::Note);
        return;
    }
    if (i.cloud->size() > kMostForHistogram) {
        c.say(fmt::format("The histogram is left out: it is drawn for up to {} points, and {} has {}.",
                          figure(static_cast<double>(kMostForHistogram), 0), i.name,
                          figure(static_cast<double>(i.cloud->size()), 0)),
              Paragraph::Kind::Note);
        return;
    }
    const ElementSet eligible = ~*around(i, e).first;
    score::Input in{*i.cloud, eligible};
    in.column = s.needs_column ? step.with : std::string();
    if (s.why_not && !s.why_not(in).empty()) return;
    const score::Column column = score::compute(s, in, step.parameters, c.progress);
    const score::Profile profile = score::profile(column, s.logarithmic, 64);
    if (profile.count == 0 || !step.words.empty()) return;
    HistogramSpec spec;
    spec.profile = profile;
    spec.limits = step.limits;
    spec.keeps = step.keep;
    spec.unit = unit_of_score(shown, s.unit);
    spec.factor = s.unit == "length" ? shown.factor()
                  : s.unit == "area" ? shown.factor() * shown.factor()
                                     : 1;
    spec.title = s.title;
    spec.width = std::min(c.room.x, 150.0);
    Figure f;
    f.id = fmt::format("histogram_{}_{}", e.id, s.id);
    f.caption = fmt::format(
        "{} in {} before the decision, {} with a value. What the rule took is dark. The ends hold what lies "
        "beyond.",
        s.title, i.name, counted_elements(i, profile.count));
    f.alt = fmt::format("Histogram of {} with the limits {}.", s.title, score::text_of(step.limits));
    f.drawings = {histogram(spec)};
    c.add(std::move(f));
}

void add_rule(Context& c, const Item& i, const LedgerEntry& e, const score::Step& step) {
    const Shown shown(c.site(), i.cloud->reference());
    if (step.fence()) {
        c.say({{i.name + ": ", true},
               {"a fence of " + counted(step.rings.size(), "line", "lines") + " in plan.", false}});
        return;
    }
    const score::Score& s = score::find(step.score);
    c.say({{s.title + ", in " + i.name + ": ", true},
           {fmt::format("{} for \u201c{}\u201d, {}. High: {}. Low: {}.", score::text_of(step), e.reason,
                        counted_elements(i, e.count()), s.high, s.low),
            false}});
    Table t{fmt::format("rule_{}_{}", e.id, s.id),
            "Parameters and limits of " + s.title + ".",
            {{"name", "Name", false, 2}, {"value", "Value", true}, {"unit", "Unit"}},
            {}};
    for (const auto& [name, value] : score::complete(s, step.parameters, 1 / shown.data_metres()))
        for (const score::Parameter& p : s.parameters)
            if (p.name == name) {
                const Cell cell = value_cell(shown, p.unit, value, p.whole ? 0 : p.digits);
                t.rows.push_back({{p.title}, cell, {cell.unit}});
            }
    const auto limit = [&](const char* title, double v) {
        const Cell cell = value_cell(shown, s.unit, v, decimals_for(v, 3));
        t.rows.push_back({{title}, cell, {cell.unit}});
    };
    if (step.words.empty() && std::isfinite(step.limits.lo))
        limit(step.limits.lo_open ? "Lower limit, not of it" : "Lower limit", step.limits.lo);
    if (step.words.empty() && std::isfinite(step.limits.hi))
        limit(step.limits.hi_open ? "Upper limit, not of it" : "Upper limit", step.limits.hi);
    if (!t.rows.empty()) c.add(std::move(t));
    if (c.wants_pictures()) add_histogram(c, i, e, s, step, shown);
}

std::size_t number_of(const site::Site& s, const LedgerEntry* entry) {
    std::size_t n = 0;
    for (const ItemPtr& i : s.items)
        for (const LedgerEntry& e : i->ledger) {
            ++n;
            if (&e == entry) return n;
        }
    return n;
}

}  // namespace

void make_removed(Context& c) {
    std::uint64_t all = 0, left = 0;
    bool nothing = true;
    Table t{"removed",
            "Counts before and after, by item and reason. What several decisions took counts for the first.",
            {{"item", "Item", false, 2},
             {"reason", "Reason", false, 2},
             {"count", "Count", true},
             {"share", "Share", true}},
            {}};
    for (const ItemPtr& i : c.site().items) {
        // What repairs made was not there before.
        const std::uint64_t made = i->made().count(), before = i->total() - made,
                            now = i->total() - i->removed->count();
        all += before;
        left += now;
        nothing = nothing && i->removed->empty();
        const auto share = [&](std::uint64_t n) {
            const double v = before > 0 ? static_cast<double>(n) / static_cast<double>(before) : 0;
            return Cell{percent(v), 100 * v, "%"};
        };
        const char* what = i->cloud->triangles() ? "triangles" : "points";
        t.rows.push_back({{i->name}, {std::string(what) + " before"}, count_cell(before), share(before)});
        for (const site::OutByReason& r : site::out_by_reason(*i)) {
            const std::uint64_t n = r.elements.count();
            t.rows.push_back(
                {{i->name}, {r.reason.empty() ? "no reason given" : r.reason}, count_cell(n), share(n)});
        }
        std::uint64_t in_place = 0;
        for (const LedgerEntry& e : i->ledger)
            if (e.active && e.made) in_place += e.made->count();
        if (in_place > 0)
            t.rows.push_back({{i->name}, {"made by repairs"}, count_cell(in_place), share(in_place)});
        t.rows.push_back({{i->name}, {std::string(what) + " after"}, count_cell(now), share(now)});
    }
    c.say({{figure(static_cast<double>(all), 0), true},
           {" elements were there before any decision, ", false},
           {figure(static_cast<double>(left), 0), true},
           {nothing ? " are left: nothing was removed."
                    : " are left. Nothing is deleted: each decision can be lifted in the project.",
            false}});
    c.add(std::move(t));
    Table classes{"classes",
                  "Classes that were given.",
                  {{"item", "Item", false, 2}, {"class", "Class", false, 2}, {"count", "Count", true}},
                  {}};
    for (const ItemPtr& i : c.site().items)
        for (const LedgerEntry& e : i->ledger)
            if (e.active && e.to_class)
                classes.rows.push_back({{i->name}, {kind_of(e)}, count_cell(e.count())});
    if (!classes.rows.empty()) c.add(std::move(classes));
}

void make_pictures(Context& c) {
    if (!c.material.draw) {
        c.say("Pictures were not asked for.");
        return;
    }
    const auto most = static_cast<std::size_t>(c.part.number("most", 30));
    std::vector<std::pair<ItemPtr, const LedgerEntry*>> all;
    for (const ItemPtr& i : c.site().items)
        for (const LedgerEntry& e : i->ledger)
            if (e.active && e.edit == 0 && !e.elements->empty()) all.emplace_back(i, &e);
    const std::size_t count = all.size();
    // The largest, in the order of the ledger.
    if (count > most) {
        std::stable_sort(all.begin(), all.end(),
                         [](const auto& a, const auto& b) { return a.second->count() > b.second->count(); });
        all.resize(most);
        std::stable_sort(all.begin(), all.end(),
                         [](const auto& a, const auto& b) { return a.second->when < b.second->when; });
        c.say(fmt::format("The {} largest of {} decisions in force are shown.", most, count));
    }
    if (all.empty()) c.say("No decision is in force that took anything.");
    for (std::size_t k = 0; k < all.size(); ++k) {
        c.progress.advance(static_cast<double>(k) / static_cast<double>(all.size()));
        picture_of(c, *all[k].first, *all[k].second, number_of(c.site(), all[k].second));
    }
}

void make_rules(Context& c) {
    bool any = false;
    for (const ItemPtr& i : c.site().items)
        for (const LedgerEntry& e : i->ledger) {
            if (!e.active) continue;
            std::vector<score::Step> rules;
            for (const site::Act& a : e.cause.acts) rules_in(a, rules);
            for (const score::Step& step : rules) {
                add_rule(c, *i, e, step);
                any = true;
            }
        }
    if (!any) c.say("No decision in force was made by a rule.");
}

void make_ledger(Context& c) {
    Table t{"ledger",
            "Every decision, in the order of items.",
            {{"number", "No.", true},
             {"item", "Item", false, 1.5},
             {"reason", "Reason", false, 1.5},
             {"what", "What was done, and by what", false, 4},
             {"who", "Person"},
             {"when", "Time"},
             {"count", "Count", true}},
            {}};
    std::size_t number = 0;
    for (const ItemPtr& i : c.site().items)
        for (const LedgerEntry& e : i->ledger) {
            const std::string how = told_cause(c.site(), *i, e.cause);
            Cell reason{e.reason.empty() ? "no reason given" : e.reason};
            if (e.picture && c.wants_pictures())
                reason.picture = std::make_shared<const Image>(as_image(*e.picture));
            ++number;
            t.rows.push_back(
                {{std::to_string(number), static_cast<double>(number), {}},
                 {i->name},
                 std::move(reason),
                 {kind_of(e) + (e.active ? "" : ", lifted") + ": " + (how.empty() ? "not known" : how)},
                 {e.who.empty() ? "not known" : e.who},
                 {short_time(e.when)},
                 count_cell(e.count())});
        }
    if (t.rows.empty())
        c.say("Nothing was decided.");
    else
        c.add(std::move(t));
}

}  // namespace pristine::report
