// Volumes by date: every surface with a date, above a level or against the one before, as a chart and a
// table.

#pragma once

#include <QWidget>
#include <memory>
#include <optional>
#include <vector>

#include "core/measure/difference.h"
#include "core/measure/figures.h"
#include "core/site/site.h"

class QChart;
class QComboBox;
class QDoubleSpinBox;
class QLabel;

namespace pristine::app {

class Document;
class Jobs;

class EpochPane : public QWidget {
    Q_OBJECT
  public:
    EpochPane(Document*, Jobs*, QWidget* parent);
    bool is_open() const { return isVisibleTo(parentWidget()); }
    void open();
    void close_pane();
    /// Surfaces, their dates, or lines may have changed.
    void refresh();

    /// Data units; in order of dates.
    struct Epoch {
        std::string name, date;
        measure::Volumes volumes;                   ///< to the level
        std::optional<measure::Difference> change;  ///< against the one before; none for the first
    };
    const std::vector<Epoch>& epochs() const { return epochs_; }
    /// One line for each date, as CSV, in the unit shown.
    QString table() const;

  signals:
    void closed();

  private:
    void compute();
    void draw();
    void save();
    Document* document_;
    Jobs* jobs_;
    QComboBox *what_, *within_;
    QDoubleSpinBox* level_;
    QLabel* state_;
    QChart* chart_;
    bool level_known_ = false;
    unsigned version_ = 0;
    std::vector<Epoch> epochs_;
};

}  // namespace pristine::app
