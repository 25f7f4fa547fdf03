// Progress and cancellation of a long computation, seen from both sides.
//
// The worker calls advance(); whoever watches reads fraction() and label() and may call cancel(), from any
// thread.

#pragma once

#include <atomic>
#include <mutex>
#include <string>

#include "core/base/error.h"

namespace pristine {

class Progress {
  public:
    /// A sink for callers who neither watch nor cancel.
    static Progress& none() {
        static Progress sink;
        return sink;
    }

    /// Sets the share done, mapped into the current stretch, and throws Cancelled if asked to stop. 0 <=
    /// fraction <= 1.
    void advance(double fraction) {
        const double lo = lo_.load(std::memory_order_relaxed), hi = hi_.load(std::memory_order_relaxed);
        fraction_.store(lo + (hi - lo) * fraction, std::memory_order_relaxed);
        check();
    }
    /// Throws Cancelled if asked to stop.
    void check() const {
        if (cancelled_.load(std::memory_order_relaxed)) throw Cancelled();
    }
    /// What follows fills the stretch lo..hi of the whole, under this name ("Reading points").
    void stretch(double lo, double hi, const std::string& label) {
        lo_ = lo;
        hi_ = hi;
        fraction_ = lo;
        const std::lock_guard<std::mutex> guard(mutex_);
        label_ = label;
    }

    void cancel() { cancelled_ = true; }
    bool cancelled() const { return cancelled_; }
    double fraction() const { return fraction_; }
    std::string label() const {
        const std::lock_guard<std::mutex> guard(mutex_);
        return label_;
    }

  private:
    std::atomic<double> fraction_{0}, lo_{0}, hi_{1};
    std::atomic<bool> cancelled_{false};
    mutable std::mutex mutex_;
    std::string label_;
};

}  // namespace pristine
