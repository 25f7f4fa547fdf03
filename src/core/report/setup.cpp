#include "core/report/setup.h"

#include <glib.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/error.h"
#include "core/site/cause.h"

namespace pristine::report {
namespace {

using nlohmann::json;
using site::Item;
using site::ItemPtr;
using site::Site;

std::vector<ItemPtr> of_role(const Site& s, site::ItemRole role) {
    std::vector<ItemPtr> out;
    for (const ItemPtr& i : s.items)
        if (i->role == role) out.push_back(i);
    return out;
}

bool any_rule(const site::Act& a) {
    return a.rule || std::any_of(a.parts.begin(), a.parts.end(), any_rule);
}

bool any_entry(const Site& s, const std::function<bool(const site::LedgerEntry&)>& is) {
    for (const ItemPtr& i : s.items)
        if (std::any_of(i->ledger.begin(), i->ledger.end(), is)) return true;
    return false;
}

std::vector<std::uint64_t> closed_lines(const Site& s, LineRole role) {
    std::vector<std::uint64_t> out;
    for (const site::LinePtr& l : s.lines)
        if (l->closed && l->role == role && l->visible && l->group.empty()) out.push_back(l->id);
    return out;
}

Box3 plan_box(const site::Line& l) {
    Box3 box;
    for (const Vec3& p : l.points) box.add(Vec3{p.x, p.y, 0});
    return box;
}

// Of all pages, without looking into them.
Box3 plan_box(const Item& i) {
    Box3 box;
    const cloud::PointCloud& c = *i.cloud;
    for (std::size_t p = 0; p < c.page_count(); ++p)
        for (const auto& at : {c.info(p).bounds.lo, c.info(p).bounds.hi}) {
            const Vec3 w = c.grid().world(at[0], at[1], at[2]);
            box.add(Vec3{w.x, w.y, 0});
        }
    return box;
}

// Whether a line runs over an item at all.
bool meet(const site::Line& l, const Item& i) {
    const Box3 a = plan_box(l), b = plan_box(i);
    return !a.empty() && !b.empty() && a.lo.x <= b.hi.x && b.lo.x <= a.hi.x && a.lo.y <= b.hi.y &&
           b.lo.y <= a.hi.y;
}

// The boundary round all others; none where they lie beside each other: then surfaces are compared whole. Of
// several alike the last, which a person brought after those of the surfaces' own files.
std::vector<std::uint64_t> boundary_of(const Site& s) {
    const std::vector<std::uint64_t> all = closed_lines(s, LineRole::Boundary);
    for (auto it = all.rbegin(); it != all.rend(); ++it) {
        const Box3 box = plan_box(*s.line(*it));
        const bool round_all = std::all_of(all.begin(), all.end(), [&](std::uint64_t other) {
            const Box3 b = plan_box(*s.line(other));
            const double hair = 1e-6 * box.diagonal();
            return b.lo.x >= box.lo.x - hair && b.lo.y >= box.lo.y - hair && b.hi.x <= box.hi.x + hair &&
                   b.hi.y <= box.hi.y + hair;
        });
        if (round_all) return {*it};
    }
    return {};
}

// The earlier and the later of terrain surfaces that follow each other.
std::vector<std::pair<ItemPtr, ItemPtr>> dated_pairs(const Site& s) {
    std::vector<ItemPtr> all = of_role(s, site::ItemRole::Terrain);
    std::erase_if(all, [](const ItemPtr& i) { return !i->visible; });
    std::stable_sort(all.begin(), all.end(), [&](const ItemPtr& a, const ItemPtr& b) {
        return site::date_of(s, *a) < site::date_of(s, *b);
    });
    std::vector<std::pair<ItemPtr, ItemPtr>> out;
    for (std::size_t k = 1; k < all.size(); ++k) {
        const auto &a = all[k - 1]->cloud, &b = all[k]->cloud;
        if (a->unit() == b->unit() && a->height_unit() == b->height_unit())
            out.emplace_back(all[k - 1], all[k]);
    }
    return out;
}

PartSetup part(const char* kind, bool on = true) {
    PartSetup p;
    p.kind = kind;
    p.on = on;
    return p;
}

void propose_surfaces(const Site& s, Setup& out) {
    const auto terrain = of_role(s, site::ItemRole::Terrain);
    if (!terrain.empty()) {
        PartSetup p = part("surfaces");
        for (const ItemPtr& i : terrain) p.items.push_back(i->id);
        out.parts.push_back(std::move(p));
    }
    const std::vector<std::uint64_t> bounds = boundary_of(s), areas = closed_lines(s, LineRole::Free);
    const auto pairs = dated_pairs(s);
    for (const auto& [earlier, later] : pairs) {
        PartSetup p = part("change");
        p.title = "Change from " + earlier->name + " to " + later->name;
        p.items = {earlier->id, later->id};
        p.lines = bounds;
        p.lines.insert(p.lines.end(), areas.begin(), areas.end());
        out.parts.push_back(std::move(p));
    }
    if (!areas.empty() && !terrain.empty()) {
        PartSetup p = part("piles", pairs.empty());
        p.items = {terrain.back()->id};
        p.lines = areas;
        out.parts.push_back(std::move(p));
    }
    if (!terrain.empty()) {
        PartSetup p = part("contours", false);
        p.items = {terrain.back()->id};
        out.parts.push_back(std::move(p));
    }
    for (const site::LinePtr& l : s.lines) {
        if (l->role != LineRole::Axis || terrain.empty() || !meet(*l, *terrain.back())) continue;
        PartSetup p = part("sections");
        p.title = "Sections along " + l->name;
        p.lines = {l->id};
        if (pairs.empty())
            p.items = {terrain.back()->id};
        else
            p.items = {pairs.back().first->id, pairs.back().second->id};
        out.parts.push_back(std::move(p));
    }
}

void propose_tunnel(const Site& s, Setup& out) {
    for (const site::LinePtr& l : s.lines) {
        if (l->role != LineRole::Axis || l->points.size() < 2) continue;
        for (const ItemPtr& i : s.items) {
            if (i->role != site::ItemRole::Points || !i->visible || !meet(*l, *i)) continue;
            PartSetup p = part("tunnel", of_role(s, site::ItemRole::Terrain).empty());
            p.title = "Tunnel along " + l->name;
            p.items = {i->id};
            p.lines = {l->id};
            out.parts.push_back(std::move(p));
            break;
        }
    }
}

json json_of_part(const PartSetup& p) {
    json j{{"kind", p.kind}, {"on", p.on}};
    if (!p.title.empty()) j["title"] = p.title;
    if (!p.note.empty()) j["note"] = p.note;
    if (!p.items.empty()) j["items"] = p.items;
    if (!p.lines.empty()) j["lines"] = p.lines;
    if (!p.numbers.empty()) j["numbers"] = p.numbers;
    if (!p.words.empty()) j["words"] = p.words;
    return j;
}

PartSetup part_from(const json& j) {
    PartSetup p;
    p.kind = j.at("kind").get<std::string>();
    part_kind(p.kind);
    p.on = j.value("on", true);
    p.title = j.value("title", "");
    p.note = j.value("note", "");
    p.items = j.value("items", p.items);
    p.lines = j.value("lines", p.lines);
    p.numbers = j.value("numbers", p.numbers);
    p.words = j.value("words", p.words);
    if (part_kind(p.kind).always) p.on = true;
    return p;
}

json json_of_page(const PageForm& f) {
    return {{"size", f.size}, {"landscape", f.landscape}, {"left", f.left}, {"right", f.right},
            {"top", f.top},   {"bottom", f.bottom}};
}

PageForm page_from(const json& j) {
    PageForm f;
    f.size = j.value("size", f.size);
    f.landscape = j.value("landscape", f.landscape);
    f.left = j.value("left", f.left);
    f.right = j.value("right", f.right);
    f.top = j.value("top", f.top);
    f.bottom = j.value("bottom", f.bottom);
    return f;
}

// Whether two parts are about the same.
bool same_subject(const PartSetup& a, const PartSetup& b) {
    return a.kind == b.kind && a.items == b.items &&
           (a.kind == "change" || a.kind == "piles" || a.lines == b.lines);
}

bool all_there(const PartSetup& p, const Site& s) {
    return std::all_of(p.items.begin(), p.items.end(),
                       [&](std::uint64_t id) { return s.item(id) != nullptr; }) &&
           std::all_of(p.lines.begin(), p.lines.end(),
                       [&](std::uint64_t id) { return s.line(id) != nullptr; });
}

}  // namespace

double PartSetup::number(const std::string& name, double usual) const {
    const auto it = numbers.find(name);
    return it == numbers.end() ? usual : it->second;
}

std::string PartSetup::word(const std::string& name, const std::string& usual) const {
    const auto it = words.find(name);
    return it == words.end() ? usual : it->second;
}

const std::vector<PartKind>& part_kinds() {
    static const std::vector<PartKind> kinds{
        {"site", "Site, client, surveyor", "Who did what for whom, in which unit and system.", false},
        {"sources", "Sources and checksums", "The files that everything rests on, with SHA-256.", false},
        {"removed", "What was removed, and why", "Counts before and after of each item, by reason.", false},
        {"pictures", "Before and after pictures", "Each decision from a stated viewpoint.", false},
        {"rules", "Rules and their limits", "Parameters, limits and histogram of each rule that decided.",
         false},
        {"checks", "Checks and repairs", "What is wrong with meshes now, and what repairs changed.", false},
        {"placement", "Placement and residuals", "How items were moved, and what that rests on.", false},
        {"plan", "Plan of the site", "What is shown, from above and at a true scale, with its lines.", false},
        {"view", "View of the site", "What is shown, from a stated direction.", false},
        {"surfaces", "Areas and heights", "Areas and extent of each surface.", false},
        {"change", "Change", "Cut and fill between two dates, with map and work areas.", false},
        {"piles", "Stockpiles", "Volume, mass and base of each closed line.", false},
        {"contours", "Contours", "A plan with lines of equal height.", false},
        {"sections", "Sections", "Sections across a line at an interval.", false},
        {"tunnel", "Tunnel by stretches", "What the lining encloses, by chainage.", false},
        {"marks", "Measurements", "What was measured by hand and kept.", false},
        {"limits", "What was not checked", "What this report does not say. It cannot be left out.", true},
        {"ledger", "Every entry of the ledger", "Each decision with tool, person, time and count.", false},
    };
    return kinds;
}

const PartKind& part_kind(const std::string& id) {
    std::string all;
    for (const PartKind& k : part_kinds()) {
        if (id == k.id) return k;
        all += (all.empty() ? "" : ", ") + std::string(k.id);
    }
    throw Error(ErrorCode::Usage, "'" + id + "' is no part of a report", {}, "There are: " + all + ".");
}

Setup proposed(const Site& s) {
    Setup out;
    out.parts = {part("site"), part("sources")};
    const bool decided = any_entry(s, [](const site::LedgerEntry&) { return true; });
    // That nothing was removed, of how many, is said too.
    if (!s.items.empty()) out.parts.push_back(part("removed"));
    if (decided) out.parts.push_back(part("pictures"));
    if (any_entry(s, [](const site::LedgerEntry& e) {
            return std::any_of(e.cause.acts.begin(), e.cause.acts.end(), any_rule);
        }))
        out.parts.push_back(part("rules"));
    if (!of_role(s, site::ItemRole::Mesh).empty() ||
        any_entry(s, [](const site::LedgerEntry& e) { return e.made != nullptr; }))
        out.parts.push_back(part("checks"));
    if (std::any_of(s.items.begin(), s.items.end(),
                    [](const ItemPtr& i) { return !i->placement.empty() || !i->features.empty(); }))
        out.parts.push_back(part("placement"));
    if (std::any_of(s.items.begin(), s.items.end(), [](const ItemPtr& i) { return i->visible; })) {
        out.parts.push_back(part("plan", false));
        out.parts.push_back(part("view", false));
    }
    propose_surfaces(s, out);
    propose_tunnel(s, out);
    if (!s.marks.empty()) out.parts.push_back(part("marks"));
    out.parts.push_back(part("limits"));
    if (decided) out.parts.push_back(part("ledger"));
    return out;
}

Setup by_template(const Setup& templ, const Site& s) {
    Setup found = proposed(s), out = templ;
    out.parts.clear();
    for (const PartSetup& t : templ.parts)
        for (PartSetup& f : found.parts) {
            if (f.kind != t.kind) continue;
            PartSetup p = f;
            p.on = t.on;
            p.note = t.note;
            // A title that names other items is not this site's.
            if (t.items.empty() && t.lines.empty()) p.title = t.title;
            p.words = t.words;
            for (const auto& [name, value] : t.numbers) p.numbers[name] = value;
            out.parts.push_back(std::move(p));
            f.kind.clear();
        }
    for (PartSetup& f : found.parts) {
        if (f.kind.empty()) continue;
        f.on = part_kind(f.kind).always;
        out.parts.push_back(std::move(f));
    }
    return out;
}

Setup with_parts(Setup setup, const std::vector<std::string>& kinds) {
    std::vector<PartSetup> ordered;
    for (const std::string& kind : kinds) {
        part_kind(kind);
        const std::size_t before = ordered.size();
        for (const PartSetup& p : setup.parts) {
            if (p.kind != kind) continue;
            ordered.push_back(p);
            ordered.back().on = true;
        }
        if (ordered.size() == before)
            throw Error(ErrorCode::Empty, "There is nothing on the site for the part '" + kind + "'");
    }
    for (PartSetup& p : setup.parts) {
        if (std::find(kinds.begin(), kinds.end(), p.kind) != kinds.end()) continue;
        p.on = part_kind(p.kind).always;
        ordered.push_back(std::move(p));
    }
    setup.parts = std::move(ordered);
    return setup;
}

Setup on_site(Setup setup, const Site& s) {
    for (PartSetup& p : setup.parts)
        if (p.kind == "change" || p.kind == "piles")
            std::erase_if(p.lines, [&](std::uint64_t id) { return s.line(id) == nullptr; });
    std::erase_if(setup.parts, [&](const PartSetup& p) { return !all_there(p, s); });
    for (PartSetup& f : proposed(s).parts) {
        const auto same = std::find_if(setup.parts.begin(), setup.parts.end(),
                                       [&](const PartSetup& p) { return same_subject(p, f); });
        if (same != setup.parts.end()) {
            same->lines = f.lines;  // lines that came or went since
            continue;
        }
        f.on = part_kind(f.kind).always;
        setup.parts.push_back(std::move(f));
    }
    return setup;
}

std::string json_of(const Setup& s) {
    json j{{"version", 1}, {"page", json_of_page(s.page)}, {"parts", json::array()}};
    const auto put = [&](const char* name, const std::string& text) {
        if (!text.empty()) j[name] = text;
    };
    put("title", s.title);
    put("client", s.client);
    put("place", s.place);
    put("method", s.method);
    put("office", s.office);
    put("surveyor", s.surveyor);
    if (!s.logo.empty()) {
        gchar* text = g_base64_encode(reinterpret_cast<const guchar*>(s.logo.data()), s.logo.size());
        j["logo"] = std::string(text);
        g_free(text);
    }
    for (const PartSetup& p : s.parts) j["parts"].push_back(json_of_part(p));
    return j.dump(1) + "\n";
}

Setup setup_from_json(const std::string& text) {
    try {
        const json j = json::parse(text);
        if (j.value("version", 1) > 1)
            throw Error(ErrorCode::Unsupported,
                        "The setup of the report was made by a later version of this program");
        Setup s;
        s.title = j.value("title", "");
        s.client = j.value("client", "");
        s.place = j.value("place", "");
        s.method = j.value("method", "");
        s.office = j.value("office", "");
        s.surveyor = j.value("surveyor", "");
        if (const std::string logo = j.value("logo", ""); !logo.empty()) {
            gsize length = 0;
            guchar* bytes = g_base64_decode(logo.c_str(), &length);
            s.logo.assign(reinterpret_cast<const char*>(bytes), length);
            g_free(bytes);
        }
        s.page = page_from(j.value("page", json::object()));
        sheet_of(s.page);
        if (!j.at("parts").is_array()) throw Error(ErrorCode::Format, "The parts of the report are no list");
        for (const json& p : j.at("parts")) s.parts.push_back(part_from(p));
        return s;
    } catch (const json::exception& e) {
        throw Error(ErrorCode::Format, std::string("The setup of the report is damaged: ") + e.what());
    }
}

}  // namespace pristine::report
