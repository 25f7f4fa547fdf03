#include "fuzz_support.h"

#include <unistd.h>

#include <cmath>
#include <cstdio>
#include <filesystem>

#include "core/base/fuzzing.h"
#include "core/base/parallel.h"
#include "core/io/cloud_io.h"
#include "core/io/fence_file.h"
#include "core/io/lines/lines.h"
#include "core/io/markers/markers.h"
#include "core/io/profile_file.h"

namespace pristine::fuzz {
namespace {

std::filesystem::path as_file(const std::uint8_t* data, std::size_t size, const char* extension) {
    fuzzing = true;
    static const std::filesystem::path path =
        std::filesystem::path("/dev/shm") / ("pristine-fuzz-" + std::to_string(::getpid()) + "." + extension);
    std::FILE* f = std::fopen(path.c_str(), "wb");
    if (size > 0) std::fwrite(data, 1, size, f);
    std::fclose(f);
    return path;
}

}  // namespace

int read_cloud(const std::uint8_t* data, std::size_t size, const char* extension) {
    static const parallel::WorkerLimit alone(1);
    const auto path = as_file(data, size, extension);
    for (const bool partial : {false, true}) {
        io::ReadOptions options;
        options.accept_partial = partial;
        try {
            const auto r = io::read_cloud(path, options);
            // Whatever was accepted must be usable: every point, every record.
            std::uint64_t sum = 0;
            for (std::size_t p = 0; p < r.cloud->page_count(); ++p)
                for (const std::uint32_t record : r.cloud->order()->page(p)) sum += record;
            if (r.cloud->size() > r.cloud->records()->count()) __builtin_trap();
            std::vector<std::byte> raw(r.cloud->records()->count() *
                                       r.cloud->records()->layout().record_bytes);
            r.cloud->records()->read(0, raw);
            (void)r.cloud->robust_bounds();
            static volatile std::uint64_t sink;
            sink = sum;
            (void)sink;
        } catch (const Error&) {
        }
    }
    return 0;
}

void check(const io::MeshFile& m) {
    for (const auto& t : m.mesh.triangles)
        for (const std::uint32_t v : t)
            if (v >= m.mesh.vertices.size()) __builtin_trap();
    const auto& a = m.attributes;
    for (const std::size_t n :
         {a.colours.size(), a.normals.size(), a.texture.size(), a.group.size(), a.material.size()})
        if (n != 0 && n != m.mesh.triangles.size()) __builtin_trap();
    for (const std::uint16_t g : a.group)
        if (g >= a.groups.size()) __builtin_trap();
    for (const std::uint16_t k : a.material)
        if (k >= a.materials.size()) __builtin_trap();
}

int read_meshes(const std::uint8_t* data, std::size_t size, const char* extension) {
    try {
        for (const io::MeshFile& m : io::read_meshes(as_file(data, size, extension))) check(m);
    } catch (const Error&) {
    }
    return 0;
}

int read_markers(const std::uint8_t* data, std::size_t size) {
    try {
        for (const io::Marker& m : io::read_markers(as_file(data, size, "csv")))
            if (!(m.radius > 0) || !std::isfinite(m.place.x + m.place.y + m.place.z)) __builtin_trap();
    } catch (const Error&) {
    }
    return 0;
}

// The first byte says whether commas are decimal marks.
int read_marker_table(const std::uint8_t* data, std::size_t size) {
    if (size == 0) return 0;
    io::TextReading said{0, 0, data[0] % 2 == 1, {"point", "x", "y", "z", "diameter", "code"}, {}};
    said.guess_shape = data[0] % 3 == 0;
    std::vector<std::string> left_out;
    try {
        for (const io::Marker& m :
             io::read_marker_table(as_file(data + 1, size - 1, "txt"), said, 0.01, left_out))
            if (!(m.radius > 0) || !std::isfinite(m.place.x + m.place.y + m.place.z)) __builtin_trap();
    } catch (const Error&) {
    }
    return 0;
}

int read_profile(const std::uint8_t* data, std::size_t size) {
    try {
        const tunnel::DesignProfile p = io::read_design_profile(as_file(data, size, "txt"));
        if (p.corners.size() < 3) __builtin_trap();
        for (const auto& c : p.corners)
            if (!std::isfinite(c[0] + c[1])) __builtin_trap();
    } catch (const Error&) {
    }
    return 0;
}

int read_lines(const std::uint8_t* data, std::size_t size, const char* extension) {
    try {
        for (const io::MapLine& line : io::read_lines(as_file(data, size, extension)))
            if (line.points.size() < 2) __builtin_trap();
    } catch (const Error&) {
    }
    return 0;
}

int read_fence(const std::uint8_t* data, std::size_t size, const char* extension) {
    try {
        for (const Polygon& ring : io::read_rings(as_file(data, size, extension)))
            if (ring.size() < 3) __builtin_trap();
    } catch (const Error&) {
    }
    return 0;
}

}  // namespace pristine::fuzz
