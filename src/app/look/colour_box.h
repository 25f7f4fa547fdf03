// A box that holds a colour as a number.

#pragma once

#include <QDoubleSpinBox>

namespace pristine::app {

/// Shows "#C0FFEE", or "none" for what is less than 0.
class ColourBox : public QDoubleSpinBox {
    Q_OBJECT
  public:
    using QDoubleSpinBox::QDoubleSpinBox;
    QString textFromValue(double) const override;
    double valueFromText(const QString&) const override;
    QValidator::State validate(QString&, int&) const override { return QValidator::Acceptable; }
};

/// The box in a row with a button that asks for the colour, or takes one off the screen.
QWidget* with_picker(QDoubleSpinBox*);

}  // namespace pristine::app
