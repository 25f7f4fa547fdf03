#include "render/scene.h"

#include <algorithm>
#include <cmath>
#include <tuple>

#include "core/cloud/classes.h"
#include "core/cloud/triangles.h"
#include "core/geometry/triangle.h"
#include "core/place/residual_map.h"

namespace pristine::render {
namespace {

constexpr std::size_t kMostPages = 65536;
constexpr Vec3 kLight{-0.48, 0.52, 0.707};

// Stops of the height ramp: low and wet to high and dry.
constexpr Rgb kStops[] = {0x27456B, 0x2E7F86, 0x8FB37A, 0xE3C878, 0xF3EEE3};

std::array<Rgb, 256> make_ramp() {
    std::array<Rgb, 256> ramp{};
    constexpr int spans = static_cast<int>(std::size(kStops)) - 1;
    for (int i = 0; i < 256; ++i) {
        const double at = i / 255.0 * spans;
        const int k = std::min(spans - 1, static_cast<int>(at));
        ramp[static_cast<std::size_t>(i)] = mix(kStops[k], kStops[k + 1], at - k);
    }
    return ramp;
}

}  // namespace

Rgb mix(Rgb a, Rgb b, double t) {
    const auto k = static_cast<std::uint32_t>(std::clamp(t, 0.0, 1.0) * 256);
    const auto channel = [&](int shift) {
        const std::uint32_t u = (a >> shift) & 255u, v = (b >> shift) & 255u;
        return ((u * (256 - k) + v * k) >> 8) << shift;
    };
    return channel(16) | channel(8) | channel(0);
}

Rgb scaled(Rgb c, double factor) {
    const auto channel = [&](int shift) {
        return static_cast<std::uint32_t>(std::clamp(((c >> shift) & 255u) * factor, 0.0, 255.0)) << shift;
    };
    return channel(16) | channel(8) | channel(0);
}

Rgb height_colour(int position) {
    static const std::array<Rgb, 256> ramp = make_ramp();
    return ramp[static_cast<std::size_t>(std::clamp(position, 0, 255))];
}

Rgb change_colour(int position) {
    constexpr Rgb kCut = 0xB35806, kNone = 0xF7F5F2, kFill = 0x542788;
    const double t = (std::clamp(position, 0, 255) - 127.5) / 127.5;
    // A little change already shows.
    return mix(kNone, t < 0 ? kCut : kFill, std::pow(std::fabs(t), 0.7));
}

Scene::Scene(std::vector<DrawItem> items) {
    for (DrawItem& item : items) {
        if (pages_.size() + item.cloud->page_count() > kMostPages) continue;
        for (std::size_t p = 0; p < item.cloud->page_count(); ++p)
            pages_.push_back({static_cast<std::uint32_t>(items_.size()), static_cast<std::uint32_t>(p)});
        bounds_.add(item.cloud->bounds());
        robust_bounds_.add(item.cloud->robust_bounds());
        looks_.push_back(look_of(item));
        items_.push_back(std::move(item));
    }
}

namespace {

// Height where the item lacks what its style asks for.
site::ColourBy drawn_by(const DrawItem& item) {
    const cloud::PointCloud& c = *item.cloud;
    const site::ColourBy by = item.style.colour_by;
    const bool missing = (by == site::ColourBy::Rgb && !c.colour()) ||
                         (by == site::ColourBy::Intensity && !c.intensity()) ||
                         (by == site::ColourBy::Class && !c.classification() && !item.decided) ||
                         (by == site::ColourBy::Column && !item.column);
    return missing ? site::ColourBy::Height : by;
}

}  // namespace

double ColourRange::position(double v) const {
    if (classes.size() >= 2) {
        const auto at = std::upper_bound(classes.begin(), classes.end(), v);
        v = at == classes.begin() ? std::min(lo, classes.front())
            : at == classes.end() ? std::max(hi, classes.back())
                                  : 0.5 * (*at + *(at - 1));
    }
    return (v - lo) / (hi - lo) * 255;
}

std::optional<ColourRange> colour_range(const DrawItem& item) {
    ColourRange r;
    switch (drawn_by(item)) {
        case site::ColourBy::Column:
            r.usual_lo = item.column->base + static_cast<double>(item.column->lo);
            r.usual_hi = item.column->base + static_cast<double>(item.column->hi);
            if ((r.change = item.style.column == site::kChangeColumn ||
                            item.style.column == place::kResidualColumn)) {
                // No change lies in the middle.
                r.usual_hi = std::max(std::fabs(r.usual_lo), std::fabs(r.usual_hi));
                r.usual_lo = -r.usual_hi;
            }
            break;
        case site::ColourBy::Intensity:
            std::tie(r.usual_lo, r.usual_hi) = item.cloud->intensity_span();
            break;
        case site::ColourBy::Height: {
            const Box3 box = item.cloud->robust_bounds();
            if (box.empty()) return std::nullopt;
            r.usual_lo = box.lo.z;
            r.usual_hi = box.hi.z;
            break;
        }
        default:
            return std::nullopt;
    }
    // One value only: it lies in the middle of the colours, not at their dark end.
    if (!(r.usual_hi > r.usual_lo)) {
        const double half = std::max(0.5, 1e-6 * std::fabs(r.usual_lo));
        r.usual_hi = r.usual_lo + half;
        r.usual_lo -= half;
    }
    // The range belongs to what the style asks for, not to what stands in for it.
    const bool own = item.style.own_range && item.style.range_hi > item.style.range_lo &&
                     drawn_by(item) == item.style.colour_by;
    r.lo = own ? item.style.range_lo : r.usual_lo;
    r.hi = own ? item.style.range_hi : r.usual_hi;
    if (drawn_by(item) == item.style.colour_by) r.classes = item.style.classes;
    return r;
}

namespace {

const ClassColours& standard_colours() {
    static const ClassColours all = [] {
        ClassColours c{};
        for (std::size_t k = 0; k < c.size(); ++k) c[k] = cloud::class_colour(static_cast<int>(k));
        return c;
    }();
    return all;
}

bool holds(const ElementSet* s, std::size_t page, std::size_t i) {
    if (!s) return false;
    const ElementSet::Kind kind = s->kind(page);
    return kind == ElementSet::Kind::All || (kind == ElementSet::Kind::Some && s->bits(page)->test(i));
}

}  // namespace

std::uint8_t Scene::Look::class_of(std::size_t page, std::size_t i) const {
    if (decided)
        for (const auto& [code, set] : decided->sets)
            if (holds(&set, page, i)) return code;
    return cloud->classification() ? cloud->classification()->value(page, i) : std::uint8_t{0};
}

Scene::Look Scene::look_of(const DrawItem& item) {
    Look look;
    const cloud::PointCloud& c = *item.cloud;
    look.cloud = &c;
    look.triangles = c.triangles().get();
    look.drape = item.drape.get();
    if (drawn_by(item) == site::ColourBy::Rgb && c.attributes() && c.attributes()->coloured())
        look.attributes = c.attributes().get();
    look.faces = item.style.faces;
    look.two_sided = cloud::is_surface(c);
    look.selected = item.selected.get();
    look.guarded = item.guarded.get();
    look.decided = item.decided.get();
    look.class_colours = item.class_colours ? item.class_colours.get() : &standard_colours();
    look.picked_ghosts = item.picked_ghosts.get();
    look.single = item.style.single_colour;
    look.by = drawn_by(item);
    const auto range = colour_range(item);
    if (!range) return look;
    if (range->classes.size() >= 2) look.stepped = range;
    const double k = 255 / (range->hi - range->lo);
    if (look.by == site::ColourBy::Column) {
        look.column = &item.column->values;
        look.column_base = item.column->base;
        look.change = range->change;
        look.c_scale = static_cast<float>(k);
        look.c_offset = static_cast<float>((item.column->base - range->lo) * k);
    } else if (look.by == site::ColourBy::Height) {
        look.z_scale = c.grid().scale.z * k;
        look.z_offset = (c.grid().offset.z - range->lo) * k;
    } else {
        look.i_scale = k;
        look.i_offset = -range->lo * k;
    }
    return look;
}

bool Scene::selected(std::uint32_t id) const {
    const PageRef ref = pages_[id >> 16];
    return holds(looks_[ref.item].selected, ref.page, id & 0xFFFFu);
}

bool Scene::picked_ghost(std::uint32_t id) const {
    const PageRef ref = pages_[id >> 16];
    return holds(looks_[ref.item].picked_ghosts, ref.page, id & 0xFFFFu);
}

bool Scene::guarded(std::uint32_t id) const {
    const PageRef ref = pages_[id >> 16];
    return holds(looks_[ref.item].guarded, ref.page, id & 0xFFFFu);
}

void Scene::prefetch(std::uint32_t id) const {
    const PageRef ref = pages_[id >> 16];
    const Look& look = looks_[ref.item];
    const std::size_t i = id & 0xFFFFu;
    const void* at = nullptr;
    switch (look.by) {
        case site::ColourBy::Rgb:
            at = look.cloud->colour()->held(ref.page, i);
            break;
        case site::ColourBy::Intensity:
            at = look.cloud->intensity()->held(ref.page, i);
            break;
        case site::ColourBy::Height:
            at = look.cloud->z().held(ref.page, i);
            break;
        case site::ColourBy::Class:
            if (look.cloud->classification()) at = look.cloud->classification()->held(ref.page, i);
            break;
        case site::ColourBy::Column:
            at = look.column->held(ref.page, i);
            break;
        case site::ColourBy::Single:
            return;
    }
    if (at) __builtin_prefetch(at);
}

std::optional<std::array<Vec3, 3>> Scene::corners(std::uint32_t id) const {
    const PageRef ref = pages_[id >> 16];
    const mesh::TriMesh* m = looks_[ref.item].triangles;
    if (!m) return std::nullopt;
    const auto& t = m->triangles[std::size_t{ref.page} * kPageSize + (id & 0xFFFFu)];
    return std::array<Vec3, 3>{m->vertices[t[0]], m->vertices[t[1]], m->vertices[t[2]]};
}

// Light from the upper left behind, as on hill shading; both sides alike.
Scene::Facing Scene::facing(std::uint32_t id, const ViewFrame& view) const {
    const PageRef ref = pages_[id >> 16];
    const Look& look = looks_[ref.item];
    if (!look.triangles) return {};
    const mesh::TriMesh& m = *look.triangles;
    const auto& t = m.triangles[std::size_t{ref.page} * kPageSize + (id & 0xFFFFu)];
    const Vec3& a = m.vertices[t[0]];
    const Vec3 n = cross(m.vertices[t[1]] - a, m.vertices[t[2]] - a);
    const double length = norm(n);
    const bool away = !look.two_sided && dot(n, view.perspective ? view.eye - a : view.ahead * -1.0) < 0;
    return {length > 0 ? 0.42 + 0.58 * std::fabs(dot(n, kLight)) / length : 0.42, away};
}

Rgb Scene::paint(std::uint32_t id, const Vec3& place, double pixel) const {
    const PageRef ref = pages_[id >> 16];
    const Look& look = looks_[ref.item];
    const std::size_t t = std::size_t{ref.page} * kPageSize + (id & 0xFFFFu);
    const std::array<Vec3, 3> c = *corners(id);
    std::array<double, 3> at = barycentric(place, c[0], c[1], c[2]);
    // The middle of a pixel at the rim may lie a little outside.
    double sum = 0;
    for (double& w : at) sum += w = std::max(w, 0.0);
    for (double& w : at) w /= sum;
    double spot = 0;
    if (!look.attributes->texture.empty()) {
        const auto& uv = look.attributes->texture[t];
        const double u1 = static_cast<double>(uv[1][0] - uv[0][0]),
                     v1 = static_cast<double>(uv[1][1] - uv[0][1]),
                     u2 = static_cast<double>(uv[2][0] - uv[0][0]),
                     v2 = static_cast<double>(uv[2][1] - uv[0][1]);
        const double area = norm(cross(c[1] - c[0], c[2] - c[0]));
        spot = area > 0 ? pixel * std::sqrt(std::fabs(u1 * v2 - u2 * v1) / area) : 0;
    }
    const Vec3 n = normalized(cross(c[1] - c[0], c[2] - c[0]));
    // Colours that were scanned have light and shade of their own.
    return scaled(mesh::colour_at(*look.attributes, t, at, spot), 0.72 + 0.28 * std::fabs(dot(n, kLight)));
}

Rgb Scene::colour(std::uint32_t id) const {
    const Rgb c = plain_colour(id);
    return looks_[pages_[id >> 16].item].triangles ? scaled(c, facing(id, {}).light) : c;
}

Rgb Scene::plain_colour(std::uint32_t id) const {
    const PageRef ref = pages_[id >> 16];
    const Look& look = looks_[ref.item];
    const std::size_t i = id & 0xFFFFu;
    switch (look.by) {
        case site::ColourBy::Rgb:
            return look.cloud->colour()->value(ref.page, i);
        case site::ColourBy::Intensity: {
            const double v = look.cloud->intensity()->value(ref.page, i) * look.i_scale + look.i_offset;
            const auto grey = static_cast<std::uint32_t>(std::clamp(v, 0.0, 255.0));
            return grey << 16 | grey << 8 | grey;
        }
        case site::ColourBy::Height:
            if (look.stepped)
                return height_colour(static_cast<int>(std::clamp(
                    look.stepped->position(look.cloud->grid().offset.z +
                                           look.cloud->grid().scale.z * look.cloud->z().value(ref.page, i)),
                    0.0, 255.0)));
            return height_colour(static_cast<int>(
                std::clamp(look.cloud->z().value(ref.page, i) * look.z_scale + look.z_offset, 0.0, 255.0)));
        case site::ColourBy::Class:
            return (*look.class_colours)[look.class_of(ref.page, i)];
        case site::ColourBy::Column: {
            const float v = look.column->value(ref.page, i) * look.c_scale + look.c_offset;
            if (v != v) return 0x606060u;  // not a number: grey
            int position = static_cast<int>(std::clamp(v, 0.0f, 255.0f));
            if (look.stepped)  // exactly, by the value itself
                position = static_cast<int>(
                    std::clamp(look.stepped->position(look.column_base +
                                                      static_cast<double>(look.column->value(ref.page, i))),
                               0.0, 255.0));
            return look.change ? change_colour(position) : height_colour(position);
        }
        case site::ColourBy::Single:
            break;
    }
    return look.single;
}

namespace {

// Null where all are those of the standard.
std::shared_ptr<const ClassColours> colours_of(const site::Site& site) {
    if (site.classes.empty()) return nullptr;
    auto own = std::make_shared<ClassColours>(standard_colours());
    for (const site::SiteClass& c : site.classes) (*own)[c.code] = c.colour;
    return own;
}

}  // namespace

Scene scene_of(const site::Site& site, const site::Parts& ghosts, const ColumnOf& column_of) {
    std::vector<DrawItem> items;
    for (const site::ItemPtr& i : site.items) {
        if (!i->visible) continue;
        DrawItem d{i->id,    i->cloud, i->absent,  nullptr, nullptr,
                   i->style, nullptr,  i->guarded, nullptr, i->drape};
        if (i->style.colour_by == site::ColourBy::Class) {
            d.decided = i->decided;
            d.class_colours = colours_of(site);
        }
        if (column_of && i->style.colour_by == site::ColourBy::Column) d.column = column_of(*i);
        (site.of_removed ? d.picked_ghosts : d.selected) = site.selection_of(i->id);
        if (const auto g = ghosts.find(i->id); g != ghosts.end()) d.ghosts = g->second;
        items.push_back(std::move(d));
    }
    return Scene(std::move(items));
}

}  // namespace pristine::render
