#include "core/base/give_back.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <mutex>
#include <thread>
#include <vector>

#include "core/base/memory.h"

namespace pristine {
namespace {

// After this many bytes came in, what is resident is measured.
constexpr std::uint64_t kMeasureEvery = std::uint64_t{16} << 20;
constexpr std::chrono::milliseconds kWatchEvery{20};

// Everything that gives back, and the clock's hand.
class Clock {
  public:
    static Clock& instance() {
        static Clock clock;
        return clock;
    }

    void add(const GivesBack* one) {
        const std::lock_guard guard(mutex_);
        all_.push_back(one);
    }
    void remove(const GivesBack* one) {
        const std::lock_guard guard(mutex_);
        all_.erase(std::find(all_.begin(), all_.end(), one));
        at_ = part_ = 0;
    }
    void arrived(std::uint64_t bytes) {
        if (arrived_.fetch_add(bytes) + bytes < kMeasureEvery) return;
        const std::unique_lock lock(mutex_, std::try_to_lock);
        if (!lock) return;  // somebody is making room already
        arrived_ = 0;
        make_room();
    }
    void look() {
        const std::lock_guard guard(mutex_);
        make_room();
    }

  private:
    // Two rounds at most: the first takes the mark of use away, the second the memory.
    void make_room() {
        const std::uint64_t budget = memory_budget(), low = budget - budget / 8;
        std::uint64_t resident = resident_now();
        if (resident <= budget) return;
        std::size_t left = 0;
        for (const GivesBack* one : all_) left += 2 * one->parts();
        // The whole of a part need not have been resident; hence measured again until it suffices.
        while (resident > low && left > 0) {
            std::uint64_t given = 0;
            const std::uint64_t wanted = resident - low;
            for (; left > 0 && given < wanted; --left) {
                while (part_ >= all_[at_]->parts()) {
                    at_ = (at_ + 1) % all_.size();
                    part_ = 0;
                }
                given += all_[at_]->pass(part_++);
            }
            resident = resident_now();
        }
    }

    std::mutex mutex_;
    std::vector<const GivesBack*> all_;
    std::size_t at_ = 0, part_ = 0;
    std::atomic<std::uint64_t> arrived_{0};
};

// Looks at the clock now and then while there is something whose arrivals nobody counts.
class Watch {
  public:
    static Watch& instance() {
        static Watch watch;
        return watch;
    }
    ~Watch() { stop(); }

    void begin() {
        const std::lock_guard guard(users_mutex_);
        if (users_++ > 0) return;
        stopping_ = false;
        thread_ = std::thread([this] {
            std::unique_lock lock(mutex_);
            while (!wake_.wait_for(lock, kWatchEvery, [this] { return stopping_; })) Clock::instance().look();
        });
    }
    void end() {
        const std::lock_guard guard(users_mutex_);
        if (--users_ == 0) stop();
    }

  private:
    void stop() {
        {
            const std::lock_guard guard(mutex_);
            stopping_ = true;
        }
        wake_.notify_all();
        if (thread_.joinable()) thread_.join();
    }

    std::mutex users_mutex_, mutex_;
    std::condition_variable wake_;
    std::size_t users_ = 0;
    bool stopping_ = false;
    std::thread thread_;
};

}  // namespace

void take_part(const GivesBack* one, bool watched) {
    Clock::instance().add(one);
    if (watched) Watch::instance().begin();
}

void forget(const GivesBack* one, bool watched) {
    if (watched) Watch::instance().end();
    Clock::instance().remove(one);
}

void arrived(std::uint64_t bytes) {
    Clock::instance().arrived(bytes);
}

}  // namespace pristine
