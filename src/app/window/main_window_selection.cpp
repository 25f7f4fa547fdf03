// What can be done with a selection beyond removing it: growing, guarding, setting apart, hiding, keeping;
// and the clip boxes.

#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QSettings>

#include "app/cards/align_card.h"
#include "app/cards/markers_card.h"
#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/objects_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/surface_card.h"
#include "app/cards/tunnel_card.h"
#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/profile_pane.h"
#include "app/panes/section_pane.h"
#include "app/tools/solid_tool.h"
#include "app/window/main_window.h"
#include "core/base/units.h"
#include "core/cloud/triangles.h"
#include "core/io/fence_file.h"
#include "core/select/growth.h"
#include "core/select/triangle_growth.h"
#include "core/terrain/floors.h"

namespace pristine::app {

void MainWindow::grow(
    const char* id, const QString& title, site::Settings settings,
    std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, const ElementSet&, Progress&)>
        how) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const auto set = std::make_shared<ElementSet>();
    jobs_->start(
        title,
        [=](Progress& p) {
            *set = how(*item->cloud, *s->selection,
                       s->of_removed ? site::eligible_removed(*item) : site::eligible(*item), p);
        },
        [this, set, s, title, id = std::string(id), settings] {
            if (document_->site()->selection != s->selection)
                return say_refused(tr("The selection changed meanwhile; nothing was added."));
            // It is still what it was, and more or less of it.
            const site::Origin origin{site::grown(s->origin.cause, id, settings), s->origin.reason};
            document_->apply(
                tr("%1: %2").arg(title, counted(*document_, set->count())), [&](const site::Site& site) {
                    return site.of_removed ? site::select_removed(site, *set, site::Combine::New, origin)
                                           : site::select(site, *set, site::Combine::New, origin);
                });
        });
}

// Triangles grow by rings.
site::Settings MainWindow::step_of_growth() const {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || item->cloud->triangles()) return {};
    return {{"step", card_->reach()}};
}

void MainWindow::guard_ground() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    const double margin = card_->ground_margin();
    const Lengths lengths(*s);
    const std::string& unit = item->cloud->unit();
    const auto set = std::make_shared<ElementSet>();
    jobs_->start(
        tr("Looking for the ground"),
        [=](Progress& p) {
            terrain::GroundOptions options;
            options.metres_per_unit = length_unit(unit).metres;
            const ElementSet shown = ~*item->absent;
            const terrain::GroundModel ground(*item->cloud, shown, options, p);
            *set = terrain::ground_guard(*item->cloud, ground, shown, margin, p);
        },
        [this, set, item, margin, lengths] {
            if (set->empty())
                return say_refused(tr("No ground was found: nothing level of three square metres or more."));
            document_->apply(
                tr("Guard %1 of ground").arg(counted(*document_, set->count())), [&](const site::Site& site) {
                    if (site.active != item->id)
                        throw Error(ErrorCode::Usage, "The item in work changed meanwhile");
                    return site::guard(
                        site, *set, tr("Ground, up to %1 above it").arg(lengths.text(margin)).toStdString());
                });
        });
}

void MainWindow::close_panorama_fence(const Polygon& corners, Qt::KeyboardModifiers modifiers) {
    if (!panorama_->seen()) return say_refused(tr("The panorama is still being drawn."));
    const bool visible_only = card_->visible_only();
    site::Origin origin = hand_origin();
    origin.cause.acts.front().settings["panorama"] = true;
    select_shape(tr("The fence"), stage_, modifiers, origin,
                 [corners, frame = panorama_->frame(), seen = panorama_->seen(), visible_only](
                     const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                     return select::panorama_fence(c, frame, corners, e, visible_only ? seen.get() : nullptr,
                                                   p);
                 });
}

void MainWindow::choose_lines() {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Closed lines"), QSettings().value("folder").toString(),
        tr("Lines (*.geojson *.json *.shp *.gpkg *.dxf *.xml *.txt *.xyz);;All files (*)"));
    if (!file.isEmpty()) select_lines(file.toStdString());
}

void MainWindow::select_lines(const std::filesystem::path& file) {
    select_shape(
        tr("The lines"), stage_, {},
        {site::by({.kind = site::Act::Kind::Lines, .settings = {{"file", file.filename().string()}}}),
         tr("By lines").toStdString()},
        [file, how = card_->reach_of()](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
            return select::plan_fence(c, io::read_rings_in(file, c.reference()).rings, e, p, how);
        });
}

void MainWindow::use_clip(const site::ClipBox& clip) {
    const site::SitePtr s = document_->site();
    const auto next = std::make_shared<site::SitePtr>();
    jobs_->start(
        tr("Clipping"), [=](Progress& p) { *next = site::use_clip(*s, clip, p); },
        [this, s, next] {
            if (document_->site() != s)
                return say_refused(tr("Something changed meanwhile; drag the box once more."));
            document_->apply(tr("Clip to a box"), [&](const site::Site&) { return *next; });
        },
        {}, Jobs::Show::IfLong);
}

void MainWindow::follow_clip() {
    const site::ClipBox* now = document_->site()->clip_in_force();
    if (tool_id_ != ToolId::Clip || !now) return;
    for (Tool* t : {tool_.get(), section_tool_.get()})
        if (!t->begun()) static_cast<SolidTool*>(t)->set_solid(Solid::of(now->box));
    stage_->update();
    section_->stage().update();
}

void MainWindow::fill_clips() {
    clips_->clear();
    const site::SitePtr s = document_->site();
    for (const site::ClipBox& c : s->clips) {
        QAction* a = clips_->addAction(QString::fromStdString(c.name), this, [this, c] { use_clip(c); });
        a->setCheckable(true);
        a->setChecked(c.id == s->clip);
    }
    if (const site::ClipBox* now = s->clip_in_force()) {
        clips_->addSeparator();
        clips_->addAction(tr("Rename this box…"), this, [this, now = *now] {
            const QString name = QInputDialog::getText(this, tr("Clip box"), tr("Name"), QLineEdit::Normal,
                                                       QString::fromStdString(now.name))
                                     .trimmed();
            if (!name.isEmpty()) use_clip({now.id, name.toStdString(), now.box});
        });
        clips_->addAction(tr("Another box from this one"), this, [this, now = *now, n = s->clips.size()] {
            use_clip({0, tr("Clip box %1").arg(n + 1).toStdString(), now.box});
        });
        clips_->addAction(tr("Drop this box"), this, [this, id = s->clip] {
            document_->apply(tr("Drop a clip box"),
                             [&](const site::Site& site) { return site::drop_clip(site, id); });
        });
    }
    if (clips_->isEmpty()) clips_->addAction(tr("None yet: take the clip box tool"))->setEnabled(false);
}

QString MainWindow::needs_hidden() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->active_item()->hidden ? QString() : tr("Nothing of this item is hidden.");
}

void MainWindow::add_more_select_commands() {
    const auto add = [this](const char* id, const QString& title, const QString& help, QKeySequence key,
                            const QString& menu, std::function<void()> run, std::function<QString()> why_not,
                            std::function<bool()> checked = {}) {
        commands_.add(
            {id, title, help, "", key, menu, std::move(run), std::move(why_not), std::move(checked), {}});
    };
    const auto selected = [this] { return needs_selection(); };
    add(
        "select.again", tr("The last selection again"), tr("Brings back what was selected before"),
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I), tr("Select"),
        [this] { document_->apply(tr("The last selection again"), site::reselect); },
        [this] {
            return document_->site()->last_selection ? QString() : tr("Nothing was selected before.");
        });
    add(
        "select.grow", tr("Grow by one step"),
        tr("Adds what lies within one step of the selection (the work card has it), or the next ring of "
           "triangles; hold the key to go on"),
        QKeySequence(Qt::Key_BracketRight), tr("-Select"),
        [this] {
            grow("select.grow", tr("Grow"), step_of_growth(),
                 [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                     return c.triangles() ? select::grown_by_ring(c, s, e, p) : select::grown(c, s, e, d, p);
                 });
        },
        selected);
    add(
        "select.shrink", tr("Shrink by one step"),
        tr("Takes off what lies within one step of points that are not selected"),
        QKeySequence(Qt::Key_BracketLeft), tr("Select"),
        [this] {
            grow("select.shrink", tr("Shrink"), step_of_growth(),
                 [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                     return c.triangles() ? select::shrunk_by_ring(c, s, e, p)
                                          : select::shrunk(c, s, e, d, p);
                 });
        },
        selected);
    add(
        "select.connected", tr("Everything connected"),
        tr("Adds everything that is reached from the selection in steps"), QKeySequence(Qt::Key_C),
        tr("Select"),
        [this] {
            grow("select.connected", tr("Connected"), step_of_growth(),
                 [d = card_->reach()](auto& c, auto& s, auto& e, Progress& p) {
                     return c.triangles() ? select::connected_triangles(c, s, e, 180, p)
                                          : select::connected(c, s, e, {d, -1}, p);
                 });
        },
        selected);
    add(
        "select.similar", tr("Everything connected that is alike"),
        tr("The same, but only from point to point of similar colour, or from triangle to triangle over "
           "edges "
           "that turn by no more than the angle of the work card"),
        QKeySequence(Qt::SHIFT | Qt::Key_C), tr("Select"),
        [this] {
            grow("select.similar", tr("Alike"), step_of_growth(),
                 [d = card_->reach(), t = card_->colour_tolerance(), crease = card_->crease_deg()](
                     auto& c, auto& s, auto& e, Progress& p) {
                     return c.triangles() ? select::connected_triangles(c, s, e, crease, p)
                                          : select::connected(c, s, e, {d, t}, p);
                 });
        },
        selected);
    add(
        "select.rim", tr("Round the nearest rim"),
        tr("Adds every triangle round the hole, or along the outer rim, that is nearest to the selection"),
        QKeySequence(Qt::SHIFT | Qt::Key_BracketRight), tr("Select"), [this] { select_round_rim(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (item && !item->cloud->triangles()) return tr("Take a surface or a mesh in work.");
            return needs_selection();
        });
    add(
        "select.lines", tr("Inside closed lines of a file…"),
        tr("Selects what lies inside the lines in plan: GeoJSON, Shapefile, GeoPackage, DXF, LandXML, or "
           "text with a corner on each line"),
        {}, tr("-Select"), [this] { choose_lines(); }, [this] { return needs_item(); });
    commands_.add(
        {"select.rule",
         tr("By a rule…"),
         tr("A number for each point, such as how far it is from its neighbours or from the ground, and the "
            "range of it that is taken"),
         "rule",
         QKeySequence(Qt::Key_S),
         tr("-Select"),
         [this] { toggle_card(rule_); },
         [this] { return needs_item(); },
         [this] { return rule_ && rule_->is_open(); },
         {}});
    commands_.add({"select.objects",
                   tr("Things on the ground…"),
                   tr("People, vehicles, machines, vegetation: listed by kind, to be ticked and selected"),
                   "",
                   QKeySequence(Qt::Key_E),
                   tr("Select"),
                   [this] { toggle_card(objects_); },
                   [this] { return needs_item(); },
                   [this] { return objects_ && objects_->is_open(); },
                   {}});
    commands_.add({"tools.surface",
                   tr("New surface…"),
                   tr("Triangulates the points in work, or those that are selected, along and inside lines"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::Key_T),
                   tr("-Tools"),
                   [this] { toggle_card(surface_); },
                   [this] { return needs_item(); },
                   [this] { return surface_ && surface_->is_open(); },
                   {}});
    add(
        "tools.drop_points", tr("Drop the points of the selected triangles"),
        tr("Takes points out of a surface whose triangles are all selected, such as a rod height typed "
           "wrongly, and builds "
           "it again"),
        {}, tr("Tools"), [this] { drop_points(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (!item || !item->source) return tr("Take a surface in work that was built here.");
            return document_->site()->selected() == 0 ? tr("Select all triangles round a point first.")
                                                      : QString();
        });
    commands_.add(
        {"view.profile",
         tr("Profile along a line"),
         tr("Heights of every surface that is shown along a line, of several dates above each other"),
         "",
         QKeySequence(Qt::CTRL | Qt::Key_L),
         tr("View"),
         [this] { profile_->is_open() ? profile_->close_pane() : profile_->open(); },
         [this] {
             return document_->site()->lines.empty() ? tr("Draw or open a line across the surfaces first.")
                                                     : QString();
         },
         [this] { return profile_ && profile_->is_open(); },
         {}});
    add(
        "tools.replace_part", tr("Replace a part of the surface"),
        tr("Drops what lies inside the closed line in work (else the closed line drawn last) and "
           "triangulates "
           "there anew, along the other lines that are shown inside it; the rest of the surface stays as it "
           "is"),
        {}, tr("Tools"), [this] { replace_inside(outline_in_work()); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (!item || !cloud::is_surface(*item->cloud)) return tr("Take a surface in work first.");
            return outline_in_work() != 0 ? QString() : tr("Draw a closed line round the part first.");
        });
    add(
        "tools.line_round", tr("Line round the surface"),
        tr("The rims of the surface as it is shown, as line objects that lie on it; each can bound the next "
           "build"),
        {}, tr("Tools"), [this] { line_round(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            return item && item->cloud->triangles() ? QString() : tr("Take a surface in work first.");
        });
    commands_.add({"view.slope_arrows",
                   tr("Slope arrows"),
                   tr("Arrows down the slope of the surface in work, longer where it is steeper"),
                   "",
                   QKeySequence(),
                   tr("View"),
                   [this] {
                       slope_arrows_ = !slope_arrows_;
                       follow_lines();
                       commands_.refresh();
                   },
                   [this] {
                       const site::ItemPtr item = document_->site()->active_item();
                       return item && cloud::is_surface(*item->cloud) ? QString()
                                                                      : tr("Take a surface in work first.");
                   },
                   [this] { return slope_arrows_; },
                   {}});
    commands_.add({"view.volumes",
                   tr("Volumes by date"),
                   tr("Every surface with a date: its volume above a level, or its cut and fill against the "
                      "one before, "
                      "as a chart and a table"),
                   "",
                   QKeySequence(),
                   tr("View"),
                   [this] { epochs_->is_open() ? epochs_->close_pane() : epochs_->open(); },
                   [this] {
                       for (const site::ItemPtr& i : document_->site()->items)
                           if (!i->date.empty() && cloud::is_surface(*i->cloud)) return QString();
                       return tr("Give surfaces a date first: right click in the contents.");
                   },
                   [this] { return epochs_ && epochs_->is_open(); },
                   {}});
    commands_.add(
        {"tools.measure",
         tr("Measure board…"),
         tr("Areas and volumes of the surface in work, cut and fill against another, maps, contours"),
         "",
         QKeySequence(Qt::CTRL | Qt::Key_M),
         tr("Tools"),
         [this] { toggle_card(measure_); },
         [this] { return needs_item(); },
         [this] { return measure_ && measure_->is_open(); },
         {}});
    commands_.add({"select.tunnel",
                   tr("Inside a tunnel…"),
                   tr("Unrolls a tunnel, shaft or culvert along a line; what is inside its lining, openings, "
                      "mesh and volumes by chainage"),
                   "",
                   QKeySequence(),
                   tr("Select"),
                   [this] { toggle_card(tunnel_); },
                   [this] {
                       if (const QString why = needs_item(); !why.isEmpty()) return why;
                       return document_->site()->lines.empty()
                                  ? tr("Draw or add a line that runs inside the tunnel first.")
                                  : QString();
                   },
                   [this] { return tunnel_ && tunnel_->is_open(); },
                   {}});
    add(
        "site.save_recipe", tr("Save the rules as a recipe…"),
        tr("The rules in the ledger of the item in work, to be run on other scans, here or by 'pristine "
           "run'"),
        {}, tr("Site"), [this] { choose_save_recipe(); },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            return rules_of_ledger().empty() ? tr("Nothing was removed by a rule yet.") : QString();
        });
    add(
        "site.run_recipe", tr("Run a recipe…"),
        tr("Runs saved rules on the item in work; each becomes an entry of the ledger that can be lifted"),
        {}, tr("Site"), [this] { choose_run_recipe(); }, [this] { return needs_item(); });
    add(
        "select.inside_lines", tr("Inside the closed lines that are shown"),
        tr("Selects what lies inside them in plan"), {}, tr("Select"), [this] { select_inside_lines(); },
        [this] { return needs_item(); });
    add(
        "select.keep", tr("Keep this selection under a name…"),
        tr("It stays with the item and can be used again at any time"), {}, tr("-Select"),
        [this] {
            bool ok = false;
            const QString name =
                QInputDialog::getText(this, tr("Keep the selection"), tr("Name"), QLineEdit::Normal, {}, &ok);
            if (ok)
                document_->apply(tr("Keep the selection as %1").arg(name), [&](const site::Site& s) {
                    return site::keep_selection(s, name.trimmed().toStdString());
                });
        },
        selected);
    add(
        "select.among_removed", tr("Select among what is out"),
        tr("Tools take ghosts, so that a part of what was removed can be put back"), QKeySequence(Qt::Key_Q),
        tr("-Select"),
        [this] {
            among_removed_ = !among_removed_;
            if (document_->site()->selection)
                document_->apply(tr("Drop the selection"), site::clear_selection);
            show_scene();
            commands_.refresh();
        },
        [this] { return among_removed_ ? QString() : needs_removed(); }, [this] { return among_removed_; });
}

void MainWindow::add_more_decide_commands() {
    const auto add = [this](const char* id, const QString& title, const QString& help, const QString& icon,
                            QKeySequence key, const QString& menu, std::function<void()> run,
                            std::function<QString()> why_not) {
        commands_.add({id, title, help, icon, key, menu, std::move(run), std::move(why_not), {}, {}});
    };
    const auto selected = [this] {
        return document_->site()->of_removed ? tr("What is selected is out: put it back first.")
                                             : needs_selection();
    };
    const auto apart = [this](bool move) {
        const QString name = tr("%1 part %2")
                                 .arg(QString::fromStdString(document_->site()->active_item()->name))
                                 .arg(document_->site()->items.size());
        document_->apply(move ? tr("Set %1 apart").arg(counted(*document_, document_->site()->selected()))
                              : tr("Set a copy apart"),
                         [&](const site::Site& s) { return site::set_apart(s, name.toStdString(), move); });
    };
    add(
        "decide.put_back", tr("Put the selection back"),
        tr("Brings the selected ghosts back; their ledger entries keep the rest"), "put-back",
        QKeySequence(Qt::CTRL | Qt::Key_B), tr("-Decide"),
        [this] {
            document_->apply(tr("Put %1 back").arg(counted(*document_, document_->site()->selected())),
                             [](const site::Site& s) { return site::put_back_selection(s); });
            if (needs_removed().isEmpty()) return;
            among_removed_ = false;
            show_scene();
            commands_.refresh();
        },
        [this] {
            return document_->site()->of_removed ? QString()
                                                 : tr("Select something among what is out first (Q).");
        });
    add(
        "decide.apart", tr("Set the selection apart"), tr("Moves the selection to an item of its own"),
        "apart", QKeySequence(Qt::Key_A), tr("-Decide"), [apart] { apart(true); }, selected);
    add(
        "decide.apart_copy", tr("Set a copy apart"),
        tr("An item of its own with the selection, which also stays where it is"), "", {}, tr("Decide"),
        [apart] { apart(false); }, selected);
    add(
        "decide.keep_connected", tr("Keep only what is connected to the selection"),
        tr("Takes everything of the item out that is not reached from the selection: the rest of the "
           "fixture, floating "
           "pieces. Steps of the work card for points, shared edges for triangles"),
        "", {}, tr("Decide"), [this] { keep_connected(); }, selected);
    add(
        "decide.merge", tr("Merge what is shown into one item"),
        tr("A new item with what is shown of all visible ones, which stay in the contents, hidden"), "", {},
        tr("Decide"), [this] { document_->merge_shown(); },
        [this] {
            int visible = 0;
            for (const site::ItemPtr& i : document_->site()->items) visible += i->visible;
            return visible > 1 ? QString() : tr("Show at least two items.");
        });
    add(
        "decide.guard", tr("Guard the selection"), tr("No tool touches it until the guard is lifted"),
        "guard", QKeySequence(Qt::Key_W), tr("-Decide"),
        [this] {
            document_->apply(tr("Guard %1").arg(counted(*document_, document_->site()->selected())),
                             [](const site::Site& s) { return site::guard(s, *s.selection, "Selection"); });
        },
        selected);
    add(
        "decide.guard_ground", tr("Guard the ground"),
        tr("Protects ground and floors, up to the margin of the work card above them"), "",
        QKeySequence(Qt::SHIFT | Qt::Key_W), tr("Decide"), [this] { guard_ground(); },
        [this] { return needs_item(); });
    add(
        "decide.lift_guards", tr("Lift the guards of this item"),
        tr("Everything of it may be selected and removed again"), "", {}, tr("Decide"),
        [this] {
            document_->apply(tr("Lift the guards"), [](const site::Site& s) {
                site::SitePtr next;
                for (const site::Guard& g : s.active_item()->guards)
                    next = site::lift_guard(next ? *next : s, s.active, g.id);
                return next;
            });
        },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            return document_->site()->active_item()->guarded ? QString()
                                                             : tr("Nothing of this item is guarded.");
        });
    add(
        "view.panorama", tr("Panorama from the station"),
        tr("Opens the scan as its scanner saw it, below; fences work in it. Without a known station it is "
           "drawn from where you stand"),
        "", QKeySequence(Qt::SHIFT | Qt::Key_P), tr("-View"),
        [this] {
            if (panorama_->is_open()) return panorama_->close_pane();
            panorama_->open(document_->site(), stage_->camera().eye, stage_->camera().yaw_deg);
        },
        [this] { return needs_item(); });
    add(
        "view.unclip", tr("Show what the clip box hides"),
        tr("The box stays in the list and can be used again"), "", QKeySequence(Qt::SHIFT | Qt::Key_Z),
        tr("-View"), [this] { document_->apply(tr("Without a clip box"), site::clear_clip); },
        [this] { return document_->site()->clip ? QString() : tr("No clip box is in force."); });
    add(
        "view.hide_selection", tr("Hide the selection"),
        tr("Hidden points are safe from every tool; nothing is removed"), "", QKeySequence(Qt::Key_H),
        tr("-View"),
        [this] {
            document_->apply(tr("Hide %1").arg(counted(*document_, document_->site()->selected())),
                             site::hide_selection);
        },
        selected);
    add(
        "view.only_selection", tr("Show only the selection"), tr("Hides everything else of the item"), "",
        QKeySequence(Qt::SHIFT | Qt::Key_H), tr("View"),
        [this] {
            document_->apply(tr("Show only %1").arg(counted(*document_, document_->site()->selected())),
                             site::show_only_selection);
        },
        selected);
    add(
        "view.show_all", tr("Show all of the item"), tr("Shows again what was hidden of it"), "",
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_H), tr("View"),
        [this] {
            document_->apply(tr("Show all"), [](const site::Site& s) { return site::show_all(s, s.active); });
        },
        [this] { return needs_hidden(); });
}

void MainWindow::fill_kept() {
    kept_->clear();
    const site::ItemPtr item = document_->site()->active_item();
    if (item)
        for (const site::KeptSelection& k : item->kept)
            kept_->addAction(
                tr("%1 (%2 points)").arg(QString::fromStdString(k.name), grouped(k.elements->count())), this,
                [this, id = k.id] {
                    document_->apply(tr("Use a kept selection"), [&](const site::Site& s) {
                        return site::use_kept(s, id, card_->combine());
                    });
                });
    if (kept_->isEmpty()) kept_->addAction(tr("None yet"))->setEnabled(false);
}

void MainWindow::fill_merge() {
    merge_->clear();
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    for (const site::ItemPtr& other : s->items)
        if (item && other != item && other->cloud == item->cloud)
            merge_->addAction(
                QString::fromStdString(other->name), this,
                [this, into = other->id, from = item->id, name = other->name] {
                    document_->apply(
                        tr("Put it back into %1").arg(QString::fromStdString(name)),
                        [&](const site::Site& site) { return site::merge_items(site, into, from); });
                });
    if (merge_->isEmpty()) merge_->addAction(tr("No other piece of the same scan"))->setEnabled(false);
}

}  // namespace pristine::app
