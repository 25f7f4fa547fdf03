#include "cli/command.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <cstdio>
#include <thread>

#include "core/base/memory.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/format.h"
#include "core/io/grid/grid_io.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"

namespace pristine::cli {

std::string told(const Error& e) {
    const bool part = e.remedy() == Remedy::ReadPart || e.remedy() == Remedy::PartOrColumns;
    return std::string(e.what()) + (part ? " Give --partial for that." : "");
}

namespace {

void add_text_options(CLI::App& app, Common& c) {
    auto* columns =
        app.add_option("--columns", c.columns, "Of text files: the name of each column, e.g. x,y,z,intensity")
            ->delimiter(',');
    app.add_option("--skip", c.skip, "Of text files: lines before the points")->needs(columns);
    app.add_option("--separator", c.separator,
                   "Of text files: between columns; usual: what the file looks like")
        ->check(CLI::IsMember({"blank", "comma", "semicolon", "tab"}))
        ->needs(columns);
    app.add_flag("--decimal-comma", c.decimal_comma, "Of text files: 1,5 is one and a half")->needs(columns);
}

void add_reference_options(CLI::App& app, Common& c) {
    app.add_option("--unit", c.unit, "Unit of the coordinates, whatever the file says")
        ->check(CLI::IsMember({"m", "mm", "ft", "usft"}));
    app.add_option("--crs", c.crs,
                   "Reference system of the coordinates, whatever the file says: EPSG:n or WKT");
    app.add_option("--station", c.station,
                   "E,N,H of the scanner, in the unit of the data, for a file that does not say it");
    app.add_option("--item", c.item,
                   "Of a file with several scans or surfaces: the name of the one that is meant");
    app.add_option(
           "--grid-error", c.grid_error,
           "Of grids of heights: take only every n-th row and column, as far as this error of height allows")
        ->check(CLI::PositiveNumber);
}

}  // namespace

std::optional<io::TextReading> text_reading(const Common& c) {
    if (c.columns.empty()) return std::nullopt;
    const char separator = c.separator == "comma"       ? ','
                           : c.separator == "semicolon" ? ';'
                           : c.separator == "tab"       ? '\t'
                                                        : '\0';
    const bool guess = c.separator.empty() && c.skip == 0 && !c.decimal_comma;
    return io::TextReading{c.skip, separator, c.decimal_comma, c.columns, c.unit, guess};
}

void add_common(CLI::App& app, Common& c, bool reads, bool writes) {
    app.add_flag("--json", c.json, "Print one JSON object on standard output");
    if (reads)
        app.add_flag("--partial", c.partial, "Read what a broken file still holds instead of refusing it");
    if (reads) add_text_options(app, c);
    if (reads) add_reference_options(app, c);
    if (reads)
        app.add_option_function<std::string>(
            "--memory", [](const std::string& text) { set_memory_budget(parse_bytes(text)); },
            "How much memory may be used, e.g. 2G; clouds that do not fit go through a scratch file");
    if (writes) app.add_flag("--force", c.force, "Replace an existing output file");
}

bool split_length(const std::string& text, double& number, std::string& unit) {
    const auto [end, problem] = std::from_chars(text.data(), text.data() + text.size(), number);
    if (problem != std::errc() || !std::isfinite(number)) return false;
    unit = std::string(end, text.data() + text.size());
    return unit.empty() || is_length(unit);
}

double in_unit_of(const cloud::Reference& data, double value, const std::string& unit,
                  const std::string& typed) {
    if (unit.empty() || unit == data.unit) return value;
    if (!is_length(data.unit))
        throw Error(ErrorCode::Usage,
                    fmt::format("'{}' says its unit, but the data {}", typed,
                                data.unit.empty() ? "state none" : "count in degrees"),
                    {}, "Say what the data count in (--unit), or leave the unit off.");
    return value * length_unit(unit).metres / length_unit(data.unit).metres;
}

CLI::Option* length_option(CLI::App& app, const std::string& name, double& value, const std::string& help,
                           Least least, Common& c) {
    return app.add_option_function<std::string>(
        name,
        [name, least, &value, lengths = c.lengths](const std::string& text) {
            std::string unit;
            if (!split_length(text, value, unit))
                throw CLI::ValidationError(name, "'" + text + "' is no length, such as 0.25, 0.25m or 3ft");
            if ((least == Least::AboveZero && !(value > 0)) || (least == Least::Zero && !(value >= 0)))
                throw CLI::ValidationError(name, "'" + text + "' is too small");
            if (!unit.empty()) lengths->push_back({&value, unit, text});
        },
        help);
}

void add_las_options(CLI::App& app, io::LasOptions& las, Common& c) {
    app.add_option(
           "--point-format", las.point_format,
           "Of LAS and LAZ: 0 to 3 (LAS 1.2), 6 to 8 (LAS 1.4); usual: that of the source, else 6, or 7 "
           "with colours")
        ->check(CLI::IsMember(std::vector<int>(io::kLasPointFormats.begin(), io::kLasPointFormats.end())));
    length_option(app, "--step", las.step, "Of LAS and LAZ: step of coordinates; usual: that of the source",
                  Least::AboveZero, c);
}

CLI::Option* reads(CLI::Option* o, Common& c) {
    c.inputs.push_back(o);
    return o;
}

CLI::Option* writes(CLI::Option* o, Common& c) {
    c.outputs.push_back(o);
    return o;
}

std::vector<std::filesystem::path> files_of(const std::vector<CLI::Option*>& options) {
    std::vector<std::filesystem::path> files;
    for (const CLI::Option* o : options)
        for (const std::string& name : o->results()) files.emplace_back(name);
    return files;
}

namespace {

// By its ending, of a format of points, triangles or heights; hidden files are nobody's data.
bool is_data(const std::filesystem::path& file) {
    const std::string ending = io::ending_of(file);
    if (file.filename().string().starts_with('.')) return false;
    for (const io::Format& f : io::formats())
        if (f.reads && f.holds != io::Format::Holds::Lines)
            for (const std::string& e : f.endings)
                if ("." + e == ending) return true;
    return false;
}

}  // namespace

std::vector<std::filesystem::path> inputs_of(const Common& c) {
    std::vector<std::filesystem::path> all;
    for (const std::filesystem::path& f : files_of(c.inputs)) {
        std::error_code none;
        std::vector<std::string> in_it{f.string()};
        if (std::filesystem::is_directory(f, none)) expand_folders(in_it);
        all.insert(all.end(), in_it.begin(), in_it.end());
    }
    return all;
}

void expand_folders(std::vector<std::string>& inputs) {
    namespace fs = std::filesystem;
    std::vector<std::string> files;
    for (const std::string& input : inputs) {
        std::error_code none;
        if (!fs::is_directory(input, none)) {
            files.push_back(input);
            continue;
        }
        std::vector<std::string> found;
        for (const fs::directory_entry& entry : fs::directory_iterator(input, none))
            if (entry.is_regular_file(none) && is_data(entry.path())) found.push_back(entry.path().string());
        if (found.empty())
            throw Error(ErrorCode::Usage, "The folder holds no file of points or triangles", input);
        std::sort(found.begin(), found.end());
        files.insert(files.end(), found.begin(), found.end());
    }
    inputs = std::move(files);
}

void with_progress(const Common& c, const std::function<void(Progress&)>& work) {
    OutputGroup together(inputs_of(c));
    for (const std::filesystem::path& out : files_of(c.outputs)) together.expect(out, c.force);
    with_progress(work);
    together.commit();
}

void with_progress(const std::function<void(Progress&)>& work) {
    Progress progress;
    if (!isatty(STDERR_FILENO)) return work(progress);
    std::mutex mutex;
    std::condition_variable done;
    bool finished = false;
    std::thread watcher([&] {
        std::unique_lock<std::mutex> lock(mutex);
        while (!done.wait_for(lock, std::chrono::milliseconds(500), [&] { return finished; }))
            fmt::print(stderr, "\r{:<32} {:3.0f} %", progress.label(), 100 * progress.fraction());
        fmt::print(stderr, "\r{:<40}\r", "");
    });
    const auto stop = [&] {
        {
            const std::lock_guard<std::mutex> guard(mutex);
            finished = true;
        }
        done.notify_all();
        watcher.join();
    };
    try {
        work(progress);
    } catch (...) {
        stop();
        throw;
    }
    stop();
}

namespace {

// Lengths that came with a unit, now that the unit of the data is known.
void settle_lengths(const Common& c, const cloud::Reference& data) {
    static std::mutex mutex;  // `run` reads several inputs at once
    const std::lock_guard<std::mutex> guard(mutex);
    for (const Common::Length& l : *c.lengths) *l.value = in_unit_of(data, *l.value, l.unit, l.typed);
    c.lengths->clear();
}

io::ReadOptions reading(const Common& c) {
    io::ReadOptions options;
    options.accept_partial = c.partial;
    options.text = text_reading(c);
    options.item = c.item;
    options.scans_apart = c.scans_apart || !c.item.empty();
    options.grid_error = c.grid_error;
    return options;
}

std::shared_ptr<const cloud::PointCloud> with_station(const std::shared_ptr<const cloud::PointCloud>& cloud,
                                                      const std::filesystem::path& path,
                                                      const std::string& station) {
    if (cloud->stations().size() > 1)
        throw Error(ErrorCode::Usage, "The file says itself where its stations stood", path.string(),
                    "Leave --station out.");
    return cloud::with_stations(cloud, std::vector<cloud::Station>{{"station", place_typed(station)}});
}

void finish(io::ReadResult& r, const std::filesystem::path& path, const Common& c) {
    for (const std::string& w : r.warnings) fmt::print(stderr, "{}: {}\n", path.filename().string(), w);
    r.cloud = cloud::with_reference(r.cloud, stated(r.cloud->reference(), c));
    if (!c.station.empty()) r.cloud = with_station(r.cloud, path, c.station);
    settle_lengths(c, r.cloud->reference());
}

}  // namespace

Vec3 place_typed(const std::string& text) {
    Vec3 out;
    const char* at = text.data();
    const char* const end = at + text.size();
    for (int a = 0; a < 3; ++a) {
        const auto [last, problem] = std::from_chars(at, end, out[a]);
        const bool ends_well = a < 2 ? last != end && *last == ',' : last == end;
        if (problem != std::errc{} || !ends_well || !std::isfinite(out[a]))
            throw Error(ErrorCode::Usage, "'" + text + "' is no place", {},
                        "Write E,N,H: three numbers with commas between.");
        at = last + (a < 2);
    }
    return out;
}

io::ReadResult read_input(const std::filesystem::path& path, const Common& c, Progress& progress) {
    const Progress::Part part(progress, 0, 0.5, "Reading points");
    io::ReadResult r = io::read_cloud(path, reading(c), progress);
    finish(r, path, c);
    return r;
}

std::vector<io::ReadResult> read_inputs(const std::filesystem::path& path, const Common& c,
                                        Progress& progress) {
    std::vector<io::ReadResult> items;
    if (!c.item.empty()) return {read_input(path, c, progress)};
    items = io::read_items(path, reading(c), progress);
    for (io::ReadResult& r : items) finish(r, path, c);
    return items;
}

io::MeshFile read_triangles(const std::filesystem::path& path, const Common& c, Progress& progress) {
    io::MeshFile f;
    if (io::is_grid_file(path)) {
        io::HeightGrid grid =
            io::read_height_grid(path, {io::GridReading{}.most_cells, c.grid_error}, progress);
        f.mesh = std::move(grid.mesh);
        f.surface = true;
        f.format = grid.format;
        f.unit = grid.reference.unit;
        f.height_unit = grid.reference.height_unit;
        f.crs = grid.reference.crs;
        f.warnings = std::move(grid.warnings);
    } else if (c.item.empty()) {
        f = io::read_mesh(path, progress);
    } else {
        for (io::MeshFile& m : io::read_meshes(path, progress))
            if (m.name == c.item) f = std::move(m);
        if (f.format.empty())
            throw Error(ErrorCode::Usage, "The file holds no surface '" + c.item + "'", path.string());
    }
    for (const std::string& w : f.warnings) fmt::print(stderr, "{}: {}\n", path.filename().string(), w);
    const cloud::Reference r = stated(f.reference(), c);
    f.crs = r.crs;
    f.unit = r.unit;
    f.height_unit = r.height_unit;
    settle_lengths(c, r);
    return f;
}

namespace {

void say_note(const std::filesystem::path& path, const std::string& note) {
    if (!note.empty()) fmt::print(stderr, "{}: {}\n", path.filename().string(), note);
}

}  // namespace

std::vector<io::MapLine> read_lines_in(const std::filesystem::path& path, const cloud::Reference& wanted,
                                       double sagitta) {
    io::PlacedLines placed = io::read_lines_in(path, wanted, sagitta);
    say_note(path, placed.note);
    return std::move(placed.lines);
}

std::vector<Polygon> read_rings_in(const std::filesystem::path& path, const cloud::Reference& wanted) {
    io::PlacedRings placed = io::read_rings_in(path, wanted);
    say_note(path, placed.note);
    return std::move(placed.rings);
}

cloud::Reference stated(cloud::Reference r, const Common& c) {
    if (!c.crs.empty()) r = io::reference_of(io::system_typed(c.crs));
    if (!c.unit.empty() && c.unit != r.unit) {
        r.unit = c.unit;
        r.height_unit.clear();
    }
    return r;
}

std::string after_number(const std::string& unit, int power) {
    if (unit.empty()) return " (unit not set)";
    return fmt::format(" {}{}", length_unit(unit).symbol, power == 2 ? "²" : power == 3 ? "³" : "");
}

void print(const Common& c, const nlohmann::json& j, const std::string& text) {
    // Names in files need not be valid UTF-8; what is not is replaced, so that the output is always valid
    // JSON.
    const std::string out =
        c.json ? j.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n" : text;
    std::fwrite(out.data(), 1, out.size(), stdout);
}

}  // namespace pristine::cli
