#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <map>
#include <set>

#include "core/base/file.h"
#include "core/io/record_cloud.h"
#include "core/io/reference/remark.h"
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

// How many words a line has under a shape, and how many of them are numbers.
struct Counts {
    std::size_t words = 0, numbers = 0;
    bool all_numbers() const { return words == numbers; }
};
Counts counts_in(std::string_view line, const TableShape& shape) {
    const auto words = split_line(line, shape.separator);
    Counts c{words.size(), 0};
    double v = 0;
    for (const auto& w : words) c.numbers += parse_number(w, shape.decimal_comma, v);
    return c;
}

// Points have three numbers, and not many words beside them (a name, a code, a date): prose has more.
bool is_data(std::string_view line, const TableShape& shape) {
    if (is_comment(line)) return false;
    const Counts c = counts_in(line, shape);
    return c.numbers >= 3 && c.words <= c.numbers + 4;
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
            if (is_data(lines[i].text, shape)) score += counts_in(lines[i].text, shape).all_numbers() ? 4 : 3;
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

// Which columns hold words in any of the data lines of the sample; as many as most lines have.
std::vector<bool> word_columns(const std::vector<Line>& lines, std::size_t first, const TableShape& shape) {
    std::map<std::size_t, std::size_t> lengths;
    for (std::size_t i = first; i < lines.size(); ++i)
        if (is_data(lines[i].text, shape)) ++lengths[split_line(lines[i].text, shape.separator).size()];
    std::size_t columns = 0, most = 0;
    for (const auto& [length, count] : lengths)
        if (count >= most) {
            most = count;
            columns = length;
        }
    // A code is missing on some lines only: then the longer lines say how many columns there are.
    for (const auto& [length, count] : lengths)
        if (length == columns + 1 && 10 * count > most) columns = length;
    std::vector<bool> words(columns, false);
    double v = 0;
    for (std::size_t i = first; i < lines.size(); ++i) {
        if (!is_data(lines[i].text, shape)) continue;
        const auto split = split_line(lines[i].text, shape.separator);
        for (std::size_t c = 0; c < std::min(columns, split.size()); ++c)
            if (!parse_number(split[c], shape.decimal_comma, v)) words[c] = true;
    }
    return words;
}

// A survey list: the point's name or number first, then the place, then its code and whatever follows. Which
// of the first two numbers is east nobody can tell from numbers alone: such a guess is never sure.
std::vector<std::string> names_of_list(const std::vector<bool>& words) {
    const auto numbers = static_cast<std::size_t>(std::count(words.begin(), words.end(), false));
    std::vector<std::string> names(words.size());
    std::size_t place = 0;
    const bool number_first = !words.empty() && !words[0] && numbers > 3;
    const char* axes[3] = {"x", "y", "z"};
    bool code = false;
    for (std::size_t c = 0; c < words.size(); ++c) {
        if (c == 0 && (words[0] || number_first))
            names[c] = "point";
        else if (!words[c] && place < 3)
            names[c] = axes[place++];
        else if (words[c] && place == 3 && !code) {
            names[c] = "code";
            code = true;
        } else
            names[c] = fmt::format("column_{}", c + 1);
    }
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
        if (f.words) f.type = FieldType::U32;
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
        if (is_data(lines[i].text, guess.shape)) first = i;
    if (first == lines.size())
        throw Error(ErrorCode::Format,
                    "No line with at least three numbers was found at the start of the file", place,
                    "A text file of points has x, y and z on every line.", Remedy::ChooseColumns);
    const std::vector<bool> words = word_columns(lines, first, guess.shape);
    const std::size_t columns = words.size();
    guess.words = std::find(words.begin(), words.end(), true) != words.end();
    guess.shape.begin = lines[first].begin;
    guess.shape.first_line_number = first + 1;
    guess.head = std::string(sample.substr(0, lines[first].begin));
    for (std::size_t i = first; i-- > 0 && guess.names.empty();) {
        guess.names = names_in(lines[i].text, guess.shape.separator, columns);
        if (guess.names.empty()) guess.names = names_in(lines[i].text, 0, columns);
    }
    guess.named = !guess.names.empty();
    if (guess.names.empty()) guess.names = guess.words ? names_of_list(words) : names_by_count(columns);
    return guess;
}

TextReading reading_of(const TextGuess& guess, bool& sure) {
    TextReading r;
    r.skip = static_cast<std::size_t>(guess.shape.first_line_number - 1);
    r.separator = guess.shape.separator;
    r.decimal_comma = guess.shape.decimal_comma;
    r.columns = guess.names;
    const std::size_t n = guess.names.size();
    const bool usual = n == 3 || n == 4 || n == 6 || n == 7;
    sure = guess.named || (!guess.words && usual);
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

namespace {

// Columns that are numbers whatever stands in them: a word there is a fault of its line.
bool must_be_number(const std::string& name) {
    static const std::set<std::string> known{"x",    "y",     "z",    "intensity", "red",     "green",
                                             "blue", "class", "time", "return",    "returns", "scan"};
    return known.contains(name);
}

std::string told(const std::vector<BadLine>& bad, std::uint64_t lines) {
    std::string s = fmt::format("{} of {} lines {} no point and {} left out: ", bad.size(), lines,
                                bad.size() == 1 ? "is" : "are", bad.size() == 1 ? "was" : "were");
    constexpr std::size_t kTold = 5;
    for (std::size_t i = 0; i < std::min(bad.size(), kTold); ++i)
        s += fmt::format("{}line {} ({})", i ? ", " : "", bad[i].number, bad[i].why);
    return s + (bad.size() > kTold ? ", …" : ".");
}

// The lines of a text file, without those that are none of its points, and with its columns of words.
class TextOpening {
  public:
    TextOpening(std::shared_ptr<const InputFile> file, TextGuess guess, const ReadOptions& options,
                Progress& progress)
        : file_(std::move(file)), guess_(std::move(guess)), options_(options), progress_(progress) {
        layout_ = {"text",
                   0,
                   {},
                   std::string(1, guess_.shape.separator ? guess_.shape.separator : ' ') +
                       (guess_.shape.decimal_comma ? "," : ".") + guess_.head};
        for (const std::string& name : guess_.names) {
            layout_.fields.push_back({name, FieldType::F64, layout_.record_bytes});
            layout_.record_bytes += 8;
        }
    }

    void run() {
        progress_.stretch(0, 0.2, "Finding lines");
        table = std::make_shared<TextTable>(file_, guess_.shape, layout_, progress_);
        progress_.stretch(0.2, 0.4, "Looking at columns");
        // Only where a word is seen, or turns up, every line is looked at beforehand: that takes as long
        // again.
        bool plain = !guess_.words;
        try {
            if (plain) ranges = field_ranges(*table, progress_);
        } catch (const Error& e) {
            if (e.code() != ErrorCode::Format) throw;
            plain = false;
        }
        if (plain) return;
        leave_out(table->survey(progress_));
        ranges = field_ranges(*table, progress_);
    }

    std::shared_ptr<TextTable> table;
    std::vector<FieldRange> ranges;
    std::vector<std::string> warnings;

  private:
    void leave_out(TableSurvey survey) {
        for (std::size_t f = 0; f < layout_.fields.size(); ++f)
            if (survey.words[f] && !must_be_number(layout_.fields[f].name))
                layout_.fields[f].words = survey.words[f];
        if (survey.bad.size() * 2 > survey.lines && !options_.accept_partial)
            throw Error(ErrorCode::Format, told(survey.bad, survey.lines), file_->path().filename().string(),
                        "Say what the columns are, or read the rest.", Remedy::PartOrColumns);
        if (!survey.bad.empty()) {
            warnings.push_back(told(survey.bad, survey.lines));
            for (const BadLine& b : survey.bad) guess_.shape.left_out.insert(b.number);
            table = std::make_shared<TextTable>(file_, guess_.shape, layout_, progress_);
        }
        table->set_layout(layout_);
    }

    std::shared_ptr<const InputFile> file_;
    TextGuess guess_;
    const ReadOptions& options_;
    Progress& progress_;
    cloud::RecordLayout layout_;
};

TextGuess guess_of(const InputFile& file, const ReadOptions& options) {
    const std::string sample = file.read_string(0, std::min<std::uint64_t>(file.size(), 256u << 10));
    if (sample.rfind("\xFF\xFE", 0) == 0 || sample.rfind("\xFE\xFF", 0) == 0)
        throw Error(ErrorCode::Unsupported, "The text is in UTF-16", file.path().filename().string(),
                    "Save it as UTF-8.");
    if (sample.find('\n') == std::string::npos && sample.find('\r') != std::string::npos)
        throw Error(ErrorCode::Unsupported, "The lines of the text end with a carriage return alone",
                    file.path().filename().string(), "Save it with line feeds.");
    // The last line of the sample may be cut; leave it out unless it is the only one.
    const std::size_t whole = sample.size() == file.size() ? std::string::npos : sample.rfind('\n');
    const std::string_view lines = std::string_view(sample).substr(0, whole);
    const std::string place = file.path().filename().string();
    if (options.text && !options.text->guess_shape) return guess_from(*options.text, lines, place);
    TextGuess guess = guess_text(lines, place);
    if (options.text) {
        bool sure = false;
        TextReading said = reading_of(guess, sure);
        said.columns = options.text->columns;
        const bool words = guess.words;
        guess = guess_from(said, lines, place);
        guess.words = words;
        return guess;
    }
    if (guess.words && !guess.named)
        throw Error(
            ErrorCode::Unsupported,
            "The file is a list of points with words, and no line says which column is east and which north",
            place, "Name the columns, for example --columns point,y,x,z,code.");
    return guess;
}

}  // namespace

ReadResult read_text(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const auto file = std::make_shared<const InputFile>(path);
    const TextGuess guess = guess_of(*file, options);
    TextOpening opening(file, guess, options, progress);
    opening.run();
    ReadResult result;
    result.warnings = opening.warnings;
    cloud::RecordLayout layout = opening.table->layout();
    int decimals = 0;
    for (std::size_t c = 0; c < layout.fields.size(); ++c) {
        layout.fields[c].decimals = opening.table->decimals(c);
        const std::string& name = layout.fields[c].name;
        if (name == "x" || name == "y" || name == "z")
            decimals = layout.fields[c].decimals < 0 || decimals < 0
                           ? -1
                           : std::max(decimals, layout.fields[c].decimals);
    }
    type_columns(layout, opening.ranges);
    opening.table->set_layout(layout);
    const Progress::Part part(progress, 0.4, 1, "Reading points");
    cloud::PointCloud::Parts known;
    cloud::Reference said;
    std::string_view head = guess.head;
    for (const Line& line : lines_of(head)) take_remark(line.text, said);
    known.crs = said.crs;
    known.unit = options.text && !options.text->unit.empty() ? options.text->unit : said.unit;
    known.height_unit = said.height_unit;
    result.cloud = cloud_from_records(opening.table, opening.ranges, decimals, result.warnings, progress,
                                      std::move(known));
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
