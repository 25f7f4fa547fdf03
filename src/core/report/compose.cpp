#include "core/report/compose.h"

#include "core/io/grid/picture.h"
#include "core/report/parts/context.h"

namespace pristine::report {

Maker maker_of(const std::string& kind) {
    static const std::map<std::string, Maker> makers{
        {"site", make_site},           {"sources", make_sources},   {"removed", make_removed},
        {"pictures", make_pictures},   {"rules", make_rules},       {"checks", make_checks},
        {"placement", make_placement}, {"surfaces", make_surfaces}, {"change", make_change},
        {"piles", make_piles},         {"contours", make_contours}, {"plan", make_plan},
        {"view", make_view},           {"sections", make_sections}, {"tunnel", make_tunnel},
        {"marks", make_marks},         {"limits", make_limits},     {"ledger", make_ledger}};
    part_kind(kind);
    return makers.at(kind);
}

namespace {

std::string usual_title(const PartSetup& p) {
    return p.title.empty() ? part_kind(p.kind).title : p.title;
}

// Parts that look at the setup beside their own are made anew each time; they are quick.
bool keeps(const PartSetup& p) {
    return p.kind != "site" && p.kind != "limits";
}

std::string key_of(const Material& m, const Setup& setup, const PartSetup& p) {
    Setup one;
    one.page = setup.page;
    one.parts = {p};
    return json_of(one) + m.date + (m.draw ? "+" : "-") + std::to_string(m.dpi);
}

PartCache::Made make(const Material& m, const Setup& setup, const PartSetup& p, Progress& progress) {
    Context c{m, setup, p, room_of(setup.page), progress};
    try {
        maker_of(p.kind)(c);
    } catch (const Error& e) {
        throw Error(e.code(), "The part '" + usual_title(p) + "' cannot be made: " + e.what());
    }
    if (!p.note.empty()) c.say(p.note);
    return {m.site, {p.kind, usual_title(p), std::move(c.blocks)}, std::move(c.warnings)};
}

}  // namespace

std::string title_of(const Setup& setup, const site::Site& s) {
    if (!setup.title.empty()) return setup.title;
    return s.name.empty() ? "Report" : "Report of " + s.name;
}

Report compose(const Material& m, const Setup& setup, Progress& progress, PartCache* cache) {
    Report r;
    r.title = title_of(setup, *m.site);
    r.site = m.site->name;
    r.office = setup.office;
    r.surveyor = setup.surveyor;
    r.date = m.date;
    r.program = m.program;
    if (!setup.logo.empty()) {
        const auto logo = io::decode_picture(setup.logo, "logo");
        r.logo = std::make_shared<const Image>(Image{logo->width(), logo->height(), logo->pixels()});
    }
    std::size_t on = 0, done = 0;
    for (const PartSetup& p : setup.parts) on += p.on ? 1 : 0;
    if (cache) std::erase_if(cache->parts, [&](const auto& known) { return known.second->site != m.site; });
    for (const PartSetup& p : setup.parts) {
        if (!p.on) continue;
        const double from = static_cast<double>(done) / static_cast<double>(on),
                     to = static_cast<double>(++done) / static_cast<double>(on);
        const Progress::Part stretch(progress, from, to, usual_title(p));
        const std::string key = key_of(m, setup, p);
        std::shared_ptr<const PartCache::Made> made;
        if (cache && keeps(p))
            if (const auto known = cache->parts.find(key); known != cache->parts.end()) made = known->second;
        if (!made) made = std::make_shared<const PartCache::Made>(make(m, setup, p, progress));
        r.warnings.insert(r.warnings.end(), made->warnings.begin(), made->warnings.end());
        r.parts.push_back(made->part);
        if (cache && keeps(p)) cache->parts[key] = std::move(made);
    }
    return r;
}

}  // namespace pristine::report
