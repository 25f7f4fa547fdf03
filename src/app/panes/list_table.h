// A table of things of the site, a row each, that can be sorted and acted on together: what the tabs of the
// lists share.

#pragma once

#include <QTreeWidget>
#include <QWidget>
#include <functional>
#include <vector>

class QHBoxLayout;

namespace pristine::app {

/// A row that sorts numbers as numbers (Qt::UserRole + 1 of a column), texts as texts.
class ListRow : public QTreeWidgetItem {
  public:
    using QTreeWidgetItem::QTreeWidgetItem;
    void set_number(int column, double value) { setData(column, Qt::UserRole + 1, value); }
    bool operator<(const QTreeWidgetItem& other) const override;
};

class ListTable : public QWidget {
    Q_OBJECT
  public:
    /// The table is called id + "Rows".
    ListTable(const QString& id, const QString& what, const QStringList& columns, QWidget* parent);
    QTreeWidget* rows() const { return rows_; }
    /// Numbers (Qt::UserRole of the first column) of the rows that are chosen, as they stand.
    std::vector<quint64> chosen() const;

  signals:
    /// A row was double clicked, or Enter pressed on it.
    void gone_to(quint64 number);
    void chosen_changed();

  protected:
    /// A row with its number; columns after the first `left` ones stand right.
    ListRow* add_row(quint64 number, const QStringList& columns, std::initializer_list<int> right = {});
    /// Rows are made anew: what was chosen is chosen again, the place in the table is kept.
    void fill(const std::function<void()>& make_rows);
    QHBoxLayout* above() { return above_; }  ///< filters
    QHBoxLayout* below() { return below_; }  ///< buttons

  private:
    QTreeWidget* rows_;
    QHBoxLayout *above_, *below_;
};

}  // namespace pristine::app
