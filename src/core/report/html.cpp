#include <fmt/format.h>
#include <glib.h>

#include "core/report/paint.h"
#include "core/report/report.h"

namespace pristine::report {

std::string escaped_html(const std::string& text) {
    std::string out;
    for (const char c : text) {
        if (c == '&')
            out += "&amp;";
        else if (c == '<')
            out += "&lt;";
        else if (c == '>')
            out += "&gt;";
        else if (c == '"')
            out += "&quot;";
        else
            out += c;
    }
    return out;
}

namespace {

// Paper and ink of the pages; one column on a phone, where wide tables are moved sideways by themselves.
constexpr const char* kStyle = R"(
:root{color-scheme:light}
body{font:16px/1.5 "DejaVu Sans",Verdana,sans-serif;color:#1D2733;background:#F4F1EA;margin:0}
main,header,footer{max-width:60rem;margin:0 auto;padding:0 1.25rem;background:#fff}
header{padding-top:1.5rem;border-bottom:2px solid #1D2733}
footer{padding-top:1rem;padding-bottom:2rem;color:#565B61;font-size:.85rem}
h1{font-size:1.6rem;line-height:1.25;margin:.5rem 0}
h2{font-size:1.2rem;margin:2.2rem 0 .6rem;border-top:1px solid #D8CFBE;padding-top:1rem}
.who{color:#565B61;margin:0 0 1rem}
nav ol{columns:2;padding-left:1.4rem;margin:1rem 0}
nav a{color:#1F5FA8}
.note{color:#565B61;font-size:.85rem}
.warn{background:#FFF3D6;border-left:4px solid #E0A100;padding:.5rem .75rem}
.wide{overflow-x:auto;margin:1rem 0}
table{border-collapse:collapse;font-size:.85rem;width:100%;font-variant-numeric:tabular-nums}
caption{text-align:left;color:#565B61;padding:.25rem 0}
th{font-weight:400;color:#565B61;text-align:left;border-bottom:2px solid #1D2733;vertical-align:bottom}
td{border-bottom:1px solid #D8CFBE;vertical-align:top}
th,td{padding:.3rem .5rem .3rem 0}
.n{text-align:right;white-space:nowrap}
tr.sum td{font-weight:700;border-top:2px solid #1D2733}
td img{width:5rem;height:auto;float:left;margin-right:.5rem}
figure{margin:1rem 0}
figure img{max-width:100%;height:auto}
figcaption{color:#565B61;font-size:.85rem}
.logo{float:right;max-height:4rem;max-width:14rem}
@media (max-width:40rem){nav ol{columns:1}body{font-size:15px}h1{font-size:1.35rem}}
@media print{body{background:#fff}.wide{overflow:visible}tr,figure{break-inside:avoid}}
)";

std::string base64(const std::string& bytes) {
    gchar* text = g_base64_encode(reinterpret_cast<const guchar*>(bytes.data()), bytes.size());
    std::string out(text);
    g_free(text);
    return out;
}

std::string picture(const Image& image, const std::string& alt, const char* kind = "") {
    return fmt::format("<img{} alt=\"{}\" src=\"data:image/png;base64,{}\">", kind, escaped_html(alt),
                       base64(png_of(image)));
}

bool holds_picture(const Drawing& d) {
    for (const Shape& s : d.shapes)
        if (std::holds_alternative<Placed>(s)) return true;
    return false;
}

// Drawings of lines stay sharp at any size; those with pictures in them would only grow.
std::string drawn(const Drawing& d, const std::string& alt) {
    if (holds_picture(d)) return picture(image_of(d, 130), alt);
    return fmt::format("<img alt=\"{}\" src=\"data:image/svg+xml;base64,{}\">", escaped_html(alt),
                       base64(svg_of(d)));
}

std::string words(const std::vector<Run>& runs) {
    std::string out;
    for (const Run& r : runs) {
        std::string text = escaped_html(r.text);
        for (std::size_t at = 0; (at = text.find('\n', at)) != std::string::npos; at += 4)
            text.replace(at, 1, "<br>");
        out += r.bold ? "<strong>" + text + "</strong>" : text;
    }
    return out;
}

class HtmlWriter {
  public:
    HtmlWriter(const Report& r, const std::string& before, const std::string& after)
        : report_(r), before_(before), after_(after), numbers_(first_numbers(r)) {}

    std::string write() {
        out_ =
            "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n"
            "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>" +
            escaped_html(report_.title) + "</title>\n<style>" + kStyle +
            "</style>\n</head>\n<body>\n<header>\n";
        if (report_.logo) out_ += picture(*report_.logo, report_.office, " class=\"logo\"");
        out_ += "<p class=\"who\">" + escaped_html(report_.office) + "</p>\n<h1>" +
                escaped_html(report_.title) + "</h1>\n";
        out_ +=
            "<p class=\"who\">" + escaped_html(report_.site) + ", " + escaped_html(report_.date) + "</p>\n";
        for (const std::string& w : report_.warnings)
            out_ += "<p class=\"warn\">" + escaped_html(w) + "</p>\n";
        if (report_.parts.size() > 2) contents();
        out_ += "</header>\n<main>\n" + before_;
        for (std::size_t k = 0; k < report_.parts.size(); ++k) part(k);
        out_ += "</main>\n<footer>" + escaped_html(report_.surveyor) +
                (report_.surveyor.empty() ? "" : ", ") + escaped_html(report_.date) + " · " +
                escaped_html(report_.program) + "</footer>\n" + after_ + "</body>\n</html>\n";
        return std::move(out_);
    }

  private:
    void contents() {
        out_ += "<nav aria-label=\"Parts\"><ol>\n";
        for (std::size_t k = 0; k < report_.parts.size(); ++k)
            out_ += fmt::format("<li><a href=\"#part{}\">{}</a></li>\n", k + 1,
                                escaped_html(report_.parts[k].title));
        out_ += "</ol></nav>\n";
    }

    void part(std::size_t k) {
        const Part& p = report_.parts[k];
        figure_ = numbers_[k].first;
        table_ = numbers_[k].second;
        out_ += fmt::format("<section aria-labelledby=\"part{0}\">\n<h2 id=\"part{0}\">{1}</h2>\n", k + 1,
                            escaped_html(numbered(k, p.title)));
        for (const Block& b : p.blocks) std::visit([&](const auto& what) { block(what); }, b);
        out_ += "</section>\n";
    }

    void block(const Paragraph& p) {
        const char* kind = p.kind == Paragraph::Kind::Note      ? " class=\"note\""
                           : p.kind == Paragraph::Kind::Warning ? " class=\"warn\""
                                                                : "";
        out_ += fmt::format("<p{}>{}</p>\n", kind, words(p.runs));
    }

    void block(const Figure& f) {
        out_ += "<figure>\n";
        for (const Drawing& d : f.drawings) out_ += drawn(d, f.alt) + "\n";
        out_ += fmt::format("<figcaption>Figure {}. {}</figcaption>\n</figure>\n", figure_++,
                            escaped_html(f.caption));
    }

    void block(const Table& t) {
        out_ += fmt::format(
            "<div class=\"wide\" role=\"region\" tabindex=\"0\" aria-label=\"{1}\">\n"
            "<table><caption><strong>Table {0}.</strong> {1}</caption>\n<thead><tr>",
            table_++, escaped_html(t.caption));
        for (const Column& c : t.columns)
            out_ += fmt::format("<th scope=\"col\"{}>{}</th>", c.figures ? " class=\"n\"" : "",
                                escaped_html(c.title));
        out_ += "</tr></thead>\n<tbody>\n";
        for (const auto& row : t.rows) {
            out_ += t.last_is_sum && &row == &t.rows.back() ? "<tr class=\"sum\">" : "<tr>";
            for (std::size_t c = 0; c < row.size(); ++c) {
                out_ += t.columns[c].figures ? "<td class=\"n\">" : "<td>";
                if (row[c].picture) out_ += picture(*row[c].picture, "");
                out_ += escaped_html(row[c].text) + "</td>";
            }
            out_ += "</tr>\n";
        }
        out_ += "</tbody></table></div>\n";
    }

    const Report& report_;
    const std::string &before_, &after_;
    std::vector<std::pair<int, int>> numbers_;
    std::string out_;
    int figure_ = 1, table_ = 1;
};

}  // namespace

std::string html_of(const Report& r, const std::string& before, const std::string& after) {
    return HtmlWriter(r, before, after).write();
}

}  // namespace pristine::report
