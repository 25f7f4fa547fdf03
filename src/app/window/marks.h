// Marks: drawn with the tool in the stage, the section and the panorama, shown there, and exported.

#pragma once

#include "app/stage/guide.h"
#include "app/window/part.h"

namespace pristine::app {

class MarksCard;
struct SpaceShape;

class Marks : public HandyPart {
    Q_OBJECT
  public:
    explicit Marks(Desk&);
    void add_commands() override;
    void fly_to(std::uint64_t mark);

  private:
    void add(std::vector<Vec3> places);
    void from_panorama(const std::vector<Vec3>& pixels);
    std::vector<Guide> drawn() const;
    void set_kind();
    void choose_file();
    MarksCard* const marks_;
    bool came_with_tool_ = false;  // the card was opened by taking the tool
};

}  // namespace pristine::app
