// The window: puts the panels together and fills the command table. It computes nothing itself.

#pragma once

#include <QMainWindow>
#include <filesystem>
#include <memory>

#include "app/shell/commands.h"
#include "app/shell/document.h"
#include "app/shell/jobs.h"
#include "app/stage/stage.h"
#include "app/tools/fence_tools.h"

class QPushButton;

namespace pristine::app {

class ContentsPanel;
class DecisionBar;
class LedgerStrip;
class ManualWindow;
class Notice;
class StatusLine;
class WorkCard;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    MainWindow();
    ~MainWindow() override;

    /// Scans are added; a project replaces what is open.
    void open_files(const std::vector<std::filesystem::path>&);
    /// Offers drafts that a crash left behind, if there are any.
    void offer_drafts();

    Document& document() { return *document_; }
    Stage& stage() { return *stage_; }
    CommandTable& commands() { return commands_; }
    Jobs& jobs() { return *jobs_; }
    Notice& notice() { return *notice_; }
    WorkCard& card() { return *card_; }

  protected:
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    void closeEvent(QCloseEvent*) override;
    bool eventFilter(QObject*, QEvent*) override;

  private:
    enum class Hand { Rectangle, Polygon };

    // main_window_commands.cpp
    void add_commands();
    void add_site_commands();
    void add_edit_commands();
    void add_view_commands();
    void add_select_commands();
    void add_decide_commands();
    void add_help_commands();
    void build_menus();
    QString needs_item() const;
    QString needs_selection() const;
    QString needs_removed() const;

    // main_window.cpp
    void build_layout();
    QWidget* build_rail();
    void build_stage_corner();
    void place_stage_corner();
    void connect_parts();
    void take_tool(Hand);
    void close_fence(const select::Fence&, Qt::KeyboardModifiers);
    void refresh();
    void show_scene();
    void set_ghosts(std::uint64_t entry);
    void fly_to_entry(std::uint64_t entry);
    void fly_to_item(std::uint64_t item);
    void decide(bool keep_only);
    void choose_open();
    void choose_save_as();
    enum class Export { Shown, Removed, Reasons };
    void choose_export(Export);
    void remember_recent(const std::filesystem::path&);
    void fill_recent();
    void say_refused(const QString&);
    void store_view();
    void restore_view();
    void open_manual();
    void choose_item();

    Jobs* jobs_;
    Document* document_;
    CommandTable commands_;
    Stage* stage_ = nullptr;
    ContentsPanel* contents_ = nullptr;
    WorkCard* card_ = nullptr;
    DecisionBar* bar_ = nullptr;
    LedgerStrip* ledger_ = nullptr;
    StatusLine* status_ = nullptr;
    Notice* notice_ = nullptr;
    QPushButton* working_on_ = nullptr;
    QWidget* view_strip_ = nullptr;
    QMenu* recent_ = nullptr;
    ManualWindow* manual_ = nullptr;
    RectangleTool rectangle_;
    PolygonTool polygon_;
    Hand hand_ = Hand::Polygon;
    bool ghosts_shown_ = false;      // of everything that is out
    bool closing_ = false;           // as soon as everything is on the disk
    std::uint64_t ghost_entry_ = 0;  // of the card under the pointer
    site::SitePtr drawn_site_;
};

}  // namespace pristine::app
