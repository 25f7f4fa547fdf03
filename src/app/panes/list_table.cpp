#include "app/panes/list_table.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QItemSelectionModel>
#include <QScrollBar>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <set>

namespace pristine::app {

bool ListRow::operator<(const QTreeWidgetItem& other) const {
    const int column = treeWidget() ? treeWidget()->sortColumn() : 0;
    const QVariant a = data(column, Qt::UserRole + 1), b = other.data(column, Qt::UserRole + 1);
    if (a.isValid() && b.isValid()) return a.toDouble() < b.toDouble();
    if (a.isValid() != b.isValid()) return a.isValid();  // figures first, then words
    return QString::localeAwareCompare(text(column), other.text(column)) < 0;
}

ListTable::ListTable(const QString& id, const QString& what, const QStringList& columns, QWidget* parent)
    : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 4, 0, 0);
    layout->setSpacing(4);
    layout->addLayout(above_ = new QHBoxLayout);
    rows_ = new QTreeWidget(this);
    rows_->setObjectName(id + QStringLiteral("Rows"));
    rows_->setAccessibleName(what);
    rows_->setHeaderLabels(columns);
    rows_->setRootIsDecorated(false);
    rows_->setUniformRowHeights(true);
    // What is chosen is acted on: it stands out, with the focus elsewhere too.
    rows_->setStyleSheet(
        QStringLiteral("QTreeWidget::item:selected { background: #1D2733; color: #FFFDF9; }"));
    rows_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    rows_->setSortingEnabled(true);
    rows_->header()->setSortIndicator(-1, Qt::AscendingOrder);  // as they were made until a column is clicked
    rows_->header()->setStretchLastSection(true);
    layout->addWidget(rows_, 1);
    layout->addLayout(below_ = new QHBoxLayout);
    connect(rows_, &QTreeWidget::itemActivated, this,
            [this](QTreeWidgetItem* row) { emit gone_to(row->data(0, Qt::UserRole).toULongLong()); });
    connect(rows_, &QTreeWidget::itemSelectionChanged, this, &ListTable::chosen_changed);
}

std::vector<quint64> ListTable::chosen() const {
    std::vector<quint64> numbers;
    for (int i = 0; i < rows_->topLevelItemCount(); ++i)
        if (const QTreeWidgetItem* row = rows_->topLevelItem(i); row->isSelected())
            numbers.push_back(row->data(0, Qt::UserRole).toULongLong());
    return numbers;
}

ListRow* ListTable::add_row(quint64 number, const QStringList& columns, std::initializer_list<int> right) {
    auto* row = new ListRow(rows_, columns);
    row->setData(0, Qt::UserRole, number);
    for (const int column : right) row->setTextAlignment(column, Qt::AlignRight | Qt::AlignVCenter);
    return row;
}

void ListTable::fill(const std::function<void()>& make_rows) {
    const std::vector<quint64> before = chosen();
    const std::set<quint64> again(before.begin(), before.end());
    const QTreeWidgetItem* now = rows_->currentItem();
    const bool had = now != nullptr;
    const quint64 current = now ? now->data(0, Qt::UserRole).toULongLong() : 0;
    const int at = rows_->verticalScrollBar()->value();
    {
        const QSignalBlocker quiet(rows_);
        rows_->setSortingEnabled(false);
        rows_->clear();
        make_rows();
        rows_->setSortingEnabled(true);
        for (int i = 0; i < rows_->topLevelItemCount(); ++i) {
            QTreeWidgetItem* row = rows_->topLevelItem(i);
            const quint64 number = row->data(0, Qt::UserRole).toULongLong();
            // The keys go on from where they were.
            if (had && number == current) rows_->setCurrentItem(row, 0, QItemSelectionModel::NoUpdate);
            if (again.contains(number)) row->setSelected(true);
        }
        for (int c = 0; c + 1 < rows_->columnCount(); ++c) rows_->resizeColumnToContents(c);
    }
    rows_->verticalScrollBar()->setValue(at);
    emit chosen_changed();
}

}  // namespace pristine::app
