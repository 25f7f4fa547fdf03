#include "app/window/decisions.h"

#include <QAction>
#include <QClipboard>
#include <QGuiApplication>
#include <QInputDialog>
#include <QMenu>
#include <QSettings>

#include "app/cards/work_card.h"
#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/class_text.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/stage/stage.h"
#include "app/window/class_menu.h"
#include "app/window/decision_bar.h"
#include "app/window/hand.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"
#include "core/base/units.h"
#include "core/cloud/triangles.h"
#include "core/io/scans.h"
#include "core/terrain/floors.h"

namespace pristine::app {

Decisions::Decisions(Desk& desk) : HandyPart(desk) {}

void Decisions::add_commands() {
    add_undo();
    add_removing();
    add_classing();
    add_pieces();
    add_guards();
}

// One step back, and forward again.
void Decisions::add_undo() {
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
    add(
        "edit.copy_numbers", tr("Copy the numbers of the selection"),
        tr("Count, share, items and heights, as text for a message or a report"), QKeySequence::Copy,
        tr("Edit"), [this] { QGuiApplication::clipboard()->setText(bar_->told()); },
        [this] { return needs_selection(); });
    // Both habits work.
    commands_.action(QStringLiteral("edit.redo"))
        ->setShortcuts({QKeySequence(Qt::CTRL | Qt::Key_Y), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z)});
}

// What goes and what comes back.
void Decisions::add_removing() {
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
                       return document_->site()->selected() > 0 ? tr("Remove %1").arg(selected_words())
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
    add_iconed(
        "decide.put_back", tr("Put the selection back"),
        tr("Brings the selected ghosts back; their ledger entries keep the rest"), "put-back",
        QKeySequence(Qt::CTRL | Qt::Key_B), tr("-Decide"),
        [this] {
            document_->apply(tr("Put %1 back").arg(selected_words()),
                             [](const site::Site& s) { return site::put_back_selection(s); });
            if (needs_removed().isEmpty()) return;
            hand_.set_among_removed(false);
        },
        [this] {
            return document_->site()->of_removed ? QString()
                                                 : tr("Select something among what is out first (Q).");
        });
}

// What stays, and is told apart by its class.
void Decisions::add_classing() {
    commands_.add(
        {"decide.class",
         tr("Class the selection as…"),
         tr("Gives the selected points a class: ground, building, water and so on; the ledger keeps "
            "it, and it can be lifted at any time"),
         "class",
         QKeySequence(Qt::Key_Insert),
         tr("-Decide"),
         [this] { ask_class(); },
         [this] {
             if (const QString why = needs_free_selection(); !why.isEmpty()) return why;
             for (const auto& part : document_->site()->selection)
                 if (document_->site()->item(part.first)->cloud->triangles())
                     return tr("Only points have classes; triangles are selected.");
             return QString();
         },
         {},
         {}});
}

// Above the button of the bar, where hands and eyes are.
void Decisions::ask_class() {
    auto* menu = new QMenu(window_);
    menu->setObjectName(QStringLiteral("classMenu"));
    menu->setAttribute(Qt::WA_DeleteOnClose);
    fill_class_menu(menu, *document_->site(), [this](std::uint8_t code) { give_class(code); });
    const QPoint at = bar_ ? bar_->place_for_classes() : QCursor::pos();
    menu->popup(at - QPoint(0, menu->sizeHint().height()));
}

void Decisions::give_class(std::uint8_t code) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    site::Decision d;
    d.reason = site::class_name(*s, code);
    d.cause = s->origin.cause.empty() ? site::by({}) : s->origin.cause;
    d.picture = document_->numbers().picture;
    const QString what = selected_words(), name = class_text(*s, code);
    if (!document_->apply(tr("Class %1 as %2").arg(what, name),
                          [&](const site::Site& now) { return site::class_selection(now, code, d); }))
        return;
    remember_class(code);
    const bool seen = item && item->style.colour_by == site::ColourBy::Class;
    status_->say(seen ? tr("%1 are now %2.").arg(what, name)
                      : tr("%1 are now %2. Colour by Class shows it.").arg(what, name),
                 false);
}

// Items from parts, and one item from several.
void Decisions::add_pieces() {
    add_iconed(
        "decide.apart", tr("Set the selection apart"), tr("Moves the selection to an item of its own"),
        "apart", QKeySequence(Qt::Key_A), tr("-Decide"), [this] { set_apart(true); },
        [this] { return needs_free_selection(); });
    add_iconed(
        "decide.apart_copy", tr("Set a copy apart"),
        tr("An item of its own with the selection, which also stays where it is"), "", {}, tr("Decide"),
        [this] { set_apart(false); }, [this] { return needs_free_selection(); });
    add_menu("decide.merge_into", tr("Put this piece back into"),
             tr("Puts a piece that was set apart back into the scan that it came from"), tr("Decide"),
             [this](QMenu* menu) { fill_merge(menu); });
    add_iconed(
        "decide.merge", tr("Merge what is shown into one item"),
        tr("A new item with what is shown of all visible ones, which stay in the contents, hidden"), "", {},
        tr("Decide"), [this] { merge_shown(); },
        [this] {
            int visible = 0;
            for (const site::ItemPtr& i : document_->site()->items) visible += i->visible;
            return visible > 1 ? QString() : tr("Show at least two items.");
        });
    add_iconed(
        "decide.part_by_scan", tr("Part this item by scan"),
        tr("An item for each scan of its file, with its own station, eye, lock and colours"), "", {},
        tr("Decide"), [this] { document_->part_by_scan(document_->site()->active); },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            return io::has_several_scans(*document_->site()->active_item()->cloud)
                       ? QString()
                       : tr("This item holds one scan, or does not say which points are of which scan.");
        });
    add_iconed(
        "decide.join_scans", tr("Join the scans of this group"),
        tr("One item from all scans under the heading of the item in work; decisions stay"), "", {},
        tr("Decide"), [this] { document_->join_group(document_->site()->active_item()->group); },
        [this] {
            if (const QString why = needs_item(); !why.isEmpty()) return why;
            return document_->scans_of_group(document_->site()->active_item()->group).size() > 1
                       ? QString()
                       : tr("There are no two scans under the heading of this item.");
        });
}

// What no tool touches.
void Decisions::add_guards() {
    add_iconed(
        "decide.guard", tr("Guard the selection"), tr("No tool touches it until the guard is lifted"),
        "guard", QKeySequence(Qt::Key_W), tr("-Decide"),
        [this] {
            document_->apply(tr("Guard %1").arg(selected_words()), [](const site::Site& s) {
                return site::guard(s, s.selection, tr("Selection").toStdString());
            });
        },
        [this] { return needs_free_selection(); });
    add_iconed(
        "decide.guard_ground", tr("Guard the ground"),
        tr("Protects ground and floors, up to the margin of the work card above them"), "",
        QKeySequence(Qt::SHIFT | Qt::Key_W), tr("Decide"), [this] { guard_ground(); },
        [this] { return needs_item(); });
    add_iconed(
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
}

void Decisions::set_bar(DecisionBar* bar) {
    bar_ = desk_.bar = bar;
    bar_->usual_reason = [this] { return usual_reason(); };
    connect(bar_, &DecisionBar::reason_chosen, this, &Decisions::reason_chosen);
    connect(document_, &Document::numbers_changed, bar_, &DecisionBar::refresh);
}

void Decisions::set_apart(bool move) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr of = s->selection.size() == 1 ? s->item(s->selection.begin()->first) : nullptr;
    const QString name = of ? tr("%1 part %2").arg(QString::fromStdString(of->name)).arg(s->items.size())
                            : tr("Part %1").arg(s->items.size());
    document_->apply(move ? tr("Set %1 apart").arg(selected_words()) : tr("Set a copy apart"),
                     [&](const site::Site& s) { return site::set_apart(s, name.toStdString(), move); });
}

void Decisions::decide(bool keep_only) {
    const site::SitePtr s = document_->site();
    site::Decision d;
    d.reason = keep_only ? tr("Everything else").toStdString() : bar_->reason().toStdString();
    // What made the selection goes with it, through undo, kept selections and the project file.
    d.cause = s->origin.cause.empty() ? site::by({}) : s->origin.cause;
    if (keep_only) d.cause = site::wrapped(d.cause, site::Act::Kind::KeepOnly);
    // The picture is one of what is selected: of keep only that is what stayed.
    constexpr std::uint64_t kMostForPicture = 3'000'000;  // more would hold up the window
    const site::ItemPtr item = s->active_item();
    if (!keep_only)
        d.picture = document_->numbers().picture;
    else if (item && s->selection_in_work() && document_->numbers().of <= kMostForPicture)
        d.picture = document_->picture_of()(item->cloud, site::eligible(*item) - *s->selection_in_work());
    const std::uint64_t go = document_->numbers().of - document_->numbers().count;
    document_->apply(keep_only ? tr("Keep only the selection, %1 go").arg(counted(*document_, go))
                               : tr("Remove %1").arg(selected_words()),
                     [&](const site::Site& site) {
                         return keep_only ? site::keep_only_selection(site, d, hand_.reach(site))
                                          : site::remove_selection(site, d);
                     });
}

QString Decisions::selected_words() const {
    return counted(*document_->site(), document_->site()->selection);
}

QString Decisions::usual_reason() const {
    const site::ItemPtr item = document_->site()->active_item();
    return item && item->cloud->triangles() ? tr("Fixture") : tr("Person");
}

// It holds for this selection, and for the next ones that the same hand tool makes.
void Decisions::reason_chosen(const QString& reason) {
    const std::string tool = site::tool_of(document_->site()->origin.cause);
    if (!tool.empty()) QSettings().setValue(QStringLiteral("reasons/") + tool.c_str(), reason);
    stage_->setFocus();  // so that Delete decides
}

void Decisions::guard_ground() {
    const double margin = card_->ground_margin();
    const Lengths lengths(*document_->site());
    const auto of = std::make_shared<std::vector<site::ItemPtr>>();
    for (const std::uint64_t id : hand_.reach(*document_->site()))
        if (const site::ItemPtr item = document_->site()->item(id); !item->cloud->triangles())
            of->push_back(item);
    const auto parts = std::make_shared<site::Parts>();
    jobs_->start(
        tr("Looking for the ground"),
        [=](Progress& p) {
            for (const site::ItemPtr& item : *of) {
                terrain::GroundOptions options;
                options.metres_per_unit = length_unit(item->cloud->unit()).metres;
                const ElementSet shown = ~*item->absent;
                const terrain::GroundModel ground(*item->cloud, shown, options, p);
                (*parts)[item->id] = std::make_shared<const ElementSet>(
                    terrain::ground_guard(*item->cloud, ground, shown, margin, p));
            }
        },
        [this, of, parts, margin, lengths] {
            if (site::count_of(*parts) == 0)
                return say_refused(tr("No ground was found: nothing level of three square metres or more."));
            document_->apply(tr("Guard %1 of ground").arg(counted(*document_->site(), *parts)),
                             [&](const site::Site& site) {
                                 for (const site::ItemPtr& item : *of)
                                     if (const site::ItemPtr now = site.item(item->id);
                                         !now || now->cloud != item->cloud)
                                         throw Error(ErrorCode::Usage, "An item changed meanwhile");
                                 return site::guard(
                                     site, *parts,
                                     tr("Ground, up to %1 above it").arg(lengths.text(margin)).toStdString());
                             });
        });
}

// Of meshes and surfaces a person says how near open edges must lie to be one.
void Decisions::merge_shown() {
    const site::SitePtr s = document_->site();
    const auto visible = [&](bool triangles) {
        return std::any_of(s->items.begin(), s->items.end(), [&](const site::ItemPtr& i) {
            return i->visible && (i->cloud->triangles() != nullptr) == triangles;
        });
    };
    if (visible(true) && visible(false))
        return say_refused(tr("Points and triangles cannot become one item: hide the ones or the others."));
    if (!visible(true)) return document_->merge_shown();
    const Lengths l(*s);
    bool ok = false;
    const double tolerance =
        QInputDialog::getDouble(window_, tr("Merge meshes"),
                                tr("Open edges of different meshes within this of each other are joined [%1]")
                                    .arg(l.known() ? l.suffix().trimmed() : tr("unit not set")),
                                l.shown(0.001 / l.data_metres()), 0, 1e6, l.decimals() + 2, &ok);
    if (ok) document_->merge_shown(l.data(tolerance));
}

void Decisions::fill_merge(QMenu* menu) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    for (const site::ItemPtr& other : s->items)
        if (item && other != item && other->cloud == item->cloud)
            menu->addAction(QString::fromStdString(other->name), this,
                            [this, into = other->id, from = item->id, name = other->name] {
                                document_->apply(tr("Put it back into %1").arg(QString::fromStdString(name)),
                                                 [&](const site::Site& site) {
                                                     return site::merge_items(site, into, from);
                                                 });
                            });
    if (menu->isEmpty()) menu->addAction(tr("No other piece of the same scan"))->setEnabled(false);
}

}  // namespace pristine::app
