#include "core/io/foreign/line_answer.h"

#include "core/io/foreign/answer_bytes.h"

namespace pristine::io {
constexpr std::uint8_t kNoRole = 255;  // the file says none

std::string bytes_of(const std::vector<MapLine>& lines) {
    std::string out;
    for (const MapLine& l : lines) {
        append_text(out, l.layer);
        append_le(out, static_cast<std::uint8_t>(l.closed));
        append_le(out, l.role ? static_cast<std::uint8_t>(*l.role) : kNoRole);
        append_le(out, static_cast<std::uint64_t>(l.points.size()));
        for (const Vec3& p : l.points)
            for (int k = 0; k < 3; ++k) append_le(out, p[k]);
    }
    return out;
}

std::vector<MapLine> lines_from(const std::string& bytes) {
    AnswerBytes in(bytes);
    std::vector<MapLine> lines;
    while (!in.at_end()) {
        MapLine l;
        l.layer = in.text();
        l.closed = in.number<std::uint8_t>() != 0;
        const auto role = in.number<std::uint8_t>();
        if (role != kNoRole && role >= kLineRoles)
            throw Error(ErrorCode::Format, "A reader broke off in its answer");
        if (role != kNoRole) l.role = static_cast<LineRole>(role);
        const auto n = in.number<std::uint64_t>();
        if (n > bytes.size() / 24) throw Error(ErrorCode::Format, "A reader broke off in its answer");
        for (std::uint64_t i = 0; i < n; ++i) {
            Vec3 p;
            for (int k = 0; k < 3; ++k) p[k] = in.number<double>();
            l.points.push_back(p);
        }
        lines.push_back(std::move(l));
    }
    return lines;
}

std::string bytes_of(const cloud::Reference& r) {
    std::string out;
    for (const std::string* s : {&r.crs, &r.unit, &r.height_unit}) append_text(out, *s);
    return out;
}

cloud::Reference reference_from(const std::string& bytes) {
    AnswerBytes in(bytes);
    cloud::Reference r;
    for (std::string* s : {&r.crs, &r.unit, &r.height_unit}) *s = in.text();
    return r;
}

}  // namespace pristine::io
