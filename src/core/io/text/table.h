// Lines of numbers in a text file, read as fixed-size records without keeping them in memory.

#pragma once

#include <set>
#include <unordered_map>

#include "core/base/file.h"
#include "core/io/cloud_io.h"

namespace pristine::io {

/// Where the numbers are and how lines are split.
struct TableShape {
    std::uint64_t begin = 0;  ///< byte where data lines begin
    char separator = 0;       ///< ',' ';' '\t'; 0: any run of blanks
    bool decimal_comma = false;
    std::uint64_t line_limit = UINT64_MAX;  ///< stop after so many data lines (PLY knows its count)
    std::uint64_t first_line_number = 1;    ///< number of the line at `begin`, for messages
    std::set<std::uint64_t> left_out{};     ///< numbers of data lines that do not count
};

/// A line that is no record, and why.
struct BadLine {
    std::uint64_t number = 0;
    std::string why;
};
/// What a look at every line found: which columns hold words, all their different words in the order of the
/// file, and which lines have no numbers where x, y and z should be, or too few columns.
struct TableSurvey {
    std::vector<std::shared_ptr<const std::vector<std::string>>> words;  ///< of each column; null: numbers
    std::vector<BadLine> bad;
    std::uint64_t lines = 0;
};

/// The data lines of a text file as records; line k of the data is record k. Lines are found once and parsed
/// again each time they are asked for. Thread safe.
class TextTable : public cloud::RecordSource {
  public:
    /// Finds the lines. Empty lines and comments (#, //, %) do not count.
    TextTable(std::shared_ptr<const InputFile>, TableShape, cloud::RecordLayout, Progress&);

    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    /// Throws Error(Format) with the line number when a line has too few columns or a word is no number.
    void read(std::uint64_t first, std::span<std::byte> out) const override;

    /// Reads every line once. O(lines), in parallel; memory for the words and the bad lines.
    TableSurvey survey(Progress&) const;
    /// Number of leading records that can be read; and the error that stops after them, if any.
    std::uint64_t readable(std::string& error, Progress&) const;
    void limit(std::uint64_t count) { count_ = std::min(count_, count); }
    /// Changes how fields are typed, between reads.
    void set_layout(cloud::RecordLayout layout);
    /// Most decimals written in the x, y, z columns (over the first page); -1 if any has an exponent.
    int decimals(std::size_t column) const;
    std::uint64_t end_of_data() const { return end_; }

  private:
    struct Place {
        std::uint64_t byte, line;
    };
    // Parses data lines of one page, calling put(index in page, line text, line number).
    template <class Put>
    void for_lines(std::size_t page, Put&& put) const;
    void parse(std::string_view line, std::uint64_t number, std::byte* record) const;

    std::shared_ptr<const InputFile> file_;
    TableShape shape_;
    cloud::RecordLayout layout_;
    std::vector<Place> pages_;
    std::uint64_t count_ = 0, end_ = 0;
    std::vector<std::unordered_map<std::string, std::uint32_t>> numbers_;  // of the words of each field
};

/// Splits a line into words. Quotes round a word are taken off.
std::vector<std::string_view> split_line(std::string_view line, char separator);
/// A number, with '.' or ',' as decimal mark; also nan and inf. False if the word is none.
bool parse_number(std::string_view word, bool decimal_comma, double& out);
bool is_comment(std::string_view line);

}  // namespace pristine::io
