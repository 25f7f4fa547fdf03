#include "render/renderer.h"

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>

#include "core/base/parallel.h"
#include "render/facets.h"
#include "render/shade.h"
#include "render/splat.h"

namespace pristine::render {
namespace {

// Growing one pixel closes gaps up to about this spacing on the screen; sparser places get discs.
constexpr double kSparse_px = 1.3;
// Discs of this many spacings, closed afterwards, leave few holes on a surface.
constexpr double kDiscSpacings = 0.8;

struct PixelBox {
    double x0, y0, x1, y1, nearest;
    bool any;
};

// Where a box may appear. Boxes that reach behind the eye count as filling the view.
PixelBox project_box(const ViewFrame& v, const Box3& b) {
    PixelBox r{1e300, 1e300, -1e300, -1e300, 1e300, false};
    double farthest = -1e300;
    for (int corner = 0; corner < 8; ++corner) {
        const Vec3 p{corner & 1 ? b.hi.x : b.lo.x, corner & 2 ? b.hi.y : b.lo.y,
                     corner & 4 ? b.hi.z : b.lo.z};
        const double depth = v.depth(p);
        r.nearest = std::min(r.nearest, depth);
        farthest = std::max(farthest, depth);
        if (depth <= v.near_depth) continue;
        const PixelPoint q = v.project(p);
        r.x0 = std::min(r.x0, q.x);
        r.x1 = std::max(r.x1, q.x);
        r.y0 = std::min(r.y0, q.y);
        r.y1 = std::max(r.y1, q.y);
    }
    if (farthest <= v.near_depth) return r;
    if (r.nearest <= v.near_depth) {
        // Keep only what the planes of the view do not rule out: all corners to one side of it.
        const double w = v.width, h = v.height;
        int left = 0, right = 0, above = 0, below = 0;
        for (int corner = 0; corner < 8; ++corner) {
            const Vec3 p{corner & 1 ? b.hi.x : b.lo.x, corner & 2 ? b.hi.y : b.lo.y,
                         corner & 4 ? b.hi.z : b.lo.z};
            const Vec3 d = p - v.eye;
            const double s = v.perspective ? dot(d, v.ahead) / v.scale : 1 / v.scale;
            left += dot(d, v.right) < -v.centre_x * s;
            right += dot(d, v.right) > (w - v.centre_x) * s;
            above += dot(d, v.down) < -v.centre_y * s;
            below += dot(d, v.down) > (h - v.centre_y) * s;
        }
        if (left == 8 || right == 8 || above == 8 || below == 8) return r;
        r.x0 = r.y0 = 0;
        r.x1 = w;
        r.y1 = h;
    }
    r.any = r.x1 >= 0 && r.y1 >= 0 && r.x0 <= v.width && r.y0 <= v.height;
    r.x0 = std::max(r.x0, 0.0);
    r.y0 = std::max(r.y0, 0.0);
    r.x1 = std::min<double>(r.x1, v.width);
    r.y1 = std::min<double>(r.y1, v.height);
    return r;
}

// The least depth inside a box.
double nearest_depth(const ViewFrame& v, const Box3& b) {
    const Vec3 half = (b.hi - b.lo) * 0.5;
    return v.depth((b.lo + b.hi) * 0.5) - std::fabs(v.ahead.x) * half.x - std::fabs(v.ahead.y) * half.y -
           std::fabs(v.ahead.z) * half.z;
}

PageMap page_map(const ViewFrame& v, const cloud::Grid& g, const std::array<std::int32_t, 3>& origin) {
    PageMap m;
    m.perspective = v.perspective;
    const Vec3 o = g.world(origin[0], origin[1], origin[2]) - v.eye;
    const Vec3 ahead = v.perspective ? v.ahead : Vec3{};
    const double w0 = v.perspective ? dot(v.ahead, o) : 1;
    const auto row = [&](Vec3 direction, double centre, std::array<float, 4>& out) {
        for (int a = 0; a < 3; ++a)
            out[static_cast<std::size_t>(a)] =
                static_cast<float>((v.scale * direction[a] + centre * ahead[a]) * g.scale[a]);
        out[3] = static_cast<float>(v.scale * dot(direction, o) + centre * w0);
    };
    row(v.right, v.centre_x, m.x);
    row(v.down, v.centre_y, m.y);
    for (int a = 0; a < 3; ++a)
        m.depth[static_cast<std::size_t>(a)] = static_cast<float>(v.ahead[a] * g.scale[a]);
    m.depth[3] = static_cast<float>(dot(v.ahead, o));
    return m;
}

std::uint64_t prefix(std::uint64_t block, double fraction) {
    const auto n = static_cast<std::uint64_t>(std::ceil(static_cast<double>(block) * fraction));
    if (n < 8) return std::min(block, n);  // many blocks of a few points each must not cost eight times that
    return std::min<std::uint64_t>(block, (n + 7) / 8 * 8);  // whole bytes of the membership bits
}

// How far points of a block lie apart on the screen, where it is nearest.
double spacing_px(const ViewFrame& view, const cloud::PointCloud& c, std::size_t page, std::size_t block) {
    const cloud::PageInfo& info = c.info(page);
    const Box3 box = cloud::world_box(info.blocks[block], c.grid());
    const double nearest = std::max(nearest_depth(view, box), view.near_depth);
    return static_cast<double>(info.spacing[block]) * view.pixels_per_unit(nearest);
}

bool as_triangles(const DrawItem& item) {
    return item.cloud->triangles() && item.style.faces != site::Faces::Points;
}

}  // namespace

void Renderer::begin(std::shared_ptr<const Scene> scene, const ViewFrame& view,
                     const RenderOptions& options) {
    scene_ = std::move(scene);
    view_ = view;
    options_ = options;
    drawn_ = in_view_ = 0;
    fraction_ = 0;
    ghosts_drawn_ = anew_ = false;
    has_ghosts_ = false;
    for (const DrawItem& item : scene_->items()) has_ghosts_ |= item.ghosts && !item.ghosts->empty();
    buffers_.resize(std::min<std::size_t>(parallel::workers(), 8));
    early_.resize(buffers_.size());
    too_large_.assign(buffers_.size(), 0);
    apart_->keep_only(*scene_);
    clear_buffers();
    find_visible();
    stand_in_ = triangles_ > options.most_triangles;
    if (visible_.empty()) fraction_ = 1;
}

void Renderer::clear_buffers() {
    const std::size_t cells =
        static_cast<std::size_t>(view_.width) * static_cast<std::size_t>(view_.height) + 8;
    parallel::for_each(buffers_.size(), [&](std::size_t b) { buffers_[b].assign(cells, kNothing); });
    for (auto& early : early_) early.clear();
}

void Renderer::find_visible() {
    visible_.clear();
    triangles_ = 0;
    for (std::uint32_t g = 0; g < scene_->pages().size(); ++g) {
        const Scene::PageRef ref = scene_->pages()[g];
        const DrawItem& item = scene_->items()[ref.item];
        if (item.hidden && item.hidden->kind(ref.page) == ElementSet::Kind::All) continue;
        const PixelBox box = project_box(view_, item.cloud->page_box(ref.page));
        if (!box.any) continue;
        visible_.push_back({g, std::max(1.0, (box.x1 - box.x0) * (box.y1 - box.y0)), box.nearest,
                            page_length(item.cloud->size(), ref.page)});
        in_view_ += visible_.back().points;
        if (as_triangles(item)) triangles_ += visible_.back().points;
    }
}

bool Renderer::step(std::uint64_t budget, const std::function<bool()>& stop) {
    if (complete()) return true;
    first_step_ = drawn_ == 0;
    const bool too_large = std::any_of(too_large_.begin(), too_large_.end(), [](char c) { return c != 0; });
    if (!first_step_ && (stand_in_ || too_large)) {
        anew_ = anew_ || stand_in_;
        // At least as much as was seen already.
        if (!stand_in_) budget += std::min(drawn_, UINT64_MAX - budget);
        stand_in_ = false;
        drawn_ = 0;
        for (VisiblePage& p : visible_) p.drawn = 0;
        clear_buffers();
        too_large_.assign(buffers_.size(), 0);
    }
    // Every page gets points in proportion to its place on the screen, until the budget is spent; the factor
    // is bisected.
    const auto wanted = [&](const VisiblePage& p, double per_px) {
        return std::clamp<double>(p.area_px * per_px, static_cast<double>(p.drawn),
                                  static_cast<double>(p.points));
    };
    const auto cost = [&](double per_px) {
        double sum = 0;
        for (const VisiblePage& p : visible_) sum += wanted(p, per_px) - static_cast<double>(p.drawn);
        return sum;
    };
    double lo = 0, hi = 1e9;
    const bool all = in_view_ - drawn_ <= budget;
    if (!all)
        for (int i = 0; i < 60 && hi - lo > 1e-3 * lo; ++i) {
            const double middle = lo == 0 ? std::sqrt(1e-6 * hi) : std::sqrt(lo * hi);
            (cost(middle) > static_cast<double>(budget) ? hi : lo) = middle;
            if (hi < 1e-5) break;
        }
    const double per_px = all ? 1e18 : hi;
    std::atomic<std::size_t> next{0};
    std::atomic<std::uint64_t> done{0};
    std::atomic<bool> stopped{false};
    parallel::for_each(buffers_.size(), [&](std::size_t worker) {
        for (std::size_t k = next++; k < visible_.size(); k = next++) {
            if (stopped || (stop && stop())) {
                stopped = true;
                return;
            }
            VisiblePage& p = visible_[k];
            const auto to =
                static_cast<std::uint64_t>(all ? static_cast<double>(p.points) : wanted(p, per_px));
            if (to <= p.drawn) continue;
            draw_page(p, p.drawn, to, worker);
            done += to - p.drawn;
            p.drawn = to;
        }
    });
    drawn_ += done;
    if (!stopped && !stand_in_ && drawn_ >= in_view_) fraction_ = 1;
    return complete();
}

void Renderer::draw_page(const VisiblePage& p, std::uint64_t from, std::uint64_t to, std::size_t worker) {
    const Scene::PageRef ref = scene_->pages()[p.page];
    const DrawItem& item = scene_->items()[ref.item];
    const cloud::PageInfo& info = item.cloud->info(ref.page);
    const double begin = static_cast<double>(from) / static_cast<double>(p.points),
                 end = static_cast<double>(to) / static_cast<double>(p.points);
    const Target target{buffers_[worker].data(), view_.width, view_.height,
                        static_cast<float>(view_.near_depth)};
    if (!stand_in_ && as_triangles(item)) {
        // A part of them would be a surface with holes: all at once.
        if (from == 0)
            draw_facets(view_, *item.cloud->triangles(), {ref.page, p.page << 16, item.hidden.get(), false},
                        target);
        return;
    }
    SplatRun run;
    const std::uint64_t* bits = nullptr;
    if (item.hidden && item.hidden->kind(ref.page) == ElementSet::Kind::Some)
        bits = item.hidden->bits(ref.page)->words.data();
    for (std::size_t b = 0; b * kBlockSize < p.points; ++b) {
        const std::uint64_t first = b * kBlockSize,
                            length = std::min<std::uint64_t>(kBlockSize, p.points - first);
        run.begin = static_cast<std::uint32_t>(from == 0 ? 0 : prefix(length, begin));
        run.end = static_cast<std::uint32_t>(prefix(length, end));
        if (run.begin >= run.end && end < 1) continue;
        const cloud::PositionPage pos = item.cloud->block_positions(ref.page, b, run.end);
        run.x = pos.x.data();
        run.y = pos.y.data();
        run.z = pos.z.data();
        run.first_id = p.page << 16 | static_cast<std::uint32_t>(first);
        run.bits = bits ? bits + first / 64 : nullptr;
        run.origin = info.blocks[b].lo;
        const double closest_px = spacing_px(view_, *item.cloud, ref.page, b);
        const bool small = item.style.point_size <= 1;
        if (small && closest_px < kSparse_px * std::sqrt(end)) {
            // What was there as discs, as long as points were missing, is not there as pixels yet.
            if (closest_px >= kSparse_px * std::sqrt(begin)) run.begin = 0;
            splat(page_map(view_, item.cloud->grid(), run.origin), run, target);
        } else {
            draw_discs(p, b, end, run, worker);
        }
    }
}

// `share`: of its points that are drawn after this step.
void Renderer::draw_discs(const VisiblePage& p, std::size_t b, double share, const SplatRun& pixels,
                          std::size_t worker) {
    const Scene::PageRef ref = scene_->pages()[p.page];
    const DrawItem& item = scene_->items()[ref.item];
    const bool whole = share >= 1;
    if (!whole && first_step_) too_large_[worker] = 1;
    std::vector<std::uint64_t>& keys = whole || first_step_ ? buffers_[worker] : early_[worker];
    if (keys.empty()) keys.assign(buffers_[worker].size(), kNothing);
    SplatRun run = pixels;
    if (whole) run.begin = 0;  // what was drawn of it before was drawn too large
    const double spacing = static_cast<double>(item.cloud->info(ref.page).spacing[b]) / std::sqrt(share);
    run.radius_per_depth = static_cast<float>(spacing * kDiscSpacings * view_.scale);
    run.least_radius = 0.5f + static_cast<float>(item.style.point_size - 1) * 0.5f;
    run.most_radius = std::max(run.least_radius, kLargestDisc_px);
    const bool large = kDiscSpacings * spacing_px(view_, *item.cloud, ref.page, b) > kLone_px;
    const auto apart = large ? apart_->of(item.cloud, ref.page, b, whole) : nullptr;
    if (apart) run.apart = apart->data();
    // Of a surface next to no point lies four times as far from the next one as is usual on it.
    if (!apart_->is_thin(item.cloud, ref.page, b)) run.apart_from = 2 * item.cloud->info(ref.page).spacing[b];
    run.apart_per_depth = static_cast<float>(view_.scale / std::sqrt(share));
    splat_discs(page_map(view_, item.cloud->grid(), run.origin), run,
                {keys.data(), view_.width, view_.height, static_cast<float>(view_.near_depth)});
}

void Renderer::draw_ghosts() {
    ghost_keys_.assign(static_cast<std::size_t>(view_.width) * static_cast<std::size_t>(view_.height) + 8,
                       kNothing);
    const Target target{ghost_keys_.data(), view_.width, view_.height, static_cast<float>(view_.near_depth)};
    for (std::uint32_t g = 0; g < scene_->pages().size(); ++g) {
        const Scene::PageRef ref = scene_->pages()[g];
        const DrawItem& item = scene_->items()[ref.item];
        if (!item.ghosts || item.ghosts->kind(ref.page) == ElementSet::Kind::None) continue;
        if (as_triangles(item)) {
            draw_facets(view_, *item.cloud->triangles(), {ref.page, g << 16, item.ghosts.get(), true},
                        target);
            continue;
        }
        const cloud::PositionPage pos = item.cloud->positions(ref.page);
        SplatRun run;
        run.x = pos.x.data();
        run.y = pos.y.data();
        run.z = pos.z.data();
        run.first_id = g << 16;
        run.end = static_cast<std::uint32_t>(pos.size());
        run.origin = item.cloud->info(ref.page).bounds.lo;
        run.draw_members = true;
        if (item.ghosts->kind(ref.page) == ElementSet::Kind::Some)
            run.bits = item.ghosts->bits(ref.page)->words.data();
        splat(page_map(view_, item.cloud->grid(), run.origin), run, target);
    }
    grow(ghost_keys_, ghost_grown_);
    ghosts_drawn_ = true;
}

void Renderer::merge_buffers() {
    const std::size_t cells = static_cast<std::size_t>(view_.width) * static_cast<std::size_t>(view_.height);
    if (buffers_.size() > 1)
        parallel::for_ranges(cells, 65536, [&](std::size_t begin, std::size_t end) {
            std::uint64_t* into = buffers_[0].data();
            for (std::size_t b = 1; b < buffers_.size(); ++b) {
                const std::uint64_t* other = buffers_[b].data();
                for (std::size_t i = begin; i < end; ++i) into[i] = std::min(into[i], other[i]);
            }
        });
}

// What is drawn so far; discs that are too large are left out of the complete picture.
const std::vector<std::uint64_t>& Renderer::merged() {
    if (complete() || std::all_of(early_.begin(), early_.end(), [](const auto& e) { return e.empty(); })) {
        merge_buffers();
        return buffers_[0];
    }
    with_early_.resize(buffers_[0].size());
    parallel::for_ranges(with_early_.size(), 65536, [&](std::size_t begin, std::size_t end) {
        std::copy(buffers_[0].begin() + static_cast<std::ptrdiff_t>(begin),
                  buffers_[0].begin() + static_cast<std::ptrdiff_t>(end),
                  with_early_.begin() + static_cast<std::ptrdiff_t>(begin));
        const auto take = [&](const std::vector<std::uint64_t>& keys) {
            if (!keys.empty())
                for (std::size_t i = begin; i < end; ++i) with_early_[i] = std::min(with_early_[i], keys[i]);
        };
        for (std::size_t b = 1; b < buffers_.size(); ++b) take(buffers_[b]);
        for (const auto& early : early_) take(early);
    });
    return with_early_;
}

void Renderer::grow(const std::vector<std::uint64_t>& from, std::vector<std::uint64_t>& to) const {
    to.resize(from.size());
    grow_keys(view_, from.data(), to.data());
}

void Renderer::resolve(Picture& picture) {
    picture.width = view_.width;
    picture.height = view_.height;
    picture.view = view_;
    picture.scene = scene_;
    picture.complete = complete();
    picture.stand_in = stand_in_;
    grow(merged(), picture.keys);
    if (has_ghosts_ && !ghosts_drawn_) draw_ghosts();
    picture.pixels.resize(static_cast<std::size_t>(view_.width) * static_cast<std::size_t>(view_.height));
    shade(options_, has_ghosts_ ? ghost_grown_.data() : nullptr, picture);
}

std::optional<std::uint32_t> Picture::id_at(int x, int y) const {
    if (x < 0 || y < 0 || x >= width || y >= height) return {};
    const std::uint64_t key =
        keys[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)];
    if (key == kNothing) return {};
    return static_cast<std::uint32_t>(key);
}

std::optional<std::uint32_t> Picture::id_near(int x, int y, int radius) const {
    std::optional<std::uint32_t> best;
    int best_distance = radius * radius + 1;
    for (int dy = -radius; dy <= radius; ++dy)
        for (int dx = -radius; dx <= radius; ++dx) {
            const int d = dx * dx + dy * dy;
            if (d >= best_distance) continue;
            if (const auto id = id_at(x + dx, y + dy)) {
                best = id;
                best_distance = d;
            }
        }
    return best;
}

Vec3 Picture::position(std::uint32_t id) const {
    const Scene::PageRef ref = scene->pages()[id >> 16];
    return scene->items()[ref.item].cloud->position(std::uint64_t{ref.page} * kPageSize + (id & 0xFFFFu));
}

std::vector<float> Picture::depths() const {
    std::vector<float> depth(pixels.size());
    for (std::size_t i = 0; i < depth.size(); ++i)
        depth[i] =
            keys[i] == kNothing ? INFINITY : std::bit_cast<float>(static_cast<std::uint32_t>(keys[i] >> 32));
    return depth;
}

Picture render_picture(std::shared_ptr<const Scene> scene, const ViewFrame& view,
                       const RenderOptions& options) {
    Renderer r;
    Picture picture;
    r.begin(std::move(scene), view, options);
    r.step(UINT64_MAX);
    r.resolve(picture);
    return picture;
}

}  // namespace pristine::render
