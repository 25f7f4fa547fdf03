// A mesh checked and repaired: findings by kind, a tour from one to the next, repairs, wrap, reduction; its
// volume and mass.

#pragma once

#include <memory>
#include <optional>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "app/model/mesh_work.h"
#include "core/repair/check.h"
#include "core/repair/cost.h"
#include "core/repair/repair.h"
#include "core/site/site.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QLabel;
class QPushButton;
class QSpinBox;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class Document;
class Jobs;

class MeshCard : public SideCard {
    Q_OBJECT
  public:
    MeshCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// Of what is shown of the item in work; null until it was checked.
    const repair::Check* findings() const { return fresh_ ? check_.get() : nullptr; }
    /// The row of a kind of fault; null until the mesh was checked.
    QTreeWidgetItem* row_of(repair::Fault) const;

    /// The rims of an open mesh, for which a volume is refused; crosses where a repair left something.
    std::vector<std::vector<Vec3>> guides() const override;

  private:
    void on_open() override;
    void on_close() override;
    void add_tour();
    void add_repairs();
    void add_settings(QFormLayout*);
    void add_wrap_and_reduce(QFormLayout*);
    void add_for_findings();
    void add_figures();
    void check();
    void fill();
    void fill_kinds();
    std::vector<QTreeWidgetItem*> kind_rows() const;
    std::optional<repair::Fault> kind_in_hand() const;
    void widen_selection();
    void say_figures();
    void go(int by);
    const repair::Finding* current() const;
    std::vector<repair::Fault> ticked() const;
    repair::RepairOptions options() const;
    void show_finding(const repair::Finding&);
    void keep_left(std::vector<repair::Unrepaired>);
    QString why_left(const repair::Finding&) const;
    void repair_current();
    void preview_repair();
    void repair_kinds(const std::vector<repair::Fault>& kinds, const QString& title);
    void wrap();
    void reduce();
    std::vector<char> chosen() const;
    void keep_lines();
    void replace_selection();
    /// Runs `work` on what is shown of the item in work and puts the result beside it, in one step of undo.
    void make(const QString& title, const QString& suffix, MeshWork work);
    /// The same, the result as an entry of the item's ledger; of terrain surfaces, which are built again when
    /// their lines move, beside it.
    void mend(const QString& title, const QString& reason, const char* repair, MeshWork work);
    Document* document_;
    Jobs* jobs_;
    QLabel *state_, *place_, *why_, *figures_, *told_;
    QTreeWidget* kinds_;
    QComboBox* fill_;
    QCheckBox *beside_, *outer_;
    QPushButton *previous_, *next_, *one_, *kind_, *all_, *try_, *lines_, *patch_, *widen_, *wrap_, *reduce_,
        *close_;
    LengthBox *detail_, *gap_, *shortest_;
    QSpinBox *triangles_, *largest_;
    QDoubleSpinBox* density_;
    LatestJob latest_;
    int at_ = 0;  // which of the findings of the kind in hand
    bool fresh_ = false;
    std::shared_ptr<const cloud::PointCloud> cloud_, detail_of_;
    site::SetPtr absent_;
    std::shared_ptr<const mesh::TriMesh> mesh_;  // what was checked
    std::shared_ptr<const repair::Check> check_;
    std::array<repair::Cost, repair::kFaults> costs_{};
    std::vector<repair::Unrepaired> left_;  // by the last repair; they are marked
    std::shared_ptr<const cloud::PointCloud> left_of_;
};

}  // namespace pristine::app
