#include "app/stage/walker.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/stage/stage.h"

namespace pristine::app {
namespace {

constexpr int kFrame_ms = 16;
constexpr double kLongest_s = 0.1;  // of a step, whatever the picture took
constexpr double kTurn_deg_per_s = 75, kLook_deg_per_px = 0.25;
constexpr double kWalk_m_per_s = 1.4, kFly_m_per_s = 3;
constexpr double kLeast_m_per_s = 0.05, kMost_m_per_s = 100, kFaster = 1.25;
constexpr double kWheel_s = 0.35;  // of walking, a notch
constexpr double kRaise_m_per_s = 0.5;

}  // namespace

Walker::Walker(Stage* stage) : QObject(stage), stage_(stage), band_(new QLabel(stage)) {
    band_->setObjectName(QStringLiteral("walkBand"));
    band_->setAttribute(Qt::WA_TransparentForMouseEvents);
    band_->setStyleSheet(QStringLiteral(
        "background: rgba(29,39,51,215); color: #F5F2EC; border-radius: 4px; padding: 5px 12px;"));
    band_->hide();
    timer_.setInterval(kFrame_ms);
    connect(&timer_, &QTimer::timeout, this, &Walker::advance);
    stage->installEventFilter(this);
    // A view from above or another jump ends it.
    connect(stage, &Stage::camera_changed, this, [this] {
        if (!own_) end();
    });
}

void Walker::move(const render::Camera& c) {
    own_ = true;
    stage_->move_camera(c);
    own_ = false;
}

void Walker::begin(const Lengths& lengths, double speed_metres) {
    lengths_ = lengths;
    speed_ = speed_metres / lengths.data_metres();
    walk_.reset();
    flight_.reset();
    keys_.clear();
    turning_.reset();
    paused_ = false;
    flown_ = 0;
}

void Walker::walk(const Vec3& place, render::Walk::Floor floor, const Lengths& lengths) {
    begin(lengths, kWalk_m_per_s);
    walk_.emplace(std::move(floor), 1 / lengths.data_metres());
    own_ = true;
    stage_->jump_to(walk_->stand_at(stage_->camera(), place));
    own_ = false;
    stage_->setFocus();
    show_text();
    emit begun_or_ended();
}

void Walker::fly(render::Flight flight, const QString& name, const Lengths& lengths) {
    begin(lengths, kFly_m_per_s);
    flight_ = std::move(flight);
    line_name_ = name;
    render::Camera c = flight_->at(0, stage_->camera());
    c.focus = 4 / lengths.data_metres();
    own_ = true;
    stage_->jump_to(c);
    own_ = false;
    stage_->setFocus();
    since_.start();
    timer_.start();
    show_text();
    emit begun_or_ended();
}

void Walker::end() {
    if (!walk_ && !flight_) return;
    walk_.reset();
    flight_.reset();
    timer_.stop();
    band_->hide();
    emit begun_or_ended();
}

QString Walker::text() const {
    const QString pace = tr("%1 a second").arg(lengths_.text(speed_));
    if (walk_) {
        const QString eyes = tr("eyes %1 above the floor").arg(lengths_.text(walk_->eye_height()));
        return tr("Walking · %1 · %2 · Esc ends").arg(walk_->on_floor() ? eyes : tr("no floor here"), pace);
    }
    if (!flight_) return {};
    return tr("Flying along %1 · %2 of %3 · %4 · %5")
        .arg(line_name_, lengths_.text(flown_), lengths_.text(flight_->length()),
             paused_ ? tr("stopped, Space goes on") : pace, tr("Esc ends"));
}

void Walker::show_text() {
    band_->setText(text());
    band_->adjustSize();
    band_->move((stage_->width() - band_->width()) / 2, stage_->height() - band_->height() - 14);
    band_->show();
    band_->raise();
}

int Walker::held(int forth, int back) const {
    return (keys_.contains(forth) ? 1 : 0) - (keys_.contains(back) ? 1 : 0);
}

void Walker::advance() {
    const double s = std::min(static_cast<double>(since_.restart()) / 1000, kLongest_s);
    step(s);
    const bool goes_on = flight_ ? !paused_ : !keys_.empty();
    if (!goes_on) timer_.stop();
}

void Walker::step(double seconds) {
    if (flight_) {
        if (!paused_) go_on(speed_ * seconds);
        return;
    }
    render::Camera c = stage_->camera();
    const double way = speed_ * seconds;
    const int turn = held(Qt::Key_Right, Qt::Key_Left);
    if (turn != 0 && !sidestep_) c.turn_about(c.eye, turn * kTurn_deg_per_s * seconds, 0);
    const int ahead = held(Qt::Key_Up, Qt::Key_Down), aside = sidestep_ ? turn : 0;
    if (ahead != 0 || aside != 0) c = walk_->walked(c, ahead * way, aside * way);
    if (const int up = held(Qt::Key_PageUp, Qt::Key_PageDown); up != 0)
        c = walk_->raised(c, up * kRaise_m_per_s * seconds / lengths_.data_metres());
    move(c);
    show_text();
}

// Along the line; it stops at its ends.
void Walker::go_on(double by) {
    flown_ = std::clamp(flown_ + by, 0.0, flight_->length());
    if (by > 0 && flown_ >= flight_->length()) paused_ = true;
    move(flight_->at(flown_, stage_->camera()));
    show_text();
}

bool Walker::takes(int key) const {
    static const std::set<int> of_both{Qt::Key_Up,   Qt::Key_Down,  Qt::Key_Escape,
                                       Qt::Key_Plus, Qt::Key_Equal, Qt::Key_Minus};
    static const std::set<int> of_walk{Qt::Key_Left, Qt::Key_Right, Qt::Key_PageUp, Qt::Key_PageDown};
    static const std::set<int> of_flight{Qt::Key_Space, Qt::Key_Home};
    return of_both.contains(key) || (walk_ ? of_walk : of_flight).contains(key);
}

bool Walker::key(const QKeyEvent& e, bool down) {
    if (e.modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return false;
    // A tool that has begun is cancelled first.
    const bool of_tool = stage_->tool() && stage_->tool()->begun() && e.key() == Qt::Key_Escape;
    if (of_tool || !takes(e.key())) return false;
    if (e.key() == Qt::Key_Escape) {
        if (down) end();
        return true;
    }
    if (e.key() == Qt::Key_Plus || e.key() == Qt::Key_Equal || e.key() == Qt::Key_Minus) {
        if (!down) return true;
        const double next = speed_ * (e.key() == Qt::Key_Minus ? 1 / kFaster : kFaster);
        speed_ =
            std::clamp(next, kLeast_m_per_s / lengths_.data_metres(), kMost_m_per_s / lengths_.data_metres());
        show_text();
        return true;
    }
    if (flight_) {
        if (!down) return true;
        if (e.key() == Qt::Key_Space) {
            paused_ = !paused_;
            if (!paused_ && flown_ >= flight_->length()) flown_ = 0;
        } else if (e.key() == Qt::Key_Home) {
            go_on(-flown_);
        } else {
            paused_ = true;
            go_on(speed_ * kWheel_s * (e.key() == Qt::Key_Up ? 1 : -1));
        }
        show_text();
    } else if (!e.isAutoRepeat()) {
        sidestep_ = e.modifiers() & Qt::ShiftModifier;
        if (down)
            keys_.insert(e.key());
        else
            keys_.erase(e.key());
    }
    if ((flight_ ? !paused_ : !keys_.empty()) && !timer_.isActive()) {
        since_.start();
        timer_.start();
        if (walk_) step(kFrame_ms / 1000.0);  // a short press is a small step
    }
    return true;
}

bool Walker::mouse(QEvent* event) {
    if (event->type() == QEvent::Wheel) {
        const auto* e = static_cast<QWheelEvent*>(event);
        if (e->modifiers() & Qt::ControlModifier) return false;  // the size of the tool
        const double by = speed_ * kWheel_s * e->angleDelta().y() / 120;
        if (flight_) {
            paused_ = true;
            go_on(by);
        } else {
            move(walk_->walked(stage_->camera(), by, 0));
            show_text();
        }
        return true;
    }
    if (!walk_) return false;
    const auto* e = static_cast<QMouseEvent*>(event);
    if (event->type() == QEvent::MouseButtonPress && e->button() == Qt::RightButton) {
        turning_ = e->position();
        stage_->setFocus();
        return true;
    }
    if (event->type() == QEvent::MouseButtonRelease && e->button() == Qt::RightButton && turning_) {
        turning_.reset();
        return true;
    }
    if (event->type() == QEvent::MouseMove && turning_) {
        const QPointF d = e->position() - *turning_;
        turning_ = e->position();
        render::Camera c = stage_->camera();
        c.turn_about(c.eye, d.x() * kLook_deg_per_px, -d.y() * kLook_deg_per_px);
        move(c);
        return true;
    }
    return false;
}

bool Walker::eventFilter(QObject* watched, QEvent* event) {
    if (watched != stage_ || (!walk_ && !flight_)) return QObject::eventFilter(watched, event);
    switch (event->type()) {
        case QEvent::ShortcutOverride: {
            const auto* e = static_cast<QKeyEvent*>(event);
            if (!takes(e->key()) || (e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) break;
            event->accept();
            return true;
        }
        case QEvent::KeyPress:
        case QEvent::KeyRelease:
            if (key(*static_cast<QKeyEvent*>(event), event->type() == QEvent::KeyPress)) return true;
            break;
        case QEvent::MouseButtonPress:
        case QEvent::MouseButtonRelease:
        case QEvent::MouseMove:
        case QEvent::Wheel:
            if (mouse(event)) return true;
            break;
        case QEvent::FocusOut:
            keys_.clear();  // their release goes elsewhere
            break;
        case QEvent::Resize:
            show_text();
            break;
        default:
            break;
    }
    return QObject::eventFilter(watched, event);
}

}  // namespace pristine::app
