// Reading and writing point clouds in files, whatever the format.

#pragma once

#include <array>
#include <atomic>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/output.h"
#include "core/base/progress.h"
#include "core/cloud/point_cloud.h"
#include "core/io/lines/lines.h"

namespace pristine::io {

/// How a text file of points is to be read, said by a person instead of guessed.
struct TextReading {
    std::size_t skip = 0;  ///< lines before the data
    char separator = 0;    ///< ',' ';' '\t'; 0: any run of blanks
    bool decimal_comma = false;
    std::vector<std::string>
        columns;       ///< x, y, z, intensity, red, green, blue, class, time or any other name
    std::string unit;  ///< of the coordinates: "m", "ft", "usft"; empty: not stated
    bool guess_shape =
        false;  ///< only the columns are said: separator, decimal mark and first line are guessed
};

/// What the caller says of a file that is read.
struct ReadOptions {
    bool accept_partial = false;           ///< read what a broken file still holds instead of refusing it
    std::optional<TextReading> text{};     ///< for text files; none: guessed
    std::string item{};                    ///< of a file with several: the name of the one that is meant
    bool scans_apart = false;              ///< each scan of a file of many is an item of its own
    std::uint64_t most_cells = 4'000'000;  ///< of a grid; a larger one is thinned (grid_io.h)
    double grid_error = 0;  ///< of a grid: thinned as far as this error of height allows; 0: not
};

/// One item of a file.
struct ReadResult {
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::string format;                 ///< "LAS 1.4, point format 6"
    std::vector<std::string> warnings;  ///< sentences for people: what was odd, and what was done about it
    std::string name{};                 ///< in the file; empty: that of the file
    double thinned = 0;  ///< largest error of height of thinning, data unit; 0: nothing was left out
};

/// One bit for each record in file order: whether it goes into the output.
class KeepBits {
  public:
    explicit KeepBits(std::uint64_t size, bool all = true)
        : size_(size), words_((size + 63) / 64, all ? ~std::uint64_t{0} : 0) {}
    bool operator[](std::uint64_t i) const { return (words_[i / 64] >> (i % 64)) & 1u; }
    /// Thread safe.
    void drop(std::uint64_t i) {
        std::atomic_ref<std::uint64_t>(words_[i / 64])
            .fetch_and(~(std::uint64_t{1} << (i % 64)), std::memory_order_relaxed);
    }
    /// Thread safe.
    void keep(std::uint64_t i) {
        std::atomic_ref<std::uint64_t>(words_[i / 64])
            .fetch_or(std::uint64_t{1} << (i % 64), std::memory_order_relaxed);
    }
    std::uint64_t count() const;
    /// Whether a record of this stretch is kept. O(count / 64).
    bool any(std::uint64_t first, std::uint64_t count) const;
    std::uint64_t size() const { return size_; }

  private:
    std::uint64_t size_;
    std::vector<std::uint64_t> words_;
};

/// What becomes of records that are not kept.
enum class Dropped {
    LeftOut,
    Withheld,   ///< written with the withheld flag of LAS set
    Noise,      ///< written with class 7 (noise; low noise in point formats 6 to 10)
    HighNoise,  ///< written with class 18; only in point formats 6 to 10, else Error(Usage)
};

/// What is written of one cloud: all records in file order but those dropped.
struct WriteItem {
    std::shared_ptr<const cloud::PointCloud> cloud;
    std::shared_ptr<const KeepBits> keep{};  ///< null: everything
    Dropped dropped = Dropped::LeftOut;      ///< marking is for LAS clouds into LAS or LAZ; else Error(Usage)
    /// By record, in place of those of the file; null: as they are in the file. Left out where the format has
    /// no place for classes (lost_in says so).
    std::shared_ptr<const std::vector<std::uint8_t>> classes{};
    // For LandXML, which holds several items and what a surface was built along and inside.
    std::string name{};
    std::vector<MapLine> breaklines{}, boundaries{};
};

/// How records of LAS and LAZ are made where they are not to stay as they are.
struct LasOptions {
    int point_format = -1;  ///< 0 to 3 (LAS 1.2), 6 to 8 (LAS 1.4); -1: that of the source, else 6 or 7
    double step = 0;        ///< of coordinates, data unit; 0: that of the source
    bool operator==(const LasOptions&) const = default;
};
/// The point formats that can be asked for.
inline constexpr std::array<int, 7> kLasPointFormats{0, 1, 2, 3, 6, 7, 8};

/// How a file is written.
struct WriteOptions {
    bool replace = false;    ///< overwrite an existing file
    double cell = 0;         ///< of a grid, data unit; 0: suggested_cell of grid_io.h
    double no_data = -9999;  ///< of a grid
    LasOptions las{};
};

/// A format of points; a row of the register.
struct CloudFormat {
    std::string id;                       ///< as in RecordLayout::format
    std::string title;                    ///< "LAS point cloud"
    std::vector<std::string> extensions;  ///< lower case, without the dot; the first is the usual one
    bool (*recognise)(std::span<const std::byte> first_bytes);
    ReadResult (*read)(const std::filesystem::path&, const ReadOptions&, Progress&);
    std::uint64_t (*write)(const std::vector<WriteItem>&, OutputFile&, const WriteOptions&, Progress&);
    /// Each scan by itself (scans.h); null where a file holds one.
    std::vector<ReadResult> (*read_apart)(const std::filesystem::path&, const ReadOptions&,
                                          Progress&) = nullptr;
};

/// The register, in the order in which files are looked at.
const std::vector<CloudFormat>& cloud_formats();
/// By content, then by extension. Throws Error(Unsupported) naming what can be read.
const CloudFormat& format_of_file(const std::filesystem::path&);
/// By extension. Throws Error(Usage) naming what can be written.
const CloudFormat& format_for_writing(const std::filesystem::path&);

/// Reads everything that a file holds, each item with its name; most formats hold one. Of maps (Shapefile,
/// GeoPackage, GeoJSON, DXF without faces) the points. What the file does not
/// say of unit and system is taken from a .prj file beside it. Throws Error (what and where), Cancelled.
std::vector<ReadResult> read_items(const std::filesystem::path&, const ReadOptions& = {},
                                   Progress& = Progress::none());
/// Reads the one item of a file, or the one that the options name. Throws Error(Usage) naming all when there
/// are several and none is named.
ReadResult read_cloud(const std::filesystem::path&, const ReadOptions& = {}, Progress& = Progress::none());

/// Sentences for people: what of these clouds has no place in a file of this ending (unit and system, columns
/// of words). Empty when all of it has.
std::vector<std::string> lost_in(const std::vector<WriteItem>&, const std::filesystem::path&,
                                 const WriteOptions& = {});

/// Writes the clouds one after the other into one file, whole or not at all; returns the number of points.
/// When all have the target's own record layout, records are copied bit for bit, unless the options ask for
/// another. Throws Error(Usage: a class, a return or a coordinate has no room in the LAS that was asked for;
/// Io, Conflict, Unsupported), Cancelled.
std::uint64_t write_cloud(const std::vector<WriteItem>&, const std::filesystem::path&,
                          const WriteOptions& = {}, Progress& = Progress::none());

}  // namespace pristine::io
