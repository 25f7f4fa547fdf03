#include "app/stage/stage.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/look/preferences.h"
#include "app/look/theme.h"
#include "app/stage/tool_outline.h"
#include "app/tools/fence_tools.h"

namespace pristine::app {
namespace {

constexpr double kTurn_deg_per_px = 0.35;
constexpr double kKeyTurn_deg = 5;
constexpr double kKeyMove_px = 40;
constexpr double kWheelStep = 0.85;  // per notch
constexpr int kPickRadius_px = 12;
constexpr double kWipeGrab_px = 7;
constexpr int kRest_ms = 140;  // after the last move full detail is drawn
constexpr std::size_t kMostViews = 50;

PixelPoint pixel(const QPointF& p) {
    return {p.x(), p.y()};
}

}  // namespace

Stage::Stage(QWidget* parent) : QWidget(parent), scene_(std::make_shared<render::Scene>()) {
    setObjectName(QStringLiteral("stage"));
    setAccessibleName(
        tr("Stage: 3D view. Right drag turns, middle drag moves, wheel zooms, hold V to look round and "
           "return."));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
    connect(
        &worker_, &RenderWorker::drawn, this,
        [this] {
            update();
            if (settled()) emit settled_now();
        },
        Qt::QueuedConnection);
    rest_.setSingleShot(true);
    rest_.setInterval(kRest_ms);
    connect(&rest_, &QTimer::timeout, this, [this] { redraw(false); });
}

void Stage::set_scene(std::shared_ptr<const render::Scene> scene) {
    scene_ = std::move(scene);
    if (!has_looked_ && !scene_->robust_bounds().empty()) {
        has_looked_ = true;
        camera_.yaw_deg = 20;
        camera_.pitch_deg = -35;
        camera_.look_at_all(scene_->robust_bounds(), aspect());
    }
    redraw(false);
}

void Stage::look_anew() {
    has_looked_ = false;
}

void Stage::set_before(std::shared_ptr<const render::Scene> scene) {
    before_scene_ = std::move(scene);
    if (before_scene_ && !before_) {
        before_ = std::make_unique<RenderWorker>();
        connect(
            before_.get(), &RenderWorker::drawn, this, [this] { update(); }, Qt::QueuedConnection);
    }
    redraw(false);
    update();
}

void Stage::set_tool(Tool* tool) {
    if (tool_ && tool_ != tool) tool_->key(ToolKey::Cancel, frame());
    tool_ = tool;
    setCursor(tool ? Qt::CrossCursor : Qt::ArrowCursor);
    update();
}

ViewFrame Stage::frame() const {
    return camera_.frame(width(), height(), scene_->bounds());
}

void Stage::redraw(bool moving) {
    worker_.draw({scene_, frame(), {}, moving});
    if (before_scene_) before_->draw({before_scene_, frame(), {}, moving});
    if (moving) rest_.start();
}

bool Stage::settled() const {
    const auto p = worker_.picture();
    const ViewFrame f = frame();
    return p && p->complete && p->scene == scene_ && p->view.eye == f.eye && p->view.ahead == f.ahead &&
           p->view.scale == f.scale && p->view.perspective == f.perspective && p->width == width() &&
           p->height == height();
}

void Stage::moved() {
    redraw(true);
    update();
    emit camera_changed();
}

void Stage::remember_view() {
    if (!views_.empty() && views_.back() == camera_) return;
    views_.push_back(camera_);
    later_views_.clear();
    if (views_.size() > kMostViews) views_.erase(views_.begin());
}

void Stage::set_camera(const render::Camera& c) {
    use_camera(c, std::nullopt);
}

void Stage::move_camera(const render::Camera& c) {
    camera_ = c;
    axis_.reset();
    has_looked_ = true;
    moved();
}

void Stage::use_camera(const render::Camera& c, std::optional<render::AxisView> axis) {
    camera_ = c;
    axis_ = axis;
    has_looked_ = true;
    redraw(false);
    update();
    emit camera_changed();
}

void Stage::look_along(render::AxisView view) {
    remember_view();
    render::Camera c = camera_;
    c.look_along(view, scene_->robust_bounds(), aspect());
    // A cut from the side is only true without perspective; who wants it otherwise is remembered for this
    // view.
    c.perspective = axis_perspective_[static_cast<std::size_t>(view)];
    c.look_at_all(scene_->robust_bounds(), aspect());
    use_camera(c, view);
}

void Stage::look_at_everything() {
    look_at(scene_->robust_bounds());
}

void Stage::look_at(const Box3& box) {
    if (box.empty()) return;
    remember_view();
    render::Camera c = camera_;
    c.look_at_all(box, aspect());
    set_camera(c);
}

void Stage::go_back() {
    if (views_.empty()) return;
    const render::Camera c = views_.back();
    views_.pop_back();
    later_views_.push_back(camera_);
    set_camera(c);
}

void Stage::go_forward() {
    if (later_views_.empty()) return;
    const render::Camera c = later_views_.back();
    later_views_.pop_back();
    views_.push_back(camera_);
    set_camera(c);
}

void Stage::jump_to(const render::Camera& c) {
    remember_view();
    set_camera(c);
}

void Stage::set_perspective(bool on) {
    if (camera_.perspective == on) return;
    remember_view();
    render::Camera c = camera_;
    c.perspective = on;
    use_camera(c, axis_);
    if (axis_) axis_perspective_[static_cast<std::size_t>(*axis_)] = on;
}

std::optional<std::uint32_t> Stage::seen_at(PixelPoint p) const {
    const auto shown = worker_.picture();
    if (!shown || shown->scene != scene_) return std::nullopt;
    return shown->id_near(static_cast<int>(p.x), static_cast<int>(p.y), kPickRadius_px);
}

void Stage::set_guides(std::vector<Guide> guides) {
    guides_.set(std::move(guides));
    update();
}

namespace {

// Where the line of sight of a pixel meets the plane of a triangle, as far as that is within the triangle's
// depths.
double depth_on(const std::array<Vec3, 3>& t, const ViewFrame& view, PixelPoint p, double otherwise) {
    const Vec3 n = cross(t[1] - t[0], t[2] - t[0]), from = view.lift(p, 0), step = view.lift(p, 1) - from;
    const double across = dot(n, step);
    if (across == 0) return otherwise;
    const double d[3] = {view.depth(t[0]), view.depth(t[1]), view.depth(t[2])};
    return std::clamp(dot(n, t[0] - from) / across, std::min({d[0], d[1], d[2]}),
                      std::max({d[0], d[1], d[2]}));
}

// Where what a picture shows near a pixel lies in a view.
std::optional<Vec3> place_of(const render::Picture& picture, const ViewFrame& view, PixelPoint p) {
    const auto id = picture.id_near(static_cast<int>(p.x), static_cast<int>(p.y), kPickRadius_px);
    if (!id) return std::nullopt;
    double depth = view.depth(picture.position(*id));
    if (const auto corners = picture.scene->corners(*id)) depth = depth_on(*corners, view, p, depth);
    return depth > view.near_depth ? std::optional(view.lift(p, depth)) : std::nullopt;
}

}  // namespace

std::optional<Vec3> Stage::place_in(const render::Picture& picture, PixelPoint p) {
    return place_of(picture, picture.view, p);
}

Vec3 Stage::anchor(PixelPoint p) const {
    const ViewFrame now = frame();
    if (const auto shown = worker_.picture(); shown && shown->scene == scene_)
        if (const auto place = place_of(*shown, now, p)) return *place;
    const double middle =
        camera_.perspective ? camera_.focus : now.depth(camera_.eye + camera_.ahead() * camera_.focus);
    return now.lift(p, std::max(middle, 2 * now.near_depth));
}

Vec3 Stage::turning_centre() const {
    return fixed_centre_.value_or(anchor({width() / 2.0, height() / 2.0}));
}

// ---- mouse
// -----------------------------------------------------------------------------------------------------

void Stage::mousePressEvent(QMouseEvent* e) {
    setFocus();
    key_cursor_.reset();
    last_ = pixel(e->position());
    if (wiping() && e->button() == Qt::LeftButton && std::fabs(last_.x - wipe_x()) < kWipeGrab_px) {
        drag_ = Drag::Wipe;
        setCursor(Qt::SplitHCursor);
        return;
    }
    const auto [moves, turns] = preferences().turn_with_middle ? std::pair{Qt::RightButton, Qt::MiddleButton}
                                                               : std::pair{Qt::MiddleButton, Qt::RightButton};
    const bool move = e->button() == moves || (e->button() == turns && (e->modifiers() & Qt::ShiftModifier));
    if (move || e->button() == turns) {
        remember_view();
        centre_ = anchor(last_);
        drag_depth_ = frame().depth(centre_);
        drag_ = move ? Drag::Move : Drag::Turn;
        setCursor(move ? Qt::SizeAllCursor : Qt::ClosedHandCursor);
    } else if (e->button() == Qt::LeftButton && tool_ && may_begin()) {
        if (!tool_->begun()) press_modifiers_ = e->modifiers();
        drag_ = Drag::Tool;
        tool_->hold_control(e->modifiers() & Qt::ControlModifier);
        press_tool(last_);
    }
}

bool Stage::may_begin() {
    if (!scene_->items().empty()) return true;
    // Corners planted in nothing would stand anywhere once a scan comes.
    emit refused(tr("Open a scan first, or show one: there is nothing here to fence."));
    return false;
}

void Stage::mouseMoveEvent(QMouseEvent* e) {
    const PixelPoint p = pixel(e->position());
    const double dx = p.x - last_.x, dy = p.y - last_.y;
    if (drag_ == Drag::Turn) {
        const double by = kTurn_deg_per_px * preferences().turning;
        camera_.turn_about(fixed_centre_.value_or(centre_), dx * by, -dy * by);
        axis_.reset();
        moved();
    } else if (drag_ == Drag::Move) {
        camera_.move_by(dx, dy, drag_depth_, height());
        moved();
    } else if (drag_ == Drag::Wipe) {
        wipe_share_ = std::clamp(p.x / std::max(1, width()), 0.02, 0.98);
        update();
    } else {
        if (tool_) tool_->move(p, frame());
        if (tool_ && (tool_->begun() || tool_->shows_pointer())) update();
        if (tool_ && drag_ == Drag::Tool) after_tool();
        point_at(p);
    }
    last_ = p;
}

void Stage::mouseReleaseEvent(QMouseEvent* e) {
    if (drag_ == Drag::Tool && tool_) {
        tool_->release(pixel(e->position()), frame());
        after_tool();
        if (tool_->is_brush()) emit stroke_ended();
    } else if (drag_ != Drag::None) {
        redraw(false);
    }
    drag_ = Drag::None;
    setCursor(tool_ ? Qt::CrossCursor : Qt::ArrowCursor);
}

void Stage::mouseDoubleClickEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || !tool_) return mousePressEvent(e);
    tool_->double_click(pixel(e->position()), frame());
    after_tool();
}

void Stage::wheelEvent(QWheelEvent* e) {
    const double notches = e->angleDelta().y() / 120.0;
    if ((e->modifiers() & Qt::ControlModifier) && tool_) {
        tool_->resize(std::pow(1.15, notches));
        e->accept();
        return update();
    }
    const double nearer = preferences().wheel_turned ? -notches : notches;
    camera_.zoom_at(anchor(pixel(e->position())), std::pow(kWheelStep, nearer));
    moved();
    e->accept();
}

void Stage::point_at(PixelPoint p) {
    pointer_ = p;
    if (tool_ && tool_->measures()) update();
    emit pointed_at(p.x, p.y);
    const auto shown = worker_.picture();
    if (shown && shown->scene == scene_)
        if (const auto id = shown->id_near(static_cast<int>(p.x), static_cast<int>(p.y), 3)) {
            const Vec3 w = shown->position(*id);
            emit pointed(true, w.x, w.y, w.z);
            return;
        }
    emit pointed(false, 0, 0, 0);
}

void Stage::tell_dragging() {
    const auto held = tool_->held_line();
    if (!held && dragging_line_) emit line_let_go();
    dragging_line_ = held.has_value();
    if (held) emit line_dragged(*held);
}

void Stage::after_tool() {
    tell_dragging();
    if (const auto fence = tool_->take_fence()) {
        if (tool_->is_brush())
            emit stroke_step(*fence, press_modifiers_);
        else
            emit fence_closed(*fence, press_modifiers_);
    }
    if (const auto solid = tool_->take_solid()) emit solid_changed(*solid);
    if (const auto line = tool_->take_line()) emit line_drawn(*line);
    if (const auto shape = tool_->take_shape()) emit shape_made(*shape, press_modifiers_);
    if (const auto* polygon = dynamic_cast<const PolygonTool*>(tool_); polygon && !polygon->refusal().empty())
        emit refused(tr(polygon->refusal().c_str()));
    update();
}

// ---- keys
// ------------------------------------------------------------------------------------------------------

// Keys that a tool or the stage wants for itself must not be taken as shortcuts of menus.
bool Stage::event(QEvent* e) {
    if (e->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(e);
        const bool plain = (key->modifiers() & ~Qt::KeypadModifier) == Qt::NoModifier;
        if (plain && key->key() == Qt::Key_V) {
            e->accept();
            return true;
        }
        const bool of_tool = key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter ||
                             key->key() == Qt::Key_Backspace || key->key() == Qt::Key_Escape;
        if (plain && of_tool && tool_ && tool_->begun()) {
            e->accept();
            return true;
        }
    }
    return QWidget::event(e);
}

bool Stage::tool_key(int key) {
    if (!tool_) return false;
    if (key == Qt::Key_Space && key_cursor_) {
        if (!may_begin()) return true;
        if (!tool_->begun()) press_modifiers_ = Qt::NoModifier;
        press_tool(*key_cursor_);
        return true;
    }
    if (!tool_->begun()) return false;
    if (key == Qt::Key_Return || key == Qt::Key_Enter)
        tool_->key(ToolKey::Finish, frame());
    else if (key == Qt::Key_Backspace)
        tool_->key(ToolKey::Back, frame());
    else if (key == Qt::Key_Escape)
        tool_->key(ToolKey::Cancel, frame());
    else
        return false;
    after_tool();
    return true;
}

bool Stage::navigation_key(int key, Qt::KeyboardModifiers modifiers) {
    const int dx = key == Qt::Key_Left ? -1 : key == Qt::Key_Right ? 1 : 0;
    const int dy = key == Qt::Key_Up ? -1 : key == Qt::Key_Down ? 1 : 0;
    const PixelPoint middle{width() / 2.0, height() / 2.0};
    if (dx != 0 || dy != 0) {
        if (modifiers & Qt::ControlModifier) {
            const double step = modifiers & Qt::ShiftModifier ? 1 : 10;
            PixelPoint p = key_cursor_.value_or(middle);
            key_cursor_ = PixelPoint{std::clamp(p.x + dx * step, 0.0, width() - 1.0),
                                     std::clamp(p.y + dy * step, 0.0, height() - 1.0)};
            if (tool_) tool_->move(*key_cursor_, frame());
            point_at(*key_cursor_);
            update();
            return true;
        }
        if (modifiers & Qt::ShiftModifier)
            camera_.move_by(-dx * kKeyMove_px, -dy * kKeyMove_px, frame().depth(anchor(middle)), height());
        else
            camera_.turn_about(turning_centre(), dx * kKeyTurn_deg, -dy * kKeyTurn_deg);
        moved();
        return true;
    }
    if (key == Qt::Key_Plus || key == Qt::Key_Equal || key == Qt::Key_Minus) {
        camera_.zoom_at(anchor(key_cursor_.value_or(middle)),
                        key == Qt::Key_Minus ? 1 / kWheelStep : kWheelStep);
        moved();
        return true;
    }
    return false;
}

void Stage::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_V && !e->isAutoRepeat() && !peek_) {
        peek_ = camera_;
        update();
        return;
    }
    if (e->key() == Qt::Key_V) return;
    if (tool_key(e->key()) || navigation_key(e->key(), e->modifiers())) return;
    QWidget::keyPressEvent(e);
}

void Stage::keyReleaseEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_V && !e->isAutoRepeat()) return end_peek();
    QWidget::keyReleaseEvent(e);
}

void Stage::focusOutEvent(QFocusEvent* e) {
    end_peek();
    QWidget::focusOutEvent(e);
}

void Stage::end_peek() {
    if (!peek_) return;
    const render::Camera before = *peek_;
    peek_.reset();
    drag_ = Drag::None;
    set_camera(before);
}

// ---- painting
// --------------------------------------------------------------------------------------------------

void Stage::resizeEvent(QResizeEvent*) {
    redraw(false);
}

void Stage::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto p = worker_.picture();
    if (!p) {
        painter.fillRect(rect(), QColor(0x12, 0x17, 0x1E));
    } else {
        const QImage image(reinterpret_cast<const uchar*>(p->pixels.data()), p->width, p->height,
                           p->width * 4, QImage::Format_RGB32);
        if (p->width == width() && p->height == height())
            painter.drawImage(0, 0, image);
        else
            painter.drawImage(rect(), image);
    }
    paint_wipe(painter);
    painter.setRenderHint(QPainter::Antialiasing);
    paint_over(painter);
    paint_outline(painter);
    paint_snap(painter);
    if (key_cursor_) {
        const QPointF c(key_cursor_->x, key_cursor_->y);
        painter.setPen(QPen(Qt::white, 1.5));
        painter.drawLine(c - QPointF(12, 0), c + QPointF(12, 0));
        painter.drawLine(c - QPointF(0, 12), c + QPointF(0, 12));
    }
    if (peek_) {
        painter.setPen(QColor(0xFF, 0xE0, 0x8A));
        painter.drawText(rect().adjusted(0, 0, -14, -10), Qt::AlignRight | Qt::AlignBottom,
                         tr("Peek: release V to return"));
    }
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(QColor(0xB8, 0x6B, 0xFF, 140), 1));
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void Stage::paint_wipe(QPainter& painter) const {
    const auto p = wiping() ? before_->picture() : nullptr;
    if (!p || p->width != width() || p->height != height()) return;
    const QImage image(reinterpret_cast<const uchar*>(p->pixels.data()), p->width, p->height, p->width * 4,
                       QImage::Format_RGB32);
    const int x = static_cast<int>(wipe_x());
    painter.drawImage(0, 0, image, 0, 0, x, height());
    painter.fillRect(QRect(x - 1, 0, 3, height()), QColor(0xF5, 0xF2, 0xEC));
    painter.setPen(QColor(0xF5, 0xF2, 0xEC));
    painter.drawText(QRect(x - 110, height() - 26, 100, 20), Qt::AlignRight | Qt::AlignVCenter, tr("before"));
    painter.drawText(QRect(x + 12, height() - 26, 100, 20), Qt::AlignLeft | Qt::AlignVCenter, tr("after"));
}

void Stage::paint_over(QPainter& painter) {
    const ViewFrame view = frame();
    guides_.paint(painter, view, rest_.isActive());
    if (!tool_) return;
    const Projection project = projection_of(view);
    std::vector<Guide> of_tool;
    for (auto& g : tool_->guides()) of_tool.push_back({std::move(g)});
    paint_guides(painter, of_tool, project);
    painter.setPen(QPen(QColor(0x1D, 0x27, 0x33), 1));
    painter.setBrush(QColor(0xFF, 0xE0, 0x8A));
    for (const Vec3& h : tool_->handles())
        if (const auto p = project(h)) painter.drawEllipse(*p, 6, 6);
}

// Where a click would land, and on what.
void Stage::paint_snap(QPainter& painter) const {
    if (!tool_ || !tool_->measures() || !underMouse() || drag_ == Drag::Turn || drag_ == Drag::Move) return;
    const auto there = snapped(pointer_);
    if (!there) return;
    const PixelPoint p = frame().project(there->place);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0, 0, 0, 150), 3.5));
    painter.drawEllipse(QPointF(p.x, p.y), 6, 6);
    painter.setPen(QPen(QColor(0x8F, 0xE3, 0xD0), 1.6));
    painter.drawEllipse(QPointF(p.x, p.y), 6, 6);
    const QString word = there->kind == SnapKind::LinePlace ? tr("place of a line")
                         : there->kind == SnapKind::Line    ? tr("line")
                         : there->kind == SnapKind::Corner  ? tr("corner")
                         : there->kind == SnapKind::Edge    ? tr("edge")
                                                            : QString();
    if (!word.isEmpty()) painter.drawText(QPointF(p.x + 11, p.y + 15), word);
}

std::optional<Snapped> Stage::snapped(PixelPoint p) const {
    const auto shown = worker_.picture();
    const ViewFrame view = frame();
    const bool fits = shown && shown->scene == scene_;
    return snap(p, view, guides_.guides(), fits ? shown.get() : nullptr,
                fits ? place_of(*shown, view, p) : std::nullopt);
}

std::optional<Vec3> Stage::measured_at(PixelPoint p) const {
    const auto there = snapped(p);
    return there ? std::optional(there->place) : std::nullopt;
}

// A place of what is measured lies on something.
void Stage::press_tool(PixelPoint p) {
    if (!tool_->measures()) {
        tool_->press(p, frame(), [this](PixelPoint q) { return anchor(q); });
    } else if (const auto there = snapped(p)) {
        tool_->press(p, frame(), [&](PixelPoint) { return there->place; });
    } else {
        emit refused(tr("There is nothing here to measure to."));
    }
    after_tool();
}

void Stage::paint_outline(QPainter& painter) const {
    if (!tool_ || !(tool_->begun() || (tool_->shows_pointer() && underMouse()))) return;
    paint_tool_outline(painter, tool_->outline(frame()), tool_->outline_is_open());
}

}  // namespace pristine::app
