// Small clouds for tests, and the slow obvious twins of fast algorithms.

#pragma once

#include <cstdint>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

#include "core/cloud/builder.h"
#include "core/elements/element_set.h"
#include "core/select/fence.h"

namespace pristine::test {

/// A seed for random tests; printed by Catch when a test fails (use with CAPTURE). PRISTINE_SEED overrides
/// it.
std::uint64_t seed_for(const char* test);

/// A folder that goes away with the object.
class TemporaryFolder {
  public:
    TemporaryFolder();
    ~TemporaryFolder();
    std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
    const std::filesystem::path& path() const { return path_; }

  private:
    std::filesystem::path path_;
};

std::string read_file(const std::filesystem::path&);
void write_file(const std::filesystem::path&, const std::string&);

enum class Shape { Terrain, Clusters, OnePlace, Line, Grid, WithFarStrays };

/// Batches of about 50,000 points with all columns.
std::vector<cloud::PointBatch> random_batches(std::uint64_t points, Shape, std::uint64_t seed);

/// A built cloud with records of the layout x y z (i32), intensity (u16), number (u32, the record's own
/// number).
std::shared_ptr<const cloud::PointCloud> random_cloud(std::uint64_t points, Shape, std::uint64_t seed);

/// Sort everything by curve position (ties by arrival), cut, shuffle: what cloud::build must equal.
struct ReferenceOrder {
    std::vector<std::uint32_t> records;  ///< record of each element
};
ReferenceOrder reference_order(const std::vector<cloud::PointBatch>&);

/// Tests every point exactly, one after the other.
ElementSet reference_fence(const cloud::PointCloud&, const select::Fence&, const ElementSet& eligible);

/// A fence with random corners in a random view of the cloud.
select::Fence random_fence(const cloud::PointCloud&, std::mt19937_64&, bool perspective);

/// A LAS file as a string: header, one VLR, records of random bytes in the format's layout, some bytes after
/// the points.
struct LasSpec {
    int minor = 4, point_format = 7;
    std::uint64_t points = 1000;
    std::size_t extra_bytes = 0;
    std::string after;  ///< e.g. EVLRs; the header points to them when minor is 4 and this is not empty
    std::uint64_t seed = 1;
    bool scan_like = false;    ///< records as a scanner writes them: pulses, running times, drifting values
    bool one_channel = false;  ///< of scan_like records: only one scanner channel
};
std::string las_file(const LasSpec&);

/// Two scans as an E57 file has them: one cartesian in scaled integers of odd widths with grid, colours and
/// points that are marked invalid, one spherical in floats; both turned and shifted.
std::shared_ptr<const cloud::PointCloud> e57_scans(std::uint64_t points_each, std::uint64_t seed);

/// A PTX text of two scans, some cells empty.
std::string ptx_text(unsigned columns, unsigned rows, bool colour);

}  // namespace pristine::test
