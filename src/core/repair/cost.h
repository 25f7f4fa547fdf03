// What faults of a mesh do to whoever needs it closed, or its volume, and how much of it they touch.

#pragma once

#include <array>

#include "core/repair/check.h"

namespace pristine::repair {

/// The worst that a kind of fault does.
enum class Harm : std::uint8_t {
    KeepsOpen,    ///< no closed surface: there is no volume
    WrongVolume,  ///< a volume can be computed, and is not that of the body
    OnlyUgly      ///< looks bad, and can disturb what other programs make of it
};
inline constexpr std::size_t kHarms = 3;
/// "keeps_open", "wrong_volume", "only_ugly".
const char* id_of(Harm);
/// Law (tested): a mesh without rims of open scans is closed exactly if it has no fault that keeps it open.
Harm harm_of(Fault);

/// How much of the mesh all faults of a kind touch; what means nothing for the kind is 0.
struct Cost {
    double length = 0;  ///< of rims, of edges, of the stretches where triangles pass through each other
    double area = 0;    ///< across holes; of the triangles of the fault else
    double volume = 0;  ///< of closed pieces, however they face; those that lie inside, and small ones
};

/// By kind, data units. O(findings and their triangles).
std::array<Cost, kFaults> costs_of(const mesh::TriMesh&, const Check&);

/// The area across a rim: of its shadow along its mean normal (the length of its vector area). Every surface
/// that it bounds has at least this area.
double area_across(const mesh::TriMesh&, const std::vector<std::uint32_t>& rim);

}  // namespace pristine::repair
