// An export before it is written: which files, what goes into each, how large they will be, and what changes
// on the way, found out by a trial (core/io/trial.h). What was chosen is remembered for each format.

#pragma once

#include <optional>
#include <vector>

#include "app/handover/cover.h"
#include "app/model/document.h"
#include "app/model/latest_job.h"
#include "core/io/trial.h"

class QCheckBox;
class QComboBox;
class QLineEdit;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class LasFields;

class ExportPage : public Cover {
    Q_OBJECT
  public:
    ExportPage(Document*, Jobs*, QWidget* foot, QWidget* parent);
    void open(site::Export);
    /// As the fields say it.
    ExportWish wish() const;

  signals:
    /// A grid of heights is wanted: its cell is asked for next.
    void grid_wanted(const ExportWish&);

  private:
    /// A file of the list: what the trial found, or why there is none.
    struct Row {
        site::ExportFile file;
        std::optional<io::Trial> trial;
        std::string refused;
    };
    QWidget* build_settings();
    void offer_formats();
    void recall();
    void remember() const;
    void fill();
    void show_rows(const std::vector<Row>&);
    void show_row(QTreeWidgetItem*, const Row&) const;
    void fit_rows();
    void resizeEvent(QResizeEvent*) override;
    void follow_files();
    void follow_ending(const QString& typed);
    void choose_folder();
    void write();
    std::string ending() const;
    bool las() const;
    Document* document_;
    LatestJob trying_;
    QTreeWidget* list_;
    QComboBox *what_, *as_;
    LasFields* las_;
    QLineEdit *name_, *folder_;
    QCheckBox* replace_;
    QLabel* state_;
    QPushButton* write_;
    std::vector<site::ExportFile> files_;  ///< of the rows of the list
    bool refused_ = false, filling_ = false, of_triangles_ = false;
};

}  // namespace pristine::app
