// Lengths as people read and type them: in the unit of the site, whatever the data are in.

#pragma once

#include <QDoubleSpinBox>
#include <QString>

#include "core/base/units.h"
#include "core/site/site.h"

namespace pristine::app {

/// Name of a unit for people: "US survey feet".
QString unit_title(const std::string& id);

class Lengths {
  public:
    Lengths() = default;
    /// Of the item in work, or another: the unit of the site if it has one, else that of the item's data.
    explicit Lengths(const site::Site&, const site::Item* item = nullptr);

    double shown(double data) const { return data * data_metres_ / metres_; }
    double data(double shown) const { return shown * metres_ / data_metres_; }
    double metres() const { return metres_; }
    double data_metres() const { return data_metres_; }
    /// " m" with its space; empty when nobody states a unit.
    const QString& suffix() const { return suffix_; }
    /// " m²" and " m³"; " units²" and " units³" when nobody states a unit.
    QString power(int exponent) const;
    /// Digits that show about a centimetre.
    int decimals() const { return decimals_; }
    /// A length of the data in the shown unit, without and with the unit. `more`: digits beyond decimals().
    QString number(double data, int more = 0) const;
    QString text(double data, int more = 0) const { return number(data, more) + suffix_; }

  private:
    double data_metres_ = 1, metres_ = 1;
    int decimals_ = 2;
    QString suffix_;
};

/// A length to type. It keeps its meaning when the shown unit changes.
class LengthBox : public QDoubleSpinBox {
    Q_OBJECT
  public:
    /// Value and limits in metres.
    LengthBox(double value, double least, double most, QWidget* parent);
    void set_lengths(const Lengths&);
    /// In the unit of the data.
    double in_data() const { return lengths_.data(value()); }
    const Lengths& lengths() const { return lengths_; }

  private:
    void apply(double metres);
    double least_m_, most_m_;
    Lengths lengths_;
};

}  // namespace pristine::app
