// Terrain surfaces: built, followed by their lines, replaced in part, draped, with arrows down the slope.

#pragma once

#include <vector>

#include "app/window/part.h"

namespace pristine::app {

class SurfaceCard;

class Surfaces : public HandyPart {
    Q_OBJECT
  public:
    explicit Surfaces(Desk&);
    void choose_drape(std::uint64_t item);
    void drape(std::uint64_t item, const std::filesystem::path& file);
    void replace_inside(std::uint64_t id);
    void add_commands() override;

  private:
    void add_surface_cards();
    void add_surface_views();
    void follow_surfaces(std::uint64_t line);
    void line_round();
    void drop_points();
    void ask_smooth();
    void smooth_part(double most);
    const std::vector<std::vector<Vec3>>& arrows_now();
    static std::vector<site::Line> lines_round(const site::Item&, const QString& rim, const QString& hole);
    std::uint64_t outline_in_work() const;
    SurfaceCard* const surface_;
    ProfilePane* const profile_;
    CrossSectionsPane* const cross_sections_;
    EpochPane* const epochs_;
    bool slope_arrows_ = false;
    site::SetPtr arrows_of_;
    std::vector<std::vector<Vec3>> arrows_;
    class LiveSurface* live_;
};

}  // namespace pristine::app
