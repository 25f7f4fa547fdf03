#include "core/report/client_page.h"

#include <fmt/format.h>
#include <glib.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <nlohmann/json.hpp>

#include "core/base/error.h"
#include "core/base/figure.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/repair/reduce.h"
#include "core/report/parts/context.h"
#include "core/report/viewer.h"
#include "core/score/suggest.h"
#include "core/site/written.h"

namespace pristine::report {
namespace {

using nlohmann::json;
using site::ItemPtr;

constexpr double kBytesOfPoint = 10 * 4 / 3.0,
                 kBytesOfTriangle = 17 * 4 / 3.0;  // in base64; of a triangle half a corner
constexpr double kLeastMb = 5, kMostMb = 50;
// Colours of reasons: told apart by colour-blind eyes too (Okabe and Ito 2008, without black).
constexpr Ink kReasons[] = {0xE69F00, 0x56B4E9, 0x009E73, 0xF0E442, 0xD55E00, 0xCC79A7, 0x0072B2};

// Places relative to one corner of everything, so that single precision is enough in a browser.
struct Thing {
    std::string name;
    std::vector<Vec3> places;
    std::vector<Ink> colours;
    std::vector<std::uint8_t> reasons;
    std::vector<std::array<std::uint32_t, 3>> corners;
    double spacing = 0.02;
};

Ink by_height(double share) {
    constexpr Ink kRamp[] = {0x2B5C8A, 0x3E9C9C, 0x8DBF6A, 0xE3C75F, 0xD98A4B, 0xF2E9E4};
    const double v = std::clamp(share, 0.0, 1.0) * 5;
    const auto k = std::min<std::size_t>(4, static_cast<std::size_t>(v));
    const double t = v - static_cast<double>(k);
    Ink out = 0;
    for (const int shift : {16, 8, 0}) {
        const double a = kRamp[k] >> shift & 255, b = kRamp[k + 1] >> shift & 255;
        out |= static_cast<Ink>(std::lround(a + t * (b - a))) << shift;
    }
    return out;
}

class Gatherer {
  public:
    Gatherer(const Material& m, const ClientPageSpec& spec, Progress& progress)
        : m_(m), spec_(spec), progress_(progress) {}

    std::vector<Thing> things;
    std::vector<std::string> reasons;
    std::vector<std::uint64_t> counts;
    ClientPageSize size;
    Vec3 origin;
    Box3 box;

    void gather(double bytes) {
        std::vector<ItemPtr> items;
        std::uint64_t points = 0, triangles = 0;
        for (const ItemPtr& i : m_.site->items) {
            if (!i->visible) continue;
            items.push_back(i);
            (i->cloud->triangles() ? triangles : points) += wanted(*i).count();
        }
        if (points + triangles == 0) throw Error(ErrorCode::Empty, "Nothing is shown");
        size.of_points = points;
        size.of_triangles = triangles;
        // Each kind gets its share of the room by how much of it there is.
        const double all =
            static_cast<double>(points) * kBytesOfPoint + static_cast<double>(triangles) * kBytesOfTriangle;
        share_ = std::min(1.0, bytes / all);
        for (std::size_t k = 0; k < items.size(); ++k) {
            progress_.advance(static_cast<double>(k) / static_cast<double>(items.size()));
            for (const site::OutByReason& r : site::out_by_reason(*items[k])) note_reason(r);
            if (items[k]->cloud->triangles())
                add_mesh(*items[k]);
            else
                add_points(*items[k]);
        }
        leave_out_far_ones();
        for (Thing& t : things)
            for (const Vec3& p : t.places) box.add(p);
        origin = box.lo;
    }
    std::vector<std::string>
        elsewhere;  ///< names of items that lie too far from the others to be seen with them

  private:
    ElementSet wanted(const site::Item& i) const {
        ElementSet out = ~*i.absent;
        if (spec_.removed) out = out | i.taken();
        if (i.scope) out = out & *i.scope;
        return out;
    }

    // A scan in its own coordinates beside one in those of the country: each would be a dot in a view of
    // both.
    void leave_out_far_ones() {
        const auto most = std::max_element(things.begin(), things.end(), [](const Thing& a, const Thing& b) {
            return a.places.size() < b.places.size();
        });
        Box3 main;
        for (const Vec3& p : most->places) main.add(p);
        const double reach = 50 * std::max(main.diagonal(), 1e-9);
        std::erase_if(things, [&](const Thing& t) {
            const bool far = norm(t.places.front() - main.centre()) > reach;
            if (far) {
                elsewhere.push_back(t.name);
                (t.corners.empty() ? size.points : size.triangles) -=
                    t.corners.empty() ? t.places.size() : t.corners.size();
            }
            return far;
        });
    }

    void note_reason(const site::OutByReason& r) {
        const std::string name = r.reason.empty() ? "no reason given" : r.reason;
        const auto it = std::find(reasons.begin(), reasons.end(), name);
        if (it == reasons.end() && reasons.size() < 250) {
            reasons.push_back(name);
            counts.push_back(r.elements.count());
        } else if (it != reasons.end()) {
            counts[static_cast<std::size_t>(it - reasons.begin())] += r.elements.count();
        }
    }

    std::uint8_t number_of(const std::string& reason) const {
        const auto it =
            std::find(reasons.begin(), reasons.end(), reason.empty() ? "no reason given" : reason);
        return it == reasons.end() ? 0 : static_cast<std::uint8_t>(it - reasons.begin() + 1);
    }

    void add_points(const site::Item& i) {
        const ElementSet all = wanted(i);
        if (all.empty()) return;
        const cloud::PointCloud& c = *i.cloud;
        Thing t;
        t.name = i.name;
        const auto out = site::out_by_reason(i);
        const double step = 1 / share_;
        // Removed things are few and what the client asks about: they are thinned four times less.
        const double step_out = std::max(1.0, step / 4);
        double next = 0, next_out = 0;
        std::uint64_t k = 0, k_out = 0;
        double low = INFINITY, high = -INFINITY;
        all.for_each([&](std::uint64_t e) {
            std::uint8_t reason = 0;
            for (const site::OutByReason& r : out)
                if (r.elements.contains(e)) reason = number_of(r.reason);
            double& due = reason > 0 ? next_out : next;
            std::uint64_t& seen = reason > 0 ? k_out : k;
            if (static_cast<double>(seen++) < due) return;
            due += reason > 0 ? step_out : step;
            const std::size_t page = static_cast<std::size_t>(e / kPageSize),
                              at = static_cast<std::size_t>(e % kPageSize);
            t.places.push_back(c.position(e));
            low = std::min(low, t.places.back().z);
            high = std::max(high, t.places.back().z);
            t.reasons.push_back(reason);
            t.colours.push_back(c.colour() ? c.colour()->page(page)[at] : 0);
        });
        if (!c.colour())
            for (std::size_t p = 0; p < t.places.size(); ++p)
                t.colours[p] = by_height((t.places[p].z - low) / std::max(high - low, 1e-9));
        t.spacing = std::max(score::spacing_of(c), 1e-9) *
                    std::sqrt(static_cast<double>(all.count()) / static_cast<double>(t.places.size()));
        size.points += t.places.size();
        things.push_back(std::move(t));
    }

    void add_mesh(const site::Item& i) {
        mesh::TriMesh m = io::mesh_of(*i.cloud, ~*i.absent);
        if (m.triangles.empty()) return;
        const auto most = static_cast<std::size_t>(share_ * static_cast<double>(m.triangles.size()));
        if (most < m.triangles.size()) {
            repair::ReduceOptions options;
            options.triangles = std::max<std::size_t>(4, most);
            options.lock_rim = false;
            m = repair::reduce(m, options, progress_).mesh;
        }
        Thing t;
        t.name = i.name;
        t.places = m.vertices;
        t.corners = m.triangles;
        t.reasons.assign(t.places.size(), 0);
        double low = INFINITY, high = -INFINITY;
        for (const Vec3& v : t.places) low = std::min(low, v.z), high = std::max(high, v.z);
        for (const Vec3& v : t.places)
            t.colours.push_back(i.role == site::ItemRole::Terrain
                                    ? by_height((v.z - low) / std::max(high - low, 1e-9))
                                    : i.style.single_colour);
        size.triangles += t.corners.size();
        things.push_back(std::move(t));
    }

    const Material& m_;
    const ClientPageSpec& spec_;
    Progress& progress_;
    double share_ = 1;
};

template <class T>
void put(std::string& out, T v) {
    char bytes[sizeof v];
    std::memcpy(bytes, &v, sizeof v);
    out.append(bytes, sizeof v);
}

// As web/viewer.js reads it: places in 16 bits between the ends of each thing.
std::string packed(const std::vector<Thing>& things, const Vec3& origin, json& about) {
    std::string out;
    for (const Thing& t : things) {
        Box3 box;
        for (const Vec3& p : t.places) box.add(p);
        const Vec3 size{std::max(box.hi.x - box.lo.x, 1e-9), std::max(box.hi.y - box.lo.y, 1e-9),
                        std::max(box.hi.z - box.lo.z, 1e-9)};
        about["things"].push_back({{"name", t.name},
                                   {"places", t.places.size()},
                                   {"triangles", t.corners.size()},
                                   {"spacing", t.spacing},
                                   {"low", {box.lo.x - origin.x, box.lo.y - origin.y, box.lo.z - origin.z}},
                                   {"size", {size.x, size.y, size.z}}});
        for (std::size_t k = 0; k < t.places.size(); ++k) {
            for (int a = 0; a < 3; ++a)
                put(out,
                    static_cast<std::uint16_t>(std::lround((t.places[k][a] - box.lo[a]) / size[a] * 65535)));
            for (const int shift : {16, 8, 0}) out += static_cast<char>(t.colours[k] >> shift & 255);
            out += static_cast<char>(t.reasons[k]);
        }
        for (const auto& c : t.corners)
            for (const std::uint32_t v : c) put(out, v);
    }
    return out;
}

constexpr const char* kSceneStyle = R"(<style>
.scene{position:relative;margin:1rem 0}
canvas{display:block;width:100%;height:min(70vh,40rem);background:#1b222b;touch-action:none}
canvas:focus-visible{outline:3px solid #19B5A5}
.tools{display:flex;flex-wrap:wrap;gap:.5rem;align-items:center;padding:.5rem 0}
.tools button{font:inherit;min-height:2.4rem;padding:0 .9rem;border:1px solid #857E70;border-radius:4px;background:#fff;color:#1D2733}
.tools label{display:inline-flex;align-items:center;gap:.3rem;min-height:2.4rem}
#scene-reasons{display:inline-flex;flex-wrap:wrap;gap:.9rem}
.sign{display:inline-block;width:.9rem;height:.9rem;border:1px solid #1D2733}
</style>
)";

std::string scene_html(const ClientPageSize& s, const std::vector<std::string>& elsewhere,
                       const std::string& about, const std::string& data) {
    const auto n = [](std::uint64_t v) { return figure(static_cast<double>(v), 0); };
    std::string shown;
    if (s.of_points > 0) shown += fmt::format("{} of {} points", n(s.points), n(s.of_points));
    if (s.of_triangles > 0)
        shown +=
            fmt::format("{}{} of {} triangles", shown.empty() ? "" : ", ", n(s.triangles), n(s.of_triangles));
    gchar* text = g_base64_encode(reinterpret_cast<const guchar*>(data.data()), data.size());
    std::string html =
        std::string(kSceneStyle) +
        "<section class=\"scene\" aria-label=\"The site in three dimensions\">\n"
        "<canvas id=\"scene\" tabindex=\"0\" role=\"img\" aria-label=\"The site in three dimensions. Arrow "
        "keys turn it, plus and minus "
        "go nearer and farther, b shows what was removed, a hides it, Home brings it back.\"></canvas>\n"
        "<p id=\"scene-trouble\" class=\"warn\" hidden>This browser cannot draw in three dimensions. The "
        "report below says all the same.</p>\n"
        "<div class=\"tools\"><button type=\"button\" id=\"scene-before\">Before</button><button "
        "type=\"button\" id=\"scene-after\">After</button>"
        "<button type=\"button\" id=\"scene-home\">Whole site</button><span "
        "id=\"scene-reasons\"></span></div>\n"
        "<p class=\"note\">Drag to turn, pinch or wheel to go nearer, two fingers or the right button to "
        "move. Shown are " +
        shown + "; figures below count all." +
        (elsewhere.empty() ? std::string()
                           : " Not shown, since it lies far from the rest: " +
                                 escaped_html(fmt::format("{}", fmt::join(elsewhere, ", "))) + ".") +
        "</p>\n</section>\n";
    html += "<script type=\"application/json\" id=\"scene-about\">" + about +
            "</script>\n<script type=\"application/octet-stream\" id=\"scene-data\">" + text + "</script>\n";
    g_free(text);
    return html;
}

json marks_of(const site::Site& s, const Vec3& origin) {
    json out = json::array();
    for (const site::MarkPtr& m : s.marks) {
        json places = json::array();
        for (const Vec3& p : m->points) places.push_back({p.x - origin.x, p.y - origin.y, p.z - origin.z});
        out.push_back({{"name", m->name}, {"places", std::move(places)}});
    }
    return out;
}

}  // namespace

ClientPage client_page(const Material& m, const Report& report, const ClientPageSpec& spec,
                       Progress& progress) {
    if (!(spec.megabytes >= kLeastMb && spec.megabytes <= kMostMb))
        throw Error(ErrorCode::Usage, fmt::format("A page has {:g} to {:g} MB", kLeastMb, kMostMb));
    const std::string_view viewer = viewer_script();
    if (viewer.empty())
        throw Error(ErrorCode::Unsupported, "This program was built without the view of the page", {},
                    "Build it where npm is installed.");
    const std::string plain = html_of(report);
    const double room = spec.megabytes * 1e6 - static_cast<double>(plain.size() + viewer.size()) - 20'000;
    if (room < 100'000)
        throw Error(ErrorCode::Usage,
                    fmt::format("The report alone has {:.1f} MB", static_cast<double>(plain.size()) / 1e6),
                    {}, "Allow a larger page, or take pictures out of it.");
    Gatherer g(m, spec, progress);
    g.gather(room);
    json about{{"things", json::array()}, {"reasons", json::array()}, {"marks", marks_of(*m.site, g.origin)}};
    for (std::size_t k = 0; k < g.reasons.size(); ++k) {
        const Ink c = kReasons[k % std::size(kReasons)];
        about["reasons"].push_back({{"name", g.reasons[k]},
                                    {"told", figure(static_cast<double>(g.counts[k]), 0)},
                                    {"colour", {c >> 16 & 255, c >> 8 & 255, c & 255}}});
    }
    const std::string data = packed(g.things, g.origin, about);
    std::string text = about.dump();
    // Nothing in it may end the script that it stands in.
    for (std::size_t at = 0; (at = text.find('<', at)) != std::string::npos; at += 6)
        text.replace(at, 1, "\\u003c");
    ClientPage page;
    page.size = g.size;
    page.html = html_of(report, scene_html(g.size, g.elsewhere, text, data),
                        "<script>" + std::string(viewer) + "</script>\n");
    return page;
}

}  // namespace pristine::report
