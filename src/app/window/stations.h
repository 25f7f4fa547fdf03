// Stations: shown in the stage, stood at, what each saw, and where one is given by hand.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

class StationDialog;
class StationLabels;
struct StationOf;

class Stations : public Part {
    Q_OBJECT
  public:
    explicit Stations(Desk&);
    void add_commands() override;

  private:
    std::vector<StationOf> shown_stations() const;
    void refresh();
    void offer(const StationOf&, const QPoint& on_screen);
    void stand_at(const StationOf&);
    void open_panorama(const StationOf&);
    enum class Then { Select, ShowOnly };
    void find_seen(const StationOf&, Then);
    void choose();
    void colour_by_pictures();
    QString why_not_coloured() const;
    StationLabels* labels_;
    StationDialog* dialog_ = nullptr;
    bool on_;
};

}  // namespace pristine::app
