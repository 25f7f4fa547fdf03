#include "core/base/units.h"

#include <algorithm>

namespace pristine {

std::span<const LengthUnit> length_units() {
    static constexpr LengthUnit units[] = {
        {"m", 1, 2}, {"mm", 0.001, 0}, {"ft", 0.3048, 2}, {"usft", 1200.0 / 3937, 2}};
    return units;
}

const LengthUnit& length_unit(const std::string& id) {
    const auto units = length_units();
    const auto found =
        std::find_if(units.begin(), units.end(), [&](const LengthUnit& u) { return id == u.id; });
    return found == units.end() ? units.front() : *found;
}

}  // namespace pristine
