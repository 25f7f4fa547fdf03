// Columns in a scratch file, mapped into memory: how a cloud larger than memory is worked on.
//
// The mapping keeps every page at a fixed place, so that readers need no handles and nothing can dangle; the
// memory behind a page is given back when the program holds more than its budget (give_back.h), and comes
// back from the file by itself when somebody looks again.

#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "core/base/give_back.h"
#include "core/base/scratch_file.h"
#include "core/elements/page_source.h"

namespace pristine {

/// A mapped stretch of units of equal size, each of which is resident or not. Used through PageColumn.
class MappedUnits : public GivesBack {
  public:
    /// Maps units * unit_bytes of the file from `offset` on, a multiple of 4096, as unit_bytes is. Throws
    /// Error(Io).
    MappedUnits(std::shared_ptr<ScratchFile> file, std::uint64_t offset, std::size_t units,
                std::size_t unit_bytes);
    ~MappedUnits() override;
    MappedUnits(const MappedUnits&) = delete;
    MappedUnits& operator=(const MappedUnits&) = delete;

    /// The bytes of a unit; from now on it counts as resident and in use.
    const std::byte* use(std::size_t unit) const {
        std::atomic<std::uint8_t>& state = states_[unit];
        if (state.load(std::memory_order_relaxed) != kInUse) arrive(unit);
        return base_ + unit * unit_bytes_;
    }
    std::size_t parts() const override { return units_; }
    std::size_t pass(std::size_t unit) const override;
    void write(std::size_t unit, std::span<const std::byte> bytes) {
        file_->write_at(offset_ + unit * unit_bytes_, bytes);
    }

  private:
    static constexpr std::uint8_t kAbsent = 0, kIdle = 1, kInUse = 2;
    void arrive(std::size_t unit) const;

    std::shared_ptr<ScratchFile> file_;
    std::uint64_t offset_;
    std::size_t units_, unit_bytes_;
    std::byte* base_ = nullptr;
    std::unique_ptr<std::atomic<std::uint8_t>[]> states_;
};

/// One column of a page file: written page by page, then read as a PageSource.
template <class T>
class PageColumn : public PageSource<T> {
  public:
    static constexpr std::size_t kPageBytes = kPageSize * sizeof(T);

    PageColumn(std::shared_ptr<ScratchFile> file, std::uint64_t offset, std::uint64_t count)
        : count_(count),
          units_(std::move(file), offset, pages_for(count), kPageBytes),
          heads_(pages_for(count) * kBlocksPerPage * kBlockHead) {}

    /// Different pages may be put from different threads. Throws Error(Io).
    void put(std::size_t p, std::span<const T> page) {
        units_.write(p, std::as_bytes(page));
        for (std::size_t b = 0; b * kBlockSize < page.size(); ++b)
            for (std::size_t i = 0; i < head_length(p, b); ++i)
                heads_[(p * kBlocksPerPage + b) * kBlockHead + i] = page[b * kBlockSize + i];
    }
    std::span<const T> page(std::size_t p) const override {
        return {reinterpret_cast<const T*>(units_.use(p)), page_length(count_, p)};
    }
    std::span<const T> head(std::size_t p, std::size_t b) const override {
        return {heads_.data() + (p * kBlocksPerPage + b) * kBlockHead, head_length(p, b)};
    }

  private:
    std::size_t head_length(std::size_t p, std::size_t b) const {
        return std::min(kBlockHead, page_length(count_, p) - b * kBlockSize);
    }
    std::uint64_t count_;
    MappedUnits units_;
    std::vector<T> heads_;
};

}  // namespace pristine
