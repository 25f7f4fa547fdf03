#include "core/geometry/predicates.h"

#include <cmath>
#include <limits>

namespace pristine {
namespace {

// Half an ulp of 1, as in the paper; the filter bound (3 + 16 eps) eps is its "ccwerrboundA".
constexpr double kEps = std::numeric_limits<double>::epsilon() / 2;
constexpr double kFilterBound = (3.0 + 16.0 * kEps) * kEps;

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

int orientation(double ax, double ay, double bx, double by, double cx, double cy) {
    const double left = (ax - cx) * (by - cy);
    const double right = (ay - cy) * (bx - cx);
    const double det = left - right;
    const double bound = kFilterBound * (std::fabs(left) + std::fabs(right));
    if (det > bound) return 1;
    if (-det > bound) return -1;
    return orientation_exact(ax, ay, bx, by, cx, cy);
}

}  // namespace pristine
