// The menus of the rows of the contents.

#include <QMenu>
#include <QTreeWidget>

#include "app/look/role_words.h"
#include "app/model/document.h"
#include "app/panes/survey_dialog.h"
#include "app/window/contents_panel.h"
#include "app/window/contents_rows.h"
#include "core/cloud/triangles.h"
#include "core/io/scans.h"
#include "core/site/making.h"
#include "core/site/marks.h"

namespace pristine::app {

void ContentsPanel::add_roles(QMenu* menu, const site::LinePtr& line) {
    menu->setObjectName(QStringLiteral("lineRoles"));
    for (int k = 0; k < kLineRoles; ++k) {
        const auto role = static_cast<LineRole>(k);
        const bool needs_ring = role == LineRole::Boundary || role == LineRole::Hole;
        QAction* a = menu->addAction(title_of(role), this, [=, this] {
            change_line(line, tr("Say what %1 is for"), [role](site::Line& l) { l.role = role; });
        });
        a->setCheckable(true);
        a->setChecked(line->role == role);
        a->setEnabled(!needs_ring || line->closed);
    }
}

void ContentsPanel::add_roles(QMenu* menu, const site::ItemPtr& item) {
    menu->setObjectName(QStringLiteral("itemRoles"));
    for (const site::ItemRole role : site::possible_roles(*item->cloud)) {
        QAction* a = menu->addAction(title_of(role), this, [=, this] {
            document_->apply(tr("Say what %1 is").arg(QString::fromStdString(item->name)),
                             [&](const site::Site& s) { return site::set_role(s, item->id, role); });
        });
        a->setCheckable(true);
        a->setChecked(item->role == role);
    }
}

// Which survey items and lines are of, and a new one.
void ContentsPanel::add_surveys(QMenu* menu, std::uint64_t now, const std::vector<std::uint64_t>& items,
                                const std::vector<std::uint64_t>& lines) {
    menu->setObjectName(QStringLiteral("surveys"));
    const auto give = [=, this](std::uint64_t survey, const QString& name) {
        document_->apply(tr("Of the survey %1").arg(name),
                         [&](const site::Site& s) { return site::set_survey(s, survey, items, lines); });
    };
    const auto add = [&](std::uint64_t survey, const QString& name) {
        QAction* a = menu->addAction(name, this, [=] { give(survey, name); });
        a->setCheckable(true);
        a->setChecked(survey == now);
    };
    for (const site::Survey& v : document_->site()->surveys) add(v.id, QString::fromStdString(v.name));
    add(0, tr("none"));
    menu->addSeparator();
    menu->addAction(tr("New survey…"), this, [=, this] {
        const site::ItemPtr item = items.empty() ? nullptr : document_->site()->item(items.front());
        site::Survey fresh;
        if (item) fresh.date = item->date;
        const auto made = ask_survey(this, fresh, *document_->site());
        if (!made) return;
        document_->apply(tr("New survey %1").arg(QString::fromStdString(made->name)),
                         [&](const site::Site& s) {
                             const site::SitePtr next = site::put_survey(s, *made);
                             return site::set_survey(*next, next->surveys.back().id, items, lines);
                         });
    });
    if (!items.empty() && now == 0)
        menu->addAction(tr("A date of its own…"), this, [=, this] { choose_date(items.front()); });
}

void ContentsPanel::line_menu(const site::LinePtr& line, QTreeWidgetItem* row, const QPoint& at) {
    QMenu menu(this);
    menu.addAction(tr("Edit its corners"), this, [=, this] { emit edit_line(line->id); });
    menu.addAction(tr("Fly there"), this, [=, this] { emit fly_to_line(line->id); });
    menu.addAction(tr("Fly along it"), this, [=, this] { emit fly_along_line(line->id); });
    menu.addAction(tr("Select inside it"), this, [=, this] { emit select_inside(line->id); })
        ->setEnabled(line->closed);
    const site::ItemPtr item = document_->site()->active_item();
    menu.addAction(tr("Replace the surface inside"), this, [=, this] { emit replace_inside(line->id); })
        ->setEnabled(line->closed && item && cloud::is_surface(*item->cloud));
    menu.addAction(line->closed ? tr("Open it") : tr("Close it"), this, [=, this] {
        change_line(line, line->closed ? tr("Open %1") : tr("Close %1"),
                    [](site::Line& l) { l.closed = !l.closed; });
    });
    add_roles(menu.addMenu(tr("What it is for")), line);
    add_surveys(menu.addMenu(tr("Survey")), line->survey, {}, {line->id});
    menu.addAction(tr("Rename"), this, [=, this] { tree_->editItem(row, kName); });
    menu.addAction(tr("Take off the list"), this, [=, this] {
        document_->apply(tr("Take %1 off the list").arg(QString::fromStdString(line->name)),
                         [&](const site::Site& s) { return site::drop_line(s, line->id); });
    });
    menu.exec(tree_->viewport()->mapToGlobal(at));
}

void ContentsPanel::mark_menu(const site::MarkPtr& mark, QTreeWidgetItem* row, const QPoint& at) {
    QMenu menu(this);
    menu.addAction(tr("Its figures"), this, [=, this] { emit fly_to_mark(mark->id); });
    menu.addAction(tr("Rename"), this, [=, this] { tree_->editItem(row, kName); });
    menu.addAction(tr("Take off the list"), this, [=, this] {
        document_->apply(tr("Take %1 off the list").arg(QString::fromStdString(mark->name)),
                         [&](const site::Site& s) { return site::drop_mark(s, mark->id); });
    });
    menu.exec(tree_->viewport()->mapToGlobal(at));
}

// Of a heading: what is done with all that stands under it.
void ContentsPanel::heading_menu(QTreeWidgetItem* row, const QPoint& at) {
    const QString group = row ? row->data(0, kHeading).toString() : QString();
    if (group.isEmpty()) return;
    QMenu menu(this);
    menu.addAction(tr("Join its scans into one item"), this,
                   [=, this] { document_->join_group(group.toStdString()); })
        ->setEnabled(document_->scans_of_group(group.toStdString()).size() > 1);
    menu.exec(tree_->viewport()->mapToGlobal(at));
}

void ContentsPanel::context_menu(const QPoint& at) {
    QTreeWidgetItem* row = tree_->itemAt(at);
    const std::uint64_t id = id_of(row);
    if (const site::LinePtr line = document_->site()->line(id)) return line_menu(line, row, at);
    if (const site::MarkPtr mark = document_->site()->mark(id)) return mark_menu(mark, row, at);
    if (const QVariant group = row ? row->data(0, kLineGroup) : QVariant(); group.isValid()) {
        QMenu menu(this);
        if (const site::Making* making =
                site::making_of_group(*document_->site(), group.toString().toStdString()))
            menu.addAction(tr("Make again"), this, [this, m = *making] { emit make_again(m); });
        menu.addAction(tr("Take all of them off the list"), this, [=, this] {
            document_->apply(tr("Take %1 off the list").arg(group.toString()), [&](const site::Site& s) {
                return site::drop_lines(s, group.toString().toStdString());
            });
        });
        menu.exec(tree_->viewport()->mapToGlobal(at));
        return;
    }
    const site::ItemPtr item = document_->site()->item(id);
    if (!item) return heading_menu(row, at);
    QMenu menu(this);
    menu.addAction(tr("Work on this"), this, [=, this] { clicked(row, kName); });
    menu.addAction(tr("Fly there"), this, [=, this] { emit fly_to(id); });
    menu.addAction(tr("Rename"), this, [=, this] { tree_->editItem(row, kName); });
    menu.addAction(tr("Duplicate"), this, [=, this] {
        document_->apply(tr("Duplicate %1").arg(QString::fromStdString(item->name)),
                         [&](const site::Site& s) { return site::duplicate_item(s, id); });
    });
    if (const site::Making* making = site::making_of_item(*document_->site(), id))
        menu.addAction(tr("Make again"), this, [this, m = *making] { emit make_again(m); });
    menu.addAction(tr("Put into a group…"), this, [=, this] { choose_group(id); });
    add_surveys(menu.addMenu(tr("Survey")), item->survey, {id}, {});
    if (item->cloud->triangles()) {
        add_roles(menu.addMenu(tr("What it is")), item);
        menu.addAction(tr("Drape a picture of the ground…"), this, [=, this] { emit drape(id); });
        menu.addAction(tr("Take the picture off"), this,
                       [=, this] {
                           document_->apply(
                               tr("Take the picture off %1").arg(QString::fromStdString(item->name)),
                               [&](const site::Site& s) { return site::set_drape(s, id, nullptr); });
                       })
            ->setEnabled(item->drape != nullptr);
    }
    if (io::has_several_scans(*item->cloud))
        menu.addAction(tr("Part by scan"), this, [=, this] { document_->part_by_scan(id); });
    menu.addAction(tr("Colour in classes…"), this, [=, this] { choose_classes(id); });
    menu.addAction(tr("Take off the list"), this, [=, this] {
        document_->apply(tr("Take %1 off the list").arg(QString::fromStdString(item->name)),
                         [&](const site::Site& s) { return site::drop_item(s, id); });
    });
    menu.exec(tree_->viewport()->mapToGlobal(at));
}

}  // namespace pristine::app
