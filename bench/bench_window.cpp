// The window on a large scan: how long its event loop is ever away, while loading, turning, fencing and
// undoing.
//   xvfb-run -s '-screen 0 1280x800x24' bench_window SCAN.las [seconds of the session with all tools, default
//   60]
// A timer of 5 ms is the probe; the longest gap between two of its ticks is what a person would feel as a
// freeze.

#include <QtTest/QTest>

#include <QApplication>
#include <QElapsedTimer>
#include <QTimer>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <string>
#include <vector>

#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "core/base/memory.h"

using namespace pristine;

namespace {

class Probe {
  public:
    Probe() {
        timer_.setTimerType(Qt::PreciseTimer);
        QObject::connect(&timer_, &QTimer::timeout, [this] { tick(); });
        since_.start();
        timer_.start(5);
    }
    /// The longest gap since the last call, ms.
    double longest() {
        tick();
        return std::exchange(longest_, 0);
    }

  private:
    void tick() {
        longest_ = std::max(longest_, static_cast<double>(since_.nsecsElapsed()) / 1e6);
        since_.restart();
    }
    QTimer timer_;
    QElapsedTimer since_;
    double longest_ = 0;
};

bool wait(const std::function<bool()>& condition, int limit_s = 600) {
    QElapsedTimer t;
    t.start();
    while (!condition()) {
        if (t.elapsed() > limit_s * 1000) return false;
        QApplication::processEvents(QEventLoop::WaitForMoreEvents, 5);
    }
    return true;
}

// Every tool in turn, over and over, until the time is up; the longest gap of each.
class Session {
  public:
    Session(app::MainWindow& w, Probe& probe) : w_(w), probe_(probe) {}

    void run(double seconds) {
        QElapsedTimer t;
        t.start();
        int rounds = 0;
        while (t.elapsed() < seconds * 1000) {
            round();
            ++rounds;
        }
        std::printf("session of %.0f s, %d rounds of all tools; longest gap of the event loop for each:\n",
                    t.elapsed() / 1e3, rounds);
        double worst = 0;
        for (const auto& [name, gap] : gaps_) {
            std::printf("  %-12s %6.0f ms\n", name.c_str(), gap);
            worst = std::max(worst, gap);
        }
        std::printf("  longest of all %.0f ms; longest brush step %.0f ms\n", worst, brush_step_);
    }

  private:
    void round() {
        const int cx = w_.stage().width() / 2, cy = w_.stage().height() / 2;
        tool("rectangle", "select.rectangle", {{cx - 60, cy - 40}, {cx + 50, cy + 60}});
        command("grow", "select.grow", 60'000);
        command("again", "select.again");
        tool("freehand", "select.freehand", {{cx - 60, cy}, {cx, cy - 50}, {cx + 60, cy}, {cx, cy + 50}});
        command("remove", "decide.remove");
        tool("circle", "select.circle", {{cx, cy}, {cx + 30, cy + 10}});
        command("hide", "view.hide_selection");
        command("show all", "view.show_all");
        brush("brush", "select.brush");
        brush("ball brush", "select.ball_brush");
        tool("ball", "select.ball", {{cx, cy}, {cx + 20, cy}});
        command("guard", "decide.guard");
        tool("cylinder", "select.cylinder", {{cx + 30, cy}, {cx + 50, cy}});
        command("set apart", "decide.apart");
        command("undo", "edit.undo");
        tool("level", "select.level", {{cx, cy}});
        command("clear", "select.clear");
        tool("section", "view.section", {{cx - 60, cy - 20}, {cx + 60, cy + 20}});
        tool("pick", "view.pick", {{cx, cy}});
        command("lift guards", "decide.lift_guards");
        for (int i = 0; i < 6; ++i) command("undo", "edit.undo");
    }
    void settle(const char* name, int limit_s = 120) {
        wait([&] { return !w_.jobs().busy() && w_.stage().settled(); }, limit_s);
        gaps_[name] = std::max(gaps_[name], probe_.longest());
    }
    void command(const char* name, const char* id, int most_selected = 0) {
        if (most_selected > 0 &&
            w_.document().site()->selected() > static_cast<std::uint64_t>(most_selected) * 1000)
            return;
        w_.commands().trigger(QString::fromLatin1(id));
        settle(name);
    }
    void tool(const char* name, const char* id, const std::vector<QPoint>& path) {
        w_.commands().trigger(QString::fromLatin1(id));
        QTest::mousePress(&w_.stage(), Qt::LeftButton, Qt::NoModifier, path.front());
        for (const QPoint& p : path) move(p);
        QTest::mouseRelease(&w_.stage(), Qt::LeftButton, Qt::NoModifier, path.back());
        settle(name);
    }
    void move(QPoint p) {
        QMouseEvent e(QEvent::MouseMove, p, w_.stage().mapToGlobal(p), Qt::NoButton, Qt::LeftButton,
                      Qt::NoModifier);
        QApplication::sendEvent(&w_.stage(), &e);
    }
    void brush(const char* name, const char* id) {
        w_.commands().trigger(QString::fromLatin1(id));
        QPoint p(w_.stage().width() / 2 - 80, w_.stage().height() / 2);
        QTest::mousePress(&w_.stage(), Qt::LeftButton, Qt::NoModifier, p);
        for (int i = 0; i < 20; ++i) {
            p += QPoint(8, i % 5 - 2);
            QElapsedTimer t;
            t.start();
            move(p);
            brush_step_ = std::max(brush_step_, static_cast<double>(t.nsecsElapsed()) / 1e6);
            wait([&] { return t.elapsed() >= 16; });
        }
        QTest::mouseRelease(&w_.stage(), Qt::LeftButton, Qt::NoModifier, p);
        settle(name);
    }
    app::MainWindow& w_;
    Probe& probe_;
    std::map<std::string, double> gaps_;
    double brush_step_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
    give_freed_pages_back();
    QApplication app(argc, argv);
    QApplication::setApplicationName("pristine-cloud-bench");
    app::apply_theme(app);
    if (argc < 2) return 2;
    app::MainWindow w;
    w.show();
    wait([&] { return w.isVisible(); });
    Probe probe;
    QElapsedTimer clock;

    probe.longest();
    clock.start();
    w.open_files({argv[1]});
    if (!wait([&] { return w.document().site()->items.size() == 1; })) return 1;
    const double loaded = static_cast<double>(clock.elapsed()) / 1e3;
    const std::uint64_t points = w.document().site()->items[0]->cloud->size();
    std::printf("%.1f M points: in the window after %.1f s, longest gap of the event loop %.0f ms\n",
                static_cast<double>(points) / 1e6, loaded, probe.longest());
    wait([&] { return w.stage().settled(); });
    std::printf("first picture in full detail: longest gap %.0f ms\n", probe.longest());

    // Turning while the project is still being written in the background: the worst case of the first
    // seconds.
    const auto turn = [&] {
        const QPoint m(w.stage().width() / 2, w.stage().height() / 2);
        QTest::mousePress(&w.stage(), Qt::RightButton, Qt::NoModifier, m);
        int frames = 0;
        const auto c = QObject::connect(&w.stage(), &app::Stage::camera_changed, [&] { ++frames; });
        for (int i = 1; i <= 120; ++i) {
            const QPoint p = m + QPoint(i, static_cast<int>(20 * std::sin(i * 0.1)));
            QMouseEvent e(QEvent::MouseMove, p, w.stage().mapToGlobal(p), Qt::NoButton, Qt::RightButton,
                          Qt::NoModifier);
            QApplication::sendEvent(&w.stage(), &e);
            const auto before = w.stage().picture();
            QElapsedTimer t;
            t.start();
            wait([&] { return t.elapsed() >= 16; });
        }
        QObject::disconnect(c);
        QTest::mouseRelease(&w.stage(), Qt::RightButton, Qt::NoModifier, m + QPoint(120, 0));
    };
    turn();
    std::printf(
        "turning while the project is written: longest gap %.0f ms, budget adapted to %.2f M points a "
        "frame\n",
        probe.longest(), static_cast<double>(w.stage().budget()) / 1e6);
    wait([&] { return w.document().disk().waiting == 0; });
    std::printf(
        "project on disk %.1f s after opening, longest gap meanwhile %.0f ms; resident %.2f GB (%.1f bytes a "
        "point)\n",
        static_cast<double>(clock.elapsed()) / 1e3, probe.longest(),
        static_cast<double>(resident_memory().now) / 1e9,
        static_cast<double>(resident_memory().now) / static_cast<double>(points));
    turn();
    std::printf("turning afterwards: longest gap %.0f ms, budget %.2f M points a frame\n", probe.longest(),
                static_cast<double>(w.stage().budget()) / 1e6);

    w.commands().trigger("view.top");
    wait([&] { return w.stage().settled(); });
    probe.longest();
    const double cx = w.stage().width() / 2.0, cy = w.stage().height() / 2.0;
    for (int i = 0; i < 24; ++i) {
        const double a = i * 0.2617993878, r = 120 + 60 * std::sin(4 * a);
        QTest::mouseClick(
            &w.stage(), Qt::LeftButton, Qt::NoModifier,
            QPoint(static_cast<int>(cx + r * std::cos(a)), static_cast<int>(cy + r * std::sin(a))));
    }
    clock.restart();
    QTest::keyClick(&w.stage(), Qt::Key_Return);
    wait([&] { return w.document().site()->selected() > 0; });
    const double fenced = static_cast<double>(clock.nsecsElapsed()) / 1e6;
    wait([&] { return w.document().numbers().ready && !w.jobs().busy(); });
    std::printf(
        "fence of 24 corners: %.1f M selected after %.0f ms, all numbers after %.0f ms, longest gap %.0f "
        "ms\n",
        static_cast<double>(w.document().site()->selected()) / 1e6, fenced,
        static_cast<double>(clock.nsecsElapsed()) / 1e6, probe.longest());
    clock.restart();
    w.commands().trigger("decide.remove");
    std::printf("remove: %.1f ms until the document is changed and all panels say so\n",
                static_cast<double>(clock.nsecsElapsed()) / 1e6);
    clock.restart();
    w.document().undo();
    std::printf("undo: %.1f ms until the document is changed and all panels say so\n",
                static_cast<double>(clock.nsecsElapsed()) / 1e6);
    wait([&] { return w.stage().settled() && w.document().disk().waiting == 0; });
    std::printf("after that: longest gap %.0f ms\n", probe.longest());
    Session(w, probe).run(argc > 2 ? std::atof(argv[2]) : 60);
    w.close();
    return 0;
}
