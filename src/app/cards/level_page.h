// A page of the card Place: what should be level, and distances that are known.

#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "app/look/lengths.h"
#include "core/geometry/plane_fit.h"
#include "core/place/level.h"

class QLabel;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class Document;

class LevelPage : public QWidget {
    Q_OBJECT
  public:
    LevelPage(Document*, QWidget* parent);
    /// Forgets all of it: it was of another item.
    void forget();
    void refresh();
    /// A place that was clicked after pick_wanted.
    void picked(const Vec3&);
    bool picking() const { return picking_ != Picking::None; }
    void stop_picking();
    /// None as long as neither a level nor a distance is known. The middle of the item stays.
    std::optional<Similarity> placement() const;
    /// "levelled by 3 places, scale 1.0234 by 2 distances".
    QString told() const;
    std::vector<std::vector<Vec3>> guides() const;

  signals:
    void pick_wanted(const QString& ask);
    void changed();
    void said(const QString& text);

  private:
    enum class Picking { None, Level, Distance };
    void level_by_selection();
    void fill();
    void typed(QTreeWidgetItem*, int column);
    Document* document_;
    QLabel* level_state_;
    QTreeWidget* list_;
    QPushButton *selection_, *unlevel_, *drop_;
    Picking picking_ = Picking::None;
    std::vector<Vec3> places_;  // clicked so far
    std::optional<FittedPlane> plane_;
    QString plane_from_;
    std::vector<place::KnownDistance> distances_;
    std::optional<place::Scaled> scaled_;
    bool filling_ = false;
};

}  // namespace pristine::app
