// A page that covers the window but for menus and status line, until a person goes back to the stage.

#pragma once

#include <QWidget>
#include <filesystem>
#include <functional>

class QLabel;
class QListWidget;
class QHBoxLayout;
class QPushButton;
class QTreeWidget;
class QVBoxLayout;

namespace pristine::app {

class Document;

class Cover : public QWidget {
    Q_OBJECT
  public:
    /// Covers all of `parent` but `foot`, which stands at its lower edge, while it is shown.
    Cover(const char* name, QWidget* foot, QWidget* parent);
    void go_back();

  signals:
    void said(const QString& text, bool refused);
    /// A file or folder is there.
    void wrote(const std::filesystem::path&);
    void left();

  protected:
    /// A head with this title; what is added below it stands left of the column that build_side() made.
    QVBoxLayout* build_frame(const QString& title, QWidget* side);
    /// The list of what will be written, in such a frame.
    QTreeWidget* build_list(QVBoxLayout*, const char* name, const QString& what, const QStringList& columns);
    /// Calls this after each change of the site while the page is shown; it goes back when another is opened.
    void follow(Document*, std::function<void()> again);
    /// The row with the way back and a title; more can be added behind them.
    QHBoxLayout* build_head(QVBoxLayout*);
    /// The column at the right edge.
    QWidget* build_side(QVBoxLayout*&);
    void cover();
    void set_title(const QString&);
    bool eventFilter(QObject*, QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    QWidget* foot_;
    QLabel* title_ = nullptr;
};

/// The row in hand has an ink bar; violet is for what is selected on the stage.
void mark_row(QListWidget*);
/// The one filled button of a page.
QPushButton* make_main_button(QWidget* parent, const char* name, const QString& text);

}  // namespace pristine::app
