#include "core/elements/page_file.h"

#include <sys/mman.h>

#include <algorithm>

#include "core/base/error.h"
#include "core/base/give_back.h"

namespace pristine {
MappedUnits::MappedUnits(std::shared_ptr<ScratchFile> file, std::uint64_t offset, std::size_t units,
                         std::size_t unit_bytes)
    : file_(std::move(file)),
      offset_(offset),
      units_(units),
      unit_bytes_(unit_bytes),
      states_(std::make_unique<std::atomic<std::uint8_t>[]>(units)) {
    void* at = ::mmap(nullptr, std::max<std::size_t>(1, units * unit_bytes), PROT_READ, MAP_SHARED,
                      file_->descriptor(), static_cast<off_t>(offset));
    if (at == MAP_FAILED) throw Error(ErrorCode::Io, "A scratch file could not be mapped into memory");
    base_ = static_cast<std::byte*>(at);
    take_part(this);
}

MappedUnits::~MappedUnits() {
    forget(this);
    ::munmap(base_, std::max<std::size_t>(1, units_ * unit_bytes_));
}

void MappedUnits::arrive(std::size_t unit) const {
    if (states_[unit].exchange(kInUse) == kAbsent) arrived(unit_bytes_);
}

std::size_t MappedUnits::pass(std::size_t unit) const {
    std::uint8_t state = states_[unit].load();
    if (state == kAbsent) return 0;
    if (state == kInUse) {
        states_[unit].compare_exchange_strong(state, kIdle);
        return 0;
    }
    if (!states_[unit].compare_exchange_strong(state, kAbsent)) return 0;
    // A reader that is still in it finds the same bytes again: they come back from the file.
    ::madvise(base_ + unit * unit_bytes_, unit_bytes_, MADV_DONTNEED);
    return unit_bytes_;
}

}  // namespace pristine
