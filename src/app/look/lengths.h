// Lengths as people read and type them: in the unit of the site, whatever the data are in.

#pragma once

#include <QDoubleSpinBox>
#include <QString>

#include "core/base/figure.h"
#include "core/base/units.h"
#include "core/site/site.h"

namespace pristine::app {

/// Name of a unit for people: "US survey feet".
QString unit_title(const std::string& id);
/// The reader's own marks for decimals and groups.
NumberMarks number_marks();
/// A number with the reader's marks; see figure.h.
QString shown_figure(double value, int decimals);

class Lengths {
  public:
    Lengths() = default;
    /// Of the item in work, or another: the unit of the site if it has one, else that of the item's data.
    explicit Lengths(const site::Site&, const site::Item* item = nullptr);

    double shown(double data) const { return data * data_metres_ / metres_; }
    double data(double shown) const { return shown * metres_ / data_metres_; }
    double metres() const { return metres_; }
    double data_metres() const { return data_metres_; }
    /// Whether anybody states a unit.
    bool known() const { return known_; }
    /// " m" with its space, for fields and tables; empty when nobody states a unit.
    const QString& suffix() const { return suffix_; }
    /// " m", " m²" and " m³"; " (unit not set)" when nobody states a unit.
    QString power(int exponent) const;
    /// An area or a volume of the data in the shown unit, with the unit: two digits after the mark, more
    /// where it is small.
    QString area(double data) const { return powered(data, 2); }
    QString volume(double data) const { return powered(data, 3); }
    /// How far figures may be off (a standard deviation, a deviation): two significant digits, as a length
    /// or to a higher power.
    QString spread(double data, int exponent = 1) const;
    /// For narrow columns: three significant digits; of metres what is small in cm or mm: "4.82 cm²".
    QString brief(double data, int exponent) const;
    /// A figure with its standard deviation, both with the digits that the deviation bears: "4,042 ± 26 m³",
    /// on one line. Without one (0) as area() or volume().
    QString with_spread(double data, double sigma, int exponent) const;
    /// Both without the unit; the second is empty when there is no deviation.
    std::pair<QString, QString> figure_and_spread(double data, double sigma, int exponent) const;
    /// Areas beside each other in a table: with as many digits each.
    QString plain_area(double data) const;
    /// Digits that show about a centimetre.
    int decimals() const { return decimals_; }
    /// A length of the data in the shown unit, without and with the unit. `more`: digits beyond decimals().
    QString number(double data, int more = 0) const;
    /// Without groups, as coordinates are copied and typed, with the unit or " (unit not set)".
    QString coordinate(double data, int more = 0) const;
    /// Grouped, and " (unit not set)" where that is so.
    QString text(double data, int more = 0) const;

  private:
    QString powered(double data, int exponent) const;
    bool known_ = false;
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
    /// Digits beyond those that show about a centimetre: one, unless more are wanted.
    void set_more_digits(int more);
    /// In the unit of the data.
    double in_data() const { return lengths_.data(value()); }
    const Lengths& lengths() const { return lengths_; }

  private:
    void apply(double metres);
    double least_m_, most_m_;
    int more_ = 1;
    Lengths lengths_;
};

}  // namespace pristine::app
