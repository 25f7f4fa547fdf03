// A deliverable before it is written: what goes where, in which format, and what a format cannot hold; and
// the check of one that is there.

#pragma once

#include <filesystem>
#include <optional>

#include "app/handover/cover.h"
#include "app/model/latest_job.h"
#include "core/report/deliverable.h"
#include "core/report/verify.h"

class QCheckBox;
class QComboBox;
class QTreeWidget;

namespace pristine::app {

class Document;
class LasFields;

class DeliverPage : public Cover {
    Q_OBJECT
  public:
    DeliverPage(Document*, Jobs*, QWidget* foot, QWidget* parent);
    void open();
    /// As the main button does, without asking for the place: a folder, or a zip by the ending. In the
    /// background; `said` follows.
    void write(const std::filesystem::path&, bool replace);
    void check(const std::filesystem::path&);
    /// Of the last check; none: none was made.
    const report::Verified* checked() const { return checked_ ? &*checked_ : nullptr; }

  private:
    QWidget* build_settings();
    void fill();
    void choose_place();
    void choose_check();
    report::DeliverableSetup setup() const;
    Document* document_;
    LatestJob planning_, writing_;
    QTreeWidget* list_;
    QComboBox *points_, *as_;
    LasFields* las_;
    QCheckBox *removed_, *merged_, *sources_, *report_, *sheet_;
    QLabel* state_;
    QPushButton* write_;
    std::optional<report::Verified> checked_;
};

}  // namespace pristine::app
