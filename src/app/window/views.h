// Where one looks from: along axes, earlier, kept under a name; what of the item is shown; the view that
// stays with the project.

#pragma once

#include <QElapsedTimer>

#include "app/stage/space_mouse.h"
#include "app/stage/stage.h"
#include "app/window/part.h"

namespace pristine::app {

class Views : public Part {
    Q_OBJECT
  public:
    explicit Views(Desk&);
    void store_view();
    /// Its motions turn and move the view from now on; its first button shows everything, its second is the
    /// view before. In place of another.
    void use(SpaceMouse*);
    const SpaceMouse* space_mouse() const { return space_mouse_; }
    void add_commands() override;

  private:
    void add_directions();
    void add_places();
    void add_what_is_shown();
    void keep_picture();
    void restore_view();
    void keep_view_as();
    void fill_views(QMenu*);
    void fix_centre();
    std::vector<Stage::Guide> centre_mark() const;
    void follow(const SpaceMotion&);
    SpaceMouse* space_mouse_ = nullptr;
    QElapsedTimer picture_kept_;
    PixelPoint pointer_;  // in the stage
};

}  // namespace pristine::app
