// The card of a mesh: faults by kind, under what they do, and the tour from one to the next.

#include <QLabel>
#include <QTreeWidget>
#include <algorithm>

#include "app/cards/mesh_card.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "core/elements/ranks.h"

namespace pristine::app {

using repair::Fault;

// What harms most comes first.
void MeshCard::fill_kinds() {
    const Lengths l(*document_->site());
    kinds_->clear();
    QTreeWidgetItem* first = nullptr;
    for (std::size_t h = 0; h < repair::kHarms; ++h) {
        auto* group = new QTreeWidgetItem(kinds_);
        group->setFlags(Qt::ItemIsEnabled);
        QFont bold = kinds_->font();
        bold.setWeight(QFont::DemiBold);
        group->setFont(0, bold);
        std::uint64_t sum = 0;
        for (std::size_t k = 0; k < repair::kFaults; ++k) {
            const auto f = static_cast<Fault>(k);
            if (repair::harm_of(f) != static_cast<repair::Harm>(h)) continue;
            const std::uint64_t n = check_->count(f);
            sum += n;
            const QString cost = n > 0 ? told_cost(costs_[k], l) : QString();
            auto* row = new QTreeWidgetItem(group, {title_of(f), grouped(n), cost});
            for (const int c : {1, 2}) row->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
            row->setData(0, Qt::UserRole, static_cast<int>(k));
            row->setCheckState(0, n > 0 ? Qt::Checked : Qt::Unchecked);
            row->setDisabled(n == 0);
            row->setToolTip(0, explained(f));
            row->setToolTip(2, explained_cost(f));
            if (n > 0 && !first) first = row;
        }
        group->setText(0, tr("%1: %2").arg(title_of(static_cast<repair::Harm>(h)), grouped(sum)));
        group->setFirstColumnSpanned(true);
        group->setExpanded(true);
    }
    if (first) kinds_->setCurrentItem(first);
}

std::vector<QTreeWidgetItem*> MeshCard::kind_rows() const {
    std::vector<QTreeWidgetItem*> rows;
    for (int g = 0; g < kinds_->topLevelItemCount(); ++g)
        for (int i = 0; i < kinds_->topLevelItem(g)->childCount(); ++i)
            rows.push_back(kinds_->topLevelItem(g)->child(i));
    return rows;
}

QTreeWidgetItem* MeshCard::row_of(Fault f) const {
    for (QTreeWidgetItem* row : kind_rows())
        if (row->data(0, Qt::UserRole).toInt() == static_cast<int>(f)) return row;
    return nullptr;
}

std::optional<Fault> MeshCard::kind_in_hand() const {
    const QTreeWidgetItem* row = kinds_->currentItem();
    if (!fresh_ || !row || !row->parent()) return std::nullopt;
    return static_cast<Fault>(row->data(0, Qt::UserRole).toInt());
}

const repair::Finding* MeshCard::current() const {
    const std::optional<Fault> kind = kind_in_hand();
    if (!kind) return nullptr;
    const auto& all = check_->of(*kind);
    return at_ >= 0 && static_cast<std::size_t>(at_) < all.size() ? &all[static_cast<std::size_t>(at_)]
                                                                  : nullptr;
}

void MeshCard::go(int by) {
    const std::optional<Fault> kind = kind_in_hand();
    if (!kind) return;
    const auto n = static_cast<int>(check_->count(*kind));
    if (n == 0) return;
    at_ = at_ < 0 ? (by > 0 ? 0 : n - 1) : (at_ + by + n) % n;
    place_->setText(tr("%1 of %2").arg(at_ + 1).arg(n));
    const QString why = why_left(*current());
    why_->setText(why);
    why_->setVisible(!why.isEmpty());
    show_finding(*current());
}

// Flies there and selects its triangles: those of what was checked are the elements that are shown, by rank.
void MeshCard::show_finding(const repair::Finding& f) {
    Box3 box;
    for (const std::uint32_t t : f.triangles)
        for (const std::uint32_t v : mesh_->triangles[t]) box.add(mesh_->vertices[v]);
    if (box.empty()) box.add(f.where);
    const double margin = std::max(0.5 * box.diagonal(), 1e-9);
    box.add(box.lo - Vec3{margin, margin, margin});
    box.add(box.hi + Vec3{margin, margin, margin});
    emit fly(box);
    const ElementSet set = members_at(~*absent_, f.triangles);
    document_->apply(tr("Select a finding: %1").arg(title_of(f.fault)), [&](const site::Site& s) {
        return site::select(s, set, site::Combine::New,
                            {site::by({.kind = site::Act::Kind::Findings, .id = repair::id_of(f.fault)}),
                             tr("Fault").toStdString()});
    });
}

void MeshCard::keep_left(std::vector<repair::Unrepaired> left) {
    const site::ItemPtr item = document_->site()->active_item();
    left_ = std::move(left);
    left_of_ = item ? item->cloud : nullptr;
    emit guides_changed();
}

// Why the last repair left this one; empty: it was not asked to repair it, or something changed since.
QString MeshCard::why_left(const repair::Finding& f) const {
    if (left_of_ != cloud_) return {};
    // Of a rim another corner may come first now: the nearest is meant.
    const repair::Unrepaired* nearest = nullptr;
    for (const repair::Unrepaired& u : left_)
        if (u.fault == f.fault && (!nearest || norm(u.where - f.where) < norm(nearest->where - f.where)))
            nearest = &u;
    return nearest ? tr("Left by the repair: %1.").arg(QString::fromStdString(nearest->why)) : QString();
}

std::vector<Fault> MeshCard::ticked() const {
    std::vector<Fault> out;
    for (const QTreeWidgetItem* row : kind_rows())
        if (row->checkState(0) == Qt::Checked)
            out.push_back(static_cast<Fault>(row->data(0, Qt::UserRole).toInt()));
    return out;
}

}  // namespace pristine::app
