#include "core/io/text/table.h"
#include "core/base/file.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <cstring>

#include "core/base/parallel.h"

namespace pristine::io {
namespace {

constexpr std::size_t kBlock = 4u << 20;
constexpr std::size_t kLongestLine = 1u << 20;

std::string_view trimmed(std::string_view s) {
    while (!s.empty() && static_cast<unsigned char>(s.front()) <= ' ') s.remove_prefix(1);
    while (!s.empty() && static_cast<unsigned char>(s.back()) <= ' ') s.remove_suffix(1);
    return s;
}

}  // namespace

bool is_comment(std::string_view line) {
    line = trimmed(line);
    return line.empty() || line.front() == '#' || line.front() == '%' || line.substr(0, 2) == "//";
}

std::vector<std::string_view> split_line(std::string_view line, char separator) {
    std::vector<std::string_view> words;
    std::size_t at = 0;
    while (at <= line.size()) {
        if (separator == 0) {
            while (at < line.size() && static_cast<unsigned char>(line[at]) <= ' ') ++at;
            if (at == line.size()) break;
            std::size_t end = at;
            // What stands in quotes may hold blanks, if a blank or the line's end follows them.
            if (line[at] == '"')
                if (const std::size_t quote = line.find('"', at + 1);
                    quote != std::string_view::npos && quote > at + 1 &&
                    (quote + 1 == line.size() || static_cast<unsigned char>(line[quote + 1]) <= ' ')) {
                    words.push_back(line.substr(at + 1, quote - at - 1));
                    at = quote + 1;
                    continue;
                }
            while (end < line.size() && static_cast<unsigned char>(line[end]) > ' ') ++end;
            words.push_back(line.substr(at, end - at));
            at = end;
        } else {
            // What stands in quotes may hold the separator.
            std::size_t from = at;
            while (from < line.size() && line[from] == ' ') ++from;
            if (from < line.size() && line[from] == '"')
                if (const std::size_t quote = line.find('"', from + 1); quote != std::string_view::npos)
                    from = quote;
            std::size_t end = line.find(separator, std::max(from, at));
            if (end == std::string_view::npos) end = line.size();
            std::string_view word = trimmed(line.substr(at, end - at));
            if (word.size() >= 2 && word.front() == '"' && word.back() == '"')
                word = word.substr(1, word.size() - 2);
            words.push_back(word);
            at = end + 1;
        }
    }
    if (separator != 0 && words.size() > 1 && words.back().empty())
        words.pop_back();  // separator at the line's end
    return words;
}

bool parse_number(std::string_view word, bool decimal_comma, double& out) {
    std::array<char, 64> copy{};
    if (!word.empty() && word.front() == '+') word.remove_prefix(1);
    if (word.empty() || word.size() >= copy.size()) return false;
    if (decimal_comma && word.find(',') != std::string_view::npos) {
        std::copy(word.begin(), word.end(), copy.begin());
        *std::find(copy.begin(), copy.end(), ',') = '.';
        word = {copy.data(), word.size()};
    }
    const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), out);
    if (error == std::errc::result_out_of_range) out = std::fabs(out) < 1 ? 0 : out;
    return (error == std::errc() || error == std::errc::result_out_of_range) &&
           end == word.data() + word.size();
}

TextTable::TextTable(std::shared_ptr<const InputFile> file, TableShape shape, cloud::RecordLayout layout,
                     Progress& progress)
    : file_(std::move(file)), shape_(std::move(shape)) {
    set_layout(std::move(layout));
    std::string block, carry;
    std::uint64_t at = shape_.begin, line_start = at, number = shape_.first_line_number;
    const auto line = [&](std::string_view text) {
        if (!is_comment(text) && !shape_.left_out.contains(number)) {
            if (count_ % kPageSize == 0) pages_.push_back({line_start, number});
            ++count_;
        }
        ++number;
    };
    while (at < file_->size() && count_ < shape_.line_limit) {
        block = file_->read_string(at, std::min<std::uint64_t>(kBlock, file_->size() - at));
        std::size_t from = 0;
        while (count_ < shape_.line_limit) {
            const void* nl = std::memchr(block.data() + from, '\n', block.size() - from);
            if (!nl) break;
            const auto end = static_cast<std::size_t>(static_cast<const char*>(nl) - block.data());
            if (carry.empty()) {
                line(std::string_view(block).substr(from, end - from));
            } else {
                carry.append(block, from, end - from);
                line(carry);
                carry.clear();
            }
            from = end + 1;
            line_start = at + from;
        }
        if (count_ >= shape_.line_limit) break;
        carry.append(block, from, std::string::npos);
        if (carry.size() > kLongestLine)
            throw Error(ErrorCode::Format, fmt::format("Line {} is longer than 1 MiB", number),
                        file_->place(line_start), "This is hardly a text file of points.");
        at += block.size();
        progress.advance(static_cast<double>(at) / static_cast<double>(file_->size()));
    }
    if (!carry.empty() && count_ < shape_.line_limit) {
        line(carry);
        line_start = file_->size();
    }
    end_ = line_start;
}

template <class Put>
void TextTable::for_lines(std::size_t page, Put&& put) const {
    const std::uint64_t begin = pages_[page].byte;
    const std::uint64_t end = page + 1 < pages_.size() ? pages_[page + 1].byte : end_;
    const std::string text = file_->read_string(begin, end - begin);
    std::size_t index = 0;
    std::uint64_t number = pages_[page].line;
    for (std::size_t from = 0; from < text.size(); ++number) {
        std::size_t nl = text.find('\n', from);
        if (nl == std::string::npos) nl = text.size();
        const std::string_view line = std::string_view(text).substr(from, nl - from);
        from = nl + 1;
        if (!is_comment(line) && !shape_.left_out.contains(number)) put(index++, line, number);
    }
}

void TextTable::parse(std::string_view line, std::uint64_t number, std::byte* record) const {
    const auto words = split_line(line, shape_.separator);
    const auto fail = [&](const std::string& what) {
        return Error(ErrorCode::Format, what,
                     fmt::format("{}, line {}", file_->path().filename().string(), number));
    };
    // A column of words may end before the others do: a point without a code.
    std::size_t needed = layout_.fields.size();
    while (needed > 0 && layout_.fields[needed - 1].words) --needed;
    if (words.size() < needed)
        throw fail(
            fmt::format("The line has {} columns, {} are expected", words.size(), layout_.fields.size()));
    for (std::size_t f = 0; f < layout_.fields.size(); ++f) {
        double v = 0;
        if (layout_.fields[f].words) {
            const auto it = numbers_[f].find(std::string(f < words.size() ? words[f] : std::string_view()));
            if (it == numbers_[f].end()) throw fail(fmt::format("Column {} holds a word that is new", f + 1));
            v = it->second;
        } else if (!parse_number(words[f], shape_.decimal_comma, v))
            throw fail(fmt::format("'{}' in column {} is no number", words[f].substr(0, 40), f + 1));
        put(layout_.fields[f], record, v);
    }
}

void TextTable::read(std::uint64_t first, std::span<std::byte> out) const {
    const std::size_t bytes = layout_.record_bytes;
    const std::uint64_t last = first + out.size() / bytes;
    if (last > count_) throw Error(ErrorCode::Usage, "Records beyond the end were asked for");
    for (std::uint64_t p = first / kPageSize; p * kPageSize < last; ++p)
        for_lines(static_cast<std::size_t>(p),
                  [&](std::size_t index, std::string_view line, std::uint64_t number) {
                      const std::uint64_t k = p * kPageSize + index;
                      if (k >= first && k < last) parse(line, number, out.data() + (k - first) * bytes);
                  });
}

void TextTable::set_layout(cloud::RecordLayout layout) {
    layout_ = std::move(layout);
    numbers_.assign(layout_.fields.size(), {});
    for (std::size_t f = 0; f < numbers_.size(); ++f)
        if (layout_.fields[f].words)
            for (const std::string& word : *layout_.fields[f].words)
                numbers_[f].emplace(word, static_cast<std::uint32_t>(numbers_[f].size()));
}

namespace {

// Words in the order in which they first come.
struct WordList {
    std::unordered_map<std::string, std::uint32_t> number;
    std::vector<std::string> words;
    void add(const std::string& word) {
        if (number.emplace(word, static_cast<std::uint32_t>(words.size())).second) words.push_back(word);
    }
};

struct PageSurvey {
    std::vector<char> has_words;
    std::vector<WordList> words;
    std::vector<BadLine> bad;
};

}  // namespace

TableSurvey TextTable::survey(Progress& progress) const {
    const std::size_t columns = layout_.fields.size();
    const auto is_place = [&](std::size_t f) {
        const std::string& n = layout_.fields[f].name;
        return n == "x" || n == "y" || n == "z";
    };
    const auto look = [&](std::string_view line, std::uint64_t number, PageSurvey& s) {
        const auto words = split_line(line, shape_.separator);
        // A code at the end may be missing; a place may not.
        for (std::size_t f = 0; f < columns; ++f) {
            double v = 0;
            const std::string_view word = f < words.size() ? words[f] : std::string_view();
            if (!is_place(f) || parse_number(word, shape_.decimal_comma, v)) continue;
            s.bad.push_back(
                {number, f >= words.size()
                             ? fmt::format("it has {} columns, {} are expected", words.size(), columns)
                             : fmt::format("'{}' in column {} is no number", words[f].substr(0, 40), f + 1)});
            return;
        }
        for (std::size_t f = 0; f < columns; ++f) {
            if (is_place(f)) continue;
            double v = 0;
            const std::string word(f < words.size() ? words[f] : std::string_view());
            if (!parse_number(word, shape_.decimal_comma, v)) s.has_words[f] = 1;
            s.words[f].add(word);
        }
    };
    const auto pages = parallel::map<PageSurvey>(pages_for(count_), [&](std::size_t p) {
        progress.check();
        PageSurvey s{std::vector<char>(columns), std::vector<WordList>(columns), {}};
        for_lines(p,
                  [&](std::size_t, std::string_view line, std::uint64_t number) { look(line, number, s); });
        return s;
    });
    TableSurvey all;
    all.lines = count_;
    all.words.resize(columns);
    for (const PageSurvey& s : pages) all.bad.insert(all.bad.end(), s.bad.begin(), s.bad.end());
    for (std::size_t f = 0; f < columns; ++f) {
        if (std::none_of(pages.begin(), pages.end(),
                         [&](const PageSurvey& s) { return s.has_words[f] != 0; }))
            continue;
        WordList list;
        for (const PageSurvey& s : pages)
            for (const std::string& word : s.words[f].words) list.add(word);
        all.words[f] = std::make_shared<const std::vector<std::string>>(std::move(list.words));
    }
    return all;
}

std::uint64_t TextTable::readable(std::string& error, Progress& progress) const {
    struct Outcome {
        std::uint64_t good = 0;
        std::string error;
    };
    const std::uint64_t count = count_;
    const auto outcomes = parallel::map<Outcome>(pages_for(count), [&](std::size_t p) {
        progress.check();
        Outcome o;
        std::vector<std::byte> record(layout_.record_bytes);
        try {
            for_lines(p, [&](std::size_t index, std::string_view line, std::uint64_t number) {
                if (index >= page_length(count, p)) return;
                parse(line, number, record.data());
                ++o.good;
            });
        } catch (const Error& e) {
            o.error = e.what();
        }
        return o;
    });
    std::uint64_t good = 0;
    for (const Outcome& o : outcomes) {
        good += o.good;
        if (!o.error.empty()) {
            error = o.error;
            return good;
        }
    }
    return good;
}

int TextTable::decimals(std::size_t column) const {
    int most = 0;
    if (count_ == 0) return 0;
    for_lines(0, [&](std::size_t, std::string_view line, std::uint64_t) {
        const auto words = split_line(line, shape_.separator);
        if (column >= words.size() || most < 0) return;
        if (words[column].find_first_of("eE") != std::string_view::npos) {
            most = -1;
            return;
        }
        const std::size_t dot = words[column].find(shape_.decimal_comma ? ',' : '.');
        if (dot != std::string_view::npos)
            most = std::max(most, static_cast<int>(words[column].size() - dot - 1));
    });
    return most;
}

}  // namespace pristine::io
