// Vectors that may be larger than the memory budget: those that do not fit lie in a scratch file that is
// mapped into memory, and the budget is kept by giving parts of them back (give_back.h). For working memory
// of size n; whoever goes through it in an order that stays near where it was loses little.

#pragma once

#include <cstddef>
#include <limits>
#include <new>
#include <vector>

namespace pristine {

/// Aligned to 64 bytes. Throws std::bad_alloc, Error(Io).
void* spill_allocate(std::size_t bytes);
void spill_free(void* at, std::size_t bytes) noexcept;

/// Allocator of SpillVector (spill_allocate).
template <class T>
struct SpillAllocator {
    using value_type = T;
    SpillAllocator() = default;
    template <class U>
    explicit SpillAllocator(const SpillAllocator<U>&) {}
    T* allocate(std::size_t n) {
        if (n > std::numeric_limits<std::size_t>::max() / sizeof(T)) throw std::bad_array_new_length();
        return static_cast<T*>(spill_allocate(n * sizeof(T)));
    }
    void deallocate(T* at, std::size_t n) noexcept { spill_free(at, n * sizeof(T)); }
    friend bool operator==(const SpillAllocator&, const SpillAllocator&) { return true; }
};

template <class T>
using SpillVector = std::vector<T, SpillAllocator<T>>;

}  // namespace pristine
