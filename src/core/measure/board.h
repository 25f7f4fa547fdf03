// All figures of a terrain surface at once: as it is now, beside what they were before anything was removed.

#pragma once

#include <optional>
#include <vector>

#include "core/base/progress.h"
#include "core/measure/difference.h"
#include "core/measure/figures.h"

namespace pristine::measure {

/// What volumes are counted from.
enum class CountedFrom { Level, LowestOfRim, MeanOfRim, TriangulatedRim, OtherSurface, Plane };

/// What a measure board is asked for.
struct BoardRequest {
    CountedFrom from = CountedFrom::Level;
    double level = 0;            ///< data unit
    std::vector<Vec3> plane{};   ///< corners that it goes through; fewer than 3: no volumes
    std::vector<Vec3> within{};  ///< a closed line at which all surfaces are cut exactly first; empty: whole
    bool swapped = false;        ///< the surface is the earlier one, the other the later
    double band = 0;             ///< data unit: what changed by no more counts as unchanged
    HeightSigma own{}, other{};  ///< data unit; noise of 0: estimated
};

/// The figures of a surface as it is shown, and whole.
struct Board {
    SurfaceFigures now, before;      ///< of the whole surface, not cut; equal when nothing was removed
    std::optional<Volumes> volumes;  ///< none for OtherSurface, or where nothing lies inside
    std::optional<Difference> difference;
    /// The same before anything was removed; none when nothing was.
    std::optional<Volumes> volumes_before;
    std::optional<Difference> difference_before;
    HeightSigma earlier, later;  ///< that the difference counts with
};

/// `now`: what is shown of the surface; `before`: all of it, null when nothing was removed; `other`: what is
/// shown of the surface to compare with, null when there is none. A surface without triangles has figures of
/// 0 and no volumes. Throws Error(Usage) for a plane through corners in line, Cancelled. O(n log n), with
/// another surface O((n + m) log(n + m)).
Board board(const mesh::TriMesh& now, const mesh::TriMesh* before, const mesh::TriMesh* other,
            const BoardRequest&, Progress& = Progress::none());

}  // namespace pristine::measure
