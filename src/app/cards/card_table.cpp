#include "app/cards/card_table.h"

#include <QCoreApplication>

#include "app/cards/align_card.h"
#include "app/cards/classes_card.h"
#include "app/cards/holes_card.h"
#include "app/cards/line_card.h"
#include "app/cards/markers_card.h"
#include "app/cards/marks_card.h"
#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/objects_card.h"
#include "app/cards/piles_card.h"
#include "app/cards/place_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/surface_card.h"
#include "app/cards/tunnel_card.h"

namespace pristine::app {
namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("CardTable", text);
}

template <class Card>
SideCard* make(Document* document, Jobs* jobs, QWidget* parent) {
    return new Card(document, jobs, parent);
}

QString needs_line(const site::Site& s) {
    return s.lines.empty() ? tr("Draw or add a line that runs inside the tunnel first.") : QString();
}

std::vector<CardSpec> rows() {
    return {
        {"select.rule", tr("By a rule…"),
         tr("A number for each point, such as how far it is from its neighbours or from the ground, and the "
            "range of it that is taken"),
         "rule", Qt::Key_S, tr("-Select"), make<RuleCard>},
        {"select.objects", tr("Things on the ground…"),
         tr("People, vehicles, machines, vegetation: listed by kind, to be ticked and selected"), "",
         Qt::Key_E, tr("Select"), make<ObjectsCard>},
        {"select.tunnel",
         tr("Inside a tunnel…"),
         tr("Unrolls a tunnel, shaft or culvert along a line; what is inside its lining, openings, mesh and "
            "volumes by chainage"),
         "",
         {},
         tr("Select"),
         make<TunnelCard>,
         needs_line},
        {"view.classes", tr("Classes…"),
         tr("The key of classes of the item in work: how many points each has, its eye, colour and name"),
         "class", Qt::SHIFT | Qt::Key_Insert, tr("View"), make<ClassesCard>},
        {"tools.surface", tr("New surface…"),
         tr("Triangulates the points in work, or those that are selected, along and inside lines"), "",
         Qt::CTRL | Qt::Key_T, tr("-Tools"), make<SurfaceCard>},
        {"tools.measure", tr("Measure board…"),
         tr("Areas and volumes of the surface in work, cut and fill against another, maps, contours"), "",
         Qt::CTRL | Qt::Key_M, tr("Tools"), make<MeasureCard>},
        {"tools.marks", tr("Marks…"),
         tr("Points, distances, paths, angles, areas, heights and falls that were measured and stay: drawn, "
            "listed, noted, exported"),
         "mark", Qt::CTRL | Qt::SHIFT | Qt::Key_M, tr("Tools"), make<MarksCard>},
        {"tools.piles",
         tr("Stockpiles…"),
         tr("Volumes and tonnes inside closed lines, as a table that follows every edit; the lines can be "
            "proposed"),
         "",
         {},
         tr("Tools"),
         make<PilesCard>},
        {"tools.mesh", tr("Check and repair a mesh…"),
         tr("What is wrong with the mesh in work, from place to place; repairs, a closed skin, "
            "reduction; its volume and mass"),
         "", Qt::CTRL | Qt::Key_R, tr("Tools"), make<MeshCard>},
        {"tools.holes", tr("Holes of a mesh…"),
         tr("Closes holes one by one: the whole rim, a part of it, or a bridge; the fill is seen before it "
            "is made"),
         "", Qt::CTRL | Qt::Key_J, tr("Tools"), make<HolesCard>},
        {"tools.align",
         tr("Features and alignment…"),
         tr("Fits planes, axes, spheres, lines and points to what is selected of a mesh, and brings it to "
            "the axes by them"),
         "",
         {},
         tr("Tools"),
         make<AlignCard>},
        {"item.place",
         tr("Place…"),
         tr("The item in work somewhere else: by numbers, by pairs of places, or on the surfaces of another "
            "item"),
         "",
         {},
         tr("Item"),
         make<PlaceCard>},
        {"item.line",
         tr("A line by its places…"),
         tr("Coordinates of a line as a table to type in; insert, split, join, lay beside, simplify, lay on "
            "a surface"),
         "",
         {},
         tr("Item"),
         make<LineCard>},
        {"tools.markers",
         tr("Markers of a mesh…"),
         tr("Markers that the scanner recorded: listed, selected, removed with the surface healed beneath"),
         "",
         {},
         tr("Tools"),
         make<MarkersCard>},
    };
}

}  // namespace

const std::vector<CardSpec>& card_specs() {
    static const std::vector<CardSpec> all = rows();
    return all;
}

std::vector<SideCard*> make_cards(Document* document, Jobs* jobs, QWidget* parent) {
    std::vector<SideCard*> cards;
    for (const CardSpec& spec : card_specs()) {
        cards.push_back(spec.make(document, jobs, parent));
        cards.back()->set_spec(spec);
    }
    return cards;
}

}  // namespace pristine::app
