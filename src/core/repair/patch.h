// A bad patch made anew: taken away and filled in one step.

#pragma once

#include "core/repair/steps.h"

namespace pristine::repair {

/// Takes triangles away (those of `gone`) and fills the holes that this makes, with nothing else touched. A
/// hole that runs into a rim that was there before is left open and listed: whoever asked has to fill that
/// rim first. Throws Cancelled.
Step replace_patch(const mesh::TriMesh&, const std::vector<char>& gone, const FillOptions&,
                   Progress& = Progress::none());

/// For a rim that is not fit: takes every triangle that has a corner on it away, and fills what that opens.
/// Throws Cancelled.
Step fill_wider(const mesh::TriMesh&, const std::vector<std::uint32_t>& rim, const FillOptions&,
                Progress& = Progress::none());

/// Triangles with a place within `radius` of a place: what a marker covers.
void mark_round(const mesh::TriMesh&, const Vec3& place, double radius, std::vector<char>& marked);

}  // namespace pristine::repair
