// Progress and cancellation of a long computation, seen from both sides.
//
// The worker calls advance(); whoever watches reads fraction() and label() and may call cancel(), from any
// thread.

#pragma once

#include <algorithm>
#include <atomic>
#include <mutex>
#include <string>

#include "core/base/error.h"

namespace pristine {

/// What long work says of itself, and whether it is still wanted. The work calls, another thread reads.
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
        const double now = lo + (hi - lo) * fraction;
        if (whole() || now > fraction_.load(std::memory_order_relaxed))
            fraction_.store(now, std::memory_order_relaxed);
        check();
    }
    /// Throws Cancelled if asked to stop.
    void check() const {
        if (cancelled_.load(std::memory_order_relaxed)) throw Cancelled();
    }
    /// What follows fills the stretch lo..hi of the whole, or of the Part that is open, under this name
    /// ("Reading points"). Of one thread at a time, like Part.
    void stretch(double lo, double hi, const std::string& label) {
        lo_ = from_ + (to_ - from_) * lo;
        hi_ = from_ + (to_ - from_) * hi;
        // Inside a part what is done again does not run backwards.
        fraction_ = whole() ? lo_.load() : std::max(fraction_.load(), lo_.load());
        const std::lock_guard<std::mutex> guard(mutex_);
        label_ = label;
    }

    /// While it lives, the whole is lo..hi of what was the whole before: for a call that has stretches of its
    /// own.
    class Part {
      public:
        Part(Progress& progress, double lo, double hi, const std::string& label)
            : progress_(progress), from_(progress.from_), to_(progress.to_) {
            progress.stretch(lo, hi, label);
            progress.from_ = progress.lo_.load();
            progress.to_ = progress.hi_.load();
        }
        ~Part() {
            progress_.from_ = from_;
            progress_.to_ = to_;
        }
        Part(const Part&) = delete;
        Part& operator=(const Part&) = delete;

      private:
        Progress& progress_;
        double from_, to_;
    };

    void cancel() { cancelled_ = true; }
    bool cancelled() const { return cancelled_; }
    double fraction() const { return fraction_; }
    std::string label() const {
        const std::lock_guard<std::mutex> guard(mutex_);
        return label_;
    }

  private:
    bool whole() const { return from_ == 0 && to_ == 1; }
    std::atomic<double> fraction_{0}, lo_{0}, hi_{1}, from_{0}, to_{1};
    std::atomic<bool> cancelled_{false};
    mutable std::mutex mutex_;
    std::string label_;
};

}  // namespace pristine
