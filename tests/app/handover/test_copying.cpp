// Tables and figures copied out of the window.

#include <QClipboard>
#include <QImage>
#include <QMimeData>
#include <QTreeWidget>
#include <catch2/catch.hpp>

#include "app/handover/page_view.h"
#include "app/look/copying.h"
#include "app/panes/lists_pane.h"
#include "open_scan.h"

using namespace pristine;

TEST_CASE("ATableIsCopiedWithTabs") {
    test::OpenScan o(20'000);
    ElementSet some(o.cloud().size());
    for (std::uint64_t k = 0; k < 70; ++k) some.insert(k);
    for (const char* reason : {"Noise", "Person"}) {
        o.w.document().apply("Remove", [&](const site::Site& s) {
            site::Decision d;
            d.reason = reason;
            ElementSet own(some.size());
            some.for_each([&](std::uint64_t e) { own.insert(e + (reason[0] == 'P' ? 100 : 0)); });
            return site::remove_parts(s, {{s.active, std::make_shared<const ElementSet>(own)}}, d);
        });
    }
    o.run("view.decisions");
    auto* rows = o.w.find<QTreeWidget>("decisionRows");
    REQUIRE(rows);
    REQUIRE(rows->topLevelItemCount() == 2);
    rows->setFocus();
    QTest::keyClick(rows, Qt::Key_C, Qt::ControlModifier);
    const QStringList lines = QApplication::clipboard()->text().trimmed().split(QLatin1Char('\n'));
    REQUIRE(lines.size() == 3);
    CHECK(lines[0].count(QLatin1Char('\t')) == lines[1].count(QLatin1Char('\t')));
    CHECK(lines[0].contains(rows->headerItem()->text(0)));
    CHECK((lines[1] + lines[2]).contains("Noise"));
    CHECK((lines[1] + lines[2]).contains("Person"));
    CHECK(QApplication::clipboard()->mimeData()->html().contains("<td>Person</td>"));
    app::Copying::copy_picture(*rows);
    CHECK(QApplication::clipboard()->image().width() == rows->grab().width());
}
