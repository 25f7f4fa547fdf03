// The thread that brings commits to the disk, in order, while the user goes on working.
//
// Laws (tested): 1. Commits reach the file in the order in which they were handed over. 2. status().safe
// names a commit only after it is synced. 3. A failure stops the writing, is reported, and can be tried
// again; nothing is skipped.

#pragma once

#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/store/project.h"

namespace pristine::store {

/// Commits on their way to the disk, in order, by a thread of its own. Safe from the thread that made it.
class Journal {
  public:
    struct Status {
        std::uint64_t safe = 0;   ///< number of the newest commit that is on the disk
        std::size_t waiting = 0;  ///< tasks still to be done
        double fraction = 1;      ///< of the task in work
        std::string error;        ///< why writing stopped; empty while all is well
    };

    /// `changed` is called from the writer's thread after each change of the status.
    explicit Journal(std::unique_ptr<Project> project, std::function<void()> changed = {});
    /// Waits until everything is written.
    ~Journal();
    Journal(const Journal&) = delete;
    Journal& operator=(const Journal&) = delete;

    void commit(const site::Commit&);
    void cursor(std::uint64_t commit_number);
    void note(const std::string& key, const std::string& text);
    void mark_saved(std::uint64_t commit_number);
    /// Tries again after an error.
    void retry();

    Status status() const;
    /// Waits until all is written; false if writing stopped with an error.
    bool flush();
    /// Runs with the project, on the caller's thread, when no write is going on (loading an old snapshot,
    /// copying).
    void with_project(const std::function<void(Project&)>& work);

  private:
    using Task = std::function<void(Project&)>;
    void add(Task task);
    void work();

    std::unique_ptr<Project> project_;
    std::function<void()> changed_;
    mutable std::mutex mutex_;
    std::mutex project_mutex_;
    std::condition_variable wake_, idle_;
    std::deque<Task> tasks_;
    bool stop_ = false, busy_ = false;
    std::string error_;
    std::uint64_t safe_ = 0;
    Progress progress_;
    std::thread thread_;
};

}  // namespace pristine::store
