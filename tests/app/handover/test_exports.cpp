// Exports by mouse and keys: what is shown before writing, against the files that are then there.

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QTreeWidget>
#include <QUrl>
#include <catch2/catch.hpp>

#include "app/handover/export_page.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/window/written_file.h"
#include "core/base/file.h"
#include "core/io/cloud_io.h"
#include "core/site/origin_file.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

struct Exporting : OpenScan {
    Exporting() : OpenScan(30'000) { w.window().resize(1280, 800); }
    app::ExportPage& page() { return *w.window().findChild<app::ExportPage*>(); }
    void open() {
        w.key(Qt::Key_E, Qt::ControlModifier);
        REQUIRE(page().isVisible());
        type("exportFolder", QString::fromStdString(folder.path().string()));
        tried();
    }
    void tried() {
        REQUIRE(w.wait([&] { return !w.window().jobs().busy(); }));
        REQUIRE(w.settle());
    }
    void type(const char* field, const QString& text) {
        auto* line = w.find<QLineEdit>(field);
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, text);
    }
    // Test keys know no umlauts.
    void name(const char* utf8) {
        auto* line = w.find<QLineEdit>("exportName");
        line->selectAll();
        line->insert(QString::fromUtf8(utf8));
    }
    void choose(const char* name, const QVariant& data) {
        auto* box = w.find<QComboBox>(name);
        REQUIRE(box->findData(data) >= 0);
        box->setCurrentIndex(box->findData(data));
        emit box->activated(box->currentIndex());
        tried();
    }
    QString cell(int row, int column) {
        auto* list = w.find<QTreeWidget>("exportFiles");
        REQUIRE(list->topLevelItemCount() > row);
        return list->topLevelItem(row)->text(column);
    }
    QString state() { return w.find<QLabel>("exportState")->text(); }
    void write(const std::filesystem::path& file) {
        QTest::mouseClick(w.find<QPushButton>("exportWrite"), Qt::LeftButton);
        REQUIRE(w.wait([&] { return std::filesystem::exists(file) && !w.window().jobs().busy(); }));
        REQUIRE(w.settle());
    }
};

}  // namespace

TEST_CASE("AnExportSaysWhatItWritesBeforeItDoes", "[window]") {
    Exporting o;
    o.open();
    o.choose("exportFormat", "las");
    CHECK(o.cell(0, 2) == app::grouped(o.cloud().size()));
    CHECK(o.cell(0, 4).contains("LAS 1."));
    CHECK(o.cell(0, 4).contains("Coordinates stay what they are"));
    // Another step: how far it moves coordinates is measured, not told.
    auto* step = o.w.find<QDoubleSpinBox>("exportStep");
    step->setValue(0.05);
    o.choose("exportPointFormat", 3);
    CHECK(o.cell(0, 4).contains("LAS 1.2, point format 3"));
    CHECK(o.cell(0, 4).contains("Coordinates move by up to 2.5"));
    o.name("Sohle grün");
    CHECK(o.cell(0, 0) == QString::fromUtf8("Sohle grün.las"));
    const std::filesystem::path file = o.folder / "Sohle grün.las";
    o.write(file);
    CHECK_FALSE(o.page().isVisible());
    const auto back = io::read_cloud(file);
    CHECK(back.cloud->size() == o.cloud().size());
    CHECK(back.cloud->records()->layout().find("x")->scale == 0.05);
    CHECK(back.format == "LAS 1.2, point format 3");
    // It stands in the status line, to be dragged out of the window.
    auto* chip = o.w.find<app::WrittenFile>("writtenFile");
    CHECK(chip->isVisible());
    CHECK(chip->text().startsWith("Sohle"));
    const std::unique_ptr<QMimeData> data(chip->dragged());
    REQUIRE(data);
    REQUIRE(data->urls().size() == 1);
    CHECK(data->urls().front().toLocalFile() == QString::fromStdString(file.string()));
    // What was chosen is there again, and what is there is only replaced when a person says so.
    o.open();
    CHECK(o.w.find<QComboBox>("exportFormat")->currentData() == "las");
    CHECK(o.w.find<QComboBox>("exportPointFormat")->currentData() == 3);
    CHECK(step->value() == 0.05);
    o.name("Sohle grün");
    CHECK(o.state() == "The file is there already.");
    CHECK_FALSE(o.w.find<QPushButton>("exportWrite")->isEnabled());
    QTest::mouseClick(o.w.find<QCheckBox>("exportReplace"), Qt::LeftButton, {}, {8, 8});
    CHECK(o.w.find<QPushButton>("exportWrite")->isEnabled());
    o.type("exportName", "Sohle.laz");  // an ending chooses its format
    o.tried();
    CHECK(o.w.find<QComboBox>("exportFormat")->currentData() == "laz");
    CHECK(o.w.find<QComboBox>("exportPointFormat")->currentData() == -1);  // that of LAZ
    // A folder that is none.
    o.type("exportFolder", "/nowhere/at all");
    CHECK(o.state() == "There is no such folder.");
    QTest::keyClick(&o.page(), Qt::Key_Escape);
    CHECK_FALSE(o.page().isVisible());
}

TEST_CASE("AnExportNeverOverwritesItsSource", "[window]") {
    Exporting o;
    const std::filesystem::path source = site::origin_file(o.w.item());
    const std::string before = InputFile(source).read_string(0, std::filesystem::file_size(source));
    o.w.document().export_files({site::Export::Shown, source, true, {}, false});
    REQUIRE(o.w.wait([&] { return !o.w.window().jobs().busy(); }));
    REQUIRE(o.w.settle());
    CHECK(InputFile(source).read_string(0, std::filesystem::file_size(source)) == before);
}

TEST_CASE("EachReasonIsARowAndAFile", "[window]") {
    Exporting o;
    for (const auto& [reason, from] : {std::pair{"Person", 0u}, {"Kran groß", 9000u}}) {
        ElementSet some(o.cloud().size());
        for (std::uint64_t k = 0; k < 300; ++k) some.insert(from + k);
        o.w.document().apply("Remove", [&, reason = reason](const site::Site& s) {
            site::Decision d;
            d.reason = reason;
            return site::remove_parts(s, {{s.active, std::make_shared<const ElementSet>(some)}}, d);
        });
    }
    REQUIRE(o.w.settle());
    o.open();
    o.choose("exportFormat", "ply");
    CHECK(o.cell(0, 2) == app::grouped(o.cloud().size() - 600));
    o.choose("exportWhat", static_cast<int>(site::Export::Reasons));
    o.type("exportName", "aus");
    CHECK(o.cell(0, 0).startsWith("aus-"));
    CHECK(o.cell(0, 2) == "300");
    CHECK(o.cell(1, 2) == "300");
    const std::filesystem::path first = o.folder / o.cell(0, 0).toStdString(),
                                second = o.folder / o.cell(1, 0).toStdString();
    o.write(second);
    CHECK(io::read_cloud(first).cloud->size() == 300);
    CHECK(io::read_cloud(second).cloud->size() == 300);
    // Marking is for LAS: nothing else is offered.
    o.open();
    o.choose("exportWhat", static_cast<int>(site::Export::Withheld));
    CHECK(o.w.find<QComboBox>("exportFormat")->count() == 2);
    CHECK(o.cell(0, 2) == app::grouped(o.cloud().size()));
    QTest::keyClick(&o.page(), Qt::Key_Escape);
}
