// From each site of the demo a report, a plan sheet and a deliverable, by mouse and keys alone; what another
// office finds in them is looked at without our window.

#include <QComboBox>
#include <QPushButton>
#include <catch2/catch.hpp>
#include <cstdio>
#include <nlohmann/json.hpp>

#include "app/cards/tunnel_card.h"
#include "app/handover/report_page.h"
#include "app/handover/sheet_page.h"
#include "app/look/theme.h"
#include "core/io/cloud_io.h"
#include "core/io/mesh/mesh_io.h"
#include "core/report/verify.h"
#include "core/surface/make.h"
#include "demo/ashmere.h"
#include "demo/culvert.h"
#include "demo/milestone.h"
#include "demo/spoil.h"
#include "job.h"

using namespace pristine;
using test::Job;
namespace fs = std::filesystem;

namespace {

std::string text_of_pdf(const fs::path& file) {
    const std::string command = "pdftotext -layout '" + file.string() + "' -";
    FILE* pipe = ::popen(command.c_str(), "r");
    REQUIRE(pipe);
    std::string out;
    char buffer[4096];
    while (const std::size_t n = std::fread(buffer, 1, sizeof buffer, pipe)) out.append(buffer, n);
    CHECK(::pclose(pipe) == 0);
    return out;
}

void write_by(Job& job, const char* button, const fs::path& file) {
    job.answer(file);
    job.click(button);
    REQUIRE(job.w.wait([&] { return fs::exists(file) && !job.w.window().jobs().busy(); }, 60000));
    job.settle();
}

// Report as PDF and JSON, a sheet, and a zip that holds it all.
void hand_over(Job& job) {
    auto& window = job.w.window();
    job.command(Qt::Key_P, Qt::ControlModifier);
    auto* report = window.findChild<app::ReportPage*>();
    REQUIRE(job.w.wait([&] { return report->report() && !window.jobs().busy(); }, 60000));
    write_by(job, "reportWrite", job.folder / "report.pdf");
    job.click("formatJSON");
    write_by(job, "reportWrite", job.folder / "report.json");
    job.click("reportPageBack");
    job.command(Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    auto* sheet = window.findChild<app::SheetPage*>();
    REQUIRE(job.w.wait([&] { return sheet->sheets() && !window.jobs().busy(); }, 60000));
    write_by(job, "sheetWrite", job.folder / "sheet.pdf");
    job.click("sheetPageBack");
    job.menu("handover.deliver");
    job.choose("deliverAs", "a zip");
    job.tick("deliverSheet");
    job.tick("deliverSources");
    write_by(job, "deliverWrite", job.folder / "office.zip");
    job.click("deliverPageBack");
    job.done();
}

// What a reader of the files finds.
void check(Job& job, const std::vector<std::string>& figures) {
    const std::string report = text_of_pdf(job.folder / "report.pdf");
    const auto json = nlohmann::json::parse(test::read_file(job.folder / "report.json"));
    const std::string all = json.dump();
    for (const std::string& f : figures) {
        CAPTURE(f);
        CHECK(report.find(f) != std::string::npos);
        CHECK(all.find(f) != std::string::npos);
    }
    CHECK(text_of_pdf(job.folder / "sheet.pdf").find("1 : ") != std::string::npos);
    const report::Verified v = report::verify(job.folder / "office.zip", {});
    for (const std::string& p : v.problems) UNSCOPED_INFO(p);
    CHECK(v.sound());
    CHECK(v.items == job.w.site().items.size());
}

}  // namespace

TEST_CASE("TheChamberIsHandedOver", "[window][job]") {
    Job job("Handing over a chamber");
    demo::Options o;
    o.points = 60'000;
    demo::write_site(job.folder / "site", o);
    job.open(job.folder / "site" / "chamber-station-1.las", 1);
    job.command(Qt::Key_R);
    const Vec3 c = job.w.item().cloud->bounds().centre();
    const QPoint at = job.pixel(c);
    job.drag(at - QPoint(30, 30), at + QPoint(30, 30));
    REQUIRE(job.w.site().selected() > 0);
    job.remove();
    hand_over(job);
    const auto said = [](std::uint64_t n) { return app::grouped(n).toStdString(); };
    check(job, {said(job.w.item().cloud->size()), said(job.w.item().removed->count())});
    CHECK(report::verify(job.folder / "office.zip", {}).against_source == 1);
}

TEST_CASE("TheSpoilBankIsHandedOver", "[window][job]") {
    Job job("Handing over a spoil bank");
    demo::write_spoil(job.folder.path(), 8000, test::seed_for("spoil handover"), false);
    for (const char* name : {"spoil-bank-1", "spoil-bank-2"}) {
        const auto cloud = io::read_cloud(job.folder / (std::string(name) + ".las")).cloud;
        surface::Definition d;
        d.points = surface::places_of(*cloud, ElementSet::all(cloud->size()));
        io::write_mesh(surface::build(d).mesh, job.folder / (std::string(name) + ".xml"), false, "m");
    }
    job.open(job.folder / "spoil-bank-1.xml", 1);
    job.open(job.folder / "spoil-bank-2.xml", 2);
    hand_over(job);
    check(job, {app::grouped(job.w.site().items[0]->cloud->size()).toStdString(), "spoil-bank-1", "m³"});
}

TEST_CASE("TheCulvertIsHandedOver", "[window][job]") {
    Job job("Handing over a culvert");
    demo::write_culvert(job.folder.path(), 60'000, test::seed_for("culvert handover"), false);
    job.open(job.folder / "culvert.las", 1);
    job.answer(job.folder / "culvert-line.geojson");
    job.command(Qt::Key_O, Qt::ControlModifier);
    REQUIRE(job.w.wait([&] { return job.w.site().lines.size() == 1; }));
    job.settle();
    job.menu("select.tunnel");
    auto* card = job.w.window().findChild<app::TunnelCard*>();
    REQUIRE(job.w.wait([&] { return card->inside() != nullptr; }, 30000));
    job.click("tunnelTake");
    job.remove();
    hand_over(job);
    check(job, {app::grouped(job.w.item().cloud->size()).toStdString(),
                app::grouped(job.w.item().removed->count()).toStdString(), "Inside the lining"});
}

TEST_CASE("TheMilestoneIsHandedOver", "[window][job]") {
    Job job("Handing over a milestone");
    demo::write_milestone(job.folder.path(), false);
    job.open(job.folder / "milestone-scan.ply", 1);
    hand_over(job);
    check(job, {app::grouped(job.w.item().cloud->size()).toStdString(), "milestone-scan"});
}
