// The window: makes the parts, lays them out, and passes on what the system sends it. What the program does
// is in the controllers beside it, one a subject.

#pragma once

#include <QMainWindow>
#include <filesystem>
#include <memory>
#include <vector>

#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/stage/stage.h"
#include "app/window/desk.h"

namespace pristine::app {

class ContentsPanel;
struct Controllers;
class LedgerStrip;
class ManualWindow;
class StageCorner;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();
    ~MainWindow() override;

    /// Scans and lines are added; a project replaces what is open.
    void open_files(const std::vector<std::filesystem::path>&);
    /// Offers drafts that a crash left behind, if there are any.
    void offer_drafts();
    /// Unfinished work and recent sites, over the empty window.
    void show_start();

    Document& document() { return *desk_.document; }
    Stage& stage() { return *desk_.stage; }
    CommandTable& commands() { return desk_.commands; }
    Jobs& jobs() { return *desk_.jobs; }
    Notice& notice() { return *desk_.notice; }
    WorkCard& card() { return *desk_.card; }
    /// What the program does, by subject: for tests, and for pictures without a person.
    Controllers& controllers() { return *controllers_; }

  protected:
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    void closeEvent(QCloseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void make_parts();
    void build_layout();
    QWidget* build_stages();
    QWidget* build_side();
    void add_commands();
    void connect_parts();
    void connect_document();
    void connect_contents();

    void refresh();
    void toggle_card(SideCard*);
    void show_tool_settings(SideCard* instead_of);
    void back_to_card();
    void close_when_done();
    void to_area(int by);
    void open_manual();

    Desk desk_;
    std::unique_ptr<Controllers> controllers_;
    ContentsPanel* contents_ = nullptr;
    LedgerStrip* ledger_ = nullptr;
    StageCorner* corner_ = nullptr;
    QWidget* work_column_ = nullptr;  // the work card, with what scrolls it
    ManualWindow* manual_ = nullptr;
    bool closing_ = false;  // as soon as everything is on the disk
    bool leaving_ = false;  // what runs is to be stopped
};

}  // namespace pristine::app
