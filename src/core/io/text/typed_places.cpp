#include "core/io/text/typed_places.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <string>

#include "core/base/error.h"
#include "core/io/text/table.h"

namespace pristine::io {
namespace {

std::vector<std::string_view> split(std::string_view line, std::string_view separators) {
    std::vector<std::string_view> words;
    while (!line.empty()) {
        const std::size_t begin = line.find_first_not_of(separators);
        if (begin == std::string_view::npos) break;
        line.remove_prefix(begin);
        const std::size_t end = std::min(line.find_first_of(separators), line.size());
        words.push_back(line.substr(0, end));
        line.remove_prefix(end);
    }
    return words;
}

std::optional<double> number(std::string_view word) {
    // "412300.25," of a list with a comma and a blank between the numbers.
    if (!word.empty() && word.back() == ',') word.remove_suffix(1);
    const bool comma = word.find(',') != std::string_view::npos;
    double v = 0;
    return parse_number(word, comma, v) && std::isfinite(v) ? std::optional(v) : std::nullopt;
}

[[noreturn]] void fail(std::size_t line, std::string_view text) {
    throw Error(ErrorCode::Format,
                "Two or three numbers are a place, easting, northing and height; here is '" +
                    std::string(text.substr(0, 60)) + "'",
                "line " + std::to_string(line));
}

std::vector<double> numbers_of(std::string_view text, std::size_t line) {
    std::vector<std::string_view> words = split(text, " \t;\r");
    if (words.size() == 1) words = split(text, ", \r");
    std::vector<double> out;
    bool named = false;
    for (std::size_t k = 0; k < words.size(); ++k) {
        const auto v = number(words[k]);
        if (!v && k == 0 && words.size() > 2) {
            named = true;
            continue;
        }
        if (!v && k >= 3) break;  // a code
        if (!v) fail(line, text);
        out.push_back(*v);
    }
    // A name may be a number, too.
    if (out.size() == 4 && !named) out.erase(out.begin());
    if (out.size() != 2 && out.size() != 3) fail(line, text);
    return out;
}

}  // namespace

TypedPlaces typed_places(std::string_view text) {
    TypedPlaces typed;
    std::optional<std::size_t> columns;
    std::size_t line = 0;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find('\n'), text.size());
        std::string_view here = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        ++line;
        here = here.substr(0, here.find('#'));
        if (here.find_first_not_of(" \t\r;,") == std::string_view::npos) continue;
        const std::vector<double> v = numbers_of(here, line);
        if (columns && *columns != v.size())
            throw Error(ErrorCode::Format, "Some places have a height and others have none",
                        "line " + std::to_string(line), "Give all of them one, or none.");
        columns = v.size();
        typed.places.push_back({v[0], v[1], v.size() == 3 ? v[2] : 0});
    }
    typed.heights = columns.value_or(3) == 3;
    return typed;
}

}  // namespace pristine::io
