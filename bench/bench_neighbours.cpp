// Nearest neighbours against a kd-tree (nanoflann), one thread against one, with the points in file order and
// in our page order.
//   bench_neighbours [points, default 10,000,000] [how many queries of the kd-tree, default all]

#include <fmt/format.h>

#include <atomic>
#include <nanoflann.hpp>

#include "bench_support.h"
#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/cloud/neighbours.h"

using namespace pristine;
using namespace pristine::bench;

namespace {

struct Points {
    std::vector<float> xyz;
    std::size_t kdtree_get_point_count() const { return xyz.size() / 3; }
    float kdtree_get_pt(std::size_t i, std::size_t d) const { return xyz[3 * i + d]; }
    template <class B>
    bool kdtree_get_bbox(B&) const {
        return false;
    }
};
using Tree = nanoflann::KDTreeSingleIndexAdaptor<nanoflann::L2_Simple_Adaptor<float, Points>, Points, 3>;

// Seconds to build, and to ask for every stride-th point, times stride.
std::pair<double, double> kd_tree(const Points& p, unsigned k, std::size_t stride, double& sum) {
    std::unique_ptr<Tree> tree;
    const double build = seconds([&] {
        tree = std::make_unique<Tree>(3, p, nanoflann::KDTreeSingleIndexAdaptorParams(16));
        tree->buildIndex();
    });
    sum = 0;
    std::vector<std::uint32_t> index(k + 1);
    std::vector<float> squared(k + 1);
    const double ask = seconds([&] {
        for (std::size_t i = 0; i < p.xyz.size() / 3; i += stride) {
            const std::size_t n = tree->knnSearch(&p.xyz[3 * i], k + 1, index.data(), squared.data());
            for (std::size_t j = 1; j < n; ++j) sum += static_cast<double>(std::sqrt(squared[j]));
        }
    });
    sum *= static_cast<double>(stride);
    return {build, ask * static_cast<double>(stride)};
}

void compare(const char* scene, std::vector<cloud::PointBatch> batches, std::uint64_t n, std::size_t stride) {
    Points in_file, in_pages;
    for (const auto& b : batches)
        for (std::size_t i = 0; i < b.size(); ++i)
            for (const std::int32_t v : {b.x[i], b.y[i], b.z[i]})
                in_file.xyz.push_back(static_cast<float>(v) * 0.001f);
    cloud::PointCloud::Parts parts;
    parts.grid = {{0.001, 0.001, 0.001}, {}};
    const auto c = cloud::build(std::move(batches), std::move(parts));
    for (std::size_t p = 0; p < c->page_count(); ++p) {
        const auto pos = c->positions(p);
        for (std::size_t i = 0; i < pos.size(); ++i)
            for (const std::int32_t v : {pos.x[i], pos.y[i], pos.z[i]})
                in_pages.xyz.push_back(static_cast<float>(v) * 0.001f);
    }
    fmt::print("{}, {} points, one thread\n", scene, n);
    for (const unsigned k : {8u, 16u}) {
        std::unique_ptr<cloud::NeighbourIndex> index;
        const double build =
            seconds([&] { index = std::make_unique<cloud::NeighbourIndex>(*c, ElementSet::all(c->size())); });
        std::vector<float> mean(n);
        const double ask = seconds([&] {
            index->for_each_nearest(k, [&](std::size_t i, const cloud::NeighbourIndex::Nearest& nearest) {
                float sum = 0;
                for (const float d : nearest.squared) sum += std::sqrt(d);
                mean[i] = sum;
            });
        });
        double ours = 0, theirs = 0;
        for (const float m : mean) ours += static_cast<double>(m);
        const auto [file_build, file_ask] = kd_tree(in_file, k, stride, theirs);
        const auto [page_build, page_ask] = kd_tree(in_pages, k, stride, theirs);
        fmt::print(
            "  k = {}: {:.2f} + {:.2f} s; kd-tree in file order {:.2f} + {:.2f} s, in page order {:.2f} + "
            "{:.2f} "
            "s; sums of distances {:.0f}, {:.0f}\n  ratio {:.1f} in file order, {:.1f} in page order\n",
            k, build, ask, file_build, file_ask, page_build, page_ask, ours, theirs,
            (file_build + file_ask) / (build + ask), (page_build + page_ask) / (build + ask));
        std::fflush(stdout);
    }
}

}  // namespace

int main(int argc, char** argv) {
    give_freed_pages_back();
    const std::uint64_t n = argc > 1 ? std::stoull(argv[1]) : 10'000'000;
    const std::size_t stride = argc > 2 ? std::max<std::size_t>(1, n / std::stoull(argv[2])) : 1;
    const parallel::WorkerLimit alone(1);
    compare("In strips", scan_like(n), n, stride);
    compare("Put together from many scans", put_together_like(n), n, stride);
}
