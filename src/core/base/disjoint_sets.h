// Which of many things belong together, told pair by pair (union-find, Tarjan 1975, with path halving).

#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <numeric>
#include <vector>

namespace pristine {

/// Sets of numbers 0 to n that are joined, with path halving (Tarjan 1975).
class DisjointSets {
  public:
    explicit DisjointSets(std::size_t n) : parent_(n) { std::iota(parent_.begin(), parent_.end(), 0); }
    /// The least of the things that belong together with i.
    std::int32_t find(std::int32_t i) {
        while (at(i) != i) i = at(i) = at(at(i));
        return i;
    }
    void join(std::int32_t a, std::int32_t b) {
        a = find(a);
        b = find(b);
        at(std::max(a, b)) = std::min(a, b);
    }

  private:
    std::int32_t& at(std::int32_t i) { return parent_[static_cast<std::size_t>(i)]; }
    std::vector<std::int32_t> parent_;
};

}  // namespace pristine
