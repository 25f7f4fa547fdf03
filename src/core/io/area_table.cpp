#include "core/io/area_table.h"

#include <fmt/format.h>

#include "core/base/units.h"
#include "core/io/csv.h"

namespace pristine::io {

std::string area_table(const measure::AreaTable& table, double band, const cloud::Reference& r) {
    const bool known = is_length(r.unit);
    const std::string u = known ? length_unit(r.unit).symbol : "unit not set", two = known ? "2" : "",
                      three = known ? "3" : "";
    const int d = length_unit(r.unit).decimals;
    std::string out = fmt::format(
        "name,area [{0}{1}],covered by both [{0}{1}],cut [{0}{2}],standard deviation of cut [{0}{2}],"
        "fill [{0}{2}],standard deviation of fill [{0}{2}],net [{0}{2}],standard deviation of net [{0}{2}],"
        "cut area [{0}{1}],fill area [{0}{1}],unchanged [{0}{1}],band [{0}]\n",
        u, two, three);
    const auto add = [&](const std::string& name, const std::string& area, const measure::Difference& c) {
        out += csv_text(name) + "," + area;
        for (const double v : {c.overlap_area, c.cut, c.sigma_cut, c.fill, c.sigma_fill, c.net(), c.sigma_net,
                               c.cut_area, c.fill_area, c.unchanged_area})
            out += "," + csv_number(v, d);
        out += "," + csv_number(band, d + 1) + "\n";
    };
    double area = 0;
    for (const auto& row : table.rows) {
        add(row.name, csv_number(row.area, d), row.change);
        area += row.area;
    }
    if (table.together) add("all areas", csv_number(area, d), *table.together);
    add("outside of them", "", table.rest);
    add("everything", "", table.whole);
    return out;
}

}  // namespace pristine::io
