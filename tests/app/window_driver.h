// Drives a real window as a person would, with mouse and key events, and waits for what follows.

#pragma once

#include <QtTest/QTest>

#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QSettings>
#include <functional>

#include "app/window/controllers.h"
#include "app/window/main_window.h"
#include "support/cloud_makers.h"

namespace pristine::test {

/// A window on a small demo site in a folder of its own; settings and drafts go there too.
class WindowDriver {
  public:
    explicit WindowDriver(const std::filesystem::path& home) {
        qputenv("XDG_DATA_HOME", (home / "data").c_str());
        qputenv("XDG_CONFIG_HOME", (home / "config").c_str());
        QSettings().remove("all_shown");  // settings outlive a test
        open_new();
    }
    void open_new() {
        window_ = std::make_unique<app::MainWindow>();
        window_->show();
        [[maybe_unused]] const bool shown = QTest::qWaitForWindowExposed(window_.get());
        QApplication::setActiveWindow(window_.get());  // there is no window manager here that would do it
        stage().setFocus();
    }
    void close() {
        // The window asks before it stops what runs; tests stop it.
        wait([&] {
            if (window_->jobs().shown().title.isEmpty()) return true;
            window_->jobs().cancel_shown();
            return false;
        });
        window_->close();  // may first wait for the disk
        wait([&] { return !window_->isVisible(); });
        window_.reset();
    }

    app::MainWindow& window() { return *window_; }
    app::Stage& stage() { return window_->stage(); }
    app::Document& document() { return window_->document(); }
    const site::Site& site() { return *document().site(); }
    const site::Item& item() { return *site().active_item(); }

    bool wait(const std::function<bool()>& condition, int limit_ms = 60000) {
        QElapsedTimer t;
        t.start();
        QApplication::processEvents();  // what was just posted comes first
        while (!condition()) {
            if (t.elapsed() > limit_ms) return false;
            QApplication::processEvents(QEventLoop::AllEvents, 10);
        }
        return true;
    }
    /// Nothing runs, everything is written, the picture is the present one in full detail.
    bool settle() {
        return wait(
            [&] { return !window_->jobs().busy() && stage().settled() && document().disk().waiting == 0; });
    }
    bool open(const std::filesystem::path& file, std::size_t items = 1) {
        window_->open_files({file});
        return wait([&] { return site().items.size() == items && !window_->jobs().busy(); }) && settle();
    }

    template <class W>
    W* find(const QString& name) {
        return window_->findChild<W*>(name);
    }
    void click(QWidget* w) { QTest::mouseClick(w, Qt::LeftButton); }
    void key(Qt::Key k, Qt::KeyboardModifiers m = Qt::NoModifier) { QTest::keyClick(&stage(), k, m); }

    QPoint point(PixelPoint p) const {
        return {static_cast<int>(std::lround(p.x)), static_cast<int>(std::lround(p.y))};
    }
    /// Clicks the corners and closes with Enter; returns the corners as whole pixels.
    Polygon draw_polygon(const Polygon& corners) {
        Polygon whole;
        for (const PixelPoint& c : corners) {
            const QPoint p = point(c);
            whole.push_back({static_cast<double>(p.x()), static_cast<double>(p.y())});
            QTest::mouseClick(&stage(), Qt::LeftButton, Qt::NoModifier, p);
        }
        key(Qt::Key_Return);
        return whole;
    }
    void right_drag(QPoint from, QPoint to) { drag(Qt::RightButton, from, to); }
    void drag(Qt::MouseButton button, QPoint from, QPoint to) {
        QTest::mousePress(&stage(), button, Qt::NoModifier, from);
        for (int i = 1; i <= 5; ++i) {
            const QPoint p = from + (to - from) * i / 5;
            QMouseEvent e(QEvent::MouseMove, p, stage().mapToGlobal(p), Qt::NoButton, button, Qt::NoModifier);
            QApplication::sendEvent(&stage(), &e);
        }
        QTest::mouseRelease(&stage(), button, Qt::NoModifier, to);
    }
    QImage stage_picture() {
        const auto p = stage().picture();
        return QImage(reinterpret_cast<const uchar*>(p->pixels.data()), p->width, p->height, p->width * 4,
                      QImage::Format_RGB32)
            .copy();
    }

  private:
    std::unique_ptr<app::MainWindow> window_;
};

inline int differing_pixels(const QImage& a, const QImage& b, const QRect& in) {
    int n = 0;
    for (int y = in.top(); y <= in.bottom(); ++y)
        for (int x = in.left(); x <= in.right(); ++x) n += a.pixel(x, y) != b.pixel(x, y);
    return n;
}

}  // namespace pristine::test
