#include "app/panels/rule_card.h"

#include <QComboBox>
#include <QFormLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/shell/document.h"
#include "app/shell/jobs.h"
#include "app/shell/theme.h"

namespace pristine::app {
namespace {

constexpr double kMargin = 8, kBottom = 18;

}  // namespace

RangeHistogram::RangeHistogram(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("ruleHistogram"));
    setAccessibleName(
        tr("Spread of the values: arrow keys move the upper end of the range, with Shift the lower"));
    setToolTip(tr("Drag the ends of the range"));
    setFocusPolicy(Qt::TabFocus);
    setMinimumHeight(120);
}

void RangeHistogram::set(const score::Profile& p) {
    profile_ = p;
    update();
}

void RangeHistogram::set_range(double lo, double hi, bool outside) {
    lo_ = lo;
    hi_ = hi;
    outside_ = outside;
    update();
}

double RangeHistogram::x_of(double value) const {
    const double t = std::isinf(value) ? (value > 0 ? 1.0 : 0.0) : profile_.place(value);
    return kMargin + std::clamp(t, 0.0, 1.0) * (width() - 2 * kMargin);
}

double RangeHistogram::value_at(double x) const {
    return profile_.value_at(std::clamp((x - kMargin) / std::max(1.0, width() - 2 * kMargin), 0.0, 1.0));
}

void RangeHistogram::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -kBottom);
    p.setPen(hasFocus() ? QPen(token::pick, 2) : QPen(token::line));
    p.setBrush(QColor(0xFF, 0xFD, 0xF9));
    p.drawRoundedRect(box, 4, 4);
    if (profile_.count == 0) return;
    double most = 1;
    for (const std::uint64_t n : profile_.bins) most = std::max(most, std::log1p(static_cast<double>(n)));
    const double w = (width() - 2 * kMargin) / static_cast<double>(profile_.bins.size());
    p.setPen(Qt::NoPen);
    for (std::size_t b = 0; b < profile_.bins.size(); ++b) {
        if (profile_.bins[b] == 0) continue;
        const double middle = value_at(kMargin + (static_cast<double>(b) + 0.5) * w);
        const bool in = (middle >= lo_ && middle <= hi_) != outside_;
        const double h = std::log1p(static_cast<double>(profile_.bins[b])) / most * (box.height() - 8);
        p.setBrush(in ? token::pick : QColor(0xB9, 0xB3, 0xA6));
        p.drawRect(QRectF(kMargin + static_cast<double>(b) * w, box.bottom() - 1 - std::max(1.5, h),
                          std::max(1.0, w - 0.6), std::max(1.5, h)));
    }
    for (const double v : {lo_, hi_}) {
        const double x = x_of(v);
        p.setPen(QPen(token::ink, 2));
        p.drawLine(QPointF(x, box.top() + 2), QPointF(x, box.bottom()));
        p.setBrush(token::ink);
        p.drawEllipse(QPointF(x, box.top() + 8), 4.5, 4.5);
    }
}

void RangeHistogram::move_end(bool high, double value) {
    // An end at the rim takes everything beyond it as well.
    if (high)
        hi_ = std::max(value >= profile_.bin_hi ? INFINITY : value, lo_);
    else
        lo_ = std::min(value <= profile_.bin_lo ? -INFINITY : value, hi_);
    update();
    emit dragged(lo_, hi_);
}

void RangeHistogram::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || profile_.count == 0) return;
    const double x = e->position().x(), to_lo = std::fabs(x - x_of(lo_)), to_hi = std::fabs(x - x_of(hi_));
    high_ = to_hi < to_lo || (to_hi == to_lo && x > x_of(hi_));
    dragging_ = true;
    move_end(high_, value_at(x));
}

void RangeHistogram::mouseMoveEvent(QMouseEvent* e) {
    if (dragging_) move_end(high_, value_at(e->position().x()));
}

void RangeHistogram::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(dragging_, false)) emit let_go();
}

void RangeHistogram::keyPressEvent(QKeyEvent* e) {
    const int step = e->key() == Qt::Key_Right ? 1 : e->key() == Qt::Key_Left ? -1 : 0;
    if (step == 0 || profile_.count == 0) return QWidget::keyPressEvent(e);
    const bool high = !(e->modifiers() & Qt::ShiftModifier);
    const double now = std::clamp(high ? hi_ : lo_, profile_.bin_lo, profile_.bin_hi);
    move_end(high, profile_.value_at(std::clamp(profile_.place(now) + step / 100.0, 0.0, 1.0)));
    emit let_go();
}

RuleCard::RuleCard(Document* document, Jobs* jobs, QWidget* parent)
    : QWidget(parent), document_(document), jobs_(jobs) {
    setObjectName(QStringLiteral("workCard"));  // it looks like one
    setAttribute(Qt::WA_StyledBackground);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 12, 14, 12);
    layout->setSpacing(8);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("Rule"), this);
    title->setObjectName(QStringLiteral("cardTitle"));
    head->addWidget(title);
    head->addStretch(1);
    auto* close = new QPushButton(tr("Close"), this);
    close->setObjectName(QStringLiteral("ruleClose"));
    head->addWidget(close);
    layout->addLayout(head);
    which_ = new QComboBox(this);
    which_->setObjectName(QStringLiteral("ruleScore"));
    which_->setAccessibleName(tr("What points are judged by"));
    for (const score::Score& s : score::scores())
        which_->addItem(tr(s.title.c_str()), QString::fromStdString(s.id));
    layout->addWidget(which_);
    meaning_ = new QLabel(this);
    meaning_->setObjectName(QStringLiteral("soft"));
    meaning_->setWordWrap(true);
    layout->addWidget(meaning_);
    parameters_ = new QFormLayout;
    layout->addLayout(parameters_);
    state_ = new QLabel(this);
    state_->setObjectName(QStringLiteral("ruleState"));
    state_->setWordWrap(true);
    layout->addWidget(state_);
    histogram_ = new RangeHistogram(this);
    layout->addWidget(histogram_);
    auto* ends = new QHBoxLayout;
    const auto end = [&](const char* name, const QString& what) {
        auto* box = new QDoubleSpinBox(this);
        box->setObjectName(QString::fromLatin1(name));
        box->setAccessibleName(what);
        box->setToolTip(what);
        box->setRange(-1e12, 1e12);
        box->setDecimals(3);
        box->setKeyboardTracking(false);
        connect(box, &QDoubleSpinBox::valueChanged, this, &RuleCard::range_edited);
        return box;
    };
    lo_ = end("ruleLow", tr("Lower end of the range"));
    hi_ = end("ruleHigh", tr("Upper end of the range"));
    outside_ = new QPushButton(tr("Inside"), this);
    outside_->setObjectName(QStringLiteral("ruleOutside"));
    outside_->setCheckable(true);
    outside_->setAccessibleName(tr("Take what lies inside the range, or outside"));
    ends->addWidget(lo_, 1);
    ends->addWidget(outside_);
    ends->addWidget(hi_, 1);
    layout->addLayout(ends);
    sentence_ = new QLabel(this);
    sentence_->setObjectName(QStringLiteral("ruleSentence"));
    sentence_->setWordWrap(true);
    layout->addWidget(sentence_);
    combine_ = new QComboBox(this);
    combine_->setObjectName(QStringLiteral("ruleCombine"));
    combine_->setAccessibleName(tr("How it goes together with what is selected"));
    combine_->addItems({tr("instead of what is selected"), tr("or: added to what is selected"),
                        tr("but not: taken off what is selected"), tr("and: only what is selected too")});
    layout->addWidget(combine_);
    take_ = new QPushButton(tr("Select these"), this);
    take_->setObjectName(QStringLiteral("ruleTake"));
    layout->addWidget(take_);
    layout->addStretch(1);
    hide();
    connect(close, &QPushButton::clicked, this, &RuleCard::close_card);
    connect(which_, &QComboBox::activated, this, &RuleCard::choose_score);
    connect(histogram_, &RangeHistogram::dragged, this, [this](double lo, double hi) {
        filling_ = true;
        lo_->setValue((std::isfinite(lo) ? lo : profile_.min) / per_shown());
        hi_->setValue((std::isfinite(hi) ? hi : profile_.max) / per_shown());
        filling_ = false;
        say();
        emit preview();
    });
    connect(histogram_, &RangeHistogram::let_go, this, &RuleCard::chosen);
    connect(outside_, &QPushButton::toggled, this, [this](bool on) {
        outside_->setText(on ? tr("Outside") : tr("Inside"));
        range_edited();
    });
    connect(combine_, &QComboBox::activated, this, [this] {
        emit preview();
        emit chosen();
    });
    connect(take_, &QPushButton::clicked, this, &RuleCard::chosen);
}

double RuleCard::per_shown() const {
    return score_ && score_->unit == "length" ? Lengths(*document_->site()).data(1) : 1;
}

void RuleCard::open() {
    open_ = true;
    show();
    choose_score();
}

void RuleCard::close_card() {
    open_ = false;
    ++version_;
    hide();
    emit closed();
}

void RuleCard::choose(const QString& score_id) {
    which_->setCurrentIndex(which_->findData(score_id));
    choose_score();
}

void RuleCard::choose_score() {
    emit begun();
    score_ = &score::find(which_->currentData().toString().toStdString());
    while (parameters_->rowCount() > 0) parameters_->removeRow(0);
    boxes_.clear();
    const Lengths lengths(*document_->site());
    for (const score::Parameter& p : score_->parameters) {
        auto* box = new QDoubleSpinBox(this);
        const bool is_length = p.unit == "length";
        // Usual lengths are metres: data in another unit get them in that.
        const double factor = is_length ? 1 / lengths.metres() : 1;
        box->setObjectName(QStringLiteral("rule.") + QString::fromStdString(p.name));
        box->setAccessibleName(tr(p.title.c_str()));
        box->setToolTip(tr(p.help.c_str()));
        box->setDecimals(p.whole ? 0 : 3);
        box->setRange(p.least * factor, p.most * factor);
        box->setSingleStep(p.whole ? 1 : 0.05);
        box->setSuffix(is_length ? lengths.suffix() : p.unit == "angle" ? tr("°") : QString());
        box->setValue(p.usual * factor);
        box->setKeyboardTracking(false);
        connect(box, &QDoubleSpinBox::valueChanged, this, &RuleCard::compute);
        parameters_->addRow(tr(p.title.c_str()), box);
        boxes_.push_back(box);
    }
    meaning_->setText(tr("High: %1. Low: %2.").arg(tr(score_->high.c_str()), tr(score_->low.c_str())));
    meaning_->setToolTip(score_->wrong.empty() ? QString()
                                               : tr("When it is wrong: %1").arg(tr(score_->wrong.c_str())));
    compute();
}

void RuleCard::refresh() {
    if (!open_) return;
    const site::ItemPtr item = document_->site()->active_item();
    if ((item ? item->cloud : nullptr) != cloud_) compute();
}

void RuleCard::compute() {
    if (!open_ || !score_) return;
    const site::ItemPtr item = document_->site()->active_item();
    column_ = nullptr;
    cloud_ = item ? item->cloud : nullptr;
    histogram_->set({});
    sentence_->clear();
    if (!item) return state_->setText(tr("Open a scan first."));
    score::Parameters given;
    const Lengths lengths(*document_->site());
    for (std::size_t i = 0; i < boxes_.size(); ++i)
        given[score_->parameters[i].name] =
            score_->parameters[i].unit == "length" ? lengths.data(boxes_[i]->value()) : boxes_[i]->value();
    used_ = given;
    struct Result {
        score::Column column;
        score::Profile profile;
    };
    const auto result = std::make_shared<Result>();
    const auto eligible = std::make_shared<const ElementSet>(site::eligible(*item));
    const unsigned version = ++version_;
    state_->setText(tr("Computing…"));
    jobs_->start(
        tr("Computing: %1").arg(which_->currentText()),
        [=, score = score_](Progress& p) {
            result->column = score::compute(*score, {*item->cloud, *eligible}, given, p);
            result->profile = score::profile(result->column, score->logarithmic);
        },
        [this, result, eligible, version] {
            if (version != version_) return;
            column_ = std::make_shared<const score::Column>(std::move(result->column));
            profile_ = std::move(result->profile);
            eligible_ = eligible;
            show_values();
        },
        [this, version](const QString& why) {
            if (version == version_) state_->setText(why.isEmpty() ? tr("Cancelled.") : why);
        });
}

// A first range: what stands far off the usual, on the side where the long tail is.
void RuleCard::show_values() {
    histogram_->set(profile_);
    if (profile_.count == 0) return state_->setText(tr("No point has a value here."));
    state_->clear();
    const double reach = std::max(6 * 1.4826 * profile_.mad, 1e-3 * (profile_.bin_hi - profile_.bin_lo));
    const bool above = profile_.max - profile_.median >= profile_.median - profile_.min;
    const double k = per_shown();
    filling_ = true;
    lo_->setValue((above ? std::min(profile_.median + reach, profile_.max) : profile_.min) / k);
    hi_->setValue((above ? profile_.max : std::max(profile_.median - reach, profile_.min)) / k);
    filling_ = false;
    range_edited();
}

std::optional<score::Step> RuleCard::step() const {
    if (!column_ || profile_.count == 0) return std::nullopt;
    const double k = per_shown();
    score::Step s;
    s.score = score_->id;
    s.parameters = used_;
    s.limits = {lo_->value() * k, hi_->value() * k, false, false, outside_->isChecked()};
    // An end at the last value has no end.
    const double slack = 0.0006 * k;
    if (!s.limits.outside && s.limits.hi >= profile_.max - slack) s.limits.hi = INFINITY;
    if (!s.limits.outside && s.limits.lo <= profile_.min + slack && std::isfinite(s.limits.hi))
        s.limits.lo = -INFINITY;
    return s;
}

site::Combine RuleCard::combine() const {
    return static_cast<site::Combine>(combine_->currentIndex());
}

site::SetPtr RuleCard::taken() const {
    const auto s = step();
    if (!s) return nullptr;
    // Sentence, preview and selection ask for the same set, many times a second.
    if (!last_ || last_of_ != column_ || last_limits_ != s->limits) {
        last_ = std::make_shared<const ElementSet>(score::within(*column_, *eligible_, s->limits));
        last_of_ = column_;
        last_limits_ = s->limits;
    }
    return last_;
}

QString RuleCard::value_of(std::uint64_t element) const {
    if (!open_ || !column_) return {};
    const double v = column_->base + static_cast<double>(column_->values[element]);
    if (!std::isfinite(v)) return tr("%1: no value here").arg(which_->currentText());
    const double usual = profile_.median;
    return tr("%1: %2, usual is %3")
        .arg(which_->currentText(), QString::number(v / per_shown(), 'g', 4),
             QString::number(usual / per_shown(), 'g', 4));
}

void RuleCard::range_edited() {
    if (filling_) return;
    const auto s = step();
    if (!s) return;
    histogram_->set_range(s->limits.lo, s->limits.hi, s->limits.outside);
    say();
    emit preview();
    emit chosen();
}

// "1.2 m and more", in the unit that is shown.
QString RuleCard::range_text(const score::Limits& l) const {
    const QString unit = score_->unit == "length"  ? Lengths(*document_->site()).suffix()
                         : score_->unit == "angle" ? tr("°")
                         : score_->unit.empty()    ? QString()
                                                   : " " + tr(score_->unit.c_str());
    const auto number = [&](double v) { return QString::number(v / per_shown(), 'g', 6); };
    if (std::isinf(l.hi)) return tr("%1%2 and more").arg(number(l.lo), unit);
    if (std::isinf(l.lo)) return tr("%1%2 and less").arg(number(l.hi), unit);
    return tr("%1 to %2%3").arg(number(l.lo), number(l.hi), unit);
}

void RuleCard::say() {
    const auto s = step();
    if (!s) return sentence_->clear();
    histogram_->set_range(s->limits.lo, s->limits.hi, s->limits.outside);
    const auto set = taken();
    const double share = eligible_->count() > 0 ? 100.0 * static_cast<double>(set->count()) /
                                                      static_cast<double>(eligible_->count())
                                                : 0;
    sentence_->setText(tr("Takes %1 points (%2 %): values %3 %4.")
                           .arg(grouped(set->count()), QString::number(share, 'g', 3),
                                s->limits.outside ? tr("outside") : tr("of"), range_text(s->limits)));
}

}  // namespace pristine::app
