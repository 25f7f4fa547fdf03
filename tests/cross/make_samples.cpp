// Writes files for independent decoders to read: for each, what must come out stands beside it.
//   make_samples DIR

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

#include "core/io/cloud_io.h"
#include "core/io/las/las_header.h"
#include "core/io/mesh/mesh_io.h"
#include "core/report/deliverable.h"
#include "core/report/report_site.h"
#include "core/site/item_classes.h"
#include "core/site/marks.h"
#include "core/store/project.h"
#include "support/cloud_makers.h"

namespace fs = std::filesystem;
using namespace pristine;

namespace {

void laz_sample(const fs::path& folder, const test::LasSpec& spec, const std::string& name) {
    const fs::path las = folder / (name + ".las"), laz = folder / (name + ".laz");
    const std::string bytes = test::las_file(spec);
    test::write_file(las, bytes);
    io::write_cloud({{io::read_cloud(las).cloud, nullptr}}, laz, {true});
    const std::size_t record = io::las_base_bytes(spec.point_format) + spec.extra_bytes;
    test::write_file(
        folder / (name + ".records"),
        bytes.substr(bytes.size() - spec.after.size() - spec.points * record, spec.points * record));
}

// The coordinates of every record as text, in file order; invalid ones left out.
std::string coordinates(const cloud::RecordSource& records) {
    const cloud::RecordLayout& l = records.layout();
    std::vector<std::byte> raw(records.count() * l.record_bytes);
    records.read(0, raw);
    std::string text;
    for (std::uint64_t i = 0; i < records.count(); ++i) {
        double w[3];
        for (std::size_t a = 0; a < 3; ++a)
            w[a] = value(*l.find(a == 0 ? "x" : a == 1 ? "y" : "z"), raw.data() + i * l.record_bytes);
        if (std::isfinite(w[0])) text += fmt::format("{} {} {}\n", w[0], w[1], w[2]);
    }
    return text;
}

void e57_sample(const fs::path& folder, const std::string& name,
                const std::shared_ptr<const cloud::PointCloud>& c) {
    io::write_cloud({{c, nullptr}}, folder / (name + ".e57"), {true});
    test::write_file(folder / (name + ".xyz"), coordinates(*c->records()));
}

// A rough sheet with colours, far from the origin, and the corners of its triangles as text: east, north,
// height, red, green, blue.
void glb_sample(const fs::path& folder, const std::string& name, int n, double east) {
    mesh::TriMesh m;
    mesh::Attributes a;
    for (int y = 0; y <= n; ++y)
        for (int x = 0; x <= n; ++x)
            m.vertices.push_back({east + 0.37 * x, 5'250'000 + 0.41 * y, 80 + 0.1 * ((7 * x + 3 * y) % 5)});
    std::string text;
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const auto v = static_cast<std::uint32_t>(y * (n + 1) + x),
                       up = static_cast<std::uint32_t>(n + 1);
            for (const std::array<std::uint32_t, 3>& t :
                 {std::array{v, v + 1, v + up + 1}, std::array{v, v + up + 1, v + up}}) {
                m.triangles.push_back(t);
                auto& c = a.colours.emplace_back();
                for (std::size_t k = 0; k < 3; ++k) {
                    c[k] = (t[k] * 40503u) & 0xFFFFFFu;
                    const Vec3& p = m.vertices[t[k]];
                    text += fmt::format("{} {} {} {} {} {}\n", p.x, p.y, p.z, c[k] >> 16, c[k] >> 8 & 255u,
                                        c[k] & 255u);
                }
            }
        }
    io::write_mesh(m, folder / (name + ".glb"), true, "m", a);
    if (east == 0) {  // 3MF holds nothing that lies far off
        for (Vec3& v : m.vertices) v.y -= 5'250'000;
        io::write_mesh(m, folder / (name + ".3mf"), true, "m", a);
    }
    test::write_file(folder / (name + ".corners"), text);
}

// A project with two marks, for the tests of the command line.
void project_with_marks(const fs::path& path) {
    site::History h(std::make_shared<const site::Site>());
    h.commit(site::add_cloud(*h.now(), test::e57_scans(500, 3), "Chamber", "chamber.e57"), "Open");
    site::Mark m;
    m.kind = MarkKind::Fall;
    m.name = "Apron";
    m.note = "below the weir";
    m.points = {{0, 0, 10}, {4, 0, 9.9}};
    h.commit(site::put_mark(*h.now(), m), "Mark");
    m.kind = MarkKind::Distance;
    m.name = "Gauges";
    m.points = {{0, 0, 0}, {3, 4, 0}};
    h.commit(site::put_mark(*h.now(), m), "Mark");
    const auto project = store::Project::create(path);
    for (const site::Commit& c : h.commits()) project->write(c);
}

// A ledger with a decision of each kind.
void ledger_sample(const fs::path& folder) {
    site::SitePtr s = test::report_site();
    const std::uint64_t id = s->items.back()->id;
    site::Decision d;
    d.reason = "Wall \u00fc";
    d.cause = site::by_rule(score::parse_step("height >2"));
    s = site::class_parts(
        *s, {{id, std::make_shared<const ElementSet>(test::every(*s->items.back()->cloud, 1, 9, 50))}}, 6, d);
    s = site::set_entry_active(*s, id, s->items.back()->ledger.front().id, false);
    test::write_file(folder / "ledger.json", report::ledger_json(*s).dump(1));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc == 3 && std::string(argv[2]) == "marks") {
        project_with_marks(argv[1]);
        return 0;
    }
    if (argc != 2) return 2;
    try {
        const fs::path folder = argv[1];
        fs::create_directories(folder);
        for (int pf = 0; pf <= 10; ++pf)
            for (const bool scan_like : {false, true})
                for (const std::uint64_t points : {1u, 2u, 700u, 120'000u})
                    for (const std::size_t extra : {0u, 5u}) {
                        if (points == 120'000 && !scan_like) continue;  // random bytes show all in few points
                        test::LasSpec spec;
                        spec.minor = pf >= 6 ? 4 : 3;
                        spec.point_format = pf;
                        spec.points = points;
                        spec.extra_bytes = extra;
                        spec.scan_like = scan_like;
                        spec.one_channel = extra > 0;
                        spec.seed = points + static_cast<std::uint64_t>(pf);
                        laz_sample(
                            folder, spec,
                            fmt::format("laz-{}-{}-{}-{}", pf, scan_like ? "scan" : "random", points, extra));
                    }
        ledger_sample(folder);
        for (const std::uint64_t n : {1u, 9u, 40'000u})
            e57_sample(folder, fmt::format("e57-own-{}", n), test::e57_scans(n, n));
        for (const int n : {1, 3, 60}) glb_sample(folder, fmt::format("glb-{}", n), n, n == 3 ? 0 : 412'300);
        test::write_file(folder / "s.las", test::las_file({4, 7, 30'000, 2, "", 5}));
        e57_sample(folder, "e57-las", io::read_cloud(folder / "s.las").cloud);
    } catch (const std::exception& e) {
        std::cerr << e.what() << "\n";
        return 1;
    }
    return 0;
}
