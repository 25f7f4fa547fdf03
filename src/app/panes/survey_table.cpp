#include "app/panes/survey_table.h"

#include <QHBoxLayout>
#include <QPushButton>

#include "app/look/lengths.h"
#include "app/look/make.h"
#include "app/model/document.h"
#include "app/panes/survey_dialog.h"

namespace pristine::app {
namespace {

// What is of a survey, in words.
QString held(const site::Site& s, std::uint64_t survey) {
    QStringList names;
    for (const site::ItemPtr& i : s.items)
        if (i->survey == survey) names << QString::fromStdString(i->name);
    const auto lines = std::count_if(s.lines.begin(), s.lines.end(),
                                     [&](const site::LinePtr& l) { return l->survey == survey; });
    if (lines > 0) names << SurveyTable::tr("%n line(s)", "", static_cast<int>(lines));
    return names.join(QStringLiteral(", "));
}

}  // namespace

SurveyTable::SurveyTable(Document* document, QWidget* parent)
    : ListTable(QStringLiteral("survey"), tr("Surveys of the site; Enter changes one"),
                {tr("Survey"), tr("Date"), tr("Method"), tr("Noise (1 σ)"), tr("Shared (1 σ)"), tr("Holds")},
                parent),
      document_(document) {
    const auto button = [&](const char* name, const QString& text, const QString& help) {
        QPushButton* b = make_button(this, name, text, help);
        below()->addWidget(b);
        return b;
    };
    QPushButton* add =
        button("surveyAdd", tr("New…"), tr("A survey with its date, method and standard deviations"));
    dates_ = button("surveyDates", tr("From the dates of items"),
                    tr("One survey for each date that items without a survey have"));
    change_ = button("surveyChange", tr("Change…"), {});
    hold_ = button("surveyHold", tr("The item in work is of it"),
                   tr("Several, and lines: right click in the contents"));
    drop_ = button("surveyDrop", tr("Drop"), tr("What it holds stays, of no survey"));
    below()->addStretch(1);
    connect(add, &QPushButton::clicked, this, &SurveyTable::add);
    connect(dates_, &QPushButton::clicked, this,
            [this] { document_->apply(tr("Surveys from dates"), site::surveys_of_dates); });
    connect(change_, &QPushButton::clicked, this, [this] {
        if (const auto numbers = chosen(); numbers.size() == 1) change(numbers.front());
    });
    connect(this, &ListTable::gone_to, this, &SurveyTable::change);
    connect(hold_, &QPushButton::clicked, this, &SurveyTable::hold_active);
    connect(drop_, &QPushButton::clicked, this, &SurveyTable::drop);
    connect(this, &ListTable::chosen_changed, this, [this] {
        const std::size_t n = chosen().size();
        change_->setEnabled(n == 1);
        hold_->setEnabled(n == 1 && document_->site()->active_item());
        drop_->setEnabled(n > 0);
    });
}

void SurveyTable::refresh() {
    fill([this] {
        const site::SitePtr s = document_->site();
        const Lengths l(*s);
        const auto sigma = [&](double v) { return v > 0 ? l.spread(v) : tr("not stated"); };
        for (const site::Survey& v : s->surveys) {
            ListRow* row = add_row(
                v.id,
                {QString::fromStdString(v.name), QString::fromStdString(v.date),
                 QString::fromStdString(v.method), sigma(v.noise), sigma(v.systematic), held(*s, v.id)},
                {3, 4});
            row->set_number(3, v.noise);
            row->set_number(4, v.systematic);
            row->setToolTip(5, held(*s, v.id));
        }
    });
}

void SurveyTable::add() {
    const auto made = ask_survey(this, {}, *document_->site());
    if (made)
        document_->apply(tr("New survey %1").arg(QString::fromStdString(made->name)),
                         [&](const site::Site& s) { return site::put_survey(s, *made); });
}

void SurveyTable::change(quint64 survey) {
    const site::Survey* before = document_->site()->survey(survey);
    if (!before) return;
    const auto changed = ask_survey(this, *before, *document_->site());
    if (changed && *changed != *before)
        document_->apply(tr("Change the survey %1").arg(QString::fromStdString(changed->name)),
                         [&](const site::Site& s) { return site::put_survey(s, *changed); });
}

void SurveyTable::hold_active() {
    const auto numbers = chosen();
    const site::ItemPtr item = document_->site()->active_item();
    const site::Survey* survey = numbers.size() == 1 ? document_->site()->survey(numbers.front()) : nullptr;
    if (!item || !survey) return;
    document_->apply(tr("%1 is of the survey %2")
                         .arg(QString::fromStdString(item->name), QString::fromStdString(survey->name)),
                     [&](const site::Site& s) { return site::set_survey(s, numbers.front(), {item->id}); });
}

void SurveyTable::drop() {
    const auto numbers = chosen();
    document_->apply(tr("Drop %n survey(s)", "", static_cast<int>(numbers.size())), [&](const site::Site& s) {
        site::SitePtr next;
        for (const quint64 id : numbers) next = site::drop_survey(next ? *next : s, id);
        return next;
    });
}

}  // namespace pristine::app
