#include "core/geometry/plane_under.h"

namespace pristine {

std::optional<HeightPlane> plane_under(std::span<const Vec3> places, double scale, int rounds) {
    HeightPlane h;
    for (int round = 0; round < rounds; ++round) {
        double w0 = 0, x1 = 0, y1 = 0, xx = 0, xy = 0, yy = 0, z0 = 0, zx = 0, zy = 0;
        for (const Vec3& p : places) {
            const double over = round == 0 ? 0 : (p.z - h.at(p.x, p.y)) / scale;
            const double w = over > 0 ? 1 / (1 + 9 * over * over) : 1 / (1 + over * over);
            w0 += w;
            x1 += w * p.x;
            y1 += w * p.y;
            xx += w * p.x * p.x;
            xy += w * p.x * p.y;
            yy += w * p.y * p.y;
            z0 += w * p.z;
            zx += w * p.z * p.x;
            zy += w * p.z * p.y;
        }
        // Cramer's rule on the normal equations, centred for the digits.
        const double mx = x1 / w0, my = y1 / w0, mz = z0 / w0;
        const double sxx = xx - w0 * mx * mx, sxy = xy - w0 * mx * my, syy = yy - w0 * my * my;
        const double szx = zx - w0 * mz * mx, szy = zy - w0 * mz * my;
        const double determinant = sxx * syy - sxy * sxy;
        if (!(determinant > 1e-9 * (sxx + syy) * (sxx + syy))) return std::nullopt;
        h.b = (szx * syy - szy * sxy) / determinant;
        h.c = (szy * sxx - szx * sxy) / determinant;
        h.a = mz - h.b * mx - h.c * my;
    }
    return h;
}

}  // namespace pristine
