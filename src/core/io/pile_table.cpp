#include "core/io/pile_table.h"

#include <fmt/format.h>

#include <cmath>

#include "core/base/units.h"
#include "core/io/csv.h"

namespace pristine::io {
double tonnes(double volume, double density, const cloud::Reference& r) {
    const double metres = length_unit(r.unit).metres;
    return volume * metres * metres * metres * density;
}

std::string pile_table(const std::vector<NamedPile>& piles, measure::PileBase base, double density,
                       const cloud::Reference& r) {
    const bool known = is_length(r.unit);
    const std::string u = known ? length_unit(r.unit).symbol : "unit not set", two = known ? "2" : "",
                      three = known ? "3" : "";
    const int d = length_unit(r.unit).decimals;
    std::string out =
        fmt::format("name,base,volume [{0}{1}],below base [{0}{1}],standard deviation [{0}{1}],", u, three);
    if (density > 0) out += "mass [t],";
    out += fmt::format(
        "plan area [{0}{1}],surface area [{0}{1}],covered [%],base lowest [{0}],base highest [{0}],top [{0}],"
        "problem\n",
        u, two);
    double volume = 0, below = 0, variance = 0;
    for (const NamedPile& n : piles) {
        const measure::Pile& p = n.pile;
        out += csv_text(n.name) + "," + measure::id_of(base) + ",";
        if (!n.problem.empty()) {
            out += std::string(density > 0 ? "," : "") + ",,,,,,,,," + csv_text(n.problem) + "\n";
            continue;
        }
        volume += p.volume;
        below += p.below;
        variance += p.sigma * p.sigma;
        out +=
            fmt::format("{},{},{},", csv_number(p.volume, d), csv_number(p.below, d), csv_number(p.sigma, d));
        if (density > 0) out += csv_number(tonnes(p.volume, density, r), 1) + ",";
        out += fmt::format("{},{},{},{},{},{},\n", csv_number(p.plan_area, d), csv_number(p.surface_area, d),
                           csv_number(100 * p.plan_area / p.outline_area, 1), csv_number(p.base_low, d + 1),
                           csv_number(p.base_high, d + 1), csv_number(p.highest, d + 1));
    }
    out += fmt::format("\"all\",,{},{},{},", csv_number(volume, d), csv_number(below, d),
                       csv_number(std::sqrt(variance), d));
    if (density > 0) out += csv_number(tonnes(volume, density, r), 1) + ",";
    return out + ",,,,,,\n";
}

}  // namespace pristine::io
