#include "core/base/figure.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace pristine {
namespace {

constexpr double kLargest = 1e12, kSmallest = 1e-4;
constexpr int kMostDecimals = 12;

std::string with_marks(const std::string& plain, const NumberMarks& marks) {
    const std::size_t sign = plain[0] == '-' ? 1 : 0;
    const std::size_t dot = std::min(plain.find('.'), plain.size());
    std::string out = plain.substr(0, sign);
    for (std::size_t i = sign; i < dot; ++i) {
        if (i > sign && (dot - i) % 3 == 0) out += marks.group;
        out += plain[i];
    }
    if (dot < plain.size()) out += marks.decimal + plain.substr(dot + 1);
    return out;
}

}  // namespace

std::string figure(double v, int decimals, const NumberMarks& marks) {
    if (!std::isfinite(v)) return "none";
    const double size = std::fabs(v);
    if (size >= kLargest) {
        std::string s = fmt::format("{:.5e}", v);
        if (const auto dot = s.find('.'); dot != std::string::npos) s.replace(dot, 1, marks.decimal);
        return s;
    }
    std::string s = fmt::format("{:.{}f}", v, std::clamp(decimals, 0, kMostDecimals));
    // Rounded to nothing there is no less than nothing.
    if (s[0] == '-' && s.find_first_of("123456789") == std::string::npos) s.erase(0, 1);
    return with_marks(s, marks);
}

int decimals_for(double v, int digits, int least) {
    const double size = std::fabs(v);
    if (!(size > 0) || !std::isfinite(size)) return std::clamp(least, 0, kMostDecimals);
    const int places =
        digits - 1 - static_cast<int>(std::floor(std::log10(std::max(size, kSmallest * 1e-6))));
    return std::clamp(std::max(places, least), 0, kMostDecimals);
}

double two_digits(double v) {
    if (!(v > 0)) return 0;
    const double digit = std::pow(10.0, std::floor(std::log10(v)) - 1);
    return std::round(v / digit) * digit;
}

std::string mass_text(double kg, const NumberMarks& marks) {
    constexpr double kTonne = 1000, kFrom = 10'000;
    if (std::fabs(kg) >= kFrom) return figure(kg / kTonne, decimals_for(kg / kTonne, 5, 1), marks) + " t";
    return figure(kg, decimals_for(kg, 5), marks) + " kg";
}

double round_step(double v) {
    if (!(v > 0) || !std::isfinite(v)) return 0;
    const double ten = std::pow(10.0, std::floor(std::log10(v))), digit = v / ten;
    return (digit >= 5 ? 5 : digit >= 2 ? 2 : 1) * ten;
}

}  // namespace pristine
