#include "app/window/station_labels.h"

#include <QEvent>
#include <QToolButton>

#include "app/stage/stage.h"

namespace pristine::app {

StationLabels::StationLabels(Stage* stage) : QObject(stage), stage_(stage) {
    stage->installEventFilter(this);
    connect(stage, &Stage::camera_changed, this, &StationLabels::place);
}

void StationLabels::show_stations(std::vector<StationOf> stations) {
    if (stations == stations_) return place();
    stations_ = std::move(stations);
    for (QToolButton* label : labels_) delete label;
    labels_.clear();
    for (const StationOf& s : stations_) {
        auto* label = new QToolButton(stage_);
        label->setObjectName(QStringLiteral("station%1_%2").arg(s.item).arg(s.number));
        label->setText(QString::fromStdString(s.name));
        label->setToolTip(tr("Station %1. Press: stand here, panorama, only what it saw").arg(label->text()));
        label->setFocusPolicy(Qt::NoFocus);
        label->setStyleSheet(QStringLiteral(
            "QToolButton { background: rgba(18,23,30,190); color: #F5F2EC; border: 1px solid #8C8577; "
            "border-radius: 8px; padding: 0px 6px; font-size: 8pt; } QToolButton:hover { background: "
            "#3A4656; }"));
        connect(label, &QToolButton::clicked, this,
                [this, s, label] { emit pressed(s, label->mapToGlobal(QPoint(0, label->height()))); });
        labels_.push_back(label);
    }
    place();
}

// A little above the place itself, so that the axes are seen.
void StationLabels::place() {
    const ViewFrame view = stage_->frame();
    for (std::size_t k = 0; k < labels_.size(); ++k) {
        QToolButton* label = labels_[k];
        const Vec3& w = stations_[k].position;
        const PixelPoint p = view.project(w);
        const bool seen = view.depth(w) > view.near_depth && p.x >= 0 && p.y >= 0 && p.x < stage_->width() &&
                          p.y < stage_->height();
        label->setVisible(seen);
        if (!seen) continue;
        label->adjustSize();
        label->move(static_cast<int>(p.x) - label->width() / 2, static_cast<int>(p.y) - label->height() - 12);
        label->lower();  // bars and buttons of the stage stay on top
    }
}

bool StationLabels::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize) place();
    return QObject::eventFilter(watched, event);
}

}  // namespace pristine::app
