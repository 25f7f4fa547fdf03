// Find a command by typing part of its name (Ctrl+K). Disabled ones are shown too, with what is missing.

#pragma once

#include <QDialog>

class QLineEdit;
class QListWidget;

namespace pristine::app {

class CommandTable;

class CommandSearch : public QDialog {
    Q_OBJECT
  public:
    CommandSearch(CommandTable*, QWidget* parent);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void fill();
    void run_current();
    CommandTable* table_;
    QLineEdit* line_;
    QListWidget* list_;
};

}  // namespace pristine::app
