// A plan sheet while it is composed: what is on it, its scale and title block, and the sheet as it will be
// printed.

#pragma once

#include "app/handover/cover.h"
#include "app/handover/page_view.h"
#include "app/model/latest_job.h"
#include "core/report/sheet.h"

class QButtonGroup;
class QComboBox;
class QFormLayout;
class QLineEdit;
class QTimer;

namespace pristine::app {

class Document;

class SheetPage : public Cover {
    Q_OBJECT
  public:
    SheetPage(Document*, Jobs*, QWidget* foot, QWidget* parent);
    void open();
    /// Null while it is drawn.
    const std::vector<report::Sheet>* sheets() const { return fresh_ ? &sheets_ : nullptr; }
    /// In the format of the ending, without asking for the name. In the background; `said` follows.
    void write(const std::filesystem::path&, bool replace);

  private:
    QWidget* build_settings();
    void fill_parts();
    void draw();
    void take(std::vector<report::Sheet>&);
    void say_state();
    void choose_file();
    report::SheetSetup setup() const;
    QString ending() const;
    Document* document_;
    LatestJob latest_, writing_;
    report::Setup setup_;  // client, office and so on are those of the report
    std::vector<report::PartSetup> parts_;
    std::vector<report::Sheet> sheets_;
    bool fresh_ = false, filling_ = false;
    QTimer* soon_;
    PageView* view_;
    QComboBox *what_, *scale_, *size_, *way_;
    QLineEdit *title_line_, *number_;
    QLabel* state_;
    QButtonGroup* formats_;
    QPushButton* write_;
};

}  // namespace pristine::app
