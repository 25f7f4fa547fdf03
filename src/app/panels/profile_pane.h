// Heights of all surfaces that are shown along a line: one curve for each, of several dates above each other.

#pragma once

#include <QWidget>
#include <memory>
#include <vector>

#include "core/measure/contours.h"
#include "core/site/site.h"

class QChart;
class QComboBox;
class QLabel;

namespace pristine::app {

class Document;
class Jobs;

class ProfilePane : public QWidget {
    Q_OBJECT
  public:
    ProfilePane(Document*, Jobs*, QWidget* parent);
    bool is_open() const { return isVisibleTo(parentWidget()); }
    void open();
    void close_pane();
    /// Surfaces, or lines, may have changed.
    void refresh();

    struct Curve {
        std::string name;
        std::vector<std::vector<measure::ProfilePoint>> stretches;
    };
    const std::vector<Curve>& curves() const { return curves_; }
    /// Name, chainage, east, north, height of each corner, as CSV; lengths in the unit shown.
    QString table() const;

  signals:
    void closed();

  private:
    void compute();
    void draw();
    void save();
    Document* document_;
    Jobs* jobs_;
    QComboBox* line_;
    QLabel* state_;
    QChart* chart_;
    unsigned version_ = 0;
    std::vector<Curve> curves_;
};

}  // namespace pristine::app
