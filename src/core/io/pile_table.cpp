#include "core/io/pile_table.h"

#include <fmt/format.h>

#include <cmath>

#include "core/base/figure.h"
#include "core/base/units.h"

namespace pristine::io {
namespace {

std::string quoted(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

std::string plain(double v, int decimals) {
    return figure(v, decimals, {"", "."});
}

}  // namespace

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
        out += quoted(n.name) + "," + measure::id_of(base) + ",";
        if (!n.problem.empty()) {
            out += std::string(density > 0 ? "," : "") + ",,,,,,,,," + quoted(n.problem) + "\n";
            continue;
        }
        volume += p.volume;
        below += p.below;
        variance += p.sigma * p.sigma;
        out += fmt::format("{},{},{},", plain(p.volume, d), plain(p.below, d), plain(p.sigma, d));
        if (density > 0) out += plain(tonnes(p.volume, density, r), 1) + ",";
        out += fmt::format("{},{},{},{},{},{},\n", plain(p.plan_area, d), plain(p.surface_area, d),
                           plain(100 * p.plan_area / p.outline_area, 1), plain(p.base_low, d + 1),
                           plain(p.base_high, d + 1), plain(p.highest, d + 1));
    }
    out +=
        fmt::format("\"all\",,{},{},{},", plain(volume, d), plain(below, d), plain(std::sqrt(variance), d));
    if (density > 0) out += plain(tonnes(volume, density, r), 1) + ",";
    return out + ",,,,,,\n";
}

}  // namespace pristine::io
