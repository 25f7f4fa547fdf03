#include "app/window/selecting.h"

#include <QFileDialog>
#include <QInputDialog>
#include <QMenu>
#include <QSettings>
#include <map>

#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/window/hand.h"
#include "app/window/scene_view.h"
#include "core/cloud/triangles.h"
#include "core/io/fence_file.h"
#include "core/select/fence.h"
#include "core/select/growth.h"
#include "core/select/triangle_growth.h"

namespace pristine::app {

Selecting::Selecting(Desk& desk) : HandyPart(desk) {
    connect(&hand_, &Hand::among_removed_changed, &view_, &SceneView::show_scene);
    connect(card_, &WorkCard::command, &commands_, &CommandTable::trigger);
    connect(stage_, &Stage::pointed_at, this, [this](double x, double y) { pointer_ = {x, y}; });
}

void Selecting::add_commands() {
    add_ways();
    add_whole();
    add_growth();
    add_sources();
}

// What tools reach, and how what they take goes together with what is selected.
void Selecting::add_ways() {
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
    commands_.add({"select.all_shown",
                   tr("Act on all that is shown"),
                   tr("Tools and decisions take from every item that is shown and not locked, instead of the "
                      "item in work alone"),
                   "",
                   QKeySequence(Qt::SHIFT | Qt::Key_D),
                   tr("Select"),
                   [this] { card_->set_all_shown(!card_->all_shown()); },
                   {},
                   [this] { return card_ && card_->all_shown(); },
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
}

// The selection as a whole.
void Selecting::add_whole() {
    commands_.add({"select.invert",
                   tr("Invert the selection"),
                   tr("Selects everything of the item that was not selected"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::Key_I),
                   tr("-Select"),
                   [this] {
                       document_->apply(tr("Invert the selection"), [this](const site::Site& s) {
                           return site::invert_selection(s, hand_.reach(s));
                       });
                   },
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
    add(
        "select.again", tr("The last selection again"), tr("Brings back what was selected before"),
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_I), tr("Select"),
        [this] { document_->apply(tr("The last selection again"), site::reselect); },
        [this] {
            return document_->site()->last_selection.empty() ? tr("Nothing was selected before.") : QString();
        });
}

// Selections that grow.
void Selecting::add_growth() {
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
        [this] { return needs_free_selection(); });
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
        [this] { return needs_free_selection(); });
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
        [this] { return needs_free_selection(); });
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
        [this] { return needs_free_selection(); });
}

// Selections from lines, names and what is out.
void Selecting::add_sources() {
    add(
        "select.rim", tr("Round the nearest rim"),
        tr("Adds every triangle round the hole, or along the outer rim, that is nearest to the selection; "
           "with nothing selected, to the pointer"),
        QKeySequence(Qt::SHIFT | Qt::Key_BracketRight), tr("Select"),
        [this] { document_->site()->selected() > 0 ? select_round_rim() : select_rim_under_pointer(); },
        [this] {
            const site::ItemPtr item = document_->site()->active_item();
            if (item && !item->cloud->triangles()) return tr("Take a surface or a mesh in work.");
            return needs_item();
        });
    add(
        "select.lines", tr("Inside closed lines of a file…"),
        tr("Selects what lies inside the lines in plan: GeoJSON, Shapefile, GeoPackage, DXF, LandXML, or "
           "text with a corner on each line"),
        {}, tr("-Select"), [this] { choose_lines(); }, [this] { return needs_item(); });
    add(
        "select.keep", tr("Keep this selection under a name…"),
        tr("It stays with the item and can be used again at any time"), {}, tr("-Select"),
        [this] {
            bool ok = false;
            const QString name = QInputDialog::getText(window_, tr("Keep the selection"), tr("Name"),
                                                       QLineEdit::Normal, {}, &ok);
            if (ok)
                document_->apply(tr("Keep the selection as %1").arg(name), [&](const site::Site& s) {
                    return site::keep_selection(s, name.trimmed().toStdString());
                });
        },
        [this] { return needs_free_selection(); });
    add_menu("select.kept", tr("Kept selections"),
             tr("Selections of the item in work that were kept under a name"), tr("Select"),
             [this](QMenu* menu) { fill_kept(menu); });
    add(
        "select.among_removed", tr("Select among what is out"),
        tr("Tools take ghosts, so that a part of what was removed can be put back"), QKeySequence(Qt::Key_Q),
        tr("-Select"),
        [this] {
            if (!document_->site()->selection.empty())
                document_->apply(tr("Drop the selection"), site::clear_selection);
            hand_.set_among_removed(!hand_.among_removed());
        },
        [this] { return hand_.among_removed() ? QString() : needs_removed(); },
        [this] { return hand_.among_removed(); });
}

void Selecting::grow(
    const char* id, const QString& title, site::Settings settings,
    std::function<ElementSet(const cloud::PointCloud&, const ElementSet&, const ElementSet&, Progress&)>
        how) {
    const site::SitePtr s = document_->site();
    const auto grown = std::make_shared<site::Parts>();
    jobs_->start(
        title,
        [=](Progress& p) {
            for (const auto& [item_id, part] : s->selection) {
                const site::ItemPtr item = s->item(item_id);
                (*grown)[item_id] = std::make_shared<const ElementSet>(
                    how(*item->cloud, *part,
                        s->of_removed ? site::eligible_removed(*item) : site::eligible(*item), p));
            }
        },
        [this, grown, s, title, id = std::string(id), settings] {
            if (document_->site()->selection != s->selection)
                return say_refused(tr("The selection changed meanwhile; nothing was added."));
            // It is still what it was, and more or less of it.
            const site::Origin origin{site::grown(s->origin.cause, id, settings), s->origin.reason};
            document_->apply(tr("%1: %2").arg(title, counted(*s, *grown)), [&](const site::Site& site) {
                return site.of_removed ? site::select_removed(site, *grown, site::Combine::New, origin)
                                       : site::select(site, *grown, site::Combine::New, origin);
            });
        });
}

// Triangles grow by rings.
site::Settings Selecting::step_of_growth() const {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || item->cloud->triangles()) return {};
    return {{"step", card_->reach()}};
}

void Selecting::choose_lines() {
    const QString file = QFileDialog::getOpenFileName(
        window_, tr("Closed lines"), QSettings().value("folder").toString(),
        tr("Lines (*.geojson *.json *.shp *.gpkg *.dxf *.xml *.txt *.xyz);;All files (*)"));
    if (!file.isEmpty()) select_lines(file.toStdString());
}

void Selecting::select_lines(const std::filesystem::path& file) {
    // Read once for all items of one reference.
    const auto read = std::make_shared<std::optional<std::pair<cloud::Reference, select::PlanFence>>>();
    hand_.select_shape(
        tr("The lines"), stage_, {},
        {site::by({.kind = site::Act::Kind::Lines, .settings = {{"file", file.filename().string()}}}),
         tr("By lines").toStdString()},
        [file, how = card_->reach_of(), read](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
            const cloud::Reference wanted = c.reference();
            if (!*read || !((*read)->first == wanted))
                read->emplace(wanted, select::PlanFence(io::read_rings_in(file, wanted).rings));
            return select::plan_fence(c, (*read)->second, e, p, how);
        });
}

// Round the hole, or the outer rim, that is nearest to the selection.
void Selecting::select_round_rim() {
    grow("select.rim", tr("Round the rim"), {},
         [](const cloud::PointCloud& c, const ElementSet& s, const ElementSet& e, Progress& p) {
             ElementSet all = s;
             std::uint64_t first = s.size();
             for (std::size_t page = 0; page < s.page_count() && first == s.size(); ++page)
                 s.for_each_in_page(page, [&](std::size_t i) {
                     first = std::min<std::uint64_t>(first, page * kPageSize + i);
                 });
             return first < s.size() ? all | select::round_rim(c, first, e, p) : all;
         });
}

// The rim nearest to the triangle that is pointed at.
void Selecting::select_rim_under_pointer() {
    const auto id = stage_->seen_at(pointer_);
    const site::ItemPtr item = document_->site()->active_item();
    if (!id) return say_refused(tr("Point at a triangle beside the rim, or select one."));
    const render::Scene::PageRef ref = stage_->scene().pages()[*id >> 16];
    if (stage_->scene().items()[ref.item].id != item->id)
        return say_refused(tr("This triangle is not of the item in work."));
    const std::uint64_t t = std::uint64_t{ref.page} * kPageSize + (*id & 0xFFFFu);
    hand_.select_in({{item, hand_.within_reach(*item, stage_)}},
                    [t](const cloud::PointCloud& c, const ElementSet& e, Progress& p) {
                        return select::round_rim(c, t, e, p);
                    },
                    {site::Combine::New,
                     tr("%1 has no rim here."),
                     {site::said(tr("what lies round the rim that was pointed at").toStdString()), {}}});
}

void Selecting::fill_kept(QMenu* menu) {
    const site::SitePtr s = document_->site();
    std::map<std::uint64_t, std::pair<std::string, site::Parts>> kept;
    for (const std::uint64_t id : hand_.reach(*s))
        for (const site::KeptSelection& k : s->item(id)->kept) kept[k.id].first = k.name;
    for (const site::ItemPtr& item : s->items)
        for (const site::KeptSelection& k : item->kept)
            if (kept.contains(k.id)) kept[k.id].second[item->id] = k.elements;
    for (const auto& [id, one] : kept)
        menu->addAction(
            QStringLiteral("%1 (%2)").arg(QString::fromStdString(one.first), counted(*s, one.second)), this,
            [this, id = id] {
                document_->apply(tr("Use a kept selection"), [&](const site::Site& site) {
                    return site::use_kept(site, id, card_->combine());
                });
            });
    if (menu->isEmpty()) menu->addAction(tr("None yet"))->setEnabled(false);
}

}  // namespace pristine::app
