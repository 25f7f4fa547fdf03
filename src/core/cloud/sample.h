// An even sample of all points, and what follows from it: the frame of the curve and where to cut it.

#pragma once

#include <vector>

#include "core/cloud/builder.h"
#include "core/cloud/curve.h"

namespace pristine::cloud {

inline constexpr std::size_t kBucketTarget = 1u << 18;  ///< points of a bucket, about

/// Every stride-th point over all batches, as if they were one sequence.
struct Sample {
    std::vector<std::int32_t> x, y, z;
    /// Adds the sampled points of a batch that begins with point `base` of `total`.
    void add(const PointBatch&, std::uint64_t base, std::uint64_t total);
    void append(const Sample&);
    /// The frame of the curve for the cloud.
    CurveFrame frame() const;
    /// Curve positions that cut the cloud into at most `buckets` about equal parts, ascending.
    std::vector<std::uint64_t> splitters(const CurveFrame&, std::size_t buckets) const;
};

/// Which part a curve position belongs to.
std::size_t bucket_of(const std::vector<std::uint64_t>& splitters, std::uint64_t position);

}  // namespace pristine::cloud
