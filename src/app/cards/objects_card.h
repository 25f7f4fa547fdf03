// What stands on the ground, listed by kind, to be ticked and selected; what is told of one is learned for
// those like it.

#pragma once

#include <memory>

#include "app/cards/side_card.h"
#include "app/model/latest_job.h"
#include "core/geometry/vec.h"
#include "core/objects/objects.h"
#include "core/site/site.h"

class QComboBox;
class QLabel;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class Document;
class Jobs;

class ObjectsCard : public SideCard {
    Q_OBJECT
  public:
    ObjectsCard(Document*, Jobs*, QWidget* parent = nullptr);
    void refresh() override;
    const score::Objects* objects() const { return objects_.get(); }
    /// The points of what is ticked; null while there is no list.
    site::SetPtr ticked() const;
    /// What they are: the kind when all are of one, with how many of each.
    site::Origin origin() const;

  signals:
    void chosen();  ///< ticked() is meant
    void fly(const Box3& place);
    void said(const QString& text);

  private:
    void on_open() override { compute(); }
    void on_close() override { latest_.drop(); }
    void compute();
    void fill();
    void tick_changed(QTreeWidgetItem*);
    void tell();
    int current() const;  // number of the object in hand, -1: none
    Document* document_;
    QTreeWidget* tree_;
    QLabel* state_;
    QComboBox* kind_;
    QPushButton* take_;
    bool filling_ = false;
    LatestJob latest_;
    std::shared_ptr<const cloud::PointCloud> cloud_;
    std::unique_ptr<score::Objects> objects_;
};

}  // namespace pristine::app
