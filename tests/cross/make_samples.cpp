// Writes files for independent decoders to read: for each, what must come out stands beside it.
//   make_samples DIR

#include <fmt/format.h>

#include <filesystem>
#include <iostream>

#include "core/io/cloud_io.h"
#include "core/io/las/las_header.h"
#include "support/cloud_makers.h"

namespace fs = std::filesystem;
using namespace pristine;

namespace {

void laz_sample(const fs::path& folder, const test::LasSpec& spec, const std::string& name) {
    const fs::path las = folder / (name + ".las"), laz = folder / (name + ".laz");
    const std::string bytes = test::las_file(spec);
    test::write_file(las, bytes);
    io::write_cloud({{io::read_cloud(las).cloud, nullptr}}, laz, {true});
    const std::size_t record = io::las_base_bytes(spec.point_format) + spec.extra_bytes;
    test::write_file(
        folder / (name + ".records"),
        bytes.substr(bytes.size() - spec.after.size() - spec.points * record, spec.points * record));
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) return 2;
    try {
        const fs::path folder = argv[1];
        fs::create_directories(folder);
        for (int pf = 0; pf <= 10; ++pf)
            for (const bool scan_like : {false, true})
                for (const std::uint64_t points : {1u, 2u, 700u, 120'000u})
                    for (const std::size_t extra : {0u, 5u}) {
                        if (points == 120'000 && !scan_like) continue;  // random bytes show all in few points
                        test::LasSpec spec;
                        spec.minor = pf >= 6 ? 4 : 3;
                        spec.point_format = pf;
                        spec.points = points;
                        spec.extra_bytes = extra;
                        spec.scan_like = scan_like;
                        spec.one_channel = extra > 0;
                        spec.seed = points + static_cast<std::uint64_t>(pf);
                        laz_sample(
                            folder, spec,
                            fmt::format("laz-{}-{}-{}-{}", pf, scan_like ? "scan" : "random", points, extra));
                    }
    } catch (const std::exception& e) {
        std::cerr << e.what() << "\n";
        return 1;
    }
    return 0;
}
