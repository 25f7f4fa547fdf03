// `pristine report`: a site as PDF, HTML, CSV or JSON.

#include <fmt/format.h>

#include "cli/site_input.h"
#include "core/base/file.h"
#include "core/io/ending.h"
#include "core/report/compose.h"
#include "core/report/pages.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct ReportRequest {
    SiteRequest site;
    std::vector<std::string> outputs, parts, set;
    std::string templ, size, title, client, place, office, surveyor, method, logo, write_template;
    bool landscape = false, no_pictures = false;
};

std::string bytes_of(const std::string& path) {
    const InputFile file(path);
    return file.read_string(0, file.size());
}

// A file, or the name of a template that the project keeps.
report::Setup template_of(const ReportRequest& r, const GivenSite& given) {
    if (!given.templates.empty()) {
        const json all = json::parse(given.templates, nullptr, false);
        if (all.is_object() && all.contains(r.templ)) return report::setup_from_json(all.at(r.templ).dump());
    }
    std::error_code ignored;
    if (!std::filesystem::exists(r.templ, ignored))
        throw Error(ErrorCode::Usage, "'" + r.templ + "' is neither a file nor a template of the project");
    return report::setup_from_json(bytes_of(r.templ));
}

report::Setup setup_of(const ReportRequest& r, const GivenSite& given) {
    report::Setup s =
        !r.templ.empty() ? report::by_template(template_of(r, given), *given.site) : setup_of(given);
    if (!r.parts.empty()) s = report::with_parts(std::move(s), r.parts);
    for (const std::string& text : r.set) apply_setting(s, text);
    take_said(s.title, r.title);
    take_said(s.client, r.client);
    take_said(s.place, r.place);
    take_said(s.office, r.office);
    take_said(s.surveyor, r.surveyor);
    take_said(s.method, r.method);
    take_said(s.page.size, r.size);
    s.page.landscape = s.page.landscape || r.landscape;
    if (!r.logo.empty()) s.logo = bytes_of(r.logo);
    report::sheet_of(s.page);
    return s;
}

// Checked before any work is done.
void require_endings(const std::vector<std::string>& outputs) {
    for (const std::string& o : outputs) {
        const std::string e = io::ending_of(o);
        if (e != ".pdf" && e != ".html" && e != ".csv" && e != ".json")
            throw Error(ErrorCode::Usage, "A report is written as .pdf, .html, .csv or .json", o);
    }
}

void write(const ReportRequest& r, const report::Report& made, const report::Setup& setup, json& j,
           Progress& progress) {
    for (const std::string& path : r.outputs) {
        const std::string ending = io::ending_of(path);
        OutputFile out(path, r.site.common.force);
        if (ending == ".pdf") {
            const report::Pages pages = report::pages_of(made, setup.page, progress);
            out.write(report::pdf_of(made, pages, progress));
            j["pages"] = pages.sheets.size();
        } else {
            out.write(ending == ".html"  ? report::html_of(made)
                      : ending == ".csv" ? report::csv_of(made)
                                         : report::json_of(made));
        }
        out.finish();
        j["outputs"].push_back(path);
    }
    if (r.write_template.empty()) return;
    OutputFile out(r.write_template, r.site.common.force);
    out.write(report::json_of(setup));
    out.finish();
}

json run(const ReportRequest& r, Progress& progress) {
    json j{{"outputs", json::array()}};
    GivenSite given;
    {
        const Progress::Part part(progress, 0, 0.4, "Reading");
        given = read_site(r.site, progress);
    }
    const report::Setup setup = setup_of(r, given);
    report::Material m = material_of(given);
    if (r.no_pictures) m.draw = nullptr;
    report::Report made;
    {
        const Progress::Part part(progress, 0.4, 0.9, "Report");
        made = report::compose(m, setup, progress);
    }
    const Progress::Part part(progress, 0.9, 1, "Writing");
    write(r, made, setup, j, progress);
    std::uint64_t entries = 0, figures = 0, tables = 0;
    for (const site::ItemPtr& i : given.site->items) entries += i->ledger.size();
    for (const report::Part& p : made.parts)
        for (const report::Block& b : p.blocks) {
            figures += std::holds_alternative<report::Figure>(b) ? 1 : 0;
            tables += std::holds_alternative<report::Table>(b) ? 1 : 0;
        }
    j["parts"] = json::array();
    for (const report::Part& p : made.parts) j["parts"].push_back({{"kind", p.kind}, {"title", p.title}});
    j["entries"] = entries;
    j["figures"] = figures;
    j["tables"] = tables;
    j["warnings"] = made.warnings;
    return j;
}

std::string told_report(const json& j) {
    std::string text;
    for (const json& o : j["outputs"]) text += "Written: " + o.get<std::string>() + "\n";
    text += fmt::format("{} parts, {} figures, {} tables, {} ledger entries", j["parts"].size(),
                        j["figures"].get<int>(), j["tables"].get<int>(), j["entries"].get<int>());
    if (j.contains("pages")) text += fmt::format(", {} pages", j["pages"].get<int>());
    text += "\n";
    for (const json& w : j["warnings"]) text += w.get<std::string>() + "\n";
    return text;
}

}  // namespace

void add_report(CLI::App& app) {
    auto* sub = app.add_subcommand("report", "A report that can be signed: PDF, HTML, CSV, JSON");
    auto r = std::make_shared<ReportRequest>();
    add_site_input(*sub, r->site);
    writes(sub->add_option("-o,--output", r->outputs,
                           "Report: .pdf, .html, .csv, .json; several are of one make"),
           r->site.common)
        ->required();
    sub->add_option("--template", r->templ,
                    "File, or name of a template of the project: order, titles, settings");
    std::string kinds;
    for (const report::PartKind& k : report::part_kinds())
        kinds += (kinds.empty() ? "" : ", ") + std::string(k.id);
    sub->add_option("--parts", r->parts, "Only these, in this order: " + kinds)->delimiter(',');
    sub->add_option("--set", r->set,
                    "Setting of a part: change.band=0.05, piles.density=1.8, sections.every=10");
    sub->add_option("--page", r->size, "Size of the pages: A4, A3, A5, A2, A1, A0, Letter, Legal, Tabloid");
    sub->add_flag("--landscape", r->landscape, "Pages lie on their side");
    sub->add_flag("--no-pictures", r->no_pictures, "Without pictures of the decisions");
    sub->add_option("--title", r->title, "Title of the report");
    sub->add_option("--client", r->client, "For whom");
    sub->add_option("--place", r->place, "Where the site is");
    sub->add_option("--office", r->office, "Whose report it is; heads each page");
    sub->add_option("--surveyor", r->surveyor, "Who signs; foot of each page");
    sub->add_option("--method", r->method, "How it was surveyed");
    reads(sub->add_option("--logo", r->logo, "Picture of the office: .png, .jpg"), r->site.common);
    writes(
        sub->add_option("--write-template", r->write_template, "Keep what was chosen for other sites: .json"),
        r->site.common);
    sub->callback([=] {
        require_endings(r->outputs);
        json j;
        with_progress(r->site.common, [&](Progress& p) { j = run(*r, p); });
        print(r->site.common, j, told_report(j));
    });
}

}  // namespace pristine::cli
