#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/io/keep.h"
#include "core/io/reference/remark.h"
#include "core/io/text/text.h"

namespace pristine::io {
namespace {

using cloud::Field;
using cloud::RecordLayout;

bool ends_with(const std::string& s, const char* end) {
    return s.size() >= std::char_traits<char>::length(end) && s.ends_with(end);
}

// Digits after the point that a scaled integer needs: 0.001 needs three.
int decimals_of_scale(double scale) {
    for (int d = 0; d <= 12; ++d) {
        const double whole = std::fabs(scale) * std::pow(10.0, d);
        if (whole > 0.5 && std::fabs(whole - std::nearbyint(whole)) < 1e-6) return d;
    }
    return -1;
}

int decimals_of(const Field& f) {
    if (f.decimals >= 0) return f.decimals;
    const bool integer = f.type != cloud::FieldType::F32 && f.type != cloud::FieldType::F64;
    return integer ? decimals_of_scale(f.scale) : -1;
}

void append_number(std::string& line, double v, int decimals, bool decimal_comma, bool single) {
    const std::size_t at = line.size();
    if (decimals >= 0 && std::isfinite(v))
        fmt::format_to(std::back_inserter(line), "{:.{}f}", v, decimals);
    else if (single)
        fmt::format_to(std::back_inserter(line), "{}", static_cast<float>(v));
    else
        fmt::format_to(std::back_inserter(line), "{}", v);
    if (decimal_comma) std::replace(line.begin() + static_cast<std::ptrdiff_t>(at), line.end(), '.', ',');
}

// As it came; in quotes where it would end its column, and a dash where blanks part columns and it is empty.
void append_word(std::string& line, const std::string& word, char separator) {
    const bool apart =
        separator == ' ' ? word.find(' ') != std::string::npos : word.find(separator) != std::string::npos;
    if (word.empty() && separator == ' ')
        line += '-';
    else
        line += apart ? '"' + word + '"' : word;
}

struct Style {
    char separator = ' ';
    bool decimal_comma = false;
    std::string head;
};

Style style_for(const RecordLayout& layout, const std::string& target) {
    if (layout.format == "text" && layout.head.size() >= 2)
        return {layout.head[0], layout.head[1] == ',', layout.head.substr(2)};
    Style s;
    const bool csv = ends_with(target, ".csv") || ends_with(target, ".CSV");
    s.separator = csv ? ',' : ' ';
    s.head = csv ? "" : "# ";
    for (std::size_t i = 0; i < layout.fields.size(); ++i)
        s.head += (i ? std::string(1, s.separator) : "") + layout.fields[i].name;
    s.head += '\n';
    return s;
}

}  // namespace

std::uint64_t write_text(const std::vector<WriteItem>& items, OutputFile& out, const WriteOptions&,
                         Progress& progress) {
    if (items.empty()) throw Error(ErrorCode::Usage, "There is nothing to write");
    progress.stretch(0, 1, "Writing points");
    const RecordLayout first = layout_of(items.front());
    const Style style = style_for(first, out.target().string());
    // What a comment can say of unit and system; commas alone have no comments.
    if (style.head.rfind("#", 0) == 0 && first.format != "text")
        for (const std::string& line : reference_remarks(items.front().cloud->reference()))
            out.write("# " + line + "\n");
    out.write(style.head);
    std::uint64_t written = 0;
    std::string text;
    const double share = 1.0 / static_cast<double>(items.size());
    for (std::size_t k = 0; k < items.size(); ++k) {
        const RecordLayout layout = layout_of(items[k]);
        std::vector<const Field*>
            columns;  // those of the first cloud; a column that is missing here is written as 0
        std::vector<int> decimals;
        for (const Field& f : first.fields) {
            columns.push_back(layout.find(f.name));
            decimals.push_back(columns.back() ? decimals_of(*columns.back()) : 0);
        }
        for_kept_records(items[k], progress, static_cast<double>(k) * share,
                         static_cast<double>(k + 1) * share, [&](const std::byte* records, std::size_t n) {
                             text.clear();
                             for (std::size_t i = 0; i < n; ++i) {
                                 for (std::size_t c = 0; c < columns.size(); ++c) {
                                     if (c) text += style.separator;
                                     const double v =
                                         columns[c] ? value(*columns[c], records + i * layout.record_bytes)
                                                    : 0;
                                     if (columns[c] && columns[c]->words) {
                                         append_word(text, word_of(*columns[c], v), style.separator);
                                         continue;
                                     }
                                     append_number(text, v, decimals[c], style.decimal_comma,
                                                   columns[c] && columns[c]->type == cloud::FieldType::F32);
                                 }
                                 text += '\n';
                             }
                             out.write(text);
                             written += n;
                         });
    }
    return written;
}

}  // namespace pristine::io
