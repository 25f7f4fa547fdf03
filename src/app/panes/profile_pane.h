// Heights of all surfaces that are shown along a line: one curve for each, of several dates above each other.

#pragma once

#include <memory>
#include <vector>

#include "app/panes/chart_pane.h"
#include "core/measure/contours.h"
#include "core/site/site.h"

class QComboBox;
class QDoubleSpinBox;
class QPushButton;

namespace pristine::app {

class Document;
class Jobs;

class ProfilePane : public ChartPane {
    Q_OBJECT
  public:
    ProfilePane(Document*, Jobs*, QWidget* parent);
    void refresh() override;

    struct Curve {
        std::string name;
        std::vector<std::vector<measure::ProfilePoint>> stretches;
    };
    const std::vector<Curve>& curves() const { return curves_; }
    /// A place of a mark that is shown, near the line.
    struct MarkPlace {
        std::string name;
        double chainage = 0, height = 0;  ///< data unit
    };
    const std::vector<MarkPlace>& marks() const { return marks_; }
    /// Name, chainage, east, north, height of each corner, as CSV; lengths in the unit shown.
    QString table() const override;
    /// Chainage, and the height of each curve there, at a place of the chart; near a corner of a curve, those
    /// of the corner. Empty beside the chart.
    QString told_at(const QPointF& in_view) const;

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void scale_heights();
    double snapped(double chainage, double height) const;
    void compute();
    void keep_lines();
    void draw();
    void find_marks();
    void draw_marks();
    Document* document_;
    QComboBox* line_;
    QPushButton* keep_;
    QDoubleSpinBox* exaggeration_;
    double exaggerated_ = 0;  ///< that the axis was set for
    double lo_ = 0, hi_ = 0;  ///< heights of what is drawn, unit shown
    std::vector<Curve> curves_;
    std::vector<MarkPlace> marks_;
};

}  // namespace pristine::app
