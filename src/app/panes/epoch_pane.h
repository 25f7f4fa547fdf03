// Volumes by date: every surface with a date, above a level or against the one before, as a chart and a
// table.

#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "app/panes/chart_pane.h"
#include "core/measure/difference.h"
#include "core/measure/figures.h"
#include "core/site/site.h"

class QComboBox;
class QDoubleSpinBox;

namespace pristine::app {

class Document;
class Jobs;

class EpochPane : public ChartPane {
    Q_OBJECT
  public:
    EpochPane(Document*, Jobs*, QWidget* parent);
    void refresh() override;

    /// Data units; in order of dates.
    struct Epoch {
        std::string name, date;
        measure::Volumes volumes;                   ///< to the level
        measure::Difference spread;                 ///< the same with its standard deviations
        std::optional<measure::Difference> change;  ///< against the one before; none for the first
    };
    const std::vector<Epoch>& epochs() const { return epochs_; }
    /// One line for each date, as CSV, in the unit shown.
    QString table() const override;

  private:
    void compute();
    void draw();
    void draw_spreads(bool change);
    void say_last();
    Document* document_;
    QComboBox *what_, *within_;
    QDoubleSpinBox* level_;
    bool level_known_ = false;
    std::vector<Epoch> epochs_;
};

}  // namespace pristine::app
