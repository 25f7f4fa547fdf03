#include "core/geometry/features.h"

#include <Eigen/Dense>
#include <cmath>

#include "core/base/error.h"

namespace pristine {
namespace {

using Kind = Feature::Kind;

Vec3 centroid(std::span<const Vec3> places) {
    Vec3 sum;
    for (const Vec3& p : places) sum = sum + (p - places[0]) * (1 / static_cast<double>(places.size()));
    return places[0] + sum;
}

struct Axes {
    Vec3 least, most;
    double small = 0, middle = 0, large = 0;  // variances
};

Axes axes_of(std::span<const Vec3> places, const Vec3& centre) {
    Eigen::Matrix3d c = Eigen::Matrix3d::Zero();
    for (const Vec3& p : places) {
        const Eigen::Vector3d d(p.x - centre.x, p.y - centre.y, p.z - centre.z);
        c += d * d.transpose();
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> e(c);
    const auto column = [&](int k) {
        return Vec3{e.eigenvectors()(0, k), e.eigenvectors()(1, k), e.eigenvectors()(2, k)};
    };
    return {column(0), column(2), e.eigenvalues()(0), e.eigenvalues()(1), e.eigenvalues()(2)};
}

void need(std::span<const Vec3> places, std::size_t least, const char* what) {
    if (places.size() < least)
        throw Error(ErrorCode::Usage,
                    std::string(what) + " needs at least " + std::to_string(least) + " places", {},
                    "Select more of it.");
}

template <class Distance>
double rms_of(std::span<const Vec3> places, Distance&& distance) {
    double sum = 0;
    for (const Vec3& p : places) sum += distance(p) * distance(p);
    return std::sqrt(sum / static_cast<double>(places.size()));
}

double off_line(const Vec3& p, const Vec3& point, const Vec3& direction) {
    return norm(cross(p - point, direction));
}

// Gauss-Newton on distances from a sphere, or in the plane across an axis from a circle.
void refine_round(std::span<const Vec3> places, Vec3& centre, double& radius, const Vec3& axis) {
    for (int round = 0; round < 30; ++round) {
        Eigen::Matrix4d a = Eigen::Matrix4d::Zero();
        Eigen::Vector4d b = Eigen::Vector4d::Zero();
        for (const Vec3& p : places) {
            Vec3 d = p - centre;
            d = d - axis * dot(d, axis);
            const double l = norm(d);
            if (!(l > 0)) continue;
            const Eigen::Vector4d g(-d.x / l, -d.y / l, -d.z / l, -1);
            a += g * g.transpose();
            b += g * (l - radius);
        }
        // Along an axis the centre is free: hold it.
        const Eigen::Vector3d u(axis.x, axis.y, axis.z);
        a.topLeftCorner<3, 3>() += a.trace() * u * u.transpose();
        a.diagonal().array() += 1e-14 * a.trace();
        const Eigen::Vector4d step = a.ldlt().solve(-b);
        centre = centre + Vec3{step(0), step(1), step(2)};
        radius += step(3);
        if (step.norm() < 1e-14 * (1 + std::fabs(radius))) break;
    }
}

// The algebraic sphere or circle to begin with: |x|^2 = 2 c.x + k.
void first_round(std::span<const Vec3> places, const Vec3& near, const Vec3& axis, Vec3& centre,
                 double& radius) {
    Eigen::Matrix4d a = Eigen::Matrix4d::Zero();
    Eigen::Vector4d b = Eigen::Vector4d::Zero();
    for (const Vec3& p : places) {
        Vec3 d = p - near;
        d = d - axis * dot(d, axis);
        const Eigen::Vector4d g(2 * d.x, 2 * d.y, 2 * d.z, 1);
        a += g * g.transpose();
        b += g * dot(d, d);
    }
    const Eigen::Vector3d u(axis.x, axis.y, axis.z);
    a.topLeftCorner<3, 3>() += a.trace() * u * u.transpose();
    const Eigen::Vector4d s = a.ldlt().solve(b);
    const Vec3 c{s(0), s(1), s(2)};
    centre = near + c;
    radius = std::sqrt(std::max(0.0, s(3) + dot(c, c)));
}

}  // namespace

Feature fit_point(std::span<const Vec3> places) {
    need(places, 1, "A point");
    Feature f;
    f.point = centroid(places);
    f.rms = rms_of(places, [&](const Vec3& p) { return norm(p - f.point); });
    f.places = places.size();
    return f;
}

Feature fit_line(std::span<const Vec3> places) {
    need(places, 2, "A line");
    Feature f{Kind::Line, {}, centroid(places), {}, 0, 0, places.size()};
    const Axes a = axes_of(places, f.point);
    if (!(a.large > 0) || !(a.middle < 0.25 * a.large))
        throw Error(ErrorCode::Usage, "These places lie in no line", {}, "Select something long and thin.");
    f.direction = a.most;
    f.rms = rms_of(places, [&](const Vec3& p) { return off_line(p, f.point, f.direction); });
    return f;
}

Feature fit_plane_feature(std::span<const Vec3> places) {
    need(places, 3, "A plane");
    Feature f{Kind::Plane, {}, centroid(places), {}, 0, 0, places.size()};
    const Axes a = axes_of(places, f.point);
    if (!(a.middle > 1e-12 * a.large) || !(a.small < 0.25 * a.middle))
        throw Error(ErrorCode::Usage, "These places span no plane", {},
                    "Select a flat patch that is not a strip.");
    f.direction = a.least;
    f.rms = rms_of(places, [&](const Vec3& p) { return std::fabs(dot(p - f.point, f.direction)); });
    return f;
}

Feature fit_sphere(std::span<const Vec3> places) {
    need(places, 4, "A sphere");
    Feature f{Kind::Sphere, {}, {}, {}, 0, 0, places.size()};
    const Vec3 near = centroid(places);
    const Axes a = axes_of(places, near);
    if (!(a.small > 1e-12 * a.large))
        throw Error(ErrorCode::Usage, "These places lie in a plane: they determine no sphere");
    first_round(places, near, {}, f.point, f.radius);
    refine_round(places, f.point, f.radius, {});
    f.rms = rms_of(places, [&](const Vec3& p) { return norm(p - f.point) - f.radius; });
    return f;
}

Feature fit_cylinder(std::span<const Vec3> places, std::span<const Vec3> normals) {
    need(places, 6, "A cylinder");
    if (normals.size() != places.size())
        throw Error(ErrorCode::Usage, "A cylinder needs a normal for each place");
    Feature f{Kind::Cylinder, {}, {}, {}, 0, 0, places.size()};
    // Normals lie across the axis: it is the direction in which they vary least.
    const Axes a = axes_of(normals, {0, 0, 0});
    if (!(a.middle > 0.02 * a.large) || !(a.small < 0.2 * a.middle))
        throw Error(ErrorCode::Usage, "These places determine no axis", {},
                    "Select more of the way round the cylinder.");
    f.direction = a.least;
    const Vec3 near = centroid(places);
    // The axis is turned until the distances from it are most alike: two small angles, by least squares.
    for (int round = 0; round < 20; ++round) {
        first_round(places, near, f.direction, f.point, f.radius);
        refine_round(places, f.point, f.radius, f.direction);
        const Vec3 u = normalized(
                       cross(f.direction, std::fabs(f.direction.z) < 0.9 ? Vec3{0, 0, 1} : Vec3{1, 0, 0})),
                   v = cross(f.direction, u);
        Eigen::Matrix<double, 5, 5> m = Eigen::Matrix<double, 5, 5>::Zero();
        Eigen::Matrix<double, 5, 1> b = Eigen::Matrix<double, 5, 1>::Zero();
        for (const Vec3& p : places) {
            const Vec3 d = p - f.point;
            const double along = dot(d, f.direction);
            const Vec3 across = d - f.direction * along;
            const double l = norm(across);
            if (!(l > 0)) continue;
            const double cu = dot(across, u) / l, cv = dot(across, v) / l;
            Eigen::Matrix<double, 5, 1> g;
            g << -cu, -cv, -cu * along, -cv * along, -1;
            m += g * g.transpose();
            b += g * (l - f.radius);
        }
        m.diagonal().array() += 1e-14 * m.trace();
        const Eigen::Matrix<double, 5, 1> s = m.ldlt().solve(-b);
        f.point = f.point + u * s(0) + v * s(1);
        f.direction = normalized(f.direction + u * s(2) + v * s(3));
        f.radius += s(4);
        if (std::hypot(s(2), s(3)) < 1e-13) break;
    }
    f.point = f.point + f.direction * dot(near - f.point, f.direction);
    f.rms = rms_of(places, [&](const Vec3& p) { return off_line(p, f.point, f.direction) - f.radius; });
    return f;
}

Feature meet(const Feature& a, const Feature& b) {
    const auto is_line = [](const Feature& f) { return f.kind == Kind::Line || f.kind == Kind::Cylinder; };
    const auto is_point = [](const Feature& f) { return f.kind == Kind::Point || f.kind == Kind::Sphere; };
    Feature f;
    if (is_line(a) && b.kind == Kind::Plane) {
        const double along = dot(a.direction, b.direction);
        if (std::fabs(along) < 1e-9)
            throw Error(ErrorCode::Usage, "The line and the plane are parallel: they meet nowhere");
        f.point = a.point + a.direction * (dot(b.point - a.point, b.direction) / along);
        return f;
    }
    if (a.kind == Kind::Plane && is_line(b)) return meet(b, a);
    if (a.kind == Kind::Plane && b.kind == Kind::Plane) {
        const Vec3 d = cross(a.direction, b.direction);
        const double dd = dot(d, d);
        if (!(dd > 1e-18)) throw Error(ErrorCode::Usage, "The planes are parallel: they meet nowhere");
        // From between the two points, across to both planes.
        const Vec3 o = (a.point + b.point) * 0.5;
        const double ha = dot(a.point - o, a.direction), hb = dot(b.point - o, b.direction);
        f.kind = Kind::Line;
        f.point = o + (cross(b.direction, d) * ha - cross(a.direction, d) * hb) * (1 / dd);
        f.direction = normalized(d);
        return f;
    }
    if (is_point(a) && is_point(b)) {
        if (!(norm(b.point - a.point) > 0)) throw Error(ErrorCode::Usage, "The two points are in one place");
        f.kind = Kind::Line;
        f.point = a.point;
        f.direction = normalized(b.point - a.point);
        return f;
    }
    throw Error(ErrorCode::Usage, "These two do not meet in a point or a line", {},
                "Take a line and a plane, two planes, or two points.");
}

Vec3 RigidMove::turned(const Vec3& d) const {
    const auto& r = rotation;
    return {r[0] * d.x + r[1] * d.y + r[2] * d.z, r[3] * d.x + r[4] * d.y + r[5] * d.z,
            r[6] * d.x + r[7] * d.y + r[8] * d.z};
}

Vec3 RigidMove::operator()(const Vec3& p) const {
    return turned(p) + shift;
}

RigidMove RigidMove::after(const RigidMove& first) const {
    RigidMove m;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) {
            m.rotation[3 * i + j] = 0;
            for (std::size_t k = 0; k < 3; ++k)
                m.rotation[3 * i + j] += rotation[3 * i + k] * first.rotation[3 * k + j];
        }
    m.shift = (*this)(first.shift);
    return m;
}

RigidMove RigidMove::inverse() const {
    RigidMove m;
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j) m.rotation[3 * i + j] = rotation[3 * j + i];
    m.shift = m.turned(shift) * -1.0;
    return m;
}

std::array<double, 16> RigidMove::matrix() const {
    const auto& r = rotation;
    return {r[0], r[1], r[2], shift.x, r[3], r[4], r[5], shift.y, r[6], r[7], r[8], shift.z, 0, 0, 0, 1};
}

RigidMove align(const Alignment& a) {
    RigidMove m;
    if (a.clocking && !a.direction)
        throw Error(ErrorCode::Usage, "Clocking turns about a direction: give that first");
    if (a.direction) {
        if (a.clocking && a.axis == a.clock_axis)
            throw Error(ErrorCode::Usage, "Direction and clocking go to different axes");
        const Vec3 first = normalized(*a.direction);
        if (!(norm(first) > 0)) throw Error(ErrorCode::Usage, "A direction has a length");
        Vec3 target;
        target[a.axis] = 1;
        Vec3 second;
        if (a.clocking) {
            second = *a.clocking - first * dot(*a.clocking, first);
            if (!(norm(second) > 1e-9 * norm(*a.clocking)))
                throw Error(ErrorCode::Usage, "The clocking runs along the direction: it turns nothing");
        } else {
            // The shortest turn: about the axis across both.
            second = target - first * dot(target, first);
            if (!(norm(second) > 1e-12))
                second = std::fabs(first.x) < 0.9 ? cross(first, {1, 0, 0}) : cross(first, {0, 1, 0});
        }
        second = normalized(second);
        const Vec3 third = cross(first, second);
        Vec3 to_second;
        if (a.clocking) {
            to_second[a.clock_axis] = 1;
        } else {
            // Where the shortest turn brings it.
            const Vec3 e = target - first * dot(target, first);
            const double c = dot(first, target), s = norm(e);
            to_second = s > 1e-12 ? second * c - first * s : second * (c > 0 ? 1.0 : -1.0);
            if (!(s > 1e-12) && c < 0) to_second = second;  // half a turn about `second`
        }
        const Vec3 to_third = cross(target, to_second);
        for (int i = 0; i < 3; ++i)
            for (int j = 0; j < 3; ++j)
                m.rotation[static_cast<std::size_t>(3 * i + j)] =
                    target[i] * first[j] + to_second[i] * second[j] + to_third[i] * third[j];
    }
    if (a.origin) m.shift = m.turned(*a.origin) * -1.0;
    return m;
}

int freedoms_left(const Alignment& a) {
    return 6 - (a.origin ? 3 : 0) - (a.direction ? 2 : 0) - (a.direction && a.clocking ? 1 : 0);
}

}  // namespace pristine
