// Where the scanner of an item stood: typed, or above a point that was picked.

#pragma once

#include <QDialog>
#include <optional>

#include "app/look/lengths.h"
#include "core/site/site.h"

class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace pristine::app {

class StationDialog : public QDialog {
    Q_OBJECT
  public:
    StationDialog(const site::Site&, const site::Item&, Vec3 proposed, QWidget* parent);
    cloud::Station station() const;
    /// The point under the instrument; it takes the height of the instrument above it.
    void set_below(const Vec3& picked);

  signals:
    void pick_wanted();
    /// What the file says holds again.
    void cleared();

  private:
    QDoubleSpinBox* number(const char* name, const QString& what, double value);
    Lengths lengths_;
    QLineEdit* name_;
    QDoubleSpinBox *e_, *n_, *h_;
    LengthBox* above_;
    QLabel* picked_;
};

}  // namespace pristine::app
