#include "app/panes/survey_dialog.h"

#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "app/look/dialog_foot.h"
#include "app/look/make.h"
#include "core/base/error.h"

namespace pristine::app {

SurveyDialog::SurveyDialog(const site::Survey& survey, const site::Site& site, QWidget* parent)
    : QDialog(parent), before_(survey), site_(site) {
    setObjectName(QStringLiteral("surveyDialog"));
    setWindowTitle(survey.id == 0 ? tr("New survey")
                                  : tr("Survey %1").arg(QString::fromStdString(survey.name)));
    setMinimumWidth(440);
    auto* rows = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    rows->addLayout(form);
    const auto line = [&](const char* name, const std::string& text, const QString& hint) {
        auto* edit = new QLineEdit(QString::fromStdString(text), this);
        edit->setObjectName(QString::fromLatin1(name));
        edit->setPlaceholderText(hint);
        connect(edit, &QLineEdit::textChanged, this, &SurveyDialog::check);
        return edit;
    };
    form->addRow(tr("Name"), name_ = line("surveyName", survey.name, tr("May, after the flood")));
    form->addRow(tr("Date"), date_ = line("surveyDate", survey.date, tr("2026-05-11")));
    form->addRow(tr("Method"),
                 method_ = line("surveyMethod", survey.method, tr("laser scanner, 6 stations")));
    form->addRow(tr("Noise of heights"),
                 noise_ = deviation("surveyNoise", survey.noise,
                                    tr("One standard deviation of each height by itself. Not stated: it is "
                                       "estimated from the surface where it is needed")));
    form->addRow(
        tr("Shared by all heights"),
        systematic_ = deviation("surveySystematic", survey.systematic,
                                tr("One standard deviation that all heights have in common: of the "
                                   "datum, of the placement. It does not average out over an area")));
    rows->addWidget(why_ = make_sentence(this, "surveyWhy"));
    take_ = add_foot(this, new QHBoxLayout, tr("Leave it"),
                     survey.id == 0 ? tr("Add the survey") : tr("Change it"), "surveyTake");
    check();
}

LengthBox* SurveyDialog::deviation(const char* name, double value, const QString& help) {
    auto* box = new LengthBox(0, 0, 100, this);
    box->setObjectName(QString::fromLatin1(name));
    box->set_lengths(Lengths(site_));
    box->set_more_digits(2);
    box->setSpecialValueText(tr("not stated"));
    box->setToolTip(help);
    box->setValue(box->lengths().shown(value));
    return box;
}

site::Survey SurveyDialog::survey() const {
    site::Survey s = before_;
    s.date = date_->text().trimmed().toStdString();
    s.name = name_->text().trimmed().toStdString();
    if (s.name.empty()) s.name = s.date;  // a date is name enough
    s.method = method_->text().trimmed().toStdString();
    s.noise = noise_->in_data();
    s.systematic = systematic_->in_data();
    return s;
}

// The sentence that the change itself would be refused with.
void SurveyDialog::check() {
    QString why;
    try {
        site::put_survey(site_, survey());
    } catch (const Error& e) {
        why = QString::fromStdString(e.what());
    }
    if (name_->text().trimmed().isEmpty() && date_->text().trimmed().isEmpty())
        why = tr("Give it a name or a date.");
    why_->setText(why);
    take_->setEnabled(why.isEmpty());
}

std::optional<site::Survey> ask_survey(QWidget* parent, const site::Survey& survey, const site::Site& site) {
    SurveyDialog dialog(survey, site, parent);
    if (dialog.exec() != QDialog::Accepted) return std::nullopt;
    return dialog.survey();
}

}  // namespace pristine::app
