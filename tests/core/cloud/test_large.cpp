// Clouds that do not fit in memory: the same pages through a file as in memory, whatever is given back.

#include <catch2/catch.hpp>

#include <algorithm>
#include <chrono>
#include <numeric>
#include <random>
#include <thread>
#include <tuple>

#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/base/spill_vector.h"
#include "core/cloud/builder.h"
#include "core/cloud/column.h"
#include "core/elements/column_writer.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "core/score/score.h"
#include "core/select/growth.h"
#include "support/cloud_makers.h"

using namespace pristine;
using cloud::PointBatch;
using cloud::PointCloud;
using test::Shape;

namespace {

// Nothing fits while it lives.
class NoMemory {
  public:
    NoMemory() : before_(memory_budget()) {
        set_memory_budget(0);
        ballast_.assign(std::size_t{300} << 20, 1);  // the least that is granted, and more
    }
    ~NoMemory() { set_memory_budget(before_); }

  private:
    std::uint64_t before_;
    std::vector<char> ballast_;
};

cloud::PointSource source_of(const std::vector<PointBatch>& batches, std::uint32_t announced_too_many = 0) {
    cloud::PointSource s;
    for (const PointBatch& b : batches)
        s.sizes.push_back(static_cast<std::uint32_t>(b.size()) + announced_too_many);
    s.columns = {true, true, true};
    s.batch = [&](std::size_t k) { return batches[k]; };
    return s;
}

template <class T>
bool same(std::span<const T> a, std::span<const T> b) {
    return std::ranges::equal(a, b);
}

bool same_pages(const PointCloud& a, const PointCloud& b) {
    if (a.size() != b.size()) return false;
    for (std::size_t p = 0; p < a.page_count(); ++p) {
        const auto at = a.positions(p), bt = b.positions(p);
        if (!same(at.x, bt.x) || !same(at.y, bt.y) || !same(at.z, bt.z)) return false;
        if (!same(a.intensity()->page(p), b.intensity()->page(p)) ||
            !same(a.colour()->page(p), b.colour()->page(p)) ||
            !same(a.classification()->page(p), b.classification()->page(p)))
            return false;
        if (a.order()->page(p) != b.order()->page(p) || a.info(p).spacing != b.info(p).spacing ||
            a.info(p).bounds.lo != b.info(p).bounds.lo || a.info(p).intensity_hi != b.info(p).intensity_hi)
            return false;
    }
    return a.robust_bounds().lo == b.robust_bounds().lo && a.intensity_span() == b.intensity_span();
}

}  // namespace

TEST_CASE("BuildingThroughAFileGivesTheSamePagesAsInMemory") {
    const std::uint64_t seed = test::seed_for("ThroughAFile");
    CAPTURE(seed);
    for (const Shape shape : {Shape::Terrain, Shape::Clusters, Shape::OnePlace, Shape::WithFarStrays})
        for (const std::uint64_t n : {1ull, 8193ull, 65537ull, 1'500'000ull}) {
            if (n == 1'500'000 && shape != Shape::Clusters) continue;
            CAPTURE(static_cast<int>(shape), n);
            const auto batches = test::random_batches(n, shape, seed);
            const auto in_memory = cloud::build(batches, {});
            // Many groups of batches: as little memory as there can be.
            REQUIRE(same_pages(*in_memory, *cloud::build_through_file(source_of(batches), {}, 0)));
            // Batches that turn out smaller than announced change nothing.
            REQUIRE(same_pages(*in_memory, *cloud::build_through_file(source_of(batches, 3), {}, 1 << 20)));
        }
}

TEST_CASE("ACloudThatDoesNotFitIsBuiltThroughAFileByItself") {
    const auto batches = test::random_batches(200'000, Shape::Terrain, 5);
    const auto in_memory = cloud::build(source_of(batches), {});
    CHECK(in_memory->z().page_ptr(0));
    const NoMemory none;
    const auto in_file = cloud::build(source_of(batches), {});
    CHECK_FALSE(in_file->z().page_ptr(0));
    CHECK(same_pages(*in_memory, *in_file));
    Progress cancelled;
    cancelled.cancel();
    CHECK_THROWS_AS(cloud::build(source_of(batches), {}, cancelled), Cancelled);
}

TEST_CASE("FilesReadTheSameWhetherTheyFitInMemoryOrNot") {
    const test::TemporaryFolder folder;
    test::LasSpec spec;
    spec.points = 150'000;
    spec.scan_like = true;
    test::write_file(folder / "a.las", test::las_file(spec));
    const auto las = io::read_cloud(folder / "a.las").cloud;
    io::write_cloud({{las, nullptr}}, folder / "a.laz");
    io::write_cloud({{las, nullptr}}, folder / "a.ply");
    for (const char* name : {"a.las", "a.laz", "a.ply"}) {
        CAPTURE(name);
        const auto fits = io::read_cloud(folder / name).cloud;
        const NoMemory none;
        const auto large = io::read_cloud(folder / name).cloud;
        CHECK_FALSE(large->z().page_ptr(0));
        CHECK(same_pages(*fits, *large));
        io::write_cloud({{large, nullptr}}, folder / (std::string("again-") + name));
        CHECK(test::read_file(folder / name) == test::read_file(folder / (std::string("again-") + name)));
    }
}

TEST_CASE("AColumnInAFileIsFetchedLikeOneInMemory") {
    const auto c = test::random_cloud(150'000, Shape::Clusters, 31);
    const auto in_memory = cloud::fetch_column(*c, "number");
    const NoMemory none;
    const auto in_file = cloud::fetch_column(*c, "number");
    CHECK_FALSE(in_file->values.page_ptr(0));
    CHECK(in_file->base == in_memory->base);
    CHECK(in_file->lo == in_memory->lo);
    CHECK(in_file->hi == in_memory->hi);
    for (std::size_t p = 0; p < c->page_count(); ++p)
        REQUIRE(same(in_file->values.page(p), in_memory->values.page(p)));
}

TEST_CASE("PagesComeBackFromTheFileAfterTheirMemoryWasGivenBack") {
    constexpr std::size_t pages = 1600;  // 400 MiB
    constexpr std::uint64_t count = pages * kPageSize;
    const std::uint64_t before = memory_budget();
    std::uint64_t at = 0;
    ColumnWriter<std::uint32_t> writer(
        count, std::make_shared<ScratchFile>(pages * PageColumn<std::uint32_t>::kPageBytes), at);
    for (std::size_t p = 0; p < pages; ++p) {
        std::vector<std::uint32_t> page(kPageSize);
        std::iota(page.begin(), page.end(), static_cast<std::uint32_t>(p * kPageSize));
        writer.put(p, std::move(page));
    }
    const PagedArray<std::uint32_t> column = writer.finish();
    const std::uint64_t start = resident_now();
    // What other tests hold does not count: room for 64 MiB of pages.
    set_memory_budget(std::max<std::uint64_t>(start + (64u << 20), 256u << 20));
    std::mt19937_64 dice(3);
    std::uint64_t most = 0;
    bool right = true;
    for (int round = 0; round < 3; ++round)
        for (std::size_t k = 0; k < pages; ++k) {
            const std::size_t p = round == 2 ? dice() % pages : k;
            const auto page = column.page(p);
            for (std::size_t i = 0; i < kPageSize; i += 512) right &= page[i] == p * kPageSize + i;
            if (k % 50 == 0) most = std::max(most, resident_now());
        }
    CHECK(right);
    // The column alone is 400 MiB; between two looks at what is resident 16 MiB may come in.
    CHECK(most < memory_budget() + (40u << 20));
    // Heads need no page.
    CHECK(column.value(7, 3 * kBlockSize + kBlockHead - 1) ==
          7 * kPageSize + 3 * kBlockSize + kBlockHead - 1);
    CHECK(column.block(9, 1, kBlockHead)[5] == 9 * kPageSize + kBlockSize + 5);
    // An edit takes the page into memory and leaves the file as it is.
    PagedArray<std::uint32_t> edited = column;
    edited.edit(2)[11] = 4;
    CHECK(edited.value(2, 11) == 4);
    CHECK(column.value(2, 11) == 2 * kPageSize + 11);
    set_memory_budget(before);
}

TEST_CASE("ManyReadersOfPagesThatComeAndGoSeeTheSameBytes") {
    constexpr std::size_t pages = 1200;
    std::uint64_t at = 0;
    ColumnWriter<std::uint32_t> writer(
        pages * kPageSize, std::make_shared<ScratchFile>(pages * PageColumn<std::uint32_t>::kPageBytes), at);
    for (std::size_t p = 0; p < pages; ++p)
        writer.put(p, std::vector<std::uint32_t>(kPageSize, static_cast<std::uint32_t>(p)));
    const PagedArray<std::uint32_t> column = writer.finish();
    const NoMemory none;
    const auto wrong = parallel::map<std::size_t>(64, [&](std::size_t worker) {
        std::mt19937_64 dice(worker);
        std::size_t bad = 0;
        for (int k = 0; k < 200; ++k) {
            const std::size_t p = dice() % pages;
            const auto page = column.page(p);
            bad += static_cast<std::size_t>(
                std::count_if(page.begin(), page.end(), [&](std::uint32_t v) { return v != p; }));
        }
        return bad;
    });
    CHECK(std::accumulate(wrong.begin(), wrong.end(), std::size_t{0}) == 0);
}

TEST_CASE("AmountsOfMemoryAreReadAndWritten") {
    CHECK(parse_bytes("6G") == std::uint64_t{6} << 30);
    CHECK(parse_bytes("1.5M") == 3u << 19);
    CHECK(parse_bytes("800000") == 800000);
    for (const char* wrong : {"", "G", "6X", "-1G", "6GB", "nan", "1e40"})
        CHECK_THROWS_AS(parse_bytes(wrong), Error);
    CHECK(bytes_text(1610612736) == "1.5 GiB");
    CHECK(bytes_text(12) == "12 bytes");
}

TEST_CASE("AScratchFileThatTheDiskCannotHoldIsRefusedWithAReason") {
    try {
        const ScratchFile file(std::uint64_t{1} << 50);
        FAIL("a petabyte was reserved");
    } catch (const Error& e) {
        CHECK(std::string(e.what()).find("1024.0 TiB") != std::string::npos);
    }
}

// Whatever looks at neighbours works in a scratch file when there is no memory left, with the same result.
TEST_CASE("NeighboursGroupsAndGrowthWorkBeyondTheBudget") {
    const auto cloud = test::random_cloud(900'000, Shape::Terrain, 5);
    const ElementSet all = ElementSet::all(cloud->size());
    ElementSet seed(cloud->size());
    PageBits bits;
    for (std::size_t i = 0; i < 300; ++i) bits.set(i);
    seed.set_page(0, bits);
    const double gap = 0.0015 * cloud->robust_bounds().diagonal();
    const auto values_of = [&](const char* id, const score::Parameters& p) {
        std::vector<float> values;
        const score::Column c = score::compute(score::find(id), {*cloud, all}, p);
        for (std::size_t k = 0; k < cloud->page_count(); ++k) {
            const auto page = c.values.page(k);
            values.insert(values.end(), page.begin(), page.end());
        }
        return values;
    };
    const auto everything = [&] {
        return std::tuple(values_of("spacing", {{"neighbours", 4}}), values_of("stray", {}),
                          values_of("group", {{"gap", gap}}), values_of("density", {{"radius", gap / 4}}),
                          select::grown(*cloud, seed, all, gap), select::shrunk(*cloud, all - seed, all, gap),
                          select::connected(*cloud, seed, all, {gap, -1}));
    };
    const auto with = everything();
    const NoMemory none;
    REQUIRE_FALSE(fits_memory(1));
    const auto without = everything();
    CHECK(with == without);
    CHECK(std::get<4>(with).count() > 300);
    CHECK(std::get<6>(with).count() > 300);
    CHECK_FALSE(std::get<5>(with).empty());
}

TEST_CASE("WorkingMemoryInAFileKeepsToTheBudget") {
    const std::uint64_t before = memory_budget(), start = resident_now();
    set_memory_budget(start + (96u << 20));
    {
        constexpr std::size_t count = std::size_t{64} << 20;  // 512 MiB
        SpillVector<std::uint64_t> v(count);
        // The watch is a thread: how often a busy machine lets it run is not the matter here. So each step of
        // 8 MiB waits until the watch has brought the process back to its budget.
        std::uint64_t most = 0;
        for (std::size_t i = 0; i < count; ++i) {
            v[i] = i * 0x9E3779B97F4A7C15ull;
            if (i % (count / 64) != 0) continue;
            most = std::max(most, resident_now());
            const auto patience = std::chrono::steady_clock::now() + std::chrono::seconds(20);
            while (resident_now() > memory_budget() && std::chrono::steady_clock::now() < patience)
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
            REQUIRE(resident_now() <= memory_budget());
        }
        bool right = true;
        for (std::size_t i = 0; i < count; ++i) right &= v[i] == i * 0x9E3779B97F4A7C15ull;
        CHECK(right);
        CHECK(most < memory_budget() + (64u << 20));
    }
    CHECK(resident_now() < start + (64u << 20));
    set_memory_budget(before);
}
