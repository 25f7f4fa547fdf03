#include "app/look/lengths.h"

#include <QCoreApplication>
#include <QLocale>
#include <QSignalBlocker>
#include <cmath>

#include "app/look/preferences.h"

namespace pristine::app {

QString unit_title(const std::string& id) {
    const auto say = [](const char* text) { return QCoreApplication::translate("Lengths", text); };
    if (id == "m") return say(QT_TRANSLATE_NOOP("Lengths", "metres"));
    if (id == "mm") return say(QT_TRANSLATE_NOOP("Lengths", "millimetres"));
    if (id == "ft") return say(QT_TRANSLATE_NOOP("Lengths", "feet (international)"));
    if (id == "usft") return say(QT_TRANSLATE_NOOP("Lengths", "US survey feet"));
    if (id == kDegrees) return say(QT_TRANSLATE_NOOP("Lengths", "degrees"));
    if (is_length(id)) return QString::fromUtf8(length_unit(id).title);
    return say(QT_TRANSLATE_NOOP("Lengths", "as in the data"));
}

NumberMarks number_marks() {
    const QLocale locale;
    return {locale.groupSeparator().toStdString(), locale.decimalPoint().toStdString()};
}

QString shown_figure(double value, int decimals) {
    return QString::fromStdString(figure(value, decimals, number_marks()));
}

Lengths::Lengths(const site::Site& s, const site::Item* item) {
    const site::ItemPtr active = s.active_item();
    if (!item) item = active.get();
    const std::string data = item ? item->cloud->unit() : std::string();
    // What is not known cannot be shown in another unit.
    const std::string& id = s.unit.empty() || (item && !is_length(data)) ? data : s.unit;
    data_metres_ = length_unit(data).metres;
    metres_ = length_unit(id).metres;
    decimals_ = length_unit(id).decimals + preferences().more_digits;
    if (id.empty()) return;
    known_ = true;
    suffix_ = id == kDegrees ? QStringLiteral("°")
              : id == "usft" ? QCoreApplication::translate("Lengths", " US ft")
                             : QLatin1Char(' ') + QString::fromUtf8(length_unit(id).symbol);
}

QString Lengths::power(int exponent) const {
    if (!known_) return QCoreApplication::translate("Lengths", " (unit not set)");
    if (exponent == 1) return suffix_;
    return suffix_ + (exponent == 2 ? QStringLiteral("²") : QStringLiteral("³"));
}

QString Lengths::number(double data, int more) const {
    NumberMarks marks = number_marks();
    marks.group.clear();  // coordinates are copied and typed
    return QString::fromStdString(figure(shown(data), decimals_ + more, marks));
}

QString Lengths::coordinate(double data, int more) const {
    return number(data, more) +
           (known_ ? suffix_ : QCoreApplication::translate("Lengths", " (unit not set)"));
}

QString Lengths::text(double data, int more) const {
    return shown_figure(shown(data), decimals_ + more) +
           (known_ ? suffix_ : QCoreApplication::translate("Lengths", " (unit not set)"));
}

QString Lengths::spread(double data, int exponent) const {
    double v = data;
    for (int k = 0; k < exponent; ++k) v = shown(v);
    return shown_figure(v, decimals_for(v, 2)) + power(exponent);
}

QString Lengths::brief(double data, int exponent) const {
    double v = data;
    for (int k = 0; k < exponent; ++k) v = shown(v);
    if (!known_ || metres_ != 1) return shown_figure(v, decimals_for(v, 3)) + power(exponent);
    struct Unit {
        const char* name;
        double size;
    };
    // As large a unit as leaves a tenth; decimetres for volumes alone: litres.
    constexpr Unit kUnits[] = {{" m", 1}, {" dm", 0.1}, {" cm", 0.01}, {" mm", 0.001}};
    const Unit* unit = kUnits;
    const auto in = [&](const Unit& u) { return std::fabs(v) / std::pow(u.size, exponent); };
    while (unit != &kUnits[3] && (in(*unit) < 0.1 || (unit == &kUnits[1] && exponent != 3))) ++unit;
    v /= std::pow(unit->size, exponent);
    const char* power = exponent == 2 ? "²" : exponent == 3 ? "³" : "";
    return shown_figure(v, decimals_for(v, 3)) + QString::fromUtf8(unit->name) + QString::fromUtf8(power);
}

std::pair<QString, QString> Lengths::figure_and_spread(double data, double sigma, int exponent) const {
    double v = data, s = sigma;
    for (int k = 0; k < exponent; ++k) v = shown(v), s = shown(s);
    // Less than a millionth is rounding, not a deviation.
    if (!(sigma > 1e-6 * std::fabs(data)))
        return {shown_figure(std::fabs(v) < 1e-9 ? 0 : v, decimals_for(v, 1, 2)), QString()};
    const int digits = decimals_for(s, 2);
    return {shown_figure(v, digits), shown_figure(s, digits)};
}

QString Lengths::with_spread(double data, double sigma, int exponent) const {
    const auto [figure, spread] = figure_and_spread(data, sigma, exponent);
    if (spread.isEmpty()) return powered(data, exponent);
    return QStringLiteral("%1\u00a0±\u00a0%2%3")
        .arg(figure, spread, power(exponent).replace(QLatin1Char(' '), QChar(0xA0)));
}

QString Lengths::plain_area(double data) const {
    const double v = shown(shown(data));
    return shown_figure(std::fabs(v) < 1e-9 ? 0 : v, 2) + power(2);
}

QString Lengths::powered(double data, int exponent) const {
    constexpr int kDigits = 5;
    double v = data;
    for (int k = 0; k < exponent; ++k) v = shown(v);
    const int least = decimals_ == 0 ? 0 : 2;
    // Noise of the last bit is no figure.
    if (std::fabs(v) < 1e-9) v = 0;
    return shown_figure(v, std::fabs(v) < 1 ? decimals_for(v, kDigits, 2)
                                            : decimals_for(v, decimals_ == 0 ? kDigits : 1, least)) +
           power(exponent);
}

LengthBox::LengthBox(double value, double least, double most, QWidget* parent)
    : QDoubleSpinBox(parent), least_m_(least), most_m_(most) {
    apply(value);
}

void LengthBox::set_lengths(const Lengths& lengths) {
    if (lengths.metres() == lengths_.metres() && lengths.suffix() == lengths_.suffix()) {
        lengths_ = lengths;  // the unit of the data may differ all the same
        return;
    }
    const double metres = value() * lengths_.metres();
    lengths_ = lengths;
    apply(metres);
}

void LengthBox::set_more_digits(int more) {
    const double metres = value() * lengths_.metres();
    more_ = more;
    apply(metres);
}

void LengthBox::apply(double metres) {
    const QSignalBlocker quiet(this);  // it still means the same
    setDecimals(lengths_.decimals() + more_);
    setRange(least_m_ / lengths_.metres(), most_m_ / lengths_.metres());
    setSingleStep(lengths_.decimals() == 0 ? 10 : 0.01);
    setSuffix(lengths_.suffix());
    setValue(metres / lengths_.metres());
}

}  // namespace pristine::app
