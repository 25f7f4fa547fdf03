// An array cut into shared, constant pages. Copying it costs one pointer a page; changing an element copies
// its page. Pages may come from a PageSource instead of being held here.
//
// Laws (tested): 1. A copy never changes when the original is edited. 2. edit(p) makes page p unique and
// leaves every other page shared. 3. An edit of a page that is not shared copies nothing.

#pragma once

#include <cassert>
#include <memory>
#include <span>
#include <vector>

#include "core/elements/page.h"
#include "core/elements/page_source.h"

namespace pristine {

/// One value for each element, in pages that are shared, or fetched when they are read.
template <class T>
class PagedArray {
  public:
    using PageData = std::vector<T>;
    using PagePtr = std::shared_ptr<const PageData>;

    PagedArray() = default;
    /// `count` copies of `value`; all full pages share one.
    explicit PagedArray(std::uint64_t count, T value = {}) : size_(count), pages_(pages_for(count)) {
        if (pages_.empty()) return;
        const auto full = std::make_shared<PageData>(page_length(count, 0), value);
        for (auto& page : pages_) page = full;
        const std::size_t last = page_length(count, pages_.size() - 1);
        if (last != full->size()) pages_.back() = std::make_shared<PageData>(last, value);
    }
    /// From finished pages; each but the last must hold kPageSize elements.
    PagedArray(std::uint64_t count, std::vector<PagePtr> pages) : size_(count), pages_(std::move(pages)) {
        assert(pages_.size() == pages_for(count));
    }

    /// Pages from a source; a page that is edited is held here from then on.
    PagedArray(std::uint64_t count, std::shared_ptr<const PageSource<T>> source)
        : size_(count), pages_(pages_for(count)), source_(std::move(source)) {}

    std::uint64_t size() const { return size_; }
    bool empty() const { return size_ == 0; }
    std::size_t page_count() const { return pages_.size(); }
    std::span<const T> page(std::size_t p) const {
        return pages_[p] ? std::span<const T>(*pages_[p]) : source_->page(p);
    }
    /// Null for a page that a source holds.
    const PagePtr& page_ptr(std::size_t p) const { return pages_[p]; }
    T operator[](std::uint64_t i) const { return value(i / kPageSize, i % kPageSize); }
    /// Element i of page p, without loading the page where the head of its block has it.
    T value(std::size_t p, std::size_t i) const {
        if (pages_[p]) return (*pages_[p])[i];
        const std::size_t in_block = i % kBlockSize;
        return in_block < kBlockHead ? source_->head(p, i / kBlockSize)[in_block] : source_->page(p)[i];
    }
    /// Where element i of page p lies; null for a page that a source holds.
    const T* held(std::size_t p, std::size_t i) const { return pages_[p] ? pages_[p]->data() + i : nullptr; }
    /// The first `count` elements of a block of page p, in one piece.
    const T* block(std::size_t p, std::size_t b, std::size_t count) const {
        if (pages_[p]) return pages_[p]->data() + b * kBlockSize;
        return count <= kBlockHead ? source_->head(p, b).data() : source_->page(p).data() + b * kBlockSize;
    }

    /// Page p for writing; copied first if anyone else holds it.
    std::span<T> edit(std::size_t p) {
        if (pages_[p].use_count() != 1) {
            const std::span<const T> now = page(p);
            pages_[p] = std::make_shared<PageData>(now.begin(), now.end());
        }
        return const_cast<PageData&>(*pages_[p]);  // ours alone now; every page is made as a non-const object
    }

  private:
    std::uint64_t size_ = 0;
    std::vector<PagePtr> pages_;
    std::shared_ptr<const PageSource<T>> source_;
};

}  // namespace pristine
