#include "app/cards/area_list.h"

#include <QHeaderView>

namespace pristine::app {

AreaList::AreaList(QWidget* parent) : QTreeWidget(parent) {
    setObjectName(QStringLiteral("measureAreas"));
    setAccessibleName(tr("Cut and fill of each work area"));
    setColumnCount(4);
    setRootIsDecorated(false);
    setSelectionMode(QAbstractItemView::NoSelection);
    header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    setMinimumHeight(200);
}

void AreaList::show_areas(const measure::AreaTable& table, const Lengths& l) {
    clear();
    const QString unit = l.power(3).trimmed();
    setHeaderLabels(
        {tr("Area"), tr("Cut [%1]").arg(unit), tr("Fill [%1]").arg(unit), tr("Net [%1]").arg(unit)});
    const auto add = [&](const QString& name, const measure::Difference& d, bool strong) {
        const auto figure = [&](double v, double sigma) {
            const auto [number, spread] = l.figure_and_spread(v, sigma, 3);
            return spread.isEmpty() ? number : tr("%1\n± %2").arg(number, spread);
        };
        auto* row = new QTreeWidgetItem(this, {name, figure(d.cut, d.sigma_cut), figure(d.fill, d.sigma_fill),
                                               figure(d.net(), d.sigma_net)});
        row->setToolTip(0, tr("Both surfaces lie on %1 of it; unchanged %2")
                               .arg(l.area(d.overlap_area), l.area(d.unchanged_area)));
        QFont font = this->font();
        font.setBold(strong);
        for (int c = 0; c < 4; ++c) {
            row->setFont(c, font);
            if (c > 0) row->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        }
    };
    for (const auto& row : table.rows) add(QString::fromStdString(row.name), row.change, false);
    if (table.together) add(tr("all areas"), *table.together, true);
    add(tr("outside of them"), table.rest, false);
    add(tr("everything"), table.whole, true);
}

QString AreaList::check_of(const measure::AreaTable& table, const Lengths& l) {
    if (!table.overlapping.empty()) {
        QStringList pairs;
        for (const auto& [a, b] : table.overlapping)
            pairs << tr("%1 and %2")
                         .arg(QString::fromStdString(table.rows[a].name),
                              QString::fromStdString(table.rows[b].name));
        return tr("No sum: it would count twice what lies in both of %1.")
            .arg(pairs.join(QStringLiteral("; ")));
    }
    return tr("Checked: areas and what lies outside of them are everything, to %1.")
        .arg(l.volume(table.mismatch));
}

}  // namespace pristine::app
