// The rows of lines and marks in the contents.

#include <QTreeWidget>
#include <algorithm>

#include "app/look/lengths.h"
#include "app/look/role_words.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/mark_text.h"
#include "app/window/contents_panel.h"
#include "app/window/contents_rows.h"
#include "core/site/making.h"
#include "core/site/marks.h"

namespace pristine::app {

void ContentsPanel::add_lines() {
    const site::SitePtr s = document_->site();
    if (s->lines.empty()) return;
    auto* head = new QTreeWidgetItem(tree_, {QString(), tr("Lines")});
    head->setFlags(Qt::ItemIsEnabled);
    head->setForeground(kName, token::ink_soft);
    std::vector<std::string> line_groups;
    for (const site::LinePtr& l : s->lines) {
        if (!l->group.empty() &&
            std::find(line_groups.begin(), line_groups.end(), l->group) != line_groups.end())
            continue;
        if (l->group.empty()) {
            add_line_row(l);
            continue;
        }
        line_groups.push_back(l->group);
        add_line_group(l->group);
    }
}

void ContentsPanel::add_marks() {
    const site::SitePtr s = document_->site();
    if (s->marks.empty()) return;
    auto* head = new QTreeWidgetItem(tree_, {QString(), tr("Marks")});
    head->setFlags(Qt::ItemIsEnabled);
    head->setForeground(kName, token::ink_soft);
    const Lengths l(*s);
    for (const site::MarkPtr& m : s->marks) {
        QTreeWidgetItem* row = add_thin_row(m->id, m->visible, QString::fromStdString(m->name));
        row->setText(kCount, main_figure(*m, l));
        QString tip = tr("%1. Double click: its figures.").arg(all_figures(*m, l));
        if (!m->note.empty()) tip += QStringLiteral("\n") + QString::fromStdString(m->note);
        for (int c = 0; c < 4; ++c) row->setToolTip(c, tip);
        if (const std::string why = site::why_stale(*s, *m); !why.empty()) {
            put_mark(row, tr("Out of date: "));
            row->setForeground(kName, QColor(0x9A, 0x6B, 0x00));
        }
    }
}

// A row of something that is no item: smaller, with an eye and a name that can be typed.
QTreeWidgetItem* ContentsPanel::add_thin_row(std::uint64_t id, bool visible, const QString& name) {
    auto* row = new QTreeWidgetItem(tree_);
    row->setData(0, Qt::UserRole, static_cast<qulonglong>(id));
    row->setFlags(row->flags() | Qt::ItemIsEditable);
    row->setIcon(kEye, icon(visible ? "eye" : "eye-off"));
    row->setText(kName, name);
    row->setTextAlignment(kCount, Qt::AlignRight | Qt::AlignVCenter);
    QFont font = tree_->font();
    font.setPointSizeF(9);
    row->setFont(kName, font);
    row->setFont(kCount, font);
    if (!visible) row->setForeground(kName, token::ink_soft);
    return row;
}

void ContentsPanel::change_mark(const site::MarkPtr& mark, const QString& title,
                                const std::function<void(site::Mark&)>& change) {
    site::Mark changed = *mark;
    change(changed);
    document_->apply(title.arg(QString::fromStdString(mark->name)),
                     [&](const site::Site& s) { return site::put_mark(s, changed); });
}

// One row for lines of one making, with the lines beneath when it is opened.
void ContentsPanel::add_line_group(const std::string& group) {
    const site::SitePtr s = document_->site();
    int count = 0;
    bool any = false;
    for (const site::LinePtr& l : s->lines)
        if (l->group == group) {
            ++count;
            any |= l->visible;
        }
    const bool open = open_groups_.contains(group);
    auto* row = new QTreeWidgetItem(tree_);
    row->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    row->setData(0, kLineGroup, QString::fromStdString(group));
    row->setIcon(kEye, icon(any ? "eye" : "eye-off"));
    row->setText(kName, (open ? QStringLiteral("▾ ") : QStringLiteral("▸ ")) + QString::fromStdString(group));
    const site::Making* making = site::making_of_group(*s, group);
    const std::string stale = making ? site::why_stale(*s, *making) : std::string();
    row->setText(kCount, grouped(static_cast<std::uint64_t>(count)));
    row->setTextAlignment(kCount, Qt::AlignRight | Qt::AlignVCenter);
    row->setToolTip(kEye, tr("Show or hide all of them"));
    row->setToolTip(kName, tr("%n line(s). Click: list them.", "", count));
    QFont font = tree_->font();
    font.setPointSizeF(9);
    row->setFont(kName, font);
    row->setFont(kCount, font);
    if (!any) row->setForeground(kName, token::ink_soft);
    if (!stale.empty()) mark_stale(row, stale);
    if (!open) return;
    for (const site::LinePtr& l : s->lines)
        if (l->group == group) add_line_row(l);
}

void ContentsPanel::click_line_group(const std::string& group, int column) {
    const site::SitePtr s = document_->site();
    const bool any = std::any_of(s->lines.begin(), s->lines.end(),
                                 [&](const site::LinePtr& l) { return l->group == group && l->visible; });
    if (column == kEye) {
        document_->apply((any ? tr("Hide %1") : tr("Show %1")).arg(QString::fromStdString(group)),
                         [&](const site::Site& now) { return site::show_lines(now, group, !any); });
        return;
    }
    if (!open_groups_.erase(group)) open_groups_.insert(group);
    shown_.clear();
    refresh();
}

void ContentsPanel::add_line_row(const site::LinePtr& line) {
    QTreeWidgetItem* row = add_thin_row(line->id, line->visible, QString::fromStdString(line->name));
    const Lengths l(*document_->site());
    row->setText(kCount, l.number(site::length_of(*line)) + l.suffix());
    QString tip = (line->closed ? tr("Closed line of %1 corners. Double click: edit it.")
                                : tr("Open line of %1 corners. Double click: edit it."))
                      .arg(line->points.size());
    if (line->role != LineRole::Free) tip = tr("%1. %2").arg(title_of(line->role), tip);
    if (const site::Survey* survey = document_->site()->survey(line->survey))
        tip += tr("\nsurvey: %1").arg(QString::fromStdString(survey->name));
    for (int c = 0; c < 4; ++c) row->setToolTip(c, tip);
}

void ContentsPanel::change_line(const site::LinePtr& line, const QString& title,
                                const std::function<void(site::Line&)>& change) {
    site::Line changed = *line;
    change(changed);
    document_->apply(title.arg(QString::fromStdString(line->name)),
                     [&](const site::Site& s) { return site::put_lines(s, {changed}); });
}

}  // namespace pristine::app
