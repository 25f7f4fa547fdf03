#include "core/io/laz/pointwise.h"

#include "core/base/bytes.h"

namespace pristine::io::laz {
namespace {

// Contexts of a return: [number of returns][return number], each 0..7.
constexpr std::uint8_t kReturnKindOf8[8][8] = {
    {15, 14, 13, 12, 11, 10, 9, 8},  {14, 0, 1, 3, 6, 10, 10, 9},   {13, 1, 2, 4, 7, 11, 11, 10},
    {12, 3, 4, 5, 8, 12, 12, 11},    {11, 6, 7, 8, 9, 13, 13, 12},  {10, 10, 11, 12, 13, 14, 14, 13},
    {9, 10, 11, 12, 13, 14, 15, 14}, {8, 9, 10, 11, 12, 13, 14, 15}};

enum PointwiseChanged : unsigned {
    kSourceChanged = 1,
    kUserChanged = 2,
    kAngleChanged = 4,
    kClassChanged = 8,
    kIntensityChanged = 16,
    kFlagsChanged = 32
};

unsigned byte_at(const std::byte* p, std::size_t i) {
    return static_cast<unsigned>(p[i]);
}

}  // namespace

Point10Coder::Point10Coder()
    : flags_(256, 256),
      class_(256, 256),
      user_data_(256, 256),
      intensity_coder_(16, 4),
      source_(16, 1),
      dx_(32, 2),
      dy_(32, 22),
      z_(32, 20) {}

void Point10Coder::restart(const std::byte* first) {
    std::memcpy(last_.data(), first, 20);
    store_le<std::uint16_t>(&last_[12], 0);  // the format begins every chunk with intensity 0
    intensity_ = {};
    dx_median_ = {};
    dy_median_ = {};
    height_ = {};
    changed_.start(64);
    for (SymbolModel& m : scan_angle_) m.start(256);
    for (LazyModels* m : {&flags_, &class_, &user_data_}) m->restart();
    for (IntegerCoder* i : {&intensity_coder_, &source_, &dx_, &dy_, &z_}) i->restart();
}

template <class Coder>
void Point10Coder::code(Coder& c, std::byte* item) {
    unsigned changed = 0;
    const auto kind_of = [](unsigned flags) { return kReturnKindOf8[flags >> 3 & 7][flags & 7]; };
    if constexpr (Coder::kEncodes) {
        const auto differs = [&](std::size_t i, unsigned bit) { return item[i] != last_[i] ? bit : 0u; };
        changed = differs(14, kFlagsChanged) | differs(15, kClassChanged) | differs(16, kAngleChanged) |
                  differs(17, kUserChanged);
        if (load_le<std::uint16_t>(item + 12) != intensity_[kind_of(byte_at(item, 14))])
            changed |= kIntensityChanged;
        if (load_le<std::uint16_t>(item + 18) != load_le<std::uint16_t>(&last_[18]))
            changed |= kSourceChanged;
    }
    changed = c.symbol(changed_, changed);
    if (changed & kFlagsChanged)
        last_[14] = static_cast<std::byte>(c.symbol(flags_[byte_at(last_.data(), 14)], byte_at(item, 14)));
    const unsigned flags = byte_at(last_.data(), 14), r = flags & 7, n = flags >> 3 & 7;
    code_attributes(c, item, changed, kind_of(flags));
    code_position(c, item, kind_of(flags), n > r ? n - r : r - n, n == 1 ? 1 : 0);
    std::memcpy(item, last_.data(), 20);
}

template <class Coder>
void Point10Coder::code_attributes(Coder& c, std::byte* item, unsigned changed, unsigned kind) {
    if (changed & kIntensityChanged)
        intensity_[kind] = static_cast<std::uint16_t>(intensity_coder_.code(
            c, intensity_[kind], load_le<std::uint16_t>(item + 12), std::min(kind, 3u)));
    store_le(&last_[12], intensity_[kind]);
    const auto symbol = [&](SymbolModel& m, std::size_t at, unsigned base) {
        const unsigned s = c.symbol(m, (byte_at(item, at) - base) & 255u);
        last_[at] = static_cast<std::byte>((s + base) & 255u);
    };
    if (changed & kClassChanged) symbol(class_[byte_at(last_.data(), 15)], 15, 0);
    if (changed & kAngleChanged)
        symbol(scan_angle_[byte_at(last_.data(), 14) >> 6 & 1], 16, byte_at(last_.data(), 16));
    if (changed & kUserChanged) symbol(user_data_[byte_at(last_.data(), 17)], 17, 0);
    if (changed & kSourceChanged)
        store_le(&last_[18], static_cast<std::uint16_t>(source_.code(c, load_le<std::uint16_t>(&last_[18]),
                                                                     load_le<std::uint16_t>(item + 18), 0)));
}

template <class Coder>
void Point10Coder::code_position(Coder& c, std::byte* item, unsigned kind, unsigned level, unsigned single) {
    const auto step = [&](IntegerCoder& coder, Median5& median, std::size_t at, unsigned context) {
        const auto last = load_le<std::int32_t>(&last_[at]);
        const std::int32_t d =
            coder.code(c, median.get(), wrap_sub(load_le<std::int32_t>(item + at), last), context);
        median.add(d);
        store_le(&last_[at], wrap_add(last, d));
    };
    step(dx_, dx_median_[kind], 0, single);
    step(dy_, dy_median_[kind], 4, single + std::min(dx_.last_length() & ~1u, 20u));
    const unsigned k = (dx_.last_length() + dy_.last_length()) / 2;
    height_[level] =
        z_.code(c, height_[level], load_le<std::int32_t>(item + 8), single + std::min(k & ~1u, 18u));
    store_le(&last_[8], height_[level]);
}

PointwiseCoder::PointwiseCoder(const Scheme& scheme) : scheme_(scheme), extra_(scheme.extra_bytes) {
    if (scheme.has_time) time_.emplace(true);
    if (scheme.has_rgb) rgb_ = std::make_unique<RgbModels>();
    if (scheme.has_wave) wave_ = std::make_unique<WavePacketCoder>();
}

void PointwiseCoder::restart(const std::byte* at) {
    point_.restart(at);
    at += 20;
    if (time_) {
        time_->restart(load_le<std::int64_t>(at));
        at += 8;
    }
    if (rgb_) {
        rgb_->restart();
        last_rgb_ = load_rgb(at);
        at += 6;
    }
    if (wave_) {
        wave_->restart(at);
        at += kWaveBytes;
    }
    for (SymbolModel& m : extra_) m.start(256);
    last_extra_.assign(at, at + scheme_.extra_bytes);
}

template <class Coder>
void PointwiseCoder::code(Coder& c, std::byte* at) {
    point_.code(c, at);
    at += 20;
    if (time_) {
        store_le(at, time_->code(c, load_le<std::int64_t>(at)));
        at += 8;
    }
    if (rgb_) {
        last_rgb_ = rgb_->code(c, last_rgb_, load_rgb(at));
        std::memcpy(at, last_rgb_.data(), 6);
        at += 6;
    }
    if (wave_) {
        wave_->code(c, at);
        at += kWaveBytes;
    }
    for (std::size_t i = 0; i < extra_.size(); ++i) {
        const unsigned last = byte_at(last_extra_.data(), i);
        const unsigned s = c.symbol(extra_[i], (byte_at(at, i) - last) & 255u);
        at[i] = last_extra_[i] = static_cast<std::byte>((s + last) & 255u);
    }
}

template void PointwiseCoder::code(Encoder&, std::byte*);
template void PointwiseCoder::code(Decoder&, std::byte*);

}  // namespace pristine::io::laz
