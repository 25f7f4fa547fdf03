// What stands in the window while no site is open: work that was never saved, the last sites with their
// pictures, and how to begin.

#pragma once

#include <QWidget>
#include <filesystem>
#include <string>
#include <vector>

#include "app/model/latest_job.h"
#include "core/store/glance.h"

class QGridLayout;
class QLabel;
class QVBoxLayout;

namespace pristine::app {

class StartPage : public QWidget {
    Q_OBJECT
  public:
    /// Covers all of `parent` while it is shown.
    StartPage(Jobs*, QWidget* parent);
    /// Reads what there is, beside the window, and shows it.
    void open();
    /// A file of the list, as it was found.
    struct Entry {
        std::filesystem::path path;
        bool there = false, project = false;
        store::Glance glance;
        std::string trouble;    ///< why it cannot be told; empty: it can
        qint64 modified_s = 0;  ///< since 1970
    };
    const std::vector<Entry>& drafts() const { return drafts_; }
    const std::vector<Entry>& recent() const { return recent_; }

  signals:
    void open_wanted();                     ///< the dialog for files
    void file_wanted(const QString& file);  ///< a site, or a scan
    void drafts_wanted();                   ///< the list of all of them
    void demo_wanted();
    void left();

  protected:
    bool eventFilter(QObject*, QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    struct Found {
        std::vector<Entry> drafts, recent;
    };
    QWidget* build_begin();
    QWidget* build_middle();
    void fill();
    QWidget* draft_card(const Entry&);
    QWidget* recent_card(const Entry&);
    void forget(const std::filesystem::path&);
    LatestJob latest_;
    QVBoxLayout* unfinished_;
    QGridLayout* sites_;
    QLabel *unfinished_said_, *recent_said_;
    std::vector<Entry> drafts_, recent_;
};

}  // namespace pristine::app
