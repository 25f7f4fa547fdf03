// A sentence over the top of the stage, with at most two things to do about it. Never in the way of work: no
// dialog.

#pragma once

#include <QFrame>
#include <functional>

class QLabel;
class QPushButton;

namespace pristine::app {

class Notice : public QFrame {
    Q_OBJECT
  public:
    explicit Notice(QWidget* stage);
    struct Choice {
        QString text;
        std::function<void()> run;
    };
    void show_text(const QString& text, bool fault, Choice first = {}, Choice second = {});
    QString text() const;

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void place();
    void set_choice(QPushButton*, const Choice&);
    QLabel* text_;
    QPushButton *first_, *second_;
    std::function<void()> run_first_, run_second_;
};

}  // namespace pristine::app
