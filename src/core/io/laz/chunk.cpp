#include "core/io/laz/chunk.h"

#include "core/base/bytes.h"

namespace pristine::io::laz {
namespace {

[[noreturn]] void cut_off() {
    throw Error(ErrorCode::Format, "A chunk of compressed points is cut off");
}

}  // namespace

ChunkDecoder::ChunkDecoder(const Scheme& scheme) : scheme_(scheme) {
    if (scheme.layered)
        layered_ = std::make_unique<LayeredCoder>(scheme);
    else
        pointwise_ = std::make_unique<PointwiseCoder>(scheme);
}

std::size_t ChunkDecoder::decode(std::span<const std::byte> bytes, std::span<std::byte> records) {
    const std::size_t step = scheme_.record_bytes();
    if (bytes.size() < step) cut_off();
    std::memcpy(records.data(), bytes.data(), step);
    if (scheme_.layered) return decode_layered(bytes, records);
    pointwise_->restart(records.data());
    Decoder coder(bytes.subspan(step));
    for (std::size_t at = step; at < records.size(); at += step) pointwise_->code(coder, records.data() + at);
    return step + coder.consumed();
}

std::size_t ChunkDecoder::decode_layered(std::span<const std::byte> bytes, std::span<std::byte> records) {
    const std::size_t step = scheme_.record_bytes(), layers = layer_count(scheme_);
    std::size_t at = step + 4 + 4 * layers;
    if (bytes.size() < at) cut_off();
    if (load_le<std::uint32_t>(bytes.data() + step) != records.size() / step)
        throw Error(ErrorCode::Format, "A chunk does not hold the number of points that its table says");
    Layers<Decoder> streams(layers);
    for (std::size_t k = 0; k < layers; ++k) {
        const auto length = load_le<std::uint32_t>(bytes.data() + step + 4 + 4 * k);
        if (length > bytes.size() - at) cut_off();
        streams.live[k] = length > 0;
        if (length > 0) streams.coders[k].start(bytes.subspan(at, length));
        at += length;
    }
    if (!streams.live[0] && records.size() > step) cut_off();
    layered_->restart(records.data());
    for (std::size_t r = step; r < records.size(); r += step) layered_->code(streams, records.data() + r);
    return at;
}

ChunkEncoder::ChunkEncoder(const Scheme& scheme) : scheme_(scheme) {
    if (scheme.layered)
        layered_ = std::make_unique<LayeredCoder>(scheme);
    else
        pointwise_ = std::make_unique<PointwiseCoder>(scheme);
}

std::string ChunkEncoder::encode(std::span<const std::byte> records) {
    const std::size_t step = scheme_.record_bytes();
    std::string out(reinterpret_cast<const char*>(records.data()), step);
    std::vector<std::byte> record(step);
    const auto next = [&](std::size_t at) {
        std::memcpy(record.data(), records.data() + at, step);
        return record.data();
    };
    if (!scheme_.layered) {
        pointwise_->restart(records.data());
        Encoder coder;
        for (std::size_t at = step; at < records.size(); at += step) pointwise_->code(coder, next(at));
        return out + coder.finish();
    }
    Layers<Encoder> streams(layer_count(scheme_));
    layered_->restart(records.data());
    streams.live[0] = streams.live[1] = 1;
    for (std::size_t at = step; at < records.size(); at += step) layered_->code(streams, next(at));
    append_le(out, static_cast<std::uint32_t>(records.size() / step));
    std::string bodies;
    for (std::size_t k = 0; k < streams.coders.size(); ++k) {
        const std::string body = streams.live[k] ? streams.coders[k].finish() : std::string();
        append_le(out, static_cast<std::uint32_t>(body.size()));
        bodies += body;
    }
    return out + bodies;
}

}  // namespace pristine::io::laz
