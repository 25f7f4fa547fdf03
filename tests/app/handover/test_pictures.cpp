// Pictures, films and pages for the client in a real window.

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QImage>
#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <catch2/catch.hpp>

#include "app/handover/picture_page.h"
#include "app/model/document.h"
#include "core/base/file.h"
#include "open_scan.h"

using namespace pristine;
using test::OpenScan;

namespace {

struct Picturing : OpenScan {
    Picturing() : OpenScan(30'000) {
        w.window().resize(1280, 800);
        w.window().commands().trigger("handover.picture");
        REQUIRE(page().isVisible());
        wait_drawn();
    }
    app::PicturePage& page() { return *w.window().findChild<app::PicturePage*>(); }
    void wait_drawn() {
        w.wait([] { return false; }, 350);
        REQUIRE(w.wait([&] { return page().preview() != nullptr && !w.window().jobs().busy(); }));
    }
    void choose(app::PicturePage::Kind kind) {
        auto* box = w.find<QComboBox>("pictureKind");
        box->setCurrentIndex(box->findData(static_cast<int>(kind)));
    }
    std::filesystem::path written(const char* name) {
        const std::filesystem::path file = folder / name;
        page().write(file, false);
        REQUIRE(w.wait([&] { return std::filesystem::exists(file) && !w.window().jobs().busy(); }));
        return file;
    }
    // How many pixels nothing stands in.
    static int clear_pixels(const QImage& image) {
        int n = 0;
        for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x) n += qAlpha(image.pixel(x, y)) == 0;
        return n;
    }
};

}  // namespace

TEST_CASE("APictureIsWrittenAsItIsShownInSmall", "[window]") {
    Picturing o;
    o.w.find<QSpinBox>("pictureWidth")->setValue(640);
    o.w.find<QSpinBox>("pictureHeight")->setValue(480);
    o.wait_drawn();
    CHECK(o.page().preview()->width == 640);
    CHECK(o.page().preview()->height == 480);
    const QImage plain(QString::fromStdString(o.written("Bild.png").string()));
    CHECK(plain.size() == QSize(640, 480));
    CHECK(Picturing::clear_pixels(plain) == 0);
    QTest::mouseClick(o.w.find<QCheckBox>("pictureClear"), Qt::LeftButton, {}, {8, 8});
    QTest::mouseClick(o.w.find<QCheckBox>("pictureLegend"), Qt::LeftButton, {}, {8, 8});
    o.wait_drawn();
    const QImage clear(QString::fromStdString(o.written("clear.png").string()));
    CHECK(Picturing::clear_pixels(clear) > 640 * 480 / 20);
    CHECK(Picturing::clear_pixels(clear) < 640 * 480);
    // Another direction shows something else; what is in small is what is written.
    o.w.find<QComboBox>("pictureFrom")->setCurrentIndex(2);
    o.w.find<QDoubleSpinBox>("pictureYaw")->setValue(200);
    o.wait_drawn();
    const report::Image small = *o.page().preview();
    const QImage turned(QString::fromStdString(o.written("turned.png").string()));
    CHECK(turned != clear);
    int other = 0;
    for (int y = 0; y < 480; ++y)
        for (int x = 0; x < 640; ++x)
            other += qAlpha(turned.pixel(x, y)) !=
                     static_cast<int>(small.argb[static_cast<std::size_t>(y * 640 + x)] >> 24);
    CHECK(other == 0);
    // What cannot be replaced is said, and stays.
    o.page().write(o.folder / "Bild.png", false);
    REQUIRE(o.w.wait([&] { return !o.w.window().jobs().busy(); }));
    CHECK(QImage(QString::fromStdString((o.folder / "Bild.png").string())) == plain);
}

TEST_CASE("BeforeAndAfterAFilmAndAPageAreWritten", "[window]") {
    Picturing o;
    o.w.find<QSpinBox>("pictureWidth")->setValue(320);
    o.w.find<QSpinBox>("pictureHeight")->setValue(200);
    o.choose(app::PicturePage::Kind::Pair);
    o.wait_drawn();
    const QImage pair(QString::fromStdString(o.written("pair.png").string()));
    CHECK(pair.width() > 600);
    o.choose(app::PicturePage::Kind::Turn);
    o.w.find<QSpinBox>("pictureFrames")->setValue(4);
    o.wait_drawn();
    CHECK(std::filesystem::file_size(o.written("turn.webp")) > 1000);
    const auto frames = o.written("frames");
    CHECK(std::filesystem::exists(frames / "frame-0004.png"));
    CHECK_FALSE(std::filesystem::exists(frames / "frame-0005.png"));
    // Without a line there is no flight.
    o.choose(app::PicturePage::Kind::Flight);
    CHECK_FALSE(o.w.find<QPushButton>("pictureWrite")->isEnabled());
    CHECK(o.w.find<QLabel>("pictureState")->text().contains("no line"));
    o.choose(app::PicturePage::Kind::Page);
    o.wait_drawn();
    o.w.find<QSpinBox>("pictureMegabytes")->setValue(5);
    const auto page = o.written("page.html");
    const std::string html = InputFile(page).read_string(0, std::filesystem::file_size(page));
    CHECK(html.find("<canvas") != std::string::npos);
    CHECK(o.w.find<QLabel>("pictureState")->text().contains("points"));
    QTest::keyClick(&o.page(), Qt::Key_Escape);
    CHECK_FALSE(o.page().isVisible());
}
