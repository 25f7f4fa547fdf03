#include "core/io/foreign/grid_answer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/io/foreign/answer_bytes.h"
#include "core/io/foreign/guarded.h"
#include "core/io/foreign/line_answer.h"

namespace pristine::io {
namespace {

std::string bytes_of_facts(const GridFacts& f) {
    std::string out;
    append_le(out, static_cast<std::int32_t>(f.columns));
    append_le(out, static_cast<std::int32_t>(f.rows));
    for (const double v : f.place) append_le(out, v);
    append_le(out, static_cast<std::uint8_t>(f.picture));
    append_text(out, f.format);
    append_text(out, io::bytes_of(f.reference));
    return out;
}

GridFacts facts_from(const std::string& bytes) {
    AnswerBytes in(bytes);
    GridFacts f;
    f.columns = in.number<std::int32_t>();
    f.rows = in.number<std::int32_t>();
    for (double& v : f.place) v = in.number<double>();
    f.picture = in.number<std::uint8_t>() != 0;
    f.format = in.text();
    f.reference = reference_from(in.text());
    if (f.columns < 1 || f.rows < 1) throw Error(ErrorCode::Format, "A reader broke off in its answer");
    return f;
}

template <class T>
std::string_view view_of(const std::vector<T>& v) {
    return {reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T)};
}

class GuardedRows : public GridRows {
  public:
    explicit GuardedRows(const std::filesystem::path& path)
        : place_(path.filename().string()),
          reader_({"grid", std::filesystem::absolute(path).string()}, limits_for(path), place_) {
        if (!reader_.next(frame_)) broke_off();
        facts_ = facts_from(frame_);
    }
    const GridFacts& facts() const override { return facts_; }
    void next(std::vector<double>& z) override {
        if (row_++ >= facts_.rows) throw Error(ErrorCode::Usage, "The grid has no more rows", place_);
        if (!reader_.next(frame_)) broke_off();
        const auto n = static_cast<std::size_t>(facts_.columns);
        z.resize(n);
        if (frame_.empty()) {
            std::fill(z.begin(), z.end(), NAN);
        } else if (frame_.size() == n * sizeof(double)) {
            std::memcpy(z.data(), frame_.data(), frame_.size());
        } else if (frame_.size() == n * sizeof(float)) {
            for (std::size_t i = 0; i < n; ++i)
                z[i] = static_cast<double>(load_le<float>(frame_.data() + i * sizeof(float)));
        } else {
            broke_off();
        }
    }

  private:
    [[noreturn]] void broke_off() const {
        throw Error(ErrorCode::Format, "A reader broke off in its answer", place_);
    }
    std::string place_;
    GuardedReader reader_;
    std::string frame_;
    GridFacts facts_;
    int row_ = 0;
};

// A frame for about a megabyte, so that neither side holds a picture twice.
void give_pixels(const std::vector<std::uint32_t>& pixels, const Frames& frames) {
    constexpr std::size_t kAtOnce = 1u << 18;
    const std::string_view all = view_of(pixels);
    for (std::size_t at = 0; at < all.size(); at += kAtOnce * 4) frames(all.substr(at, kAtOnce * 4));
}

Pixels pixels_from(AnswerBytes& head, GuardedReader& reader, Progress& progress, const std::string& place) {
    Pixels p;
    p.width = head.number<std::int32_t>();
    p.height = head.number<std::int32_t>();
    if (p.width < 1 || p.height < 1)
        throw Error(ErrorCode::Format, "A reader broke off in its answer", place);
    const std::size_t n = static_cast<std::size_t>(p.width) * static_cast<std::size_t>(p.height);
    std::string frame;
    while (reader.next(frame)) {
        progress.check();
        const std::size_t at = p.argb.size(), more = frame.size() / 4;
        if (more > n - at) throw Error(ErrorCode::Format, "A reader broke off in its answer", place);
        p.argb.resize(at + more);
        std::memcpy(p.argb.data() + at, frame.data(), more * 4);
    }
    if (p.argb.size() != n) throw Error(ErrorCode::Format, "A reader broke off in its answer", place);
    return p;
}

std::string size_of(const Pixels& p) {
    std::string head;
    append_le(head, static_cast<std::int32_t>(p.width));
    append_le(head, static_cast<std::int32_t>(p.height));
    return head;
}

// As much as the largest picture needs that is taken at all, packed and unpacked.
ReaderLimits limits_of_picture(ReaderLimits l) {
    l.bytes = std::max<std::uint64_t>(l.bytes, 1u << 30);
    return l;
}

}  // namespace

void give_grid(GridRows& rows, const Frames& frames) {
    frames(bytes_of_facts(rows.facts()));
    if (rows.facts().picture) return;
    std::vector<double> z;
    std::vector<float> narrow;
    for (int j = 0; j < rows.facts().rows; ++j) {
        rows.next(z);
        narrow.assign(z.begin(), z.end());
        bool any = false, exact = true;
        for (std::size_t i = 0; i < z.size(); ++i) {
            if (std::isnan(z[i])) continue;
            any = true;
            exact &= static_cast<double>(narrow[i]) == z[i];
        }
        frames(!any ? std::string_view() : exact ? view_of(narrow) : view_of(z));
    }
}

std::unique_ptr<GridRows> open_grid_guarded(const std::filesystem::path& path) {
    return std::make_unique<GuardedRows>(path);
}

void give_picture(const Pixels& p, const Frames& frames) {
    frames(size_of(p));
    give_pixels(p.argb, frames);
}

void give_orthophoto(const PlacedPixels& p, const Frames& frames) {
    std::string head;
    for (const double v : p.at) append_le(head, v);
    frames(head + size_of(p.pixels));
    give_pixels(p.pixels.argb, frames);
}

Pixels decode_picture_guarded(const std::string& bytes, const std::string& name) {
    GuardedReader reader({"picture", name}, limits_of_picture(limits_for(bytes.size())), name, bytes);
    std::string frame;
    if (!reader.next(frame)) throw Error(ErrorCode::Format, "A reader broke off in its answer", name);
    AnswerBytes head(frame);
    return pixels_from(head, reader, Progress::none(), name);
}

PlacedPixels read_orthophoto_guarded(const std::filesystem::path& path, std::uint64_t most_pixels,
                                     Progress& progress) {
    const std::string place = path.filename().string();
    GuardedReader reader(
        {"orthophoto", std::filesystem::absolute(path).string(), fmt::format("{}", most_pixels)},
        limits_of_picture(limits_for(path)), place);
    std::string frame;
    if (!reader.next(frame)) throw Error(ErrorCode::Format, "A reader broke off in its answer", place);
    AnswerBytes head(frame);
    PlacedPixels p;
    for (double& v : p.at) v = head.number<double>();
    p.pixels = pixels_from(head, reader, progress, place);
    return p;
}

}  // namespace pristine::io
