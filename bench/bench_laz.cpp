// How fast LAZ is decoded and encoded, for comparing with other decoders in one run
// (bench/laz_against_others).
//   bench_laz FILE.laz

#include <fmt/format.h>

#include "bench_support.h"
#include "core/base/file.h"
#include "core/base/parallel.h"
#include "core/io/las/las.h"
#include "core/io/laz/chunk.h"
#include "core/io/laz/laz.h"

using namespace pristine;

int main(int argc, char** argv) {
    if (argc != 2) return 2;
    const auto file = std::make_shared<const InputFile>(argv[1]);
    const io::LasHeader h = io::read_las_header(*file);
    std::vector<std::string> warnings;
    io::laz::Scheme scheme;
    for (const io::LasVlr& v : io::read_las_vlrs(*file, h, warnings))
        if (v.id == 22204) scheme = io::laz::parse_scheme(v.data, h.point_format, h.record_bytes);
    const auto chunks = io::laz::find_chunks(*file, h, scheme, false, warnings);
    cloud::RecordLayout layout;
    layout.record_bytes = h.record_bytes;
    const io::laz::LazRecords records(file, layout, scheme, chunks);
    const auto n = static_cast<double>(h.point_count) / 1e6;
    const auto decode = [&] {
        parallel::for_each(chunks.size(), [&](std::size_t k) { records.decode(chunks[k]); });
    };
    double one = 0;
    {
        const parallel::WorkerLimit limit(1);
        one = bench::median_seconds(3, decode);
    }
    const double two = bench::median_seconds(3, decode);
    std::vector<std::vector<std::byte>> raw;
    for (std::size_t k = 0; k < chunks.size(); ++k) raw.push_back(records.decode(chunks[k]));
    const double encode = bench::seconds([&] {
        io::laz::ChunkEncoder encoder(scheme);
        for (const auto& r : raw) encoder.encode(r);
    });
    fmt::print(
        "ours: decoding {:.2f} M points: one core {:.3f} s ({:.1f} M/s), all cores {:.3f} s; encoding, one "
        "core {:.3f} s\n",
        n, one, n / one, two, encode);
}
