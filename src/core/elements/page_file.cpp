#include "core/elements/page_file.h"

#include <sys/mman.h>

#include <algorithm>
#include <mutex>

#include "core/base/error.h"
#include "core/base/memory.h"

namespace pristine {
namespace {

// After this many bytes came in, what is resident is measured.
constexpr std::uint64_t kMeasureEvery = std::uint64_t{16} << 20;

// All mapped units of the program, and the clock's hand.
class Clock {
  public:
    static Clock& instance() {
        static Clock clock;
        return clock;
    }

    void add(const MappedUnits* units) {
        const std::lock_guard guard(mutex_);
        all_.push_back(units);
    }
    void remove(const MappedUnits* units) {
        const std::lock_guard guard(mutex_);
        all_.erase(std::find(all_.begin(), all_.end(), units));
        at_ = unit_ = 0;
    }
    void arrived(std::uint64_t bytes) {
        if (arrived_.fetch_add(bytes) + bytes < kMeasureEvery) return;
        const std::unique_lock lock(mutex_, std::try_to_lock);
        if (!lock) return;  // somebody is making room already
        arrived_ = 0;
        make_room();
    }

  private:
    // Two rounds at most: the first takes the mark of use away, the second the memory.
    void make_room() {
        const std::uint64_t budget = memory_budget(), low = budget - budget / 8;
        std::uint64_t resident = resident_now();
        if (resident <= budget) return;
        std::size_t left = 0;
        for (const MappedUnits* u : all_) left += 2 * u->units();
        // The whole of a unit need not have been resident; hence measured again until it suffices.
        while (resident > low && left > 0) {
            std::uint64_t given = 0;
            const std::uint64_t wanted = resident - low;
            for (; left > 0 && given < wanted; --left) {
                while (unit_ >= all_[at_]->units()) {
                    at_ = (at_ + 1) % all_.size();
                    unit_ = 0;
                }
                given += all_[at_]->pass(unit_++);
            }
            resident = resident_now();
        }
    }

    std::mutex mutex_;
    std::vector<const MappedUnits*> all_;
    std::size_t at_ = 0, unit_ = 0;
    std::atomic<std::uint64_t> arrived_{0};
};

}  // namespace

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
    Clock::instance().add(this);
}

MappedUnits::~MappedUnits() {
    Clock::instance().remove(this);
    ::munmap(base_, std::max<std::size_t>(1, units_ * unit_bytes_));
}

void MappedUnits::arrive(std::size_t unit) const {
    if (states_[unit].exchange(kInUse) == kAbsent) Clock::instance().arrived(unit_bytes_);
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
