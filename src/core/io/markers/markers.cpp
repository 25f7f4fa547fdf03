#include "core/io/markers/markers.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <map>
#include <optional>

#include "core/base/file.h"
#include "core/io/text/table.h"
#include "core/io/text/text.h"

namespace pristine::io {
namespace {

std::string trimmed(std::string s) {
    const auto blank = [](unsigned char c) { return std::isspace(c) != 0 || c == '"'; };
    while (!s.empty() && blank(static_cast<unsigned char>(s.back()))) s.pop_back();
    const auto first =
        std::find_if_not(s.begin(), s.end(), [&](char c) { return blank(static_cast<unsigned char>(c)); });
    return {first, s.end()};
}

std::vector<std::string> cells_of(const std::string& line, char separator) {
    std::vector<std::string> cells;
    std::size_t from = 0;
    for (;;) {
        const std::size_t to = line.find(separator, from);
        cells.push_back(trimmed(line.substr(from, to == std::string::npos ? to : to - from)));
        if (to == std::string::npos) return cells;
        from = to + 1;
    }
}

double number_in(const std::string& cell, const char* column, std::size_t line, const std::string& place) {
    double v = 0;
    const auto [end, fault] = std::from_chars(cell.data(), cell.data() + cell.size(), v);
    if (fault != std::errc() || end != cell.data() + cell.size() || !std::isfinite(v))
        throw Error(ErrorCode::Format, fmt::format("'{}' is no number for {}", cell, column),
                    fmt::format("{}, line {}", place, line));
    return v;
}

}  // namespace

std::vector<Marker> read_markers(const std::filesystem::path& path) {
    const InputFile file(path);
    const std::string text = file.read_string(0, file.size());
    const std::string place = path.filename().string();
    std::map<std::string, std::size_t> column;
    char separator = ',';
    std::vector<Marker> markers;
    std::size_t from = 0, number = 0;
    while (from < text.size()) {
        std::size_t to = text.find('\n', from);
        if (to == std::string::npos) to = text.size();
        const std::string line = trimmed(text.substr(from, to - from));
        from = to + 1;
        ++number;
        if (line.empty()) continue;
        if (column.empty()) {
            separator = line.find(';') != std::string::npos    ? ';'
                        : line.find('\t') != std::string::npos ? '\t'
                                                               : ',';
            for (std::string name : cells_of(line, separator)) {
                std::transform(name.begin(), name.end(), name.begin(),
                               [](unsigned char c) { return std::tolower(c); });
                column.emplace(name, column.size());
            }
            for (const char* needed : {"x", "y", "z", "radius"})
                if (!column.contains(needed))
                    throw Error(ErrorCode::Format,
                                fmt::format("The table of markers has no column '{}'", needed), place,
                                "Its first line names the columns: name, x, y, z, radius, kind.");
            continue;
        }
        const auto cells = cells_of(line, separator);
        const auto cell = [&](const char* name) {
            const auto it = column.find(name);
            return it != column.end() && it->second < cells.size() ? cells[it->second] : std::string();
        };
        Marker m;
        m.name = cell("name");
        m.kind = cell("kind");
        m.place = {number_in(cell("x"), "x", number, place), number_in(cell("y"), "y", number, place),
                   number_in(cell("z"), "z", number, place)};
        m.radius = number_in(cell("radius"), "the radius", number, place);
        if (!(m.radius > 0))
            throw Error(ErrorCode::Format, "The radius of a marker is larger than 0",
                        fmt::format("{}, line {}", place, number));
        if (m.name.empty()) m.name = fmt::format("marker {}", markers.size() + 1);
        markers.push_back(std::move(m));
    }
    if (markers.empty()) throw Error(ErrorCode::Format, "The table holds no markers", place);
    return markers;
}

std::vector<Marker> read_marker_table(const std::filesystem::path& path, const TextReading& said,
                                      double usual_radius, std::vector<std::string>& left_out) {
    const InputFile file(path);
    const std::string text = file.read_string(0, file.size()), place = path.filename().string();
    TextReading reading = said;
    if (said.guess_shape) {
        bool sure = false;
        reading = reading_of(guess_text(text, place), sure);
        reading.columns = said.columns;
    }
    const auto column = [&](std::initializer_list<const char*> names) -> std::optional<std::size_t> {
        for (std::size_t k = 0; k < reading.columns.size(); ++k)
            for (const char* name : names)
                if (reading.columns[k] == name) return k;
        return std::nullopt;
    };
    const std::array at{column({"x"}), column({"y"}), column({"z"})};
    const auto name = column({"point", "name"}), kind = column({"code", "kind"}), radius = column({"radius"}),
               diameter = column({"diameter"});
    if (!at[0] || !at[1] || !at[2])
        throw Error(ErrorCode::Usage, "A table of markers has the columns x, y and z", place);
    if (!radius && !diameter && !(usual_radius > 0))
        throw Error(ErrorCode::Usage, "No column of the table says how large the markers are", place,
                    "Say the radius that all of them have.");
    std::vector<Marker> markers;
    std::size_t line = 0;
    for (const std::vector<std::string>& cells : preview_text(reading, text, SIZE_MAX)) {
        ++line;
        const auto number = [&](std::optional<std::size_t> k, double& out) {
            return k && *k < cells.size() && parse_number(cells[*k], reading.decimal_comma, out) &&
                   std::isfinite(out);
        };
        const auto word = [&](std::optional<std::size_t> k) {
            return k && *k < cells.size() ? cells[*k] : std::string();
        };
        Marker m{word(name), {}, usual_radius, word(kind)};
        const bool placed = number(at[0], m.place.x) && number(at[1], m.place.y) && number(at[2], m.place.z);
        bool sized = !radius && !diameter;
        if (radius) sized = number(radius, m.radius);
        if (!radius && diameter && (sized = number(diameter, m.radius))) m.radius /= 2;
        if (!placed || !sized || !(m.radius > 0)) {
            left_out.push_back(fmt::format("line {}: {}", line,
                                           placed ? "no radius above 0" : "no numbers where x, y and z are"));
            continue;
        }
        if (m.name.empty()) m.name = fmt::format("marker {}", markers.size() + 1);
        markers.push_back(std::move(m));
    }
    if (markers.empty()) throw Error(ErrorCode::Format, "The table holds no markers", place);
    return markers;
}

std::filesystem::path markers_beside(const std::filesystem::path& mesh) {
    std::string stem = mesh.stem().string();
    for (int round = 0; round < 2; ++round) {
        const std::filesystem::path file = mesh.parent_path() / (stem + "-markers.csv");
        if (std::filesystem::exists(file)) return file;
        if (!stem.ends_with("-scan")) break;
        stem.resize(stem.size() - 5);
    }
    return {};
}

}  // namespace pristine::io
