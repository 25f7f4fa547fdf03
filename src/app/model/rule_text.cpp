#include "app/model/rule_text.h"

#include <QCoreApplication>
#include <cmath>

namespace pristine::app {
namespace {

struct RuleSay {
    Q_DECLARE_TR_FUNCTIONS(RuleText)
};

}  // namespace

QString meaning_of(const score::Score& s) {
    return RuleSay::tr("High: %1. Low: %2.").arg(RuleSay::tr(s.high.c_str()), RuleSay::tr(s.low.c_str()));
}

double per_shown(const score::Score& s, const Lengths& l) {
    return s.unit == "length" ? l.data(1) : s.unit == "area" ? l.data(1) * l.data(1) : 1;
}

QString unit_text(const score::Score& s, const Lengths& l) {
    return s.unit == "length"  ? l.suffix()
           : s.unit == "area"  ? l.power(2)
           : s.unit == "angle" ? RuleSay::tr("°")
           : s.unit.empty()    ? QString()
                               : " " + RuleSay::tr(s.unit.c_str());
}

QString range_text(const score::Score& s, const score::Limits& limits, const Lengths& l) {
    const QString unit = unit_text(s, l);
    const auto number = [&](double v) { return QString::number(v / per_shown(s, l), 'g', 6); };
    if (limits.outside && std::isinf(limits.hi))
        return RuleSay::tr("less than %1%2").arg(number(limits.lo), unit);
    if (limits.outside && std::isinf(limits.lo))
        return RuleSay::tr("more than %1%2").arg(number(limits.hi), unit);
    if (limits.outside)
        return RuleSay::tr("less than %1 or more than %2%3").arg(number(limits.lo), number(limits.hi), unit);
    if (std::isinf(limits.hi)) return RuleSay::tr("%1%2 and more").arg(number(limits.lo), unit);
    if (std::isinf(limits.lo)) return RuleSay::tr("%1%2 and less").arg(number(limits.hi), unit);
    return RuleSay::tr("%1 to %2%3").arg(number(limits.lo), number(limits.hi), unit);
}

}  // namespace pristine::app
