// The item in work somewhere else: by numbers, by pairs of places, or on another item by the surfaces of
// both.

#pragma once

#include <filesystem>
#include <optional>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "core/place/fit.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QStackedWidget;
class QTreeWidget;
class QTreeWidgetItem;

namespace pristine::app {

class LevelPage;

class PlaceCard : public SideCard {
    Q_OBJECT
  public:
    PlaceCard(Document*, Jobs*, QWidget* parent);
    void refresh() override;
    /// Where pairs are and should be, as lines.
    std::vector<std::vector<Vec3>> guides() const override;
    /// A place that was clicked after pick_wanted.
    void picked(const Vec3&);
    void read_pairs(const std::filesystem::path&);
    const std::vector<place::Pair>& pairs() const { return pairs_; }
    /// What the card would do now; none: not enough is known.
    std::optional<Similarity> placement() const;

  signals:
    void pick_wanted(const QString& ask);

  private:
    enum Way : int { kNumbers, kLevel, kPairs, kSurfaces };
    void on_open() override;
    void on_close() override;
    QWidget* numbers_page();
    QWidget* pairs_page();
    QWidget* surfaces_page();
    void fill_others();
    void fill_pairs();
    void solve();
    void fit();
    void map_residuals();
    void say();
    void drop_pair();
    void ticked(QTreeWidgetItem*, int column);
    void choose_matrix();
    void place();
    QString told() const;
    Document* document_;
    Jobs* jobs_;
    LatestJob latest_;
    QComboBox *way_, *parameters_, *other_, *fit_parameters_;
    QStackedWidget* pages_;
    LevelPage* level_;
    LengthBox *e_, *n_, *h_, *reach_;
    QDoubleSpinBox *turn_, *scale_;
    QTreeWidget* list_;
    QCheckBox* inside_;
    QLabel* state_;
    QPushButton *place_, *fit_button_, *map_, *drop_;
    std::vector<place::Pair> pairs_;
    std::optional<Vec3> half_;  // of a pair whose other place is not clicked yet
    std::optional<place::Placed> solved_;
    std::optional<place::Fit> fitted_;
    std::uint64_t fitted_to_ = 0;
    std::shared_ptr<const ElementSet> fitted_where_;  // of that one
    place::FitOptions fitted_with_;
    std::optional<Similarity> matrix_;
    std::uint64_t item_ = 0;  // that all this is of
    QString problem_;
    bool filling_ = false;
};

}  // namespace pristine::app
