#include "app/panes/profile_pane.h"

#include <QChart>
#include <QChartView>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLegendMarker>
#include <QLineSeries>
#include <QMouseEvent>
#include <QScatterSeries>
#include <QTimer>
#include <QValueAxis>
#include <algorithm>
#include <cmath>

#include "app/look/lengths.h"
#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/panes/curve_colours.h"
#include "core/cloud/triangles.h"
#include "core/geometry/chainage.h"
#include "core/io/mesh/mesh_cloud.h"

namespace pristine::app {
namespace {

// So far beside the line a mark still belongs to the profile, metres.
constexpr double kBeside = 0.5;

}  // namespace

ProfilePane::ProfilePane(Document* document, Jobs* jobs, QWidget* parent)
    : ChartPane(QStringLiteral("profile"), tr("the profile"), jobs, parent), document_(document) {
    head()->addWidget(new QLabel(tr("Profile along"), this));
    line_ = new QComboBox(this);
    line_->setObjectName(QStringLiteral("profileLine"));
    line_->setAccessibleName(tr("The line that the profile runs along"));
    head()->addWidget(line_);
    connect(line_, &QComboBox::activated, this, &ProfilePane::compute);
    keep_ = make_button(this, "profileKeep", tr("Keep as lines"),
                        tr("Each curve as a line of the site where it lies on its surface, for export"));
    head()->addWidget(keep_);
    exaggeration_ = new QDoubleSpinBox(this);
    exaggeration_->setObjectName(QStringLiteral("profileExaggeration"));
    exaggeration_->setAccessibleName(tr("How much larger heights are drawn than lengths"));
    exaggeration_->setToolTip(exaggeration_->accessibleName());
    exaggeration_->setRange(0, 100);
    exaggeration_->setDecimals(1);
    exaggeration_->setPrefix(QStringLiteral("× "));
    exaggeration_->setSpecialValueText(tr("as they fit"));
    head()->addWidget(new QLabel(tr("heights"), this));
    head()->addWidget(exaggeration_);
    connect(exaggeration_, &QDoubleSpinBox::valueChanged, this, &ProfilePane::scale_heights);
    view()->viewport()->setMouseTracking(true);
    view()->viewport()->installEventFilter(this);
    // Labels of another width leave another place for the drawing.
    connect(chart(), &QChart::plotAreaChanged, this, [this] {
        if (exaggeration_->value() > 0) QTimer::singleShot(0, this, &ProfilePane::scale_heights);
    });
    connect(keep_, &QPushButton::clicked, this, &ProfilePane::keep_lines);
}

void ProfilePane::keep_lines() {
    std::vector<site::Line> fresh;
    for (const Curve& c : curves_)
        for (std::size_t k = 0; k < c.stretches.size(); ++k) {
            site::Line l;
            for (const measure::ProfilePoint& p : c.stretches[k])
                if (l.points.empty() || norm(p.place - l.points.back()) > 0) l.points.push_back(p.place);
            if (l.points.size() < 2) continue;
            QString name = tr("%1 along %2").arg(QString::fromStdString(c.name), line_->currentText());
            if (c.stretches.size() > 1) name += QStringLiteral(" %1").arg(k + 1);
            l.name = name.toStdString();
            fresh.push_back(std::move(l));
        }
    if (fresh.empty()) return;
    document_->apply(tr("Keep %n line(s) of the profile", "", static_cast<int>(fresh.size())),
                     [&](const site::Site& s) { return site::put_lines(s, std::move(fresh)); });
}

void ProfilePane::refresh() {
    if (!is_open()) return;
    const quint64 before = line_->currentData().toULongLong();
    line_->clear();
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->visible) line_->addItem(QString::fromStdString(l->name), static_cast<quint64>(l->id));
    // The line drawn last is most likely meant.
    const int at = line_->findData(before);
    line_->setCurrentIndex(at >= 0 ? at : line_->count() - 1);
    compute();
}

void ProfilePane::compute() {
    const site::SitePtr s = document_->site();
    const site::LinePtr line = s->line(line_->currentData().toULongLong());
    std::vector<site::ItemPtr> surfaces;
    for (const site::ItemPtr& i : s->items)
        if (i->visible && i->role == site::ItemRole::Terrain) surfaces.push_back(i);
    latest_.drop();
    if (!line || surfaces.empty()) {
        curves_.clear();
        draw();
        return say(line ? tr("No surface is shown.") : tr("Draw a line across the surfaces first."));
    }
    if (!curves_.empty()) say(tr("Out of date; computing…"));
    using Curves = std::vector<Curve>;
    latest_.start<Curves>(
        tr("Profile"),
        [=](Progress& p, Curves& curves) {
            std::vector<Vec3> points = line->points;
            if (line->closed) points.push_back(points.front());
            for (const site::ItemPtr& i : surfaces) {
                p.check();
                curves.push_back({i->name, measure::profile(io::mesh_of(*i->cloud, ~*i->absent), points)});
            }
        },
        [this](Curves& curves) {
            curves_ = std::move(curves);
            say({});
            draw();
        },
        [this](const QString& why) { say(why); }, Jobs::Show::IfLong);
}

void ProfilePane::draw() {
    clear_chart();
    keep_->setEnabled(!curves_.empty());
    const Lengths lengths(*document_->site());
    const QString unit =
        lengths.suffix().isEmpty() ? QString() : QStringLiteral(" [%1]").arg(lengths.suffix().trimmed());
    double lo = INFINITY, hi = -INFINITY, end = 0;
    for (std::size_t c = 0; c < curves_.size(); ++c)
        for (std::size_t k = 0; k < curves_[c].stretches.size(); ++k) {
            auto* series = new QLineSeries;
            series->setName(QString::fromStdString(curves_[c].name));
            series->setPen(QPen(curve_colour(c), 1.8));
            for (const measure::ProfilePoint& p : curves_[c].stretches[k]) {
                const double z = lengths.shown(p.place.z);
                series->append(lengths.shown(p.chainage), z);
                lo = std::min(lo, z), hi = std::max(hi, z), end = std::max(end, lengths.shown(p.chainage));
            }
            chart()->addSeries(series);
            if (k > 0) chart()->legend()->markers(series).front()->setVisible(false);
        }
    if (!(lo <= hi)) return;
    find_marks();
    for (const MarkPlace& m : marks_)
        lo = std::min(lo, lengths.shown(m.height)), hi = std::max(hi, lengths.shown(m.height));
    draw_marks();
    auto* x = new QValueAxis;
    x->setRange(0, end);
    x->setTitleText(tr("Along the line%1").arg(unit));
    auto* y = new QValueAxis;
    lo_ = lo, hi_ = hi;
    y->setTitleText(tr("Height%1").arg(unit));
    chart()->addAxis(x, Qt::AlignBottom);
    chart()->addAxis(y, Qt::AlignLeft);
    for (QAbstractSeries* s : chart()->series()) {
        s->attachAxis(x);
        s->attachAxis(y);
    }
    scale_heights();
}

// Heights as large as they fit, or so many times as large as lengths: then the chart shows more or less of
// them about their middle.
void ProfilePane::scale_heights() {
    const auto axes = chart()->axes();
    if (axes.size() < 2 || !(lo_ <= hi_)) return;
    auto* x = qobject_cast<QValueAxis*>(axes[0]);
    auto* y = qobject_cast<QValueAxis*>(axes[1]);
    const QRectF area = chart()->plotArea();
    if (exaggeration_->value() <= 0 || area.width() < 1) {
        const double margin = std::max(0.05 * (hi_ - lo_), 0.01);
        y->setRange(lo_ - margin, hi_ + margin);
        return y->applyNiceNumbers();
    }
    const double across = (x->max() - x->min()) / area.width();  // a pixel
    const double half = 0.5 * across / exaggeration_->value() * area.height(), middle = 0.5 * (lo_ + hi_);
    if (std::fabs(y->max() - y->min() - 2 * half) < 1e-4 * half && exaggerated_ == exaggeration_->value())
        return;
    exaggerated_ = exaggeration_->value();
    y->setRange(middle - half, middle + half);
}

// The chainage of the corner of a curve within eight pixels, else the one that is given.
double ProfilePane::snapped(double chainage, double height) const {
    const Lengths l(*document_->site());
    const QPointF at = chart()->mapToPosition({chainage, height});
    double best = 8, found = chainage;
    for (const Curve& c : curves_)
        for (const auto& stretch : c.stretches)
            for (const measure::ProfilePoint& p : stretch) {
                const QPointF q = chart()->mapToPosition({l.shown(p.chainage), l.shown(p.place.z)});
                if (const double d = std::hypot(q.x() - at.x(), q.y() - at.y()); d < best)
                    best = d, found = l.shown(p.chainage);
            }
    return found;
}

QString ProfilePane::told_at(const QPointF& in_view) const {
    const QPointF in_chart = chart()->mapFromScene(view()->mapToScene(in_view.toPoint()));
    if (curves_.empty() || chart()->axes().size() < 2 || !chart()->plotArea().contains(in_chart)) return {};
    const QPointF value = chart()->mapToValue(in_chart);
    const double chainage = snapped(value.x(), value.y());
    const Lengths l(*document_->site());
    QString text = tr("at %1").arg(l.number(l.data(chainage), 1) + l.suffix());
    for (const Curve& c : curves_)
        for (const auto& stretch : c.stretches)
            for (std::size_t i = 0; i + 1 < stretch.size(); ++i) {
                const measure::ProfilePoint &a = stretch[i], &b = stretch[i + 1];
                const double along = l.data(chainage), length = b.chainage - a.chainage;
                if (along < a.chainage || along >= b.chainage + (i + 2 == stretch.size() ? 1e-9 : 0))
                    continue;
                const double z =
                    a.place.z + (length > 0 ? (along - a.chainage) / length : 0) * (b.place.z - a.place.z);
                text += tr("; %1 %2").arg(QString::fromStdString(c.name), l.number(z, 1) + l.suffix());
            }
    return text;
}

bool ProfilePane::eventFilter(QObject* watched, QEvent* e) {
    if (watched == view()->viewport() && e->type() == QEvent::MouseMove && !curves_.empty())
        say(told_at(static_cast<QMouseEvent*>(e)->position()));
    return ChartPane::eventFilter(watched, e);
}

void ProfilePane::find_marks() {
    marks_.clear();
    const site::SitePtr s = document_->site();
    const site::LinePtr line = s->line(line_->currentData().toULongLong());
    if (!line) return;
    std::vector<Vec3> along = line->points;
    if (line->closed) along.push_back(along.front());
    const double reach = kBeside / Lengths(*s).data_metres();
    for (const site::MarkPtr& m : s->marks)
        for (const Vec3& p : m->points)
            if (const auto at = chainage_of(along, p); m->visible && at && at->off <= reach)
                marks_.push_back({m->name, at->along, p.z});
}

void ProfilePane::draw_marks() {
    if (marks_.empty()) return;
    const Lengths lengths(*document_->site());
    auto* series = new QScatterSeries;
    series->setName(tr("Marks up to %1 beside the line").arg(lengths.text(kBeside / lengths.data_metres())));
    series->setMarkerSize(9);
    series->setColor(QColor(0x1D, 0x27, 0x33));
    series->setBorderColor(QColor(0x8F, 0xE3, 0xD0));
    for (const MarkPlace& m : marks_) series->append(lengths.shown(m.chainage), lengths.shown(m.height));
    chart()->addSeries(series);
}

QString ProfilePane::table() const {
    const Lengths lengths(*document_->site());
    const QString unit = lengths.suffix().trimmed();
    QString csv = QStringLiteral("surface,chainage [%1],east,north,height [%1]\n").arg(unit);
    for (const Curve& c : curves_)
        for (const auto& stretch : c.stretches)
            for (const measure::ProfilePoint& p : stretch)
                csv += QStringLiteral("\"%1\",%2,%3,%4,%5\n")
                           .arg(QString::fromStdString(c.name))
                           .arg(lengths.shown(p.chainage), 0, 'f', 3)
                           .arg(p.place.x, 0, 'f', 3)
                           .arg(p.place.y, 0, 'f', 3)
                           .arg(lengths.shown(p.place.z), 0, 'f', 4);
    for (const MarkPlace& m : marks_)
        csv += QStringLiteral("\"%1\",%2,,,%3\n")
                   .arg(QString::fromStdString(m.name))
                   .arg(lengths.shown(m.chainage), 0, 'f', 3)
                   .arg(lengths.shown(m.height), 0, 'f', 4);
    return csv;
}

}  // namespace pristine::app
