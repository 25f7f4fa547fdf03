#include "demo/scene.h"

#include <cmath>
#include <cstdint>

namespace pristine::demo {
namespace {

constexpr double kWidth = 6.4, kLength = 28, kDepth = 5.2;  // of the chamber, m
constexpr double kNear = 1e-6;

Solid box(Vec3 a, Vec3 b, Kind kind, Rgb colour, Skin skin = Skin::Plain) {
    return {Solid::Shape::Box, a, b, kind, colour, skin};
}
Solid cylinder(Vec3 foot, double radius, double height, Kind kind, Rgb colour) {
    return {Solid::Shape::Cylinder, foot, {radius, 0, height}, kind, colour};
}
Solid sphere(Vec3 centre, double radius, Kind kind, Rgb colour) {
    return {Solid::Shape::Sphere, centre, {radius, 0, 0}, kind, colour};
}

struct Person {
    Vec3 feet;
    double height;
    Rgb vest, helmet;
};

std::vector<Person> people(int station) {
    const Rgb orange{232, 110, 32}, yellow{222, 210, 40}, white{235, 232, 225};
    if (station == 0)
        return {{{-1.1, 11.5, 0}, 1.78, orange, yellow},
                {{0.55, 12.4, 0}, 1.70, orange, white},
                {{-1.3, 15.4, 0}, 1.74, yellow, yellow}};
    return {{{0.9, 9.2, 0}, 1.78, orange, yellow},
            {{1.6, 16.8, 0}, 1.70, orange, white},
            {{-1.9, 13.1, 0}, 1.74, yellow, yellow}};
}

void add_person(std::vector<Solid>& s, const Person& p) {
    const double k = p.height / 1.75;
    const Rgb trousers{38, 44, 78}, skin{205, 160, 130}, boots{40, 34, 30};
    const auto at = [&](double x, double y, double z) { return p.feet + Vec3{x * k, y * k, z * k}; };
    for (const double side : {-0.11, 0.11}) {
        s.push_back(box(at(side - 0.06, -0.09, 0), at(side + 0.06, 0.18, 0.1), Kind::Worker, boots));
        s.push_back(cylinder(at(side, 0, 0.1), 0.085 * k, 0.78 * k, Kind::Worker, trousers));
        s.push_back(cylinder(at(side * 2.35, 0.02, 0.78), 0.055 * k, 0.62 * k, Kind::Worker, p.vest));
        s.push_back(sphere(at(side * 2.35, 0.02, 0.74), 0.06 * k, Kind::Worker, skin));
    }
    s.push_back(cylinder(at(0, 0, 0.86), 0.19 * k, 0.58 * k, Kind::Worker, p.vest));
    s.push_back(sphere(at(0, 0, 1.44), 0.17 * k, Kind::Worker, p.vest));
    s.push_back(sphere(at(0, 0, 1.62), 0.105 * k, Kind::Worker, skin));
    s.push_back(sphere(at(0, -0.01, 1.66), 0.118 * k, Kind::Worker, p.helmet));
}

void put_cart(std::vector<Solid>& s, Vec3 at) {
    const Rgb red{176, 52, 42}, steel{110, 112, 118}, tyre{34, 34, 36};
    s.push_back(box(at + Vec3{-0.45, -0.35, 0.38}, at + Vec3{0.45, 0.35, 0.85}, Kind::Cart, red));
    for (const double x : {-0.3, 0.3})
        for (const double y : {-0.38, 0.38})
            s.push_back(sphere(at + Vec3{x, y, 0.19}, 0.19, Kind::Cart, tyre));
    s.push_back(box(at + Vec3{-0.32, -0.3, 0.3}, at + Vec3{0.32, 0.3, 0.38}, Kind::Cart, steel));
    for (const double y : {-0.3, 0.3})
        s.push_back(box(at + Vec3{0.45, y - 0.02, 0.75}, at + Vec3{0.95, y + 0.02, 0.79}, Kind::Cart, steel));
    s.push_back(box(at + Vec3{0.91, -0.3, 0.75}, at + Vec3{0.95, 0.3, 0.79}, Kind::Cart, steel));
}

void add_chamber(std::vector<Solid>& s) {
    const double w = kWidth / 2;
    const Rgb brick{150, 106, 84}, concrete{128, 126, 116}, stone{172, 164, 146}, oak{88, 66, 46},
        grass{84, 108, 58};
    s.push_back(box({-w - 1, -4, -1}, {w + 1, kLength + 6, 0}, Kind::Floor, concrete, Skin::Concrete));
    for (const double side : {-1.0, 1.0}) {
        const double in = side * w, out = side * (w + 0.9), far = side * (w + 9);
        s.push_back(box({std::min(in, out), -4, 0}, {std::max(in, out), kLength + 6, kDepth - 0.3},
                        Kind::Wall, brick, Skin::Brick));
        s.push_back(box({std::min(in - side * 0.06, out), -4, kDepth - 0.3},
                        {std::max(in - side * 0.06, out), kLength + 6, kDepth}, Kind::Ground, stone,
                        Skin::Concrete));
        s.push_back(box({std::min(out, far), -4, kDepth - 1},
                        {std::max(out, far), kLength + 6, kDepth - 0.04}, Kind::Ground, grass, Skin::Grass));
    }
    s.push_back(box({-w, kLength, 0}, {w, kLength + 0.5, kDepth - 0.5}, Kind::Gate, oak, Skin::Wood));
    s.push_back(box({-w, kLength + 0.1, kDepth - 0.9}, {w, kLength + 0.9, kDepth - 0.2}, Kind::Gate, oak,
                    Skin::Wood));
    s.push_back(box({-w, -3.6, 0}, {w, -3.1, kDepth - 0.5}, Kind::Gate, oak, Skin::Wood));
    const Rgb iron{92, 94, 98};
    for (const double x : {0.0, 0.42})
        s.push_back(box({w - 0.14, 19.6 + x, 0.3}, {w - 0.09, 19.65 + x, kDepth + 0.4}, Kind::Ladder, iron));
    for (int rung = 0; rung < 17; ++rung)
        s.push_back(box({w - 0.13, 19.65, 0.5 + 0.3 * rung}, {w - 0.1, 20.02, 0.53 + 0.3 * rung},
                        Kind::Ladder, iron));
}

std::optional<Hit> hit_box(const Solid& s, Vec3 o, Vec3 d) {
    double enter = -INFINITY, leave = INFINITY;
    int axis = -1;
    for (int a = 0; a < 3; ++a) {
        if (d[a] == 0) {
            if (o[a] < s.a[a] || o[a] > s.b[a]) return {};
            continue;
        }
        double t0 = (s.a[a] - o[a]) / d[a], t1 = (s.b[a] - o[a]) / d[a];
        if (t0 > t1) std::swap(t0, t1);
        if (t0 > enter) {
            enter = t0;
            axis = a;
        }
        leave = std::min(leave, t1);
    }
    if (enter > leave || enter < kNear || axis < 0) return {};
    Hit h{enter, {}, &s};
    h.normal[axis] = d[axis] > 0 ? -1 : 1;
    return h;
}

std::optional<Hit> hit_sphere(const Solid& s, Vec3 o, Vec3 d) {
    const Vec3 v = o - s.a;
    const double b = dot(v, d), c = dot(v, v) - s.b.x * s.b.x, disc = b * b - c;
    if (disc < 0) return {};
    const double t = -b - std::sqrt(disc);
    if (t < kNear) return {};
    return Hit{t, (v + d * t) * (1 / s.b.x), &s};
}

std::optional<Hit> hit_cylinder(const Solid& s, Vec3 o, Vec3 d) {
    const double ox = o.x - s.a.x, oy = o.y - s.a.y, radius = s.b.x;
    const double a = d.x * d.x + d.y * d.y, b = ox * d.x + oy * d.y, c = ox * ox + oy * oy - radius * radius;
    std::optional<Hit> best;
    if (a > 0 && b * b - a * c >= 0) {
        const double t = (-b - std::sqrt(b * b - a * c)) / a, z = o.z + t * d.z - s.a.z;
        if (t > kNear && z >= 0 && z <= s.b.z)
            best = Hit{t, {(ox + t * d.x) / radius, (oy + t * d.y) / radius, 0}, &s};
    }
    if (d.z < 0) {  // the lid, seen from above
        const double t = (s.a.z + s.b.z - o.z) / d.z, x = ox + t * d.x, y = oy + t * d.y;
        if (t > kNear && x * x + y * y <= radius * radius && (!best || t < best->range))
            best = Hit{t, {0, 0, 1}, &s};
    }
    return best;
}

// Smooth value noise, 0..1.
double noise(double x, double y) {
    const auto lattice = [](std::int64_t i, std::int64_t j) {
        auto h = static_cast<std::uint32_t>(i) * 374761393u + static_cast<std::uint32_t>(j) * 668265263u;
        h = (h ^ (h >> 13)) * 1274126177u;
        return static_cast<double>((h ^ (h >> 16)) & 0xFFFFu) / 65535.0;
    };
    const double fx = std::floor(x), fy = std::floor(y);
    const auto i = static_cast<std::int64_t>(fx), j = static_cast<std::int64_t>(fy);
    double u = x - fx, v = y - fy;
    u = u * u * (3 - 2 * u);
    v = v * v * (3 - 2 * v);
    const double low = lattice(i, j) * (1 - u) + lattice(i + 1, j) * u;
    const double high = lattice(i, j + 1) * (1 - u) + lattice(i + 1, j + 1) * u;
    return low * (1 - v) + high * v;
}

double fraction(double v) {
    return v - std::floor(v);
}

// 0.55 in the joints of a brick bond, about 1 on the bricks, no two quite alike.
double brick_shade(double along, double up) {
    const double course = std::floor(up / 0.075),
                 x = along / 0.225 + (std::fmod(std::fabs(course), 2) < 1 ? 0 : 0.5);
    if (fraction(up / 0.075) < 0.13 || fraction(x) < 0.045) return 0.66;
    return 0.86 + 0.28 * noise(std::floor(x) * 7.3, course * 3.1);
}

double distance_to(const Solid& s, Vec3 p) {
    if (s.shape == Solid::Shape::Sphere) return std::fabs(norm(p - s.a) - s.b.x);
    // Outside: how far on each axis beyond the faces; inside: the nearest face.
    Vec3 beyond;
    if (s.shape == Solid::Shape::Box) {
        for (int a = 0; a < 3; ++a) beyond[a] = std::max(s.a[a] - p[a], p[a] - s.b[a]);
    } else {
        beyond = {std::hypot(p.x - s.a.x, p.y - s.a.y) - s.b.x, -1e300,
                  std::max(s.a.z - p.z, p.z - s.a.z - s.b.z)};
    }
    const double most = std::max({beyond.x, beyond.y, beyond.z});
    if (most <= 0) return -most;
    return norm({std::max(0.0, beyond.x), std::max(0.0, beyond.y), std::max(0.0, beyond.z)});
}

}  // namespace

void add_person(std::vector<Solid>& s, Vec3 feet, double height, Rgb vest, Rgb helmet) {
    add_person(s, Person{feet, height, vest, helmet});
}

void add_cart(std::vector<Solid>& s, Vec3 at) {
    put_cart(s, at);
}

std::vector<Solid> make_chamber() {
    std::vector<Solid> s;
    add_chamber(s);
    return s;
}

double distance_to(const std::vector<Solid>& solids, Vec3 p) {
    double nearest = INFINITY;
    for (const Solid& s : solids) nearest = std::min(nearest, distance_to(s, p));
    return nearest;
}

std::vector<Solid> make_scene(int station) {
    std::vector<Solid> s;
    add_chamber(s);
    for (const Person& p : people(station)) add_person(s, p);
    put_cart(s, station == 0 ? Vec3{1.75, 13.2, 0} : Vec3{-1.2, 18.4, 0});
    return s;
}

std::vector<Vec3> workers_at(int station) {
    std::vector<Vec3> feet;
    for (const Person& p : people(station)) feet.push_back(p.feet + kSiteOrigin);
    return feet;
}

std::optional<Hit> cast(const std::vector<Solid>& solids, Vec3 o, Vec3 d) {
    std::optional<Hit> best;
    for (const Solid& s : solids) {
        const auto h = s.shape == Solid::Shape::Box        ? hit_box(s, o, d)
                       : s.shape == Solid::Shape::Cylinder ? hit_cylinder(s, o, d)
                                                           : hit_sphere(s, o, d);
        if (h && (!best || h->range < best->range)) best = h;
    }
    return best;
}

Rgb colour_at(const Hit& h, Vec3 p) {
    double shade = 1;
    Rgb c = h.solid->colour;
    const double along = std::fabs(h.normal.x) > 0.5 ? p.y : p.x;
    switch (h.solid->skin) {
        case Skin::Plain:
            break;
        case Skin::Brick: {
            shade = brick_shade(along, p.z);
            const double wet = std::max(0.0, 1 - p.z / 2.4) * (0.5 + 0.5 * noise(along * 0.7, p.z * 2));
            c = {c.r * (1 - 0.45 * wet), c.g * (1 - 0.25 * wet),
                 c.b * (1 - 0.35 * wet)};  // algae below the old water line
            break;
        }
        case Skin::Concrete:
            shade = 0.78 + 0.3 * noise(p.x * 1.3, p.y * 1.3) + 0.12 * noise(p.x * 9, p.y * 9);
            break;
        case Skin::Grass:
            shade = 0.6 + 0.7 * noise(p.x * 6, p.y * 6);
            break;
        case Skin::Wood:
            shade = 0.75 + 0.4 * noise(along * 5, p.z * 0.6);
            break;
    }
    const double light = 0.72 + 0.28 * std::fabs(h.normal.z) + 0.08 * h.normal.x;
    return {c.r * shade * light, c.g * shade * light, c.b * shade * light};
}

}  // namespace pristine::demo
