#include <algorithm>

#include "core/base/bytes.h"
#include "core/base/parallel.h"
#include "core/io/laz/chunk.h"
#include "core/io/laz/laz.h"

namespace pristine::io::laz {
namespace {

constexpr std::size_t kChunksAtOnce = 16;

}  // namespace

Writer::Writer(OutputFile& out, std::string before, int point_format, std::size_t record_bytes)
    : out_(out),
      scheme_(scheme_for(point_format, record_bytes)),
      head_(compressed_las_head(before, scheme_bytes(scheme_))) {
    out_.write(head_);
    start_ = out_.written();
    out_.write(std::string(8, '\0'));  // place of the table, known at the end
}

void Writer::write(const std::byte* records, std::size_t count) {
    waiting_.insert(waiting_.end(), records, records + count * scheme_.record_bytes());
    if (waiting_.size() >= kChunksAtOnce * scheme_.chunk_points * scheme_.record_bytes()) flush(false);
}

void Writer::flush(bool all) {
    const std::size_t chunk = scheme_.chunk_points * scheme_.record_bytes();
    const std::size_t count = all ? (waiting_.size() + chunk - 1) / chunk : waiting_.size() / chunk;
    std::vector<std::string> done(count);
    parallel::for_each(count, [&](std::size_t k) {
        const std::size_t from = k * chunk;
        ChunkEncoder encoder(scheme_);
        done[k] = encoder.encode(std::span(waiting_).subspan(from, std::min(chunk, waiting_.size() - from)));
    });
    for (const std::string& c : done) {
        out_.write(c);
        chunks_.push_back({0, c.size(), 0, 0});
    }
    waiting_.erase(waiting_.begin(),
                   waiting_.begin() + static_cast<std::ptrdiff_t>(std::min(count * chunk, waiting_.size())));
}

std::uint64_t Writer::finish() {
    flush(true);
    const std::uint64_t table = out_.written();
    out_.write(chunk_table(chunks_, false));
    out_.write_at(start_, &table, sizeof table);
    return out_.written();
}

}  // namespace pristine::io::laz
