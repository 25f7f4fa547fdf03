// Commands of what leaves the office: reports and plan sheets.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

class Cover;
class DeliverPage;
class ReportPage;
class SheetPage;

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
    void follow(Cover*);
    void choose_archive();
    ReportPage* report_ = nullptr;
    SheetPage* sheet_ = nullptr;
    DeliverPage* deliver_ = nullptr;
};

}  // namespace pristine::app
