#include "core/geometry/predicates.h"

#include <cmath>
#include <vector>

namespace pristine {
namespace {

struct Expansion {
    double part[16];
    int count = 0;

    // Adds one number exactly (paper: GROW-EXPANSION); parts stay non-overlapping, by increasing size.
    void add(double b) {
        double q = b;
        for (int i = 0; i < count; ++i) {
            const double sum = q + part[i];
            const double bv = sum - q;
            const double low = (q - (sum - bv)) + (part[i] - bv);
            q = sum;
            part[i] = low;
        }
        part[count++] = q;
    }
    // Adds x*y exactly; fma gives the rounding error of the product.
    void add_product(double x, double y) {
        const double high = x * y;
        const double low = std::fma(x, y, -high);
        add(low);
        add(high);
    }
    int sign() const {
        for (int i = count - 1; i >= 0; --i)
            if (part[i] != 0) return part[i] > 0 ? 1 : -1;
        return 0;
    }
};

// An expansion of any length without zeros, by increasing size. Rarely needed: only where points lie on a
// circle to the last bit, or nearly.
using Sum = std::vector<double>;

void grow(Sum& e, double b) {
    std::size_t n = 0;
    double q = b;
    for (const double part : e) {
        const double sum = q + part, bv = sum - q, low = (q - (sum - bv)) + (part - bv);
        q = sum;
        if (low != 0) e[n++] = low;
    }
    e.resize(n);
    if (q != 0) e.push_back(q);
}

Sum difference(double a, double b) {
    Sum e;
    grow(e, a);
    grow(e, -b);
    return e;
}

Sum plus(Sum a, const Sum& b) {
    for (const double part : b) grow(a, part);
    return a;
}

Sum negative(Sum a) {
    for (double& part : a) part = -part;
    return a;
}

Sum times(const Sum& a, const Sum& b) {
    Sum e;
    for (const double x : a)
        for (const double y : b) {
            const double high = x * y;
            grow(e, std::fma(x, y, -high));
            grow(e, high);
        }
    return e;
}

}  // namespace

int orientation_exact(double ax, double ay, double bx, double by, double cx, double cy) {
    // (ax-cx)(by-cy) - (ay-cy)(bx-cx), multiplied out so that no rounded difference enters.
    Expansion e;
    e.add_product(ax, by);
    e.add_product(-ax, cy);
    e.add_product(-cx, by);
    e.add_product(-ay, bx);
    e.add_product(ay, cx);
    e.add_product(cy, bx);
    return e.sign();
}

int in_circle_exact(double ax, double ay, double bx, double by, double cx, double cy, double dx, double dy) {
    const Sum adx = difference(ax, dx), ady = difference(ay, dy), bdx = difference(bx, dx),
              bdy = difference(by, dy), cdx = difference(cx, dx), cdy = difference(cy, dy);
    const auto lift = [](const Sum& x, const Sum& y) { return plus(times(x, x), times(y, y)); };
    const auto minor = [](const Sum& x1, const Sum& y1, const Sum& x2, const Sum& y2) {
        return plus(times(x1, y2), negative(times(x2, y1)));
    };
    const Sum det = plus(plus(times(lift(adx, ady), minor(bdx, bdy, cdx, cdy)),
                              times(lift(bdx, bdy), minor(cdx, cdy, adx, ady))),
                         times(lift(cdx, cdy), minor(adx, ady, bdx, bdy)));
    return det.empty() ? 0 : det.back() > 0 ? 1 : -1;
}

int side_of_plane_exact(const Vec3& a, const Vec3& b, const Vec3& c, const Vec3& d) {
    const auto rel = [&](const Vec3& p, int axis) { return difference(p[axis], d[axis]); };
    const auto minor = [&](const Vec3& p, const Vec3& q) {
        return plus(times(rel(p, 0), rel(q, 1)), negative(times(rel(q, 0), rel(p, 1))));
    };
    const Sum det = plus(plus(times(rel(a, 2), minor(c, b)), times(rel(b, 2), minor(a, c))),
                         times(rel(c, 2), minor(b, a)));
    return det.empty() ? 0 : det.back() > 0 ? 1 : -1;
}

}  // namespace pristine
