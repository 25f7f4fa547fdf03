#include "app/window/lists.h"

#include "app/window/scene_view.h"
#include "app/window/status_line.h"

namespace pristine::app {

Lists::Lists(Desk& desk) : Part(desk) {
    connect(desk_.lists, &ListsPane::closed, this, [this] { commands_.refresh(); });
    connect(desk_.lists, &ListsPane::fly_to, desk_.view, &SceneView::fly_to_entry);
    connect(desk_.lists, &ListsPane::said, this, [this](const QString& text) { status_->say(text, false); });
}

void Lists::add_commands() {
    add_list("view.decisions", tr("All decisions"),
             tr("A table of everything that was decided about all items: sorted, filtered by reason, tool, "
                "person and day; many can be lifted at once"),
             QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_D), ListsPane::List::Decisions);
    add_list("view.guards", tr("All guards"), tr("What no tool touches, guard by guard, to lift one"), {},
             ListsPane::List::Guards);
    add_list("view.kept_selections", tr("All kept selections"),
             tr("To select them again, rename or drop them"), {}, ListsPane::List::Kept);
    add_list("view.steps", tr("All steps"),
             tr("Everything that undo takes back and redo brings again, to go to any of it at once"),
             QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_U), ListsPane::List::Steps);
    add_list(
        "view.surveys", tr("All surveys"),
        tr("When and how the site was surveyed, how well heights are known, and what is of which survey"), {},
        ListsPane::List::Surveys);
}

void Lists::add_list(const char* id, const QString& title, const QString& help, const QKeySequence& key,
                     ListsPane::List list) {
    add(
        id, title, help, key, tr("View"),
        [this, list] {
            ListsPane& pane = *desk_.lists;
            pane.is_open() && pane.shown() == list ? pane.close_pane() : pane.open(list);
            commands_.refresh();
        },
        [] { return QString(); },
        [this, list] { return desk_.lists && desk_.lists->is_open() && desk_.lists->shown() == list; });
}

}  // namespace pristine::app
