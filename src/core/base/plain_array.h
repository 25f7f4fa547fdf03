// Large arrays of plain numbers on large pages.

#pragma once

#include <sys/mman.h>

#include <cstddef>
#include <cstdint>
#include <new>
#include <type_traits>
#include <utility>

namespace pristine {

/// An array of `size` elements that are not set; throws std::bad_alloc. From a few megabytes on the system is
/// asked for pages of two megabytes: what is read here and there then misses the table of pages less, and is
/// not given page by page.
template <class T>
requires std::is_trivially_copyable_v<T>
class PlainArray {
  public:
    explicit PlainArray(std::size_t size) : size_(size), bytes_(size * sizeof(T)) {
        if (bytes_ < kLarge) {
            data_ = static_cast<T*>(::operator new(bytes_));
            return;
        }
        void* at =
            ::mmap(nullptr, bytes_ + kLarge, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
        if (at == MAP_FAILED) throw std::bad_alloc();
        base_ = at;
        const auto address = reinterpret_cast<std::uintptr_t>(at);
        data_ = reinterpret_cast<T*>((address + kLarge - 1) / kLarge * kLarge);
        ::madvise(data_, bytes_, MADV_HUGEPAGE);
    }
    ~PlainArray() {
        if (base_)
            ::munmap(base_, bytes_ + kLarge);
        else
            ::operator delete(data_);
    }
    PlainArray(PlainArray&& o) noexcept
        : size_(o.size_),
          bytes_(o.bytes_),
          base_(std::exchange(o.base_, nullptr)),
          data_(std::exchange(o.data_, nullptr)) {}
    PlainArray(const PlainArray&) = delete;
    PlainArray& operator=(const PlainArray&) = delete;

    std::size_t size() const { return size_; }
    T* data() { return data_; }
    const T* data() const { return data_; }
    T* begin() { return data_; }
    T* end() { return data_ + size_; }
    const T* begin() const { return data_; }
    const T* end() const { return data_ + size_; }
    T& operator[](std::size_t i) { return data_[i]; }
    const T& operator[](std::size_t i) const { return data_[i]; }

  private:
    static constexpr std::size_t kLarge = std::size_t{2} << 20;
    std::size_t size_, bytes_;
    void* base_ = nullptr;
    T* data_ = nullptr;
};

}  // namespace pristine
