#include "app/look/plurals.h"

namespace pristine::app {

QString Plurals::translate(const char* /*context*/, const char* text, const char* /*hint*/, int n) const {
    QString s = QString::fromUtf8(text);
    if (n < 0 || !s.contains(QStringLiteral("(s)"))) return {};
    return s.replace(QStringLiteral("(s)"), n == 1 ? QString() : QStringLiteral("s"));
}

}  // namespace pristine::app
