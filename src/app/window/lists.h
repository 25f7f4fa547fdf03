// Commands of the lists: decisions, guards, kept selections and steps below the stage.

#pragma once

#include "app/panes/lists_pane.h"
#include "app/window/part.h"

namespace pristine::app {

class Lists : public Part {
    Q_OBJECT
  public:
    explicit Lists(Desk&);
    void add_commands() override;

  private:
    void add_list(const char* id, const QString& title, const QString& help, const QKeySequence&,
                  ListsPane::List);
};

}  // namespace pristine::app
