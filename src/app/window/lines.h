// Lines of the site: drawn, edited, added from files, selected inside.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

struct DrawnLine;

class Lines : public HandyPart {
    Q_OBJECT
  public:
    explicit Lines(Desk&);
    void edit_line(std::uint64_t id);
    /// `if_any`: a file without lines is no error. `with_points`: points of a map come in as items.
    void add_lines(const std::filesystem::path& file, bool if_any = false, bool with_points = false);
    void select_inside_lines(std::uint64_t only = 0);
    void add_commands() override;

  private:
    void follow_tool();
    void line_dragged(const DrawnLine& drawn);
    void line_let_go();
    void line_drawn(const DrawnLine& drawn);
    void choose_lines_to_add();
    void keep_fence();
};

}  // namespace pristine::app
