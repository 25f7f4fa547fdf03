// GDAL's errors become ours where it is called, and are not printed.

#pragma once

#include <cpl_error.h>
#include <gdal_priv.h>

#include <mutex>

namespace pristine::io {

class GdalQuiet {
  public:
    GdalQuiet() {
        static std::once_flag once;
        std::call_once(once, [] { GDALAllRegister(); });
        CPLErrorReset();
        CPLPushErrorHandler(CPLQuietErrorHandler);
    }
    ~GdalQuiet() { CPLPopErrorHandler(); }
    GdalQuiet(const GdalQuiet&) = delete;
    GdalQuiet& operator=(const GdalQuiet&) = delete;
};

}  // namespace pristine::io
