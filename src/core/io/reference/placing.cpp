#include "core/io/reference/placing.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/error.h"
#include "core/base/units.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

const std::string& height_unit(const cloud::Reference& r) {
    return r.height_unit.empty() ? r.unit : r.height_unit;
}

// 1 where one of them is not stated.
double factor(const std::string& from, const std::string& to) {
    return is_length(from) && is_length(to) ? length_unit(from).metres / length_unit(to).metres : 1;
}

std::string name_of(const cloud::Reference& r) {
    const System s = system_of(r.crs);
    const std::string unit = is_length(r.unit)    ? length_unit(r.unit).title
                             : r.unit == kDegrees ? "degrees"
                                                  : r.unit;
    return s.name.empty() ? unit : fmt::format("{} [{}]", s.title(), unit);
}

}  // namespace

Placing::Placing(const cloud::Reference& from, const cloud::Reference& to)
    : from_(name_of(from)), to_(name_of(to)) {
    const bool both = !from.crs.empty() && !to.crs.empty();
    heights_ = factor(height_unit(from), height_unit(to));
    if (both && system_of(from.crs).name != system_of(to.crs).name) {
        way_ = std::make_unique<Reprojection>(from.crs, from.unit, height_unit(from), to.crs);
        // It arrives in the units of the system, which need not be those of the data.
        const System s = system_of(to.crs);
        plan_ = factor(s.unit, to.unit);
        heights_ = factor(s.height_unit.empty() ? s.unit : s.height_unit, height_unit(to));
        return;
    }
    plan_ = factor(from.unit, to.unit);
    if ((from.unit == kDegrees) != (to.unit == kDegrees) && !from.unit.empty() && !to.unit.empty())
        throw Error(
            ErrorCode::Usage,
            fmt::format("The lines are in {}, the points in {}: nothing says how they fit", from_, to_), {},
            "State the reference system of both first.");
}

Placing::~Placing() = default;

void Placing::apply(std::vector<Vec3>& places) {
    if (!way_ && plan_ == 1 && heights_ == 1) return;
    std::vector<Vec3> moved = places;
    if (way_) way_->apply(moved);
    double farthest = 0, size = 0;
    for (std::size_t i = 0; i < places.size(); ++i) {
        Vec3& p = moved[i];
        if (!std::isfinite(p.x) || !std::isfinite(p.y))
            throw Error(ErrorCode::Usage, fmt::format("A line has a place that has no image in {}: {} {}",
                                                      to_, places[i].x, places[i].y));
        p = {p.x * plan_, p.y * plan_, p.z * heights_};
        for (int a = 0; a < 3; ++a) {
            farthest = std::max(farthest, std::fabs(p[a] - places[i][a]));
            size = std::max(size, std::fabs(p[a]));
        }
    }
    // The same system under another name: the places stay to the bit.
    if (farthest <= 1e-9 * size) return;
    places = std::move(moved);
    note_ = fmt::format("converted from {} to {}", from_, to_);
}

}  // namespace pristine::io
