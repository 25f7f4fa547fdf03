#include <fmt/format.h>

#include <algorithm>
#include <list>
#include <mutex>

#include "core/base/bytes.h"
#include "core/base/file.h"
#include "core/base/parallel.h"
#include "core/io/laz/chunk.h"
#include "core/io/laz/laz.h"

namespace pristine::io::laz {
namespace {

// A chunk that decodes to more than this many times its size is taken for a lie before memory is asked for.
constexpr std::uint64_t kMostPointsPerByte = 1024;

// The sentence of an error without its full stop, to go on with.
std::string sentence(const Error& e) {
    std::string s = e.what();
    if (!s.empty() && s.back() == '.') s.pop_back();
    return s;
}

std::uint64_t chunk_limit(const Scheme& s, std::uint64_t points) {
    return s.has_table ? s.chunk_points : points;
}

// The table, or an Error. Only sizes; whether they fit the file is checked by the caller.
std::vector<Chunk> read_table(const InputFile& file, const LasHeader& h, const Scheme& s, std::uint64_t at) {
    if (at > file.size() || file.size() - at < 8)
        throw Error(ErrorCode::Format, "The table of compressed chunks lies outside the file",
                    file.place(h.points_offset));
    const std::string head = file.read_string(at, 8);
    const auto version = load_le<std::uint32_t>(head.data());
    const std::uint64_t count = load_le<std::uint32_t>(head.data() + 4);
    if (version != 0)
        throw Error(ErrorCode::Format, "The table of compressed chunks is damaged", file.place(at));
    // Each chunk begins with one record as it is.
    if (count > file.size() / h.record_bytes)
        throw Error(ErrorCode::Format,
                    fmt::format("{} chunks of points are announced, more than the file can hold", count),
                    file.place(at + 4));
    const std::uint64_t length = std::min<std::uint64_t>(file.size() - at - 8, 16 + 16 * count);
    const std::string body = file.read_string(at + 8, length);
    Decoder coder(std::as_bytes(std::span(body)));
    IntegerCoder sizes(32, 2);
    std::vector<Chunk> chunks(count);
    std::int32_t points = 0, bytes = 0;
    for (Chunk& c : chunks) {
        if (s.chunk_points == UINT32_MAX) {
            points = sizes.code(coder, points, 0, 0);
            c.count = static_cast<std::uint32_t>(points);
        } else {
            c.count = s.chunk_points;
        }
        bytes = sizes.code(coder, bytes, 0, 1);
        c.bytes = static_cast<std::uint32_t>(bytes);
    }
    return chunks;
}

// Places the chunks one after the other; stops at the first that does not fit and says so.
std::string place_chunks(std::vector<Chunk>& chunks, const LasHeader& h, std::uint64_t start,
                         std::uint64_t end) {
    std::uint64_t at = start, first = 0;
    for (std::size_t i = 0; i < chunks.size(); ++i) {
        Chunk& c = chunks[i];
        c.count = std::min(c.count, h.point_count - first);
        const bool fits = c.bytes >= h.record_bytes && c.bytes <= end - at && c.count > 0 &&
                          c.count <= c.bytes * kMostPointsPerByte;
        if (!fits) {
            chunks.resize(i);
            break;
        }
        c.offset = at;
        c.first = first;
        at += c.bytes;
        first += c.count;
    }
    if (first == h.point_count) return {};
    return fmt::format("The header announces {} points, but only {} of them are in whole chunks",
                       h.point_count, first);
}

std::vector<std::byte> read_bytes(const InputFile& file, std::uint64_t offset, std::uint64_t length) {
    std::vector<std::byte> b(length);
    file.read_at(offset, b);
    return b;
}

// Without a table: decodes from the start to learn where each chunk ends.
std::vector<Chunk> walk(const InputFile& file, const LasHeader& h, const Scheme& s, std::uint64_t start) {
    std::vector<Chunk> chunks;
    if (s.chunk_points == UINT32_MAX) return chunks;
    ChunkDecoder decoder(s);
    std::uint64_t at = start, first = 0;
    while (first < h.point_count) {
        const std::uint64_t count = std::min(chunk_limit(s, h.point_count), h.point_count - first);
        const std::uint64_t most =
            std::min<std::uint64_t>(file.size() - at, count * (h.record_bytes + 64u) + 1024);
        if (count > most * kMostPointsPerByte || most < h.record_bytes) break;
        const std::vector<std::byte> bytes = read_bytes(file, at, most);
        std::vector<std::byte> records(count * h.record_bytes);
        try {
            const std::uint64_t used = std::min<std::uint64_t>(decoder.decode(bytes, records), most);
            chunks.push_back({at, used, first, count});
            at += used;
            first += count;
        } catch (const Error&) {
            break;  // what was whole before is what can be read
        }
    }
    return chunks;
}

}  // namespace

std::vector<Chunk> find_chunks(const InputFile& file, const LasHeader& h, const Scheme& s,
                               bool accept_partial, std::vector<std::string>& warnings) {
    if (h.point_count == 0) return {};
    if (!s.has_table) {
        std::vector<Chunk> one{{h.points_offset, file.size() - h.points_offset, 0, h.point_count}};
        const std::string wrong = place_chunks(one, h, h.points_offset, file.size());
        if (!wrong.empty()) throw Error(ErrorCode::Format, wrong, file.place(h.points_offset));
        return one;
    }
    const std::uint64_t start = std::uint64_t{h.points_offset} + 8;
    if (start > file.size())
        throw Error(ErrorCode::Format, "The file ends before its points", file.place(file.size()));
    std::string wrong;
    std::vector<Chunk> chunks;
    try {
        auto at = load_le<std::int64_t>(file.read_string(h.points_offset, 8).data());
        // Written to a pipe: the place of the table stands at the end.
        if (at == -1 && file.size() >= start + 8)
            at = load_le<std::int64_t>(file.read_string(file.size() - 8, 8).data());
        if (at < static_cast<std::int64_t>(start))
            throw Error(ErrorCode::Format,
                        "The place of the table of chunks was never written: the file was not finished",
                        file.place(h.points_offset));
        chunks = read_table(file, h, s, static_cast<std::uint64_t>(at));
        wrong = place_chunks(chunks, h, start, static_cast<std::uint64_t>(at));
    } catch (const Error& e) {
        if (!accept_partial)
            throw Error(ErrorCode::Format, sentence(e), {}, "The points up to the damage can be read.",
                        Remedy::ReadPart);
        warnings.push_back(sentence(e) + ". What is whole was read from the start.");
        chunks = walk(file, h, s, start);
        wrong = place_chunks(chunks, h, start, file.size());
    }
    if (wrong.empty()) return chunks;
    if (!accept_partial)
        throw Error(ErrorCode::Format, wrong, file.place(start), "These points can be read.",
                    Remedy::ReadPart);
    warnings.push_back(wrong + ". These were read.");
    return chunks;
}

std::string chunk_table(const std::vector<Chunk>& chunks, bool with_counts) {
    std::string out;
    append_le<std::uint32_t>(out, 0);
    append_le(out, static_cast<std::uint32_t>(chunks.size()));
    Encoder coder;
    IntegerCoder sizes(32, 2);
    std::int32_t points = 0, bytes = 0;
    for (const Chunk& c : chunks) {
        if (with_counts) points = sizes.code(coder, points, static_cast<std::int32_t>(c.count), 0);
        bytes = sizes.code(coder, bytes, static_cast<std::int32_t>(c.bytes), 1);
    }
    return out + coder.finish();
}

// The chunks read last, newest first. Export reads in sequence and pages in order of place: a few are enough.
struct LazRecords::Cache {
    static constexpr std::size_t kKept = 6;
    std::mutex mutex;
    std::list<std::pair<std::size_t, std::shared_ptr<const std::vector<std::byte>>>> chunks;
    std::vector<std::unique_ptr<ChunkDecoder>>
        idle;  // decoders with their models, for the next who needs one
};

LazRecords::LazRecords(std::shared_ptr<const InputFile> file, cloud::RecordLayout layout, Scheme scheme,
                       std::vector<Chunk> chunks)
    : file_(std::move(file)),
      layout_(std::move(layout)),
      scheme_(scheme),
      chunks_(std::move(chunks)),
      cache_(std::make_unique<Cache>()) {}
LazRecords::~LazRecords() = default;

std::vector<std::byte> LazRecords::decode(const Chunk& c) const {
    const std::vector<std::byte> bytes = read_bytes(*file_, c.offset, c.bytes);
    std::unique_ptr<ChunkDecoder> decoder;
    {
        const std::lock_guard guard(cache_->mutex);
        if (!cache_->idle.empty()) {
            decoder = std::move(cache_->idle.back());
            cache_->idle.pop_back();
        }
    }
    if (!decoder) decoder = std::make_unique<ChunkDecoder>(scheme_);
    std::vector<std::byte> records(c.count * layout_.record_bytes);
    try {
        decoder->decode(bytes, records);
    } catch (const Error& e) {
        throw Error(ErrorCode::Format, sentence(e),
                    fmt::format("{}, points {} to {}", file_->place(c.offset), c.first, c.first + c.count));
    }
    const std::lock_guard guard(cache_->mutex);
    cache_->idle.push_back(std::move(decoder));
    return records;
}

void LazRecords::read(std::uint64_t first, std::span<std::byte> out) const {
    const std::size_t step = layout_.record_bytes;
    while (!out.empty()) {
        const auto after = std::upper_bound(chunks_.begin(), chunks_.end(), first,
                                            [](std::uint64_t f, const Chunk& c) { return f < c.first; });
        if (after == chunks_.begin() || first >= count())
            throw Error(ErrorCode::Usage, "Records beyond the end were asked for");
        const auto k = static_cast<std::size_t>(after - chunks_.begin()) - 1;
        std::shared_ptr<const std::vector<std::byte>> records;
        {
            const std::lock_guard guard(cache_->mutex);
            for (auto i = cache_->chunks.begin(); i != cache_->chunks.end(); ++i)
                if (i->first == k) {
                    records = i->second;
                    cache_->chunks.splice(cache_->chunks.begin(), cache_->chunks, i);
                    break;
                }
        }
        if (!records) {
            records = std::make_shared<const std::vector<std::byte>>(decode(chunks_[k]));
            const std::lock_guard guard(cache_->mutex);
            cache_->chunks.emplace_front(k, records);
            if (cache_->chunks.size() > Cache::kKept) cache_->chunks.pop_back();
        }
        const std::size_t from = (first - chunks_[k].first) * step;
        const std::size_t n = std::min(out.size(), records->size() - from);
        std::memcpy(out.data(), records->data() + from, n);
        out = out.subspan(n);
        first += n / step;
    }
}

void LazRecords::drop(const std::vector<char>& damaged) {
    std::vector<Chunk> whole;
    std::uint64_t first = 0;
    for (std::size_t k = 0; k < chunks_.size(); ++k) {
        if (damaged[k]) continue;
        whole.push_back(chunks_[k]);
        whole.back().first = first;
        first += whole.back().count;
    }
    chunks_ = std::move(whole);
    cache_->chunks.clear();
}

}  // namespace pristine::io::laz
