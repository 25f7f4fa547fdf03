// The stage: the 3D view with navigation, the tool in hand, and what is painted over the picture.

#pragma once

#include <QColor>
#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>
#include <array>
#include <memory>
#include <optional>

#include "app/stage/guide.h"
#include "app/stage/render_worker.h"
#include "app/stage/snap.h"
#include "app/tools/tool.h"
#include "render/camera.h"

namespace pristine::app {

class Stage : public QWidget {
    Q_OBJECT
  public:
    explicit Stage(QWidget* parent = nullptr);

    /// What is drawn from now on. The camera stays, unless this is the first scene with anything in it.
    /// The next scene that is not empty is looked at as a whole, as the first one was.
    void look_anew();
    void set_scene(std::shared_ptr<const render::Scene>);
    const render::Scene& scene() const { return *scene_; }

    /// The tool in hand; not owned, may be null.
    void set_tool(Tool*);
    Tool* tool() const { return tool_; }

    const render::Camera& camera() const { return camera_; }
    void set_camera(const render::Camera&);
    /// As by hand: more follows at once, so that the pace is held before detail is drawn.
    void move_camera(const render::Camera&);
    void look_along(render::AxisView);
    void look_at_everything();
    void look_at(const Box3&);
    /// Back to the view before the last jump.
    void go_back();
    bool can_go_back() const { return !views_.empty(); }
    /// And forward again, until another view is chosen.
    void go_forward();
    bool can_go_forward() const { return !later_views_.empty(); }
    /// Another view; the present one can be gone back to.
    void jump_to(const render::Camera&);
    void set_perspective(bool);
    /// The axis that is looked along since the last turn; none: between the axes.
    std::optional<render::AxisView> axis() const { return axis_; }
    /// What every turn goes about until it is released; none: what is under the pointer as a turn begins.
    void fix_centre(std::optional<Vec3> centre) { fixed_centre_ = centre; }
    const std::optional<Vec3>& fixed_centre() const { return fixed_centre_; }
    /// What a turn without a pointer goes about: the centre that was fixed, else what is seen in the middle.
    Vec3 turning_centre() const;
    ViewFrame frame() const;
    std::shared_ptr<const render::Picture> picture() const { return worker_.picture(); }
    /// Whether the newest picture shows the present scene and view in full detail.
    bool settled() const;
    std::uint64_t budget() const { return worker_.budget(); }
    /// What is seen within a few pixels of p in the present picture: id for Picture::scene; none over the
    /// background.
    std::optional<std::uint32_t> seen_at(PixelPoint p) const;
    /// The wipe: left of a line that can be dragged, this other scene is shown in the same view; null ends
    /// it.
    void set_before(std::shared_ptr<const render::Scene>);
    bool wiping() const { return before_scene_ != nullptr; }
    /// Where the line is, in pixels from the left.
    double wipe_x() const { return wipe_share_ * width(); }
    std::shared_ptr<const render::Picture> before_picture() const {
        return before_ ? before_->picture() : nullptr;
    }
    /// Lines in the world that are drawn over the picture, e.g. where the section lies.
    using Guide = app::Guide;
    void set_guides(std::vector<Guide> guides);
    const std::vector<Guide>& guides() const { return guides_.guides(); }
    /// Where what is seen in a picture within a few pixels of p lies; none over the background.
    static std::optional<Vec3> place_in(const render::Picture&, PixelPoint p);
    /// Where a click that measures lands: on a line, a corner, an edge, a point; none over nothing.
    std::optional<Vec3> measured_at(PixelPoint) const;
    /// The world point under a pixel: on what is seen within a few pixels, else in the middle distance.
    Vec3 anchor(PixelPoint) const;
    bool peeking() const { return peek_.has_value(); }

  signals:
    void fence_closed(const select::Fence& fence, Qt::KeyboardModifiers modifiers);
    /// A piece of a brush stroke; stroke_ended follows when the button is let go.
    void stroke_step(const select::Fence& fence, Qt::KeyboardModifiers modifiers);
    void stroke_ended();
    void line_drawn(const DrawnLine& line);    ///< or changed
    void line_dragged(const DrawnLine& line);  ///< a corner is on its way
    void line_let_go();                        ///< before line_drawn, if the line changed
    void solid_changed(const Solid& solid);    ///< by its handles
    void shape_made(const SpaceShape& shape, Qt::KeyboardModifiers modifiers);
    void refused(const QString& why);
    void camera_changed();
    /// World position under the pointer; `there` is false over the background.
    void pointed(bool there, double x, double y, double z);
    void pointed_at(double x, double y);  ///< pixel under the pointer
    void settled_now();

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void keyReleaseEvent(QKeyEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    bool event(QEvent*) override;

  private:
    void redraw(bool moving);
    void use_camera(const render::Camera&, std::optional<render::AxisView>);
    void moved();
    void remember_view();
    void end_peek();
    void after_tool();
    void tell_dragging();
    bool may_begin();  ///< false, with a word why, when there is nothing to work on
    void point_at(PixelPoint);
    bool navigation_key(int key, Qt::KeyboardModifiers);
    bool tool_key(int key);
    void paint_outline(class QPainter&) const;
    void paint_over(class QPainter&);
    void paint_snap(class QPainter&) const;
    std::optional<Snapped> snapped(PixelPoint) const;
    void press_tool(PixelPoint);
    void paint_wipe(class QPainter&) const;
    double aspect() const { return height() > 0 ? static_cast<double>(width()) / height() : 1; }

    RenderWorker worker_;
    std::unique_ptr<RenderWorker> before_;  // draws what the wipe shows; made when first needed
    std::shared_ptr<const render::Scene> before_scene_;
    double wipe_share_ = 0.5;
    bool dragging_line_ = false;
    std::shared_ptr<const render::Scene> scene_;
    render::Camera camera_;
    std::vector<render::Camera> views_, later_views_;
    std::optional<render::AxisView> axis_;    // looked along since the last turn
    std::array<bool, 6> axis_perspective_{};  // of each axis view; side-on cuts start parallel
    std::optional<render::Camera> peek_;
    Tool* tool_ = nullptr;
    bool has_looked_ = false;
    enum class Drag { None, Turn, Move, Tool, Wipe } drag_ = Drag::None;
    PixelPoint last_, pointer_;
    Vec3 centre_;
    std::optional<Vec3> fixed_centre_;
    double drag_depth_ = 1;
    std::optional<PixelPoint> key_cursor_;  // of who works without a mouse
    Qt::KeyboardModifiers press_modifiers_;
    GuideLayer guides_;
    QTimer rest_;
};

}  // namespace pristine::app
