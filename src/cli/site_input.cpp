#include "cli/site_input.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/base/file.h"
#include "core/site/item_classes.h"
#include "core/store/project.h"
#include "render/report_pictures.h"

namespace pristine::cli {
namespace {

namespace fs = std::filesystem;

GivenSite from_project(const std::string& path, Progress& progress) {
    const auto project = store::Project::open(path, store::Project::Access::Read);
    GivenSite out;
    out.site = project->load(progress).now();
    out.project = path;
    out.setup = project->note(report::kSetupNote);
    out.templates = project->note(report::kTemplatesNote);
    return out;
}

std::string free_name(const site::Site& s, const std::string& wanted) {
    std::string name = wanted;
    const auto taken = [&] {
        return std::any_of(s.items.begin(), s.items.end(),
                           [&](const site::ItemPtr& i) { return i->name == name; });
    };
    for (int k = 2; taken(); ++k) name = fmt::format("{} ({})", wanted, k);
    return name;
}

site::SitePtr with_file(site::SitePtr s, const std::string& input, const Common& common, Progress& progress) {
    for (const io::ReadResult& r : read_inputs(input, common, progress)) {
        const std::string name = free_name(*s, r.name.empty() ? fs::path(input).stem().string() : r.name);
        s = site::add_cloud(*s, r.cloud, name,
                            fs::absolute(input).lexically_normal().string() + " (" + r.format + ")");
        const std::uint64_t id = s->items.back()->id;
        if (r.thinned > 0) s = site::set_thinned(*s, id, r.thinned);
    }
    return s;
}

site::SitePtr with_lines(const site::Site& s, const std::vector<std::string>& files) {
    std::vector<site::Line> lines;
    for (const std::string& file : files) {
        std::size_t number = 0;
        for (const io::MapLine& l : read_lines_in(file, site::reference_of(s))) {
            site::Line line;
            const std::string stem = fs::path(file).stem().string();
            line.name = !l.layer.empty() ? l.layer
                        : number == 0    ? stem
                                         : fmt::format("{} {}", stem, number + 1);
            ++number;
            line.points = l.points;
            line.closed = l.closed;
            line.role = l.role ? *l.role : role_in_name(line.name, l.closed);
            // A line by itself that is not closed and says nothing is one to go along.
            if (line.role == LineRole::Free && !line.closed) line.role = LineRole::Axis;
            lines.push_back(std::move(line));
        }
    }
    return site::put_lines(s, std::move(lines));
}

// Dates in the order of the items; a name may hold one.
site::SitePtr with_dates(site::SitePtr s, const std::vector<std::string>& dates) {
    for (std::size_t k = 0; k < s->items.size(); ++k) {
        const std::string date = k < dates.size() ? dates[k] : site::date_in(s->items[k]->name);
        if (!date.empty()) s = site::set_date(*s, s->items[k]->id, date);
    }
    return s;
}

site::SitePtr cleaned(site::SitePtr s, const score::Recipe& recipe, Progress& progress) {
    for (std::size_t k = 0; k < s->items.size(); ++k) {
        const site::ItemPtr item = s->items[k];
        if (item->cloud->triangles()) continue;
        for (const score::Removal& r :
             score::run(recipe, *item->cloud, ElementSet::all(item->cloud->size()), progress)) {
            if (r.elements.empty()) continue;
            const site::Parts parts{{item->id, std::make_shared<const ElementSet>(r.elements)}};
            site::Decision d;
            d.reason = r.reason;
            d.cause = site::by_rule(r.step);
            s = r.step.to_class ? site::class_parts(*s, parts, *r.step.to_class, d)
                                : site::remove_parts(*s, parts, d);
        }
    }
    return s;
}

}  // namespace

GivenSite read_site(const SiteRequest& r, Progress& progress) {
    const bool project = std::any_of(r.inputs.begin(), r.inputs.end(), [](const std::string& i) {
        return fs::path(i).extension() == ".pristine";
    });
    if (project) {
        if (r.inputs.size() > 1 || !r.lines.empty() || !r.recipe.empty() || !r.dates.empty())
            throw Error(ErrorCode::Usage, "A project stands for itself", {},
                        "Give no other inputs, lines, dates or recipe with it.");
        return from_project(r.inputs.front(), progress);
    }
    GivenSite out;
    auto empty = std::make_shared<site::Site>();
    empty->name = r.name.empty() ? fs::absolute(r.inputs.front()).parent_path().filename().string() : r.name;
    site::SitePtr s = empty;
    for (std::size_t k = 0; k < r.inputs.size(); ++k) {
        const auto n = static_cast<double>(r.inputs.size());
        const Progress::Part part(progress, 0.5 * static_cast<double>(k) / n,
                                  0.5 * static_cast<double>(k + 1) / n, "Reading");
        s = with_file(s, r.inputs[k], r.common, progress);
    }
    if (r.dates.size() > s->items.size())
        throw Error(ErrorCode::Usage,
                    fmt::format("There are {} dates for {} items", r.dates.size(), s->items.size()));
    s = with_dates(s, r.dates);
    if (!r.lines.empty()) s = with_lines(*s, r.lines);
    if (!r.recipe.empty()) {
        const Progress::Part part(progress, 0.5, 1, "Rules");
        const InputFile file(r.recipe);
        out.recipe = file.read_string(0, file.size());
        s = cleaned(s, score::recipe_from_json(out.recipe), progress);
    }
    out.site = s;
    return out;
}

void add_site_input(CLI::App& app, SiteRequest& r) {
    reads(app.add_option("IN", r.inputs, "A project, or clouds, meshes and surfaces"), r.common)->required();
    reads(app.add_option("--lines", r.lines, "Files of lines: boundaries, work areas, axes"), r.common);
    app.add_option("--date", r.dates,
                   "When each item was surveyed, in order: 2026-11-25; usual: what its name says");
    reads(app.add_option("--recipe", r.recipe, "Rules that clean the clouds first"), r.common);
    app.add_option("--name", r.name, "Of the site; usual: that of the folder");
    add_common(app, r.common, true, true);
}

void apply_setting(report::Setup& setup, const std::string& text) {
    const auto dot = text.find('.'), equals = text.find('=');
    if (dot == std::string::npos || equals == std::string::npos || dot > equals)
        throw Error(ErrorCode::Usage, "'" + text + "' is no setting of a part", {},
                    "Write it as change.band=0.05.");
    const std::string kind = text.substr(0, dot), name = text.substr(dot + 1, equals - dot - 1),
                      value = text.substr(equals + 1);
    report::part_kind(kind);
    char* end = nullptr;
    const double number = std::strtod(value.c_str(), &end);
    const bool is_number = !value.empty() && *end == 0;
    bool any = false;
    for (report::PartSetup& p : setup.parts) {
        if (p.kind != kind) continue;
        any = true;
        if (is_number)
            p.numbers[name] = number;
        else
            p.words[name] = value;
    }
    if (!any)
        throw Error(ErrorCode::Empty, "There is nothing on the site that '" + text + "' could be set of");
}

report::Material material_of(const GivenSite& given) {
    report::Material m;
    m.site = given.site;
    m.project = given.project;
    m.program = "Pristine Cloud " PRISTINE_VERSION;
    m.date = today();
    m.draw = render::picture_of;
    return m;
}

report::Setup setup_of(const GivenSite& given) {
    return given.setup.empty() ? report::proposed(*given.site)
                               : report::on_site(report::setup_from_json(given.setup), *given.site);
}

std::string today() {
    return site::Signature::now().when.substr(0, 10);
}

}  // namespace pristine::cli
