// All actions of the program, each defined once.

#include <QAction>
#include <QApplication>
#include <QMenu>
#include <QMenuBar>
#include <QPushButton>

#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/window/command_search.h"
#include "app/window/contents_panel.h"
#include "app/window/main_window.h"
#include "app/window/settings_dialog.h"
#include "app/window/status_line.h"

namespace pristine::app {

QString MainWindow::needs_item() const {
    return document_->site()->active_item() ? QString() : tr("Open a scan first.");
}

QString MainWindow::needs_selection() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->selected() > 0 ? QString() : tr("Select something first: draw a fence.");
}

QString MainWindow::needs_removed() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->active_item()->removed->empty() ? tr("Nothing is out of this item.")
                                                              : QString();
}

void MainWindow::add_commands() {
    add_site_commands();
    add_edit_commands();
    add_reference_commands();
    add_view_commands();
    add_tool_commands();
    add_select_commands();
    add_more_select_commands();
    add_mesh_commands();
    add_decide_commands();
    add_more_decide_commands();
    add_help_commands();
}

void MainWindow::add_site_commands() {
    commands_.add({"site.open",
                   tr("Open…"),
                   tr("Adds scans to the site, or opens a project"),
                   "open",
                   QKeySequence::Open,
                   tr("Site"),
                   [this] { choose_open(); },
                   {},
                   {},
                   {}});
    commands_.add(
        {"site.unfinished",
         tr("Unfinished work…"),
         tr("Sites that were never saved under a name: what they hold, to open them or throw them away"),
         "",
         {},
         tr("Site"),
         [this] { show_drafts(); },
         {},
         {},
         {}});
    commands_.add(
        {"site.open_text",
         tr("Open text with a preview…"),
         tr("Shows the first lines of a text file, to name its columns, skip lines, set separator and unit"),
         "",
         {},
         tr("Site"),
         [this] { choose_text(); },
         {},
         {},
         {}});
    commands_.add({"site.open_grid",
                   tr("Open a grid thinned…"),
                   tr("Asks how large an error of height thinning may make, and how many cells are kept"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_grid(); },
                   {},
                   {},
                   {}});
    commands_.add({"site.add_lines",
                   tr("Add lines…"),
                   tr("Boundaries, edges and axes of a GeoJSON, Shapefile, GeoPackage, DXF or LandXML file"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_lines_to_add(); },
                   {},
                   {},
                   {}});
    commands_.add({"site.save",
                   tr("Save"),
                   tr("Marks this state of the project as saved; every change is on the disk anyway"),
                   "save",
                   QKeySequence::Save,
                   tr("-Site"),
                   [this] { document_->has_file() ? document_->save() : choose_save_as(); },
                   [this] {
                       return document_->site()->items.empty()
                                  ? tr("There is nothing to save yet: open a scan first.")
                                  : QString();
                   },
                   {},
                   {}});
    commands_.add({"site.save_as",
                   tr("Save as…"),
                   tr("Writes the whole project to another file and goes on there"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
                   tr("Site"),
                   [this] { choose_save_as(); },
                   [this] {
                       return document_->site()->items.empty()
                                  ? tr("There is nothing to save yet: open a scan first.")
                                  : QString();
                   },
                   {},
                   {}});
    commands_.add({"site.export",
                   tr("Export what is shown…"),
                   tr("Writes the visible items, without what is out, to any format of point clouds; "
                      "meshes and surfaces to theirs"),
                   "export",
                   QKeySequence(Qt::CTRL | Qt::Key_E),
                   tr("-Site"),
                   [this] { choose_export(Export::Shown); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    for (const auto& [id, title, help, what] :
         {std::tuple{"site.export_withheld", tr("Export all, what is out withheld…"),
                     tr("Writes LAS or LAZ with every point; what is out carries the withheld flag"),
                     Export::Withheld},
          std::tuple{"site.export_noise", tr("Export all, what is out as noise…"),
                     tr("Writes LAS or LAZ with every point; what is out gets class 7"), Export::Noise},
          std::tuple{"site.export_high_noise", tr("Export all, what is out as high noise…"),
                     tr("The same with class 18, for point formats 6 to 10"), Export::HighNoise}})
        commands_.add({id,
                       title,
                       help,
                       "",
                       {},
                       tr("Site"),
                       [this, what = what] { choose_export(what); },
                       [this] { return needs_removed(); },
                       {},
                       {}});
    commands_.add({"site.export_lines",
                   tr("Export the lines…"),
                   tr("Writes the lines that are shown: LandXML, DXF, GeoPackage, Shapefile, GeoJSON"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_export_lines(); },
                   [this] {
                       for (const site::LinePtr& l : document_->site()->lines)
                           if (l->visible) return QString();
                       return tr("No line is shown.");
                   },
                   {},
                   {}});
    commands_.add({"site.export_removed",
                   tr("Export what is out…"),
                   tr("Writes the removed points of the item in work"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_export(Export::Removed); },
                   [this] { return needs_removed(); },
                   {},
                   {}});
    commands_.add({"site.export_reasons",
                   tr("Export each reason…"),
                   tr("Writes the removed points of the item in work, each reason into a file of its own"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_export(Export::Reasons); },
                   [this] { return needs_removed(); },
                   {},
                   {}});
    commands_.add({"site.settings",
                   tr("Settings…"),
                   tr("How much memory the program may use"),
                   "",
                   QKeySequence::Preferences,
                   tr("-Site"),
                   [this] { SettingsDialog(this).exec(); },
                   {},
                   {},
                   {}});
    commands_.add({"site.quit",
                   tr("Quit"),
                   tr("Closes the window; nothing needs to be saved first"),
                   "",
                   QKeySequence::Quit,
                   tr("-Site"),
                   [this] { close(); },
                   {},
                   {},
                   {}});
}

void MainWindow::add_edit_commands() {
    commands_.add(
        {"edit.undo",
         tr("Undo"),
         tr("Takes the last change back, selections included"),
         "undo",
         QKeySequence::Undo,
         tr("Edit"),
         [this] { document_->undo(); },
         [this] { return document_->history().can_undo() ? QString() : tr("There is nothing to undo."); },
         {},
         [this] {
             return document_->history().can_undo()
                        ? tr("Undo: %1").arg(QString::fromStdString(document_->history().undo_title()))
                        : tr("Undo");
         }});
    commands_.add(
        {"edit.redo",
         tr("Redo"),
         tr("Brings back what was undone"),
         "redo",
         QKeySequence(Qt::CTRL | Qt::Key_Y),
         tr("Edit"),
         [this] { document_->redo(); },
         [this] { return document_->history().can_redo() ? QString() : tr("Nothing has been undone."); },
         {},
         [this] {
             return document_->history().can_redo()
                        ? tr("Redo: %1").arg(QString::fromStdString(document_->history().redo_title()))
                        : tr("Redo");
         }});
    // Both habits work.
    commands_.action(QStringLiteral("edit.redo"))
        ->setShortcuts({QKeySequence(Qt::CTRL | Qt::Key_Y), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z)});
}

void MainWindow::add_view_commands() {
    const struct {
        const char* id;
        QString title, help;
        Qt::Key key;
        render::AxisView view;
    } axis[] = {
        {"view.top", tr("From above"), tr("Looks straight down, north up"), Qt::Key_1, render::AxisView::Top},
        {"view.front", tr("From the front"), tr("Looks north, side-on"), Qt::Key_2, render::AxisView::Front},
        {"view.back", tr("From the back"), tr("Looks south, side-on"), Qt::Key_3, render::AxisView::Back},
        {"view.left", tr("From the left"), tr("Looks east, side-on"), Qt::Key_4, render::AxisView::Left},
        {"view.right", tr("From the right"), tr("Looks west, side-on"), Qt::Key_5, render::AxisView::Right},
        {"view.bottom", tr("From below"), tr("Looks straight up"), Qt::Key_6, render::AxisView::Bottom}};
    for (const auto& v : axis)
        commands_.add({v.id,
                       v.title,
                       v.help,
                       "",
                       QKeySequence(v.key),
                       tr("View"),
                       [this, view = v.view] { stage_->look_along(view); },
                       [this] { return needs_item(); },
                       {},
                       {}});
    commands_.add(
        {"view.perspective",
         tr("Perspective"),
         tr("With perspective as the eye sees, or parallel as on a plan; side-on views start parallel"),
         "perspective",
         QKeySequence(Qt::Key_P),
         tr("-View"),
         [this] { stage_->set_perspective(!stage_->camera().perspective); },
         {},
         [this] { return stage_ && stage_->camera().perspective; },
         {}});
    for (const char* unit : {"", "m", "mm", "ft", "usft"})
        commands_.add(
            {QStringLiteral("view.unit_%1").arg(*unit ? QLatin1String(unit) : QLatin1String("data")),
             tr("Lengths %1").arg(*unit ? tr("in %1").arg(unit_title(unit)) : unit_title({})),
             tr("What is shown and typed; the data stay as they are"),
             "",
             {},
             *unit ? tr("View") : tr("-View"),
             [this, unit = std::string(unit)] {
                 document_->apply(tr("Lengths %1").arg(unit_title(unit)),
                                  [&](const site::Site& s) { return site::set_unit(s, unit); });
             },
             {},
             [this, unit = std::string(unit)] { return document_->site()->unit == unit; },
             {}});
    commands_.add({"view.all",
                   tr("Everything"),
                   tr("Puts everything in view; lone stray points do not count"),
                   "everything",
                   QKeySequence(Qt::Key_Home),
                   tr("-View"),
                   [this] { stage_->look_at_everything(); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    commands_.add({"view.selection",
                   tr("The selection"),
                   tr("Puts the selection in view"),
                   "",
                   QKeySequence(Qt::Key_F),
                   tr("View"),
                   [this] {
                       if (document_->numbers().ready) stage_->look_at(document_->numbers().detail.box);
                   },
                   [this] { return needs_selection(); },
                   {},
                   {}});
    commands_.add(
        {"view.earlier",
         tr("Earlier view"),
         tr("Back to the view before the last jump or turn"),
         "",
         QKeySequence(Qt::ALT | Qt::Key_Left),
         tr("View"),
         [this] { stage_->go_back(); },
         [this] { return stage_ && stage_->can_go_back() ? QString() : tr("There is no earlier view."); },
         {},
         {}});
    commands_.add(
        {"view.later",
         tr("The later view"),
         tr("Goes forward again after going back"),
         "",
         QKeySequence(Qt::ALT | Qt::Key_Right),
         tr("View"),
         [this] { stage_->go_forward(); },
         [this] { return stage_ && stage_->can_go_forward() ? QString() : tr("There is no later view."); },
         {},
         {}});
    commands_.add({"view.keep",
                   tr("Keep this view under a name…"),
                   tr("It stays with the project and can be gone back to at any time"),
                   "",
                   {},
                   tr("View"),
                   [this] { keep_view_as(); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    commands_.add({"view.ghosts",
                   tr("Ghosts of what is out"),
                   tr("Shows removed points faintly where they were"),
                   "",
                   QKeySequence(Qt::Key_G),
                   tr("-View"),
                   [this] {
                       ghosts_shown_ = !ghosts_shown_;
                       show_scene();
                   },
                   [this] { return needs_item(); },
                   [this] { return ghosts_shown_; },
                   {}});
    commands_.add({"view.wipe",
                   tr("Wipe between before and after"),
                   tr("Left of a line that you can drag, what is out is there again"),
                   "",
                   QKeySequence(Qt::SHIFT | Qt::Key_G),
                   tr("View"),
                   [this] {
                       wipe_ = !wipe_;
                       show_wipe(document_->site());
                       const site::ItemPtr item = document_->site()->active_item();
                       status_->say(!wipe_ ? tr("Before and after: off")
                                    : item && item->removed->empty()
                                        ? tr("Before and after: nothing is out of %1, both sides are alike")
                                              .arg(QString::fromStdString(item->name))
                                        : tr("Before and after: drag the line in the view; %1 ends it")
                                              .arg(commands_.find("view.wipe")->key.toString()),
                                    false);
                   },
                   [this] { return needs_item(); },
                   [this] { return wipe_; },
                   {}});
    commands_.add({"view.visible",
                   tr("Show or hide the item in work"),
                   tr("Hidden items are safe from every tool"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::Key_H),
                   tr("View"),
                   [this] {
                       const site::ItemPtr i = document_->site()->active_item();
                       document_->apply(
                           i->visible ? tr("Hide %1").arg(QString::fromStdString(i->name))
                                      : tr("Show %1").arg(QString::fromStdString(i->name)),
                           [&](const site::Site& s) { return site::set_visible(s, i->id, !i->visible); });
                   },
                   [this] { return needs_item(); },
                   {},
                   {}});
}

void MainWindow::add_select_commands() {
    commands_.add({"select.visible_only",
                   tr("Visible only"),
                   tr("Fences take only what can be seen; what lies behind stays"),
                   "",
                   QKeySequence(Qt::Key_D),
                   tr("Select"),
                   [this] { card_->set_visible_only(!card_->visible_only()); },
                   {},
                   [this] { return card_ && card_->visible_only(); },
                   {}});
    const struct {
        const char* id;
        QString title, help;
        site::Combine how;
    } ways[] = {{"select.new", tr("Fences make a new selection"), tr("What was selected before is dropped"),
                 site::Combine::New},
                {"select.add", tr("Fences add"), tr("What is in the fence is added to the selection"),
                 site::Combine::Add},
                {"select.take", tr("Fences take away"),
                 tr("What is in the fence is taken from the selection"), site::Combine::TakeAway},
                {"select.both", tr("Fences keep what is in both"),
                 tr("Only what was selected and is in the fence stays selected"), site::Combine::Both}};
    for (const auto& w : ways)
        commands_.add({w.id,
                       w.title,
                       w.help,
                       "",
                       {},
                       w.how == site::Combine::New ? tr("-Select") : tr("Select"),
                       [this, how = w.how] { card_->set_combine(how); },
                       {},
                       [this, how = w.how] { return card_ && card_->combine() == how; },
                       {}});
    commands_.add({"select.invert",
                   tr("Invert the selection"),
                   tr("Selects everything of the item that was not selected"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::Key_I),
                   tr("-Select"),
                   [this] { document_->apply(tr("Invert the selection"), site::invert_selection); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    commands_.add({"select.clear",
                   tr("Drop the selection"),
                   tr("Nothing is selected any more; nothing is removed"),
                   "",
                   QKeySequence(Qt::Key_Escape),
                   tr("Select"),
                   [this] { document_->apply(tr("Drop the selection"), site::clear_selection); },
                   [this] { return needs_selection(); },
                   {},
                   {}});
}

void MainWindow::add_decide_commands() {
    commands_.add({"decide.remove",
                   tr("Remove the selection"),
                   tr("Takes the selection out; the ledger keeps it, and it can be brought back at any time"),
                   "remove",
                   QKeySequence::Delete,
                   tr("Decide"),
                   [this] { decide(false); },
                   [this] {
                       return document_->site()->of_removed ? tr("What is selected is out already.")
                                                            : needs_selection();
                   },
                   {},
                   [this] {
                       return document_->site()->selected() > 0
                                  ? tr("Remove %1").arg(counted(*document_, document_->site()->selected()))
                                  : tr("Remove the selection");
                   }});
    commands_.add(
        {"decide.keep",
         tr("Keep only the selection"),
         tr("Takes out everything of the item but the selection"),
         "keep",
         QKeySequence(Qt::CTRL | Qt::Key_Delete),
         tr("-Decide"),
         [this] { decide(true); },
         [this] {
             if (document_->site()->of_removed) return tr("What is selected is out already.");
             if (const QString why = needs_selection(); !why.isEmpty()) return why;
             return document_->numbers().count == document_->numbers().of
                        ? tr("Everything is selected, so nothing would go.")
                        : QString();
         },
         {},
         [this] {
             const Document::Numbers& n = document_->numbers();
             return n.count > 0
                        ? tr("Keep only the selection (%1 go)").arg(counted(*document_, n.of - n.count))
                        : tr("Keep only the selection");
         }});
}

void MainWindow::add_help_commands() {
    commands_.add({"help.search",
                   tr("Find a command…"),
                   tr("Type what you want to do, in words of the program or of the trade, and press Enter"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::Key_K),
                   tr("Help"),
                   [this] { CommandSearch(&commands_, this).exec(); },
                   {},
                   {},
                   {}});
    commands_.add({"help.next_area",
                   tr("To the next area"),
                   tr("Moves the keys on: stage, card, ledger, contents, tools"),
                   "",
                   QKeySequence(Qt::Key_F6),
                   tr("Help"),
                   [this] { to_next_area(1); },
                   {},
                   {},
                   {}});
    commands_.add({"help.earlier_area",
                   tr("To the area before"),
                   tr("Moves the keys back"),
                   "",
                   QKeySequence(Qt::SHIFT | Qt::Key_F6),
                   tr("Help"),
                   [this] { to_next_area(-1); },
                   {},
                   {},
                   {}});
    commands_.add({"help.manual",
                   tr("Manual"),
                   tr("Opens the manual at the page for what you are doing"),
                   "",
                   QKeySequence(Qt::Key_F1),
                   tr("Help"),
                   [this] { open_manual(); },
                   {},
                   {},
                   {}});
}

void MainWindow::build_menus() {
    auto* find = new QPushButton(tr("Find a command…   Ctrl K"), this);
    find->setObjectName(QStringLiteral("findCommand"));
    find->setAccessibleName(tr("Find a command"));
    find->setFocusPolicy(Qt::TabFocus);
    connect(find, &QPushButton::clicked, commands_.action(QStringLiteral("help.search")), &QAction::trigger);
    menuBar()->setCornerWidget(find);
    QHash<QString, QMenu*> menus;
    for (const Command& c : commands_.all()) {
        const bool new_group = c.menu.startsWith('-');
        const QString title = new_group ? c.menu.mid(1) : c.menu;
        if (title.isEmpty()) continue;
        if (!menus.contains(title)) {
            menus[title] = menuBar()->addMenu(title);
            menus[title]->setToolTipsVisible(true);
        } else if (new_group) {
            menus[title]->addSeparator();
        }
        menus[title]->addAction(commands_.action(c.id));
        if (c.id == QLatin1String("select.keep")) {
            kept_ = menus[title]->addMenu(tr("Kept selections"));
            connect(kept_, &QMenu::aboutToShow, this, &MainWindow::fill_kept);
        }
        if (c.id == QLatin1String("view.keep")) {
            saved_views_ = menus[title]->addMenu(tr("Kept views"));
            connect(saved_views_, &QMenu::aboutToShow, this, &MainWindow::fill_views);
        }
        if (c.id == QLatin1String("view.unclip")) {
            clips_ = menus[title]->addMenu(tr("Clip boxes"));
            connect(clips_, &QMenu::aboutToShow, this, &MainWindow::fill_clips);
        }
        if (c.id == QLatin1String("decide.apart_copy")) {
            merge_ = menus[title]->addMenu(tr("Put this piece back into"));
            connect(merge_, &QMenu::aboutToShow, this, &MainWindow::fill_merge);
        }
        if (c.id == QLatin1String("site.open")) {
            recent_ = menus[title]->addMenu(tr("Recent files"));
            connect(recent_, &QMenu::aboutToShow, this, &MainWindow::fill_recent);
        }
    }
}

}  // namespace pristine::app
