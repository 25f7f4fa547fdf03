// Meshes side by side become one by mouse; points and triangles do not.

#include <catch2/catch.hpp>

#include "answers.h"
#include "core/cloud/triangles.h"
#include "core/mesh/tri_mesh.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

namespace {

std::string square(double x) {
    const auto at = [](double v) { return std::to_string(v); };
    return "v " + at(x) + " 0 0\nv " + at(x + 1) + " 0 0.5\nv " + at(x + 1) + " 1 0.5\nv " + at(x) +
           " 1 0\nf 1 2 3\nf 1 3 4\n";
}

}  // namespace

TEST_CASE("MeshesSideBySideBecomeOneByMouse", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "left.obj", square(0));
    // Its edge stands half a unit above where the other ends, but for a hair.
    std::string right = square(1.002);
    for (std::size_t at = right.find(" 0.5\n"); at != std::string::npos; at = right.find(" 0.5\n", at + 1))
        right.replace(at, 5, " 1.0\n");
    for (const char* low : {"0 0\nv 2", "1 0\nf"})
        if (const std::size_t at = right.find(low); at != std::string::npos) right.replace(at + 2, 1, "0.5");
    test::write_file(folder / "right.obj", right);
    WindowDriver w(folder / "home");
    REQUIRE(w.open(folder / "left.obj", 1));
    REQUIRE(w.open(folder / "right.obj", 2));
    test::answer(&w.window(), 0.005);
    w.window().commands().trigger("decide.merge");
    REQUIRE(w.wait([&] { return w.site().items.size() == 3 && !w.window().jobs().busy(); }));
    REQUIRE(w.settle());
    const site::Item& merged = w.item();
    CHECK(merged.name == "Merged");
    REQUIRE(merged.cloud->triangles());
    CHECK(merged.cloud->size() == 4);
    CHECK(merged.cloud->triangles()->vertices.size() == 6);  // two of eight became others
    CHECK(mesh::open_edges(*merged.cloud->triangles()) == 6);
    CHECK(cloud::is_surface(*merged.cloud));
    CHECK_FALSE(w.site().items[0]->visible);
    w.window().commands().trigger("edit.undo");
    REQUIRE(w.settle());
    CHECK(w.site().items.size() == 2);
    CHECK(w.site().items[0]->visible);
    w.close();
}
