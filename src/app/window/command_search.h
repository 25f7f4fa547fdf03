// Find a command by words of its name, or by the trade's other words for it (Ctrl+K). Those that are off are
// shown too, with what is missing.

#pragma once

#include <QDialog>

class QLabel;
class QLineEdit;
class QListWidget;

namespace pristine::app {

struct Command;
class CommandTable;

class CommandSearch : public QDialog {
    Q_OBJECT
  public:
    CommandSearch(CommandTable*, QWidget* parent);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void fill();
    void add(const Command&);
    void add_head(const QString& title);
    void step(int by);
    void say_other_words();
    void run_current();
    CommandTable* table_;
    QLineEdit* line_;
    QListWidget* list_;
    QLabel* also_;
};

}  // namespace pristine::app
