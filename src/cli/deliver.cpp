// `pristine deliver`: all that leaves the office in one folder or zip; `pristine verify`: is it whole?

#include <fmt/format.h>

#include "cli/site_input.h"
#include "core/io/ending.h"
#include "core/report/deliverable.h"
#include "core/report/verify.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct DeliverRequest {
    SiteRequest site;
    std::string output, client, place, office, surveyor, method;
    std::vector<std::string> sheets, set;
    report::DeliverableSetup setup;
    bool no_report = false, no_removed = false, plan_only = false;
};

report::Setup report_of(const DeliverRequest& r, const GivenSite& given) {
    report::Setup s = setup_of(given);
    take_said(s.client, r.client);
    take_said(s.place, r.place);
    take_said(s.office, r.office);
    take_said(s.surveyor, r.surveyor);
    take_said(s.method, r.method);
    for (const std::string& text : r.set) apply_setting(s, text);
    return s;
}

json run(const DeliverRequest& r, Progress& progress) {
    GivenSite given;
    {
        const Progress::Part part(progress, 0, 0.3, "Reading");
        given = read_site(r.site, progress);
    }
    const report::Material m = material_of(given);
    report::DeliverableSetup setup = r.setup;
    setup.removed = !r.no_removed;
    setup.recipe = given.recipe;
    const report::Setup report = report_of(r, given);
    if (!r.no_report) setup.report = report;
    for (const std::string& kind : r.sheets) {
        report::SheetSetup s;
        s.part = report::with_parts(report, {kind}).parts.front();
        s.title = s.part.title.empty() ? report::part_kind(kind).title : s.part.title;
        s.client = report.client;
        s.place = report.place;
        s.office = report.office;
        s.surveyor = report.surveyor;
        s.logo = report.logo;
        setup.sheets.push_back(std::move(s));
    }
    if (r.plan_only) {
        json files = json::array();
        for (const auto& f : report::deliverable_plan(m, setup).files)
            files.push_back(
                {{"path", f.path}, {"role", f.role}, {"records", f.records}, {"not_held", f.lost}});
        return {{"output", r.output}, {"written", false}, {"files", files}};
    }
    const Progress::Part part(progress, 0.3, 1, "Writing");
    const json manifest = report::deliver(m, setup, r.output, r.site.common.force, progress);
    return {{"output", r.output},
            {"written", true},
            {"files", manifest.at("files")},
            {"items", manifest.at("items")}};
}

std::string told_deliverable(const json& j) {
    std::string text;
    for (const json& f : j.at("files")) {
        const std::uint64_t n = f.value("records", std::uint64_t{0});
        text += fmt::format("{:<48} {:<10} {}\n", f.at("path").get<std::string>(),
                            f.at("role").get<std::string>(), n > 0 ? fmt::format("{} records", n) : "");
    }
    return text + (j.at("written").get<bool>() ? "Written: " : "Would be written: ") +
           j.at("output").get<std::string>() + "\n";
}

void add_verify(CLI::App& app) {
    struct Request {
        std::string input, sources;
        Common common;
    };
    auto* sub = app.add_subcommand(
        "verify", "Checks a deliverable: checksums, counts, cleaned and removed against the source");
    auto r = std::make_shared<Request>();
    reads(sub->add_option("IN", r->input, "Folder or zip"), r->common)->required();
    sub->add_option("--sources", r->sources, "Folder with the files that it all came from");
    add_common(*sub, r->common, false, false);
    sub->callback([=] {
        report::Verified v;
        with_progress([&](Progress& p) { v = report::verify(r->input, r->sources, p); });
        const json j{{"sound", v.sound()},
                     {"problems", v.problems},
                     {"notes", v.notes},
                     {"files", v.files},
                     {"items", v.items},
                     {"against_source", v.against_source},
                     {"manifest_sha256", v.manifest_sha256}};
        std::string text;
        for (const std::string& p : v.problems) text += "Wrong: " + p + "\n";
        for (const std::string& n : v.notes) text += n + "\n";
        text += fmt::format(
            "{} files, {} items, {} compared with their source record for record\nSHA-256 of the manifest: "
            "{}\n{}\n",
            v.files, v.items, v.against_source, v.manifest_sha256,
            v.sound() ? "Nothing is wrong." : fmt::format("{} things are wrong.", v.problems.size()));
        print(r->common, j, text);
        if (!v.sound()) throw Error(ErrorCode::Format, "The deliverable is not what was written", r->input);
    });
}

}  // namespace

void add_deliver(CLI::App& app) {
    auto* sub =
        app.add_subcommand("deliver", "All that leaves the office in one folder or zip, with checksums");
    auto r = std::make_shared<DeliverRequest>();
    add_site_input(*sub, r->site);
    sub->add_option("-o,--output", r->output, "A folder, or a .zip")->required();
    sub->add_option("--points", r->setup.points,
                    "Format of clouds: las, laz, e57, …; usual: that of the source");
    add_las_options(*sub, r->setup.las, r->site.common);
    sub->add_flag("--source-classes", r->setup.source_classes,
                  "Classes as the sources have them, not as they were decided");
    sub->add_option("--meshes", r->setup.meshes, "Format of meshes; usual: ply");
    sub->add_option("--surfaces", r->setup.surfaces,
                    "Format of surfaces; usual: xml (LandXML, with breaklines)");
    sub->add_option("--line-format", r->setup.lines, "Format of lines; usual: geojson");
    sub->add_flag("--merged", r->setup.merged, "Also all cleaned clouds in one file");
    sub->add_flag("--with-sources", r->setup.sources,
                  "Also copies of the sources, so that it can be checked by itself");
    sub->add_flag("--no-removed", r->no_removed, "Without what was removed");
    sub->add_flag("--no-report", r->no_report, "Without a report");
    sub->add_option("--sheet", r->sheets, "A plan sheet of this kind; several")
        ->check(CLI::IsMember(report::sheet_kinds()));
    sub->add_option("--set", r->set, "Setting of a part of report and sheets: change.band=0.05");
    sub->add_flag("--plan", r->plan_only, "Say what would be written, and write nothing");
    sub->add_option("--client", r->client, "For whom");
    sub->add_option("--place", r->place, "Where the site is");
    sub->add_option("--office", r->office, "Whose work it is");
    sub->add_option("--surveyor", r->surveyor, "Who signs");
    sub->add_option("--method", r->method, "How it was surveyed");
    sub->callback([=] {
        json j;
        with_progress([&](Progress& p) { j = run(*r, p); });
        print(r->site.common, j, told_deliverable(j));
    });
    add_verify(app);
}

}  // namespace pristine::cli
