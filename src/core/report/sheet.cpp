#include "core/report/sheet.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/base/figure.h"
#include "core/base/output.h"
#include "core/base/units.h"
#include "core/io/ending.h"
#include "core/io/grid/picture.h"
#include "core/io/lines/ogr_writer.h"
#include "core/io/reference/system.h"
#include "core/report/parts/context.h"

namespace pristine::report {
namespace {

constexpr double kBlock = 24, kInner = 4;  // mm: height of the title block, from the frame to the figure

struct Field {
    std::string name, value;
    double share = 1;
};

std::string reference_words(const site::Site& s) {
    const cloud::Reference r = site::reference_of(s);
    const std::string unit = r.unit.empty()       ? "unit not set"
                             : r.unit == kDegrees ? "degrees"
                                                  : length_unit(r.unit).title;
    if (r.crs.empty()) return "no reference system stated, " + unit;
    const io::System system = io::system_of(r.crs);
    return (system.name.empty()   ? std::string("system not understood")
            : system.code.empty() ? system.name
                                  : system.code) +
           ", " + unit;
}

// Two rows of fields; words that are too long are set smaller, then cut with a sign that they are.
void field(Drawing& d, const Field& f, double x, double y, double width, double height) {
    d.frame(x, y, width, height, 0.18);
    d.text({x + 1.5, y + 3}, f.name, 6, Anchor::Left, kSecondInk);
    double size = 9;
    while (size > 6 && width_of({{f.value, false}}, size) > width - 3) size -= 0.5;
    auto lines = wrapped({{f.value, false}}, size, width - 3);
    const double step = line_height(size);
    const auto room = static_cast<std::size_t>(std::max(1.0, std::floor((height - 4) / step)));
    if (lines.size() > room) {
        lines.resize(room);
        lines.back().push_back({"\u2026", false});
    }
    double at = y + 3.6 + ascent(size);
    for (auto& line : lines) {
        Text t;
        t.at = {x + 1.5, at};
        t.runs = line;
        t.size = size;
        d.shapes.emplace_back(std::move(t));
        at += step;
    }
}

class Framer {
  public:
    Framer(const Material& m, const SheetSetup& setup) : m_(m), setup_(setup), size_(sheet_of(setup.page)) {
        const PageForm& p = setup.page;
        x_ = p.left;
        y_ = p.top;
        width_ = size_.x - p.left - p.right;
        height_ = size_.y - p.top - p.bottom;
    }

    Spot room() const { return {width_ - 2 * kInner, height_ - kBlock - 2 * kInner - 5}; }

    Sheet sheet(const Figure& f, std::size_t k, std::size_t count) const {
        Sheet s;
        s.drawing.width = size_.x;
        s.drawing.height = size_.y;
        s.scale = f.scale;
        s.ground = f.ground;
        const Spot r = room();
        const Drawing& figure = f.drawings.front();
        s.x = x_ + kInner + std::max(0.0, (r.x - figure.width) / 2);
        s.y = y_ + kInner;
        s.drawing.put(figure, s.x, s.y);
        if (s.ground) s.ground->x += s.x, s.ground->y += s.y;
        const auto words = wrapped({{f.caption, false}}, 7.5, r.x);
        Text t;
        t.at = {x_ + kInner, y_ + height_ - kBlock - 2.5};
        t.runs = words.front();
        t.size = 7.5;
        t.ink = kSecondInk;
        s.drawing.shapes.emplace_back(std::move(t));
        s.drawing.frame(x_, y_, width_, height_, 0.5);
        block(s, k, count);
        return s;
    }

  private:
    void block(Sheet& s, std::size_t k, std::size_t count) const {
        Drawing& d = s.drawing;
        const double top = y_ + height_ - kBlock;
        d.line({x_, top}, {x_ + width_, top}, 0.5);
        const std::string scale = s.scale > 0 ? "1 : " + figure(s.scale, 0) : "not to scale";
        std::string number = setup_.number;
        if (count > 1) number += fmt::format("{}{} of {}", number.empty() ? "" : ", ", k + 1, count);
        const std::vector<std::vector<Field>> rows{
            {{"Title", setup_.title, 3},
             {"Site", m_.site->name + (setup_.place.empty() ? "" : ", " + setup_.place), 3},
             {"Scale", scale, 1.3},
             {"Sheet", number, 1.2}},
            {{"Office", setup_.office, 2},
             {"Client", setup_.client, 2},
             {"Drawn by", setup_.surveyor, 1.6},
             {"Date", m_.date, 1.1},
             {"Reference", reference_words(*m_.site), 2.6}}};
        double logo = 0;
        if (!setup_.logo.empty()) {
            const auto image = io::decode_picture(setup_.logo, "logo");
            const double high = kBlock - 4,
                         wide = std::min(50.0, high * image->width() / std::max(1, image->height()));
            d.shapes.emplace_back(
                Placed{std::make_shared<const Image>(Image{image->width(), image->height(), image->pixels()}),
                       x_ + 2, top + 2, wide, high});
            logo = wide + 4;
        }
        for (std::size_t r = 0; r < rows.size(); ++r) {
            double all = 0, x = x_ + logo;
            for (const Field& f : rows[r]) all += f.share;
            for (const Field& f : rows[r]) {
                const double wide = (width_ - logo) * f.share / all;
                field(d, f, x, top + static_cast<double>(r) * kBlock / 2, wide, kBlock / 2);
                x += wide;
            }
        }
        d.text({x_ + width_, y_ + height_ + 3.5}, m_.program, 5.5, Anchor::Right, kSecondInk);
    }

    const Material& m_;
    const SheetSetup& setup_;
    Spot size_;
    double x_ = 0, y_ = 0, width_ = 0, height_ = 0;
};

// Paper to the world, or to metres on the ground.
class ToWorld {
  public:
    ToWorld(const Sheet& s, double metres_per_unit) {
        if (s.ground) {
            at_ = *s.ground;
        } else {
            at_.mm_per_unit = s.scale > 0 ? 1000 * metres_per_unit / s.scale : 1000 * metres_per_unit;
        }
    }
    Vec3 operator()(const Spot& p) const {
        return {at_.east + (p.x - at_.x) / at_.mm_per_unit, at_.north - (p.y - at_.y) / at_.mm_per_unit, 0};
    }
    double length(double mm) const { return mm / at_.mm_per_unit; }

  private:
    Ground at_;
};

void add_features(const Path& p, const ToWorld& to, std::vector<io::MapFeature>& out) {
    if (p.layer == "paper") return;
    for (const auto& ring : p.rings) {
        if (ring.size() < 2) continue;
        io::MapFeature f;
        f.layer = p.layer.empty() ? "frame" : p.layer;
        for (const Spot& s : ring) f.points.push_back(to(s));
        if (p.closed) f.points.push_back(f.points.front());
        out.push_back(std::move(f));
    }
}
void add_features(const Text& t, const ToWorld& to, std::vector<io::MapFeature>& out) {
    io::MapFeature f;
    f.shape = io::MapFeature::Shape::Point;
    f.layer = t.layer.empty() ? "words" : t.layer;
    for (const Run& r : t.runs) f.label += r.text;
    Spot at = t.at;
    // The place of a text is its lower left.
    if (t.anchor != Anchor::Left) {
        const double wide = width_of(t.runs, t.size) * (t.anchor == Anchor::Right ? 1 : 0.5);
        at = {at.x - wide * std::cos(t.turned * M_PI / 180), at.y + wide * std::sin(t.turned * M_PI / 180)};
    }
    f.points = {to(at)};
    if (!f.label.empty()) out.push_back(std::move(f));
}
void add_features(const Placed&, const ToWorld&, std::vector<io::MapFeature>&) {}

void write_dxf(const Sheet& s, const std::filesystem::path& path, bool replace,
               const cloud::Reference& reference, double metres_per_unit) {
    const ToWorld to(s, metres_per_unit);
    std::vector<io::MapFeature> features;
    for (const Shape& shape : s.drawing.shapes)
        std::visit([&](const auto& what) { add_features(what, to, features); }, shape);
    io::write_features(features, {"sheet"}, path, replace, s.ground ? reference : cloud::Reference{},
                       to.length(2.2));
}

}  // namespace

const std::vector<std::string>& sheet_kinds() {
    static const std::vector<std::string> kinds{"plan", "view", "contours", "change", "sections", "tunnel"};
    return kinds;
}

std::vector<Sheet> sheets_of(const Material& m, const SheetSetup& setup, Progress& progress) {
    if (std::find(sheet_kinds().begin(), sheet_kinds().end(), setup.part.kind) == sheet_kinds().end())
        throw Error(ErrorCode::Usage, "'" + setup.part.kind + "' is no plan sheet", {},
                    fmt::format("There are: {}.", fmt::join(sheet_kinds(), ", ")));
    const Framer framer(m, setup);
    const Setup whole;
    Context c{m, whole, setup.part, framer.room(), progress, true};
    maker_of(setup.part.kind)(c);
    std::vector<Figure> figures;
    for (Block& b : c.blocks)
        if (auto* f = std::get_if<Figure>(&b)) figures.push_back(std::move(*f));
    if (figures.empty()) {
        std::string why;
        for (const Block& b : c.blocks)
            if (const auto* p = std::get_if<Paragraph>(&b)) why = p->runs.front().text;
        throw Error(ErrorCode::Empty,
                    "There is nothing to draw on the sheet" +
                        (why.empty() ? "" : ": " + why.substr(0, why.find_last_not_of('.') + 1)));
    }
    std::vector<Sheet> out;
    for (std::size_t k = 0; k < figures.size(); ++k)
        out.push_back(framer.sheet(figures[k], k, figures.size()));
    return out;
}

std::vector<std::filesystem::path> write_sheets(const std::vector<Sheet>& sheets, const PdfWords& words,
                                                const std::filesystem::path& path, bool replace,
                                                const cloud::Reference& reference, double metres_per_unit,
                                                double dpi) {
    const std::string ending = io::ending_of(path);
    std::vector<std::filesystem::path> written;
    if (ending == ".pdf") {
        std::vector<Drawing> pages;
        for (const Sheet& s : sheets) pages.push_back(s.drawing);
        OutputFile out(path, replace);
        out.write(pdf_of(pages, words));
        out.finish();
        return {path};
    }
    if (ending != ".svg" && ending != ".png" && ending != ".dxf")
        throw Error(ErrorCode::Usage, "A sheet is written as .pdf, .svg, .png or .dxf", path.string());
    for (std::size_t k = 0; k < sheets.size(); ++k) {
        std::filesystem::path own = path;
        if (sheets.size() > 1)
            own.replace_filename(
                fmt::format("{}-{}{}", path.stem().string(), k + 1, path.extension().string()));
        if (ending == ".dxf") {
            write_dxf(sheets[k], own, replace, reference, metres_per_unit);
        } else {
            OutputFile out(own, replace);
            out.write(ending == ".svg" ? svg_of(sheets[k].drawing)
                                       : png_of(image_of(sheets[k].drawing, dpi)));
            out.finish();
        }
        written.push_back(own);
    }
    return written;
}

}  // namespace pristine::report
