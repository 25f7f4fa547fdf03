// A rule in hand: one of the scores, its parameters, the spread of its values, and the range that is taken.
//
// Everything on it is made from the entry of the registry (core/score): a new score appears here by itself.

#pragma once

#include <QWidget>
#include <map>
#include <optional>

#include "app/cards/side_card.h"
#include "app/look/lengths.h"
#include "app/model/latest_job.h"
#include "core/cloud/column.h"
#include "core/geometry/vec.h"
#include "core/recipe/recipe.h"
#include "core/score/colour_sample.h"
#include "core/score/limits.h"
#include "core/score/over_scans.h"
#include "core/site/site.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QLabel;
class QPushButton;
class QRadioButton;

namespace pristine::app {

class Document;
class Jobs;
class RangeHistogram;
class WordList;

class RuleCard : public SideCard {
    Q_OBJECT
  public:
    RuleCard(Document*, Jobs*, QWidget* parent = nullptr);
    void choose(const QString& score_id);
    void refresh() override;

    /// The rule as it stands; none while its score is computed.
    std::optional<score::Step> step() const;
    site::Combine combine() const;
    /// What it takes now; null while its score is computed.
    site::SetPtr taken() const;
    /// The values as the stage colours by them; null: it does not.
    std::shared_ptr<const cloud::FetchedColumn> colours() const;
    /// The column of the file that the values were read from; empty: they were not.
    std::string column() const;
    /// Name of the score, with the unit of its values as they are shown.
    QString title() const;
    double per_shown() const;  ///< data units of one shown unit, for lengths
    /// Where the limits lie in the world, as lines: rings round stations, a plane, a level band.
    std::vector<std::vector<Vec3>> guides() const override;
    /// "stray 4.21": the value of a point of the item in work, with its meaning; empty: none.
    QString value_of(std::uint64_t element) const;
    /// What the rule takes of each scan, the one in work included, when all that are shown are judged; empty
    /// otherwise.
    site::Parts taken_everywhere() const;
    /// Judges all scans that are shown, or the item in work.
    void set_all_scans(bool);
    /// A place that was clicked after pick_wanted: its colour is taken.
    void picked(const Vec3&);

  signals:
    void preview();         ///< taken() has changed, and may change again at once
    void chosen();          ///< taken() is meant
    void begun();           ///< another score: what is selected now is what it goes together with
    void colour_changed();  ///< colours() has
    void all_scans_changed(bool on);
    void pick_wanted(const QString& ask);
    void remove_everywhere();  ///< taken_everywhere() is to go

  private:
    void on_open() override { choose_score(); }
    void on_close() override { latest_.drop(); }
    void choose_score();
    void compute();
    void compute_keeping(bool range);
    void add_choice();
    void add_range();
    void add_actions();
    void add_box(const score::Parameter&, const score::Parameters& values);
    score::Parameters given_parameters(const site::Item&);
    std::vector<site::ItemPtr> shown_beside(const site::ItemPtr&) const;
    double begins_at() const;
    void show_values(bool keep_range);
    void range_edited();
    void say();
    void say_readings(const score::Limits&, std::uint64_t taken);
    int decimals() const;
    void fill_others();
    void fill_scores();
    void fly_to_extreme();
    bool others_changed() const;
    void fill_columns();
    void add_colour_picks();
    bool show_colour_range();  ///< that of colours off the stage; false: there are none
    void add_plane_picks();
    void ask_for_plane(int places);
    void plane_picked(const Vec3&);
    void take_plane(const Vec3& at, const Vec3& normal);
    void set_box(const char* parameter, double value);  ///< without computing
    void take_colour(const std::optional<score::ColourSample>&);
    bool by_words() const;  ///< the column that is judged by holds words
    void show_words();
    Document* document_;
    QComboBox *which_, *combine_;
    QLabel *meaning_, *sentence_, *state_;
    QFormLayout* parameters_;
    std::vector<QDoubleSpinBox*> boxes_;
    std::map<std::pair<std::string, std::uint64_t>, score::Parameters> remembered_;  // of a score and an item
    RangeHistogram* histogram_;
    WordList* words_;  // instead of the histogram
    QDoubleSpinBox *lo_, *hi_;
    QRadioButton *inside_, *outside_;  // the two readings of the range
    QLabel *inside_words_, *outside_words_;
    QPushButton *take_, *colour_, *extreme_, *everywhere_;
    QCheckBox* all_;    // all scans that are shown, with one histogram
    QComboBox* other_;  // the item compared with, the line gone by, or the column
    QLabel* other_label_;
    std::string unit_;    // of the site, when the boxes were made
    double seconds_ = 0;  // that the last computation took
    std::size_t extreme_at_ = 0;
    int colours_taken_ = 0;           // off the stage, since the rule was chosen
    double colour_spread_ = 0;        // of those
    std::vector<Vec3> plane_places_;  // that were clicked
    std::size_t plane_wants_ = 0;     // so many are a plane
    bool filling_ = false;
    LatestJob latest_;
    // What the values belong to.
    const score::Score* score_ = nullptr;
    score::Parameters used_;
    std::shared_ptr<const cloud::PointCloud> cloud_;
    std::shared_ptr<const ElementSet> eligible_;
    std::shared_ptr<const score::Column> column_;
    std::vector<score::ScoredScan> beside_;  // other scans that are judged along
    score::Profile profile_;
    // The set that taken() gave last, and what it belongs to.
    mutable site::SetPtr last_;
    mutable std::shared_ptr<const score::Column> last_of_;
    mutable score::Limits last_limits_;
    mutable std::vector<std::string> last_words_;
};

}  // namespace pristine::app
