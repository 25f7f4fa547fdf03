// Sites that rules are tried on, each from a seed; tools/quality and tests count what a rule finds of the
// truth.

#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "core/cloud/point_cloud.h"
#include "demo/world.h"

namespace pristine::demo {

struct Trial {
    std::string name;
    std::vector<TrialPoint> points;
    std::vector<Vec3> stations;   ///< from kSiteOrigin
    std::vector<Thing> things{};  ///< that stand there, from kSiteOrigin
    std::string unit = "m";       ///< of the points
};

/// Names in the order in which they are reported: flat, flat_air, slope, slope_air, terraces, terraces_air,
/// pictures; strays; passers; sky.
const std::vector<std::string>& trial_names();
/// `size`: 1 for what is reported, less for tests. Throws Error(Usage) for an unknown name.
Trial make_trial(const std::string& name, std::uint64_t seed, double size = 1);

/// The things that stand at least 0.6 m from every other: one beside another may rightly be one group with
/// it.
std::vector<Thing> standing_free(const Trial&);

/// A tunnel with a flat floor, 50 m along y from the origin of the trial, with pipes, a duct and people in
/// it; points of the lining are Ground, what is inside Object, noise behind the lining Noise.
Trial make_tunnel(std::uint64_t seed, double size = 1);
inline constexpr double kTunnelRadius = 3, kTunnelFloor = -1.8, kTunnelLength = 50;
/// What it encloses, cubic metres, in closed form.
double tunnel_volume();

/// As a cloud at kSiteOrigin with stations and records x, y, z, scan; `truth` receives that of each element.
std::shared_ptr<const cloud::PointCloud> cloud_of(const Trial&, std::vector<Truth>& truth);

}  // namespace pristine::demo
