#include "core/io/cloud_io.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cctype>

#include "core/base/file.h"
#include "core/base/units.h"
#include "core/io/e57/e57.h"
#include "core/io/full_scale.h"
#include "core/io/grid/grid_io.h"
#include "core/io/keep.h"
#include "core/io/landxml_writer.h"
#include "core/io/las/las.h"
#include "core/io/las/las_header.h"
#include "core/io/lines/map_points.h"
#include "core/io/mesh/local_origin.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/ply/ply.h"
#include "core/io/ptx/ptx.h"
#include "core/io/reference/remark.h"
#include "core/io/reference/system.h"
#include "core/io/text/text.h"

namespace pristine::io {
namespace {

std::string lower_extension(const std::filesystem::path& path) {
    std::string ext = path.extension().string();
    if (!ext.empty()) ext.erase(0, 1);
    std::transform(ext.begin(), ext.end(), ext.begin(), [](unsigned char c) { return std::tolower(c); });
    return ext;
}

std::string all_titles() {
    std::string list;
    for (const CloudFormat& f : cloud_formats()) list += (list.empty() ? "" : ", ") + f.title;
    return list;
}

}  // namespace

bool KeepBits::any(std::uint64_t first, std::uint64_t count) const {
    for (std::uint64_t i = first; i < first + count;) {
        if (i % 64 == 0 && words_[i / 64] == 0) {
            i += 64;
        } else if ((*this)[i]) {
            return true;
        } else {
            ++i;
        }
    }
    return false;
}

std::uint64_t KeepBits::count() const {
    std::uint64_t n = 0;
    for (std::size_t w = 0; w < words_.size(); ++w) {
        std::uint64_t word = words_[w];
        if (w == size_ / 64) word &= (std::uint64_t{1} << (size_ % 64)) - 1;
        n += static_cast<std::uint64_t>(std::popcount(word));
    }
    return n;
}

const std::vector<CloudFormat>& cloud_formats() {
    static const std::vector<CloudFormat> formats{laz_format(), las_format(), ply_format(), e57_format(),
                                                  ptx_format(), pts_format(), text_format()};
    return formats;
}

const CloudFormat& format_of_file(const std::filesystem::path& path) {
    const InputFile file(path);
    std::array<std::byte, 4096> head{};
    const std::size_t n = file.read_some(0, head);
    const std::span<const std::byte> first(head.data(), n);
    for (const CloudFormat& f : cloud_formats())
        if (f.recognise(first)) return f;
    const std::string ext = lower_extension(path);
    for (const CloudFormat& f : cloud_formats())
        if (std::find(f.extensions.begin(), f.extensions.end(), ext) != f.extensions.end()) return f;
    throw Error(ErrorCode::Unsupported, "This kind of file is not known here", path.filename().string(),
                "What can be read: " + all_titles() + ".");
}

const CloudFormat& format_for_writing(const std::filesystem::path& path) {
    const std::string ext = lower_extension(path);
    for (const CloudFormat& f : cloud_formats())
        if (std::find(f.extensions.begin(), f.extensions.end(), ext) != f.extensions.end()) return f;
    std::string list;
    for (const CloudFormat& f : cloud_formats())
        for (const std::string& e : f.extensions) list += (list.empty() ? "." : ", .") + e;
    throw Error(ErrorCode::Usage, "The ending of the name does not say which format to write", path.string(),
                "Use one of: " + list + ".");
}

std::vector<ReadResult> read_items(const std::filesystem::path& path, const ReadOptions& options,
                                   Progress& progress) {
    std::vector<ReadResult> items;
    if (is_mesh_file(path) || is_grid_file(path) ||
        (lower_extension(path) == "xml" && landxml_has_items(path)))
        items = read_mesh_clouds(path, options, progress);
    else if (can_hold_map_points(path))
        items = read_map_point_clouds(path, progress);
    else if (const CloudFormat& format = format_of_file(path); options.scans_apart && format.read_apart)
        items = format.read_apart(path, options, progress);
    else
        items.push_back(format.read(path, options, progress));
    for (ReadResult& item : items)
        if (item.cloud->unit().empty() && item.cloud->crs().empty())
            item.cloud = cloud::with_reference(item.cloud, sidecar_reference(path));
    return items;
}

ReadResult read_cloud(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    std::vector<ReadResult> items = read_items(path, options, progress);
    if (items.size() == 1 && options.item.empty()) return std::move(items.front());
    std::string names;
    for (ReadResult& item : items) {
        if (!options.item.empty() && item.name == options.item) return std::move(item);
        names += (names.empty() ? "'" : ", '") + item.name + "'";
    }
    throw Error(ErrorCode::Usage,
                items.size() == 1 ? "The file holds one item, " + names
                                  : "The file holds " + std::to_string(items.size()) + " items: " + names,
                path.filename().string(),
                options.item.empty() ? "Say which one is meant (--item NAME)."
                                     : "There is no '" + options.item + "'.");
}

namespace {

// What is written into one file counts in one unit, in one system.
void require_one_reference(const std::vector<WriteItem>& items, const std::filesystem::path& path) {
    for (const WriteItem& item : items) {
        const cloud::PointCloud &a = *items.front().cloud, &b = *item.cloud;
        const auto differ = [](const std::string& p, const std::string& q) {
            return !p.empty() && !q.empty() && p != q;
        };
        if (differ(a.unit(), b.unit()) || a.height_unit() != b.height_unit())
            throw Error(ErrorCode::Usage,
                        "Items in " + std::string(length_unit(a.unit()).title) + " and in " +
                            length_unit(b.unit()).title + " cannot go into one file",
                        path.filename().string(), "Convert one of them first.");
        if (a.crs() != b.crs() && differ(system_of(a.crs()).name, system_of(b.crs()).name))
            throw Error(ErrorCode::Usage,
                        "Items in " + system_of(a.crs()).title() + " and in " + system_of(b.crs()).title() +
                            " cannot go into one file",
                        path.filename().string(), "Convert one of them first.");
    }
}

// LAS has whole numbers from 0 to 65535 for intensities.
void say_intensities(const std::vector<WriteItem>& items, std::vector<std::string>& said) {
    std::vector<WriteItem> others;
    for (const WriteItem& i : items) {
        const cloud::RecordLayout& l = i.cloud->records()->layout();
        const cloud::Field* f = l.find("intensity");
        if (f && l.format != "las" && f->type != cloud::FieldType::U8 && f->type != cloud::FieldType::U16)
            others.push_back(i);
    }
    if (others.empty()) return;
    const Scales s = scales_of(others, Progress::none());
    if (s.las.stretched)
        said.push_back(
            fmt::format("Intensities from {:g} to {:g} were stretched to 0 to 65535; as measured "
                        "they are in the column 'intensity as measured'.",
                        s.least, s.greatest));
    else if (s.las.factor != 1)
        said.push_back("Intensities from 0 to 1 were multiplied by 65535 and rounded.");
}

}  // namespace

namespace {

bool holds_classes(const std::string& format_id) {
    return format_id == "las" || format_id == "laz" || format_id == "ply" || format_id == "text";
}

// Whether it is the ending of a format of points.
bool format_known(const std::string& ending) {
    const auto& all = cloud_formats();
    return std::any_of(all.begin(), all.end(), [&](const CloudFormat& f) {
        return std::find(f.extensions.begin(), f.extensions.end(), ending) != f.extensions.end();
    });
}

// One file has one layout: where one item has classes, all have.
void give_all_classes(std::vector<WriteItem>& items, bool held) {
    const bool any = held && std::any_of(items.begin(), items.end(),
                                         [](const WriteItem& i) { return i.classes != nullptr; });
    for (WriteItem& item : items) {
        const auto records = item.cloud->records();
        if (!any)
            item.classes = nullptr;
        else if (!item.classes && !records->layout().find("class"))
            item.classes = std::make_shared<const std::vector<std::uint8_t>>(records->count(), 0);
    }
}

}  // namespace

namespace {

// Records of a LAS header that a new header does not take over: those of their makers.
std::size_t own_header_records(const WriteItem& item) {
    const cloud::RecordLayout& l = item.cloud->records()->layout();
    if (l.format != "las" || l.head.empty()) return 0;
    return makers_records(split_las_head(l.head).before);
}

// What new records and a new header of LAS leave behind.
void say_conversion(const std::vector<WriteItem>& items, const LasOptions& options,
                    std::vector<std::string>& said) {
    std::size_t own = 0;
    for (const WriteItem& item : items) own += own_header_records(item);
    if (own > 0)
        said.push_back(
            fmt::format("{} of the header that only their makers know (VLR) {} not taken over into "
                        "new records.",
                        own == 1 ? "1 record" : fmt::format("{} records", own), own == 1 ? "is" : "are"));
    if (options.point_format < 0 || options.point_format > 5) return;
    const cloud::PointCloud& c = *items.front().cloud;
    if (!c.crs().empty() && !geokeys_of(wkt_with_unit(c.crs(), c.unit(), c.height_unit())))
        said.push_back(
            "LAS 1.2 states systems by number only, and this one has none: it is not in the file.");
    for (const WriteItem& item : items)
        if (const cloud::Field* f = item.cloud->records()->layout().find("scan_angle"); f && f->scale != 1) {
            said.push_back("Scan angles are whole degrees in this point format.");
            break;
        }
}

}  // namespace

std::vector<std::string> lost_in(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                                 const WriteOptions& options) {
    std::vector<std::string> said;
    const std::string e = lower_extension(path);
    const bool states = e == "las" || e == "laz" || e == "e57" || e == "ply" || e == "obj" || e == "glb" ||
                        e == "3mf" || e == "off" || e == "xml" || e == "dxf" || e == "tif" || e == "tiff" ||
                        e == "asc" || e == "xyz" || e == "txt";
    const auto stated = [](const WriteItem& i) {
        return !i.cloud->unit().empty() || !i.cloud->crs().empty();
    };
    const auto far = [](const WriteItem& i) { return has_local_origin(i.cloud->bounds()); };
    const bool beside = e == "stl" && std::all_of(items.begin(), items.end(), far);
    if (!states && !beside && std::any_of(items.begin(), items.end(), stated))
        said.push_back("A file of this kind has no place for unit and reference system: they are not in it.");
    if (e == "3mf" &&
        std::any_of(items.begin(), items.end(), [](const WriteItem& i) { return !i.cloud->crs().empty(); }))
        said.push_back("3MF has no place for a reference system: it is not in the file.");
    if (e == "glb") {
        const auto has_system = [](const WriteItem& i) { return !i.cloud->crs().empty(); };
        const auto has_unit = [](const WriteItem& i) { return !i.cloud->unit().empty(); };
        if (std::any_of(items.begin(), items.end(), has_system))
            said.push_back("glTF has no place for a reference system: it is not in the file.");
        if (!std::all_of(items.begin(), items.end(), has_unit))
            said.push_back("The unit is not stated; glTF counts in metres, so the numbers are metres there.");
    }
    if (e == "las" || e == "laz") say_intensities(items, said);
    if ((e == "las" || e == "laz") && las_is_converted(items, options.las))
        say_conversion(items, options.las, said);
    const bool points = format_known(e);
    if (points && !holds_classes(format_for_writing(path).id) &&
        std::any_of(items.begin(), items.end(), [](const WriteItem& i) { return i.classes != nullptr; }))
        said.push_back("A file of this kind has no place for classes: those that were given are not in it.");
    for (const WriteItem& item : items) {
        const cloud::RecordLayout& layout = item.cloud->records()->layout();
        if (e != "laz" || layout.format != "las" || layout.head.empty()) continue;
        if (const std::size_t tail = unreachable_tail(split_las_head(layout.head)))
            said.push_back(fmt::format(
                "{} bytes after the last point, which the header does not speak of, have no place "
                "in LAZ: they are not written.",
                tail));
    }
    if (e == "xyz" || e == "txt" || e == "csv") return said;
    std::string words;
    for (const WriteItem& item : items)
        for (const cloud::Field& f : item.cloud->records()->layout().fields)
            if (f.words && !(e == "xml" && (f.name == "point" || f.name == "code")))
                words += (words.empty() ? "'" : ", '") + f.name + "'";
    if (!words.empty())
        said.push_back("A file of this kind has no place for columns of words: " + words + " not written.");
    return said;
}

std::uint64_t write_cloud(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                          const WriteOptions& options, Progress& progress) {
    require_one_reference(items, path);
    const std::string ending = lower_extension(path);
    if (ending != "las" && ending != "laz" && std::any_of(items.begin(), items.end(), [](const WriteItem& i) {
            return i.dropped != Dropped::LeftOut;
        }))
        throw Error(ErrorCode::Usage, "Only LAS and LAZ have a mark for removed points", path.string(),
                    "Write one of these, or leave the points out.");
    if (ending == "xml") return write_landxml(items, path, options.replace, progress);
    if (std::any_of(items.begin(), items.end(),
                    [](const WriteItem& i) { return i.cloud->triangles() != nullptr; }))
        return write_mesh_clouds(items, path, options, progress);
    const CloudFormat& format = format_for_writing(path);
    // Scans and grids keep records without a point as they are; other formats would make points of them.
    std::vector<WriteItem> wanted = items;
    if (format.id != "e57" && format.id != "ptx" && format.id != "pts")
        for (WriteItem& item : wanted)
            if (item.cloud->records()->layout().format != format.id) item.keep = keep_points(item, progress);
    give_all_classes(wanted, holds_classes(format.id));
    OutputFile out(path, options.replace);
    const std::uint64_t written = format.write(wanted, out, options, progress);
    progress.check();
    out.finish();
    return written;
}

}  // namespace pristine::io
