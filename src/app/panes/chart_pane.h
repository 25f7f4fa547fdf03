// A pane below the stage with a chart and a table that can be saved: what profiles and volumes by date share.

#pragma once

#include <QWidget>
#include <filesystem>

#include "app/model/latest_job.h"

class QChart;
class QChartView;
class QHBoxLayout;
class QLabel;

namespace pristine::app {

class ChartPane : public QWidget {
    Q_OBJECT
  public:
    bool is_open() const { return isVisibleTo(parentWidget()); }
    void open();
    void close_pane();
    /// What it shows may have changed.
    virtual void refresh() = 0;
    /// What it shows, as CSV.
    virtual QString table() const = 0;
    /// The table, or with the ending png the chart as it stands. Throws Error.
    void save(const std::filesystem::path&) const;

  signals:
    void closed();

  protected:
    /// The pane is called id + "Pane", its parts id + "State", "Save", "Close", "Chart". `what` names what is
    /// saved.
    ChartPane(const QString& id, const QString& what, Jobs*, QWidget* parent);
    /// For labels and choices, left of the state.
    QHBoxLayout* head() { return head_; }
    QChart* chart() const { return chart_; }
    QChartView* view() const { return view_; }
    void say(const QString& text);
    /// Takes away what the chart shows, axes included.
    void clear_chart();
    /// Another, empty chart in its place: bars with whiskers leave their axes behind when they are cleared.
    void renew_chart();
    LatestJob latest_;  ///< what the chart shows

  private:
    void choose_file();
    QString what_;
    QHBoxLayout* head_;
    QLabel* state_;
    QChart* chart_;
    QChartView* view_;
};

}  // namespace pristine::app
