// Guards, kept selections and steps of the site, as tables.

#pragma once

#include "app/panes/list_table.h"

class QLabel;
class QPushButton;

namespace pristine::app {

class Document;

/// What no tool touches; each can be lifted by itself.
class GuardTable : public ListTable {
    Q_OBJECT
  public:
    GuardTable(Document*, QWidget* parent);
    void refresh();

  private:
    Document* document_;
    QPushButton* lift_;
};

/// Selections that were kept: to use again, to name, to drop.
class KeptTable : public ListTable {
    Q_OBJECT
  public:
    KeptTable(Document*, QWidget* parent);
    void refresh();

  private:
    void rename();
    Document* document_;
    QPushButton *use_, *rename_, *drop_;
};

/// Everything that undo can take back and redo bring again; a row leads to the site as it was then.
class StepTable : public ListTable {
    Q_OBJECT
  public:
    StepTable(Document*, QWidget* parent);
    void refresh();

  private:
    Document* document_;
    QPushButton* go_;
    QLabel* said_;
};

}  // namespace pristine::app
