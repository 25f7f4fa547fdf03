// All controllers of a window, in the order in which their commands stand in the menus.

#pragma once

#include <initializer_list>

#include "app/window/cards.h"
#include "app/window/decisions.h"
#include "app/window/files.h"
#include "app/window/hand.h"
#include "app/window/handing_over.h"
#include "app/window/lines.h"
#include "app/window/lists.h"
#include "app/window/marks.h"
#include "app/window/meshes.h"
#include "app/window/pointing.h"
#include "app/window/references.h"
#include "app/window/rules.h"
#include "app/window/scene_view.h"
#include "app/window/selecting.h"
#include "app/window/shapes.h"
#include "app/window/stations.h"
#include "app/window/surfaces.h"
#include "app/window/views.h"
#include "app/window/walking.h"

namespace pristine::app {

struct Controllers {
    explicit Controllers(Desk& desk)
        : hand(desk),
          view(known(desk.hand, hand, desk)),
          files(known(desk.view, view, desk)),
          decisions(desk),
          references(desk),
          views(desk),
          walking(desk),
          stations(desk),
          selecting(desk),
          pointing(desk),
          rules(desk),
          lines(desk),
          shapes(desk),
          marks(desk),
          surfaces(desk),
          meshes(desk),
          cards(desk),
          lists(desk),
          handing_over(desk) {
        for (Part* part :
             std::initializer_list<Part*>{&files, &decisions, &references, &views, &walking, &stations, &view,
                                          &hand, &selecting, &pointing, &rules, &lines, &shapes, &marks,
                                          &surfaces, &meshes, &cards, &lists, &handing_over})
            part->add_commands();
    }

    /// The others work with these two, and find them on the desk.
    Hand hand;
    SceneView view;
    Files files;
    Decisions decisions;
    References references;
    Views views;
    Walking walking;
    Stations stations;
    Selecting selecting;
    Pointing pointing;
    Rules rules;
    Lines lines;
    Shapes shapes;
    Marks marks;
    Surfaces surfaces;
    Meshes meshes;
    Cards cards;
    Lists lists;
    HandingOver handing_over;

  private:
    template <class T>
    static Desk& known(T*& place, T& part, Desk& desk) {
        place = &part;
        return desk;
    }
};

}  // namespace pristine::app
