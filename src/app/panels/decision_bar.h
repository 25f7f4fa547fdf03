// The decision bar: floats at the bottom of the stage while something is selected, says what, and offers what
// to do.

#pragma once

#include <QFrame>

class QLabel;
class QToolButton;

namespace pristine::app {

class CommandTable;
class Document;

class DecisionBar : public QFrame {
    Q_OBJECT
  public:
    DecisionBar(Document*, CommandTable*, QWidget* stage);
    void refresh();

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void place();
    Document* document_;
    QLabel *count_, *detail_;
    QToolButton *remove_, *keep_, *apart_, *guard_, *put_back_;
};

}  // namespace pristine::app
