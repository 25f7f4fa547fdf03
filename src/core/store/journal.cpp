#include "core/store/journal.h"

#include <sys/resource.h>
#include <unistd.h>

namespace pristine::store {

Journal::Journal(std::unique_ptr<Project> project, std::function<void()> changed)
    : project_(std::move(project)), changed_(std::move(changed)), thread_([this] { work(); }) {}

Journal::~Journal() {
    {
        const std::lock_guard<std::mutex> guard(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    thread_.join();
}

void Journal::add(Task task) {
    {
        const std::lock_guard<std::mutex> guard(mutex_);
        tasks_.push_back(std::move(task));
    }
    wake_.notify_all();
    if (changed_) changed_();
}

void Journal::commit(const site::Commit& c) {
    add([this, c](Project& p) {
        p.write(c, progress_);
        const std::lock_guard<std::mutex> guard(mutex_);
        safe_ = c.number;
    });
}

void Journal::cursor(std::uint64_t number) {
    add([number](Project& p) { p.set_cursor(number); });
}
void Journal::note(const std::string& key, const std::string& text) {
    add([key, text](Project& p) { p.set_note(key, text); });
}
void Journal::mark_saved(std::uint64_t number) {
    add([number](Project& p) { p.mark_saved(number); });
}

void Journal::retry() {
    {
        const std::lock_guard<std::mutex> guard(mutex_);
        error_.clear();
    }
    wake_.notify_all();
}

Journal::Status Journal::status() const {
    const std::lock_guard<std::mutex> guard(mutex_);
    return {safe_, tasks_.size(), busy_ ? progress_.fraction() : 1, error_};
}

bool Journal::flush() {
    std::unique_lock<std::mutex> lock(mutex_);
    idle_.wait(lock, [&] { return (tasks_.empty() && !busy_) || !error_.empty(); });
    return error_.empty();
}

void Journal::with_project(const std::function<void(Project&)>& work) {
    const std::lock_guard<std::mutex> guard(project_mutex_);
    work(*project_);
}

void Journal::work() {
    ::setpriority(PRIO_PROCESS, static_cast<id_t>(::gettid()),
                  10);  // of this thread only: what the user does comes first
    std::unique_lock<std::mutex> lock(mutex_);
    for (;;) {
        wake_.wait(lock, [&] { return stop_ || (!tasks_.empty() && error_.empty()); });
        if (tasks_.empty() || !error_.empty()) {
            if (stop_) return;
            continue;
        }
        const Task task = tasks_.front();
        busy_ = true;
        progress_.stretch(0, 1, "Writing to the project");
        lock.unlock();
        std::string error;
        try {
            const std::lock_guard<std::mutex> guard(project_mutex_);
            task(*project_);
        } catch (const std::exception& e) {
            error = e.what();
        }
        lock.lock();
        busy_ = false;
        error_ = error;
        if (error.empty()) tasks_.pop_front();  // after a failure it stays in front, for retry()
        lock.unlock();
        idle_.notify_all();
        if (changed_) changed_();
        lock.lock();
    }
}

}  // namespace pristine::store
