// The faces of a DXF drawing: 3DFACE, polyface meshes and polygon meshes, also those of blocks that are
// inserted.
//
// The file is a list of pairs of lines, a group code and a value; what they mean is in the DXF reference.

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>
#include <optional>

#include "core/io/mesh/mesh_io.h"
#include "core/io/mesh/text_scan.h"
#include "core/mesh/weld.h"

namespace pristine::io {
namespace {

using Triangle = std::array<Vec3, 3>;

constexpr int kDeepest = 16;  // blocks in blocks
constexpr std::size_t kMostTriangles =
    2'000'000;  // of a small file: a few bytes can insert one block millions of times

// One entity or vertex: its groups, of each code the first.
struct Entity {
    std::string type;
    std::map<int, std::string> groups{};
    bool has(int code) const { return groups.contains(code); }
};

struct Insert {
    std::string block;
    Vec3 at, scale{1, 1, 1};
    double turn_deg = 0;
    std::int64_t columns = 1, rows = 1;
    double between_columns = 0, between_rows = 0;
};

struct Block {
    Vec3 base;
    std::vector<Triangle> triangles;
    std::vector<std::array<Vec3, 4>> faces_with_fourth;  // whose fourth corner is the origin
    std::vector<Insert> inserts;
};

class DxfFaces {
  public:
    DxfFaces(const std::string& text, const std::string& place, Progress& progress)
        : scan_(text, place, &progress), most_(kMostTriangles + text.size() / 8) {}

    MeshFile read() {
        MeshFile m;
        m.format = "DXF faces";
        parse(m);
        // A fourth corner at 0,0,0 is one that was not given, unless faces of this drawing do reach the
        // origin.
        for (auto& [name, block] : blocks_) {
            for (const auto& f : block.faces_with_fourth) add_quad(block, f, reaches_origin_);
            block.faces_with_fourth.clear();
        }
        std::vector<Triangle> all;
        expand(
            blocks_[""], [](const Vec3& p) { return p; }, 0, all);
        std::vector<Vec3> corners;
        corners.reserve(3 * all.size());
        for (const Triangle& t : all) corners.insert(corners.end(), t.begin(), t.end());
        m.mesh = mesh::weld(corners);
        if (unknown_)
            m.warnings.push_back(fmt::format("{} inserts name a block that is not there.", unknown_));
        return m;
    }

  private:
    double number(const Entity& e, int code, double otherwise = 0) const {
        const auto g = e.groups.find(code);
        return g == e.groups.end() ? otherwise : scan_.number(g->second);
    }
    std::int64_t whole(const Entity& e, int code, std::int64_t otherwise = 0) const {
        const auto g = e.groups.find(code);
        return g == e.groups.end() ? otherwise : scan_.whole(g->second);
    }
    Vec3 place(const Entity& e, int k) const {
        return {number(e, 10 + k), number(e, 20 + k), number(e, 30 + k)};
    }

    void parse(MeshFile& m) {
        std::string_view code, value;
        std::optional<Entity> entity;
        bool unit_follows = false, ended = false;
        while (!ended && scan_.line(code) && scan_.line(value)) {
            const std::int64_t group = scan_.whole(code);
            if (group == 0) {
                if (entity) take(*entity);
                entity = Entity{std::string(value)};
                ended = value == "EOF";
            } else if (group == 9) {
                unit_follows = value == "$INSUNITS";
            } else if (unit_follows && group == 70) {
                m.unit = unit_of(scan_.whole(value));
                unit_follows = false;
            } else if (entity && group > 0 && group < 1000) {
                entity->groups.emplace(static_cast<int>(group), value);
            }
        }
        if (!ended) scan_.fail("The file ends before its end mark");
    }

    // The numbers that DXF has for units; 0: not stated.
    static std::string unit_of(std::int64_t number) {
        static constexpr std::pair<int, const char*> units[] = {{1, "in"},  {2, "ft"},  {4, "mm"},
                                                                {5, "cm"},  {6, "m"},   {7, "km"},
                                                                {10, "yd"}, {14, "dm"}, {21, "usft"}};
        for (const auto& [n, id] : units)
            if (n == number) return id;
        return {};
    }

    void take(const Entity& e) {
        if (e.type == "BLOCK") {
            block_ = e.has(2) ? e.groups.at(2) : std::string("?");
            blocks_[block_].base = place(e, 0);
        } else if (e.type == "ENDBLK") {
            block_.clear();
        } else if (e.type == "3DFACE") {
            face(e);
        } else if (e.type == "POLYLINE") {
            polyline_ = e;
            vertices_.clear();
            faces_.clear();
        } else if (e.type == "VERTEX" && polyline_) {
            vertex(e);
        } else if (e.type == "SEQEND" && polyline_) {
            finish_polyline();
        } else if (e.type == "INSERT" && e.has(2)) {
            blocks_[block_].inserts.push_back({e.groups.at(2),
                                               place(e, 0),
                                               {number(e, 41, 1), number(e, 42, 1), number(e, 43, 1)},
                                               number(e, 50),
                                               std::max<std::int64_t>(1, whole(e, 70, 1)),
                                               std::max<std::int64_t>(1, whole(e, 71, 1)),
                                               number(e, 44),
                                               number(e, 45)});
        }
    }

    void face(const Entity& e) {
        std::array<Vec3, 4> f{};
        for (int k = 0; k < 4; ++k) f[static_cast<std::size_t>(k)] = place(e, k);
        for (int k = 0; k < 3; ++k) reaches_origin_ |= f[static_cast<std::size_t>(k)] == Vec3{};
        Block& block = blocks_[block_];
        if (!e.has(13) && !e.has(23) && !e.has(33)) f[3] = f[2];
        if (f[3] == Vec3{} && !(f[2] == Vec3{}))
            block.faces_with_fourth.push_back(f);
        else
            add_quad(block, f, true);
    }

    static void add_quad(Block& block, const std::array<Vec3, 4>& f, bool fourth) {
        block.triangles.push_back({f[0], f[1], f[2]});
        if (fourth && !(f[3] == f[2]) && !(f[3] == f[0])) block.triangles.push_back({f[0], f[2], f[3]});
    }

    void vertex(const Entity& e) {
        const std::int64_t flags = whole(e, 70);
        if ((flags & 128) != 0 && (flags & 64) == 0) {
            auto& f = faces_.emplace_back();
            for (int k = 0; k < 4; ++k) f[static_cast<std::size_t>(k)] = std::abs(whole(e, 71 + k));
        } else {
            vertices_.push_back(place(e, 0));
        }
    }

    void finish_polyline() {
        const std::int64_t flags = whole(*polyline_, 70);
        if (flags & 64) polyface();
        if (flags & 16) polygon_mesh(flags);
        polyline_.reset();
    }

    void polyface() {
        Block& block = blocks_[block_];
        const auto n = static_cast<std::int64_t>(vertices_.size());
        for (const auto& f : faces_) {
            std::array<Vec3, 4> corners{};
            std::size_t count = 0;
            for (const std::int64_t i : f) {
                if (i == 0) continue;
                if (i > n) scan_.fail("A face names a vertex that is not there");
                corners[count++] = vertices_[static_cast<std::size_t>(i - 1)];
            }
            if (count < 3) continue;  // an edge
            if (count == 3) corners[3] = corners[2];
            add_quad(block, corners, true);
        }
    }

    // M rows of N vertices; closed where the flags say so.
    void polygon_mesh(std::int64_t flags) {
        Block& block = blocks_[block_];
        const std::int64_t m = whole(*polyline_, 71), n = whole(*polyline_, 72);
        if (m < 2 || n < 2 || m > INT32_MAX || n > INT32_MAX ||
            m * n > static_cast<std::int64_t>(vertices_.size()))
            scan_.fail("A mesh has fewer vertices than it says");
        const auto at = [&](std::int64_t i, std::int64_t j) {
            return vertices_[static_cast<std::size_t>((i % m) * n + j % n)];
        };
        for (std::int64_t i = 0; i < m - ((flags & 1) ? 0 : 1); ++i)
            for (std::int64_t j = 0; j < n - ((flags & 32) ? 0 : 1); ++j)
                add_quad(block, {at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)}, true);
    }

    template <class Place>
    void expand(const Block& block, const Place& place, int depth, std::vector<Triangle>& out) {
        if (depth > kDeepest) scan_.fail("Blocks are inserted into each other without end");
        for (const Triangle& t : block.triangles) out.push_back({place(t[0]), place(t[1]), place(t[2])});
        if (out.size() > most_) scan_.fail("The blocks make too many faces");
        for (const Insert& i : block.inserts) {
            const auto inner = blocks_.find(i.block);
            if (inner == blocks_.end() || i.block.empty()) {
                ++unknown_;
                continue;
            }
            if (i.columns * i.rows > 1'000'000 || (inserted_ += i.columns * i.rows) > 10'000'000)
                scan_.fail("Blocks are inserted too many times");
            const double c = std::cos(i.turn_deg * std::numbers::pi / 180),
                         s = std::sin(i.turn_deg * std::numbers::pi / 180);
            for (std::int64_t row = 0; row < i.rows; ++row)
                for (std::int64_t column = 0; column < i.columns; ++column) {
                    const double dx = static_cast<double>(column) * i.between_columns,
                                 dy = static_cast<double>(row) * i.between_rows;
                    const std::function<Vec3(const Vec3&)> moved = [&](const Vec3& p) {
                        const double x = (p.x - inner->second.base.x) * i.scale.x + dx,
                                     y = (p.y - inner->second.base.y) * i.scale.y + dy,
                                     z = (p.z - inner->second.base.z) * i.scale.z;
                        return place(Vec3{i.at.x + c * x - s * y, i.at.y + s * x + c * y, i.at.z + z});
                    };
                    expand(inner->second, moved, depth + 1, out);
                }
        }
    }

    TextScan scan_;
    std::map<std::string, Block> blocks_;  // "": the drawing itself
    std::string block_;
    std::optional<Entity> polyline_;
    std::vector<Vec3> vertices_;
    std::vector<std::array<std::int64_t, 4>> faces_;
    std::size_t most_;  // triangles
    bool reaches_origin_ = false;
    std::size_t unknown_ = 0;
    std::int64_t inserted_ = 0;
};

}  // namespace

MeshFile read_dxf_faces(const std::string& text, const std::string& place, Progress& progress) {
    return DxfFaces(text, place, progress).read();
}

}  // namespace pristine::io
