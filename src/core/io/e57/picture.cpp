#include "core/io/e57/picture.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>
#include <numbers>
#include <pugixml.hpp>

#include "core/base/bytes.h"
#include "core/base/error.h"
#include "core/base/file.h"
#include "core/base/parallel.h"
#include "core/cloud/column.h"
#include "core/io/e57/head.h"
#include "core/io/e57/pages.h"
#include "core/io/grid/picture.h"

namespace pristine::io {
namespace {

using Kind = ScanPicture::Kind;

constexpr std::uint64_t kLargest = 512u << 20;  // bytes of one picture
constexpr std::uint32_t kGrey = 0x808080;

// The place relative to the camera, along its axes.
Vec3 local(const e57::Pose& p, const Vec3& world) {
    e57::Pose back{p.w, -p.x, -p.y, -p.z, {}};
    return back.world(world - p.shift);
}

std::optional<PixelPoint> inside(const ScanPicture& p, double x, double y) {
    if (!(x >= 0 && y >= 0 && x < p.width && y < p.height)) return std::nullopt;
    return PixelPoint{x, y};
}

double number(const pugi::xml_node& n, const char* name, double otherwise) {
    const pugi::xml_node child = n.child(name);
    if (!child) return otherwise;
    return child.text().empty() ? 0 : child.text().as_double(NAN);
}

struct Blob {
    std::uint64_t at = 0, length = 0;  // of the section, physical; of its content
};

struct Listed {
    ScanPicture picture;
    Blob blob;
};

bool is_sound(const ScanPicture& p) {
    constexpr int kMost = 1 << 20;
    const bool sized = p.width > 0 && p.height > 0 && p.width < kMost && p.height < kMost;
    const bool scaled = p.pixel_width > 0 && p.pixel_height > 0 && std::isfinite(p.pixel_width) &&
                        std::isfinite(p.pixel_height) && std::isfinite(p.principal_x) &&
                        std::isfinite(p.principal_y);
    return sized && scaled && (p.kind != Kind::Pinhole || (p.focal > 0 && std::isfinite(p.focal))) &&
           (p.kind != Kind::Cylindrical || (p.radius > 0 && std::isfinite(p.radius)));
}

// False: it has no projection, or none that makes sense.
bool listed(const pugi::xml_node& n, Listed& out) {
    ScanPicture& p = out.picture;
    p.name = n.child("name").text().as_string();
    p.scan = n.child("associatedData3DGuid").text().as_string();
    p.pose = e57::pose_of(n, p.name);
    static constexpr std::pair<const char*, Kind> kKinds[] = {
        {"pinholeRepresentation", Kind::Pinhole},
        {"sphericalRepresentation", Kind::Spherical},
        {"cylindricalRepresentation", Kind::Cylindrical}};
    for (const auto& [name, kind] : kKinds) {
        const pugi::xml_node r = n.child(name);
        if (!r) continue;
        p.kind = kind;
        p.width = r.child("imageWidth").text().as_int();
        p.height = r.child("imageHeight").text().as_int();
        p.pixel_width = number(r, "pixelWidth", 0);
        p.pixel_height = number(r, "pixelHeight", 0);
        p.focal = number(r, "focalLength", 0);
        p.radius = number(r, "radius", 0);
        p.principal_x = number(r, "principalPointX", p.width / 2.0);
        p.principal_y = number(r, "principalPointY", p.height / 2.0);
        for (const char* format : {"jpegImage", "pngImage"})
            if (const pugi::xml_node blob = r.child(format)) {
                out.blob = {blob.attribute("fileOffset").as_ullong(), blob.attribute("length").as_ullong()};
                return is_sound(p) && out.blob.length > 0;
            }
    }
    return false;
}

std::string content(e57::PagedReader& pages, const Blob& b) {
    if (b.length > kLargest)
        throw Error(ErrorCode::Memory,
                    fmt::format("It has {} MB, more than {}", b.length >> 20, kLargest >> 20));
    const std::uint64_t at = e57::to_logical(b.at);
    if (at > pages.size() || b.length > pages.size() - at)
        throw Error(ErrorCode::Format, "It is said to lie outside the file");
    // A blob section: one byte 0, seven unused, eight for the length of the section.
    std::array<std::byte, 16> head{};
    pages.read(at, head);
    if (head[0] != std::byte{0} || load_le<std::uint64_t>(head.data() + 8) < b.length + 16)
        throw Error(ErrorCode::Format, "No picture begins there", pages.place(at));
    std::string bytes(b.length, '\0');
    pages.read(at + 16, std::as_writable_bytes(std::span(bytes)));
    return bytes;
}

std::vector<std::string> guids_of(const cloud::PointCloud& c) {
    std::vector<e57::Scan> scans;
    std::vector<e57::Channel> channels;
    std::string crs;
    e57::split_head(c.records()->layout().head, scans, channels, crs);
    std::vector<std::string> out;
    for (const e57::Scan& s : scans) out.push_back(s.guid);
    return out;
}

// The number of its scan for each element; all 0 where there is one.
std::vector<std::uint16_t> scan_numbers(const cloud::PointCloud& c, Progress& progress) {
    std::vector<std::uint16_t> out(c.size(), 0);
    if (guids_of(c).size() < 2) return out;
    const auto fetched = cloud::fetch_column(c, "scan", progress);
    const cloud::FetchedColumn& column = *fetched;
    parallel::for_each(c.page_count(), [&](std::size_t p) {
        const std::span<const float> values = column.values.page(p);
        for (std::size_t i = 0; i < values.size(); ++i)
            out[p * kPageSize + i] = static_cast<std::uint16_t>(column.base + static_cast<double>(values[i]));
    });
    return out;
}

}  // namespace

std::optional<PixelPoint> pixel_of(const ScanPicture& p, const Vec3& world) {
    const Vec3 v = local(p.pose, world);
    if (p.kind == Kind::Pinhole) {
        if (!(v.z < 0)) return std::nullopt;
        return inside(p, p.principal_x + v.x / -v.z * p.focal / p.pixel_width,
                      p.principal_y - v.y / -v.z * p.focal / p.pixel_height);
    }
    const double plan = std::hypot(v.x, v.y);
    if (plan == 0 && v.z == 0) return std::nullopt;
    double x = p.width / 2.0 - std::atan2(v.y, v.x) / p.pixel_width;
    // A picture that goes all round begins again at its edge.
    const double round = 2 * std::numbers::pi / p.pixel_width;
    if (x >= p.width && x - round >= 0) x -= round;
    if (x < 0 && x + round < p.width) x += round;
    if (p.kind == Kind::Spherical)
        return inside(p, x, p.height / 2.0 - std::atan2(v.z, plan) / p.pixel_height);
    if (plan == 0) return std::nullopt;
    return inside(p, x, p.principal_y - p.radius * v.z / plan / p.pixel_height);
}

double worth_of(const ScanPicture& p, const PixelPoint& at) {
    if (p.kind != Kind::Pinhole) return 1;
    const double x = std::min(at.x, p.width - at.x) / (0.5 * p.width);
    const double y = std::min(at.y, p.height - at.y) / (0.5 * p.height);
    return std::clamp(std::min(x, y), 0.0, 1.0);
}

std::vector<ScanPicture> read_e57_pictures(const std::filesystem::path& path, bool with_bytes,
                                           std::vector<std::string>& warnings, Progress& progress) {
    const InputFile file(path);
    e57::PagedReader pages(file);
    const std::string xml = e57::read_xml(file, pages);
    pugi::xml_document doc;
    if (!doc.load_buffer(xml.data(), xml.size()))
        throw Error(ErrorCode::Format, "The XML part cannot be read", path.filename().string());
    std::vector<ScanPicture> out;
    for (const pugi::xml_node& n : doc.child("e57Root").child("images2D").children()) {
        if (n.type() != pugi::node_element) continue;
        progress.check();
        const std::string name = n.child("name").text().as_string("without a name");
        try {
            Listed l;
            if (!listed(n, l)) {
                warnings.push_back(fmt::format("The picture '{}' has no projection: it is left out.", name));
                continue;
            }
            if (with_bytes) l.picture.bytes = std::make_shared<const std::string>(content(pages, l.blob));
            out.push_back(std::move(l.picture));
        } catch (const Error& e) {
            warnings.push_back(fmt::format("The picture '{}' is left out: {}", name, e.what()));
        }
    }
    return out;
}

std::string why_no_pictures(const cloud::PointCloud& c) {
    if (c.triangles() || c.records()->layout().format != "e57")
        return "Only scans of an E57 file, where they stood in it, have pictures";
    return {};
}

std::vector<const ScanPicture*> pictures_of(const std::vector<ScanPicture>& all, const cloud::PointCloud& c,
                                            std::size_t station) {
    std::vector<const ScanPicture*> out;
    if (!why_no_pictures(c).empty()) return out;
    const std::vector<std::string> guids = guids_of(c);
    for (const ScanPicture& p : all)
        if (p.scan.empty() || (station < guids.size() && p.scan == guids[station])) out.push_back(&p);
    return out;
}

PictureColours colours_by(const std::vector<ScanPicture>& pictures, const cloud::PointCloud& c,
                          std::vector<std::string>& warnings, Progress& progress) {
    if (const std::string why = why_no_pictures(c); !why.empty()) throw Error(ErrorCode::Usage, why);
    PictureColours out;
    out.rgb.resize(c.size());
    for (std::uint64_t e = 0; e < c.size(); ++e) out.rgb[e] = c.colour() ? (*c.colour())[e] : kGrey;
    const std::vector<std::string> guids = guids_of(c);
    const std::vector<std::uint16_t> scan = scan_numbers(c, progress);
    std::vector<float> worth(c.size(), -1);
    std::size_t done = 0;
    for (const ScanPicture& p : pictures) {
        progress.advance(static_cast<double>(done++) / static_cast<double>(pictures.size()));
        std::shared_ptr<const Mipmap> pixels;
        try {
            if (p.bytes) pixels = decode_picture(*p.bytes, p.name);
        } catch (const Error& e) {
            warnings.push_back(fmt::format("The picture '{}' is left out: {}", p.name, e.what()));
        }
        if (!pixels) continue;
        // The file may hold it smaller than it says.
        const double sx = static_cast<double>(pixels->width()) / p.width,
                     sy = static_cast<double>(pixels->height()) / p.height;
        parallel::for_each(c.page_count(), [&](std::size_t page) {
            progress.check();
            const cloud::PositionPage at = c.positions(page);
            for (std::size_t i = 0; i < at.size(); ++i) {
                const std::uint64_t e = std::uint64_t{page} * kPageSize + i;
                if (!p.scan.empty() && (scan[e] >= guids.size() || guids[scan[e]] != p.scan)) continue;
                const auto px = pixel_of(p, c.grid().world(at.x[i], at.y[i], at.z[i]));
                if (!px) continue;
                const auto w = static_cast<float>(worth_of(p, *px));
                if (w <= worth[e]) continue;
                const std::uint32_t rgb = pixels->colour(px->x * sx, px->y * sy, 1);
                if (rgb >> 24 == 0) continue;
                worth[e] = w;
                out.rgb[e] = rgb & 0xFFFFFFu;
            }
        });
    }
    out.coloured =
        static_cast<std::uint64_t>(std::count_if(worth.begin(), worth.end(), [](float w) { return w >= 0; }));
    return out;
}

}  // namespace pristine::io
