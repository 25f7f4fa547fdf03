// Sums of many numbers with an error that does not grow with their count (Neumaier 1974).

#pragma once

#include <cmath>

namespace pristine::measure {

/// A sum that loses no digits to the order of what is added.
class Sum {
  public:
    void add(double v) {
        const double s = sum_ + v;
        rest_ += std::fabs(sum_) >= std::fabs(v) ? (sum_ - s) + v : (v - s) + sum_;
        sum_ = s;
    }
    void add(const Sum& o) {
        add(o.sum_);
        add(o.rest_);
    }
    double value() const { return sum_ + rest_; }

  private:
    double sum_ = 0, rest_ = 0;
};

}  // namespace pristine::measure
