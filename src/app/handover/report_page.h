// The report while it is composed: its pages at the left, the page in hand in the middle, its parts at the
// right. It covers the window but for menus and status line.

#pragma once

#include <filesystem>
#include <memory>

#include "app/handover/cover.h"
#include "app/handover/page_view.h"
#include "app/model/latest_job.h"
#include "core/report/compose.h"
#include "core/report/pages.h"

class QButtonGroup;
class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;
class QTimer;

namespace pristine::app {

class Document;
class PartSettings;

class ReportPage : public Cover {
    Q_OBJECT
  public:
    ReportPage(Document*, Jobs*, QWidget* foot, QWidget* parent);
    void open();
    const report::Setup& setup() const { return setup_; }
    /// Null while it is made.
    std::shared_ptr<const report::Report> report() const { return fresh_ ? report_ : nullptr; }
    /// As the main button does, without asking for the name. In the background; `said` or a failure follows.
    void write(const std::filesystem::path&, bool replace);
    /// "PDF", "HTML", "CSV", "JSON".
    void set_format(const QString&);

  private:
    struct Made {
        std::shared_ptr<const report::Report> report;
        report::PartCache cache;
        report::Pages pages;
    };
    QWidget* build_pages();
    QWidget* build_middle();
    QWidget* build_parts();
    void build_foot(class QVBoxLayout*);
    void keep_setup();
    void follow_site();
    void compose();
    void take(Made&);
    void fill_parts();
    void fill_pages();
    void take_order();
    void take_row(int row);
    void show_settings();
    void say_state();
    void choose_file();
    void choose_template(int index);
    void fill_templates();
    void keep_template();
    QString format() const;
    Document* document_;
    LatestJob latest_, writing_;
    report::Setup setup_;
    std::shared_ptr<const report::Report> report_;
    report::Pages pages_;
    report::PartCache cache_;
    site::SitePtr made_of_;
    bool fresh_ = false, filling_ = false;
    QTimer* soon_;
    QListWidget *thumbs_, *parts_;
    PageView* view_;
    PartSettings* settings_;
    QLabel *count_, *state_, *about_;
    QComboBox *templates_, *size_, *way_;
    QButtonGroup* formats_;
    QPushButton* write_;
};

}  // namespace pristine::app
