// The measure board: areas and volumes of the surface in work as it is now, following every edit, beside what
// they were before; and cut and fill against another surface.

#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <optional>

#include "app/cards/area_list.h"
#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "app/model/measured_text.h"
#include "core/site/site.h"

class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QLabel;
class QPushButton;

namespace pristine::app {

class Document;
class Jobs;

class MeasureCard : public SideCard {
    Q_OBJECT
  public:
    MeasureCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;

    /// Null while they are computed, or there is no surface.
    const Measured* figures() const { return fresh_ ? figures_.get() : nullptr; }

    /// The table of work areas as CSV. Throws Error.
    void save_areas(const std::filesystem::path&);

    /// Contours or a map that are out of date, in place of what they were.
    void make_again(const site::Making&);

  private:
    struct Sigma {
        measure::HeightSigma heights;
        QString noise_from;
    };
    Sigma sigma_of(const site::Item&) const;
    std::vector<site::LinePtr> bounds() const;
    void say_areas(const Lengths&);
    void say_pinned(const Lengths&);
    void pin();
    void propose_band();
    void choose_areas_file();
    void add_settings();
    void add_actions();
    void follow_settings();
    void on_open() override;
    void on_close() override;
    void fill_bases();
    void compute();
    void show_settings(const site::ItemPtr&);
    measure::CountedFrom counted_from() const;
    void compute_surface(const site::ItemPtr&);
    void compute_solid(const site::ItemPtr&);
    bool is_stale_map(const site::ItemPtr&) const;
    void compute_map(const site::ItemPtr&);
    void say_classes(const std::vector<measure::ClassFigures>&, const site::ItemPtr& map);
    void start_measuring(const site::ItemPtr&, std::function<void(Progress&, Measured*)> work);
    void say();
    bool is_swapped(const site::Item&, const site::Item* other) const;
    QString placements() const;
    void make_map();
    void make_contours();
    void map_of(const site::ItemPtr& later, const site::ItemPtr& earlier, const site::LinePtr&,
                std::uint64_t again);
    void contours_of(const site::ItemPtr&, double interval, double smooth, const std::string& again);
    Document* document_;
    Jobs* jobs_;
    QComboBox *base_, *other_, *within_, *plane_;
    QDoubleSpinBox *level_, *density_;
    LengthBox *band_, *noise_, *interval_, *smooth_;
    QLabel *now_, *volumes_, *state_;
    QFormLayout* form_;
    QPushButton *swap_, *map_, *contours_, *pin_, *propose_, *save_areas_;
    QWidget* band_row_;
    AreaList* areas_;
    QLabel *areas_said_, *pinned_text_;
    std::shared_ptr<const Measured> pinned_;
    QString pinned_of_;
    std::vector<site::Survey> surveys_;
    std::pair<std::uint64_t, std::uint64_t> of_surveys_;
    bool swapped_ = false, fresh_ = false, filling_ = false;
    LatestJob latest_;
    std::shared_ptr<const cloud::PointCloud> cloud_;
    site::SetPtr absent_, other_absent_;
    site::ItemRole role_ = site::ItemRole::Points;
    std::shared_ptr<const Measured> figures_;
    std::string measured_;              // whose they are
    std::vector<site::LinePtr> lines_;  // that bound them
    std::string unit_;
    std::vector<double> classes_;  // of the map in work
    bool stale_ = false;           // it is
};

}  // namespace pristine::app
