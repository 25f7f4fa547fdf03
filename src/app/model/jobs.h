// Long work beside the window: progress, time left, cancel, and the result back on the window's thread.

#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QString>
#include <functional>
#include <list>
#include <memory>
#include <thread>

#include "core/base/error.h"
#include "core/base/progress.h"

namespace pristine::app {

class Jobs : public QObject {
    Q_OBJECT
  public:
    explicit Jobs(QObject* parent = nullptr);
    /// Cancels what runs and waits for it.
    ~Jobs() override;

    using Work = std::function<void(Progress&)>;
    using Done = std::function<void()>;
    /// The sentence of an error, and what can be done about it; an empty sentence after a cancel.
    struct Failure {
        QString message;
        Remedy remedy = Remedy::None;
        operator const QString&() const { return message; }
    };
    using Failed = std::function<void(const Failure&)>;
    /// Whether progress is shown: from the start, or only when it takes longer than half a second, for what
    /// is nearly always short.
    enum class Show { Always, IfLong };
    /// To cancel a job by; expired when it is done.
    using Handle = std::weak_ptr<Progress>;
    /// Runs `work` on a thread of its own; then exactly one of `done` and `failed` on this thread (failed
    /// with an empty sentence after a cancel). Without a `failed` of its own an error goes to the signal. Of
    /// either kind at most so many run at a time as there are cores, and two at least; others wait.
    Handle start(const QString& title, Work work, Done done, Failed failed = {}, Show show = Show::Always);

    bool busy() const { return !jobs_.empty(); }
    /// Title, share done and seconds left (-1: unknown) of the newest job that is shown; empty title: none.
    struct Shown {
        QString title;
        double fraction = 0;
        double seconds_left = -1;
    };
    Shown shown() const;
    void cancel_shown();
    /// Threads that work now.
    std::size_t running() const;

  signals:
    void changed();
    void failed(const QString& message);

  private:
    struct Job {
        QString title;
        Show show = Show::Always;
        std::shared_ptr<Progress> progress = std::make_shared<Progress>();
        QElapsedTimer since{};  // since it runs
        std::thread thread{};   // not joinable: it waits
        Work work;
        Done done;
        Failed failed;
    };
    bool is_shown(const Job&) const;
    void start_waiting();
    void run(Job*);
    void end(Job*, bool ok, const Failure&);
    std::list<std::unique_ptr<Job>> jobs_;
};

}  // namespace pristine::app
