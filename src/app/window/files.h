// Files: opening, saving, recent ones, drafts.

#pragma once

#include <vector>

#include "app/window/part.h"
#include "core/base/error.h"

namespace pristine::app {

class StartPage;

class Files : public Part {
    Q_OBJECT
  public:
    explicit Files(Desk&);
    void open_files(const std::vector<std::filesystem::path>& paths);
    void ask_of_grid(const std::filesystem::path& path);
    void offer_drafts();
    void show_drafts();
    /// What stands in the window while no site is open, over `area`.
    void build_start(QWidget* area);
    void show_start();
    void add_commands() override;

  private:
    void add_opening();
    void add_saving();
    void say_unreadable(const QString& text, const QString& path, Remedy);
    void offer_drape(const std::filesystem::path& picture);
    void preview_text(const std::filesystem::path& path);
    void choose_text();
    void choose_grid();
    void choose_open();
    void choose_save_as();
    void remember_recent(const std::filesystem::path& path);
    void fill_recent(QMenu*);
    void close_site();
    void open_window();
    void open_demo();
    StartPage* start_ = nullptr;
};

}  // namespace pristine::app
