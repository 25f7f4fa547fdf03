// What becomes of the shapes in space that hand tools make: balls, boxes, planes, clip boxes, picked points.

#pragma once

#include "app/window/hand.h"
#include "app/window/part.h"

namespace pristine::app {

class HolesCard;

class Shapes : public HandyPart {
    Q_OBJECT
  public:
    explicit Shapes(Desk&);

    void add_commands() override;

  private:
    /// A shape in space whose handles are in the view, and the selection that it made.
    struct ShapeSelection {
        site::Parts selection;
        Hand::Selected before;
        Solid solid;
        site::Combine combine;
        Stage* stage;
    };
    void tool_taken(ToolId);
    void shape_made(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers);
    void fit_painted_plane(Stage* stage, const SpaceShape& shape, Qt::KeyboardModifiers modifiers);
    site::Origin solid_origin(const Solid& solid) const;
    void show_solid(const std::optional<Solid>& solid);
    void select_solid(Stage* stage, const Solid& solid, site::Combine combine, const Hand::Selected& before);
    void solid_changed(Stage* stage, const Solid& solid);
    const ShapeSelection* live_now() const;
    void follow_solid();
    void plane_settings_changed();
    void use_clip(const site::ClipBox& clip);
    void follow_clip();
    void clip_against(const Vec3&);
    void fill_clips(QMenu*);
    void pick(Stage* stage, const SpaceShape& shape);
    void show_values(std::uint64_t item, const cloud::PointCloud&, std::uint64_t element, const Vec3& place);
    HolesCard* const holes_;
    std::vector<ShapeSelection> lives_;  // those of the tool in hand
    std::optional<Vec3> last_pick_;
};

}  // namespace pristine::app
