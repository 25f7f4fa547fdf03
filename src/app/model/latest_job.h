// Work of which only the newest matters: a new start cancels the one before it, and its result is never seen.

#pragma once

#include <functional>
#include <memory>

#include "app/model/jobs.h"

namespace pristine::app {

class LatestJob {
  public:
    explicit LatestJob(Jobs* jobs) : jobs_(jobs) {}
    ~LatestJob() { drop(); }
    LatestJob(const LatestJob&) = delete;
    LatestJob& operator=(const LatestJob&) = delete;

    using Failed = std::function<void(const QString&)>;
    /// Fills a T in the background, then hands it to `done` on this thread, unless there was another start or
    /// drop() meanwhile. `failed` likewise, with an empty text when a person cancelled it; null: the signal
    /// of Jobs tells an error.
    template <class T>
    void start(const QString& title, std::function<void(Progress&, T&)> work, std::function<void(T&)> done,
               Failed failed = {}, Jobs::Show show = Jobs::Show::Always) {
        drop();
        const auto mine = std::make_shared<char>();
        newest_ = mine;
        const auto result = std::make_shared<T>();
        running_ = jobs_->start(
            title, [work = std::move(work), result](Progress& p) { work(p, *result); },
            [mine = std::weak_ptr<char>(mine), result, done = std::move(done)] {
                if (!mine.expired()) done(*result);
            },
            [jobs = jobs_, mine = std::weak_ptr<char>(mine),
             failed = std::move(failed)](const Jobs::Failure& why) {
                if (mine.expired()) return;
                if (failed)
                    failed(why.message);
                else if (!why.message.isEmpty())
                    emit jobs->failed(why.message);
            },
            show);
    }
    /// Nobody wants the result any more.
    void drop() {
        newest_.reset();
        if (const auto p = running_.lock()) p->cancel();
        running_.reset();
    }

  private:
    Jobs* jobs_;
    std::shared_ptr<char> newest_;  // lives as long as its result is wanted
    Jobs::Handle running_;
};

}  // namespace pristine::app
