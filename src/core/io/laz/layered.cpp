#include "core/io/laz/layered.h"

#include "core/base/bytes.h"

namespace pristine::io::laz {
namespace {

// Contexts of a return: [number of returns][return number].
constexpr std::uint8_t kReturnKindOf16[16][16] = {
    {0, 1, 2, 3, 4, 5, 3, 4, 4, 5, 5, 5, 5, 5, 5, 5}, {1, 0, 1, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3},
    {2, 1, 2, 4, 4, 4, 4, 4, 4, 4, 4, 3, 3, 3, 3, 3}, {3, 3, 4, 5, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4},
    {4, 3, 4, 4, 5, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4}, {5, 3, 4, 4, 4, 5, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4},
    {3, 3, 4, 4, 4, 4, 5, 4, 4, 4, 4, 4, 4, 4, 4, 4}, {4, 3, 4, 4, 4, 4, 4, 5, 4, 4, 4, 4, 4, 4, 4, 4},
    {4, 3, 4, 4, 4, 4, 4, 4, 5, 4, 4, 4, 4, 4, 4, 4}, {5, 3, 4, 4, 4, 4, 4, 4, 4, 5, 4, 4, 4, 4, 4, 4},
    {5, 3, 4, 4, 4, 4, 4, 4, 4, 4, 5, 4, 4, 4, 4, 4}, {5, 3, 3, 4, 4, 4, 4, 4, 4, 4, 4, 5, 5, 4, 4, 4},
    {5, 3, 3, 4, 4, 4, 4, 4, 4, 4, 4, 5, 5, 5, 4, 4}, {5, 3, 3, 4, 4, 4, 4, 4, 4, 4, 4, 4, 5, 5, 5, 4},
    {5, 3, 3, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 5, 5, 5}, {5, 3, 3, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 4, 5, 5}};

enum Layer : std::size_t { kXy, kZ, kClass, kFlags, kIntensity, kAngle, kUser, kSource, kTime, kPointLayers };
enum Changed : unsigned {
    kReturn = 3,
    kReturns = 4,
    kAngleBit = 8,
    kTimeBit = 16,
    kSourceBit = 32,
    kChannelBit = 64
};

struct Point14 {
    std::int32_t x = 0, y = 0, z = 0;
    std::uint16_t intensity = 0, angle = 0, source = 0;
    unsigned r = 0, n = 0, flags = 0, channel = 0, classification = 0, user = 0;
    std::int64_t time = 0;

    static Point14 load(const std::byte* b) {
        Point14 p;
        p.x = load_le<std::int32_t>(b);
        p.y = load_le<std::int32_t>(b + 4);
        p.z = load_le<std::int32_t>(b + 8);
        p.intensity = load_le<std::uint16_t>(b + 12);
        p.r = static_cast<unsigned>(b[14]) & 15u;
        p.n = static_cast<unsigned>(b[14]) >> 4;
        const auto f = static_cast<unsigned>(b[15]);
        p.flags = (f & 15u) | (f >> 2 & 0x30u);  // classification flags, scan direction, edge of flight line
        p.channel = f >> 4 & 3u;
        p.classification = static_cast<unsigned>(b[16]);
        p.user = static_cast<unsigned>(b[17]);
        p.angle = load_le<std::uint16_t>(b + 18);
        p.source = load_le<std::uint16_t>(b + 20);
        p.time = load_le<std::int64_t>(b + 22);
        return p;
    }
    void store(std::byte* b) const {
        store_le(b, x);
        store_le(b + 4, y);
        store_le(b + 8, z);
        store_le(b + 12, intensity);
        b[14] = static_cast<std::byte>(r | n << 4);
        b[15] = static_cast<std::byte>((flags & 15u) | channel << 4 | (flags & 0x30u) << 2);
        b[16] = static_cast<std::byte>(classification);
        b[17] = static_cast<std::byte>(user);
        store_le(b + 18, angle);
        store_le(b + 20, source);
        store_le(b + 22, time);
    }
};

}  // namespace

struct LayeredCoder::Channel {
    bool used = false;
    Point14 last;
    bool last_time_changed = false;
    std::array<std::uint16_t, 8> intensity{};
    std::array<Median5, 12> dx_median, dy_median;
    std::array<std::int32_t, 8> height{};
    std::array<SymbolModel, 8> changed;
    SymbolModel channel, return_same_time;
    LazyModels returns{16, 16}, return_number{16, 16}, classification{64, 256}, flags{64, 64}, user{64, 256};
    IntegerCoder dx{32, 2}, dy{32, 22}, z{32, 20}, intensity_coder{16, 4}, angle{16, 2}, source{16, 1};
    GpsTimeCoder time{false};

    void restart(const Point14& p) {
        used = true;
        last = p;
        last_time_changed = false;
        intensity.fill(p.intensity);
        height.fill(p.z);
        dx_median = {};
        dy_median = {};
        for (SymbolModel& m : changed) m.start(128);
        channel.start(3);
        return_same_time.start(13);
        for (LazyModels* m : {&returns, &return_number, &classification, &flags, &user}) m->restart();
        for (IntegerCoder* i : {&dx, &dy, &z, &intensity_coder, &angle, &source}) i->restart();
        time.restart(p.time);
    }
};

struct LayeredCoder::Tail {
    bool used = false;
    Rgb rgb{};
    std::uint16_t nir = 0;
    RgbModels rgb_models;
    SymbolModel nir_changed;
    std::array<SymbolModel, 2> nir_bytes;
    WavePacketCoder wave;
    std::vector<std::byte> extra;
    std::vector<SymbolModel> extra_models;

    /// Afresh, with these last values.
    void restart(const Scheme& s, const std::byte* at) {
        used = true;
        if (s.has_rgb) {
            rgb = load_rgb(at);
            rgb_models.restart();
            at += 6;
        }
        if (s.has_nir) {
            nir = load_le<std::uint16_t>(at);
            nir_changed.start(4);
            for (SymbolModel& m : nir_bytes) m.start(256);
            at += 2;
        }
        if (s.has_wave) {
            wave.restart(at);
            at += kWaveBytes;
        }
        extra.assign(at, at + s.extra_bytes);
        extra_models.resize(s.extra_bytes);
        for (SymbolModel& m : extra_models) m.start(256);
    }
    /// The last values, as they stand in a record.
    std::vector<std::byte> last(const Scheme& s) {
        std::vector<std::byte> v;
        const auto put = [&](const void* at, std::size_t n) {
            v.insert(v.end(), static_cast<const std::byte*>(at), static_cast<const std::byte*>(at) + n);
        };
        if (s.has_rgb) put(rgb.data(), 6);
        if (s.has_nir) put(&nir, 2);
        if (s.has_wave) put(wave.last(), kWaveBytes);
        put(extra.data(), extra.size());
        return v;
    }
};

std::size_t layer_count(const Scheme& s) {
    return kPointLayers + (s.has_rgb ? 1u : 0u) + (s.has_nir ? 1u : 0u) + (s.has_wave ? 1u : 0u) +
           s.extra_bytes;
}

LayeredCoder::LayeredCoder(const Scheme& scheme) : scheme_(scheme) {}
LayeredCoder::~LayeredCoder() = default;

namespace {

template <class T>
T& opened(std::unique_ptr<T>& place) {
    if (!place) place = std::make_unique<T>();
    return *place;
}

}  // namespace

void LayeredCoder::restart(const std::byte* at) {
    for (auto& c : channels_)
        if (c) c->used = false;
    for (auto& t : tails_)
        if (t) t->used = false;
    const Point14 first = Point14::load(at);
    now_ = tail_ = first.channel;
    opened(channels_[now_]).restart(first);
    opened(tails_[now_]).restart(scheme_, at + 30);
}

// A quirk of version 3 that the format is now bound to (found by comparing with two independent decoders; on
// extra bytes of several channels these two disagree, and we go with the one that treats them like colours).
// What follows the point has its own idea of the channel: 0 unless the channel has just changed. And on
// return to a channel that was seen before, last values are taken from, and kept with, the channel that is
// left.
void LayeredCoder::choose_tail() {
    const unsigned to = channel_changed_ ? now_ : 0;
    tail_home_ = tail_;
    if (to == tail_) return;
    Tail& next = opened(tails_[to]);
    if (!next.used) {
        next.restart(scheme_, tails_[tail_]->last(scheme_).data());
        tail_home_ = to;
    }
    tail_ = to;
}

template <class Coder>
void LayeredCoder::code(Layers<Coder>& layers, std::byte* record) {
    code_returns(layers, record);
    code_position(layers, record);
    code_attributes(layers, record);
    Channel& c = *channels_[now_];
    c.last.store(record);
    c.last_time_changed = time_changed_;
    choose_tail();
    Tail& tail = *tails_[tail_];
    std::byte* at = record + 30;
    std::size_t layer = kPointLayers;
    if (scheme_.has_rgb) {
        code_colour(layers, at, layer);
        at += scheme_.has_nir ? 8 : 6;
        layer += scheme_.has_nir ? 2 : 1;
    }
    if (scheme_.has_wave) {
        std::byte* last = tails_[tail_home_]->wave.last();
        if constexpr (Coder::kEncodes) layers.live[layer] |= std::memcmp(last, at, kWaveBytes) != 0;
        if (Coder::kEncodes || layers.live[layer])
            tail.wave.code(layers.coders[layer], at, last);
        else
            std::memcpy(at, last, kWaveBytes);
        at += kWaveBytes;
        ++layer;
    }
    code_extra(layers, at, layer);
}

// Which values change, the scanner channel, and the return numbers. Afterwards now_ is the point's channel.
template <class Coder>
void LayeredCoder::code_returns(Layers<Coder>& layers, std::byte* item) {
    Coder& xy = layers.coders[kXy];
    Channel* c = channels_[now_].get();
    const Point14& before = c->last;
    const unsigned context =
        (before.r == 1 ? 1u : 0u) + (before.r >= before.n ? 2u : 0u) + (c->last_time_changed ? 4u : 0u);
    unsigned changed = 0;
    Point14 real;
    if constexpr (Coder::kEncodes) {
        layers.live[kXy] = 1;
        real = Point14::load(item);
        const Channel* of = channels_[real.channel].get();
        const Point14& last = of && of->used ? of->last : before;
        changed = (real.channel != now_ ? kChannelBit : 0u) | (real.source != last.source ? kSourceBit : 0u) |
                  (real.time != last.time ? kTimeBit : 0u) | (real.angle != last.angle ? kAngleBit : 0u) |
                  (real.n != last.n ? kReturns : 0u);
        if (real.r != last.r)
            changed |= real.r == (last.r + 1) % 16 ? 1u : real.r == (last.r + 15) % 16 ? 2u : 3u;
    }
    changed = xy.symbol(c->changed[context], changed);
    channel_changed_ = changed & kChannelBit;
    if (channel_changed_) {
        const unsigned step = xy.symbol(c->channel, (real.channel + 4 - now_ - 1) % 4);
        const unsigned to = (now_ + step + 1) % 4;
        Channel& next = opened(channels_[to]);
        if (!next.used) next.restart(c->last);
        now_ = to;
        c = &next;
        c->last.channel = to;
    }
    time_changed_ = changed & kTimeBit;
    angle_changed_ = changed & kAngleBit;
    source_changed_ = changed & kSourceBit;
    Point14& last = c->last;
    if (changed & kReturns) last.n = xy.symbol(c->returns[last.n], real.n);
    switch (changed & kReturn) {
        case 1:
            last.r = (last.r + 1) % 16;
            break;
        case 2:
            last.r = (last.r + 15) % 16;
            break;
        case 3:
            if (time_changed_)
                last.r = xy.symbol(c->return_number[last.r], real.r);
            else
                last.r = (last.r + xy.symbol(c->return_same_time, (real.r + 32 - last.r - 2) % 16) + 2) % 16;
            break;
        default:
            break;
    }
}

template <class Coder>
void LayeredCoder::code_position(Layers<Coder>& layers, const std::byte* item) {
    Channel& c = *channels_[now_];
    Point14& p = c.last;
    const std::size_t kind = kReturnKindOf16[p.n][p.r] * 2u + (time_changed_ ? 1u : 0u);
    const std::size_t level = std::min(p.n > p.r ? p.n - p.r : p.r - p.n, 7u);
    const unsigned single = p.n == 1 ? 1 : 0;
    const auto step = [&](IntegerCoder& coder, Median5& median, std::int32_t& last, std::size_t at,
                          unsigned context) {
        const std::int32_t d = coder.code(layers.coders[kXy], median.get(),
                                          wrap_sub(load_le<std::int32_t>(item + at), last), context);
        median.add(d);
        last = wrap_add(last, d);
    };
    step(c.dx, c.dx_median[kind], p.x, 0, single);
    step(c.dy, c.dy_median[kind], p.y, 4, single + std::min(c.dx.last_length() & ~1u, 20u));
    if constexpr (Coder::kEncodes) layers.live[kZ] = 1;
    if (!layers.live[kZ]) return;
    const unsigned k = (c.dx.last_length() + c.dy.last_length()) / 2;
    p.z = c.z.code(layers.coders[kZ], c.height[level], load_le<std::int32_t>(item + 8),
                   single + std::min(k & ~1u, 18u));
    c.height[level] = p.z;
}

template <class Coder>
void LayeredCoder::code_attributes(Layers<Coder>& layers, const std::byte* item) {
    Channel& c = *channels_[now_];
    Point14& p = c.last;
    Point14 real;
    if constexpr (Coder::kEncodes) {
        real = Point14::load(item);
        const auto mark = [&](std::size_t layer, bool change) {
            layers.live[layer] |= static_cast<char>(change);
        };
        mark(kClass, real.classification != p.classification);
        mark(kFlags, real.flags != p.flags);
        mark(kIntensity, real.intensity != p.intensity);
        mark(kAngle, angle_changed_);
        mark(kUser, real.user != p.user);
        mark(kSource, source_changed_);
        mark(kTime, time_changed_);
    }
    const auto there = [&](std::size_t layer) { return Coder::kEncodes || layers.live[layer]; };
    // First, last, single or intermediate return.
    const unsigned place = (p.r == 1 ? 2u : 0u) + (p.r >= p.n ? 1u : 0u);
    if (there(kClass))
        p.classification = layers.coders[kClass].symbol(
            c.classification[(p.classification & 31u) << 1 | (place == 3 ? 1u : 0u)], real.classification);
    if (there(kFlags)) p.flags = layers.coders[kFlags].symbol(c.flags[p.flags], real.flags);
    if (there(kIntensity)) {
        std::uint16_t& last = c.intensity[place << 1 | (time_changed_ ? 1u : 0u)];
        last = static_cast<std::uint16_t>(
            c.intensity_coder.code(layers.coders[kIntensity], last, real.intensity, place));
        p.intensity = last;
    }
    // Angles are signed in the format: the wrap of the correction depends on it.
    if (there(kAngle) && angle_changed_)
        p.angle = static_cast<std::uint16_t>(
            c.angle.code(layers.coders[kAngle], static_cast<std::int16_t>(p.angle),
                         static_cast<std::int16_t>(real.angle), time_changed_ ? 1 : 0));
    if (there(kUser)) p.user = layers.coders[kUser].symbol(c.user[p.user / 4], real.user);
    if (there(kSource) && source_changed_)
        p.source =
            static_cast<std::uint16_t>(c.source.code(layers.coders[kSource], p.source, real.source, 0));
    if (there(kTime) && time_changed_) p.time = c.time.code(layers.coders[kTime], real.time);
}

template <class Coder>
void LayeredCoder::code_colour(Layers<Coder>& layers, std::byte* item, std::size_t layer) {
    Tail& c = *tails_[tail_];
    Tail& home = *tails_[tail_home_];
    const Rgb real = load_rgb(item);
    if constexpr (Coder::kEncodes) layers.live[layer] |= static_cast<char>(real != home.rgb);
    if (Coder::kEncodes || layers.live[layer])
        home.rgb = c.rgb_models.code(layers.coders[layer], home.rgb, real);
    std::memcpy(item, home.rgb.data(), 6);
    if (!scheme_.has_nir) return;
    ++layer;
    const unsigned last = home.nir, now = load_le<std::uint16_t>(item + 6);
    if constexpr (Coder::kEncodes) layers.live[layer] |= static_cast<char>(now != last);
    if (Coder::kEncodes || layers.live[layer]) {
        Coder& k = layers.coders[layer];
        const unsigned sym =
            k.symbol(c.nir_changed, ((last ^ now) & 0xFFu ? 1u : 0u) | ((last ^ now) & 0xFF00u ? 2u : 0u));
        unsigned low = last & 0xFFu, high = last >> 8;
        if (sym & 1u) low = (k.symbol(c.nir_bytes[0], (now - last) & 0xFFu) + low) & 0xFFu;
        if (sym & 2u) high = (k.symbol(c.nir_bytes[1], ((now >> 8) - (last >> 8)) & 0xFFu) + high) & 0xFFu;
        home.nir = static_cast<std::uint16_t>(high << 8 | low);
    }
    store_le(item + 6, home.nir);
}

template <class Coder>
void LayeredCoder::code_extra(Layers<Coder>& layers, std::byte* item, std::size_t layer) {
    Tail& c = *tails_[tail_];
    std::vector<std::byte>& last_bytes = tails_[tail_home_]->extra;
    for (std::size_t i = 0; i < last_bytes.size(); ++i) {
        if constexpr (Coder::kEncodes) layers.live[layer + i] |= static_cast<char>(item[i] != last_bytes[i]);
        if (Coder::kEncodes || layers.live[layer + i]) {
            const auto last = static_cast<unsigned>(last_bytes[i]);
            const unsigned s = layers.coders[layer + i].symbol(
                c.extra_models[i], (static_cast<unsigned>(item[i]) - last) & 255u);
            last_bytes[i] = static_cast<std::byte>((s + last) & 255u);
        }
        item[i] = last_bytes[i];
    }
}

template void LayeredCoder::code(Layers<Encoder>&, std::byte*);
template void LayeredCoder::code(Layers<Decoder>&, std::byte*);

}  // namespace pristine::io::laz
