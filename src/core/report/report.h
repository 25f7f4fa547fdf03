// What a report says, whatever it is written as: parts of paragraphs, tables and figures.
//
// Law (tested): every output of one report shows the same words and digits; a number is written once, here.

#pragma once

#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "core/report/drawing.h"

namespace pristine::report {

/// What a table shows in one place: the words that are read, and behind a figure its value and unit.
struct Cell {
    std::string text;
    std::optional<double> value{};
    std::string unit{};  ///< of the value: "m³"; empty: a plain number
    ImagePtr picture{};  ///< before the text; null: none
    bool operator==(const Cell&) const = default;
};

struct Column {
    std::string id;        ///< in files: "volume"
    std::string title;     ///< "Volume, m³"
    bool figures = false;  ///< set to the right
    double share = 1;      ///< of the width, against the others
};

struct Table {
    std::string id, caption;
    std::vector<Column> columns;
    std::vector<std::vector<Cell>> rows;  ///< as long as `columns`
    bool last_is_sum = false;
};

struct Paragraph {
    std::vector<Run> runs;
    enum class Kind : std::uint8_t { Plain, Note, Warning } kind = Kind::Plain;
};

/// Where a plan lies: the place of a spot of its drawing, data unit.
struct Ground {
    double x = 0, y = 0;         ///< the spot, mm
    double east = 0, north = 0;  ///< and its place
    double mm_per_unit = 1;
};

/// What is drawn, beside each other where there are several and the page has the room.
struct Figure {
    std::string id, caption;  ///< without its number
    std::string alt;          ///< what is seen, for those who cannot see it
    std::vector<Drawing> drawings;
    int scale = 0;                   ///< 1 : scale, on paper; 0: none
    std::optional<Ground> ground{};  ///< of a plan
};

using Block = std::variant<Paragraph, Table, Figure>;

/// A part of a report.
struct Part {
    std::string kind, title;
    std::vector<Block> blocks;
};

/// All of it.
struct Report {
    std::string title, site, office, surveyor, date;  ///< date: of writing, as 2026-11-25
    std::string program;                              ///< name and version
    ImagePtr logo{};
    std::vector<Part> parts;
    std::vector<std::string> warnings;  ///< what is out of date or missing, one sentence each
};

/// "7 Change of the spoil bank".
std::string numbered(std::size_t part, const std::string& title);
/// Number of the first figure and the first table of each part, from 1.
std::vector<std::pair<int, int>> first_numbers(const Report&);

/// UTF-8 with a byte order mark: title, then each table under its part and caption, and each paragraph.
std::string csv_of(const Report&);
/// Parts, paragraphs and tables, each figure of a table with value and unit; figures by name and caption.
std::string json_of(const Report&);
/// As it stands in HTML, between tags and in attributes.
std::string escaped_html(const std::string&);
/// One file with pictures inside, readable on a phone; without `before` (HTML above the parts) and `after`
/// (at the end) there is no script in it.
std::string html_of(const Report&, const std::string& before = {}, const std::string& after = {});

}  // namespace pristine::report
