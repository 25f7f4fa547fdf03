// Boxes in plan in the cells of a grid: which of them meet a box.

#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "core/surface/triangulation.h"

namespace pristine::surface {

/// A rectangle in plan along the axes.
struct PlanBox {
    double x0 = INFINITY, y0 = INFINITY, x1 = -INFINITY, y1 = -INFINITY;
    void add(double x, double y) {
        x0 = std::min(x0, x), x1 = std::max(x1, x);
        y0 = std::min(y0, y), y1 = std::max(y1, y);
    }
    bool empty() const { return !(x0 <= x1); }
    bool meets(const PlanBox& o) const { return x0 <= o.x1 && o.x0 <= x1 && y0 <= o.y1 && o.y0 <= y1; }
};

/// Boxes by number; each is listed in every cell that it touches.
class BoxGrid {
  public:
    /// About as many cells as boxes. O(n + touched cells).
    explicit BoxGrid(const std::vector<PlanBox>& boxes) : boxes_(boxes) {
        for (const PlanBox& b : boxes)
            if (!b.empty()) whole_.add(b.x0, b.y0), whole_.add(b.x1, b.y1);
        if (whole_.empty()) return;
        const double w = whole_.x1 - whole_.x0, h = whole_.y1 - whole_.y0,
                     area = std::max(w * h, 1e-12 * (w + h) * (w + h) + 1e-300);
        const double side =
            std::max(std::sqrt(area / static_cast<double>(boxes.size())), std::max(w, h) / 30'000 + 1e-300);
        nx_ = static_cast<std::int64_t>(w / side) + 1;
        ny_ = static_cast<std::int64_t>(h / side) + 1;
        per_x_ = static_cast<double>(nx_) / std::max(w, 1e-300);
        per_y_ = static_cast<double>(ny_) / std::max(h, 1e-300);
        first_.assign(static_cast<std::size_t>(nx_ * ny_) + 1, 0);
        for (const PlanBox& b : boxes)
            if (!b.empty()) cells(b, [&](std::size_t c) { ++first_[c + 1]; });
        for (std::size_t c = 1; c < first_.size(); ++c) first_[c] += first_[c - 1];
        list_.resize(first_.back());
        std::vector<std::uint64_t> at(first_.begin(), first_.end() - 1);
        for (std::uint32_t i = 0; i < boxes.size(); ++i)
            if (!boxes[i].empty()) cells(boxes[i], [&](std::size_t c) { list_[at[c]++] = i; });
    }
    /// Calls visit(number) once for each box that meets `b`, boxes included.
    template <class Visit>
    void meeting(const PlanBox& b, Visit&& visit) const {
        if (whole_.empty() || !b.meets(whole_)) return;
        cells(b, [&](std::size_t c) {
            for (std::uint64_t i = first_[c]; i < first_[c + 1]; ++i) {
                const PlanBox& o = boxes_[list_[i]];
                // Only in the first cell that both touch.
                if (o.meets(b) &&
                    cell(std::max(o.x0, b.x0), std::max(o.y0, b.y0)) == static_cast<std::int64_t>(c))
                    visit(list_[i]);
            }
        });
    }

  private:
    std::int64_t column(double x) const {
        return std::clamp<std::int64_t>(static_cast<std::int64_t>((x - whole_.x0) * per_x_), 0, nx_ - 1);
    }
    std::int64_t row(double y) const {
        return std::clamp<std::int64_t>(static_cast<std::int64_t>((y - whole_.y0) * per_y_), 0, ny_ - 1);
    }
    std::int64_t cell(double x, double y) const {
        return row(std::max(y, whole_.y0)) * nx_ + column(std::max(x, whole_.x0));
    }
    template <class Visit>
    void cells(const PlanBox& b, Visit&& visit) const {
        const std::int64_t c0 = column(std::max(b.x0, whole_.x0)), c1 = column(std::min(b.x1, whole_.x1)),
                           r0 = row(std::max(b.y0, whole_.y0)), r1 = row(std::min(b.y1, whole_.y1));
        for (std::int64_t r = r0; r <= r1; ++r)
            for (std::int64_t c = c0; c <= c1; ++c) visit(static_cast<std::size_t>(r * nx_ + c));
    }

    const std::vector<PlanBox>& boxes_;
    PlanBox whole_;
    std::int64_t nx_ = 0, ny_ = 0;
    double per_x_ = 1, per_y_ = 1;
    std::vector<std::uint64_t> first_;
    std::vector<std::uint32_t> list_;
};

}  // namespace pristine::surface
