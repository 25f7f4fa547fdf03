// Lines as text: "x y" or "x y z" on each line of the file, an empty line between lines.

#include <algorithm>

#include "core/base/file.h"
#include "core/io/lines/line_sources.h"
#include "core/io/ptx/line_reader.h"

namespace pristine::io {

std::vector<MapLine> read_text_lines(const std::filesystem::path& path) {
    const InputFile file(path);
    LineReader reader(file);
    std::vector<MapLine> lines;
    std::string_view raw;
    bool gap = true;
    while (reader.next(raw)) {
        std::string text(raw.substr(0, raw.find('#')));
        std::replace_if(
            text.begin(), text.end(), [](char c) { return c == ',' || c == ';'; }, ' ');
        std::array<double, 3> v{};
        const int n = numbers_of(text, v);
        if (n == 0) {
            // A remark parts nothing.
            if (raw.find('#') == std::string_view::npos) gap = true;
            continue;
        }
        if (n != 2 && n != 3)
            throw Error(ErrorCode::Format, "A line does not hold two or three numbers", reader.place());
        if (gap) lines.emplace_back();
        gap = false;
        lines.back().points.push_back({v[0], v[1], n == 3 ? v[2] : 0});
    }
    return lines;
}

}  // namespace pristine::io
