// Keeps keys where hands expect them: after a choice in a list or a number that was entered, keys go to the
// stage again; keys of commands with Ctrl reach them also while a field has the focus.

#pragma once

#include <QObject>
#include <vector>

class QWidget;

namespace pristine::app {

class CommandTable;

class FocusKeeper : public QObject {
    Q_OBJECT
  public:
    /// Watches all widgets of the window; what is in dialogs is left alone.
    FocusKeeper(QWidget* window, QWidget* stage, CommandTable*);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void back_to_stage(const QWidget* from);
    bool is_command(const class QKeyEvent&) const;
    QWidget *window_, *stage_;
    CommandTable* commands_;
};

/// Gives the keys to the next of these areas that is visible and can take them, `by` 1 on or -1 back.
void focus_next_area(std::vector<QWidget*> areas, int by);

}  // namespace pristine::app
