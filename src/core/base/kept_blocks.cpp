#include "core/base/kept_blocks.h"

#include <malloc.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <mutex>
#include <new>

#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
#define PRISTINE_PLAIN_NEW 1
#elif defined(__has_feature)
#if __has_feature(address_sanitizer) || __has_feature(thread_sanitizer)
#define PRISTINE_PLAIN_NEW 1
#endif
#endif

namespace pristine {
namespace {

constexpr std::size_t kLeastBlock = 128 * 1024, kMostBlock = std::size_t{16} << 20;

// In the order in which they came. Must work before any constructor has run and after all destructors have.
class Kept {
  public:
    // A block of at least that size, and not much larger; null: none.
    void* take(std::size_t size) {
        const std::lock_guard guard(mutex_);
        std::size_t best = count_;
        for (std::size_t i = 0; i < count_; ++i)
            if (blocks_[i].size >= size && blocks_[i].size <= size + size / 4 &&
                (best == count_ || blocks_[i].size < blocks_[best].size))
                best = i;
        return best == count_ ? nullptr : remove(best);
    }
    // Keeps a block; what has to go for it is freed.
    void put(void* block, std::size_t size) {
        for (;;) {
            void* oldest = nullptr;
            {
                const std::lock_guard guard(mutex_);
                if (count_ < blocks_.size() && bytes_ + size <= kMostKept) {
                    blocks_[count_++] = {block, size};
                    bytes_ += size;
                    return;
                }
                oldest = remove(0);
            }
            std::free(oldest);
        }
    }
    void clear() {
        for (;;) {
            void* oldest = nullptr;
            {
                const std::lock_guard guard(mutex_);
                if (count_ == 0) return;
                oldest = remove(0);
            }
            std::free(oldest);
        }
    }
    std::size_t bytes() {
        const std::lock_guard guard(mutex_);
        return bytes_;
    }

  private:
    struct Block {
        void* at = nullptr;
        std::size_t size = 0;
    };
    void* remove(std::size_t i) {
        void* at = blocks_[i].at;
        bytes_ -= blocks_[i].size;
        std::copy(blocks_.begin() + static_cast<std::ptrdiff_t>(i) + 1,
                  blocks_.begin() + static_cast<std::ptrdiff_t>(count_),
                  blocks_.begin() + static_cast<std::ptrdiff_t>(i));
        --count_;
        return at;
    }
    std::mutex mutex_;
    std::array<Block, 128> blocks_{};
    std::size_t count_ = 0, bytes_ = 0;
};
constinit Kept g_kept;

}  // namespace

bool keeps_blocks() {
#ifdef PRISTINE_PLAIN_NEW
    return false;
#else
    return true;
#endif
}

std::size_t kept_blocks() {
    return g_kept.bytes();
}

void let_kept_blocks_go() {
    g_kept.clear();
}

namespace {

[[maybe_unused]] void* allocate(std::size_t size) {
    if (size >= kLeastBlock && size <= kMostBlock)
        if (void* kept = g_kept.take(size)) return kept;
    for (;;) {
        if (void* fresh = std::malloc(size == 0 ? 1 : size)) return fresh;
        const std::new_handler handler = std::get_new_handler();
        if (!handler) throw std::bad_alloc();
        handler();
    }
}

[[maybe_unused]] void release(void* block) noexcept {
    const std::size_t size = block ? ::malloc_usable_size(block) : 0;
    if (size >= kLeastBlock && size <= kMostBlock)
        g_kept.put(block, size);
    else
        std::free(block);
}

}  // namespace
}  // namespace pristine

#ifndef PRISTINE_PLAIN_NEW
// The other forms of new and delete end in these.
void* operator new(std::size_t size) {
    return pristine::allocate(size);
}
void operator delete(void* block) noexcept {
    pristine::release(block);
}
void operator delete(void* block, std::size_t size) noexcept {
    if (size < pristine::kLeastBlock)
        std::free(block);
    else
        pristine::release(block);
}
#endif
