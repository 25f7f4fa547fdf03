#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "core/base/file.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/grid/grid_io.h"
#include "core/io/grid/grid_rows.h"

namespace pristine::io {
namespace {

constexpr std::uint32_t kNone = UINT32_MAX;

// The lattice of every `step`-th row and column, the last ones left over included in neither.
struct Lattice {
    int step, columns, rows;
    std::vector<double> z;
    double at(int i, int j) const {
        return z[static_cast<std::size_t>(j) * static_cast<std::size_t>(columns) +
                 static_cast<std::size_t>(i)];
    }
};

Lattice lattice_of(GridRows& rows, int step, std::uint64_t& valid, Progress& progress) {
    const GridFacts& s = rows.facts();
    Lattice l{step, (s.columns - 1) / step + 1, (s.rows - 1) / step + 1, {}};
    l.z.reserve(static_cast<std::size_t>(l.columns) * static_cast<std::size_t>(l.rows));
    std::vector<double> z;
    valid = 0;
    for (int j = 0; j < s.rows; ++j) {
        progress.advance(static_cast<double>(j) / s.rows);
        rows.next(z);
        for (const double v : z) valid += std::isfinite(v);
        if (j % step != 0) continue;
        for (int i = 0; i < l.columns; ++i) l.z.push_back(z[static_cast<std::size_t>(i * step)]);
    }
    return l;
}

// How a square is cut: along the diagonal whose ends differ less in height.
bool cut_down(double a, double b, double c, double d) {
    return std::fabs(a - d) <= std::fabs(b - c);
}

// Height inside a square of the lattice with corners a b (above) and c d (below), u and v in 0..1.
double height_in(double a, double b, double c, double d, double u, double v) {
    if (cut_down(a, b, c, d)) return u >= v ? a + (b - a) * u + (d - b) * v : a + (d - c) * u + (c - a) * v;
    return u + v <= 1 ? a + (b - a) * u + (c - a) * v : d + (c - d) * (1 - u) + (b - d) * (1 - v);
}

// Which squares hold heights all over, and how far the heights left out lie from their triangles.
double check_squares(GridRows& rows, const Lattice& l, std::vector<std::uint8_t>& whole, Progress& progress) {
    const GridFacts& s = rows.facts();
    whole.assign(static_cast<std::size_t>(l.columns) * static_cast<std::size_t>(l.rows), 1);
    std::vector<double> z;
    double worst = 0;
    for (int j = 0; j <= (l.rows - 1) * l.step; ++j) {
        progress.advance(static_cast<double>(j) / s.rows);
        rows.next(z);
        const int row = std::min(j / l.step, l.rows - 2);
        for (int i = 0; i <= (l.columns - 1) * l.step; ++i) {
            const int column = std::min(i / l.step, l.columns - 2);
            if (row < 0 || column < 0) continue;
            const double v = z[static_cast<std::size_t>(i)];
            if (!std::isfinite(v)) {
                // A height on the side of a square belongs to the squares on both sides of it.
                for (int r = j % l.step == 0 ? row - 1 : row; r <= row; ++r)
                    for (int c = i % l.step == 0 ? column - 1 : column; c <= column; ++c)
                        if (r >= 0 && c >= 0)
                            whole[static_cast<std::size_t>(r) * static_cast<std::size_t>(l.columns) +
                                  static_cast<std::size_t>(c)] = 0;
                continue;
            }
            const double a = l.at(column, row), b = l.at(column + 1, row), c = l.at(column, row + 1),
                         d = l.at(column + 1, row + 1);
            if (!std::isfinite(a + b + c + d)) continue;
            const double h = height_in(a, b, c, d, static_cast<double>(i - column * l.step) / l.step,
                                       static_cast<double>(j - row * l.step) / l.step);
            worst = std::max(worst, std::fabs(v - h));
        }
    }
    return worst;
}

mesh::TriMesh mesh_of(const GridFacts& s, const Lattice& l, const std::vector<std::uint8_t>* whole) {
    mesh::TriMesh m;
    std::vector<std::uint32_t> number(l.z.size(), kNone);
    for (int j = 0; j < l.rows; ++j)
        for (int i = 0; i < l.columns; ++i) {
            if (!std::isfinite(l.at(i, j))) continue;
            number[static_cast<std::size_t>(j) * static_cast<std::size_t>(l.columns) +
                   static_cast<std::size_t>(i)] = static_cast<std::uint32_t>(m.vertices.size());
            m.vertices.push_back(s.middle(i * l.step, j * l.step, l.at(i, j)));
        }
    const bool mirrored = s.mirrored();
    const auto add = [&](std::uint32_t p, std::uint32_t q, std::uint32_t r) {
        if (mirrored) std::swap(q, r);  // rows run southwards: seen from above the corners turn the other way
        m.triangles.push_back({p, q, r});
    };
    for (int j = 0; j + 1 < l.rows; ++j)
        for (int i = 0; i + 1 < l.columns; ++i) {
            const std::size_t at = static_cast<std::size_t>(j) * static_cast<std::size_t>(l.columns) +
                                   static_cast<std::size_t>(i),
                              below = at + static_cast<std::size_t>(l.columns);
            const std::uint32_t a = number[at], b = number[at + 1], c = number[below], d = number[below + 1];
            if (a == kNone || b == kNone || c == kNone || d == kNone || (whole && !(*whole)[at])) continue;
            if (cut_down(l.z[at], l.z[at + 1], l.z[below], l.z[below + 1])) {
                add(a, b, d);
                add(a, d, c);
            } else {
                add(a, b, c);
                add(b, d, c);
            }
        }
    return m;
}

std::uint64_t cells_at(const GridFacts& s, int step) {
    return (static_cast<std::uint64_t>(s.columns - 1) / static_cast<std::uint64_t>(step) + 1) *
           (static_cast<std::uint64_t>(s.rows - 1) / static_cast<std::uint64_t>(step) + 1);
}

bool begins_as_ascii_grid(const std::filesystem::path& path) {
    try {
        const InputFile file(path);
        std::string head = file.read_string(0, std::min<std::uint64_t>(file.size(), 64));
        std::transform(head.begin(), head.end(), head.begin(),
                       [](unsigned char c) { return std::tolower(c); });
        const std::size_t from = head.find_first_not_of(" \t\r\n");
        return from != std::string::npos &&
               (head.compare(from, 5, "ncols") == 0 || head.compare(from, 5, "nrows") == 0);
    } catch (const Error&) {
        return false;
    }
}

}  // namespace

bool is_grid_ending(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    return e == ".tif" || e == ".tiff" || e == ".asc";
}

bool is_grid_file(const std::filesystem::path& path) {
    return is_grid_ending(path) && (ending_of(path) != ".asc" || begins_as_ascii_grid(path));
}

bool is_picture(const std::filesystem::path& path) {
    const std::string e = ending_of(path);
    if (e != ".tif" && e != ".tiff") return false;
    try {
        return open_grid(path)->facts().picture;
    } catch (const Error&) {
        return false;
    }
}

namespace {

std::unique_ptr<GridRows> open_heights(const std::filesystem::path& path) {
    const InputFile there(path);  // a clear word when it is missing
    auto rows = open_grid(path);
    if (rows->facts().picture)
        throw Error(ErrorCode::Unsupported, "The file is a picture, not a grid of heights",
                    path.filename().string(), "Drape it on a surface as an orthophoto.");
    return rows;
}

}  // namespace

GridShape shape_of_grid(const std::filesystem::path& path) {
    const auto rows = open_heights(path);
    const GridFacts& s = rows->facts();
    return {s.columns, s.rows, s.reference};
}

HeightGrid read_height_grid(const std::filesystem::path& path, const GridReading& options,
                            Progress& progress) {
    const auto rows = open_heights(path);
    const GridFacts& s = rows->facts();
    HeightGrid g;
    g.reference = s.reference;
    g.format = s.format;
    g.columns = s.columns;
    g.rows = s.rows;
    int step = 1;
    while (cells_at(s, step) > options.most_cells) ++step;
    if (step > 1 && (s.columns / step < 2 || s.rows / step < 2))
        throw Error(ErrorCode::Unsupported, "The grid has too many cells in one row or column to be thinned",
                    path.filename().string());
    Lattice l = lattice_of(*rows, step, g.valid, progress);
    std::vector<std::uint8_t> whole;
    if (step > 1) g.error = check_squares(*open_heights(path), l, whole, progress);
    // Doubled while the error is still within what was asked for.
    while (options.max_error > 0 && g.error <= options.max_error && s.columns / (2 * step) >= 2 &&
           s.rows / (2 * step) >= 2) {
        std::uint64_t valid = 0;
        std::vector<std::uint8_t> coarser;
        Lattice next = lattice_of(*open_heights(path), 2 * step, valid, progress);
        const double error = check_squares(*open_heights(path), next, coarser, progress);
        if (error > options.max_error) break;
        step *= 2;
        l = std::move(next);
        whole = std::move(coarser);
        g.error = error;
    }
    g.step = step;
    g.mesh = mesh_of(s, l, step > 1 ? &whole : nullptr);
    if (g.valid == 0)
        throw Error(ErrorCode::Format, "No cell of the grid holds a height", path.filename().string());
    if (step > 1)
        g.warnings.push_back(fmt::format(
            "The grid of {} x {} cells was thinned: of {} rows and columns one was taken. Heights lie at "
            "most "
            "{:.3g} {} "
            "from those of the file; along gaps and at the edge up to {} cells are missing.",
            s.columns, s.rows, step, g.error,
            g.reference.unit.empty()
                ? "units"
                : length_unit(g.reference.height_unit.empty() ? g.reference.unit : g.reference.height_unit)
                      .symbol,
            step - 1));
    return g;
}

std::vector<Vec3> read_grid(const std::filesystem::path& path, Progress& progress) {
    const auto rows = open_heights(path);
    const GridFacts& s = rows->facts();
    std::vector<double> z;
    std::vector<Vec3> points;
    for (int j = 0; j < s.rows; ++j) {
        progress.check();
        rows->next(z);
        for (int i = 0; i < s.columns; ++i)
            if (const double v = z[static_cast<std::size_t>(i)]; std::isfinite(v))
                points.push_back(s.middle(i, j, v));
    }
    return points;
}

}  // namespace pristine::io
