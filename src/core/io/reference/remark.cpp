#include "core/io/reference/remark.h"

#include <algorithm>

#include "core/base/file.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/reference/system.h"

namespace pristine::io {
namespace {

constexpr std::uint64_t kLongestSidecar = 64u << 10;

bool known_unit(std::string_view id) {
    return is_length(std::string(id)) || id == kDegrees;
}

}  // namespace

cloud::Reference reference_of(const std::string& definition) {
    const System s = system_of(definition);
    if (s.name.empty()) return {};
    return {definition, s.unit, s.height_unit};
}

std::vector<std::string> reference_remarks(const cloud::Reference& r) {
    std::vector<std::string> lines;
    if (!r.unit.empty()) lines.push_back("unit " + r.unit);
    if (!r.height_unit.empty()) lines.push_back("height_unit " + r.height_unit);
    std::string crs = r.crs;
    std::replace_if(
        crs.begin(), crs.end(), [](char c) { return c == '\n' || c == '\r'; }, ' ');
    if (!crs.empty() && crs.size() < kLongestSidecar) lines.push_back("crs " + crs);
    return lines;
}

bool take_remark(std::string_view line, cloud::Reference& r) {
    if (line.rfind("comment ", 0) == 0) line.remove_prefix(8);
    while (!line.empty() && (line.front() == '#' || line.front() == ' ')) line.remove_prefix(1);
    while (!line.empty() && static_cast<unsigned char>(line.back()) <= ' ') line.remove_suffix(1);
    const auto after = [&](std::string_view key) {
        return line.rfind(key, 0) == 0 ? line.substr(key.size()) : std::string_view();
    };
    if (const auto unit = after("unit "); known_unit(unit)) {
        r.unit = unit;
        return true;
    }
    if (const auto unit = after("height_unit "); known_unit(unit)) {
        r.height_unit = unit;
        return true;
    }
    if (const auto crs = after("crs "); !crs.empty() && !system_of(std::string(crs)).name.empty()) {
        r.crs = crs;
        return true;
    }
    return false;
}

std::filesystem::path sidecar_of(const std::filesystem::path& path) {
    std::filesystem::path p = path;
    return p.replace_extension(".prj");
}

cloud::Reference sidecar_reference(const std::filesystem::path& path) {
    std::error_code error;
    std::filesystem::path beside = sidecar_of(path);
    if (!std::filesystem::is_regular_file(beside, error)) beside.replace_extension(".PRJ");
    if (!std::filesystem::is_regular_file(beside, error)) return {};
    try {
        const InputFile file(beside);
        if (file.size() > kLongestSidecar) return {};
        return reference_of(file.read_string(0, file.size()));
    } catch (const Error&) {
        return {};  // it is not the file that was asked for
    }
}

void write_sidecar(const std::filesystem::path& path, const cloud::Reference& r, bool replace) {
    const std::string wkt = wkt_with_unit(r.crs, r.unit, r.height_unit, true);
    if (wkt.empty() || sidecar_reference(path) == reference_of(wkt)) return;
    OutputFile out(sidecar_of(path), replace);
    out.write(wkt + "\n");
    out.finish();
}

}  // namespace pristine::io
