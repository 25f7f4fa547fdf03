// The surveys of the site: when, how, how well, and what is of which.

#pragma once

#include "app/panes/list_table.h"

class QPushButton;

namespace pristine::app {

class Document;

class SurveyTable : public ListTable {
    Q_OBJECT
  public:
    SurveyTable(Document*, QWidget* parent);
    void refresh();

  private:
    void add();
    void change(quint64 survey);
    void hold_active();
    void drop();
    Document* document_;
    QPushButton *change_, *hold_, *drop_, *dates_;
};

}  // namespace pristine::app
