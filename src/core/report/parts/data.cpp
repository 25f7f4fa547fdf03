// Who and for whom, the files, how items were moved, and what was not looked at.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <set>

#include "core/base/checksum.h"
#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/io/reference/system.h"
#include "core/report/parts/context.h"
#include "core/site/heights.h"
#include "core/site/making.h"
#include "core/site/origin_file.h"

namespace pristine::report {
namespace {

namespace fs = std::filesystem;
using site::Item;
using site::ItemPtr;

std::string told_unit(const std::string& id) {
    if (id.empty()) return "not stated";
    return id == kDegrees ? "degrees" : length_unit(id).title;
}

std::string told_system(const cloud::Reference& r) {
    if (r.crs.empty()) return "not stated";
    const io::System system = io::system_of(r.crs);
    return system.name.empty() ? "a definition that is not understood" : system.title();
}

std::string names_of(const std::vector<ItemPtr>& items) {
    std::string out;
    for (const ItemPtr& i : items) out += (out.empty() ? "" : ", ") + i->name;
    return out;
}

// The files, each with the items that came from it, in order.
std::vector<std::pair<std::string, std::vector<ItemPtr>>> files_of(const site::Site& s) {
    std::vector<std::pair<std::string, std::vector<ItemPtr>>> out;
    for (const ItemPtr& i : s.items) {
        const std::string file = site::origin_file(*i).string();
        if (file.empty()) continue;
        const auto it = std::find_if(out.begin(), out.end(), [&](const auto& f) { return f.first == file; });
        if (it == out.end())
            out.push_back({file, {i}});
        else
            it->second.push_back(i);
    }
    return out;
}

void add_surveys(Context& c) {
    if (c.site().surveys.empty()) return;
    const Shown shown(c.site(), site::reference_of(c.site()));
    Table t{"surveys",
            "Surveys: one standard deviation of a height by itself, and of all heights together.",
            {{"name", "Survey"},
             {"date", "Date"},
             {"method", "Method", false, 2},
             {"noise", "By itself" + shown.behind(), true},
             {"systematic", "Together" + shown.behind(), true}},
            {}};
    for (const site::Survey& v : c.site().surveys) {
        const auto sigma = [&](double x) { return x > 0 ? shown.deviation(x) : Cell{"not stated"}; };
        t.rows.push_back({{v.name},
                          {v.date.empty() ? "not stated" : v.date},
                          {v.method.empty() ? "not stated" : v.method},
                          sigma(v.noise),
                          sigma(v.systematic)});
    }
    c.add(std::move(t));
}

// Rotation about the axes of a 4 x 4 by rows, its shift and its scale.
void add_move(Table& t, const Item& i, const Shown& shown) {
    const auto& m = i.placement;
    if (m.size() != 16) return;
    const double scale =
        std::cbrt(std::fabs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) +
                            m[2] * (m[4] * m[9] - m[5] * m[8])));
    const double trace = (m[0] + m[5] + m[10]) / (scale > 0 ? scale : 1);
    const double angle = std::acos(std::clamp((trace - 1) / 2, -1.0, 1.0)) * 180 / std::numbers::pi;
    t.rows.push_back({{i.name},
                      shown.length(m[3], 1),
                      shown.length(m[7], 1),
                      shown.length(m[11], 1),
                      {figure(angle, 4), angle, "°"},
                      {figure(scale, 7), scale, {}},
                      {i.placed_by.empty() ? "not stated" : i.placed_by}});
}

class Limits {
  public:
    explicit Limits(Context& c) : c_(c) {}

    void say_all() {
        units();
        decisions();
        surfaces();
        meshes();
        sources();
        makings();
        c_.say(
            "Distances, areas and volumes are grid values of the coordinates: no scale factor of a map "
            "projection, no "
            "correction for height and no curvature of the earth is applied.");
        c_.say(
            "This report says what was decided and measured with the items named in it. It does not say that "
            "nothing else "
            "was on the site, nor that the instruments were checked.");
        left_out();
    }

  private:
    void units() {
        std::vector<ItemPtr> no_unit, no_system, other;
        for (const ItemPtr& i : c_.site().items) {
            if (i->cloud->unit().empty()) no_unit.push_back(i);
            if (i->cloud->crs().empty()) no_system.push_back(i);
            if (site::differs_from_site(c_.site(), *i)) other.push_back(i);
        }
        if (!no_unit.empty())
            warn("No unit is stated for " + names_of(no_unit) + ": figures of it are those of the file.");
        if (!no_system.empty())
            c_.say("No reference system is stated for " + names_of(no_system) +
                   ": whether it lies where it should was not checked.");
        if (!other.empty()) warn("Another unit or system than the site's: " + names_of(other) + ".");
    }

    void decisions() {
        std::uint64_t lifted = 0, unknown = 0;
        std::vector<ItemPtr> hidden;
        for (const ItemPtr& i : c_.site().items) {
            if (!i->visible) hidden.push_back(i);
            for (const site::LedgerEntry& e : i->ledger) {
                lifted += e.active ? 0 : 1;
                unknown += e.cause.empty() ? 1 : 0;
            }
        }
        if (lifted > 0)
            c_.say(counted(lifted, "decision was", "decisions were") + " lifted again and are not in force.");
        if (unknown > 0)
            c_.say("Of " + counted(unknown, "decision", "decisions") +
                   " it is not known with which tool it was made.");
        if (!hidden.empty()) c_.say("Not shown, and so not in the pictures: " + names_of(hidden) + ".");
        if (c_.site().selection.empty()) return;
        c_.say("Something is selected and not decided: " +
               counted(c_.site().selected(), "element", "elements") + ".");
    }

    void surfaces() {
        std::vector<ItemPtr> no_date, thinned;
        bool estimated = false;
        for (const ItemPtr& i : c_.site().items) {
            if (i->role != site::ItemRole::Terrain) continue;
            if (site::date_of(c_.site(), *i).empty()) no_date.push_back(i);
            if (i->thinned > 0) thinned.push_back(i);
            estimated = estimated || !(site::heights_of(c_.site(), *i).noise > 0);
        }
        if (!no_date.empty()) c_.say("No date is stated for " + names_of(no_date) + ".");
        for (const ItemPtr& i : thinned) {
            const Shown shown(c_.site(), i->cloud->reference());
            c_.say(i->name + " is thinned: heights that were left out are off by up to " +
                   shown.text_of(shown.deviation(i->thinned)) + ".");
        }
        if (estimated)
            c_.say(
                "Where a survey states no standard deviation of heights it is estimated from the surface "
                "itself. Such an "
                "estimate knows nothing of errors that all heights share, such as the datum.");
    }

    void meshes() {
        std::vector<ItemPtr> all;
        for (const ItemPtr& i : c_.site().items)
            if (i->role == site::ItemRole::Mesh || i->role == site::ItemRole::Lining) all.push_back(i);
        const bool checked = std::any_of(c_.setup.parts.begin(), c_.setup.parts.end(),
                                         [](const PartSetup& p) { return p.kind == "checks" && p.on; });
        if (!all.empty() && !checked)
            c_.say("These meshes were not checked for faults here: " + names_of(all) + ".");
    }

    void sources() {
        std::vector<std::string> gone;
        for (const auto& [file, items] : files_of(c_.site())) {
            std::error_code ignored;
            if (!fs::is_regular_file(file, ignored)) gone.push_back(fs::path(file).filename().string());
        }
        if (!gone.empty())
            warn("Not found, so without a checksum: " + fmt::format("{}", fmt::join(gone, ", ")) + ".");
    }

    void makings() {
        std::set<std::string> said;
        for (const site::Making& m : c_.site().makings) {
            if (!site::is_stale(c_.site(), m)) continue;
            const ItemPtr item = c_.site().item(m.item);
            const std::string what = item ? item->name : m.group;
            if (said.insert(what).second)
                warn(what + " is out of date: " + site::why_stale(c_.site(), m) + " since.");
        }
    }

    void left_out() {
        std::string all;
        for (const PartSetup& p : c_.setup.parts) {
            if (p.on) continue;
            const std::string title = p.title.empty() ? part_kind(p.kind).title : p.title;
            all += (all.empty() ? "" : "; ") + title;
        }
        if (!all.empty()) c_.say("Left out of this report by choice: " + all + ".");
    }

    void warn(const std::string& text) {
        c_.say(text, Paragraph::Kind::Warning);
        c_.warnings.push_back(text);
    }
    Context& c_;
};

}  // namespace

void make_site(Context& c) {
    const site::Site& s = c.site();
    const cloud::Reference r = site::reference_of(s);
    Table t{"site",
            "What this report is about.",
            {{"what", "What", false, 1}, {"value", "As stated", false, 3}},
            {}};
    const auto row = [&](const char* what, const std::string& value) {
        t.rows.push_back({{what}, {value.empty() ? "not stated" : value}});
    };
    row("Site", s.name);
    row("Place", c.setup.place);
    row("Client", c.setup.client);
    row("Office", c.setup.office);
    row("Surveyor", c.setup.surveyor);
    row("Method", c.setup.method);
    row("Unit of the data", told_unit(r.unit));
    if (!r.height_unit.empty()) row("Unit of heights", told_unit(r.height_unit));
    if (!s.unit.empty() && s.unit != r.unit) row("Unit of figures", told_unit(s.unit));
    row("Reference system", told_system(r));
    row("Project",
        c.material.project.empty() ? "not saved" : fs::path(c.material.project).filename().string());
    row("Written", c.material.date + ", with " + c.material.program);
    c.add(std::move(t));
    add_surveys(c);
}

void make_sources(Context& c) {
    Table t{"sources",
            "Files as they were when this report was written.",
            {{"file", "File", false, 2},
             {"items", "Items", false, 2},
             {"bytes", "Bytes", true},
             {"sha256", "SHA-256", false, 3}},
            {}};
    const auto files = files_of(c.site());
    for (std::size_t k = 0; k < files.size(); ++k) {
        const auto& [file, items] = files[k];
        const Progress::Part part(c.progress, static_cast<double>(k) / static_cast<double>(files.size()),
                                  static_cast<double>(k + 1) / static_cast<double>(files.size()),
                                  "Checksums");
        std::error_code fault;
        const bool there = fs::is_regular_file(file, fault);
        const std::uint64_t bytes = there ? fs::file_size(file, fault) : 0;
        t.rows.push_back({{fs::path(file).filename().string()},
                          {names_of(items)},
                          there ? count_cell(bytes) : Cell{"not found"},
                          {there ? sha256_of_file(file, c.progress) : "not found"}});
    }
    std::vector<ItemPtr> made;
    for (const ItemPtr& i : c.site().items)
        if (site::origin_file(*i).string().empty()) made.push_back(i);
    if (t.rows.empty())
        c.say("No item of the site names a file that it came from.");
    else
        c.add(std::move(t));
    for (const ItemPtr& i : made)
        c.say(i->name + ": " + (i->origin.empty() ? "its origin is not stated" : i->origin) + ".");
}

void make_placement(Context& c) {
    const Shown shown(c.site(), site::reference_of(c.site()));
    Table t{"placement",
            "How items were moved from where their files have them: shift, turn about one axis, scale.",
            {{"item", "Item", false, 2},
             {"east", "East" + shown.behind(), true},
             {"north", "North" + shown.behind(), true},
             {"up", "Up" + shown.behind(), true},
             {"turn", "Turn, °", true},
             {"scale", "Scale", true},
             {"rests_on", "Rests on, and residuals", false, 3}},
            {}};
    Table f{"features",
            "Fitted to parts of items: root mean square distance of the places from each.",
            {{"item", "Item", false, 2},
             {"name", "Feature", false, 2},
             {"places", "Places", true},
             {"rms", "RMS" + shown.behind(), true},
             {"radius", "Radius" + shown.behind(), true}},
            {}};
    for (const ItemPtr& i : c.site().items) {
        const Shown own(c.site(), i->cloud->reference());
        add_move(t, *i, own);
        for (const Feature& x : i->features)
            f.rows.push_back({{i->name},
                              {x.name},
                              count_cell(x.places),
                              own.deviation(x.rms),
                              x.radius > 0 ? own.length(x.radius, 1) : Cell{"none"}});
    }
    if (t.rows.empty() && f.rows.empty()) c.say("No item was moved, and no feature was fitted.");
    if (!t.rows.empty()) c.add(std::move(t));
    if (!f.rows.empty()) c.add(std::move(f));
}

void make_limits(Context& c) {
    Limits(c).say_all();
}

}  // namespace pristine::report
