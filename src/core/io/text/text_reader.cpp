#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <map>
#include <set>

#include "core/io/record_cloud.h"
#include "core/io/text/text.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::FieldType;

struct Line {
    std::string_view text;
    std::size_t begin;
};

std::vector<Line> lines_of(std::string_view sample) {
    std::vector<Line> lines;
    for (std::size_t from = 0; from < sample.size();) {
        std::size_t nl = sample.find('\n', from);
        if (nl == std::string_view::npos) nl = sample.size();
        lines.push_back({sample.substr(from, nl - from), from});
        from = nl + 1;
    }
    return lines;
}

// How many words of a line are numbers under a shape; -1 if any is none.
int numbers_in(std::string_view line, const TableShape& shape) {
    const auto words = split_line(line, shape.separator);
    double v = 0;
    for (const auto& w : words)
        if (!parse_number(w, shape.decimal_comma, v)) return -1;
    return static_cast<int>(words.size());
}

// Tries every way of splitting on the data lines of the sample; the one that turns most lines into numbers
// wins.
TableShape best_shape(const std::vector<Line>& lines) {
    const TableShape candidates[] = {{0, ',', false}, {0, ';', false}, {0, '\t', false}, {0, 0, false},
                                     {0, ';', true},  {0, '\t', true}, {0, 0, true}};
    TableShape best = candidates[3];
    int best_score = 0;
    for (const TableShape& shape : candidates) {
        int score = 0;
        for (std::size_t i = 0; i < std::min<std::size_t>(lines.size(), 200); ++i)
            if (!is_comment(lines[i].text) && numbers_in(lines[i].text, shape) >= 3) ++score;
        if (score > best_score) {
            best = shape;
            best_score = score;
        }
    }
    return best;
}

std::vector<std::string> names_by_count(std::size_t columns) {
    std::vector<std::string> names{"x", "y", "z"};
    if (columns == 4 || columns == 7) names.push_back("intensity");
    if (columns == 6 || columns == 7) names.insert(names.end(), {"red", "green", "blue"});
    for (std::size_t c = names.size(); c < columns; ++c) names.push_back(fmt::format("column_{}", c + 1));
    return names;
}

// A header names as many columns as there are and among them x, y and z.
std::vector<std::string> names_in(std::string_view line, char separator, std::size_t columns) {
    while (!line.empty() &&
           (line.front() == '#' || line.front() == '/' || line.front() == '%' || line.front() == ' '))
        line.remove_prefix(1);
    if (line.size() >= 3 && line.substr(0, 3) == "\xEF\xBB\xBF") line.remove_prefix(3);
    std::vector<std::string> names;
    std::set<std::string> seen;
    for (const auto& word : split_line(line, separator)) {
        std::string name = column_name(word);
        if (name.empty()) name = fmt::format("column_{}", names.size() + 1);
        while (!seen.insert(name).second) name += "_";
        names.push_back(name);
    }
    const bool complete = seen.count("x") && seen.count("y") && seen.count("z");
    return complete && names.size() == columns ? names : std::vector<std::string>{};
}

// The type of each column, once all its values are known.
void type_columns(cloud::RecordLayout& layout, const std::vector<FieldRange>& ranges) {
    std::size_t at = 0;
    for (std::size_t i = 0; i < layout.fields.size(); ++i) {
        Field& f = layout.fields[i];
        const FieldRange& r = ranges[i];
        const bool natural = r.integers && r.lo >= 0;
        if (f.name == "red" || f.name == "green" || f.name == "blue")
            f.type = natural && r.hi <= 255     ? FieldType::U8
                     : natural && r.hi <= 65535 ? FieldType::U16
                                                : FieldType::F32;
        else if (f.name == "class" && natural && r.hi <= 255)
            f.type = FieldType::U8;
        else if (f.name == "intensity" && natural && r.hi <= 65535)
            f.type = FieldType::U16;
        f.offset = at;
        at += bytes_of(f.type);
    }
    // All three channels in one type, the widest that any of them needs.
    FieldType widest = FieldType::U8;
    for (const char* c : {"red", "green", "blue"})
        if (const Field* f = layout.find(c); f && f->type != FieldType::U8 && widest != FieldType::F32)
            widest = f->type;
    at = 0;
    for (Field& f : layout.fields) {
        if (f.name == "red" || f.name == "green" || f.name == "blue") f.type = widest;
        f.offset = at;
        at += bytes_of(f.type);
    }
    layout.record_bytes = at;
}

}  // namespace

std::string column_name(std::string_view word) {
    std::string name;
    for (const char c : word)
        if (!std::isspace(static_cast<unsigned char>(c)))
            name += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (const std::size_t unit = name.find_first_of("[("); unit != std::string::npos && unit > 0)
        name.resize(unit);
    static const std::map<std::string, std::string> known{{"easting", "x"},
                                                          {"east", "x"},
                                                          {"e", "x"},
                                                          {"northing", "y"},
                                                          {"north", "y"},
                                                          {"n", "y"},
                                                          {"height", "z"},
                                                          {"elevation", "z"},
                                                          {"h", "z"},
                                                          {"elev", "z"},
                                                          {"i", "intensity"},
                                                          {"reflectance", "intensity"},
                                                          {"amplitude", "intensity"},
                                                          {"r", "red"},
                                                          {"g", "green"},
                                                          {"b", "blue"},
                                                          {"classification", "class"},
                                                          {"gps_time", "time"},
                                                          {"gpstime", "time"}};
    const auto it = known.find(name);
    return it == known.end() ? name : it->second;
}

TextGuess guess_text(std::string_view sample, const std::string& place) {
    const std::vector<Line> lines = lines_of(sample);
    TextGuess guess;
    guess.shape = best_shape(lines);
    std::size_t first = lines.size();
    for (std::size_t i = 0; i < lines.size() && first == lines.size(); ++i)
        if (!is_comment(lines[i].text) && numbers_in(lines[i].text, guess.shape) >= 3) first = i;
    if (first == lines.size())
        throw Error(ErrorCode::Format,
                    "No line with at least three numbers was found at the start of the file", place,
                    "A text file of points has x, y and z on every line.");
    const auto columns = static_cast<std::size_t>(numbers_in(lines[first].text, guess.shape));
    guess.shape.begin = lines[first].begin;
    guess.shape.first_line_number = first + 1;
    guess.head = std::string(sample.substr(0, lines[first].begin));
    for (std::size_t i = first; i-- > 0 && guess.names.empty();) {
        guess.names = names_in(lines[i].text, guess.shape.separator, columns);
        if (guess.names.empty()) guess.names = names_in(lines[i].text, 0, columns);
    }
    if (guess.names.empty()) guess.names = names_by_count(columns);
    return guess;
}

TextReading reading_of(const TextGuess& guess, bool& sure) {
    TextReading r;
    r.skip = static_cast<std::size_t>(guess.shape.first_line_number - 1);
    r.separator = guess.shape.separator;
    r.decimal_comma = guess.shape.decimal_comma;
    r.columns = guess.names;
    const std::size_t n = guess.names.size();
    const bool named = guess.names != names_by_count(n);
    sure = named || n == 3 || n == 4 || n == 6 || n == 7;
    return r;
}

TextGuess guess_from(const TextReading& reading, std::string_view sample, const std::string& place) {
    TextGuess guess;
    guess.shape.separator = reading.separator;
    guess.shape.decimal_comma = reading.decimal_comma;
    guess.names = reading.columns;
    for (const char* axis : {"x", "y", "z"})
        if (std::count(guess.names.begin(), guess.names.end(), axis) != 1)
            throw Error(ErrorCode::Usage, fmt::format("One column must be named {}, and only one", axis),
                        place);
    std::set<std::string> seen;
    for (std::size_t c = 0; c < guess.names.size(); ++c) {
        std::string& name = guess.names[c];
        if (name.empty()) name = fmt::format("column_{}", c + 1);
        while (!seen.insert(name).second) name += "_";
    }
    const std::vector<Line> lines = lines_of(sample);
    if (reading.skip >= lines.size())
        throw Error(ErrorCode::Format, "There are no lines left after those that are skipped", place);
    guess.shape.begin = lines[reading.skip].begin;
    guess.shape.first_line_number = reading.skip + 1;
    guess.head = std::string(sample.substr(0, guess.shape.begin));
    return guess;
}

std::vector<std::vector<std::string>> preview_text(const TextReading& reading, std::string_view sample,
                                                   std::size_t count) {
    std::vector<std::vector<std::string>> rows;
    const std::vector<Line> lines = lines_of(sample);
    for (std::size_t i = reading.skip; i < lines.size() && rows.size() < count; ++i) {
        if (is_comment(lines[i].text)) continue;
        std::vector<std::string> row;
        for (const std::string_view word : split_line(lines[i].text, reading.separator))
            row.emplace_back(word);
        if (!row.empty()) rows.push_back(std::move(row));
    }
    return rows;
}

ReadResult read_text(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const auto file = std::make_shared<const InputFile>(path);
    const std::string sample = file->read_string(0, std::min<std::uint64_t>(file->size(), 256u << 10));
    // The last line of the sample may be cut; leave it out unless it is the only one.
    const std::size_t whole = sample.size() == file->size() ? std::string::npos : sample.rfind('\n');
    const std::string_view lines = std::string_view(sample).substr(0, whole);
    const std::string place = path.filename().string();
    const TextGuess guess = options.text ? guess_from(*options.text, lines, place) : guess_text(lines, place);
    cloud::RecordLayout layout{"text",
                               0,
                               {},
                               std::string(1, guess.shape.separator ? guess.shape.separator : ' ') +
                                   (guess.shape.decimal_comma ? "," : ".") + guess.head};
    for (const std::string& name : guess.names) {
        layout.fields.push_back({name, FieldType::F64, layout.record_bytes});
        layout.record_bytes += 8;
    }
    ReadResult result;
    progress.stretch(0, 0.2, "Finding lines");
    const auto table = std::make_shared<TextTable>(file, guess.shape, layout, progress);
    if (options.accept_partial) {
        std::string error;
        const std::uint64_t good = table->readable(error, progress);
        if (!error.empty())
            result.warnings.push_back(fmt::format("{} The {} points before it were read.", error, good));
        table->limit(good);
    }
    progress.stretch(0.2, 0.4, "Looking at columns");
    const std::vector<FieldRange> ranges = field_ranges(*table, progress);
    int decimals = 0;
    for (std::size_t c = 0; c < layout.fields.size(); ++c) {
        layout.fields[c].decimals = table->decimals(c);
        const std::string& name = layout.fields[c].name;
        if (name == "x" || name == "y" || name == "z")
            decimals = layout.fields[c].decimals < 0 || decimals < 0
                           ? -1
                           : std::max(decimals, layout.fields[c].decimals);
    }
    type_columns(layout, ranges);
    table->set_layout(layout);
    progress.stretch(0.4, 0.7, "Reading points");
    cloud::PointCloud::Parts known;
    if (options.text) known.unit = options.text->unit;
    result.cloud = cloud_from_records(table, ranges, decimals, result.warnings, progress, std::move(known));
    std::string columns;
    for (const std::string& name : guess.names) columns += " " + name;
    result.format = "Text, columns" + columns;
    return result;
}

CloudFormat text_format() {
    return {"text",
            "text of points",
            {"xyz", "txt", "csv", "asc"},
            // Never by content alone: too many other files are text. The ending decides.
            [](std::span<const std::byte>) { return false; },
            read_text,
            write_text};
}

}  // namespace pristine::io
