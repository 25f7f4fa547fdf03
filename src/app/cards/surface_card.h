// A surface from the points in work: thinned, limited at its rim, along lines, inside lines.

#pragma once

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "core/site/surface_edits.h"

class QCheckBox;
class QDoubleSpinBox;
class QComboBox;
class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class Document;
class Jobs;

class SurfaceCard : public SideCard {
    Q_OBJECT
  public:
    SurfaceCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// Builds a surface again from this, in one step of undo. A change that has a number becomes an entry of
    /// the ledger with this reason.
    void build_again(std::uint64_t item, const site::Edited&, const QString& title,
                     const QString& reason = {});

    /// A cross where a boundary is at fault.
    std::vector<std::vector<Vec3>> guides() const override;

  signals:
    void fly_near(const Vec3& place);

  private:
    void add_settings();
    void add_lines();
    bool fits(const site::SurfaceSource&);
    void on_open() override;
    void fill_lines();
    void take_lines(site::SurfaceSource&) const;
    void take_source();
    void show_odd(const surface::BuildReport&);
    void go_to_odd();
    void build_new(const site::Edited& limited);
    site::SitePtr entered(const site::Site&, std::uint64_t made, const site::SurfaceSource&,
                          const site::Edited& limited, double tolerance, const site::Item& of,
                          const site::SetPtr& part,
                          const std::shared_ptr<const site::Thumbnail>& picture) const;
    QString limits_reason() const;
    void build();
    Document* document_;
    Jobs* jobs_;
    LengthBox *thin_, *longest_, *rim_;
    QCheckBox* whole_;
    std::optional<Vec3> mark_;  // where a boundary is at fault, as long as lines are these
    std::vector<site::LinePtr> mark_of_;
    QTreeWidget*
        lines_;  // each line that is shown: whether triangles follow it, whether the surface ends there
    QComboBox *duplicates_, *crossings_;
    QDoubleSpinBox* angle_;
    QLabel* state_;
    QTreeWidget* odd_;  // places of the last build with more than one height
    std::vector<Vec3> odd_places_;
    QPushButton* build_;
};

}  // namespace pristine::app
