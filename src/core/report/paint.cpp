#include "core/report/paint.h"

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <pango/pangocairo.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>

#include "core/base/error.h"

namespace pristine::report {
namespace {

constexpr const char* kFamily = "DejaVu Sans";

template <class T, void (*free_it)(T*)>
struct Freed {
    void operator()(T* p) const { free_it(p); }
};
using Surface = std::unique_ptr<cairo_surface_t, Freed<cairo_surface_t, cairo_surface_destroy>>;
using CairoContext = std::unique_ptr<cairo_t, Freed<cairo_t, cairo_destroy>>;
using Font = std::unique_ptr<PangoFontDescription, Freed<PangoFontDescription, pango_font_description_free>>;
struct Unref {
    void operator()(void* p) const { g_object_unref(p); }
};
using Layout = std::unique_ptr<PangoLayout, Unref>;

void check(cairo_status_t status) {
    if (status == CAIRO_STATUS_NO_MEMORY) throw std::bad_alloc();
    if (status != CAIRO_STATUS_SUCCESS)
        throw Error(ErrorCode::Io,
                    std::string("The page could not be drawn: ") + cairo_status_to_string(status));
}

cairo_status_t append(void* closure, const unsigned char* data, unsigned int length) {
    try {
        static_cast<std::string*>(closure)->append(reinterpret_cast<const char*>(data), length);
    } catch (const std::bad_alloc&) {
        return CAIRO_STATUS_NO_MEMORY;
    }
    return CAIRO_STATUS_SUCCESS;
}

std::string joined(const std::vector<Run>& runs) {
    std::string all;
    for (const Run& r : runs) all += r.text;
    return all;
}

// Sizes are taken as points of 1/72 inch with hinting off, so that a page is the same at every resolution.
Layout layout_of(PangoContext* context, const std::vector<Run>& runs, double points) {
    Layout layout(pango_layout_new(context));
    const Font font(pango_font_description_new());
    pango_font_description_set_family(font.get(), kFamily);
    pango_font_description_set_absolute_size(font.get(), points * PANGO_SCALE);
    pango_layout_set_font_description(layout.get(), font.get());
    const std::string text = joined(runs);
    pango_layout_set_text(layout.get(), text.c_str(), static_cast<int>(text.size()));
    PangoAttrList* attributes = pango_attr_list_new();
    std::size_t from = 0;
    for (const Run& r : runs) {
        if (r.bold) {
            PangoAttribute* bold = pango_attr_weight_new(PANGO_WEIGHT_BOLD);
            bold->start_index = static_cast<guint>(from);
            bold->end_index = static_cast<guint>(from + r.text.size());
            pango_attr_list_insert(attributes, bold);
        }
        from += r.text.size();
    }
    pango_layout_set_attributes(layout.get(), attributes);
    pango_attr_list_unref(attributes);
    return layout;
}

// For measuring, without any page: one a thread, since Pango's objects are for one thread.
PangoContext* measuring_context() {
    struct Holder {
        Surface surface{cairo_image_surface_create(CAIRO_FORMAT_A8, 1, 1)};
        CairoContext cairo{cairo_create(surface.get())};
        std::unique_ptr<PangoContext, Unref> context{pango_cairo_create_context(cairo.get())};
        Holder() {
            cairo_font_options_t* options = cairo_font_options_create();
            cairo_font_options_set_hint_style(options, CAIRO_HINT_STYLE_NONE);
            cairo_font_options_set_hint_metrics(options, CAIRO_HINT_METRICS_OFF);
            pango_cairo_context_set_font_options(context.get(), options);
            cairo_font_options_destroy(options);
        }
    };
    thread_local const Holder holder;
    return holder.context.get();
}

double to_mm(int pango_units) {
    return pango_units / static_cast<double>(PANGO_SCALE) * kMmPerPoint;
}

// The runs of a stretch of bytes, without the spaces at its end.
std::vector<Run> runs_between(const std::vector<Run>& runs, std::size_t from, std::size_t to) {
    std::vector<Run> out;
    std::size_t at = 0;
    for (const Run& r : runs) {
        const std::size_t a = std::max(from, at), b = std::min(to, at + r.text.size());
        if (a < b) out.push_back({r.text.substr(a - at, b - a), r.bold});
        at += r.text.size();
    }
    while (!out.empty()) {
        std::string& last = out.back().text;
        while (!last.empty() && (last.back() == ' ' || last.back() == '\n')) last.pop_back();
        if (!last.empty()) break;
        out.pop_back();
    }
    return out;
}

// Draws in millimetres.
class Painter {
  public:
    explicit Painter(cairo_t* cairo) : cairo_(cairo) {
        cairo_font_options_t* options = cairo_font_options_create();
        cairo_font_options_set_hint_style(options, CAIRO_HINT_STYLE_NONE);
        cairo_font_options_set_hint_metrics(options, CAIRO_HINT_METRICS_OFF);
        cairo_set_font_options(cairo_, options);
        cairo_font_options_destroy(options);
    }

    void draw(const Drawing& d) {
        for (const Shape& s : d.shapes) std::visit([&](const auto& shape) { draw_shape(shape); }, s);
        check(cairo_status(cairo_));
    }

  private:
    void ink(Ink c, double opacity = 1) {
        cairo_set_source_rgba(cairo_, (c >> 16 & 255) / 255.0, (c >> 8 & 255) / 255.0, (c & 255) / 255.0,
                              opacity);
    }

    void draw_shape(const Path& p) {
        for (const auto& ring : p.rings) {
            if (ring.empty()) continue;
            cairo_new_sub_path(cairo_);
            for (const Spot& s : ring) cairo_line_to(cairo_, s.x, s.y);
            if (p.closed) cairo_close_path(cairo_);
        }
        if (p.filled) {
            ink(p.fill, p.opacity);
            cairo_set_fill_rule(cairo_, CAIRO_FILL_RULE_EVEN_ODD);
            cairo_fill_preserve(cairo_);
        }
        if (p.width > 0) {
            ink(p.stroke);
            cairo_set_line_width(cairo_, p.width);
            cairo_set_line_join(cairo_, CAIRO_LINE_JOIN_ROUND);
            cairo_set_line_cap(cairo_, p.dash.empty() ? CAIRO_LINE_CAP_ROUND : CAIRO_LINE_CAP_BUTT);
            cairo_set_dash(cairo_, p.dash.data(), static_cast<int>(p.dash.size()), 0);
            cairo_stroke_preserve(cairo_);
        }
        cairo_new_path(cairo_);
    }

    void draw_shape(const Text& t) {
        if (t.runs.empty()) return;
        cairo_save(cairo_);
        cairo_translate(cairo_, t.at.x, t.at.y);
        cairo_rotate(cairo_, -t.turned * std::numbers::pi / 180);
        cairo_scale(cairo_, kMmPerPoint, kMmPerPoint);
        PangoContext* context = pango_cairo_create_context(cairo_);
        const Layout layout = layout_of(context, t.runs, t.size);
        g_object_unref(context);
        PangoLayoutLine* line = pango_layout_get_line_readonly(layout.get(), 0);
        if (line) {
            PangoRectangle extents;
            pango_layout_line_get_extents(line, nullptr, &extents);
            const double wide = extents.width / static_cast<double>(PANGO_SCALE);
            const double x = t.anchor == Anchor::Left ? 0 : t.anchor == Anchor::Right ? -wide : -wide / 2;
            if (t.haloed) {
                cairo_move_to(cairo_, x, 0);
                pango_cairo_layout_line_path(cairo_, line);
                ink(kPaper);
                cairo_set_line_width(cairo_, t.size * 0.28);
                cairo_set_line_join(cairo_, CAIRO_LINE_JOIN_ROUND);
                cairo_set_dash(cairo_, nullptr, 0, 0);
                cairo_stroke(cairo_);
            }
            cairo_move_to(cairo_, x, 0);
            ink(t.ink);
            pango_cairo_show_layout_line(cairo_, line);
        }
        cairo_restore(cairo_);
    }

    void draw_shape(const Placed& p) {
        if (!p.image || p.image->width <= 0 || p.image->height <= 0) return;
        const Surface picture = as_surface(*p.image);
        cairo_save(cairo_);
        cairo_translate(cairo_, p.x, p.y);
        cairo_scale(cairo_, p.width / p.image->width, p.height / p.image->height);
        cairo_set_source_surface(cairo_, picture.get(), 0, 0);
        cairo_pattern_set_filter(cairo_get_source(cairo_), CAIRO_FILTER_GOOD);
        cairo_pattern_set_extend(cairo_get_source(cairo_), CAIRO_EXTEND_PAD);
        cairo_rectangle(cairo_, 0, 0, p.image->width, p.image->height);
        cairo_fill(cairo_);
        cairo_restore(cairo_);
    }

  public:
    // Cairo wants colours multiplied by their opacity.
    static Surface as_surface(const Image& image) {
        Surface s(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, image.width, image.height));
        check(cairo_surface_status(s.get()));
        cairo_surface_flush(s.get());
        const int stride = cairo_image_surface_get_stride(s.get());
        unsigned char* data = cairo_image_surface_get_data(s.get());
        for (int y = 0; y < image.height; ++y) {
            auto* row = reinterpret_cast<std::uint32_t*>(data + std::ptrdiff_t{y} * stride);
            const std::uint32_t* from =
                image.argb.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(image.width);
            for (int x = 0; x < image.width; ++x) {
                const std::uint32_t c = from[x], a = c >> 24;
                const auto part = [&](int shift) { return ((c >> shift & 255) * a + 127) / 255 << shift; };
                row[x] = a << 24 | part(16) | part(8) | part(0);
            }
        }
        cairo_surface_mark_dirty(s.get());
        return s;
    }

  private:
    cairo_t* cairo_;
};

}  // namespace

double width_of(const std::vector<Run>& runs, double points) {
    const Layout layout = layout_of(measuring_context(), runs, points);
    PangoRectangle extents;
    pango_layout_get_extents(layout.get(), nullptr, &extents);
    return to_mm(extents.width);
}

std::vector<std::vector<Run>> wrapped(const std::vector<Run>& runs, double points, double width) {
    const Layout layout = layout_of(measuring_context(), runs, points);
    pango_layout_set_width(layout.get(), std::max(1, static_cast<int>(width / kMmPerPoint * PANGO_SCALE)));
    pango_layout_set_wrap(layout.get(), PANGO_WRAP_WORD_CHAR);
    std::vector<std::vector<Run>> lines;
    const int count = pango_layout_get_line_count(layout.get());
    for (int k = 0; k < count; ++k) {
        const PangoLayoutLine* line = pango_layout_get_line_readonly(layout.get(), k);
        const auto from = static_cast<std::size_t>(line->start_index);
        lines.push_back(runs_between(runs, from, from + static_cast<std::size_t>(line->length)));
    }
    if (lines.empty()) lines.emplace_back();
    return lines;
}

double line_height(double points) {
    return points * 1.36 * kMmPerPoint;
}
double ascent(double points) {
    return points * 1.02 * kMmPerPoint;
}

std::string pdf_of(const std::vector<Drawing>& pages, const PdfWords& words, Progress& progress) {
    std::string bytes;
    {
        const Surface s(cairo_pdf_surface_create_for_stream(append, &bytes, 1, 1));
        check(cairo_surface_status(s.get()));
        cairo_pdf_surface_restrict_to_version(s.get(), CAIRO_PDF_VERSION_1_5);
        const auto say = [&](cairo_pdf_metadata_t key, const std::string& text) {
            if (!text.empty()) cairo_pdf_surface_set_metadata(s.get(), key, text.c_str());
        };
        say(CAIRO_PDF_METADATA_TITLE, words.title);
        say(CAIRO_PDF_METADATA_AUTHOR, words.author);
        say(CAIRO_PDF_METADATA_SUBJECT, words.subject);
        say(CAIRO_PDF_METADATA_CREATOR, words.creator);
        const CairoContext cairo(cairo_create(s.get()));
        for (std::size_t k = 0; k < pages.size(); ++k) {
            progress.advance(static_cast<double>(k) / static_cast<double>(pages.size()));
            cairo_pdf_surface_set_size(s.get(), pages[k].width / kMmPerPoint, pages[k].height / kMmPerPoint);
            cairo_identity_matrix(cairo.get());
            cairo_scale(cairo.get(), 1 / kMmPerPoint, 1 / kMmPerPoint);
            Painter(cairo.get()).draw(pages[k]);
            cairo_show_page(cairo.get());
        }
        for (const Bookmark& b : words.bookmarks)
            cairo_pdf_surface_add_outline(s.get(), CAIRO_PDF_OUTLINE_ROOT, b.title.c_str(),
                                          ("page=" + std::to_string(b.page)).c_str(),
                                          CAIRO_PDF_OUTLINE_FLAG_OPEN);
        cairo_surface_finish(s.get());
        check(cairo_surface_status(s.get()));
    }
    return bytes;
}

std::string svg_of(const Drawing& d) {
    std::string bytes;
    {
        const Surface s(cairo_svg_surface_create_for_stream(append, &bytes, d.width / kMmPerPoint,
                                                            d.height / kMmPerPoint));
        check(cairo_surface_status(s.get()));
        const CairoContext cairo(cairo_create(s.get()));
        cairo_scale(cairo.get(), 1 / kMmPerPoint, 1 / kMmPerPoint);
        Painter(cairo.get()).draw(d);
        cairo_surface_finish(s.get());
        check(cairo_surface_status(s.get()));
    }
    return bytes;
}

Image image_of(const Drawing& d, double dpi, bool clear) {
    Image out;
    out.width = pixels_for(d.width, dpi);
    out.height = pixels_for(d.height, dpi);
    const Surface s(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, out.width, out.height));
    check(cairo_surface_status(s.get()));
    {
        const CairoContext cairo(cairo_create(s.get()));
        if (!clear) {
            cairo_set_source_rgb(cairo.get(), 1, 1, 1);
            cairo_paint(cairo.get());
        }
        cairo_scale(cairo.get(), out.width / d.width, out.height / d.height);
        Painter(cairo.get()).draw(d);
    }
    cairo_surface_flush(s.get());
    const int stride = cairo_image_surface_get_stride(s.get());
    const unsigned char* data = cairo_image_surface_get_data(s.get());
    out.argb.reserve(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
    for (int y = 0; y < out.height; ++y) {
        const auto* row = reinterpret_cast<const std::uint32_t*>(data + std::ptrdiff_t{y} * stride);
        for (int x = 0; x < out.width; ++x) {
            const std::uint32_t c = row[x], a = c >> 24;
            const auto part = [&](int shift) {
                return std::min(255u, (c >> shift & 255) * 255 / a) << shift;
            };
            out.argb.push_back(a == 0 || a == 255 ? c : a << 24 | part(16) | part(8) | part(0));
        }
    }
    return out;
}

std::string png_of(const Image& image) {
    const Surface s = Painter::as_surface(image);
    std::string bytes;
    check(cairo_surface_write_to_png_stream(s.get(), append, &bytes));
    return bytes;
}

}  // namespace pristine::report
