#include "app/look/copying.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHeaderView>
#include <QKeyEvent>
#include <QListView>
#include <QMenu>
#include <QMimeData>
#include <QPixmap>
#include <QTableView>
#include <QTreeView>
#include <QtCharts/QChartView>
#include <algorithm>

namespace pristine::app {

namespace {

// Rows from above to below, opened branches after their row.
void add_rows(const QAbstractItemView& view, const QModelIndex& parent, QModelIndexList& out) {
    const auto* tree = qobject_cast<const QTreeView*>(&view);
    const QAbstractItemModel& m = *view.model();
    for (int r = 0; r < m.rowCount(parent); ++r) {
        const QModelIndex i = m.index(r, 0, parent);
        if (tree && tree->isRowHidden(r, parent)) continue;
        out << i;
        if (tree && tree->isExpanded(i)) add_rows(view, i, out);
    }
}

QList<int> columns_of(const QAbstractItemView& view) {
    QList<int> out;
    const QHeaderView* head = nullptr;
    if (const auto* tree = qobject_cast<const QTreeView*>(&view)) head = tree->header();
    if (const auto* table = qobject_cast<const QTableView*>(&view)) head = table->horizontalHeader();
    for (int c = 0; c < view.model()->columnCount(); ++c) {
        const int logical = head ? head->logicalIndex(c) : c;
        if (!head || !head->isSectionHidden(logical)) out << logical;
    }
    return out;
}

QString cell(const QModelIndex& row, int column) {
    QString text = row.sibling(row.row(), column).data().toString();
    return text.replace(QLatin1Char('\t'), QLatin1Char(' ')).replace(QLatin1Char('\n'), QLatin1Char(' '));
}

QList<QStringList> cells_of(const QAbstractItemView& view) {
    QModelIndexList rows;
    add_rows(view, {}, rows);
    if (const QItemSelectionModel* chosen = view.selectionModel();
        chosen && chosen->selectedRows().size() > 1)
        rows.erase(
            std::remove_if(rows.begin(), rows.end(),
                           [&](const QModelIndex& i) { return !chosen->isRowSelected(i.row(), i.parent()); }),
            rows.end());
    QList<QStringList> out;
    QStringList titles;
    const QList<int> columns = columns_of(view);
    bool any_title = false;
    for (const int c : columns) {
        titles << view.model()->headerData(c, Qt::Horizontal).toString();
        any_title = any_title || (!titles.back().isEmpty() && !qobject_cast<const QListView*>(&view));
    }
    if (any_title) out << titles;
    for (const QModelIndex& row : rows) {
        QStringList line;
        for (const int c : columns) line << cell(row, c);
        out << line;
    }
    return out;
}

// Where a menu belongs that does not come from the widget itself.
QWidget* picture_under(QWidget* w) {
    for (; w; w = w->parentWidget())
        if (qobject_cast<QChartView*>(w) || w->property("copies_as_picture").toBool()) return w;
    return nullptr;
}

QAbstractItemView* table_under(QWidget* w) {
    for (; w; w = w->parentWidget())
        if (auto* view = qobject_cast<QAbstractItemView*>(w)) return view;
    return nullptr;
}

}  // namespace

QString table_text(const QAbstractItemView& view) {
    QString out;
    for (const QStringList& line : cells_of(view)) out += line.join(QLatin1Char('\t')) + QLatin1Char('\n');
    return out;
}

Copying::Copying(QObject* parent) : QObject(parent) {
    qApp->installEventFilter(this);
}

void Copying::copy_table(const QAbstractItemView& view) {
    auto* data = new QMimeData;
    data->setText(table_text(view));
    QString html = QStringLiteral("<table>");
    for (const QStringList& line : cells_of(view)) {
        html += QStringLiteral("<tr>");
        for (const QString& c : line)
            html += QStringLiteral("<td>") + c.toHtmlEscaped() + QStringLiteral("</td>");
        html += QStringLiteral("</tr>");
    }
    data->setHtml(html + QStringLiteral("</table>"));
    QApplication::clipboard()->setMimeData(data);
}

void Copying::copy_picture(QWidget& w) {
    QApplication::clipboard()->setPixmap(w.grab());
}

bool Copying::eventFilter(QObject* of, QEvent* e) {
    const bool key = e->type() == QEvent::KeyPress || e->type() == QEvent::ShortcutOverride;
    if (!key && e->type() != QEvent::ContextMenu) return false;  // every event of the program comes by here
    auto* widget = qobject_cast<QWidget*>(of);
    if (!widget) return false;
    if (key) {
        if (!static_cast<QKeyEvent*>(e)->matches(QKeySequence::Copy)) return false;
        auto* view = qobject_cast<QAbstractItemView*>(widget);
        if (!view || !view->model() || view->model()->rowCount() == 0) return false;
        if (e->type() == QEvent::ShortcutOverride)
            e->accept();  // the key comes here, whatever command has it
        else
            copy_table(*view);
        return true;
    }
    QAbstractItemView* table = table_under(widget);
    QWidget* picture = picture_under(widget);
    const bool own_menu = table && table->contextMenuPolicy() != Qt::DefaultContextMenu;
    if (own_menu || (!table && !picture) || (table && table->model() && table->model()->rowCount() == 0))
        return false;
    QMenu menu;
    if (table) menu.addAction(tr("Copy the table"), &menu, [table] { copy_table(*table); });
    QWidget* seen = picture ? picture : table->viewport();
    menu.addAction(tr("Copy as a picture"), &menu, [seen] { copy_picture(*seen); });
    menu.exec(static_cast<QContextMenuEvent*>(e)->globalPos());
    return true;
}

}  // namespace pristine::app
