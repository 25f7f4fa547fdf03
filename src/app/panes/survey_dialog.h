// What a survey is called, when and how it was made, and how well its heights are known.

#pragma once

#include <QDialog>
#include <optional>

#include "app/look/lengths.h"
#include "core/site/site.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace pristine::app {

class SurveyDialog : public QDialog {
    Q_OBJECT
  public:
    SurveyDialog(const site::Survey&, const site::Site&, QWidget* parent);
    site::Survey survey() const;

  private:
    LengthBox* deviation(const char* name, double value, const QString& help);
    void check();
    site::Survey before_;
    site::Site site_;  ///< as it was opened on
    QLineEdit *name_, *date_, *method_;
    LengthBox *noise_, *systematic_;
    QLabel* why_;
    QPushButton* take_;
};

/// None: it was left.
std::optional<site::Survey> ask_survey(QWidget* parent, const site::Survey&, const site::Site&);

}  // namespace pristine::app
