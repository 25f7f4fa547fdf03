#include "core/geometry/similarity.h"

#include <cmath>
#include <numbers>

#include "core/base/error.h"

namespace pristine {

Similarity Similarity::after(const Similarity& first) const {
    Similarity s;
    s.scale = scale * first.scale;
    s.move = move.after(first.move);
    s.move.shift = (*this)(first.move.shift);
    return s;
}

Similarity Similarity::inverse() const {
    Similarity s;
    s.scale = 1 / scale;
    s.move = move.inverse();
    s.move.shift = s.move.turned(move.shift) * (-1 / scale);
    return s;
}

std::array<double, 16> Similarity::matrix() const {
    std::array<double, 16> m = move.matrix();
    for (std::size_t row = 0; row < 3; ++row)
        for (std::size_t column = 0; column < 3; ++column) m[4 * row + column] *= scale;
    return m;
}

double Similarity::turn_deg() const {
    // By sine and cosine: one of them alone loses the digits of small or of large turns.
    const auto& r = move.rotation;
    const double sine = 0.5 * norm(Vec3{r[7] - r[5], r[2] - r[6], r[3] - r[1]});
    return std::atan2(sine, 0.5 * (r[0] + r[4] + r[8] - 1)) * 180 / std::numbers::pi;
}

Similarity Similarity::of_matrix(const std::array<double, 16>& m) {
    constexpr double kSame = 1e-6;
    for (const double v : m)
        if (!std::isfinite(v)) throw Error(ErrorCode::Usage, "A matrix has sixteen numbers");
    if (std::fabs(m[12]) > kSame || std::fabs(m[13]) > kSame || std::fabs(m[14]) > kSame ||
        std::fabs(m[15] - 1) > kSame)
        throw Error(ErrorCode::Usage, "The last row of the matrix is not 0 0 0 1", {},
                    "Write the matrix by rows, the shift at the end of each.");
    const Vec3 rows[3] = {{m[0], m[1], m[2]}, {m[4], m[5], m[6]}, {m[8], m[9], m[10]}};
    Similarity s;
    s.scale = norm(rows[0]);
    if (!(s.scale > 0)) throw Error(ErrorCode::Usage, "The matrix has a row of nothing");
    for (int a = 0; a < 3; ++a)
        for (int b = a; b < 3; ++b) {
            const double wanted = a == b ? 1 : 0, is = dot(rows[a], rows[b]) / (s.scale * s.scale);
            if (std::fabs(is - wanted) > kSame)
                throw Error(ErrorCode::Usage, "The matrix shears, or scales one way more than another", {},
                            "Give a turn, one scale and a shift.");
        }
    if (dot(cross(rows[0], rows[1]), rows[2]) < 0) throw Error(ErrorCode::Usage, "The matrix mirrors");
    for (std::size_t row = 0; row < 3; ++row)
        for (int column = 0; column < 3; ++column)
            s.move.rotation[3 * row + static_cast<std::size_t>(column)] = rows[row][column] / s.scale;
    s.move.shift = {m[3], m[7], m[11]};
    return s;
}

Similarity Similarity::about(const Vec3& place, const Vec3& direction, double degrees, double scale,
                             const Vec3& shift) {
    if (!(scale > 0)) throw Error(ErrorCode::Usage, "A scale is above zero");
    const double length = norm(direction), angle = degrees * std::numbers::pi / 180;
    if (!(length > 0)) throw Error(ErrorCode::Usage, "A direction has a length");
    const Vec3 u = direction * (1 / length);
    const double c = std::cos(angle), n = std::sin(angle), d = 1 - c;
    Similarity s;
    s.scale = scale;
    // Rodrigues.
    s.move.rotation = {c + u.x * u.x * d,       u.x * u.y * d - u.z * n, u.x * u.z * d + u.y * n,
                       u.y * u.x * d + u.z * n, c + u.y * u.y * d,       u.y * u.z * d - u.x * n,
                       u.z * u.x * d - u.y * n, u.z * u.y * d + u.x * n, c + u.z * u.z * d};
    s.move.shift = place - s.move.turned(place) * scale + shift;
    return s;
}

}  // namespace pristine
