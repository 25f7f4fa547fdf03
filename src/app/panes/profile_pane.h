// Heights of all surfaces that are shown along a line: one curve for each, of several dates above each other.

#pragma once

#include <memory>
#include <vector>

#include "app/panes/chart_pane.h"
#include "core/measure/contours.h"
#include "core/site/site.h"

class QComboBox;
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

  private:
    void compute();
    void keep_lines();
    void draw();
    void find_marks();
    void draw_marks();
    Document* document_;
    QComboBox* line_;
    QPushButton* keep_;
    std::vector<Curve> curves_;
    std::vector<MarkPlace> marks_;
};

}  // namespace pristine::app
