// A column that is made page by page, in memory or in a scratch file.

#pragma once

#include <memory>
#include <utility>
#include <vector>

#include "core/elements/page_file.h"
#include "core/elements/paged_array.h"

namespace pristine {

/// Fills a column page by page, in memory or in a scratch file.
template <class T>
class ColumnWriter {
  public:
    ColumnWriter() = default;
    /// Held in memory.
    explicit ColumnWriter(std::uint64_t count) : count_(count), pages_(pages_for(count)) {}
    /// In the file, from `offset` on, which is moved behind the column. Throws Error(Io).
    ColumnWriter(std::uint64_t count, std::shared_ptr<ScratchFile> file, std::uint64_t& offset)
        : count_(count), in_file_(std::make_shared<PageColumn<T>>(std::move(file), offset, count)) {
        offset += pages_for(count) * PageColumn<T>::kPageBytes;
    }
    /// Each page once; different pages from different threads. Throws Error(Io).
    void put(std::size_t p, std::vector<T> values) {
        if (in_file_)
            in_file_->put(p, values);
        else
            pages_[p] = std::make_shared<std::vector<T>>(std::move(values));
    }
    PagedArray<T> finish() {
        return in_file_ ? PagedArray<T>(count_, std::move(in_file_))
                        : PagedArray<T>(count_, std::move(pages_));
    }

  private:
    std::uint64_t count_ = 0;
    std::vector<typename PagedArray<T>::PagePtr> pages_;
    std::shared_ptr<PageColumn<T>> in_file_;
};

}  // namespace pristine
