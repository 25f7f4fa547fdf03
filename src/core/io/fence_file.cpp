#include "core/io/fence_file.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "core/base/file.h"
#include "core/io/lines/lines.h"
#include "core/io/reference/placing.h"
#include "core/io/text/table.h"
#include "core/io/text_encoding.h"

namespace pristine::io {
namespace {

using nlohmann::json;

constexpr std::uint64_t kLargestFile = 256u << 20;

class RingReader {
  public:
    explicit RingReader(std::string name) : name_(std::move(name)) {}

    void geometry(const json& g, int depth = 0) {
        constexpr int kDeepest = 32;
        if (depth > kDeepest)
            throw Error(ErrorCode::Format, fmt::format("Geometries are nested more than {} deep", kDeepest),
                        name_);
        const std::string type = g.at("type");
        if (type == "FeatureCollection")
            for (const json& f : g.at("features")) geometry(f, depth + 1);
        else if (type == "Feature" && !g.at("geometry").is_null())
            geometry(g.at("geometry"), depth + 1);
        else if (type == "GeometryCollection")
            for (const json& f : g.at("geometries")) geometry(f, depth + 1);
        else if (type == "Polygon")
            for (const json& r : g.at("coordinates")) ring(r);
        else if (type == "MultiPolygon")
            for (const json& p : g.at("coordinates"))
                for (const json& r : p) ring(r);
        else if (type == "LineString")
            ring(g.at("coordinates"));
    }

    void finish(Polygon p) {
        if (p.size() < 3)
            throw Error(ErrorCode::Format,
                        fmt::format("Ring {} has fewer than three corners", rings.size() + 1), name_);
        rings.push_back(std::move(p));
    }

    std::vector<Polygon> rings;

  private:
    void ring(const json& coordinates) {
        Polygon p;
        for (const json& c : coordinates) p.push_back({c.at(0).get<double>(), c.at(1).get<double>()});
        if (p.size() < 2 || !(p.front() == p.back()))
            throw Error(ErrorCode::Format,
                        fmt::format("Line {} is not closed: its ends differ", rings.size() + 1), name_,
                        "A fence needs closed lines.");
        p.pop_back();
        finish(std::move(p));
    }
    std::string name_;
};

}  // namespace

std::vector<Polygon> read_rings(const std::filesystem::path& path) {
    if (is_line_file(path)) {
        RingReader reader(path.filename().string());
        for (const MapLine& l : read_lines(path)) {
            if (!l.closed) continue;  // such files hold other lines too
            Polygon p;
            for (const Vec3& v : l.points) p.push_back({v.x, v.y});
            reader.finish(std::move(p));
        }
        if (reader.rings.empty())
            throw Error(ErrorCode::Format, "The file holds no closed line", path.filename().string());
        return std::move(reader.rings);
    }
    const InputFile file(path);
    const std::string name = path.filename().string();
    if (file.size() > kLargestFile) throw Error(ErrorCode::Format, "The file is too large for a fence", name);
    const std::string text = as_utf8(file.read_string(0, file.size()));
    RingReader reader(name);
    if (const std::size_t first = text.find_first_not_of(" \t\r\n");
        first != std::string::npos && text[first] == '{') {
        try {
            reader.geometry(json::parse(text));
        } catch (const json::exception& e) {
            throw Error(ErrorCode::Format, std::string("This is no sound GeoJSON: ") + e.what(), name);
        }
    } else {
        Polygon ring;
        std::size_t number = 0;
        for (std::size_t from = 0; from < text.size();) {
            std::size_t nl = std::min(text.find('\n', from), text.size());
            const std::string_view line = std::string_view(text).substr(from, nl - from);
            from = nl + 1;
            ++number;
            const auto words = split_line(line, line.find(',') != std::string_view::npos ? ',' : '\0');
            if (words.empty()) {
                if (!ring.empty()) reader.finish(std::exchange(ring, {}));
                continue;
            }
            if (is_comment(line)) continue;
            PixelPoint c;
            if (words.size() < 2 || !parse_number(words[0], false, c.x) ||
                !parse_number(words[1], false, c.y))
                throw Error(ErrorCode::Format, "Two numbers are expected on the line",
                            fmt::format("{}, line {}", name, number));
            ring.push_back(c);
        }
        if (!ring.empty()) reader.finish(std::move(ring));
        for (Polygon& r : reader.rings)
            if (r.size() > 3 && r.front() == r.back()) r.pop_back();
    }
    if (reader.rings.empty()) throw Error(ErrorCode::Format, "The file holds no closed line", name);
    return std::move(reader.rings);
}

PlacedRings read_rings_in(const std::filesystem::path& path, const cloud::Reference& wanted) {
    PlacedRings out{read_rings(path), {}};
    Placing placing(reference_of_lines(path), wanted);
    for (Polygon& ring : out.rings) {
        std::vector<Vec3> places;
        for (const PixelPoint& c : ring) places.push_back({c.x, c.y, 0});
        placing.apply(places);
        for (std::size_t i = 0; i < ring.size(); ++i) ring[i] = {places[i].x, places[i].y};
    }
    out.note = placing.note();
    return out;
}

}  // namespace pristine::io
