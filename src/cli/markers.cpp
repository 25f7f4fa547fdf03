// `pristine markers`: markers that a scanner recorded with a mesh: what they cover, and the surface healed
// under them.

#include <fmt/format.h>

#include <algorithm>

#include "cli/command.h"
#include "core/io/markers/markers.h"
#include "core/mesh/carry.h"
#include "core/mesh/weld.h"
#include "core/repair/patch.h"

namespace pristine::cli {
namespace {

using nlohmann::json;

struct MarkersRequest {
    std::string input, table, output;
    std::vector<std::string> names, kinds;
    double radius = 0;
    Common common;
};

std::vector<io::Marker> chosen(const MarkersRequest& r) {
    const std::filesystem::path table =
        r.table.empty() ? io::markers_beside(r.input) : std::filesystem::path(r.table);
    if (table.empty())
        throw Error(ErrorCode::Usage, "There is no table of markers beside the mesh", r.input,
                    "Give --table.");
    std::vector<std::string> left_out;
    const std::optional<io::TextReading> reading = text_reading(r.common);
    std::vector<io::Marker> all =
        reading ? io::read_marker_table(table, *reading, r.radius, left_out) : io::read_markers(table);
    for (const std::string& why : left_out) fmt::print(stderr, "{}, {}\n", table.filename().string(), why);
    const auto among = [](const std::vector<std::string>& wanted, const std::string& word) {
        return wanted.empty() || std::find(wanted.begin(), wanted.end(), word) != wanted.end();
    };
    std::erase_if(all,
                  [&](const io::Marker& m) { return !among(r.names, m.name) || !among(r.kinds, m.kind); });
    if (all.empty())
        throw Error(ErrorCode::Empty, "No marker has one of these names and kinds", table.string());
    return all;
}

json listed(const std::vector<io::Marker>& markers, const mesh::TriMesh& m, std::vector<char>& gone) {
    json list = json::array();
    for (const io::Marker& k : markers) {
        std::vector<char> under(m.triangles.size(), 0);
        repair::mark_round(m, k.place, k.radius, under);
        for (std::size_t t = 0; t < under.size(); ++t) gone[t] |= under[t];
        list.push_back({{"name", k.name},
                        {"kind", k.kind},
                        {"place", {k.place.x, k.place.y, k.place.z}},
                        {"radius", k.radius},
                        {"triangles", std::count(under.begin(), under.end(), char{1})}});
    }
    return list;
}

json heal(const MarkersRequest& r, Progress& progress) {
    const io::MeshFile in = read_triangles(r.input, r.common, progress);  // lengths are now in its unit
    const std::vector<io::Marker> markers = chosen(r);
    std::vector<Vec3> corners;
    corners.reserve(3 * in.mesh.triangles.size());
    for (const auto& t : in.mesh.triangles)
        for (const std::uint32_t v : t) corners.push_back(in.mesh.vertices[v]);
    const mesh::TriMesh m = mesh::weld(corners);
    std::vector<char> gone(m.triangles.size(), 0);
    json j{{"input", r.input}, {"unit", in.unit}, {"markers", listed(markers, m, gone)}};
    j["covered"] = std::count(gone.begin(), gone.end(), char{1});
    if (r.output.empty()) return j;
    if (j["covered"] == 0) throw Error(ErrorCode::Empty, "There is nothing under these markers", r.input);
    const repair::Step s = repair::replace_patch(m, gone, {}, progress);
    io::write_mesh(s.mesh, r.output, r.common.force, in.unit,
                   mesh::carried(m, in.attributes, s.mesh, progress), in.crs);
    j["removed"] = s.removed;
    j["made"] = s.made;
    json left = json::array();
    for (const repair::Unrepaired& u : s.unrepaired)
        left.push_back({{"where", {u.where.x, u.where.y, u.where.z}}, {"why", u.why}});
    j["left_open"] = left;
    j["output"] = r.output;
    return j;
}

std::string told_markers(const json& j) {
    const std::string unit = after_number(j["unit"].get<std::string>());
    std::string text;
    for (const json& m : j["markers"])
        text += fmt::format("{:<16} {:<10} radius {:g}{}: {} triangles\n", m["name"].get<std::string>(),
                            m["kind"].get<std::string>(), m["radius"].get<double>(), unit,
                            m["triangles"].get<std::uint64_t>());
    if (!j.contains("output")) return text;
    text += fmt::format("{} triangles taken, {} made\n", j["removed"].get<std::uint64_t>(),
                        j["made"].get<std::uint64_t>());
    for (const json& l : j["left_open"]) {
        const auto at = l["where"].get<std::vector<double>>();
        text += fmt::format("left open at {:.3f} {:.3f} {:.3f}: {}\n", at[0], at[1], at[2],
                            l["why"].get<std::string>());
    }
    return text;
}

}  // namespace

void add_markers(CLI::App& app) {
    auto* sub = app.add_subcommand("markers", "Markers recorded with a mesh: listed, or healed over");
    auto r = std::make_shared<MarkersRequest>();
    reads(sub->add_option("IN", r->input, "Mesh"), r->common)->required();
    reads(sub->add_option(
              "--table", r->table,
              "CSV with the columns name, x, y, z, radius, kind, or any text with --columns (point, x, y, z, "
              "radius or diameter, code); usual: the one beside the mesh"),
          r->common);
    length_option(*sub, "--radius", r->radius, "Of markers in a table that does not say it (with --columns)",
                  Least::AboveZero, r->common);
    sub->add_option("--name", r->names, "Only markers of these names")->delimiter(',');
    sub->add_option("--kind", r->kinds, "Only markers of these kinds")->delimiter(',');
    writes(sub->add_option("-o,--output", r->output,
                           "Write the mesh without what they cover, the surface healed; without it they are "
                           "listed"),
           r->common);
    add_common(*sub, r->common, true, true);
    sub->callback([=] {
        json j;
        with_progress(r->common, [&](Progress& p) { j = heal(*r, p); });
        print(r->common, j, told_markers(j));
    });
}

}  // namespace pristine::cli
