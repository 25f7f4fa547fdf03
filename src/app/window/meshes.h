// Scan meshes: their cards, brushes that move corners, regions, refining.

#pragma once

#include "app/stage/stage.h"
#include "app/window/part.h"

namespace pristine::app {

class HolesCard;

struct Stroke;

class Meshes : public HandyPart {
    Q_OBJECT
  public:
    explicit Meshes(Desk&);

    void add_commands() override;

  private:
    void keep_connected();
    void refine_selection();
    void even_out(bool flatten);
    bool mesh_stroke_step(Stage* stage, const select::Fence&, Stroke&);
    void brush_along(Stroke&, const ViewFrame&, double radius_px, PixelPoint to);
    bool mesh_stroke_ended(const std::shared_ptr<Stroke>& done);
    HolesCard* const holes_;
};

}  // namespace pristine::app
