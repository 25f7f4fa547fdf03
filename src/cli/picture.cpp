// `pristine picture` and `film`: what is shown, as pictures, a turntable or a flight; `page`: a page for the
// client.

#include <fmt/format.h>

#include "cli/site_input.h"
#include "core/base/file.h"
#include "core/report/client_page.h"
#include "core/report/film.h"
#include "core/report/paint.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct PictureRequest {
    SiteRequest site;
    std::string output, along;
    report::StillLook look;
    report::FilmSpec film;
    bool plain = false, pair = false;
};

void add_look(CLI::App& sub, PictureRequest& r) {
    sub.add_option("--width", r.look.width, "Pixels")->check(CLI::Range(16, 30000));
    sub.add_option("--height", r.look.height, "Pixels")->check(CLI::Range(16, 30000));
    sub.add_option("--yaw", r.look.yaw_deg, "Direction looked in: 0 north, 90 east");
    sub.add_option("--pitch", r.look.pitch_deg, "-90 straight down, 0 level")->check(CLI::Range(-90, 90));
    sub.add_flag("--plain", r.plain, "Without scale bar, north arrow and words");
    sub.add_flag("--transparent", r.look.clear, "Nothing behind what is shown");
    sub.add_flag("--before", r.look.before, "As it was before any decision");
}

void add_picture_command(CLI::App& app) {
    auto* sub = app.add_subcommand("picture", "A picture of what is shown: PNG");
    auto r = std::make_shared<PictureRequest>();
    add_site_input(*sub, r->site);
    writes(sub->add_option("-o,--output", r->output, "Picture: .png"), r->site.common)->required();
    add_look(*sub, *r);
    sub->add_flag("--plan", r->look.plan, "From above");
    sub->add_flag("--pair", r->pair, "Before at the left, after at the right");
    sub->callback([=] {
        json j;
        with_progress(r->site.common, [&](Progress& p) {
            const report::Material m = material_of(read_site(r->site, p));
            r->look.legend = !r->plain;
            const report::Image image =
                r->pair ? report::before_and_after(m, r->look) : report::still(m, r->look);
            OutputFile out(r->output, r->site.common.force);
            out.write(report::png_of(image));
            out.finish();
            j = {{"output", r->output}, {"width", image.width}, {"height", image.height}};
        });
        print(r->site.common, j,
              fmt::format("Written: {}, {} x {} pixels\n", r->output, j["width"].get<int>(),
                          j["height"].get<int>()));
    });
}

void add_film_command(CLI::App& app) {
    auto* sub = app.add_subcommand(
        "film", "A turn about what is shown, or a flight along a line: frames as PNG, or one animated WebP");
    auto r = std::make_shared<PictureRequest>();
    r->look.width = 960;
    r->look.height = 540;
    add_site_input(*sub, r->site);
    sub->add_option("-o,--output", r->output, "A folder for frames, or a .webp")->required();
    add_look(*sub, *r);
    sub->add_option("--frames", r->film.frames, "How many")->check(CLI::Range(2, 10000));
    sub->add_option("--seconds", r->film.seconds, "How long all of them last")->check(CLI::PositiveNumber);
    sub->add_option("--turn", r->film.turn_deg, "Degrees of the turn");
    reads(sub->add_option("--along", r->along, "File with the line of a flight"), r->site.common);
    sub->callback([=] {
        with_progress([&](Progress& p) {
            const report::Material m = material_of(read_site(r->site, p));
            r->look.legend = !r->plain;
            r->film.look = r->look;
            if (!r->along.empty()) {
                const auto lines = read_lines_in(r->along, site::reference_of(*m.site));
                if (lines.empty()) throw Error(ErrorCode::Empty, "There is no line in the file", r->along);
                r->film.along = lines.front().points;
            }
            report::write_film(m, r->film, r->output, r->site.common.force, p);
        });
        print(r->site.common, {{"output", r->output}, {"frames", r->film.frames}},
              fmt::format("Written: {}, {} frames\n", r->output, r->film.frames));
    });
}

struct PageRequest {
    SiteRequest site;
    std::string output, office, surveyor, client;
    std::vector<std::string> parts;
    report::ClientPageSpec spec;
    bool no_removed = false;
};

// Without parts of which a client makes little; a person may choose.
report::Setup setup_of(const PageRequest& r, const GivenSite& given) {
    report::Setup s = setup_of(given);
    if (!r.parts.empty()) s = report::with_parts(std::move(s), r.parts);
    if (r.parts.empty() && given.setup.empty())
        for (report::PartSetup& p : s.parts)
            if (p.kind == "ledger" || p.kind == "rules" || p.kind == "sources") p.on = false;
    take_said(s.office, r.office);
    take_said(s.surveyor, r.surveyor);
    take_said(s.client, r.client);
    return s;
}

void add_page_command(CLI::App& app) {
    auto* sub =
        app.add_subcommand("page", "A page for the client: the site in three dimensions in one HTML file");
    auto r = std::make_shared<PageRequest>();
    add_site_input(*sub, r->site);
    writes(sub->add_option("-o,--output", r->output, "Page: .html"), r->site.common)->required();
    sub->add_option("--size", r->spec.megabytes, "MB, 5 to 50; usual: 12")->check(CLI::Range(5, 50));
    sub->add_flag("--no-removed", r->no_removed, "Without what was removed");
    sub->add_option("--parts", r->parts, "Parts of the report that stand below")->delimiter(',');
    sub->add_option("--office", r->office, "Whose page it is");
    sub->add_option("--surveyor", r->surveyor, "Who signs");
    sub->add_option("--client", r->client, "For whom");
    sub->callback([=] {
        json j;
        with_progress(r->site.common, [&](Progress& p) {
            const GivenSite given = read_site(r->site, p);
            report::Material m = material_of(given);
            m.dpi = 110;  // for screens
            r->spec.removed = !r->no_removed;
            const report::ClientPage page =
                report::client_page(m, report::compose(m, setup_of(*r, given), p), r->spec, p);
            OutputFile out(r->output, r->site.common.force);
            out.write(page.html);
            out.finish();
            j = {{"output", r->output},
                 {"bytes", page.html.size()},
                 {"points", page.size.points},
                 {"of_points", page.size.of_points},
                 {"triangles", page.size.triangles},
                 {"of_triangles", page.size.of_triangles}};
        });
        print(r->site.common, j,
              fmt::format("Written: {}, {:.1f} MB, {} of {} points, {} of {} triangles\n", r->output,
                          j["bytes"].get<double>() / 1e6, j["points"].get<std::uint64_t>(),
                          j["of_points"].get<std::uint64_t>(), j["triangles"].get<std::uint64_t>(),
                          j["of_triangles"].get<std::uint64_t>()));
    });
}

}  // namespace

void add_picture(CLI::App& app) {
    add_picture_command(app);
    add_film_command(app);
    add_page_command(app);
}

}  // namespace pristine::cli
