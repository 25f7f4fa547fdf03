// What is out leaves with the rest, marked: withheld, as noise, as high noise; by the commands of the window.

#include <catch2/catch.hpp>

#include <QFileDialog>
#include <QLineEdit>
#include <QTimer>

#include "core/cloud/classes.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

// The dialog for files is answered by its name, and Enter.
void export_by(OpenScan& s, const char* command, const std::filesystem::path& file) {
    QTimer poll;
    QObject::connect(&poll, &QTimer::timeout, &poll, [&poll, file] {
        auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
        if (!dialog) return;
        poll.stop();
        auto* line = dialog->findChild<QLineEdit*>("fileNameEdit");
        line->setText(QString::fromStdString(file.string()));
        QTest::keyClick(line, Qt::Key_Return);
    });
    poll.start(30);
    s.w.window().commands().trigger(command);
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
