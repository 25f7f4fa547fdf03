#include "cli/surface_input.h"

#include <fmt/format.h>

#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/grid/grid_io.h"
#include "core/io/landxml_writer.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_io.h"
#include "core/io/reference/system.h"
#include "core/measure/figures.h"

namespace pristine::cli {

using nlohmann::json;

// Closed lines of a file; open ones are refused with their place.
surface::Rings rings_of(const std::string& path, const cloud::Reference& wanted, double sagitta) {
    surface::Rings rings;
    for (const io::MapLine& l : read_lines_in(path, wanted, sagitta)) {
        std::vector<Vec3> ring = l.points;
        const bool repeated =
            ring.size() > 3 && ring.front().x == ring.back().x && ring.front().y == ring.back().y;
        if (repeated) ring.pop_back();
        // Text has no other way to say that a line is closed than to repeat its first point.
        const bool text = std::filesystem::path(path).extension() == ".txt";
        if (!l.closed && !repeated && !text)
            throw Error(ErrorCode::Usage, "A boundary is open",
                        fmt::format("{}, ends at {:.3f} {:.3f}", path, ring.back().x, ring.back().y),
                        "Close it.");
        rings.push_back(std::move(ring));
    }
    if (rings.empty()) throw Error(ErrorCode::Empty, "There is no line in the file", path);
    return rings;
}

mesh::TriMesh Bounds::apply(const mesh::TriMesh& m, const cloud::Reference& of, Progress& progress) const {
    const surface::Edges edges = whole ? surface::Edges::Whole : surface::Edges::Exact;
    mesh::TriMesh out = m;
    if (!boundary.empty())
        out = surface::clip(out, rings_of(boundary, of, sagitta), surface::Keep::Inside, edges, progress);
    return without_holes(std::move(out), of, progress);
}

mesh::TriMesh Bounds::without_holes(mesh::TriMesh m, const cloud::Reference& of, Progress& progress) const {
    const surface::Edges edges = whole ? surface::Edges::Whole : surface::Edges::Exact;
    for (const std::string& h : holes)
        m = surface::clip(m, rings_of(h, of, sagitta), surface::Keep::Outside, edges, progress);
    return m;
}

void add_bounds(CLI::App& app, Bounds& b, Common& c) {
    reads(app.add_option("--boundary", b.boundary,
                         "File with closed lines: the surface ends there (lines in lines are holes)"),
          c);
    reads(app.add_option("--hole", b.holes,
                         "File with closed lines: no surface in there; may be given several times"),
          c);
    auto* exact = app.add_flag("--exact", b.exact, "Cut triangles at boundaries and holes (the default)");
    length_option(app, "--sagitta", b.sagitta, "Chords leave the arcs of lines by no more than this (0.01)",
                  Least::AboveZero, c);
    app.add_flag("--whole", b.whole, "Whole triangles stay or go, by their middle")->excludes(exact);
}

std::vector<std::pair<std::string, std::vector<Vec3>>> named_rings(const std::string& file,
                                                                   const cloud::Reference& of,
                                                                   const std::string& word) {
    std::vector<std::pair<std::string, std::vector<Vec3>>> out;
    for (const io::MapLine& l : read_lines_in(file, of)) {
        std::vector<Vec3> ring = l.points;
        const bool repeated =
            ring.size() > 3 && ring.front().x == ring.back().x && ring.front().y == ring.back().y;
        if (repeated) ring.pop_back();
        if (!l.closed && !repeated && std::filesystem::path(file).extension() != ".txt") continue;
        out.emplace_back(l.layer.empty() ? fmt::format("{} {}", word, out.size() + 1)
                                         : fmt::format("{} {}", l.layer, out.size() + 1),
                         std::move(ring));
    }
    if (out.empty()) throw Error(ErrorCode::Empty, "There is no closed line in the file", file);
    return out;
}

json figures_json(const mesh::TriMesh& m) {
    const measure::SurfaceFigures f = measure::figures(m);
    return {{"plan_area", f.plan_area}, {"surface_area", f.surface_area}, {"perimeter", f.perimeter}};
}

io::MeshFile read_surface(const std::string& path, const Common& common, Progress& progress) {
    io::MeshFile f = read_triangles(path, common, progress);
    measure::require_lengths(f.reference());
    return f;
}

// Every triangle faces upwards in plan: what areas and volumes rest on.
void require_surface(const mesh::TriMesh& m, const std::string& path) {
    std::size_t bad = 0;
    for (const auto& t : m.triangles) {
        const Vec3 p = m.vertices[t[1]] - m.vertices[t[0]], q = m.vertices[t[2]] - m.vertices[t[0]];
        bad += !(p.x * q.y - p.y * q.x > 0);
    }
    if (bad > 0)
        throw Error(
            ErrorCode::Usage,
            fmt::format("{} of {} triangles do not face upwards: this is a mesh, not a terrain surface", bad,
                        m.triangles.size()),
            path);
}

cloud::Reference common_reference(const io::MeshFile& a, const io::MeshFile& b) {
    if (!a.unit.empty() && !b.unit.empty() && a.unit != b.unit)
        throw Error(ErrorCode::Usage,
                    fmt::format("One surface counts in {}, the other in {}", length_unit(a.unit).title,
                                length_unit(b.unit).title),
                    {}, "Convert one of them first.");
    const std::string p = io::system_of(a.crs).name, q = io::system_of(b.crs).name;
    if (!p.empty() && !q.empty() && p != q)
        throw Error(ErrorCode::Usage, fmt::format("One surface is in {}, the other in {}", p, q), {},
                    "Convert one of them first.");
    return a.unit.empty() ? b.reference() : a.reference();
}

void write_surface(const mesh::TriMesh& m, const std::string& path, double cell, bool force,
                   const cloud::Reference& reference, Progress& progress, const Along& along) {
    if (io::is_grid_ending(path)) {
        io::write_grid(m, {cell, -9999, reference}, path, force, progress);
        return;
    }
    const std::filesystem::path file = path;
    if (file.extension() == ".xml") {
        OutputFile out(file, force);
        out.write(io::text_of(
            io::LandXml{reference, {{file.stem().string(), m, along.breaklines, along.boundaries}}}));
        out.finish();
    } else
        io::write_mesh(m, path, force, reference.unit, {}, reference.crs);
}

}  // namespace pristine::cli
