// Features fitted to what is selected of a mesh, and the mesh brought to the axes by them: origin, direction,
// clocking.

#pragma once

#include <vector>

#include "app/cards/side_card.h"
#include "core/geometry/features.h"
#include "core/site/site.h"

class QComboBox;
class QLabel;
class QPushButton;
class QTreeWidget;

namespace pristine::app {

class Document;
class Jobs;

class AlignCard : public SideCard {
    Q_OBJECT
  public:
    AlignCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// Of the item in work.
    const std::vector<Feature>& features() const { return features_; }
    /// The features as lines in the world, as large as the item.
    std::vector<std::vector<Vec3>> guides() const override;
    /// What the steps that are chosen ask for.
    Alignment wanted() const;

  private:
    void on_open() override;
    void on_close() override { emit guides_changed(); }
    void add_features();
    void add_steps();
    void fit();
    void meet_two();
    void add(Feature);
    void put(const QString& title, std::vector<Feature> all);
    void forget();
    void fill();
    void say();
    void move();
    void save();
    Document* document_;
    Jobs* jobs_;
    QComboBox *kind_, *origin_, *direction_, *clocking_, *axis_, *clock_axis_;
    QPushButton *fit_, *meet_, *move_, *save_, *forget_;
    QTreeWidget* list_;
    QLabel *state_, *matrix_;
    std::vector<Feature> features_;
};

/// The move of an item as four rows of four numbers.
QString matrix_text(const std::vector<double>& rows);

}  // namespace pristine::app
