#include "app/model/rule_text.h"

#include <QCoreApplication>
#include <cmath>

namespace pristine::app {
namespace {

struct Say {
    Q_DECLARE_TR_FUNCTIONS(RuleText)
};

}  // namespace

QString meaning_of(const score::Score& s) {
    return Say::tr("High: %1. Low: %2.").arg(Say::tr(s.high.c_str()), Say::tr(s.low.c_str()));
}

double per_shown(const score::Score& s, const Lengths& l) {
    return s.unit == "length" ? l.data(1) : 1;
}

QString range_text(const score::Score& s, const score::Limits& limits, const Lengths& l) {
    const QString unit = s.unit == "length"  ? l.suffix()
                         : s.unit == "angle" ? Say::tr("°")
                         : s.unit.empty()    ? QString()
                                             : " " + Say::tr(s.unit.c_str());
    const auto number = [&](double v) { return QString::number(v / per_shown(s, l), 'g', 6); };
    if (std::isinf(limits.hi)) return Say::tr("%1%2 and more").arg(number(limits.lo), unit);
    if (std::isinf(limits.lo)) return Say::tr("%1%2 and less").arg(number(limits.hi), unit);
    return Say::tr("%1 to %2%3").arg(number(limits.lo), number(limits.hi), unit);
}

}  // namespace pristine::app
