#include "app/panes/panorama_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <utility>

#include "app/look/preferences.h"
#include "app/stage/tool_outline.h"

namespace pristine::app {
namespace {

PixelPoint pixel(QPointF p) {
    return {p.x(), p.y()};
}

}  // namespace

PanoramaView::PanoramaView(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("panoramaView"));
    setAccessibleName(tr("Panorama: fences, brush and pick take what is seen from the station"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setCursor(Qt::CrossCursor);
}

ViewFrame PanoramaView::flat() {
    ViewFrame f;
    f.eye = {0, 0, 0};
    f.right = {1, 0, 0};
    f.down = {0, 1, 0};
    f.ahead = {0, 0, 1};
    f.near_depth = -1;
    return f;
}

void PanoramaView::set_picture(const QImage& image) {
    picture_ = image;
    setFixedSize(image.size());
    update();
}

void PanoramaView::set_guides(std::vector<Guide> guides, Projection project) {
    guides_ = std::move(guides);
    project_ = std::move(project);
    update();
}

void PanoramaView::set_tool(Tool* tool) {
    tool_ = tool;
    update();
}

void PanoramaView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.drawImage(0, 0, picture_);
    p.setRenderHint(QPainter::Antialiasing);
    if (project_) paint_guides(p, guides_, project_);
    if (!tool_ || !(tool_->begun() || (tool_->shows_pointer() && underMouse()))) return;
    paint_tool_outline(p, tool_->outline(flat()), tool_->outline_is_open());
}

void PanoramaView::after_tool() {
    if (const auto fence = tool_->take_fence()) {
        if (tool_->is_brush())
            emit stroke_step(fence->corners, modifiers_);
        else
            emit fence_closed(fence->corners, modifiers_);
    }
    if (const auto shape = tool_->take_shape()) {
        if (shape->kind == SpaceShape::Kind::Pick) emit picked(shape->end, modifiers_);
        if (shape->kind == SpaceShape::Kind::Mark) emit marked(shape->points);
    }
    update();
}

void PanoramaView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    if (e->button() == Qt::MiddleButton || e->button() == Qt::RightButton) {
        pulling_ = true;
        last_ = e->globalPosition().toPoint();
        return;
    }
    if (e->button() != Qt::LeftButton || !tool_) return;
    if (!tool_->begun()) modifiers_ = e->modifiers();
    tool_->press(pixel(e->position()), flat(), [](PixelPoint q) { return Vec3{q.x, q.y, 0}; });
    after_tool();
}

void PanoramaView::mouseMoveEvent(QMouseEvent* e) {
    if (pulling_) {
        const QPoint now = e->globalPosition().toPoint();
        emit pulled(now - std::exchange(last_, now));
        return;
    }
    if (!tool_) return;
    tool_->move(pixel(e->position()), flat());
    after_tool();
}

void PanoramaView::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) {
        pulling_ = false;
        return;
    }
    if (!tool_) return;
    const bool painting = tool_->is_brush() && tool_->begun();
    tool_->release(pixel(e->position()), flat());
    after_tool();
    if (painting) emit stroke_ended();
}

void PanoramaView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!tool_) return;
    tool_->double_click(pixel(e->position()), flat());
    after_tool();
}

void PanoramaView::wheelEvent(QWheelEvent* e) {
    const double notches = e->angleDelta().y() / 120.0;
    e->accept();
    if (!(e->modifiers() & Qt::ControlModifier)) {
        emit zoom_wanted(preferences().wheel_turned ? -notches : notches, e->position());
    } else if (tool_) {
        constexpr double kPerNotch = 1.15;
        tool_->resize(std::pow(kPerNotch, notches));
        update();
    }
}

void PanoramaView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Plus || e->key() == Qt::Key_Minus) {
        const QPoint middle = parentWidget()->rect().center() - pos();
        emit zoom_wanted(e->key() == Qt::Key_Plus ? 1 : -1, middle);
        return;
    }
    if (!tool_ || !tool_->begun()) return QWidget::keyPressEvent(e);
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter)
        tool_->key(ToolKey::Finish, flat());
    else if (e->key() == Qt::Key_Backspace)
        tool_->key(ToolKey::Back, flat());
    else if (e->key() == Qt::Key_Escape)
        tool_->key(ToolKey::Cancel, flat());
    else
        return QWidget::keyPressEvent(e);
    after_tool();
}

void PanoramaView::leaveEvent(QEvent*) {
    update();
}

}  // namespace pristine::app
