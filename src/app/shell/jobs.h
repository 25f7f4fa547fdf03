// Long work beside the window: progress, time left, cancel, and the result back on the window's thread.

#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QString>
#include <functional>
#include <list>
#include <memory>
#include <thread>

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
    using Failed = std::function<void(const QString&)>;
    /// Runs `work` on a thread of its own; then exactly one of `done` and `failed` on this thread (failed
    /// with an empty text after a cancel). Without a `failed` of its own an error goes to the signal. A quiet
    /// job shows no progress: for what is nearly always short.
    void start(const QString& title, Work work, Done done, Failed failed = {}, bool quiet = false);

    bool busy() const { return !running_.empty(); }
    /// Title, share done and seconds left (-1: unknown) of the newest job that is not quiet; empty title:
    /// none.
    struct Shown {
        QString title;
        double fraction = 0;
        double seconds_left = -1;
    };
    Shown shown() const;
    void cancel_shown();

  signals:
    void changed();
    void failed(const QString& message);

  private:
    struct Job {
        QString title;
        bool quiet = false;
        Progress progress;
        QElapsedTimer since;
        std::thread thread;
    };
    std::list<std::unique_ptr<Job>> running_;
};

}  // namespace pristine::app
