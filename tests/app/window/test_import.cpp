// A text file whose columns nobody can guess: the preview names them.

#include <catch2/catch.hpp>

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>

#include "app/window/text_import.h"
#include "window_driver.h"

using namespace pristine;
using test::WindowDriver;

TEST_CASE("ATextFileOfUnusualColumnsIsPreviewedAndNamed", "[window]") {
    const test::TemporaryFolder folder;
    const auto file = folder / "levels.txt";
    test::write_file(file, "Ashmere Lock\nday 3\n17;5,25;1,5;2,5\n18;5,50;3,5;4,5\n19;5,75;5,5;6,5;\n");
    test::write_file(folder / "five.txt", "1 2 3 4 5\n2 3 4 5 6\n");
    CHECK(app::TextImport::wants_help(folder / "five.txt"));
    test::write_file(folder / "usual.txt", "1 2 3\n2 3 4\n");
    CHECK_FALSE(app::TextImport::wants_help(folder / "usual.txt"));

    WindowDriver w(folder / "home");
    app::TextImport preview(file, nullptr);
    const auto find = [&](const char* name) {
        auto* c = preview.findChild<QComboBox*>(QString::fromLatin1(name));
        REQUIRE(c);
        return c;
    };
    preview.findChild<QSpinBox*>("importSkip")->setValue(2);
    find("importSeparator")->setCurrentIndex(2);
    find("importDecimal")->setCurrentIndex(1);
    find("importUnit")->setCurrentIndex(1);
    auto* table = preview.findChild<QTableWidget*>("importTable");
    REQUIRE(table->columnCount() >= 4);
    CHECK(table->item(1, 0)->text() == "17");
    const char* names[] = {"number", "z", "x", "x"};
    for (int c = 0; c < 4; ++c) find(("importColumn" + std::to_string(c)).c_str())->setCurrentText(names[c]);
    auto* open = preview.findChild<QPushButton*>("importOpen");
    CHECK_FALSE(open->isEnabled());
    CHECK(preview.findChild<QLabel*>("importProblem")->text().contains("named x, and only one"));
    find("importColumn3")->setCurrentText("y");
    CHECK(open->isEnabled());
    io::ReadOptions options;
    options.text = preview.reading();
    w.document().add_files({file}, options);
    REQUIRE(w.wait([&] { return w.site().items.size() == 1 && !w.window().jobs().busy(); }));
    const auto& cloud = *w.item().cloud;
    CHECK(cloud.size() == 3);
    CHECK(cloud.unit() == "m");
    CHECK(cloud.bounds().lo.x == Approx(1.5));
    CHECK(cloud.bounds().hi.y == Approx(6.5));
    CHECK(cloud.bounds().hi.z == Approx(5.75));
    w.close();
}

TEST_CASE("OpeningSuchAFileBringsThePreview", "[window]") {
    const test::TemporaryFolder folder;
    test::write_file(folder / "five.txt", "1 2 3 4 5\n2 3 4 5 6\n");
    WindowDriver w(folder / "home");
    w.window().open_files({folder / "five.txt"});
    auto* preview = w.find<app::TextImport>("textImport");
    REQUIRE(preview);
    CHECK(preview->isVisible());
    w.click(preview->findChild<QPushButton*>("importOpen"));
    REQUIRE(w.wait([&] { return w.site().items.size() == 1 && !w.window().jobs().busy(); }));
    CHECK(w.item().cloud->records()->layout().find("column_5"));
    w.close();
}
