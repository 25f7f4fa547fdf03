#include "app/look/role_words.h"

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

QString title_of(site::ItemRole role) {
    switch (role) {
        case site::ItemRole::Points:
            return say("Point cloud");
        case site::ItemRole::Terrain:
            return say("Terrain surface");
        case site::ItemRole::Mesh:
            return say("Mesh of an object");
        case site::ItemRole::ChangeMap:
            return say("Map of a change");
        case site::ItemRole::Lining:
            return say("Lining of a tunnel or chamber");
    }
    return {};
}

}  // namespace pristine::app
