#include "app/look/line_roles.h"

#include <QCoreApplication>

namespace pristine::app {
namespace {

QString say(const char* text) {
    return QCoreApplication::translate("LineRole", text);
}

}  // namespace

QString title_of(LineRole role) {
    switch (role) {
        case LineRole::Free:
            return say("Nothing in particular");
        case LineRole::Breakline:
            return say("Breakline");
        case LineRole::Boundary:
            return say("Boundary");
        case LineRole::Hole:
            return say("Hole");
        case LineRole::Axis:
            return say("Axis");
        case LineRole::Contour:
            return say("Contour");
        case LineRole::Finding:
            return say("Finding");
    }
    return {};
}

}  // namespace pristine::app
