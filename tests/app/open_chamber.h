// A window with the first scan of the demo site open, in a folder and a home of its own.

#pragma once

#include "demo/ashmere.h"
#include "support/cloud_makers.h"
#include "window_driver.h"

namespace pristine::test {

struct OpenChamber {
    TemporaryFolder folder;
    WindowDriver w;
    explicit OpenChamber(std::uint64_t points) : w(folder / "home") {
        demo::Options o;
        o.points = points;
        demo::write_site(folder / "ashmere-lock", o);
        REQUIRE(w.open(folder / "ashmere-lock" / "chamber-station-1.las"));
    }
    ~OpenChamber() { w.close(); }
};

}  // namespace pristine::test
