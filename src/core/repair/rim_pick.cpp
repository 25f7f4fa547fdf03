#include "core/repair/rim_pick.h"

#include <algorithm>

#include "core/base/error.h"

namespace pristine::repair {
namespace {

using RimCorners = std::vector<std::uint32_t>;

// The corners from one to another along the rim, both included.
RimCorners along(const RimCorners& rim, std::size_t from, std::size_t to) {
    RimCorners out;
    for (std::size_t i = from;; i = (i + 1) % rim.size()) {
        out.push_back(rim[i]);
        if (i == to) return out;
    }
}

// `width` edges about a corner; where that begins and ends.
struct RimPart {
    std::size_t first, last;
};
RimPart about(const RimCorners& rim, std::size_t corner, std::size_t width) {
    const std::size_t n = rim.size(), w = std::min(width, n - 1);
    return {(corner + n - w / 2) % n, (corner + w - w / 2) % n};
}

RimCorners part(const RimCorners& rim, const RimPart& p) {
    return along(rim, p.first, p.last);
}

}  // namespace

std::vector<RimCorners> stretches(const std::vector<RimCorners>& rims, const RimCorner& a, const RimCorner& b,
                                  Between between, std::size_t width) {
    const RimCorners &r = rims.at(a.rim), &q = rims.at(b.rim);
    if (a.corner >= r.size() || b.corner >= q.size())
        throw Error(ErrorCode::Usage, "There is no such corner of a rim");
    width = std::max<std::size_t>(width, 1);
    if (a.rim != b.rim) return {part(r, about(r, a.corner, width)), part(q, about(q, b.corner, width))};
    if (a.corner == b.corner) throw Error(ErrorCode::Usage, "Pick two corners of the rim");
    if (between != Between::Bridge) {
        const std::size_t forward = (b.corner + r.size() - a.corner) % r.size();
        const bool from_a = (forward <= r.size() - forward) == (between == Between::Shorter);
        return {from_a ? along(r, a.corner, b.corner) : along(r, b.corner, a.corner)};
    }
    const RimPart p = about(r, a.corner, width), s = about(r, b.corner, width);
    // Something of the rim has to be left on both sides.
    const std::size_t to = (s.first + r.size() - p.last) % r.size(),
                      back = (p.first + r.size() - s.last) % r.size();
    const std::size_t taken =
        (p.last + r.size() - p.first) % r.size() + (s.last + r.size() - s.first) % r.size();
    if (to + back + taken != r.size() || to < 2 || back < 2)
        throw Error(ErrorCode::Usage, "The two corners are too near to each other for a bridge", {},
                    "Pick corners farther apart, or a narrower bridge.");
    return {part(r, p), part(r, s)};
}

}  // namespace pristine::repair
