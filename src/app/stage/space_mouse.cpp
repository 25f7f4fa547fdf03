#include "app/stage/space_mouse.h"

#include <spnav.h>

#include <QSocketNotifier>
#include <algorithm>
#include <cmath>

namespace pristine::app {
namespace {

constexpr double kFull = 350;              // what usual devices say of a cap that is all the way out
constexpr double kLongestMotion_s = 0.05;  // the first motion after a rest says the whole rest
constexpr double kTurn_deg = 90;           // in a second, all the way

std::optional<SpaceMouse::Event> event_of(const spnav_event& e) {
    if (e.type == SPNAV_EVENT_BUTTON && e.button.press != 0) return SpaceMouse::Event{{}, e.button.bnum};
    if (e.type != SPNAV_EVENT_MOTION) return SpaceMouse::Event{};
    const auto share = [](int v) { return std::clamp(v / kFull, -1.0, 1.0); };
    SpaceMotion m{share(e.motion.x),  share(e.motion.y),  share(e.motion.z),
                  share(e.motion.rx), share(e.motion.ry), share(e.motion.rz)};
    m.seconds = e.motion.period / 1000.0;
    return SpaceMouse::Event{m, {}};
}

}  // namespace

SpaceMouse::Source SpaceMouse::daemon() {
    return {[] { return spnav_open() == -1 ? -1 : spnav_fd(); },
            []() -> std::optional<Event> {
                spnav_event e;
                return spnav_poll_event(&e) ? event_of(e) : std::nullopt;
            },
            [] { spnav_close(); }};
}

SpaceMouse::SpaceMouse(Source source, QObject* parent) : QObject(parent), source_(std::move(source)) {
    const int file = source_.open();
    if (file < 0) return;
    notifier_ = new QSocketNotifier(file, QSocketNotifier::Read, this);
    connect(notifier_, &QSocketNotifier::activated, this, &SpaceMouse::read);
}

SpaceMouse::~SpaceMouse() {
    if (notifier_) source_.close();
}

// All that is there at once: motions that the picture cannot keep up with are added up.
void SpaceMouse::read() {
    std::optional<SpaceMotion> sum;
    while (const std::optional<Event> e = source_.poll()) {
        if (e->button) emit pressed(*e->button);
        if (!e->motion) continue;
        const double seconds = std::clamp(e->motion->seconds, 0.0, kLongestMotion_s);
        const double before = sum ? sum->seconds : 0;
        sum = e->motion;
        sum->seconds = before + seconds;
    }
    if (sum) emit moved(*sum);
}

render::Camera after_motion(render::Camera camera, const SpaceMotion& m, double speed, bool viewer,
                            const Vec3& centre, double depth, int viewport_height) {
    const double by = speed * m.seconds * (viewer ? -1 : 1);
    camera.turn_about(viewer ? camera.eye : centre, m.yaw * by * kTurn_deg, -m.pitch * by * kTurn_deg);
    camera.move_by(m.right * by * viewport_height, -m.up * by * viewport_height, depth, viewport_height);
    if (m.near != 0) camera.zoom_at(centre, std::exp(-m.near * by));
    return camera;
}

}  // namespace pristine::app
