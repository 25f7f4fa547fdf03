// The rule card: the range of values that is taken, and what both readings of it mean.

#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QRadioButton>
#include <cmath>

#include "app/cards/rule_card.h"
#include "app/look/make.h"
#include "app/look/range_histogram.h"
#include "app/look/theme.h"
#include "app/look/word_list.h"
#include "app/model/document.h"
#include "app/model/rule_text.h"

namespace pristine::app {
namespace {

// A scale with two ends; what the reading takes is thick and in the colour of what is selected.
QIcon reading_icon(bool outside) {
    constexpr int kScale = 2;
    QPixmap drawn(44 * kScale, 12 * kScale);
    drawn.setDevicePixelRatio(kScale);
    drawn.fill(Qt::transparent);
    QPainter p(&drawn);
    p.setRenderHint(QPainter::Antialiasing);
    const auto piece = [&](double from, double to, bool taken) {
        p.setPen(taken ? QPen(token::pick, 4, Qt::SolidLine, Qt::FlatCap)
                       : QPen(QColor(0xB9, 0xB3, 0xA6), 1.5, Qt::SolidLine, Qt::FlatCap));
        p.drawLine(QPointF(from, 6), QPointF(to, 6));
    };
    piece(1, 13, outside);
    piece(13, 31, !outside);
    piece(31, 43, outside);
    p.setPen(QPen(token::ink, 1.5));
    for (const double x : {13.0, 31.0}) p.drawLine(QPointF(x, 1), QPointF(x, 11));
    return drawn;
}

// The words of a reading: they wrap, and a click on them is one on its button.
class ReadingWords : public QLabel {
  public:
    explicit ReadingWords(QRadioButton* button) : QLabel(button->parentWidget()), button_(button) {
        setWordWrap(true);
    }

  protected:
    void mouseReleaseEvent(QMouseEvent*) override { button_->click(); }

  private:
    QRadioButton* button_;
};

}  // namespace

// Which values, or words, the rule takes.
void RuleCard::add_range() {
    histogram_ = new RangeHistogram(this);
    body()->addWidget(histogram_);
    words_ = new WordList(this);
    words_->setObjectName(QStringLiteral("ruleWords"));
    words_->setAccessibleName(tr("Words of the column: ticked ones are taken"));
    words_->hide();
    body()->addWidget(words_);
    connect(words_, &QListWidget::itemChanged, this, &RuleCard::range_edited);
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
    auto* ends = new QHBoxLayout;
    ends->addWidget(lo_, 1);
    ends->addWidget(new QLabel(tr("to"), this));
    ends->addWidget(hi_, 1);
    body()->addLayout(ends);
    // Both readings of the range, drawn and spelled out: which of them is meant is never guessed.
    const auto reading = [&](const char* name, bool outside, QLabel*& words) {
        auto* row = new QHBoxLayout;
        auto* b = new QRadioButton(this);
        b->setObjectName(QString::fromLatin1(name));
        b->setIcon(reading_icon(outside));
        b->setIconSize({44, 12});
        row->addWidget(b);
        words = new ReadingWords(b);
        words->setObjectName(QString::fromLatin1(name) + QStringLiteral("Words"));
        row->addWidget(words, 1);
        body()->addLayout(row);
        return b;
    };
    inside_ = reading("ruleInside", false, inside_words_);
    outside_ = reading("ruleOutside", true, outside_words_);
    inside_->setChecked(true);
    body()->addWidget(sentence_ = make_sentence(this, "ruleSentence"));
    connect(histogram_, &RangeHistogram::dragged, this, [this](double lo, double hi) {
        filling_ = true;
        lo_->setValue((std::isfinite(lo) ? lo : profile_.min) / per_shown());
        hi_->setValue((std::isfinite(hi) ? hi : profile_.max) / per_shown());
        filling_ = false;
        say();
        emit preview();
    });
    connect(histogram_, &RangeHistogram::let_go, this, &RuleCard::chosen);
    connect(outside_, &QRadioButton::toggled, this, &RuleCard::range_edited);
}

void RuleCard::range_edited() {
    if (filling_) return;
    const auto s = step();
    if (!s) {
        say();
        emit preview();
        return;
    }
    histogram_->set_range(s->limits.lo, s->limits.hi, s->limits.outside);
    say();
    emit preview();
    emit chosen();
}

// What each reading takes, with its number; points without a value are in neither.
void RuleCard::say_readings(const score::Limits& limits, std::uint64_t taken) {
    const Lengths l(*document_->site());
    const std::uint64_t other = profile_.count > taken ? profile_.count - taken : 0;
    score::Limits in = limits;
    in.outside = false;
    const double slack = 0.0006 * per_shown();
    if (in.hi >= profile_.max - slack) in.hi = INFINITY;
    if (in.lo <= profile_.min + slack && std::isfinite(in.hi)) in.lo = -INFINITY;
    score::Limits out = in;
    out.outside = true;
    const auto text = [&](const score::Limits& which) {
        return tr("%1: %2").arg(range_text(*score_, which, l),
                                counted(*document_, which.outside == limits.outside ? taken : other));
    };
    inside_words_->setText(text(in));
    outside_words_->setText(text(out));
    inside_->setAccessibleName(text(in));
    outside_->setAccessibleName(text(out));
}

void RuleCard::say() {
    const auto s = step();
    if (!s && column_ && by_words()) return sentence_->setText(tr("Tick the words that the rule takes."));
    if (!s) return sentence_->clear();
    histogram_->set_range(s->limits.lo, s->limits.hi, s->limits.outside);
    std::uint64_t count = 0, of = eligible_->count();
    if (beside_.empty()) {
        count = taken()->count();
    } else {
        for (const auto& one : taken_everywhere()) count += one.second->count();
        for (const score::ScoredScan& b : beside_) of += b.scan.eligible->count();
    }
    if (!s->words.empty()) {
        QStringList words;
        for (const std::string& w : s->words) words << QString::fromStdString(w);
        sentence_->setText(
            tr("Takes %1: %2 is %3.")
                .arg(counted(*document_, count), other_->currentText(), words.join(tr(" or "))));
        return;
    }
    const double share = of > 0 ? 100.0 * static_cast<double>(count) / static_cast<double>(of) : 0;
    say_readings(s->limits, count);
    sentence_->setText(tr("Takes %1 (%2 %): %3.")
                           .arg(counted(*document_, count), QString::number(share, 'g', 3),
                                range_text(*score_, s->limits, Lengths(*document_->site()))) +
                       (beside_.empty() ? QString() : " " + tr("In %1 scans.").arg(beside_.size() + 1)));
}

}  // namespace pristine::app
