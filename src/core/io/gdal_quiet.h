// GDAL's errors become ours where it is called, and are not printed.

#pragma once

#include <cpl_error.h>
#include <gdal_priv.h>

#include <mutex>
#include <string>

namespace pristine::io {

/// While it lives, GDAL prints nothing of its own.
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

/// Keeps the first failure that GDAL reports while it lives, also of calls that return nothing, as closing
/// does.
class GdalFailures {
  public:
    GdalFailures() { CPLPushErrorHandlerEx(&GdalFailures::note, this); }
    ~GdalFailures() { CPLPopErrorHandler(); }
    GdalFailures(const GdalFailures&) = delete;
    GdalFailures& operator=(const GdalFailures&) = delete;
    /// Empty when there was none.
    const std::string& first() const { return first_; }

  private:
    static void CPL_STDCALL note(CPLErr kind, CPLErrorNum, const char* message) {
        auto& self = *static_cast<GdalFailures*>(CPLGetErrorHandlerUserData());
        if (kind >= CE_Failure && self.first_.empty()) self.first_ = message;
    }
    std::string first_;
};

}  // namespace pristine::io
