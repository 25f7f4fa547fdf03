#include "app/panes/section_pane.h"

#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <numbers>

#include "app/model/jobs.h"
#include "app/panes/section_axes.h"
#include "render/scene.h"

namespace pristine::app {

SectionPane::SectionPane(Jobs* jobs, QWidget* parent) : QWidget(parent), latest_(jobs) {
    setObjectName(QStringLiteral("sectionPane"));
    setAttribute(Qt::WA_StyledBackground);
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(10, 3, 6, 3);
    where_ = new QLabel(tr("Section"), this);
    where_->setObjectName(QStringLiteral("sectionWhere"));
    where_->setMinimumWidth(1);
    head->addWidget(where_, 1);
    head->addWidget(new QLabel(tr("Width"), this));
    width_ = new LengthBox(1, 0.01, 1000, this);
    width_->setObjectName(QStringLiteral("sectionWidth"));
    width_->setAccessibleName(tr("Width of the section strip"));
    width_->setKeyboardTracking(false);
    head->addWidget(width_);
    const auto button = [&](const char* name, const QString& text, const QString& tip, auto slot) {
        auto* b = new QToolButton(this);
        b->setObjectName(QString::fromLatin1(name));
        b->setText(text);
        b->setToolTip(tip);
        b->setAccessibleName(tip);
        b->setFocusPolicy(Qt::TabFocus);
        connect(b, &QToolButton::clicked, this, slot);
        head->addWidget(b);
    };
    button("sectionNearer", tr("◂ nearer"), tr("Steps the strip one width towards you (Page down)"),
           [this] { step(-1, 0); });
    button("sectionFarther", tr("farther ▸"), tr("Steps the strip one width away from you (Page up)"),
           [this] { step(1, 0); });
    button("sectionClose", tr("Close"), tr("Closes the section pane"), [this] { close_pane(); });
    rows->addLayout(head);
    stage_ = new Stage(this);
    stage_->setObjectName(QStringLiteral("sectionStage"));
    stage_->setAccessibleName(
        tr("Section: the strip seen from the side. Page up and Page down step it, with Shift along its line; "
           "tools work here too."));
    rows->addWidget(stage_, 1);
    axes_ = new SectionAxes(stage_);
    connect(width_, &QDoubleSpinBox::valueChanged, this, [this] {
        if (open_) work_out();
    });
    hide();
}

double SectionPane::width_of_strip() const {
    return width_->in_data();
}

select::Box SectionPane::box() const {
    double lowest = 0, highest = 1;
    Box3 all;
    if (site_)
        for (const site::ItemPtr& i : site_->items) all.add(i->cloud->bounds());
    if (!all.empty()) {
        lowest = all.lo.z;
        highest = all.hi.z;
    }
    return select::strip(a_, b_, width_->in_data(), lowest - 1, highest + 1);
}

void SectionPane::open(Vec3 a, Vec3 b, const site::SitePtr& site) {
    a_ = a;
    b_ = b;
    site_ = site;
    open_ = true;
    show();
    work_out();
    look();
}

void SectionPane::close_pane() {
    open_ = false;
    latest_.drop();
    held_.clear();
    hide();
    emit changed();
}

void SectionPane::step(int across, int along) {
    if (!open_) return;
    const double length = std::hypot(b_.x - a_.x, b_.y - a_.y);
    const Vec3 line = Vec3{b_.x - a_.x, b_.y - a_.y, 0} * (1 / length), normal{-line.y, line.x, 0};
    const Vec3 by = normal * (across * width_->in_data()) + line * (along * length);
    a_ = a_ + by;
    b_ = b_ + by;
    render::Camera c = stage_->camera();
    c.eye = c.eye + by;
    stage_->set_camera(c);
    work_out();
}

// Looks across the line, its start on the left.
void SectionPane::look() {
    const select::Box strip = box();
    render::Camera c;
    c.perspective = false;
    c.pitch_deg = 0;
    c.yaw_deg = std::atan2(-(b_.y - a_.y), b_.x - a_.x) * 180 / std::numbers::pi;
    // Height by what is there: strays do not decide it.
    Box3 robust;
    for (const site::ItemPtr& i : site_->items)
        if (i->visible) robust.add(i->cloud->robust_bounds());
    Box3 box;
    // Its foot stands clear of the scale below.
    const double room = robust.empty() ? 0 : 0.15 * (robust.hi.z - robust.lo.z);
    box.add(Vec3{a_.x, a_.y, robust.empty() ? strip.centre.z : robust.lo.z - room});
    box.add(Vec3{b_.x, b_.y, robust.empty() ? strip.centre.z : robust.hi.z});
    c.look_at_all(box, stage_->height() > 0 ? static_cast<double>(stage_->width()) / stage_->height() : 3);
    stage_->set_camera(c);
}

void SectionPane::say_where() {
    const Lengths& l = width_->lengths();
    where_->setText(tr("Section %1 long, %2 wide")
                        .arg(l.text(std::hypot(b_.x - a_.x, b_.y - a_.y)), l.text(width_->in_data())));
    axes_->set_line(a_, b_, l);
}

void SectionPane::work_out() {
    held_.clear();
    say_where();
    using Result = std::vector<Held>;
    latest_.start<Result>(
        tr("Cutting the section"),
        [site = site_, planes = select::half_spaces(box())](Progress& p, Result& result) {
            for (const site::ItemPtr& i : site->items) {
                bool known = false;
                for (const Held& h : result) known |= h.cloud.lock() == i->cloud;
                if (known) continue;
                result.push_back({i->cloud, std::make_shared<const ElementSet>(select::inside(
                                                *i->cloud, planes, ElementSet::all(i->cloud->size()), p))});
            }
        },
        [this](Result& result) {
            held_ = std::move(result);
            draw();
            emit changed();
        },
        {}, Jobs::Show::IfLong);
}

void SectionPane::refresh(const site::SitePtr& site, const site::Parts& ghosts) {
    site_ = site;
    ghosts_ = ghosts;
    width_->set_lengths(Lengths(*site));
    if (!open_) return;
    say_where();
    for (const site::ItemPtr& i : site->items)
        if (!strip_of(i->cloud.get()) && !held_.empty()) return work_out();
    draw();
}

site::SetPtr SectionPane::strip_of(const cloud::PointCloud* cloud) const {
    for (const Held& h : held_)
        if (h.cloud.lock().get() == cloud) return h.set;
    return nullptr;
}

void SectionPane::draw() {
    std::vector<render::DrawItem> items;
    const render::Scene whole = render::scene_of(*site_, ghosts_);
    for (render::DrawItem d : whole.items()) {
        const site::SetPtr strip = strip_of(d.cloud.get());
        if (!strip) continue;
        d.hidden = std::make_shared<const ElementSet>(*d.hidden | ~*strip);
        if (d.ghosts) d.ghosts = std::make_shared<const ElementSet>(*d.ghosts & *strip);
        items.push_back(std::move(d));
    }
    stage_->set_scene(std::make_shared<const render::Scene>(std::move(items)));
}

std::vector<Vec3> SectionPane::outline() const {
    if (!open_) return {};
    const double length = std::hypot(b_.x - a_.x, b_.y - a_.y);
    const Vec3 n = Vec3{-(b_.y - a_.y), b_.x - a_.x, 0} * (width_->in_data() / 2 / length);
    return {a_ + n, b_ + n, b_ - n, a_ - n, a_ + n, a_, b_};
}

bool SectionPane::is_near(const std::vector<Vec3>& places) const {
    const Vec3 line = normalized({b_.x - a_.x, b_.y - a_.y, 0});
    for (const Vec3& p : places) {
        const Vec3 d = p - a_;
        if (std::fabs(line.x * d.y - line.y * d.x) <= width_->in_data()) return true;
    }
    return false;
}

void SectionPane::keyPressEvent(QKeyEvent* e) {
    const int by = e->key() == Qt::Key_PageUp ? 1 : e->key() == Qt::Key_PageDown ? -1 : 0;
    if (by != 0) return e->modifiers() & Qt::ShiftModifier ? step(0, by) : step(by, 0);
    QWidget::keyPressEvent(e);
}

}  // namespace pristine::app
