#include "core/base/spill_vector.h"

#include <sys/mman.h>

#include <map>
#include <memory>
#include <mutex>

#include "core/base/error.h"
#include "core/base/give_back.h"
#include "core/base/memory.h"
#include "core/base/scratch_file.h"

namespace pristine {
namespace {

constexpr std::size_t kPart = std::size_t{1} << 20;
constexpr std::size_t kSmall = std::size_t{8} << 20;  // always in memory
constexpr std::align_val_t kAlign{64}, kLargePage{std::size_t{2} << 20};

// A stretch of a scratch file, mapped for reading and writing. What is given back stays in the file.
class Mapped : public GivesBack {
  public:
    explicit Mapped(std::size_t bytes) : bytes_(bytes), file_(bytes) {
        at_ = ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, file_.descriptor(), 0);
        if (at_ == MAP_FAILED) throw Error(ErrorCode::Io, "A scratch file could not be mapped into memory");
        take_part(this, true);
    }
    ~Mapped() override {
        forget(this, true);
        ::munmap(at_, bytes_);
    }
    Mapped(const Mapped&) = delete;
    Mapped& operator=(const Mapped&) = delete;

    void* at() const { return at_; }
    std::size_t parts() const override { return (bytes_ + kPart - 1) / kPart; }
    std::size_t pass(std::size_t part) const override {
        const std::size_t from = part * kPart, n = std::min(kPart, bytes_ - from);
        ::madvise(static_cast<std::byte*>(at_) + from, n, MADV_DONTNEED);
        return n;
    }

  private:
    std::size_t bytes_;
    ScratchFile file_;
    void* at_ = nullptr;
};

std::mutex mutex;
std::map<void*, std::unique_ptr<Mapped>>& mapped() {
    static std::map<void*, std::unique_ptr<Mapped>> all;
    return all;
}

}  // namespace

void* spill_allocate(std::size_t bytes) {
    if (bytes <= kSmall) return ::operator new(bytes, kAlign);
    if (fits_memory(bytes)) {
        // What is read here and there in much memory misses the table of pages less where they are large.
        void* at = ::operator new(bytes, kLargePage);
        ::madvise(at, bytes, MADV_HUGEPAGE);
        return at;
    }
    auto one = std::make_unique<Mapped>(bytes);
    void* at = one->at();
    const std::lock_guard guard(mutex);
    mapped().emplace(at, std::move(one));
    return at;
}

void spill_free(void* at, std::size_t bytes) noexcept {
    if (bytes > kSmall) {
        std::unique_ptr<Mapped> one;
        {
            const std::lock_guard guard(mutex);
            if (const auto found = mapped().find(at); found != mapped().end()) {
                one = std::move(found->second);
                mapped().erase(found);
            }
        }
        if (one) return;
        return ::operator delete(at, kLargePage);
    }
    ::operator delete(at, kAlign);
}

}  // namespace pristine
