// A small site for tests of what is handed over: a bank on two dates with a boundary and work areas, and a
// cloud of which something was removed twice. Names hold umlauts and signs that formats give a meaning.

#pragma once

#include <cmath>
#include <random>

#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/site/site.h"
#include "core/surface/definition.h"
#include "support/cloud_makers.h"

namespace pristine::test {

inline constexpr Vec3 kSiteOrigin{412300, 5218930, 50};

inline Vec3 on_site(double x, double y, double z = 0) {
    return {kSiteOrigin.x + x, kSiteOrigin.y + y, kSiteOrigin.z + z};
}

inline std::vector<Vec3> rectangle(double x0, double y0, double x1, double y1) {
    return {on_site(x0, y0), on_site(x1, y0), on_site(x1, y1), on_site(x0, y1)};
}

// 60 x 40 with a hill of this height, and some noise.
inline std::shared_ptr<const cloud::PointCloud> hill(double height, double noise, std::uint64_t seed,
                                                     const std::string& unit = "m") {
    std::mt19937_64 dice(seed);
    std::normal_distribution<double> off(0, noise);
    surface::Definition d;
    for (double x = 0; x <= 60; x += 2)
        for (double y = 0; y <= 40; y += 2)
            d.points.push_back(
                on_site(x, y,
                        height * std::exp(-(std::pow((x - 30) / 9, 2) + std::pow((y - 20) / 7, 2))) +
                            (noise > 0 ? off(dice) : 0)));
    cloud::TriangleParts parts;
    parts.unit = unit;
    parts.surface = true;
    return cloud::cloud_of_triangles(surface::build(d).mesh, parts);
}

inline site::Line line_of(const char* name, std::vector<Vec3> points, bool closed, LineRole role) {
    site::Line l;
    l.name = name;
    l.points = std::move(points);
    l.closed = closed;
    l.role = role;
    return l;
}

inline site::SitePtr taken_out(const site::SitePtr& s, std::uint64_t item, const ElementSet& set,
                               const char* reason, site::Cause cause = {}) {
    site::Decision d;
    d.reason = reason;
    d.cause = cause.empty() ? site::by(site::Act{site::Act::Kind::Tool, "select.polygon"}) : std::move(cause);
    d.signature = {"m. hale", "2026-06-10T11:20:00"};
    return site::remove_parts(*s, {{item, std::make_shared<const ElementSet>(set)}}, d);
}

inline ElementSet every(const cloud::PointCloud& c, std::uint64_t from, std::uint64_t step,
                        std::uint64_t most) {
    ElementSet out(c.size());
    std::uint64_t n = 0;
    for (std::uint64_t k = from; k < c.size() && n < most; k += step, ++n) out.insert(k);
    return out;
}

// `scan`: a file that the cloud is read from; empty: made here.
inline site::SitePtr report_site(const std::filesystem::path& scan = {}, const std::string& unit = "m") {
    auto empty = std::make_shared<site::Site>();
    empty->name = "Ashmere Lock <Süd> & \"bank\"";
    site::SitePtr s = empty;
    s = site::set_date(*site::add_cloud(*s, hill(2, 0.02, 1, unit), "Bank März", "built from scan"), 1,
                       "2026-03-03");
    s = site::add_cloud(*s, hill(3, 0.02, 2, unit), "Bank Juni", "built from scan");
    const std::uint64_t second = s->items[1]->id;
    s = site::set_date(*s, second, "2026-06-09");
    s = site::put_lines(*s, {line_of("Grenze", rectangle(2, 2, 58, 38), true, LineRole::Boundary),
                             line_of("Hof", rectangle(5, 5, 25, 35), true, LineRole::Free),
                             line_of("Kai", rectangle(30, 5, 50, 35), true, LineRole::Free),
                             line_of("Achse", {on_site(5, 20), on_site(55, 20)}, false, LineRole::Axis)});
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::string origin = "made for a test";
    if (scan.empty()) {
        cloud = random_cloud(4000, Shape::Terrain, 5);
    } else {
        cloud = io::read_cloud(scan).cloud;
        origin = scan.string() + " (LAS)";
    }
    s = site::add_cloud(*s, cloud, "Kammer / 1", origin);
    const std::uint64_t id = s->items.back()->id;
    s = taken_out(s, id, every(*cloud, 0, 7, 300), "Noise, fine",
                  site::by_rule(score::parse_step("stray[neighbours=4] >2.5")));
    s = taken_out(s, id, every(*cloud, 3, 11, 150), "Person");
    return s;
}

}  // namespace pristine::test
