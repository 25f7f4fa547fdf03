// What takes part gives back when the program holds more than its budget, and only then.

#include "core/base/give_back.h"

#include <catch2/catch.hpp>

#include <sys/mman.h>

#include <atomic>
#include <cstring>

#include "core/base/memory.h"

using namespace pristine;

namespace {

constexpr std::size_t kPart = std::size_t{4} << 20;

// Blocks of memory that are asked for, and dropped when the hand passes a second time.
class Blocks : public GivesBack {
  public:
    explicit Blocks(std::size_t n) : n_(n), asked_(n), passes_(n) {
        at_ = static_cast<char*>(
            mmap(nullptr, n * kPart, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0));
        take_part(this);
    }
    ~Blocks() override {
        forget(this);
        munmap(at_, n_ * kPart);
    }
    void fill(std::size_t part) {
        std::memset(at_ + part * kPart, 7, kPart);
        asked_[part] = true;
        arrived(kPart);
    }
    std::size_t parts() const override { return n_; }
    std::size_t pass(std::size_t part) const override {
        ++passes_[part];
        if (asked_[part].exchange(false)) return 0;
        madvise(at_ + part * kPart, kPart, MADV_DONTNEED);
        return kPart;
    }
    std::size_t passed() const {
        std::size_t n = 0;
        for (const auto& p : passes_) n += p;
        return n;
    }

  private:
    std::size_t n_;
    char* at_ = nullptr;
    mutable std::vector<std::atomic<bool>> asked_;
    mutable std::vector<std::atomic<std::size_t>> passes_;
};

struct Budget {
    std::uint64_t before = memory_budget();
    ~Budget() { set_memory_budget(before); }
};

}  // namespace

TEST_CASE("MemoryIsGivenBackBeyondTheBudgetOnly") {
    const Budget keep;
    set_memory_budget(resident_now() + (std::uint64_t{1} << 30));
    Blocks blocks(128);  // 512 MiB
    for (std::size_t p = 0; p < 16; ++p) blocks.fill(p);
    CHECK(blocks.passed() == 0);
    // Now less than what is to come.
    set_memory_budget(std::max<std::uint64_t>(resident_now() + 32 * kPart, std::uint64_t{256} << 20));
    const std::uint64_t budget = memory_budget();
    for (std::size_t p = 0; p < 128; ++p) blocks.fill(p);
    CHECK(blocks.passed() > 0);
    CHECK(resident_now() < budget + 48 * kPart);
}

TEST_CASE("WhatIsForgottenIsNotAskedAgain") {
    const Budget keep;
    std::size_t before = 0;
    {
        Blocks gone(4);
        gone.fill(0);
        before = gone.passed();
    }
    set_memory_budget(std::uint64_t{256} << 20);
    Blocks other(4);
    for (int turn = 0; turn < 50; ++turn) other.fill(0);  // would call into what is gone
    CHECK(before <= 4);
}
