#include "app/panels/lengths.h"

#include <QCoreApplication>
#include <QSignalBlocker>
#include <algorithm>

namespace pristine::app {

QString unit_title(const std::string& id) {
    const auto say = [](const char* text) { return QCoreApplication::translate("Lengths", text); };
    if (id == "m") return say(QT_TRANSLATE_NOOP("Lengths", "metres"));
    if (id == "mm") return say(QT_TRANSLATE_NOOP("Lengths", "millimetres"));
    if (id == "ft") return say(QT_TRANSLATE_NOOP("Lengths", "feet (international)"));
    if (id == "usft") return say(QT_TRANSLATE_NOOP("Lengths", "US survey feet"));
    return say(QT_TRANSLATE_NOOP("Lengths", "as in the data"));
}

Lengths::Lengths(const site::Site& s, const site::Item* item) {
    const site::ItemPtr active = s.active_item();
    if (!item) item = active.get();
    const std::string data = item ? item->cloud->unit() : std::string();
    const std::string& id = s.unit.empty() ? data : s.unit;
    data_metres_ = length_unit(data).metres;
    metres_ = length_unit(id).metres;
    decimals_ = length_unit(id).decimals;
    if (id.empty()) return;
    suffix_ = QLatin1Char(' ') +
              (id == "usft" ? QCoreApplication::translate("Lengths", "US ft") : QString::fromStdString(id));
}

QString Lengths::power(int exponent) const {
    if (suffix_.isEmpty())
        return exponent == 2 ? QCoreApplication::translate("Lengths", " units²")
                             : QCoreApplication::translate("Lengths", " units³");
    return suffix_ + (exponent == 2 ? QStringLiteral("²") : QStringLiteral("³"));
}

QString Lengths::number(double data, int more) const {
    const QString text = QString::number(shown(data), 'f', decimals_ + more);
    // Rounded to nothing there is no less than nothing.
    const auto counts = [](QChar c) { return c >= QLatin1Char('1') && c <= QLatin1Char('9'); };
    return text.startsWith(QLatin1Char('-')) && std::none_of(text.begin(), text.end(), counts) ? text.mid(1)
                                                                                               : text;
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

void LengthBox::apply(double metres) {
    const QSignalBlocker quiet(this);  // it still means the same
    setDecimals(lengths_.decimals() + 1);
    setRange(least_m_ / lengths_.metres(), most_m_ / lengths_.metres());
    setSingleStep(lengths_.decimals() == 0 ? 10 : 0.01);
    setSuffix(lengths_.suffix());
    setValue(metres / lengths_.metres());
}

}  // namespace pristine::app
