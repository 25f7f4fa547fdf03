#include "app/cards/rule_card.h"

#include <QCheckBox>
#include <QElapsedTimer>
#include <QFormLayout>
#include <QRadioButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <map>

#include "app/look/colour_box.h"
#include "app/look/make.h"
#include "app/look/range_histogram.h"
#include "app/look/word_list.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/model/rule_text.h"
#include "core/base/figure.h"
#include "core/recipe/places.h"
#include "core/score/suggest.h"

namespace pristine::app {
namespace {

constexpr double kAtOnce = 1.0;  // seconds: what takes no longer is computed again after every change

}  // namespace

RuleCard::RuleCard(Document* document, Jobs* jobs, QWidget* parent)
    : SideCard(QStringLiteral("rule"), tr("Rule"), QStringLiteral("rules.md"), parent),
      document_(document),
      latest_(jobs) {
    add_choice();
    add_range();
    add_actions();
    body()->addStretch(1);
}

// What points are judged by, and how.
void RuleCard::add_choice() {
    which_ = make_choice(this, "ruleScore", tr("What points are judged by"));
    fill_scores();
    body()->addWidget(which_);
    meaning_ = make_sentence(this, "soft");
    body()->addWidget(meaning_);
    other_label_ = new QLabel(tr("Compared with"), this);
    other_ = make_choice(this, "ruleOther", other_label_->text());
    body()->addWidget(other_label_);
    body()->addWidget(other_);
    parameters_ = new QFormLayout;
    body()->addLayout(parameters_);
    all_ = new QCheckBox(tr("All scans that are shown"), this);
    all_->setObjectName(QStringLiteral("ruleAll"));
    all_->setToolTip(tr("Judges every scan that is shown, with one histogram over all of them"));
    body()->addWidget(all_);
    body()->addWidget(state_ = make_sentence(this, "ruleState"));
    connect(which_, &QComboBox::activated, this, &RuleCard::choose_score);
    connect(other_, &QComboBox::activated, this, &RuleCard::compute);
    connect(all_, &QCheckBox::toggled, this, [this](bool on) {
        compute();
        emit all_scans_changed(on);
    });
}

// What is done with what it takes.
void RuleCard::add_actions() {
    combine_ = make_choice(this, "ruleCombine", tr("How it goes together with what is selected"));
    combine_->addItems({tr("instead of what is selected"), tr("or: added to what is selected"),
                        tr("but not: taken off what is selected"), tr("and: only what is selected too")});
    body()->addWidget(combine_);
    colour_ = make_button(this, "ruleColour", tr("Colour by it"),
                          tr("The stage shows each point in the colour of its value"));
    colour_->setCheckable(true);
    extreme_ = make_button(
        this, "ruleExtreme", tr("Fly to extremes"),
        tr("Looks at the places of the range that are farthest from the usual, one after the other"));
    auto* more = new QHBoxLayout;
    more->addWidget(colour_);
    more->addWidget(extreme_);
    body()->addLayout(more);
    body()->addWidget(take_ = make_button(this, "ruleTake", tr("Select these")));
    everywhere_ = make_button(this, "ruleEverywhere", tr("Remove from all scans"),
                              tr("One entry in the ledger of each scan, one step of undo"));
    everywhere_->hide();
    body()->addWidget(everywhere_);
    connect(combine_, &QComboBox::activated, this, [this] {
        emit preview();
        emit chosen();
    });
    connect(colour_, &QPushButton::toggled, this, &RuleCard::colour_changed);
    connect(extreme_, &QPushButton::clicked, this, &RuleCard::fly_to_extreme);
    connect(take_, &QPushButton::clicked, this, &RuleCard::chosen);
    connect(everywhere_, &QPushButton::clicked, this, &RuleCard::remove_everywhere);
}

std::string RuleCard::column() const {
    return score_ && score_->needs_column ? other_->currentData().toString().toStdString() : std::string();
}

QString RuleCard::title() const {
    if (const std::string name = column(); !name.empty()) return QString::fromStdString(name);
    const bool has_unit = score_ && (score_->unit == "length" || score_->unit == "area");
    const QString unit = has_unit ? unit_text(*score_, Lengths(*document_->site())).trimmed() : QString();
    return unit.isEmpty() ? which_->currentText()
                          : QStringLiteral("%1 [%2]").arg(which_->currentText(), unit);
}

// Those for what the item in work is made of.
void RuleCard::fill_scores() {
    const site::ItemPtr item = document_->site()->active_item();
    const auto wanted =
        item && item->cloud->triangles() ? score::Score::Applies::Triangles : score::Score::Applies::Points;
    const QVariant before = which_->currentData();
    const std::vector<const score::Score*> fit = score::scores_for(wanted);
    if (which_->count() == static_cast<int>(fit.size()) &&
        which_->itemData(0).toString().toStdString() == fit.front()->id)
        return;
    which_->clear();
    for (const score::Score* s : fit) which_->addItem(tr(s->title.c_str()), QString::fromStdString(s->id));
    // To begin with, a rule that needs nothing beside the item itself.
    const auto simple = std::find_if(fit.begin(), fit.end(), [](const score::Score* s) {
        return !s->needs_other && !s->needs_line && !s->needs_column;
    });
    const int first = simple == fit.end() ? 0 : static_cast<int>(simple - fit.begin()),
              known = which_->findData(before);
    which_->setCurrentIndex(known >= 0 ? known : first);
}

// Items that a score can compare with.
void RuleCard::fill_others() {
    const quint64 before = other_->currentData().toULongLong();
    const QString before_column = other_->currentData().toString();
    other_->clear();
    for (const site::ItemPtr& i : document_->site()->items)
        if (i->id != document_->site()->active)
            other_->addItem(QString::fromStdString(i->name), quint64{i->id});
    if (const int at = other_->findData(before); at >= 0) other_->setCurrentIndex(at);
    if (score_ && score_->needs_column) {
        fill_columns();
        if (const int at = other_->findData(before_column); at >= 0) other_->setCurrentIndex(at);
    }
    if (score_ && score_->needs_line) {
        other_->clear();
        for (const site::LinePtr& l : document_->site()->lines)
            other_->addItem(QString::fromStdString(l->name), quint64{l->id});
        if (const int at = other_->findData(before); at >= 0) other_->setCurrentIndex(at);
    }
    other_label_->setText(score_ && score_->needs_line     ? tr(score_->line_title.c_str())
                          : score_ && score_->needs_column ? tr("Column")
                                                           : tr("Compared with"));
    const bool wanted = score_ && (score_->needs_other || score_->needs_line || score_->needs_column);
    other_->setVisible(wanted);
    other_label_->setVisible(wanted);
}

// What the file says of each point.
void RuleCard::fill_columns() {
    other_->clear();
    const site::ItemPtr item = document_->site()->active_item();
    const auto records = item ? item->cloud->records() : nullptr;
    if (!records) return;
    for (const std::string& name : score::columns_to_judge_by(records->layout()))
        other_->addItem(QString::fromStdString(name), QString::fromStdString(name));
}

bool RuleCard::by_words() const {
    if (!score_ || !score_->needs_column || !cloud_) return false;
    const cloud::Field* f = cloud_->records()->layout().find(column());
    return f && f->words;
}

// Every word that a point of the judged scans has, the most frequent first.
void RuleCard::show_words() {
    std::map<std::string, std::uint64_t> counts = score::word_counts(*column_, *cloud_, column());
    for (const score::ScoredScan& b : beside_)
        for (const auto& [word, n] : score::word_counts(b.column, *b.scan.cloud, column())) counts[word] += n;
    words_->show_words(counts);
}

std::vector<std::vector<Vec3>> RuleCard::guides() const {
    const auto s = step();
    if (!is_open() || !s || !cloud_) return {};
    return score::limit_lines(*s, *cloud_);
}

void RuleCard::fly_to_extreme() {
    const auto set = taken();
    if (!set || set->empty()) return;
    const double apart = 2 / Lengths(*document_->site()).data_metres();
    const std::vector<Vec3> places = score::extremes(*column_, *set, profile_.median, *cloud_, apart);
    const Vec3 at = places[extreme_at_++ % places.size()];
    Box3 box;
    box.add(at - Vec3{apart, apart, apart} * 0.5);
    box.add(at + Vec3{apart, apart, apart} * 0.5);
    emit fly(box);
}

double RuleCard::per_shown() const {
    return score_ ? app::per_shown(*score_, Lengths(*document_->site())) : 1;
}

void RuleCard::choose(const QString& score_id) {
    which_->setCurrentIndex(which_->findData(score_id));
    choose_score();
}

// So many that a step is about a millimetre.
int RuleCard::decimals() const {
    return Lengths(*document_->site()).data(1) * Lengths(*document_->site()).metres() < 0.01 ? 0 : 3;
}

// A box for a parameter, with its value in `values` or the usual one.
void RuleCard::add_box(const score::Parameter& p, const score::Parameters& values) {
    const Lengths lengths(*document_->site());
    auto* box = p.unit == "colour" ? new ColourBox(this) : new QDoubleSpinBox(this);
    const bool is_length = p.unit == "length";
    // Usual lengths are metres: data in another unit get them in that.
    const double factor = is_length ? 1 / lengths.metres() : 1;
    box->setObjectName(QStringLiteral("rule.") + QString::fromStdString(p.name));
    box->setAccessibleName(tr(p.title.c_str()));
    box->setToolTip(tr(p.help.c_str()));
    box->setDecimals(p.whole ? 0 : is_length ? decimals() : p.digits);
    box->setRange(p.least * factor, p.most * factor);
    box->setSuffix(is_length ? lengths.suffix() : p.unit == "angle" ? tr("°") : QString());
    const auto own = values.find(p.name);
    box->setValue(own == values.end() ? p.usual * factor
                  : is_length         ? own->second / lengths.data(1)
                                      : own->second);
    // A tenth of what is usual, or of what the points ask for.
    box->setSingleStep(p.whole ? 1
                               : std::max(is_length ? 0.01 * factor : 0.05, round_step(box->value() / 10)));
    box->setKeyboardTracking(false);
    connect(box, &QDoubleSpinBox::valueChanged, this, &RuleCard::compute);
    parameters_->addRow(tr(p.title.c_str()), p.unit == "colour" ? with_picker(box) : box);
    boxes_.push_back(box);
}

void RuleCard::choose_score() {
    emit begun();
    fill_scores();
    score_ = &score::find(which_->currentData().toString().toStdString());
    unit_ = document_->site()->unit;
    fill_others();
    for (auto* box : {lo_, hi_})
        box->setDecimals(score_->unit == "length" ? decimals() : score_->unit == "points" ? 0 : 3);
    while (parameters_->rowCount() > 0) parameters_->removeRow(0);
    boxes_.clear();
    const site::ItemPtr in_work = document_->site()->active_item();
    // As they were left when this rule was last looked at; else as the points ask for.
    const score::Suggestion first =
        in_work ? score::suggested(*score_, *in_work->cloud) : score::Suggestion();
    const auto left = in_work ? remembered_.find({score_->id, in_work->id}) : remembered_.end();
    const score::Parameters& values = left == remembered_.end() ? first.parameters : left->second;
    for (const score::Parameter& p : score_->parameters) add_box(p, values);
    if (score_->id == "colour") add_colour_picks();
    if (score_->id == "plane") add_plane_picks();
    QString meaning = meaning_of(*score_);
    if (in_work && in_work->cloud->unit().empty())
        meaning += QLatin1Char(' ') + tr("The unit is not set: lengths are taken for metres.");
    if (left == remembered_.end() && !first.why.empty())
        meaning += QLatin1Char(' ') + tr("From the points: %1.").arg(QString::fromStdString(first.why));
    meaning_->setText(meaning);
    meaning_->setToolTip(score_->wrong.empty() ? QString()
                                               : tr("When it is wrong: %1").arg(tr(score_->wrong.c_str())));
    compute();
}

// Whether scans that are judged along have come, gone, or lost points.
bool RuleCard::others_changed() const {
    std::size_t found = 0, wanted = 0;
    for (const site::ItemPtr& i : document_->site()->items) {
        if (!i->visible || i->locked || i->id == document_->site()->active) continue;
        ++wanted;
        for (const score::ScoredScan& b : beside_)
            found += b.scan.id == i->id && *b.scan.eligible == site::eligible(*i);
    }
    return found != wanted || wanted != beside_.size();
}

void RuleCard::refresh() {
    if (!is_open()) return;
    fill_others();
    if (all_->isChecked() && column_ && others_changed()) return compute_keeping(true);
    const site::ItemPtr item = document_->site()->active_item();
    if (document_->site()->unit != unit_) return choose_score();
    if ((item ? item->cloud : nullptr) != cloud_) {
        const bool other_kind =
            item && (!cloud_ || (item->cloud->triangles() == nullptr) != (cloud_->triangles() == nullptr));
        return other_kind ? choose_score() : compute();
    }
    if (!item || !column_) return;
    auto now = std::make_shared<const ElementSet>(site::eligible(*item));
    if (*now == *eligible_) return;
    // What is out does not count; values of the others are those of before until they are computed anew.
    const bool more = !(*now - *eligible_).empty();
    if (more || seconds_ < kAtOnce) return compute_keeping(true);
    eligible_ = std::move(now);
    last_ = nullptr;
    state_->setText(
        tr("The values are those from before the last change; choose the score again to compute them anew."));
    say();
}

void RuleCard::compute() {
    compute_keeping(false);
}

// As the boxes say, in the unit of the data; kept for this rule and item.
score::Parameters RuleCard::given_parameters(const site::Item& item) {
    score::Parameters given;
    const Lengths lengths(*document_->site());
    for (std::size_t i = 0; i < boxes_.size(); ++i)
        given[score_->parameters[i].name] =
            score_->parameters[i].unit == "length" ? lengths.data(boxes_[i]->value()) : boxes_[i]->value();
    remembered_[{score_->id, item.id}] = given;
    return given;
}

// The scans that are shown beside the item in work and can be judged along with it.
std::vector<site::ItemPtr> RuleCard::shown_beside(const site::ItemPtr& item) const {
    std::vector<site::ItemPtr> shown;
    for (const site::ItemPtr& i : document_->site()->items)
        if (i->visible && !i->locked && i != item &&
            (!score_->needs_column || i->cloud->records()->layout().find(column())))
            shown.push_back(i);
    return shown;
}

void RuleCard::compute_keeping(bool range) {
    if (!is_open() || !score_) return;
    const site::ItemPtr item = document_->site()->active_item();
    column_ = nullptr;
    beside_.clear();
    everywhere_->hide();
    cloud_ = item ? item->cloud : nullptr;
    histogram_->set({});
    sentence_->clear();
    if (!item) return state_->setText(tr("Open a scan first."));
    score::OverScansRequest r;
    r.score = score_;
    r.parameters = used_ = given_parameters(*item);
    r.judge_others = all_->isChecked();
    r.column = column();
    r.begins = begins_at();
    const site::SitePtr site = document_->site();
    const quint64 chosen = other_->currentData().toULongLong();
    const site::ItemPtr other = score_->needs_other ? site->item(chosen) : nullptr;
    if (const site::LinePtr line = score_->needs_line ? site->line(chosen) : nullptr) r.line = line->points;
    const std::vector<site::ItemPtr> shown = shown_beside(item);
    const auto eligible = std::make_shared<const ElementSet>(site::eligible(*item));
    QElapsedTimer clock;
    clock.start();
    state_->setText(tr("Computing…"));
    latest_.start<score::OverScans>(
        tr("Computing: %1").arg(which_->currentText()),
        [=](Progress& p, score::OverScans& result) {
            score::OverScansRequest request = r;
            const ElementSet members = other ? site::eligible(*other) : ElementSet();
            if (other) request.compared = {other->cloud.get(), &members};
            request.first = {item->id, item->name, item->cloud, eligible};
            for (const site::ItemPtr& i : shown)
                request.others.push_back(
                    {i->id, i->name, i->cloud, std::make_shared<const ElementSet>(site::eligible(*i))});
            result = score::over_scans(request, p);
        },
        [this, eligible, clock, range](score::OverScans& result) {
            seconds_ = static_cast<double>(clock.elapsed()) / 1000;
            extreme_at_ = 0;
            column_ = std::make_shared<const score::Column>(std::move(result.first));
            beside_ = std::move(result.others);
            profile_ = std::move(result.profile);
            eligible_ = eligible;
            everywhere_->setVisible(!beside_.empty());
            everywhere_->setText(tr("Remove from all %1 scans").arg(beside_.size() + 1));
            show_values(range);
        },
        [this](const QString& why) { state_->setText(why.isEmpty() ? tr("Cancelled.") : why); });
}

// In the unit of the data; not a number: the score does not say.
double RuleCard::begins_at() const {
    return score_->unit == "length" ? score_->begins / Lengths(*document_->site()).data_metres()
                                    : score_->begins;
}

// A first range: where the rule begins; else what stands far off the usual, on the side where the long tail
// is.
void RuleCard::show_values(bool keep_range) {
    histogram_->set(profile_);
    const bool words = by_words();
    words_->setVisible(words);
    for (QWidget* w : std::initializer_list<QWidget*>{histogram_, lo_, hi_, inside_, outside_, inside_words_,
                                                      outside_words_, extreme_})
        w->setVisible(!words);
    if (profile_.count == 0) return state_->setText(tr("No point has a value here."));
    state_->setText(column_->note.empty() ? QString()
                                          : QString::fromStdString(column_->note) + QLatin1Char('.'));
    if (colour_->isChecked()) emit colour_changed();
    // After a decision the range stays, and nothing is selected anew unasked.
    if (words) {
        meaning_->setText(tr("Points are taken by the words of a column: codes, names, dates."));
        show_words();
    }
    if (words || keep_range) return say();
    if (show_colour_range()) return;
    const double k = per_shown();
    for (QDoubleSpinBox* box : {lo_, hi_})
        box->setSingleStep(std::max(std::pow(10, -box->decimals()),
                                    round_step((profile_.bin_hi - profile_.bin_lo) / 100 / k)));
    if (const auto first = score::first_range(*score_, profile_, *column_, *cloud_)) {
        filling_ = true;
        lo_->setValue(std::max(first->limits.lo, profile_.min) / k);
        hi_->setValue(std::min(first->limits.hi, profile_.max) / k);
        filling_ = false;
        range_edited();
        if (!first->why.empty())
            state_->setText((state_->text() + QLatin1Char(' ') +
                             tr("From the points: %1.").arg(QString::fromStdString(first->why)))
                                .trimmed());
        return;
    }
    // At least a step of the boxes: what is usual itself is never taken.
    const score::Limits far =
        score::far_from_usual(profile_, begins_at(), 1.5 * k * std::pow(10, -lo_->decimals()));
    filling_ = true;
    lo_->setValue(far.lo / k);
    hi_->setValue(far.hi / k);
    filling_ = false;
    range_edited();
}

std::optional<score::Step> RuleCard::step() const {
    if (!column_ || profile_.count == 0) return std::nullopt;
    const double k = per_shown();
    score::Step s;
    s.score = score_->id;
    s.parameters = used_;
    if (score_->needs_other || score_->needs_line || score_->needs_column)
        s.with = other_->currentText().toStdString();
    if (by_words()) {
        s.words = words_->ticked();
        if (s.words.empty()) return std::nullopt;
        return s;
    }
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
    if (!last_ || last_of_ != column_ || last_limits_ != s->limits || last_words_ != s->words) {
        last_ = std::make_shared<const ElementSet>(score::within(*s, *column_, *cloud_, *eligible_));
        last_words_ = s->words;
        last_of_ = column_;
        last_limits_ = s->limits;
    }
    return last_;
}

void RuleCard::set_all_scans(bool on) {
    all_->setChecked(on);
}

site::Parts RuleCard::taken_everywhere() const {
    site::Parts sets;
    const auto s = step();
    if (!s || beside_.empty()) return sets;
    sets[document_->site()->active] = taken();
    for (const score::ScoredScan& b : beside_)
        sets[b.scan.id] =
            std::make_shared<const ElementSet>(score::within(*s, b.column, *b.scan.cloud, *b.scan.eligible));
    return sets;
}

QString RuleCard::value_of(std::uint64_t element) const {
    if (!is_open() || !column_) return {};
    const double v = column_->base + static_cast<double>(column_->values[element]);
    if (!std::isfinite(v)) return tr("%1: no value here").arg(which_->currentText());
    const bool has_unit = score_->unit == "length" || score_->unit == "area";
    const QString unit = has_unit ? unit_text(*score_, Lengths(*document_->site())) : QString();
    const auto number = [&](double x) { return QString::number(x / per_shown(), 'g', 4) + unit; };
    if (by_words())
        return tr("%1: %2").arg(other_->currentText(), QString::fromStdString(word_of(
                                                           *cloud_->records()->layout().find(column()), v)));
    QString why;
    if (v > 0 && !score_->reason.empty()) {
        why = "; " + tr(score_->reason.c_str()).replace(QLatin1String("%1"), number(v));
        if (!column_->by.empty())
            why.replace(QLatin1String("%2"), QString::fromStdString(column_->names.at(column_->by[element])));
    }
    return tr("%1: %2, usual is %3%4").arg(which_->currentText(), number(v), number(profile_.median), why);
}

}  // namespace pristine::app
