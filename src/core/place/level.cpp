#include "core/place/level.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "core/base/error.h"

namespace pristine::place {

double tilt_deg(const Vec3& d) {
    return std::atan2(std::hypot(d.x, d.y), std::fabs(d.z)) * 180 / std::numbers::pi;
}

Similarity levelled(const Vec3& direction, const Vec3& about) {
    if (!(norm(direction) > 0)) throw Error(ErrorCode::Usage, "A direction needs a length");
    const Vec3 n = normalized(direction.z < 0 ? direction * -1.0 : direction);
    const Vec3 axis = cross(n, Vec3{0, 0, 1});
    if (norm(axis) < 1e-15) return Similarity::about(about, {0, 0, 1}, 0, 1, {});
    return Similarity::about(about, normalized(axis), tilt_deg(n), 1, {});
}

Scaled scaled_by(const std::vector<KnownDistance>& all) {
    double measured_should = 0, measured_squared = 0;
    std::size_t used = 0;
    for (const KnownDistance& d : all) {
        if (!d.used) continue;
        const double m = norm(d.b - d.a);
        if (!(m > 0)) throw Error(ErrorCode::Usage, "The two places of '" + d.name + "' are the same");
        if (!(d.should > 0))
            throw Error(ErrorCode::Usage, "Say what '" + d.name + "' should be: it is larger than 0");
        measured_should += m * d.should;
        measured_squared += m * m;
        ++used;
    }
    if (used == 0) throw Error(ErrorCode::Usage, "No distance is used");
    Scaled s;
    s.scale = measured_should / measured_squared;
    double squares = 0;
    for (const KnownDistance& d : all) {
        s.off.push_back(s.scale * norm(d.b - d.a) - d.should);
        if (d.used) squares += s.off.back() * s.off.back();
    }
    s.sigma = used > 1 ? std::sqrt(squares / static_cast<double>(used - 1))
                       : std::numeric_limits<double>::quiet_NaN();
    return s;
}

}  // namespace pristine::place
