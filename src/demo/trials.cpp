#include "demo/trials.h"

#include <cmath>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/base/parallel.h"
#include "core/cloud/builder.h"

namespace pristine::demo {
namespace {

constexpr Rgb kPaint{190, 150, 40}, kOrange{232, 110, 32}, kYellow{222, 210, 40};

Solid block(Vec3 a, Vec3 b) {
    return {Solid::Shape::Box, a, b, Kind::Cart, kPaint};
}

// ---- things that stand on land

struct Furnisher {
    World& w;
    Dice dice;
    double margin = 4;
    Vec3 place() {
        const double x = dice.between(margin, w.size - margin), y = dice.between(margin, w.size - margin);
        return {x, y, w.height(x, y)};
    }
    // Nobody parks across a face: the most level of some places.
    Vec3 level_place(double a, double b) {
        Vec3 best;
        double least = INFINITY;
        for (int i = 0; i < 40; ++i) {
            const Vec3 p = place();
            double lo = INFINITY, hi = -INFINITY;
            for (double u = -0.5; u <= a + 0.5; u += 0.5)
                for (double v = -0.5; v <= b + 0.5; v += 0.5) {
                    const double z = w.height(p.x + u, p.y + v);
                    lo = std::min(lo, z);
                    hi = std::max(hi, z);
                }
            if (hi - lo < least) {
                least = hi - lo;
                best = p;
            }
        }
        return best;
    }
    // The lowest ground under a footprint: things are dug in rather than floating.
    double foot(double x, double y, double a, double b) const {
        double z = INFINITY;
        for (const double u : {0.0, 0.5, 1.0})
            for (const double v : {0.0, 0.5, 1.0}) z = std::min(z, w.height(x + u * a, y + v * b));
        return z;
    }
    void note(const char* kind, const Vec3& foot, double a, double b) {
        w.things.push_back({kind, foot + Vec3{a / 2, b / 2, 0}, std::hypot(a, b) / 2});
    }
    void building(double a, double b, double high) {
        const Vec3 p = level_place(a, b);
        const double x = std::min(p.x, w.size - a - 1), y = std::min(p.y, w.size - b - 1),
                     z = foot(x, y, a, b);
        w.solids.push_back(block({x, y, z - 1}, {x + a, y + b, z + high}));
        note("building", {x, y, z}, a, b);
    }
    void vehicle() {
        const Vec3 p = level_place(4.4, 1.8);
        const double z = foot(p.x, p.y, 4.4, 1.8);
        note("vehicle", p, 4.4, 1.8);
        w.solids.push_back(block(p + Vec3{0, 0, z - p.z + 0.35}, {p.x + 4.4, p.y + 1.8, z + 0.95}));
        w.solids.push_back(block({p.x + 1, p.y + 0.1, z + 0.95}, {p.x + 3.6, p.y + 1.7, z + 1.5}));
        for (const double u : {0.8, 3.6})
            for (const double v : {0.1, 1.7})
                w.solids.push_back({Solid::Shape::Sphere,
                                    {p.x + u, p.y + v, z + 0.34},
                                    {0.34, 0, 0},
                                    Kind::Cart,
                                    {30, 30, 30}});
    }
    void machine() {
        const Vec3 p = level_place(7.5, 3);
        const double z = foot(p.x, p.y, 4.2, 3);
        note("machine", p, 7.8, 3);
        for (const double v : {0.0, 2.4})
            w.solids.push_back(block({p.x, p.y + v, z - 0.2}, {p.x + 4.2, p.y + v + 0.6, z + 0.9}));
        w.solids.push_back(block({p.x + 0.3, p.y + 0.2, z + 1}, {p.x + 3.9, p.y + 2.8, z + 2.7}));
        w.solids.push_back(block({p.x + 3.9, p.y + 1.2, z + 1.6}, {p.x + 7.5, p.y + 1.7, z + 2.1}));
        w.solids.push_back(block({p.x + 7.2, p.y + 1, z + 0.1}, {p.x + 7.8, p.y + 1.9, z + 2}));
    }
    void crate() {
        const Vec3 p = place();
        w.solids.push_back(block(p - Vec3{0, 0, 1.5}, p + Vec3{1.4, 1, 1.2}));
    }
    void person() {
        const Vec3 p = place();
        add_person(w.solids, p, dice.between(1.62, 1.88), kOrange, kYellow);
        note("person", p, 0, 0);
    }
    void bush() {
        const Vec3 p = place();
        const double r = dice.between(0.5, 1.5);
        w.crowns.push_back({p + Vec3{0, 0, 0.6 * r}, r, 0.5});
        w.things.push_back({"vegetation", p, r});
    }
    void tree() {
        const Vec3 p = place();
        const double tall = dice.between(4, 11), r = tall * dice.between(0.22, 0.32);
        w.solids.push_back({Solid::Shape::Cylinder,
                            p - Vec3{0, 0, 0.5},
                            {dice.between(0.1, 0.25), 0, tall},
                            Kind::Cart,
                            {90, 70, 50}});
        w.crowns.push_back({p + Vec3{0, 0, tall}, r, 1.6});
        w.things.push_back({"vegetation", p, r});
    }
    void pole() {
        const Vec3 p = place();
        w.solids.push_back({Solid::Shape::Cylinder, p, {0.08, 0, 6}, Kind::Cart, kPaint});
        note("pole", p, 0, 0);
    }
    template <class Make>
    void many(int n, Make make) {
        for (int i = 0; i < n; ++i) make();
    }
};

World flat_land(std::uint64_t seed) {
    World w;
    const double s = static_cast<double>(seed % 1000);
    w.height = [s](double x, double y) {
        double z = 0.25 * std::sin(0.11 * x + s) + 0.2 * std::sin(0.13 * y - s) +
                   0.01 * std::sin(5 * x) * std::sin(4 * y);
        if (std::fabs(y - 40) < 3.5) z -= 0.12;                          // a road between kerbs
        const double ditch = std::fabs(x - 15 - 2 * std::sin(0.1 * y));  // 0.9 m deep
        if (ditch < 1.4) z -= 0.9 * (1 - ditch / 1.4);
        return z;
    };
    Furnisher f{w, Dice(seed * 3 + 1)};
    f.building(12, 18, 6);
    f.building(20, 14, 9);
    f.building(6, 4, 3);
    f.many(8, [&] { f.vehicle(); });
    f.many(2, [&] { f.machine(); });
    f.many(10, [&] { f.person(); });
    f.many(14, [&] { f.bush(); });
    f.many(10, [&] { f.tree(); });
    f.many(6, [&] { f.pole(); });
    return w;
}

World hillside(std::uint64_t seed) {
    World w;
    const double s = static_cast<double>(seed % 1000);
    w.height = [s](double x, double y) {
        return x + 0.4 * std::sin(0.2 * y + s) + 0.15 * std::sin(0.9 * x) * std::sin(0.8 * y + s) +
               0.02 * std::sin(6 * x) * std::sin(5 * y);
    };
    Furnisher f{w, Dice(seed * 3 + 2)};
    f.many(8, [&] { f.crate(); });
    f.many(5, [&] { f.person(); });
    f.many(16, [&] { f.bush(); });
    f.many(16, [&] { f.tree(); });
    f.many(6, [&] { f.pole(); });
    return w;
}

World terraced(std::uint64_t seed) {
    World w;
    Dice dice(seed * 5 + 3);
    std::vector<double> faces;
    for (double x = dice.between(8, 12); x < 76; x += dice.between(9, 14)) faces.push_back(x);
    const double s = static_cast<double>(seed % 1000);
    const double high = dice.between(3, 5), ramp = dice.between(62, 70);
    w.height = [faces, s, high, ramp](double x, double y) {
        double z = 0.05 * std::sin(3 * x) * std::sin(2.5 * y) + 0.1 * std::sin(0.3 * y + s);
        for (const double face : faces) {
            const double edge = face + 1.2 * std::sin(0.15 * y + face) + 0.25 * std::sin(1.3 * y + s);
            if (y > ramp && y < ramp + 7)  // haul road through the faces
                z += high * std::clamp((x - edge + 4) / 8, 0.0, 1.0);
            else
                z += high * std::clamp((x - edge) / 0.35 + 0.5, 0.0, 1.0);
        }
        return z;
    };
    Furnisher f{w, Dice(seed * 3 + 3)};
    f.building(5, 6, 3.5);
    f.many(4, [&] { f.machine(); });
    f.many(5, [&] { f.vehicle(); });
    f.many(8, [&] { f.person(); });
    f.many(14, [&] { f.bush(); });
    f.many(5, [&] { f.tree(); });
    return w;
}

World pit(std::uint64_t seed) {
    World w;
    Dice dice(seed * 7 + 4);
    struct Heap {
        double x, y, high;
    };
    std::vector<Heap> heaps;
    for (int i = 0; i < 4; ++i)
        heaps.push_back({dice.between(38, 74), dice.between(6, 74), dice.between(2, 5)});
    const double s = static_cast<double>(seed % 1000);
    w.height = [heaps, s](double x, double y) {
        double z = 0.3 * std::sin(0.1 * x + s) + 0.03 * std::sin(4 * x) * std::sin(3 * y);
        z += 9 * std::clamp((24 + 2 * std::sin(0.12 * y) - x) / 3.5, 0.0, 1.0);  // a face of 69 degrees
        z += 6 * std::clamp((11 - x) / 8.0, 0.0, 1.0);
        for (const Heap& h : heaps)  // at the angle of repose
            z = std::max(z, h.high - 0.75 * std::hypot(x - h.x, y - h.y));
        return z;
    };
    Furnisher f{w, Dice(seed * 3 + 4)};
    f.building(10, 14, 5);
    f.many(4, [&] { f.machine(); });
    f.many(6, [&] { f.vehicle(); });
    f.many(12, [&] { f.bush(); });
    f.many(6, [&] { f.tree(); });
    return w;
}

std::vector<Vec3> tripods(const World& w, int n, std::uint64_t seed) {
    Dice dice(seed * 11 + 9);
    std::vector<Vec3> out;
    for (int i = 0; i < n; ++i) {
        const double x = (0.2 + 0.6 * ((i % 2) + 0.2 * dice.uniform())) * w.size,
                     y = (0.2 + 0.6 * ((i / 2 % 2) + 0.2 * dice.uniform())) * w.size;
        out.push_back({x, y, w.height(x, y) + 1.7});
    }
    // Nobody sets a tripod up inside something.
    for (Vec3& t : out)
        while (distance_to(w.solids, t) < 0.5 && t.z < 40) t.z += 0.5;
    return out;
}

constexpr double kScanNoise = 0.004, kFlightNoise = 0.02, kPictureNoise = 0.02, kNoiseShare = 0.0008;

std::uint64_t count(double n, double size) {
    return static_cast<std::uint64_t>(n * size);
}

Trial on_land(const std::string& name, World w, bool from_air, std::uint64_t seed, double size) {
    Trial t{name, {}, {}, w.things};
    if (from_air) {
        t.points = fly_over(w, count(500'000, size), kFlightNoise, seed);
    } else {
        t.stations = tripods(w, 4, seed);
        t.points = scan_from(w, t.stations, count(600'000, size), kScanNoise, seed);
    }
    add_noise(t.points, w, kNoiseShare, seed);
    return t;
}

Trial pictures(std::uint64_t seed, double size) {
    const World w = pit(seed);
    Trial t{"pictures", from_pictures(w, count(600'000, size), 0.15, kPictureNoise, seed), {}, w.things};
    add_noise(t.points, w, 0.0003, seed);
    return t;
}

// ---- the chamber, seen from inside

struct Beam {
    Vec3 direction;
    double luck;
};

// Every beam of the raster of a station, in runs.
template <class Visit>
void sweep(Trial& t, std::size_t station, std::uint64_t beams, std::uint64_t seed, Visit&& visit) {
    const auto rows = static_cast<std::uint64_t>(std::sqrt(static_cast<double>(beams) * 0.39)) + 1;
    const std::uint64_t columns = beams / rows + 1;
    const auto parts = parallel::map<std::vector<TrialPoint>>(columns, [&](std::size_t c) {
        Dice dice(seed * 7919 + station * 104729 + c * 0x9E3779B9u);
        std::vector<TrialPoint> out;
        for (std::uint64_t r = 0; r < rows; ++r) {
            const double a = 2 * std::numbers::pi * (static_cast<double>(c) + 0.3 * dice.uniform()) /
                             static_cast<double>(columns);
            const double e =
                -1.08 + 2.44 * (static_cast<double>(r) + 0.3 * dice.uniform()) / static_cast<double>(rows);
            const Vec3 d{std::cos(e) * std::sin(a), std::cos(e) * std::cos(a), std::sin(e)};
            visit(d, dice, out);
        }
        return out;
    });
    for (const auto& part : parts) t.points.insert(t.points.end(), part.begin(), part.end());
}

constexpr double kRangeNoise = 0.002;

Vec3 somewhere(Dice& dice) {
    return {dice.between(-2.4, 2.4), dice.between(0, 26), 0};
}

std::vector<Solid> with_people(Dice& dice, int n) {
    std::vector<Solid> s = make_chamber();
    for (int i = 0; i < n; ++i) add_person(s, somewhere(dice), dice.between(1.62, 1.88), kOrange, kYellow);
    return s;
}

Trial strays(std::uint64_t seed, double size) {
    Trial t{"strays", {}, {{0.3, 4.2, 1.62}, {-0.8, 23.4, 1.58}}};
    for (std::size_t s = 0; s < t.stations.size(); ++s) {
        Dice people(seed * 13 + s);
        const auto scene = with_people(people, 3);
        sweep(t, s, count(900'000, size), seed, [&](Vec3 d, Dice& dice, std::vector<TrialPoint>& out) {
            const auto hit = cast(scene, t.stations[s], d);
            if (!hit || hit->range > 60) return;
            double range = hit->range + kRangeNoise * dice.normal();
            Truth truth = Truth::Ground;
            if (dice.uniform() < 0.0012) {
                range = hit->range * dice.between(0.25, 1.1);
                // One that falls on a surface cannot be told from it.
                if (distance_to(scene, t.stations[s] + d * range) > 0.04) truth = Truth::Noise;
            }
            const Vec3 p = t.stations[s] + d * range;
            out.push_back({p, colour_at(*hit, p), static_cast<std::uint16_t>(s), truth});
        });
    }
    return t;
}

// Rails along the floor, wires across, props: thin, and always there.
void add_thin(std::vector<Solid>& s, Dice& dice) {
    const auto thin = [&](Vec3 a, Vec3 b) {
        s.push_back({Solid::Shape::Box, a, b, Kind::Ladder, {92, 94, 98}});
    };
    for (const double x : {-0.7, 0.7}) thin({x, -2, 0.02}, {x + 0.06, 27, 0.14});
    for (int i = 0; i < 4; ++i) {
        const double y = dice.between(1, 26), z = dice.between(2.2, 4.6), r = dice.between(0.004, 0.02);
        thin({-3.2, y, z}, {3.2, y + r, z + r});
    }
    for (int i = 0; i < 5; ++i) {
        const double x = dice.between(-2.8, 2.8), y = dice.between(1, 26);
        s.push_back({Solid::Shape::Cylinder,
                     {x, y, 0},
                     {dice.between(0.02, 0.04), 0, 4.4},
                     Kind::Ladder,
                     {92, 94, 98}});
    }
}

Trial passers(std::uint64_t seed, double size, std::size_t stations) {
    Trial t{"passers",
            {},
            {{0.3, 4.2, 1.62},
             {-0.8, 23.4, 1.58},
             {1.9, 12.7, 1.66},
             {-1.6, 14.9, 1.6},
             {1.1, 19.2, 1.61},
             {-1.9, 8.6, 1.63}}};
    t.stations.resize(stations);
    Dice fixed(seed * 17);
    std::vector<Solid> chamber = make_chamber();
    add_thin(chamber, fixed);
    for (std::size_t s = 0; s < t.stations.size(); ++s) {
        Dice people(seed * 19 + s + 1);
        std::vector<Solid> scene = chamber;
        for (int i = 0; i < 3; ++i) {
            Vec3 feet;
            do feet = somewhere(people);
            while (norm(feet - Vec3{t.stations[s].x, t.stations[s].y, 0}) < 1.2);
            add_person(scene, feet, people.between(1.62, 1.88), kOrange, kYellow);
        }
        add_cart(scene, somewhere(people));
        sweep(t, s, count(700'000, size), seed, [&](Vec3 d, Dice& dice, std::vector<TrialPoint>& out) {
            const auto hit = cast(scene, t.stations[s], d);
            if (!hit || hit->range > 60) return;
            const Vec3 p = t.stations[s] + d * (hit->range + kRangeNoise * dice.normal());
            const Kind k = hit->solid->kind;
            out.push_back({p, colour_at(*hit, p), static_cast<std::uint16_t>(s),
                           k == Kind::Ladder                      ? Truth::Thin
                           : k == Kind::Worker || k == Kind::Cart ? Truth::Object
                                                                  : Truth::Ground});
        });
    }
    return t;
}

// Colours are taken a little beside the beam: at the rim of things against the sky, they are the sky's.
Trial sky(std::uint64_t seed, double size) {
    Trial t{"sky", {}, {{0.3, 4.2, 1.62}, {-0.8, 23.4, 1.58}}};
    for (std::size_t s = 0; s < t.stations.size(); ++s) {
        Dice people(seed * 23 + s);
        const auto scene = with_people(people, 4);
        sweep(t, s, count(900'000, size), seed, [&](Vec3 d, Dice& dice, std::vector<TrialPoint>& out) {
            const auto hit = cast(scene, t.stations[s], d);
            if (!hit || hit->range > 60) return;
            const Vec3 p = t.stations[s] + d * (hit->range + kRangeNoise * dice.normal());
            Rgb c = colour_at(*hit, p);
            Truth truth = Truth::Ground;
            const Vec3 beside = normalized(d + Vec3{0.004 * dice.normal(), 0.004 * dice.normal(), 0.006});
            if (!cast(scene, t.stations[s], beside)) {
                const double share = dice.between(0.7, 1), glow = 8 * dice.normal();
                const Rgb blue{176 + glow, 203 + glow, 236 + glow};
                c = {c.r + share * (blue.r - c.r), c.g + share * (blue.g - c.g),
                     c.b + share * (blue.b - c.b)};
                truth = Truth::Noise;
            }
            out.push_back({p, c, static_cast<std::uint16_t>(s), truth});
        });
    }
    return t;
}

}  // namespace

const std::vector<std::string>& trial_names() {
    static const std::vector<std::string> names{"flat",         "flat_air", "slope",  "slope_air", "terraces",
                                                "terraces_air", "pictures", "strays", "passers",   "sky"};
    return names;
}

std::vector<Thing> standing_free(const Trial& t) {
    std::vector<Thing> free;
    for (const Thing& thing : t.things)
        if (std::none_of(t.things.begin(), t.things.end(), [&](const Thing& o) {
                return &o != &thing && std::hypot(o.middle.x - thing.middle.x, o.middle.y - thing.middle.y) <
                                           o.reach + thing.reach + 0.6;
            }))
            free.push_back(thing);
    return free;
}

Trial make_trial(const std::string& name, std::uint64_t seed, double size) {
    const bool air = name.size() > 4 && name.ends_with("_air");
    if (name.starts_with("flat")) return on_land(name, flat_land(seed), air, seed, size);
    if (name.starts_with("slope")) return on_land(name, hillside(seed), air, seed, size);
    if (name.starts_with("terraces")) return on_land(name, terraced(seed), air, seed, size);
    if (name == "pictures") return pictures(seed, size);
    if (name == "strays") return strays(seed, size);
    if (name == "passers") return passers(seed, size, 4);
    if (name == "passers_6") return passers(seed, size, 6);  // as many scans as a building has
    if (name == "sky") return sky(seed, size);
    throw Error(ErrorCode::Usage, "There is no trial '" + name + "'");
}

double tunnel_volume() {
    const double r = kTunnelRadius, h = -kTunnelFloor, half = std::acos(h / r);
    return kTunnelLength * (std::numbers::pi * r * r - (r * r * half - h * std::sqrt(r * r - h * h)));
}

namespace {

// Range to the lining, from inside.
double lining_range(Vec3 o, Vec3 d) {
    const double a = d.x * d.x + d.z * d.z, b = o.x * d.x + o.z * d.z,
                 c = o.x * o.x + o.z * o.z - kTunnelRadius * kTunnelRadius;
    double t = a > 0 ? (-b + std::sqrt(b * b - a * c)) / a : INFINITY;
    if (d.z < 0) t = std::min(t, (kTunnelFloor - o.z) / d.z);
    return t;
}

std::vector<Solid> fittings(Dice& dice) {
    std::vector<Solid> s{block({2.2, -1, 0.4}, {2.45, 60, 0.65}), block({-0.25, -1, 2.2}, {0.25, 60, 2.7}),
                         block({-2.75, -1, -0.5}, {-2.6, 60, -0.2})};
    for (double y = 3; y < 50; y += 8) s.push_back(block({-2.2, y, 1.2}, {-1.9, y + 0.6, 1.5}));
    for (int i = 0; i < 4; ++i)
        add_person(s, {dice.between(-1.6, 1.6), dice.between(2, 48), kTunnelFloor}, dice.between(1.62, 1.88),
                   kOrange, kYellow);
    return s;
}

}  // namespace

Trial make_tunnel(std::uint64_t seed, double size) {
    Trial t{"tunnel", {}, {}};
    for (const double y : {4.0, 14.0, 25.0, 36.0, 46.0}) t.stations.push_back({0.3, y, 0.1});
    Dice people(seed * 29 + 3);
    const std::vector<Solid> scene = fittings(people);
    for (std::size_t s = 0; s < t.stations.size(); ++s)
        sweep(t, s, count(400'000, size), seed, [&](Vec3 d, Dice& dice, std::vector<TrialPoint>& out) {
            const Vec3 o = t.stations[s];
            double range = lining_range(o, d);
            Truth truth = Truth::Ground;
            if (const auto hit = cast(scene, o, d); hit && hit->range < range) {
                range = hit->range;
                truth = Truth::Object;
            } else if (dice.uniform() < 0.0003) {
                range += dice.between(0.3, 4);
                truth = Truth::Noise;
            }
            const Vec3 p = o + d * (range + kRangeNoise * dice.normal());
            if (p.y < 0 || p.y > kTunnelLength) return;
            if (truth == Truth::Object &&
                (kTunnelRadius - std::hypot(p.x, p.z) < kTouching || p.z - kTunnelFloor < kTouching))
                truth = Truth::Either;
            out.push_back({p, {}, static_cast<std::uint16_t>(s), truth});
        });
    return t;
}

std::shared_ptr<const cloud::PointCloud> cloud_of(const Trial& t, std::vector<Truth>& truth) {
    using cloud::FieldType;
    cloud::RecordLayout layout{"trial",
                               14,
                               {{"x", FieldType::I32, 0, 0, 0, 0.0005, kSiteOrigin.x},
                                {"y", FieldType::I32, 4, 0, 0, 0.0005, kSiteOrigin.y},
                                {"z", FieldType::I32, 8, 0, 0, 0.0005, kSiteOrigin.z},
                                {"scan", FieldType::U16, 12}},
                               {}};
    std::string bytes;
    std::vector<cloud::PointBatch> batches;
    for (std::size_t i = 0; i < t.points.size(); ++i) {
        if (i % 50'000 == 0) batches.emplace_back();
        cloud::PointBatch& b = batches.back();
        const TrialPoint& p = t.points[i];
        const auto channel = [](double v) {
            return static_cast<std::uint32_t>(std::lround(std::clamp(v, 0.0, 255.0)));
        };
        b.x.push_back(static_cast<std::int32_t>(std::lround(p.at.x / 0.0005)));
        b.y.push_back(static_cast<std::int32_t>(std::lround(p.at.y / 0.0005)));
        b.z.push_back(static_cast<std::int32_t>(std::lround(p.at.z / 0.0005)));
        b.colour.push_back(channel(p.colour.r) << 16 | channel(p.colour.g) << 8 | channel(p.colour.b));
        append_le(bytes, b.x.back());
        append_le(bytes, b.y.back());
        append_le(bytes, b.z.back());
        append_le(bytes, p.scan);
    }
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.0005, 0.0005, 0.0005}, kSiteOrigin};
    parts.unit = t.unit;
    for (std::size_t s = 0; s < t.stations.size(); ++s)
        parts.stations.push_back({"Station " + std::to_string(s + 1), t.stations[s] + kSiteOrigin});
    parts.records = std::make_shared<cloud::MemoryRecords>(std::move(layout), std::move(bytes));
    auto made = cloud::build(std::move(batches), std::move(parts));
    truth.resize(made->size());
    const auto order = made->order();
    for (std::size_t p = 0; p < made->page_count(); ++p) {
        const auto original = order->page(p);
        for (std::size_t i = 0; i < original.size(); ++i)
            truth[p * kPageSize + i] = t.points[original[i]].truth;
    }
    return made;
}

}  // namespace pristine::demo
