#include "core/io/foreign/point_answer.h"

#include "core/io/foreign/answer_bytes.h"

namespace pristine::io {
namespace {

void append_words(std::string& out, const std::vector<std::string>& words) {
    append_le(out, static_cast<std::uint64_t>(words.size()));
    for (const std::string& w : words) append_text(out, w);
}

std::vector<std::string> words_of(AnswerBytes& in) {
    std::vector<std::string> words(in.count());
    for (std::string& w : words) w = in.text();
    return words;
}

}  // namespace

std::string bytes_of(const std::vector<MapPoints>& layers) {
    std::string out;
    for (const MapPoints& p : layers) {
        append_text(out, p.list.name);
        append_le(out, static_cast<std::uint8_t>(p.flat));
        append_le(out, static_cast<std::uint64_t>(p.list.points.size()));
        for (const Vec3& v : p.list.points)
            for (int k = 0; k < 3; ++k) append_le(out, v[k]);
        append_words(out, p.list.names);
        append_words(out, p.list.codes);
        append_le(out, static_cast<std::uint64_t>(p.list.columns.size()));
        for (const PointList::Column& c : p.list.columns) {
            append_text(out, c.name);
            append_words(out, c.words);
            append_le(out, static_cast<std::uint64_t>(c.numbers.size()));
            for (const double v : c.numbers) append_le(out, v);
        }
    }
    return out;
}

std::vector<MapPoints> map_points_from(const std::string& bytes) {
    AnswerBytes in(bytes);
    std::vector<MapPoints> layers;
    while (!in.at_end()) {
        MapPoints p;
        p.list.name = in.text();
        p.flat = in.number<std::uint8_t>() != 0;
        p.list.points.resize(in.count());
        for (Vec3& v : p.list.points)
            for (int k = 0; k < 3; ++k) v[k] = in.number<double>();
        p.list.names = words_of(in);
        p.list.codes = words_of(in);
        p.list.columns.resize(in.count());
        for (PointList::Column& c : p.list.columns) {
            c.name = in.text();
            c.words = words_of(in);
            c.numbers.resize(in.count());
            for (double& v : c.numbers) v = in.number<double>();
        }
        layers.push_back(std::move(p));
    }
    return layers;
}

}  // namespace pristine::io
