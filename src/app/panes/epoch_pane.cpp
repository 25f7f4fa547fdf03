#include "app/panes/epoch_pane.h"

#include <QBarCategoryAxis>
#include <QBarSeries>
#include <QBarSet>
#include <QChart>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLegendMarker>
#include <QLineSeries>
#include <QValueAxis>
#include <algorithm>
#include <cmath>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/cloud/triangles.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/measure/above.h"
#include "core/measure/noise.h"
#include "core/site/heights.h"
#include "core/surface/clip.h"
#include "render/scene.h"

namespace pristine::app {
namespace {

enum What : int { kLevel, kChange };
constexpr double kBar = 0.5;  // width of a bar, of a category

bool is_epoch(const site::Site& s, const site::Item& i) {
    return !site::date_of(s, i).empty() && i.role == site::ItemRole::Terrain;
}

std::vector<site::ItemPtr> epochs_of(const site::Site& s) {
    std::vector<site::ItemPtr> items;
    for (const site::ItemPtr& i : s.items)
        if (is_epoch(s, *i)) items.push_back(i);
    std::stable_sort(items.begin(), items.end(), [&](const auto& a, const auto& b) {
        return site::date_of(s, *a) < site::date_of(s, *b);
    });
    return items;
}

}  // namespace

EpochPane::EpochPane(Document* document, Jobs* jobs, QWidget* parent)
    : ChartPane(QStringLiteral("epoch"), tr("the volumes"), jobs, parent), document_(document) {
    head()->addWidget(new QLabel(tr("Volumes by date:"), this));
    what_ = new QComboBox(this);
    what_->setObjectName(QStringLiteral("epochWhat"));
    what_->addItems({tr("above the level"), tr("change from the date before")});
    head()->addWidget(what_);
    level_ = new QDoubleSpinBox(this);
    level_->setObjectName(QStringLiteral("epochLevel"));
    level_->setAccessibleName(tr("The level that volumes are counted from"));
    level_->setRange(-1e7, 1e7);
    level_->setDecimals(3);
    level_->setKeyboardTracking(false);
    head()->addWidget(level_);
    within_ = new QComboBox(this);
    within_->setObjectName(QStringLiteral("epochWithin"));
    within_->setAccessibleName(tr("The line that surfaces are cut at first"));
    head()->addWidget(within_);
    connect(within_, &QComboBox::activated, this, &EpochPane::compute);
    connect(level_, &QDoubleSpinBox::valueChanged, this, &EpochPane::compute);
    connect(what_, &QComboBox::activated, this, [this] {
        draw();
        say_last();
    });
}

void EpochPane::refresh() {
    if (!is_open()) return;
    const quint64 before = within_->currentData().toULongLong();
    within_->clear();
    within_->addItem(tr("everywhere"), quint64{0});
    for (const site::LinePtr& l : document_->site()->lines)
        if (l->closed)
            within_->addItem(tr("inside %1").arg(QString::fromStdString(l->name)),
                             static_cast<quint64>(l->id));
    within_->setCurrentIndex(std::max(0, within_->findData(before)));
    const auto items = epochs_of(*document_->site());
    if (!level_known_ && !items.empty()) {
        double lowest = INFINITY;
        for (const site::ItemPtr& i : items) lowest = std::min(lowest, i->cloud->robust_bounds().lo.z);
        const QSignalBlocker quiet(level_);
        level_->setValue(std::floor(Lengths(*document_->site()).shown(lowest)));
        level_known_ = true;
    }
    compute();
}

void EpochPane::compute() {
    if (!is_open()) return;
    const site::SitePtr s = document_->site();
    const auto items = epochs_of(*s);
    const site::LinePtr line = s->line(within_->currentData().toULongLong());
    const double level = Lengths(*s).data(level_->value());
    latest_.drop();
    if (items.empty()) {
        epochs_.clear();
        draw();
        return say(tr("No surface has a date."));
    }
    say(tr("Computing…"));
    using Epochs = std::vector<Epoch>;
    latest_.start<Epochs>(
        tr("Volumes by date"),
        [=](Progress& p, Epochs& made) {
            mesh::TriMesh before;
            measure::DifferenceOptions options;
            for (const site::ItemPtr& i : items) {
                mesh::TriMesh m = io::mesh_of(*i->cloud, ~*i->absent);
                if (line)
                    m = surface::clip(m, {line->points}, surface::Keep::Inside, surface::Edges::Exact, p);
                options.before = options.after;
                options.after = site::heights_of(*s, *i);
                if (!(options.after.noise > 0)) options.after.noise = measure::noise_of(m);
                const measure::Base base = measure::level(level);
                Epoch e{i->name,
                        site::date_of(*s, *i),
                        measure::volumes(m, base),
                        measure::above(m, base, options.after, p),
                        {}};
                if (!made.empty()) e.change = measure::difference(before, m, options, p);
                made.push_back(std::move(e));
                before = std::move(m);
            }
        },
        [this](Epochs& made) {
            epochs_ = std::move(made);
            draw();
            say_last();
        },
        [this](const QString& why) { say(why); }, Jobs::Show::IfLong);
}

// The newest figure with its standard deviation.
void EpochPane::say_last() {
    if (epochs_.empty()) return say(tr("No surface has a date."));
    const Epoch& e = epochs_.back();
    const Lengths l(*document_->site());
    const QString date = QString::fromStdString(e.date);
    if (what_->currentIndex() == kLevel)
        return say(tr("%1: %2 above").arg(date, l.with_spread(e.spread.fill, e.spread.sigma_fill, 3)));
    if (!e.change) return say(tr("There is only one date: nothing to compare it with."));
    say(tr("%1: cut %2, fill %3, net %4")
            .arg(date, l.with_spread(e.change->cut, e.change->sigma_cut, 3),
                 l.with_spread(e.change->fill, e.change->sigma_fill, 3),
                 l.with_spread(e.change->net(), e.change->sigma_net, 3)));
}

// One standard deviation to either side of the top of each bar.
void EpochPane::draw_spreads(bool change) {
    const double v = std::pow(Lengths(*document_->site()).shown(1), 3);
    const auto whisker = [&](double at, double top, double sigma) {
        if (!(sigma > 0)) return;
        auto* line = new QLineSeries;
        line->setPen(QPen(token::ink, 2));
        constexpr double kHalf = 0.04;  // of a category
        for (const QPointF& p :
             {QPointF(at - kHalf, top - sigma), QPointF(at + kHalf, top - sigma), QPointF(at, top - sigma),
              QPointF(at, top + sigma), QPointF(at - kHalf, top + sigma), QPointF(at + kHalf, top + sigma)})
            line->append(p);
        chart()->addSeries(line);
        for (QAbstractAxis* axis : chart()->axes()) line->attachAxis(axis);
        for (QLegendMarker* m : chart()->legend()->markers(line)) m->setVisible(false);
    };
    int at = 0;
    for (const Epoch& e : epochs_) {
        if (change && !e.change) continue;
        if (change) {
            whisker(at - kBar / 4, v * e.change->fill, v * e.change->sigma_fill);
            whisker(at + kBar / 4, -v * e.change->cut, v * e.change->sigma_cut);
        } else {
            whisker(at, v * e.volumes.above, v * e.spread.sigma_fill);
        }
        ++at;
    }
}

void EpochPane::draw() {
    renew_chart();
    level_->setEnabled(what_->currentIndex() == kLevel);
    const Lengths l(*document_->site());
    const double v = std::pow(l.shown(1), 3);
    const bool change = what_->currentIndex() == kChange;
    auto* first = new QBarSet(change ? tr("Fill") : tr("Above"));
    auto* second = change ? new QBarSet(tr("Cut")) : nullptr;
    first->setColor(QColor::fromRgb(change ? render::change_colour(235) : 0x1F5FA8));
    if (second) second->setColor(QColor::fromRgb(render::change_colour(20)));
    QStringList dates;
    double lo = 0, hi = 0;
    for (const Epoch& e : epochs_) {
        if (change && !e.change) continue;
        dates << QString::fromStdString(e.date);
        const double up = v * (change ? e.change->fill : e.volumes.above),
                     down = change ? -v * e.change->cut : 0;
        *first << up;
        if (second) *second << down;
        lo = std::min(lo, down), hi = std::max(hi, up);
    }
    auto* series = new QBarSeries;
    series->setBarWidth(kBar);
    series->append(first);
    if (second) series->append(second);
    if (dates.isEmpty()) {
        delete series;
        return;
    }
    chart()->addSeries(series);
    auto* x = new QBarCategoryAxis;
    x->append(dates);
    auto* y = new QValueAxis;
    y->setRange(lo * 1.05, hi > lo ? hi * 1.05 : lo + 1);
    y->setTitleText(tr("Volume [%1]").arg(l.power(3).trimmed()));
    // Labels that do not fit are shown as dots: few of them in a low pane, without digits that say nothing.
    y->setLabelFormat(hi - lo > 20 ? QStringLiteral("%.0f") : QStringLiteral("%.2f"));
    QFont small = y->labelsFont();
    small.setPointSizeF(8);
    y->setLabelsFont(small);
    y->setTitleFont(small);
    if (height() < 280) y->setTickCount(3);
    y->applyNiceNumbers();
    chart()->addAxis(x, Qt::AlignBottom);
    chart()->addAxis(y, Qt::AlignLeft);
    series->attachAxis(x);
    series->attachAxis(y);
    draw_spreads(change);
}

QString EpochPane::table() const {
    const Lengths l(*document_->site());
    const double v = std::pow(l.shown(1), 3);
    QString csv = QStringLiteral(
                      "date,surface,above%1,below%1,cut%1,fill%1,net%1,sigma above%1,sigma cut%1,"
                      "sigma fill%1,sigma net%1\n")
                      .arg(QStringLiteral(" [%1]").arg(l.power(3).trimmed()));
    for (const Epoch& e : epochs_) {
        csv += QStringLiteral("%1,\"%2\",%3,%4")
                   .arg(QString::fromStdString(e.date), QString::fromStdString(e.name))
                   .arg(v * e.volumes.above, 0, 'f', 3)
                   .arg(v * e.volumes.below, 0, 'f', 3);
        const auto number = [&](double volume) { return QString::number(v * volume, 'f', 3); };
        const measure::Difference* d = e.change ? &*e.change : nullptr;
        for (const double volume :
             {d ? d->cut : NAN, d ? d->fill : NAN, d ? d->net() : NAN, e.spread.sigma_fill,
              d ? d->sigma_cut : NAN, d ? d->sigma_fill : NAN, d ? d->sigma_net : NAN})
            csv += QLatin1Char(',') + (std::isnan(volume) ? QString() : number(volume));
        csv += QLatin1Char('\n');
    }
    return csv;
}

}  // namespace pristine::app
