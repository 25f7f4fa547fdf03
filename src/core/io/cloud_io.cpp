#include "core/io/cloud_io.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cctype>

#include "core/io/e57/e57.h"
#include "core/io/grid/grid_io.h"
#include "core/io/keep.h"
#include "core/io/las/las.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/ply/ply.h"
#include "core/io/ptx/ptx.h"
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

ReadResult read_cloud(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    if (is_mesh_file(path) || is_grid_file(path)) return read_mesh_cloud(path, progress);
    return format_of_file(path).read(path, options, progress);
}

std::uint64_t write_cloud(const std::vector<WriteItem>& items, const std::filesystem::path& path,
                          const WriteOptions& options, Progress& progress) {
    if (std::any_of(items.begin(), items.end(),
                    [](const WriteItem& i) { return i.cloud->triangles() != nullptr; }))
        return write_mesh_clouds(items, path, options, progress);
    const CloudFormat& format = format_for_writing(path);
    for (const WriteItem& item : items)
        if (item.dropped != Dropped::LeftOut && format.id != "las" && format.id != "laz")
            throw Error(ErrorCode::Usage, "Only LAS and LAZ have a mark for removed points", path.string(),
                        "Write one of these, or leave the points out.");
    // Scans and grids keep records without a point as they are; other formats would make points of them.
    std::vector<WriteItem> wanted = items;
    if (format.id != "e57" && format.id != "ptx" && format.id != "pts")
        for (WriteItem& item : wanted)
            if (item.cloud->records()->layout().format != format.id) item.keep = keep_points(item, progress);
    OutputFile out(path, options.replace);
    const std::uint64_t written = format.write(wanted, out, progress);
    progress.check();
    out.finish();
    return written;
}

}  // namespace pristine::io
