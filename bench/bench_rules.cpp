// What a rule costs once it is in hand: the preview of a range (the set, many times a second), and how the
// time of neighbours grows with the number of points.
//   bench_rules [points of the preview, default 50,000,000] [points of the growth, default 10,000,000: then
//   ten times as many]

#include <fmt/format.h>

#include <cmath>
#include <random>

#include "bench_support.h"
#include "core/base/memory.h"
#include "core/elements/column_writer.h"
#include "core/score/limits.h"
#include "core/score/score.h"

using namespace pristine;
using namespace pristine::bench;

namespace {

score::Column random_values(std::uint64_t n) {
    ColumnWriter<float> w(n);
    std::mt19937 dice(1);
    std::lognormal_distribution<float> value(0, 0.5f);
    std::vector<float> some(1 << 16);
    for (float& v : some) v = value(dice);
    for (std::size_t p = 0; p < pages_for(n); ++p) {
        std::vector<float> page(page_length(n, p));
        for (std::size_t i = 0; i < page.size(); ++i) page[i] = some[(i * 7 + p * 131) % some.size()];
        w.put(p, std::move(page));
    }
    return {0, w.finish()};
}

std::shared_ptr<const cloud::PointCloud> scan(std::uint64_t n) {
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {}};
    return cloud::build(scan_like(n), std::move(parts));
}

double spacing_seconds(std::uint64_t n) {
    const auto c = scan(n);
    const ElementSet all = ElementSet::all(c->size());
    return seconds([&] { score::compute(score::find("spacing"), {*c, all}, {{"neighbours", 8}}); });
}

}  // namespace

int main(int argc, char** argv) {
    give_freed_pages_back();
    const std::uint64_t n = argc > 1 ? std::stoull(argv[1]) : 50'000'000,
                        small = argc > 2 ? std::stoull(argv[2]) : 10'000'000;
    {
        const score::Column column = random_values(n);
        const ElementSet all = ElementSet::all(n);
        double worst = 0, sum = 0;
        std::uint64_t taken = 0;
        constexpr int kSteps = 20;
        for (int i = 0; i < kSteps; ++i) {
            score::Limits l;
            l.lo = 0.5 + 0.1 * i;
            l.hi = INFINITY;
            const double s = seconds([&] { taken += score::within(column, all, l).count(); });
            worst = std::max(worst, s);
            sum += s;
        }
        fmt::print("range of a score on {} points: mean {:.1f} ms, worst {:.1f} ms ({} taken)\n", n,
                   1000 * sum / kSteps, 1000 * worst, taken);
    }
    if (small == 0) return 0;
    const double one = spacing_seconds(small), ten = spacing_seconds(10 * small);
    fmt::print(
        "spacing, 8 neighbours: {} points {:.2f} s, {} points {:.2f} s: {:.2f} times; at most {} resident\n",
        small, one, 10 * small, ten, ten / one, bytes_text(resident_memory().peak));
}
