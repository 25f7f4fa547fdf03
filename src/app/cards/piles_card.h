// Stockpiles of the surface in work: a row for each closed line that is shown, with volume, tonnes and how
// sure they are; all follow every edit.

#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "core/io/pile_table.h"
#include "core/site/site.h"

class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class PilesCard : public SideCard {
    Q_OBJECT
  public:
    PilesCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// Empty while they are computed, or there is no surface.
    const std::vector<io::NamedPile>& piles() const { return piles_; }
    void save(const std::filesystem::path&);

  private:
    // What the figures belong to.
    struct Of {
        std::shared_ptr<const cloud::PointCloud> cloud, other;
        site::SetPtr absent, other_absent;
        std::vector<site::LinePtr> lines;
        measure::PileBase base = measure::PileBase::TriangulatedRim;
        double level = 0;
        bool operator==(const Of&) const = default;
    };
    struct Table {
        std::vector<io::NamedPile> piles;
        std::vector<std::pair<std::size_t, std::size_t>> overlapping;
    };
    void on_open() override;
    void on_close() override { latest_.drop(); }
    void add_settings();
    void add_actions();
    void fill_others();
    Of wanted() const;
    void compute();
    void take(Table&);
    void fill();
    void propose();
    void choose_file();
    measure::PileBase base() const;
    Document* document_;
    Jobs* jobs_;
    LatestJob latest_;
    QComboBox *base_, *other_;
    LengthBox *level_, *least_;
    QDoubleSpinBox* density_;
    QFormLayout* form_;
    QTreeWidget* list_;
    QLabel *total_, *state_;
    QPushButton *propose_, *save_;
    Of of_;
    std::vector<io::NamedPile> piles_;
    std::vector<std::pair<std::size_t, std::size_t>> overlapping_;
    std::string unit_;
    bool filling_ = false;
};

}  // namespace pristine::app
