// What is out leaves with the rest, marked: withheld, as noise, as high noise; by the commands of the window.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLineEdit>
#include <QPushButton>

#include "core/cloud/classes.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

// The page of exports is filled in by keys, and its button clicked.
void export_by(OpenScan& s, const char* command, const std::filesystem::path& file) {
    s.w.window().commands().trigger(command);
    auto* format = s.w.find<QComboBox>("exportFormat");
    format->setCurrentIndex(format->findData(QString::fromStdString(file.extension().string().substr(1))));
    emit format->activated(format->currentIndex());
    for (const auto& [field, text] :
         {std::pair{"exportFolder", file.parent_path().string()}, {"exportName", file.stem().string()}}) {
        auto* line = s.w.find<QLineEdit>(field);
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, QString::fromStdString(text));
    }
    REQUIRE(s.w.wait([&] { return !s.w.window().jobs().busy(); }));
    REQUIRE(s.w.settle());
    QTest::mouseClick(s.w.find<QPushButton>("exportWrite"), Qt::LeftButton);
    REQUIRE(s.w.wait([&] { return std::filesystem::exists(file) && !s.w.window().jobs().busy(); }));
    REQUIRE(s.w.settle());
}

std::uint64_t of_class(const cloud::PointCloud& c, int code) {
    std::uint64_t n = 0;
    for (std::uint64_t e = 0; e < c.size(); ++e) n += c.classification() && (*c.classification())[e] == code;
    return n;
}

}  // namespace

TEST_CASE("WhatIsOutIsExportedWithItsMark", "[window]") {
    OpenScan s;
    s.run("select.rectangle");
    s.drag({s.pixel(-2, 10), s.pixel(2, 14)});
    s.w.key(Qt::Key_Delete);
    REQUIRE(s.w.settle());
    const std::uint64_t out = s.w.item().removed->count(), all = s.cloud().size();
    REQUIRE(out > 0);
    const std::uint64_t seven = of_class(s.cloud(), 7), eighteen = of_class(s.cloud(), 18);
    export_by(s, "site.export_noise", s.folder / "Rauschen.las");
    const auto noise = io::read_cloud(s.folder / "Rauschen.las").cloud;
    CHECK(noise->size() == all);
    CHECK(of_class(*noise, 7) == seven + out);
    export_by(s, "site.export_high_noise", s.folder / "high.laz");
    const auto high = io::read_cloud(s.folder / "high.laz").cloud;
    CHECK(high->size() == all);
    CHECK(of_class(*high, 18) == eighteen + out);
    export_by(s, "site.export_withheld", s.folder / "withheld.las");
    const auto withheld = io::read_cloud(s.folder / "withheld.las").cloud;
    CHECK(withheld->size() == all);
    const cloud::RecordLayout& layout = withheld->records()->layout();
    const cloud::Field* flag = layout.find("withheld");
    REQUIRE(flag);
    std::uint64_t flagged = 0;
    std::vector<std::byte> record(layout.record_bytes);
    for (std::uint64_t k = 0; k < withheld->records()->count(); ++k) {
        withheld->records()->read(k, record);
        flagged += cloud::value(*flag, record.data()) != 0;
    }
    CHECK(flagged == out);
    // The item itself has not changed.
    CHECK(s.w.item().removed->count() == out);
    CHECK(of_class(s.cloud(), 7) == seven);
}
