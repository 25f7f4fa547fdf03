#include "core/report/pages.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/base/error.h"

namespace pristine::report {
namespace {

constexpr double kText = 9.5, kSmall = 8, kTable = 8, kHeading = 14, kTitle = 20;
constexpr double kHead = 11, kFoot = 9;  // mm that head and foot of a page take
constexpr double kGap = 3;               // between blocks
constexpr double kPad = 1.1;             // above and below the text of a row
constexpr Ink kRule = 0xD8CFBE, kWarn = 0xFFF3D6, kWarnBar = 0xE0A100;
constexpr double kPicture = 21;  // width of a picture in a table

double picture_height(const Cell& c) {
    return c.picture ? kPicture * c.picture->height / std::max(1, c.picture->width) : 0;
}

// Columns as wide as they need, the rest shared out; where there is not enough, those of words give way.
std::vector<double> widths_of(const Table& t, double room) {
    std::vector<double> need(t.columns.size(), 0), least(t.columns.size(), 8);
    for (std::size_t c = 0; c < t.columns.size(); ++c) {
        need[c] = 0;
        std::size_t looked = 0;
        for (const auto& row : t.rows) {
            const Cell& cell = row[c];
            if (++looked > 60 && !t.columns[c].figures) break;
            const double w = width_of({{cell.text, t.last_is_sum && &row == &t.rows.back()}}, kTable);
            need[c] = std::max(need[c], w + (cell.picture ? kPicture + 1.5 : 0));
        }
        need[c] += 2.5;
        // A word of the title is not broken.
        double word = 0;
        std::string each;
        for (const char ch : t.columns[c].title + " ") {
            if (ch != ' ') {
                each += ch;
                continue;
            }
            word = std::max(word, width_of({{each, false}}, kTable) + 2.5);
            each.clear();
        }
        need[c] = std::max(need[c], word);
        least[c] = t.columns[c].figures ? need[c] : std::max(word, std::min(need[c], 16.0));
    }
    double sum = 0, floor_sum = 0;
    for (std::size_t c = 0; c < need.size(); ++c) sum += need[c], floor_sum += least[c];
    std::vector<double> out(need);
    if (sum <= room) {
        const double more = (room - sum) / static_cast<double>(need.size());
        for (double& w : out) w += more;
        return out;
    }
    // What is left beyond the least is shared by how much each wants, long texts less than in proportion.
    double wish = 0;
    for (std::size_t c = 0; c < need.size(); ++c) wish += std::sqrt(need[c] - least[c]);
    const double left = std::max(0.0, room - floor_sum);
    for (std::size_t c = 0; c < need.size(); ++c)
        out[c] = least[c] + (wish > 0 ? left * std::sqrt(need[c] - least[c]) / wish : 0);
    double made = 0;
    for (const double w : out) made += w;
    if (made > room)
        for (double& w : out) w *= room / made;
    return out;
}

// One row ready to be drawn.
struct Row {
    std::vector<std::vector<std::vector<Run>>> lines;  // of each cell
    double height = 0;
};

class Setter {
  public:
    Setter(const Report& report, const PageForm& form, Progress& progress)
        : report_(report), form_(form), progress_(progress), sheet_(sheet_of(form)), room_(room_of(form)) {}

    Pages set() {
        numbers_ = first_numbers(report_);
        begin_page();
        title();
        for (std::size_t k = 0; k < report_.parts.size(); ++k) {
            progress_.advance(static_cast<double>(k) / static_cast<double>(report_.parts.size()));
            part(k);
        }
        heads_and_feet();
        return std::move(out_);
    }

  private:
    Drawing& page() { return out_.sheets.back(); }
    double left() const { return form_.left; }
    double bottom() const { return form_.top + kHead + room_.y; }
    bool fits(double height) const { return y_ + height <= bottom() + 1e-6; }
    bool at_top() const { return y_ <= form_.top + kHead + 1e-6; }

    void begin_page() {
        Drawing d;
        d.width = sheet_.x;
        d.height = sheet_.y;
        out_.sheets.push_back(std::move(d));
        y_ = form_.top + kHead;
    }

    void lines(const std::vector<std::vector<Run>>& all, double x, double size, Ink ink) {
        for (const auto& line : all) {
            if (!fits(line_height(size))) begin_page();
            Text t;
            t.at = {x, y_ + ascent(size)};
            t.runs = line;
            t.size = size;
            t.ink = ink;
            page().shapes.emplace_back(std::move(t));
            y_ += line_height(size);
        }
    }

    void title() {
        if (report_.logo && report_.logo->height > 0) {
            const double h = 14, w = std::min(60.0, h * report_.logo->width / report_.logo->height);
            page().shapes.emplace_back(Placed{report_.logo, left() + room_.x - w, y_, w, h});
        }
        lines(wrapped({{report_.title, true}}, kTitle, room_.x - 65), left(), kTitle, kInk);
        y_ += kGap;
        for (const std::string& w : report_.warnings)
            block(Paragraph{{{w, false}}, Paragraph::Kind::Warning});
    }

    void part(std::size_t k) {
        const Part& p = report_.parts[k];
        const double heading = line_height(kHeading);
        if (!at_top()) y_ += 2 * kGap;
        if (!fits(heading + kGap + need_of_first(p))) begin_page();
        out_.first_page.push_back(static_cast<int>(out_.sheets.size()));
        out_.first_y.push_back(y_);
        lines(wrapped({{numbered(k, p.title), true}}, kHeading, room_.x), left(), kHeading, kInk);
        y_ += kGap * 0.6;
        figure_ = numbers_[k].first;
        table_ = numbers_[k].second;
        for (std::size_t b = 0; b < p.blocks.size(); ++b) {
            keep_with_next(p, b);
            std::visit([&](const auto& what) { block(what); }, p.blocks[b]);
        }
    }

    // What introduces a table or a figure is not the last on its page.
    void keep_with_next(const Part& p, std::size_t b) {
        const auto* words = std::get_if<Paragraph>(&p.blocks[b]);
        if (!words || b == 0 || at_top() || b + 1 >= p.blocks.size()) return;
        const double own =
            static_cast<double>(wrapped(words->runs, kText, room_.x).size()) * line_height(kText) + kGap;
        double next = 0;
        if (std::holds_alternative<Table>(p.blocks[b + 1])) next = 5 * line_height(kTable) + 4 * kPad;
        if (const auto* f = std::get_if<Figure>(&p.blocks[b + 1])) next = height_of(fitted(*f));
        if (next > 0 && own + next < room_.y / 2 && !fits(own + next)) begin_page();
    }

    // What must stand below a heading on the same page.
    double need_of_first(const Part& p) const {
        if (p.blocks.empty()) return 0;
        if (const auto* f = std::get_if<Figure>(&p.blocks.front())) return height_of(fitted(*f));
        double need = 2 * line_height(kText);
        if (std::holds_alternative<Table>(p.blocks.front())) return 5 * line_height(kTable) + 4 * kPad;
        if (p.blocks.size() > 1 && std::holds_alternative<Table>(p.blocks[1]))
            need += 4 * line_height(kTable) + 4 * kPad;
        return need;
    }

    void block(const Paragraph& p) {
        const bool warn = p.kind == Paragraph::Kind::Warning;
        const double size = p.kind == Paragraph::Kind::Note ? kSmall : kText, indent = warn ? 4 : 0;
        const auto all = wrapped(p.runs, size, room_.x - 2 * indent);
        const double height = static_cast<double>(all.size()) * line_height(size);
        if (warn) {
            if (!fits(height + 4)) begin_page();
            page().rectangle(left(), y_, room_.x, height + 4, kWarn);
            page().rectangle(left(), y_, 1.2, height + 4, kWarnBar);
            y_ += 2;
        } else if (all.size() > 1 && !fits(2 * line_height(size))) {
            begin_page();  // no first line alone
        }
        lines(all, left() + indent, size, p.kind == Paragraph::Kind::Note ? kSecondInk : kInk);
        y_ += (warn ? 2 : 0) + kGap;
    }

    double height_of(const Figure& f) const {
        double width = 0, height = 0, row = 0;
        for (const Drawing& d : f.drawings) {
            if (width > 0 && width + kGap + d.width > room_.x + 1e-6) {
                height += row + kGap;
                width = row = 0;
            }
            width += (width > 0 ? kGap : 0) + d.width;
            row = std::max(row, d.height);
        }
        return height + row + 1 + caption_height(f.caption);
    }
    // With a heading above it a figure must find room on an empty page.
    double most_height() const { return room_.y - line_height(kHeading) * 2 - kGap; }

    // One that is larger than a page is reduced, and says so: its scale would be wrong.
    Figure fitted(const Figure& f) const {
        double factor = 1;
        for (const Drawing& d : f.drawings) factor = std::min(factor, room_.x / d.width);
        const double height = height_of(f);
        if (height > most_height())
            factor = std::min(factor, (most_height() - caption_height(f.caption) - 8) /
                                          (height - caption_height(f.caption)));
        if (factor >= 1) return f;
        Figure out = f;
        for (Drawing& d : out.drawings) d = scaled(d, factor);
        out.caption += fmt::format(" Reduced to {:.0f} %.", 100 * factor);
        return out;
    }
    double caption_height(const std::string& caption) const {
        return static_cast<double>(wrapped({{"Figure 00. " + caption, false}}, kSmall, room_.x).size()) *
               line_height(kSmall);
    }

    void block(const Figure& whole) {
        const Figure f = fitted(whole);
        const double height = height_of(f);
        if (!fits(height) && !at_top()) begin_page();
        double x = left(), row = 0;
        for (const Drawing& d : f.drawings) {
            if (x > left() && x + d.width > left() + room_.x + 1e-6) {
                y_ += row + kGap;
                x = left();
                row = 0;
            }
            page().put(d, x, y_);
            x += d.width + kGap;
            row = std::max(row, d.height);
        }
        y_ += row + 1;
        lines(wrapped({{fmt::format("Figure {}. ", figure_++), false}, {f.caption, false}}, kSmall, room_.x),
              left(), kSmall, kSecondInk);
        y_ += kGap;
    }

    static Row row_of(const Table& t, const std::vector<Cell>& cells, const std::vector<double>& widths,
                      bool bold) {
        Row r;
        for (std::size_t c = 0; c < t.columns.size(); ++c) {
            const double inner = std::max(4.0, widths[c] - 2 - (cells[c].picture ? kPicture + 1.5 : 0));
            r.lines.push_back(wrapped({{cells[c].text, bold}}, kTable, inner));
            r.height = std::max({r.height,
                                 static_cast<double>(r.lines.back().size()) * line_height(kTable) + 2 * kPad,
                                 picture_height(cells[c]) + 2 * kPad});
        }
        return r;
    }

    void draw_row(const Table& t, const std::vector<Cell>* cells, const Row& r,
                  const std::vector<double>& widths, Ink ink, double height, std::size_t from_line,
                  std::size_t to_line) {
        double x = left();
        for (std::size_t c = 0; c < t.columns.size(); ++c) {
            const bool picture = cells && (*cells)[c].picture && from_line == 0;
            if (picture)
                page().shapes.emplace_back(
                    Placed{(*cells)[c].picture, x + 1, y_ + kPad, kPicture, picture_height((*cells)[c])});
            for (std::size_t k = from_line; k < std::min(to_line, r.lines[c].size()); ++k) {
                Text text;
                text.runs = r.lines[c][k];
                text.size = kTable;
                text.ink = ink;
                text.anchor = t.columns[c].figures ? Anchor::Right : Anchor::Left;
                text.at = {
                    t.columns[c].figures ? x + widths[c] - 1 : x + 1 + (picture ? kPicture + 1.5 : 0),
                    y_ + kPad + ascent(kTable) + static_cast<double>(k - from_line) * line_height(kTable)};
                page().shapes.emplace_back(std::move(text));
            }
            x += widths[c];
        }
        y_ += height;
    }

    void block(const Table& t) {
        if (t.columns.empty()) return;
        const std::vector<double> widths = widths_of(t, room_.x);
        std::vector<Cell> titles;
        for (const Column& c : t.columns) titles.push_back({c.title});
        const Row head = row_of(t, titles, widths, false);
        const auto draw_head = [&] {
            draw_row(t, nullptr, head, widths, kSecondInk, head.height, 0, SIZE_MAX);
            page().line({left(), y_}, {left() + room_.x, y_}, 0.3);
        };
        const auto caption =
            wrapped({{fmt::format("Table {}. ", table_++), true}, {t.caption, false}}, kSmall, room_.x);
        const double first = t.rows.empty() ? 0 : row_of(t, t.rows.front(), widths, false).height;
        const double need = static_cast<double>(caption.size()) * line_height(kSmall) + head.height + first;
        if (!fits(std::min(need, room_.y))) begin_page();
        lines(caption, left(), kSmall, kSecondInk);
        y_ += 0.5;
        draw_head();
        for (std::size_t k = 0; k < t.rows.size(); ++k) {
            const bool sum = t.last_is_sum && k + 1 == t.rows.size();
            const Row r = row_of(t, t.rows[k], widths, sum);
            if (!fits(r.height)) {
                begin_page();
                draw_head();
            }
            if (sum) page().line({left(), y_}, {left() + room_.x, y_}, 0.3);
            if (fits(r.height))
                draw_row(t, &t.rows[k], r, widths, kInk, r.height, 0, SIZE_MAX);
            else
                draw_long(t, t.rows[k], r, widths, draw_head);
            if (!sum && k + 1 < t.rows.size() && !(t.last_is_sum && k + 2 == t.rows.size()))
                page().line({left(), y_}, {left() + room_.x, y_}, 0.15, kRule);
        }
        y_ += kGap * 1.3;
    }

    // Higher than a page: by lines.
    template <class Head>
    void draw_long(const Table& t, const std::vector<Cell>& cells, const Row& r,
                   const std::vector<double>& widths, const Head& draw_head) {
        std::size_t most = 0;
        for (const auto& l : r.lines) most = std::max(most, l.size());
        for (std::size_t from = 0; from < most;) {
            const auto here =
                static_cast<std::size_t>(std::max(1.0, (bottom() - y_ - 2 * kPad) / line_height(kTable)));
            const std::size_t to = std::min(most, from + here);
            draw_row(t, &cells, r, widths, kInk,
                     static_cast<double>(to - from) * line_height(kTable) + 2 * kPad, from, to);
            from = to;
            if (from < most) {
                begin_page();
                draw_head();
            }
        }
    }

    void heads_and_feet() {
        const int count = static_cast<int>(out_.sheets.size());
        const double right = left() + room_.x, foot = sheet_.y - form_.bottom;
        for (int k = 0; k < count; ++k) {
            Drawing& d = out_.sheets[static_cast<std::size_t>(k)];
            d.text({left(), form_.top + 4}, report_.office, kSmall, Anchor::Left, kInk, true);
            d.text({right, form_.top + 4}, report_.site, kSmall, Anchor::Right, kSecondInk);
            d.line({left(), form_.top + 6.5}, {right, form_.top + 6.5}, 0.3);
            d.line({left(), foot - 5}, {right, foot - 5}, 0.15, kRule);
            const std::string who =
                report_.surveyor.empty() ? report_.date : report_.surveyor + ", " + report_.date;
            d.text({left(), foot - 1}, who, kSmall, Anchor::Left, kSecondInk);
            d.text({right, foot - 1}, fmt::format("page {} of {}", k + 1, count), kSmall, Anchor::Right,
                   kSecondInk);
        }
    }

    const Report& report_;
    const PageForm& form_;
    Progress& progress_;
    Spot sheet_, room_;
    Pages out_;
    std::vector<std::pair<int, int>> numbers_;
    double y_ = 0;
    int figure_ = 1, table_ = 1;
};

}  // namespace

const std::vector<PageSize>& page_sizes() {
    static const std::vector<PageSize> sizes{
        {"A4", 210, 297},         {"A3", 297, 420},        {"A5", 148, 210},
        {"A2", 420, 594},         {"A1", 594, 841},        {"A0", 841, 1189},
        {"Letter", 215.9, 279.4}, {"Legal", 215.9, 355.6}, {"Tabloid", 279.4, 431.8}};
    return sizes;
}

Spot sheet_of(const PageForm& f) {
    const auto& sizes = page_sizes();
    const auto it =
        std::find_if(sizes.begin(), sizes.end(), [&](const PageSize& s) { return f.size == s.name; });
    if (it == sizes.end())
        throw Error(ErrorCode::Usage, "'" + f.size + "' is no size of paper that is known");
    const Spot sheet = f.landscape ? Spot{it->height, it->width} : Spot{it->width, it->height};
    const bool sound = f.left >= 0 && f.right >= 0 && f.top >= 0 && f.bottom >= 0;
    if (!sound || sheet.x - f.left - f.right < 60 || sheet.y - f.top - f.bottom - kHead - kFoot < 60)
        throw Error(ErrorCode::Usage, "The margins leave less than 60 mm of the page");
    return sheet;
}

Spot room_of(const PageForm& f) {
    const Spot sheet = sheet_of(f);
    return {sheet.x - f.left - f.right, sheet.y - f.top - f.bottom - kHead - kFoot};
}

Pages pages_of(const Report& report, const PageForm& form, Progress& progress) {
    return Setter(report, form, progress).set();
}

std::string pdf_of(const Report& report, const Pages& pages, Progress& progress) {
    PdfWords words{report.title, report.surveyor, report.site, report.program, {}};
    for (std::size_t k = 0; k < report.parts.size() && k < pages.first_page.size(); ++k)
        words.bookmarks.push_back({numbered(k, report.parts[k].title), pages.first_page[k]});
    return pdf_of(pages.sheets, words, progress);
}

}  // namespace pristine::report
