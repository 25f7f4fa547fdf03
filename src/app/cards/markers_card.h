// Markers that a scanner recorded with a mesh: listed, selected in list and view, healed over.

#pragma once

#include <filesystem>
#include <vector>

#include "app/cards/side_card.h"
#include "core/io/markers/markers.h"
#include "core/site/site.h"

class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class Document;
class Jobs;

class MarkersCard : public SideCard {
    Q_OBJECT
  public:
    MarkersCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    void read(const std::filesystem::path&);
    const std::vector<io::Marker>& markers() const { return markers_; }

  private:
    void on_open() override;
    void fill();
    std::vector<io::Marker> ticked() const;
    void tick_selected();
    void select_ticked();
    void heal();
    Document* document_;
    Jobs* jobs_;
    QLabel* state_;
    QTreeWidget* list_;
    QPushButton *open_, *from_view_, *select_, *heal_;
    std::vector<io::Marker> markers_;
    std::uint64_t item_ = 0;  // that they were read for
};

}  // namespace pristine::app
