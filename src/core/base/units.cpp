#include "core/base/units.h"

#include <algorithm>
#include <cmath>

namespace pristine {
namespace {

constexpr LengthUnit kUnits[] = {
    {"m", 1, 2, "m", "metres"},
    {"mm", 0.001, 0, "mm", "millimetres"},
    {"ft", 0.3048, 2, "ft", "international feet"},
    {"usft", 1200.0 / 3937, 2, "US ft", "US survey feet"},
    // Units that files state. The feet are those of the EPSG register (9005, 9041, 9070, 9080, 9081, 9094,
    // 9095).
    {"cm", 0.01, 1, "cm", "centimetres"},
    {"dm", 0.1, 1, "dm", "decimetres"},
    {"km", 1000, 5, "km", "kilometres"},
    {"in", 0.0254, 1, "in", "inches"},
    {"yd", 0.9144, 2, "yd", "yards"},
    {"ft-clarke", 0.3047972654, 2, "Clarke's ft", "Clarke's feet"},
    {"ft-sears", 0.3047994715386762, 2, "Sears ft", "British feet (Sears 1922)"},
    {"ft-1865", 0.30480083333333335, 2, "ft 1865", "British feet (1865)"},
    {"ft-1936", 0.3048007491, 2, "ft 1936", "British feet (1936)"},
    {"ft-india", 0.3047995102481469, 2, "Indian ft", "Indian feet"},
    {"ft-india-1937", 0.30479841, 2, "Indian ft 1937", "Indian feet (1937)"},
    {"ft-gold-coast", 0.3047997101815088, 2, "Gold Coast ft", "Gold Coast feet"},
};
constexpr std::size_t kChoosable = 4;

const LengthUnit* find(const std::string& id) {
    const auto* found =
        std::find_if(std::begin(kUnits), std::end(kUnits), [&](const LengthUnit& u) { return id == u.id; });
    return found == std::end(kUnits) ? nullptr : found;
}

}  // namespace

std::span<const LengthUnit> length_units() {
    return std::span(kUnits).first(kChoosable);
}

std::span<const LengthUnit> known_units() {
    return kUnits;
}

const LengthUnit& length_unit(const std::string& id) {
    const LengthUnit* u = find(id);
    return u ? *u : kUnits[0];
}

bool is_length(const std::string& id) {
    return find(id) != nullptr;
}

std::string unit_of_metres(double metres) {
    // The nearest: the US survey foot and the foot of 1865 are 7 parts in 10^7 apart.
    const LengthUnit* best = nullptr;
    double least = 1e-8;
    for (const LengthUnit& u : kUnits) {
        const double off = std::fabs(metres / u.metres - 1);
        if (!(off <= least)) continue;
        least = off;
        best = &u;
    }
    return best ? best->id : "";
}

}  // namespace pristine
