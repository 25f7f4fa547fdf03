// Commands of what leaves the office: exports, reports, plan sheets, deliverables, archives.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

class Cover;
class DeliverPage;
class ExportPage;
class PicturePage;
class ReportPage;
class SheetPage;
struct ExportWish;

class HandingOver : public Part {
    Q_OBJECT
  public:
    explicit HandingOver(Desk&);
    void add_commands() override;
    /// Reports, sheets and deliverables cover `parent` while they are composed.
    void build_pages(QWidget* parent);

  private:
    void add_page(const char* id, const QString& title, const QString& help, const QKeySequence&,
                  std::function<Cover*()> page, std::function<void()> open);
    void open_page(Cover*, const std::function<void()>& open);
    void follow(Cover*);
    void add_exporting();
    void choose_export_lines();
    void export_grid(const ExportWish&);
    void choose_archive();
    ReportPage* report_ = nullptr;
    SheetPage* sheet_ = nullptr;
    DeliverPage* deliver_ = nullptr;
    ExportPage* export_ = nullptr;
    PicturePage* picture_ = nullptr;
};

}  // namespace pristine::app
