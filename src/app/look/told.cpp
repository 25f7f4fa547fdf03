#include "app/look/told.h"

#include <QCoreApplication>

namespace pristine::app {

QString told(const site::Cause& cause, const Lengths& lengths) {
    site::Wording w;
    w.phrase = [](const char* english) {
        return QCoreApplication::translate("Cause", english).toStdString();
    };
    w.length = [&](double v) { return lengths.text(v, 1).toStdString(); };
    w.area = [&](double v) { return lengths.area(v).toStdString(); };
    return QString::fromStdString(site::told(cause, w));
}

}  // namespace pristine::app
