// The report composed in a real window: by mouse and keys, asserted on the setup that is kept, on the file
// that is written, and on pixels.

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "app/handover/page_view.h"
#include "app/handover/report_page.h"
#include "app/model/document.h"
#include "open_scan.h"

using namespace pristine;
using nlohmann::json;
using test::OpenScan;

namespace {

struct OpenReport : OpenScan {
    OpenReport() : OpenScan(30'000) {
        w.window().resize(1280, 800);
        ElementSet some(cloud().size());
        for (std::uint64_t k = 0; k < 500; ++k) some.insert(k * 20);
        w.document().apply("Remove", [&](const site::Site& s) {
            site::Decision d;
            d.reason = "Noise";
            d.cause = site::by_rule(score::parse_step("stray[neighbours=4] >2.5"));
            return site::remove_parts(s, {{s.active, std::make_shared<const ElementSet>(some)}}, d);
        });
        REQUIRE(w.settle());
        w.key(Qt::Key_P, Qt::ControlModifier);
        REQUIRE(page().isVisible());
        wait_made();
    }
    app::ReportPage& page() { return *w.window().findChild<app::ReportPage*>(); }
    app::PageView& pages() { return *w.find<app::PageView>("reportPages"); }
    QListWidget& parts() { return *w.find<QListWidget>("reportParts"); }
    void wait_made() {
        w.wait([] { return false; }, 450);  // a change is waited for before all is made again
        REQUIRE(w.wait([&] { return page().report() != nullptr && !w.window().jobs().busy(); }));
    }
    std::vector<std::string> kinds() {
        std::vector<std::string> out;
        for (const report::Part& p : page().report()->parts) out.push_back(p.kind);
        return out;
    }
    int row_of(const std::string& kind) {
        for (std::size_t k = 0; k < page().setup().parts.size(); ++k)
            if (page().setup().parts[k].kind == kind) return static_cast<int>(k);
        return -1;
    }
    void click_box(int row) {
        const QRect r = parts().visualItemRect(parts().item(row));
        QTest::mouseClick(parts().viewport(), Qt::LeftButton, Qt::NoModifier,
                          QPoint(r.left() + 18, r.center().y()));
    }
    void click_row(int row) {
        parts().scrollToItem(parts().item(row));
        QTest::mouseClick(parts().viewport(), Qt::LeftButton, Qt::NoModifier,
                          parts().visualItemRect(parts().item(row)).center());
    }
};

// Dark pixels of the page on the screen, as words are.
int dark_pixels(app::PageView& view, int page) {
    const QImage all = view.viewport()->grab().toImage();
    const QRect r = view.place_of(page).intersected(view.viewport()->rect());
    int dark = 0;
    for (int y = r.top() + 2; y < r.bottom() - 2; ++y)
        for (int x = r.left() + 2; x < r.right() - 2; ++x) dark += qGray(all.pixel(x, y)) < 100 ? 1 : 0;
    return dark;
}

}  // namespace

TEST_CASE("AReportIsShownOnPagesAsItWillBePrinted") {
    OpenReport o;
    CHECK(o.kinds() ==
          std::vector<std::string>{"site", "sources", "removed", "pictures", "rules", "limits", "ledger"});
    CHECK(o.pages().pages() >= 2);
    CHECK(o.w.find<QListWidget>("reportThumbs")->count() == o.pages().pages());
    const QImage all = o.pages().viewport()->grab().toImage();
    const QRect r = o.pages().place_of(0);
    CHECK(QColor(all.pixel(r.left() + 3, r.top() + 3)) == QColor(Qt::white));
    CHECK(QColor(all.pixel(r.left() - 10, r.top() + 3)) != QColor(Qt::white));
    CHECK(dark_pixels(o.pages(), 0) > 1500);
    // The page stands in the middle, and the status line stays in sight.
    CHECK(o.page().geometry().bottom() < o.w.window().centralWidget()->height() - 10);
    o.w.click(o.w.find<QPushButton>("reportPageBack"));
    CHECK_FALSE(o.page().isVisible());
    CHECK(o.w.stage().hasFocus());
}

TEST_CASE("PartsAreTakenOutAndInByTheirTick") {
    OpenReport o;
    const int before = o.pages().pages();
    o.click_box(o.row_of("pictures"));
    o.wait_made();
    CHECK(o.kinds() == std::vector<std::string>{"site", "sources", "removed", "rules", "limits", "ledger"});
    CHECK(o.pages().pages() <= before);
    // What was not checked cannot be left out, and says which parts were.
    o.click_box(o.row_of("limits"));
    o.wait_made();
    const std::vector<std::string> still = o.kinds();
    CHECK(std::count(still.begin(), still.end(), "limits") == 1);
    const std::string text = report::json_of(*o.page().report());
    CHECK(text.find("Left out of this report by choice: Before and after pictures") != std::string::npos);
    o.click_box(o.row_of("pictures"));
    o.wait_made();
    CHECK(o.pages().pages() == before);
}

TEST_CASE("WhoItIsForIsTypedOnceAndStaysWithTheSite") {
    OpenReport o;
    o.click_row(o.row_of("site"));
    auto* client = o.w.find<QLineEdit>("reportClient");
    REQUIRE(client);
    client->setFocus();
    QTest::keyClicks(client, "Canal Trust");
    o.wait_made();
    CHECK(o.page().setup().client == "Canal Trust");
    CHECK(client->hasFocus());  // making the pages anew takes nothing away from who types
    CHECK(report::json_of(*o.page().report()).find("Canal Trust") != std::string::npos);
    auto* office = o.w.find<QLineEdit>("reportOffice");
    QTest::keyClicks(office, "Hale Surveys");
    o.wait_made();
    o.w.click(o.w.find<QPushButton>("reportPageBack"));
    // In the project, and the office also for the next site.
    CHECK(report::setup_from_json(o.w.document().kept_note(report::kSetupNote)).client == "Canal Trust");
    CHECK(QSettings().value("report/office").toString() == "Hale Surveys");
    QSettings().remove("report");
    o.w.key(Qt::Key_P, Qt::ControlModifier);
    o.wait_made();
    CHECK(o.page().setup().client == "Canal Trust");
}

TEST_CASE("TheSetupOfAReportIsSavedWithTheProject") {
    OpenReport o;
    o.click_row(o.row_of("site"));
    QTest::keyClicks(o.w.find<QLineEdit>("reportClient"), "Lock Trust");
    o.wait_made();
    o.w.document().save_as(o.folder / "ashmere.pristine", false);
    REQUIRE(o.w.wait([&] { return o.w.document().has_file() && !o.w.window().jobs().busy(); }));
    REQUIRE(o.w.settle());
    o.w.close();
    o.w.open_new();
    o.w.window().open_files({o.folder / "ashmere.pristine"});
    REQUIRE(o.w.wait([&] { return o.w.site().items.size() == 1 && !o.w.window().jobs().busy(); }));
    o.w.window().commands().trigger("handover.report");
    o.wait_made();
    CHECK(o.page().setup().client == "Lock Trust");
}

TEST_CASE("ARenamedPartHasItsNameInTheReport") {
    OpenReport o;
    const int row = o.row_of("removed");
    o.click_row(row);
    QTest::mouseDClick(o.parts().viewport(), Qt::LeftButton, Qt::NoModifier,
                       o.parts().visualItemRect(o.parts().item(row)).center());
    auto* editor = o.parts().viewport()->findChild<QLineEdit*>();
    REQUIRE(editor);
    editor->selectAll();
    QTest::keyClicks(editor, "Entfernt");
    QTest::keyClick(editor, Qt::Key_Return);
    o.wait_made();
    CHECK(o.page().report()->parts[2].title == "Entfernt");
    CHECK(o.page().setup().parts[static_cast<std::size_t>(row)].title == "Entfernt");
}

TEST_CASE("TheOrderOfPartsIsThatOfTheList") {
    OpenReport o;
    const int from = o.row_of("ledger");
    REQUIRE(o.parts().model()->moveRow({}, from, {}, 1));
    o.wait_made();
    CHECK(o.kinds()[1] == "ledger");
    CHECK(o.kinds().size() == 7);
}

TEST_CASE("AReportIsWrittenInEachFormat") {
    OpenReport o;
    const auto written = [&](const char* format, const char* ending) {
        o.w.click(o.w.find<QPushButton>(QStringLiteral("format%1").arg(QLatin1String(format))));
        const std::filesystem::path file = o.folder / (std::string("Bericht Süd.") + ending);
        o.page().write(file, false);
        REQUIRE(o.w.wait([&] { return std::filesystem::exists(file) && !o.w.window().jobs().busy(); }));
        return test::read_file(file);
    };
    CHECK(written("PDF", "pdf").substr(0, 5) == "%PDF-");
    CHECK(o.w.find<QPushButton>("reportWrite")->text().contains(QString::number(o.pages().pages())));
    CHECK(written("HTML", "html").find("<table>") != std::string::npos);
    CHECK(written("CSV", "csv").find("Noise") != std::string::npos);
    const json j = json::parse(written("JSON", "json"));
    CHECK(j.at("parts").size() == 7);
    // What is there already is not written over without being asked.
    const std::string before = test::read_file(o.folder / "Bericht Süd.pdf");
    o.w.click(o.w.find<QPushButton>("formatPDF"));
    o.page().write(o.folder / "Bericht Süd.pdf", false);
    o.w.wait([&] { return !o.w.window().jobs().busy(); });
    CHECK(test::read_file(o.folder / "Bericht Süd.pdf") == before);
}

TEST_CASE("PagesFollowTheirSizeAndTheSite") {
    OpenReport o;
    const double upright =
        o.pages().place_of(0).height() / static_cast<double>(o.pages().place_of(0).width());
    auto* way = o.w.find<QComboBox>("reportWay");
    way->setCurrentIndex(1);
    o.wait_made();
    const double lying = o.pages().place_of(0).height() / static_cast<double>(o.pages().place_of(0).width());
    CHECK(upright == Approx(std::sqrt(2)).margin(0.02));
    CHECK(lying == Approx(1 / std::sqrt(2)).margin(0.02));
    // A decision that is lifted meanwhile is lifted in the report too.
    o.w.document().undo();
    o.wait_made();
    const std::string text = report::json_of(*o.page().report());
    CHECK(text.find("Nothing was decided") != std::string::npos);
    CHECK(text.find("500") == std::string::npos);
}

TEST_CASE("ATemplateIsKeptWithTheSiteAndTaken") {
    OpenReport o;
    report::Setup mine = report::with_parts(o.page().setup(), {"ledger", "site"});
    json all;
    all["Kurz"] = json::parse(report::json_of(mine));
    o.w.document().keep_note(report::kTemplatesNote, all.dump());
    o.w.key(Qt::Key_P, Qt::ControlModifier);
    o.w.window().commands().trigger("handover.report");
    if (!o.page().isVisible()) o.w.window().commands().trigger("handover.report");
    o.wait_made();
    auto* templates = o.w.find<QComboBox>("reportTemplate");
    const int at = templates->findText("Kurz");
    REQUIRE(at > 0);
    templates->setCurrentIndex(at);
    emit templates->activated(at);
    o.wait_made();
    CHECK(o.kinds() == std::vector<std::string>{"ledger", "site", "limits"});
}
