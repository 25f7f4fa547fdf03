// Pictures of a scene on the CPU, built up step by step: a first picture within a budget of points, then the
// rest.
//
// Deterministic: once complete, the picture depends on scene, view and options only, not on the number of
// threads or steps.

#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/geometry/view_frame.h"
#include "core/select/fence.h"
#include "render/apart.h"
#include "render/scene.h"
#include "render/splat.h"

namespace pristine::render {

/// A picture, and what is seen at each of its pixels. Constant once made, so any thread may look things up in
/// it.
struct Picture {
    int width = 0, height = 0;
    std::vector<std::uint32_t> pixels;  ///< 0xffRRGGBB, row by row: what a window's image takes as it is
    std::vector<std::uint64_t> keys;    ///< depth and element id of every pixel, gaps closed (splat.h)
    std::shared_ptr<const Scene> scene;
    ViewFrame view;
    bool complete = false;  ///< all points in view are in it
    bool stand_in = false;  ///< triangles are there as points

    /// The element seen at a pixel; none on the background and outside.
    std::optional<std::uint32_t> id_at(int x, int y) const;
    /// The element seen nearest to a pixel, within a radius in pixels.
    std::optional<std::uint32_t> id_near(int x, int y, int radius) const;
    /// World position of an element of the scene.
    Vec3 position(std::uint32_t id) const;
    /// Depth of every pixel; infinity on the background.
    std::vector<float> depths() const;
};

struct RenderOptions {
    Palette palette;
    bool depth_shading = true;
    bool gradient = true;  ///< background of the stage; false: its bottom colour everywhere
    /// More triangles in view than this are drawn as points by the first step, so that the picture moves with
    /// the hand.
    std::uint64_t most_triangles = UINT64_MAX;
};

class Renderer {
  public:
    /// Starts a picture. The scene is kept until the next begin().
    void begin(std::shared_ptr<const Scene>, const ViewFrame&, const RenderOptions& = {});
    /// Draws up to about `budget` more points, spread so that every place gets its share of detail. True when
    /// nothing is left to draw. `stop` is asked between pages; when it says true the picture stays
    /// incomplete.
    bool step(std::uint64_t budget, const std::function<bool()>& stop = {});
    bool complete() const { return fraction_ >= 1; }
    /// Whether resolve() gives a picture without holes: where points stood in for triangles in the first
    /// step, the next ones draw all anew, and nothing is to be shown before they are done.
    bool presentable() const { return !anew_ || complete(); }
    /// Points drawn so far; points in pages that the view may see.
    std::uint64_t drawn() const { return drawn_; }
    std::uint64_t in_view() const { return in_view_; }
    std::uint64_t triangles_in_view() const { return triangles_; }

    /// Closes gaps between near points and colours what is drawn so far.
    void resolve(Picture&);

  private:
    struct VisiblePage {
        std::uint32_t page;  // number in the scene
        double area_px;      // on the screen, at most
        double nearest;      // depth of its bounds
        std::uint64_t points;
        std::uint64_t drawn = 0;  // of points
    };
    void find_visible();
    void clear_buffers();
    void draw_page(const VisiblePage&, std::uint64_t from, std::uint64_t to, std::size_t worker);
    void draw_discs(const VisiblePage&, std::size_t block, double share, const SplatRun&, std::size_t worker);
    const std::vector<std::uint64_t>& merged();
    void draw_ghosts();
    void grow(const std::vector<std::uint64_t>& from, std::vector<std::uint64_t>& to) const;
    void merge_buffers();

    std::shared_ptr<const Scene> scene_;
    ViewFrame view_;
    RenderOptions options_;
    std::vector<VisiblePage> visible_;
    double fraction_ = 0;
    std::uint64_t drawn_ = 0, in_view_ = 0;
    std::vector<std::vector<std::uint64_t>>
        buffers_;  // one per worker; the first is the merged one after resolve
    // Discs of blocks that are not drawn whole are larger than they will be. The first step draws them with
    // everything else, as it is mostly the only one, and the second draws all anew; later ones draw them on
    // their own, so that nothing of them is left in the end. Empty where there were none.
    std::vector<char> too_large_;  // of each worker: whether its buffer holds such discs
    bool first_step_ = true;
    std::vector<std::vector<std::uint64_t>> early_;
    std::vector<std::uint64_t> with_early_;
    std::unique_ptr<ApartCache> apart_ = std::make_unique<ApartCache>();
    std::vector<std::uint64_t> ghost_keys_, ghost_grown_;
    bool has_ghosts_ = false, ghosts_drawn_ = false;
    bool stand_in_ = false, anew_ = false;
    std::uint64_t triangles_ = 0;
};

/// The complete picture in one go: reports, thumbnails, tests, the command line.
Picture render_picture(std::shared_ptr<const Scene>, const ViewFrame&, const RenderOptions& = {});

}  // namespace pristine::render
