// `pristine sheet`: a plan sheet at a true scale; `pristine orthophoto`: the ground from above as GeoTIFF.

#include <fmt/format.h>

#include "cli/site_input.h"
#include "core/base/file.h"
#include "core/base/units.h"
#include "core/report/orthophoto.h"
#include "core/report/sheet.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct SheetRequest {
    SiteRequest site;
    std::vector<std::string> outputs, set;
    std::string kind = "plan", logo;
    report::SheetSetup setup;
    int scale = 0;
    double dpi = 300;
    bool upright = false;
};

// What the site proposes for that kind, its settings and what was said of the sheet.
report::SheetSetup setup_of(const SheetRequest& r, const GivenSite& given) {
    report::SheetSetup s = r.setup;
    report::Setup all = report::proposed(*given.site);
    if (!given.setup.empty()) {
        all = report::on_site(report::setup_from_json(given.setup), *given.site);
        const auto put = [](std::string& where, const std::string& what) {
            if (where.empty()) where = what;
        };
        put(s.client, all.client);
        put(s.place, all.place);
        put(s.office, all.office);
        put(s.surveyor, all.surveyor);
        put(s.logo, all.logo);
    }
    all = report::with_parts(std::move(all), {r.kind});
    for (const std::string& text : r.set) apply_setting(all, r.kind + "." + text);
    s.part = all.parts.front();
    if (r.scale > 0) s.part.numbers["scale"] = r.scale;
    if (s.title.empty()) s.title = s.part.title.empty() ? report::part_kind(r.kind).title : s.part.title;
    s.page.landscape = !r.upright;
    if (!r.logo.empty()) {
        const InputFile file(r.logo);
        s.logo = file.read_string(0, file.size());
    }
    return s;
}

json draw(const SheetRequest& r, Progress& progress) {
    const GivenSite given = read_site(r.site, progress);
    const report::SheetSetup setup = setup_of(r, given);
    report::Material m = material_of(given);
    m.dpi = r.dpi;
    const auto sheets = report::sheets_of(m, setup, progress);
    json j{{"sheets", sheets.size()},
           {"scale", sheets.front().scale > 0 ? json(sheets.front().scale) : json()},
           {"outputs", json::array()}};
    const cloud::Reference reference = site::reference_of(*given.site);
    for (const std::string& path : r.outputs)
        for (const auto& file : report::write_sheets(
                 sheets, {setup.title, setup.surveyor, given.site->name, m.program, {}}, path,
                 r.site.common.force, reference, length_unit(reference.unit).metres, r.dpi))
            j["outputs"].push_back(file.string());
    return j;
}

void add_sheet_command(CLI::App& app) {
    auto* sub = app.add_subcommand("sheet", "A plan sheet at a true scale: PDF, SVG, PNG, DXF");
    auto r = std::make_shared<SheetRequest>();
    add_site_input(*sub, r->site);
    writes(
        sub->add_option("-o,--output", r->outputs, "Sheet: .pdf, .svg, .png, .dxf; several are of one make"),
        r->site.common)
        ->required();
    sub->add_option("--kind", r->kind, "What is on it; usual: plan")
        ->check(CLI::IsMember(report::sheet_kinds()));
    sub->add_option("--scale", r->scale, "500 for 1:500; usual: the largest round one that fits")
        ->check(CLI::PositiveNumber);
    sub->add_option("--set", r->set, "Setting of what is drawn: band=0.05, interval=0.5, every=10");
    sub->add_option("--page", r->setup.page.size,
                    "Size of the sheet: A4, A3, A2, A1, A0, Letter, Legal, Tabloid; usual: A3");
    sub->add_flag("--upright", r->upright, "The sheet stands; usual: it lies on its side");
    sub->add_option("--dpi", r->dpi, "Pixels to the inch of pictures")->check(CLI::Range(50, 1200));
    sub->add_option("--title", r->setup.title, "Title of the sheet");
    sub->add_option("--number", r->setup.number, "Number of the sheet");
    sub->add_option("--client", r->setup.client, "For whom");
    sub->add_option("--place", r->setup.place, "Where the site is");
    sub->add_option("--office", r->setup.office, "Whose sheet it is");
    sub->add_option("--surveyor", r->setup.surveyor, "Who drew it");
    reads(sub->add_option("--logo", r->logo, "Picture of the office: .png, .jpg"), r->site.common);
    sub->callback([=] {
        json j;
        with_progress(r->site.common, [&](Progress& p) { j = draw(*r, p); });
        std::string text;
        for (const json& o : j["outputs"]) text += "Written: " + o.get<std::string>() + "\n";
        text += j["scale"].is_null() ? std::string("Not to scale\n")
                                     : fmt::format("Scale 1 : {}\n", j["scale"].get<int>());
        print(r->site.common, j, text);
    });
}

void add_orthophoto_command(CLI::App& app) {
    struct Request {
        SiteRequest site;
        std::string output;
        double cell = 0;
    };
    auto* sub = app.add_subcommand("orthophoto", "The ground from above as GeoTIFF, with place and system");
    auto r = std::make_shared<Request>();
    add_site_input(*sub, r->site);
    writes(sub->add_option("-o,--output", r->output, "Picture: .tif"), r->site.common)->required();
    length_option(*sub, "--cell", r->cell, "Side of a pixel; usual: so that the longer side has 4,000",
                  Least::AboveZero, r->site.common);
    sub->callback([=] {
        json j;
        with_progress(r->site.common, [&](Progress& p) {
            const GivenSite given = read_site(r->site, p);
            const report::GroundPictureSize size = report::write_ground_picture(
                material_of(given), {{}, r->cell}, r->output, r->site.common.force, p);
            j = {{"output", r->output},
                 {"cell", size.cell},
                 {"columns", size.columns},
                 {"rows", size.rows},
                 {"unit", site::reference_of(*given.site).unit},
                 {"crs", site::reference_of(*given.site).crs}};
        });
        print(r->site.common, j,
              fmt::format("Written: {}, {} x {} pixels of {:g}{}\n", r->output, j["columns"].get<int>(),
                          j["rows"].get<int>(), j["cell"].get<double>(),
                          after_number(j["unit"].get<std::string>())));
    });
}

}  // namespace

void add_sheet(CLI::App& app) {
    add_sheet_command(app);
    add_orthophoto_command(app);
}

}  // namespace pristine::cli
