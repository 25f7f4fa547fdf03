// What the coordinates of an item mean: unit of plan and heights, reference system; and converting to another
// one.

#pragma once

#include <QDialog>

#include "core/site/site.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace pristine::app {

class ReferenceDialog : public QDialog {
    Q_OBJECT
  public:
    ReferenceDialog(const site::Site&, const site::Item&, QWidget* parent);
    /// What was stated; valid after accepted().
    cloud::Reference reference() const;

  signals:
    /// The coordinates are to be converted to this system, into a new item.
    void convert(const QString& system);

  private:
    void add_statement(QVBoxLayout*);
    void add_conversion(QVBoxLayout*, const site::Site&, const site::Item&);
    void check();
    QComboBox *unit_, *heights_;
    QLineEdit *system_, *target_;
    QLabel *understood_, *target_understood_;
    QPushButton *state_, *convert_;
    cloud::Reference before_;
};

}  // namespace pristine::app
