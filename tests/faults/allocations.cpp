// operator new that can be told to fail. Of this thread only: what others allocate is not counted, so that
// the n-th allocation is the same one every time.

#include <cstddef>
#include <cstdlib>
#include <new>

#include "faults.h"

namespace {

thread_local long allocated = 0;
thread_local long fault_at = 0;
thread_local std::size_t least = 0;

void* get(std::size_t n, std::size_t alignment) {
    allocated += n >= least;
    if (n >= least && fault_at != 0 && allocated == fault_at) throw std::bad_alloc();
    void* at = alignment <= alignof(std::max_align_t)
                   ? std::malloc(n == 0 ? 1 : n)
                   : std::aligned_alloc(alignment, (n + alignment - 1) / alignment * alignment);
    if (!at) throw std::bad_alloc();
    return at;
}

}  // namespace

namespace pristine::test {

void fail_allocation(long n, std::size_t least_bytes) {
    allocated = 0;
    least = least_bytes;
    fault_at = n;
}
long allocations() {
    return allocated;
}

}  // namespace pristine::test

void* operator new(std::size_t n) {
    return get(n, 1);
}
void* operator new[](std::size_t n) {
    return get(n, 1);
}
void* operator new(std::size_t n, std::align_val_t a) {
    return get(n, static_cast<std::size_t>(a));
}
void* operator new[](std::size_t n, std::align_val_t a) {
    return get(n, static_cast<std::size_t>(a));
}
void operator delete(void* at) noexcept {
    std::free(at);
}
void operator delete[](void* at) noexcept {
    std::free(at);
}
void operator delete(void* at, std::size_t) noexcept {
    std::free(at);
}
void operator delete[](void* at, std::size_t) noexcept {
    std::free(at);
}
void operator delete(void* at, std::align_val_t) noexcept {
    std::free(at);
}
void operator delete[](void* at, std::align_val_t) noexcept {
    std::free(at);
}
void operator delete(void* at, std::size_t, std::align_val_t) noexcept {
    std::free(at);
}
void operator delete[](void* at, std::size_t, std::align_val_t) noexcept {
    std::free(at);
}
