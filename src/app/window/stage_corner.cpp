#include "app/window/stage_corner.h"

#include <QAction>
#include <QEvent>
#include <QHBoxLayout>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>

#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/stage/stage.h"
#include "app/window/legend.h"
#include "app/window/view_marks.h"
#include "core/site/making.h"

namespace pristine::app {

StageCorner::StageCorner(Desk& desk) : Part(desk) {
    working_on_ = new QPushButton(stage_);
    working_on_->setObjectName(QStringLiteral("workingOn"));
    working_on_->setAccessibleName(tr("Item in work; press to choose another"));
    working_on_->setStyleSheet(
        QStringLiteral("QPushButton { background: #F5F2EC; border: none; border-radius: 4px; padding: 4px "
                       "9px; font-weight: 600; } QPushButton:focus { border: 2px solid #B86BFF; }"));
    working_on_->move(12, 10);
    connect(working_on_, &QPushButton::clicked, this, [this] { choose_item(); });
    add_views();
    marks_ = new ViewMarks(stage_);
    connect(stage_, &Stage::camera_changed, this, &StageCorner::light_side);
    stage_->installEventFilter(this);
}

void StageCorner::add_views() {
    view_strip_ = new QWidget(stage_);
    view_strip_->setObjectName(QStringLiteral("viewStrip"));
    view_strip_->setAttribute(Qt::WA_StyledBackground);
    view_strip_->setStyleSheet(
        QStringLiteral("#viewStrip { background: rgba(18,23,30,170); border-radius: 4px; } QToolButton { "
                       "color: #D9D4C8; border: none; border-radius: 4px; padding: 3px 5px; font-size: 9pt; }"
                       "QToolButton:hover { background: #3A4656; } QToolButton:checked { background: "
                       "#F5F2EC; color: #1D2733; } QToolButton:focus { border: 1px solid #B86BFF; }"));
    auto* layout = new QHBoxLayout(view_strip_);
    layout->setContentsMargins(3, 2, 3, 2);
    layout->setSpacing(1);
    using render::AxisView;
    const std::tuple<const char*, QString, AxisView> views[] = {
        {"view.top", tr("Top"), AxisView::Top},       {"view.front", tr("Front"), AxisView::Front},
        {"view.back", tr("Back"), AxisView::Back},    {"view.left", tr("Left"), AxisView::Left},
        {"view.right", tr("Right"), AxisView::Right}, {"view.bottom", tr("Below"), AxisView::Bottom},
        {"view.perspective", QString(), {}}};
    for (const auto& [id, text, side] : views) {
        auto* b = new QToolButton(view_strip_);
        QAction* a = commands_.action(QString::fromLatin1(id));
        b->setObjectName(QString::fromLatin1(id) + ".button");
        b->setAccessibleName(commands_.find(QString::fromLatin1(id))->title);
        b->setFocusPolicy(Qt::TabFocus);
        if (text.isEmpty()) {
            b->setDefaultAction(a);
            b->setToolButtonStyle(Qt::ToolButtonTextOnly);
        } else {
            b->setText(text);
            b->setCheckable(true);
            sides_.emplace_back(side, b);
            connect(b, &QToolButton::clicked, this, &StageCorner::light_side);
            connect(b, &QToolButton::clicked, a, &QAction::trigger);
            b->setToolTip(commands_.find(QString::fromLatin1(id))->help);
        }
        layout->addWidget(b);
    }
}

void StageCorner::refresh() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    working_on_->setVisible(item != nullptr);
    if (item) {
        const site::Making* making = site::making_of_item(*s, item->id);
        const bool stale = making && site::is_stale(*s, *making);
        working_on_->setText((stale ? tr("Working on %1, out of date ▾") : tr("Working on %1 ▾"))
                                 .arg(QString::fromStdString(item->name)));
    }
    marks_->set_lengths(Lengths(*s));
    light_side();
    place();
}

// The button of the axis that is looked along.
void StageCorner::light_side() {
    for (const auto& [side, button] : sides_) button->setChecked(stage_->axis() == side);
}

bool StageCorner::eventFilter(QObject* watched, QEvent* event) {
    if (watched == stage_ && event->type() == QEvent::Resize) place();
    return Part::eventFilter(watched, event);
}

void StageCorner::place() {
    working_on_->adjustSize();
    view_strip_->adjustSize();
    const int left = stage_->width() - view_strip_->width() - 10;
    const bool collides = working_on_->isVisibleTo(stage_) && left < working_on_->geometry().right() + 4;
    view_strip_->move(left, collides ? 46 : 10);
    // The legend goes down with the strip, which would cover its title.
    desk_.legend->move(12, collides ? view_strip_->geometry().bottom() + 7 : 50);
    marks_->move(stage_->width() - marks_->width() - 10, view_strip_->geometry().bottom() + 7);
}

void StageCorner::choose_item() {
    QMenu menu(window_);
    for (const site::ItemPtr& item : document_->site()->items)
        menu.addAction(QString::fromStdString(item->name), this, [this, id = item->id, name = item->name] {
            document_->apply(tr("Work on %1").arg(QString::fromStdString(name)),
                             [id](const site::Site& s) { return site::activate(s, id); });
        });
    menu.exec(working_on_->mapToGlobal(QPoint(0, working_on_->height())));
}

}  // namespace pristine::app
