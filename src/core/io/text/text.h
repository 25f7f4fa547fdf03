// Text files of points (XYZ, TXT, CSV): columns are recognised by a header line, or by how many there are and
// what they hold.

#pragma once

#include "core/io/cloud_io.h"
#include "core/io/text/table.h"

namespace pristine::io {

/// Its row of the register.
CloudFormat text_format();

/// As the register calls them (cloud_io.h).
ReadResult read_text(const std::filesystem::path&, const ReadOptions&, Progress&);
std::uint64_t write_text(const std::vector<WriteItem>&, OutputFile&, const WriteOptions&, Progress&);

/// What the first lines tell: shape, and one name per column.
struct TextGuess {
    TableShape shape;
    std::vector<std::string> names;
    std::string head;    ///< the lines before the data, as they stand
    bool named = false;  ///< a line of the file names the columns
    bool words = false;  ///< some columns hold words: a survey list
};
/// `sample` is the start of a file. Throws Error(Format) when no line has three numbers.
TextGuess guess_text(std::string_view sample, const std::string& place);

/// The guess as one can change it. `sure` tells whether it rests on names in the file or on a usual number of
/// columns (3, 4, 6, 7).
TextReading reading_of(const TextGuess&, bool& sure);
/// What the reader makes of it. Throws Error(Usage) unless x, y and z are among the columns, each once, and
/// Error(Format) when the sample has no line after the skipped ones.
TextGuess guess_from(const TextReading&, std::string_view sample, const std::string& place);
/// The first lines of a sample, split as the reading says; at most `count`.
std::vector<std::vector<std::string>> preview_text(const TextReading&, std::string_view sample,
                                                   std::size_t count);

/// Our own name of a column for what files call it: "Easting" is x, "Reflectance" is intensity.
std::string column_name(std::string_view name);

}  // namespace pristine::io
