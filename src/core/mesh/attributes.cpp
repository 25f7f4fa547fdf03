#include "core/mesh/attributes.h"

#include <algorithm>
#include <cmath>

namespace pristine::mesh {
namespace {

constexpr std::uint32_t kWhite = 0xFFFFFF;

template <class T>
void take(std::vector<T>& out, const std::vector<T>& in, std::span<const std::uint32_t> triangles) {
    if (in.empty()) return;
    out.reserve(triangles.size());
    for (const std::uint32_t t : triangles) out.push_back(in[t]);
}

template <class T>
void add(std::vector<T>& to, std::size_t n, const std::vector<T>& more, std::size_t m, const T& without) {
    if (to.empty() && more.empty()) return;
    if (to.empty()) to.assign(n, without);
    if (more.empty())
        to.resize(n + m, without);
    else
        to.insert(to.end(), more.begin(), more.end());
}

// Numbers into two lists of names that become one; names that both have are one.
template <class Named, class Same>
void add_named(std::vector<std::uint16_t>& to, std::vector<Named>& names, std::size_t n,
               const std::vector<std::uint16_t>& more, const std::vector<Named>& more_names, std::size_t m,
               Same same) {
    if (to.empty() && more.empty()) return;
    const auto number_of = [&](const Named& wanted) {
        const auto at =
            std::find_if(names.begin(), names.end(), [&](const Named& k) { return same(k, wanted); });
        if (at != names.end()) return static_cast<std::uint16_t>(at - names.begin());
        if (names.size() == UINT16_MAX) return std::uint16_t{0};
        names.push_back(wanted);
        return static_cast<std::uint16_t>(names.size() - 1);
    };
    if (to.empty()) to.assign(n, number_of({}));
    if (more.empty()) {
        to.resize(n + m, number_of({}));
        return;
    }
    std::vector<std::uint16_t> renumbered;
    for (const Named& name : more_names) renumbered.push_back(number_of(name));
    for (const std::uint16_t k : more) to.push_back(renumbered[k]);
}

// A texture goes on beyond its picture by beginning anew.
double inside(double u) {
    const double f = u - std::floor(u);
    return f == 0 && u > 0 ? 1 : f;
}

}  // namespace

Attributes part_of(const Attributes& a, std::span<const std::uint32_t> triangles) {
    Attributes out;
    take(out.colours, a.colours, triangles);
    take(out.normals, a.normals, triangles);
    take(out.texture, a.texture, triangles);
    take(out.group, a.group, triangles);
    take(out.material, a.material, triangles);
    out.groups = a.groups;
    out.materials = a.materials;
    return out;
}

void append(Attributes& to, std::size_t n, const Attributes& more, std::size_t m) {
    add(to.colours, n, more.colours, m, {kWhite, kWhite, kWhite});
    add(to.normals, n, more.normals, m, {});
    add(to.texture, n, more.texture, m, {});
    add_named(to.group, to.groups, n, more.group, more.groups, m,
              [](const std::string& a, const std::string& b) { return a == b; });
    add_named(to.material, to.materials, n, more.material, more.materials, m,
              [](const Material& a, const Material& b) {
                  return a.name == b.name && a.colour == b.colour && a.image_name == b.image_name &&
                         (a.image == b.image || (a.image && b.image && *a.image == *b.image));
              });
}

std::uint32_t mixed(const std::array<std::uint32_t, 3>& c, const std::array<double, 3>& at) {
    std::uint32_t out = 0;
    for (int shift = 0; shift < 24; shift += 8) {
        double sum = 0;
        for (std::size_t k = 0; k < 3; ++k) sum += at[k] * static_cast<double>((c[k] >> shift) & 255u);
        out |= static_cast<std::uint32_t>(std::clamp(std::lround(sum), 0L, 255L)) << shift;
    }
    return out;
}

std::uint32_t colour_at(const Attributes& a, std::size_t t, const std::array<double, 3>& at, double spot) {
    const Material* material = a.material.empty() ? nullptr : &a.materials[a.material[t]];
    if (material && material->picture && !a.texture.empty()) {
        const Mipmap& picture = *material->picture;
        double u = 0, v = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            u += at[k] * static_cast<double>(a.texture[t][k][0]);
            v += at[k] * static_cast<double>(a.texture[t][k][1]);
        }
        const double column = std::min(inside(u) * picture.width(), picture.width() - 0.5),
                     row = std::clamp((1 - inside(v)) * picture.height(), 0.0, picture.height() - 0.5);
        const std::uint32_t c =
            picture.colour(column, row, spot * std::max(picture.width(), picture.height()));
        if (c >> 24 != 0) return c & kWhite;
    }
    if (!a.colours.empty()) return mixed(a.colours[t], at);
    return material ? material->colour : kWhite;
}

}  // namespace pristine::mesh
