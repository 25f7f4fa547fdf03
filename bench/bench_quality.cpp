// How right the rules are: what each finds and what it takes wrongly, on trial sites whose truth is known.
//
//   bench_quality [FIRST_SEED LAST_SEED [SIZE [TRIAL...]]]
//
// Seeds 1 to 3 were used while the rules were made; what is reported comes from others.

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <map>

#include "core/base/units.h"
#include "core/objects/objects.h"
#include "core/recipe/recipe.h"
#include "core/score/suggest.h"
#include "core/tunnel/lining.h"
#include "demo/trials.h"
#include "demo/wide_trials.h"

using namespace pristine;
using demo::Truth;

namespace {

struct Counts {
    std::uint64_t of[6] = {}, taken[6] = {};
    double share(Truth t) const {
        const auto k = static_cast<std::size_t>(t);
        return of[k] ? 100.0 * static_cast<double>(taken[k]) / static_cast<double>(of[k]) : NAN;
    }
};

Counts count(const ElementSet& taken, const std::vector<Truth>& truth) {
    Counts c;
    for (std::size_t i = 0; i < truth.size(); ++i) {
        const auto k = static_cast<std::size_t>(truth[i]);
        ++c.of[k];
        c.taken[k] += taken.contains(i);
    }
    return c;
}

double seconds_of(const std::function<void()>& work) {
    const auto from = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

std::vector<std::string> rules_for(const std::string& trial) {
    if (trial == "strays") return {"stray >2.5"};
    if (trial == "passers") return {"through >0"};
    if (trial == "sky") return {"colour[red=176,green=203,blue=236] <=14"};
    if (trial.starts_with("terraces")) return {"ground[object=10] !-0.25..0.07"};
    return {"ground !-0.25..0.07"};
}

bool is_wide(const std::string& trial) {
    const auto& names = demo::wide_trial_names();
    return std::find(names.begin(), names.end(), trial) != names.end();
}

// As the card of the rule proposes it, before anybody touches a handle: the ground and the first range.
ElementSet off_the_ground(const cloud::PointCloud& c) {
    const ElementSet all = ElementSet::all(c.size());
    const score::Score& ground = score::find("ground");
    const score::Column column = score::compute(ground, {c, all}, score::suggested(ground, c).parameters);
    const auto range = score::first_range(
        ground, score::profile(column, ground.logarithmic, score::kUsualBins, ground.begins), column, c);
    const double unit = length_unit(c.unit()).metres;
    const double above = range ? range->limits.lo : ground.begins / unit;
    return all - score::within(column, all, {.lo = -std::max(0.25 / unit, above), .hi = above});
}

void report_wide(const std::string& trial, std::uint64_t seed, double size) {
    std::vector<Truth> truth;
    const auto cloud = demo::cloud_of(demo::make_wide_trial(trial, seed, size), truth);
    ElementSet gone(cloud->size());
    const double seconds = seconds_of([&] {
        if (trial == "strays_far")
            gone = score::run({score::parse_step("stray >2.5")}, *cloud, ElementSet::all(cloud->size()))
                       .front()
                       .elements;
        else
            gone = off_the_ground(*cloud);
    });
    const Counts c = count(gone, truth);
    fmt::print("{:<13} seed {:>10} {:>8} points {:6.1f} s  type I {:7.3f} %", trial, seed, cloud->size(),
               seconds, c.share(Truth::Ground));
    if (c.of[static_cast<std::size_t>(Truth::Object)])
        fmt::print("  type II {:7.3f} %", 100 - c.share(Truth::Object));
    if (c.of[static_cast<std::size_t>(Truth::Noise)])
        fmt::print("  noise kept {:7.3f} %", 100 - c.share(Truth::Noise));
    fmt::print("\n");
    std::fflush(stdout);
}

void report(const std::string& trial, std::uint64_t seed, double size) {
    std::vector<Truth> truth;
    const auto cloud = demo::cloud_of(demo::make_trial(trial, seed, size), truth);
    score::Recipe recipe;
    for (const std::string& r : rules_for(trial)) recipe.push_back(score::parse_step(r));
    ElementSet gone(cloud->size());
    const double seconds = seconds_of([&] {
        for (const score::Removal& r : score::run(recipe, *cloud, ElementSet::all(cloud->size())))
            gone = gone | r.elements;
    });
    const Counts c = count(gone, truth);
    const bool land = trial != "strays" && trial != "passers" && trial != "sky";
    fmt::print("{:<13} seed {:>3} {:>8} points {:6.1f} s  ", trial, seed, cloud->size(), seconds);
    if (land)
        fmt::print("type I {:6.3f} %  type II {:6.3f} %  sum {:6.3f} %  noise kept {:6.2f} %\n",
                   c.share(Truth::Ground), 100 - c.share(Truth::Object),
                   c.share(Truth::Ground) + 100 - c.share(Truth::Object), 100 - c.share(Truth::Noise));
    else
        fmt::print("found {:7.3f} %  taken wrongly {:7.4f} %{}\n",
                   c.share(trial == "passers" ? Truth::Object : Truth::Noise), c.share(Truth::Ground),
                   trial == "passers" ? fmt::format("  thin kept {:7.3f} %", 100 - c.share(Truth::Thin))
                                      : std::string());
    std::fflush(stdout);
}

}  // namespace

// What becomes of the things that stand free: how many are seen as one object, and told by their kind.
struct Told {
    std::uint64_t of = 0, seen = 0, right = 0;
    std::map<std::string, std::uint64_t> wrong;
};
using Kinds = std::map<std::string, Told>;

void count_kinds(const std::string& trial, std::uint64_t seed, double size, Kinds& kinds) {
    std::vector<Truth> truth;
    const demo::Trial t = demo::make_trial(trial, seed, size);
    const auto cloud = demo::cloud_of(t, truth);
    const ElementSet all = ElementSet::all(cloud->size());
    const score::Input in{*cloud, all};
    score::Parameters parameters;
    if (trial.starts_with("terraces")) parameters["object"] = 10;
    const score::Objects objects(in, score::compute(score::find("ground"), in, parameters));
    const auto apart = [](const Vec3& a, const Vec3& b) { return std::hypot(a.x - b.x, a.y - b.y); };
    for (const demo::Thing& thing : demo::standing_free(t)) {
        Told& k = kinds[thing.kind];
        ++k.of;
        for (const score::Object& o : objects.list()) {  // the largest first
            if (apart(o.centre - demo::kSiteOrigin, thing.middle) > std::max(0.5, thing.reach)) continue;
            ++k.seen;
            if (score::name_of(o.kind) == thing.kind)
                ++k.right;
            else
                ++k.wrong[score::name_of(o.kind)];
            break;
        }
    }
}

void report_kinds(std::uint64_t first, std::uint64_t last, double size) {
    for (const char* trial : {"flat_air", "flat", "slope_air", "slope", "terraces_air", "pictures"}) {
        Kinds kinds;
        for (std::uint64_t seed = first; seed <= last; ++seed) count_kinds(trial, seed, size, kinds);
        fmt::print("kinds of things, {}, seeds {} to {}\n", trial, first, last);
        for (const auto& [kind, k] : kinds) {
            fmt::print("  {:<11} {:>3} standing free, {:>3} seen, {:>3} told right;", kind, k.of, k.seen,
                       k.right);
            for (const auto& [name, n] : k.wrong) fmt::print(" {} as {}", n, name);
            fmt::print("\n");
        }
        std::fflush(stdout);
    }
}

void report_tunnel(std::uint64_t seed, double size) {
    std::vector<Truth> truth;
    const auto cloud = demo::cloud_of(demo::make_tunnel(seed, size), truth);
    const ElementSet all = ElementSet::all(cloud->size());
    const std::vector<Vec3> line{demo::kSiteOrigin, demo::kSiteOrigin + Vec3{0, demo::kTunnelLength, 0}};
    ElementSet inside(cloud->size());
    double volume = 0;
    const double seconds = seconds_of([&] {
        const score::Input in{*cloud, all, nullptr, nullptr, &line};
        inside =
            score::within(score::compute(score::find("lining"), in, {}), all, score::parse_limits(">0.05"));
        volume = mesh::signed_volume(tunnel::Lining(*cloud, all, line, {}).mesh(true, true));
    });
    const Counts c = count(inside, truth);
    fmt::print(
        "{:<13} seed {:>3} {:>8} points {:6.1f} s  inside found {:7.3f} %  lining kept {:7.3f} %  volume off "
        "{:+.3f} %\n",
        "tunnel", seed, cloud->size(), seconds, c.share(Truth::Object), 100 - c.share(Truth::Ground),
        100 * (volume / demo::tunnel_volume() - 1));
}

int main(int argc, char** argv) {
    const auto number = [&](int i, double usual) { return argc > i ? std::atof(argv[i]) : usual; };
    const auto first = static_cast<std::uint64_t>(number(1, 4)),
               last = static_cast<std::uint64_t>(number(2, 8));
    const double size = number(3, 1);
    std::vector<std::string> trials(argv + std::min(argc, 4), argv + argc);
    if (trials.empty()) {
        trials = demo::trial_names();
        trials.insert(trials.end(), demo::wide_trial_names().begin(), demo::wide_trial_names().end());
        trials.push_back("tunnel");
        trials.push_back("kinds");
    }
    try {
        for (const std::string& t : trials)
            if (t == "kinds")
                report_kinds(first, last, size);
            else
                for (std::uint64_t seed = first; seed <= last; ++seed)
                    t == "tunnel" ? report_tunnel(seed, size)
                    : is_wide(t)  ? report_wide(t, seed, size)
                                  : report(t, seed, size);
    } catch (const std::exception& e) {
        fmt::print(stderr, "{}\n", e.what());
        return 1;
    }
}
