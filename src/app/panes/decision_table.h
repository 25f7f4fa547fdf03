// The ledger as a table over all items: filtered, sorted, many lifted or applied again at once.

#pragma once

#include "app/panes/list_table.h"

class QComboBox;
class QLabel;
class QPushButton;

namespace pristine::app {

class Document;

class DecisionTable : public ListTable {
    Q_OBJECT
  public:
    DecisionTable(Document*, QWidget* parent);
    void refresh();
    /// What is shown, as CSV.
    QString table() const;

  private:
    void fill_filters();
    bool is_wanted(const struct LedgerDecision&) const;
    void set_active(bool active);
    void set_reason();
    void say_chosen();
    Document* document_;
    QComboBox *reason_, *tool_, *person_, *day_, *state_;
    QLabel* said_;
    QPushButton *lift_, *apply_, *rename_;
};

}  // namespace pristine::app
