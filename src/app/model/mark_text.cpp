#include "app/model/mark_text.h"

#include <QCoreApplication>
#include <cstring>

namespace pristine::app {
namespace {

struct MarkSay {
    Q_DECLARE_TR_FUNCTIONS(Marks)
};

struct Words {
    const char* id;
    const char* title;
};
constexpr Words kFigures[] = {{"east", QT_TRANSLATE_NOOP("Marks", "East")},
                              {"north", QT_TRANSLATE_NOOP("Marks", "North")},
                              {"height", QT_TRANSLATE_NOOP("Marks", "Height")},
                              {"distance", QT_TRANSLATE_NOOP("Marks", "Distance")},
                              {"plan_distance", QT_TRANSLATE_NOOP("Marks", "In plan")},
                              {"height_difference", QT_TRANSLATE_NOOP("Marks", "Height difference")},
                              {"slope", QT_TRANSLATE_NOOP("Marks", "Slope")},
                              {"length", QT_TRANSLATE_NOOP("Marks", "Length")},
                              {"plan_length", QT_TRANSLATE_NOOP("Marks", "In plan")},
                              {"angle", QT_TRANSLATE_NOOP("Marks", "Angle")},
                              {"plan_angle", QT_TRANSLATE_NOOP("Marks", "In plan")},
                              {"plan_area", QT_TRANSLATE_NOOP("Marks", "Area in plan")},
                              {"true_area", QT_TRANSLATE_NOOP("Marks", "True area")},
                              {"perimeter", QT_TRANSLATE_NOOP("Marks", "Perimeter")},
                              {"out_of_plane", QT_TRANSLATE_NOOP("Marks", "Corners off its plane by")},
                              {"above", QT_TRANSLATE_NOOP("Marks", "Height above")},
                              {"run_per_rise", QT_TRANSLATE_NOOP("Marks", "Gradient")},
                              {"direction", QT_TRANSLATE_NOOP("Marks", "Falls towards")}};

}  // namespace

QString title_of(MarkKind k) {
    switch (k) {
        case MarkKind::Point:
            return MarkSay::tr("Point");
        case MarkKind::Distance:
            return MarkSay::tr("Distance");
        case MarkKind::Path:
            return MarkSay::tr("Path");
        case MarkKind::Angle:
            return MarkSay::tr("Angle");
        case MarkKind::Area:
            return MarkSay::tr("Area");
        case MarkKind::Above:
            return MarkSay::tr("Height above");
        case MarkKind::Fall:
            return MarkSay::tr("Fall");
    }
    return {};
}

QString how_to_draw(MarkKind k) {
    switch (k) {
        case MarkKind::Point:
            return MarkSay::tr("Click a place: its coordinates stay.");
        case MarkKind::Distance:
            return MarkSay::tr("Click two places.");
        case MarkKind::Path:
            return MarkSay::tr("Click places; Enter or a double click ends it, Backspace takes one back.");
        case MarkKind::Angle:
            return MarkSay::tr("Click a place on one leg, the corner, a place on the other leg.");
        case MarkKind::Area:
            return MarkSay::tr(
                "Click the corners; Enter or a double click closes it, Backspace takes one back.");
        case MarkKind::Above:
            return MarkSay::tr("Click a place: its height above what is chosen below.");
        case MarkKind::Fall:
            return MarkSay::tr(
                "Click two places across the road, or along the pipe: the slope from the first to the "
                "second.");
    }
    return {};
}

QString title_of_figure(const char* id) {
    for (const Words& w : kFigures)
        if (std::strcmp(w.id, id) == 0) return MarkSay::tr(w.title);
    return QString::fromLatin1(id);
}

QString text_of(const MarkFigure& f, const Lengths& l) {
    switch (f.quantity) {
        case MarkQuantity::Coordinate:
            if (std::strcmp(f.id, "run_per_rise") == 0)
                return QStringLiteral("1 : ") + shown_figure(f.value, decimals_for(f.value, 3));
            return l.coordinate(f.value, 1);
        case MarkQuantity::Length:
            return l.text(f.value, 1);
        case MarkQuantity::Area:
            return l.area(f.value);
        case MarkQuantity::Angle:
            return shown_figure(f.value, 2) + QStringLiteral("°");
        case MarkQuantity::Slope:
            return shown_figure(f.value, 2) + QStringLiteral(" %");
    }
    return {};
}

QString main_figure(const site::Mark& m, const Lengths& l) {
    const std::vector<MarkFigure> all = mark_figures(m.kind, m.points);
    if (m.kind == MarkKind::Point) return QStringLiteral("H ") + text_of(all.back(), l);
    return text_of(all.front(), l);
}

QString all_figures(const site::Mark& m, const Lengths& l) {
    QString out;
    for (const MarkFigure& f : mark_figures(m.kind, m.points))
        out += (out.isEmpty() ? QString() : QStringLiteral("\n")) +
               QStringLiteral("%1  %2").arg(title_of_figure(f.id), text_of(f, l));
    return out;
}

}  // namespace pristine::app
