// Where one looks from: along axes, earlier, kept under a name; what of the item is shown; the view that
// stays with the project.

#pragma once

#include <QElapsedTimer>

#include "app/stage/stage.h"
#include "app/window/part.h"

namespace pristine::app {

class Views : public Part {
    Q_OBJECT
  public:
    explicit Views(Desk&);
    void store_view();
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
    QElapsedTimer picture_kept_;
    PixelPoint pointer_;  // in the stage
};

}  // namespace pristine::app
