#include "core/surface/triangulation.h"

#include "core/geometry/predicates.h"

namespace pristine::surface {

std::vector<std::uint32_t> Triangulation::triangle_at() const {
    std::vector<std::uint32_t> at(points.size(), kNone);
    for (std::uint32_t t = 0; t < size(); ++t)
        for (int k = 0; k < 3; ++k) {
            std::uint32_t& own = at[corner(t, k)];
            // The first at a rim, going round counter-clockwise, has no neighbour clockwise: across the edge
            // from the corner to the next one.
            if (own == kNone || across(t, previous(k)) == kNone) own = t;
        }
    return at;
}

bool wants_flip(const Triangulation& m, std::uint32_t t, int k) {
    const std::uint32_t o = m.across(t, k);
    if (o == kNone || m.fixed(t, k)) return false;
    const Plan &a = m.point(t, 0), &b = m.point(t, 1), &c = m.point(t, 2), &d = m.point(o, m.edge_to(o, t));
    return in_circle(a.x, a.y, b.x, b.y, c.x, c.y, d.x, d.y) > 0;
}

void flip(Triangulation& m, std::uint32_t t, int k) {
    const std::uint32_t o = m.across(t, k);
    const int j = m.edge_to(o, t);
    const int k1 = next(k), k2 = previous(k), j1 = next(j), j2 = previous(j);
    // t = (p, a, b) with the edge a-b opposite p, o = (q, b, a).
    const std::uint32_t p = m.corner(t, k), a = m.corner(t, k1), b = m.corner(t, k2), q = m.corner(o, j);
    const std::uint32_t at_bp = m.across(t, k1), at_pa = m.across(t, k2), at_aq = m.across(o, j1),
                        at_qb = m.across(o, j2);
    const bool fix_bp = m.fixed(t, k1), fix_pa = m.fixed(t, k2), fix_aq = m.fixed(o, j1),
               fix_qb = m.fixed(o, j2);
    // t = (p, a, q): edges a-q, q-p, p-a. o = (q, b, p): edges b-p, p-q, q-b.
    m.corners[t] = {p, a, q};
    m.beside[t] = {at_aq, o, at_pa};
    m.constrained[t] = static_cast<std::uint8_t>(fix_aq << 0 | fix_pa << 2);
    m.corners[o] = {q, b, p};
    m.beside[o] = {at_bp, t, at_qb};
    m.constrained[o] = static_cast<std::uint8_t>(fix_bp << 0 | fix_qb << 2);
    if (at_aq != kNone) m.beside[at_aq][static_cast<std::size_t>(m.edge_to(at_aq, o))] = t;
    if (at_bp != kNone) m.beside[at_bp][static_cast<std::size_t>(m.edge_to(at_bp, t))] = o;
}

}  // namespace pristine::surface
