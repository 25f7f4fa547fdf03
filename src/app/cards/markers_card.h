// Markers that a scanner recorded with a mesh: listed, selected in list and view, healed over.

#pragma once

#include <filesystem>
#include <vector>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
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
    /// A table whose first line names its columns as ours does; of any other, preview_wanted follows.
    void read(const std::filesystem::path&);
    /// Any table, its columns named; markers without a size have the radius on the card.
    void read_table(const std::filesystem::path&, const io::TextReading&);
    const std::vector<io::Marker>& markers() const { return markers_; }

  signals:
    void preview_wanted(const std::filesystem::path&);

  private:
    void on_open() override;
    void take(std::vector<io::Marker>, const std::filesystem::path&, const QString& more = {});
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
    LengthBox* radius_;
    std::vector<io::Marker> markers_;
    std::uint64_t item_ = 0;  // that they were read for
};

}  // namespace pristine::app
