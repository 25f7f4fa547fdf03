// The first scan of the demo site as a file, for tests that open it themselves.

#pragma once

#include "demo/ashmere.h"
#include "support/cloud_makers.h"

namespace pristine::test {

inline std::filesystem::path demo_scan(const TemporaryFolder& f, std::uint64_t points = 150'000) {
    demo::Options o;
    o.points = points;
    o.replace = true;
    demo::write_site(f / "ashmere-lock", o);
    return f / "ashmere-lock" / "chamber-station-1.las";
}

}  // namespace pristine::test
