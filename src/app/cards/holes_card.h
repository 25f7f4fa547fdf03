// Holes of a mesh closed one by one: the whole rim, a part between two picked corners, a bridge; the fill is
// seen before it is made.

#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "app/cards/side_card.h"
#include "app/model/latest_job.h"
#include "core/geometry/view_frame.h"
#include "core/repair/fill.h"
#include "core/repair/rim_pick.h"
#include "core/repair/steps.h"
#include "core/site/site.h"

class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;
class QTreeWidget;

namespace pristine::app {

class Document;
class Jobs;

class HolesCard : public SideCard {
    Q_OBJECT
  public:
    HolesCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// The corner of a rim nearest to a pixel; the second pick of two asks for a part, or for a bridge.
    void pick(const ViewFrame&, PixelPoint);
    /// The fill as it would be, to be drawn with the scene; null: none.
    const std::shared_ptr<const cloud::PointCloud>& preview() const { return preview_; }
    /// The rim in hand and the picked corners.
    std::vector<std::vector<Vec3>> guides() const override;
    std::size_t holes() const { return rims_.size(); }

  signals:
    void preview_changed();
    void pick_corners();  ///< the hand should pick corners of rims

  private:
    using Rims = std::vector<std::vector<std::uint32_t>>;
    void on_open() override;
    void on_close() override;
    void add_choices();
    void find_rims();
    void list_rims();
    void choose_hole();
    void make_preview();
    void show_preview(const mesh::TriMesh& fill, const QString& text);
    void no_preview(const QString& why);
    void accept();
    void offer_to_widen();
    void widen();
    void put(const QString& title, const char* repair, const QString& told,
             std::function<mesh::TriMesh(Progress&)> work);
    std::vector<std::vector<std::uint32_t>> wanted() const;
    repair::FillOptions options() const;

    Document* document_;
    Jobs* jobs_;
    QLabel *state_, *told_;
    QTreeWidget* list_;
    QComboBox *kind_, *side_;
    QSpinBox* width_;
    QPushButton *pick_, *fill_, *widen_;
    LatestJob latest_;
    std::shared_ptr<const cloud::PointCloud> cloud_;
    site::SetPtr absent_;
    std::shared_ptr<const mesh::TriMesh> mesh_;
    Rims rims_;
    std::vector<repair::RimCorner> picked_;  // at most two
    std::shared_ptr<const repair::Fill> ready_;
    std::optional<Vec3> trouble_;  // where a rim is not fit
    std::shared_ptr<const cloud::PointCloud> preview_;
};

}  // namespace pristine::app
