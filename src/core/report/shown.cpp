#include "core/report/shown.h"

#include <cmath>

#include "core/base/figure.h"
#include "core/base/units.h"

namespace pristine::report {

Shown::Shown(const site::Site& s, const cloud::Reference& r) {
    const std::string& data = r.unit;
    // What is not known cannot be shown in another unit.
    const std::string& id = s.unit.empty() || !is_length(data) ? data : s.unit;
    data_metres_ = length_unit(data).metres;
    metres_ = length_unit(id).metres;
    decimals_ = length_unit(id).decimals;
    known_ = !id.empty();
    symbol_ = id == kDegrees ? "°" : known_ ? length_unit(id).symbol : "unit not set";
}

std::string Shown::unit(int power) const {
    return known_ && power > 1 ? symbol_ + (power == 2 ? "²" : "³") : symbol_;
}

double Shown::shown(double data, int power) const {
    for (int k = 0; k < power; ++k) data *= factor();
    return data;
}

Cell Shown::length(double data, int more) const {
    const double v = shown(data, 1);
    return {figure(v, decimals_ + more), v, unit()};
}

Cell Shown::coordinate(double data) const {
    const double v = shown(data, 1);
    return {figure(v, decimals_ + 1, {"", "."}), v, unit()};
}

Cell Shown::powered(double data, int power) const {
    double v = shown(data, power);
    if (std::fabs(v) < 1e-9) v = 0;  // noise of the last bit is no figure
    const int digits = std::fabs(v) < 1 ? decimals_for(v, 4, 2) : decimals_for(v, 1, decimals_ == 0 ? 0 : 2);
    return {figure(v, digits), v, unit(power)};
}

Cell Shown::spread(double data, double sigma, int power) const {
    // Less than a millionth is rounding, not a deviation.
    if (!(sigma > 1e-6 * std::fabs(data))) return powered(data, power);
    const double v = shown(data, power), s = shown(sigma, power);
    // However small a deviation is, coordinates bear no more digits than those of a plain figure.
    const int most = std::fabs(v) < 1 && v != 0 ? decimals_for(v, 4, 2) : decimals_ == 0 ? 0 : 2;
    const int digits = std::min(decimals_for(s, 2), most);
    const double last = std::pow(10.0, -digits);
    const std::string deviation = s < last / 2 ? "less than " + figure(last, digits) : figure(s, digits);
    return {figure(v, digits) + "\u00a0±\u00a0" + deviation, v, unit(power)};
}

Cell Shown::deviation(double data, int power) const {
    const double v = shown(data, power);
    // Finer than a hundredth of what coordinates show nothing is known.
    const int most = decimals_ + 2;
    if (power == 1 && v != 0 && std::fabs(v) < std::pow(10.0, -most))
        return {"less than " + figure(std::pow(10.0, -most), most), v, unit(power)};
    return {figure(v, std::min(decimals_for(v, 2), power == 1 ? most : 12)), v, unit(power)};
}

std::string Shown::text_of(const Cell& c) const {
    if (!known_) return c.text + "\u00a0(" + c.unit + ")";
    return c.text + (c.unit == "°" ? "" : "\u00a0") + c.unit;
}

Cell count_cell(std::uint64_t n) {
    return {figure(static_cast<double>(n), 0), static_cast<double>(n), {}};
}

std::string counted(std::uint64_t n, const char* one, const char* many) {
    return figure(static_cast<double>(n), 0) + "\u00a0" + (n == 1 ? one : many);
}

std::string counted_elements(const site::Item& i, std::uint64_t n) {
    return i.cloud->triangles() ? counted(n, "triangle", "triangles") : counted(n, "point", "points");
}

std::string percent(double share) {
    const double v = 100 * share;
    return figure(v, v > 0 && v < 0.1 ? decimals_for(v, 1) : 1) + "\u00a0%";
}

}  // namespace pristine::report
