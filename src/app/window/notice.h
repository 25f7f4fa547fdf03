// A sentence over the top of the stage, with at most four things to do about it. Never in the way of work: no
// dialog.

#pragma once

#include <QFrame>
#include <array>
#include <functional>
#include <vector>

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
    void show_choices(const QString& text, bool fault, const std::vector<Choice>& choices);
    QString text() const;

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void place();
    static constexpr std::size_t kMost = 4;
    QLabel* text_;
    std::array<QPushButton*, kMost> buttons_;
    class QGridLayout* choices_;
    std::array<std::function<void()>, kMost> runs_;
};

}  // namespace pristine::app
