// What stands on the ground, listed by kind, to be ticked and selected; what is told of one is learned for
// those like it.

#pragma once

#include <memory>
#include <optional>
#include <vector>

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
    /// Of the first item that was looked at; null while there is no list.
    const score::Objects* objects() const { return found_.empty() ? nullptr : found_.front().objects.get(); }
    /// The points of what is ticked, of each item; empty while there is no list, or nothing is ticked.
    site::Parts ticked() const;
    /// What they are: the kind when all are of one, with how many of each.
    site::Origin origin() const;

  signals:
    void chosen();  ///< ticked() is meant

  private:
    void on_open() override { compute(); }
    void on_close() override { latest_.drop(); }
    void compute();
    void fill();
    void say_found(std::size_t things);
    void tick_changed(QTreeWidgetItem*);
    void tell();
    /// One thing: of which item, and its number there.
    struct Which {
        std::size_t item, number;
    };
    std::optional<Which> current() const;
    std::vector<Which> ticked_things() const;
    const score::Object& of(Which w) const { return found_[w.item].objects->list()[w.number]; }
    std::vector<const void*> clouds_now() const;
    Document* document_;
    QTreeWidget* tree_;
    QLabel* state_;
    QComboBox* kind_;
    QPushButton* take_;
    bool filling_ = false;
    LatestJob latest_;
    struct Found {
        site::ItemPtr item;
        std::unique_ptr<score::Objects> objects;
    };
    std::vector<const void*> clouds_;  // that were looked at
    std::vector<Found> found_;
};

}  // namespace pristine::app
