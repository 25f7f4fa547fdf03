#include "app/shell/jobs.h"

#include <QMetaObject>
#include <QTimer>

#include "core/base/kept_blocks.h"

namespace pristine::app {
namespace {

constexpr int kIdleTicks = 15;  // 3 s without work: its memory is of use to others

}  // namespace

Jobs::Jobs(QObject* parent) : QObject(parent) {
    auto* tick = new QTimer(this);
    connect(tick, &QTimer::timeout, this, [this, idle = 0]() mutable {
        idle = busy() ? 0 : idle + 1;
        if (busy()) emit changed();
        if (idle == kIdleTicks) let_kept_blocks_go();
    });
    tick->start(200);
}

Jobs::~Jobs() {
    for (auto& job : running_) job->progress.cancel();
    for (auto& job : running_) job->thread.join();
}

void Jobs::start(const QString& title, Work work, Done done, Failed failed_fn, bool quiet) {
    running_.push_back(std::make_unique<Job>());
    Job* job = running_.back().get();
    job->title = title;
    job->quiet = quiet;
    job->since.start();
    job->thread = std::thread(
        [this, job, work = std::move(work), done = std::move(done), failed_fn = std::move(failed_fn)] {
            QString error;
            bool ok = false;
            try {
                work(job->progress);
                ok = true;
            } catch (const Cancelled&) {
            } catch (const std::bad_alloc&) {
                error = tr("There is not enough memory for this.");
            } catch (const std::exception& e) {
                error = QString::fromUtf8(e.what());
            }
            QMetaObject::invokeMethod(
                this,
                [this, job, ok, error, done, failed_fn] {
                    job->thread.join();
                    running_.remove_if([&](const auto& j) { return j.get() == job; });
                    if (ok)
                        done();
                    else if (failed_fn)
                        failed_fn(error);
                    if (!ok && !error.isEmpty() && !failed_fn) emit failed(error);
                    emit changed();
                },
                Qt::QueuedConnection);
        });
    emit changed();
}

Jobs::Shown Jobs::shown() const {
    for (auto it = running_.rbegin(); it != running_.rend(); ++it) {
        const Job& job = **it;
        const double elapsed = static_cast<double>(job.since.elapsed()) / 1000;
        if (job.quiet && elapsed < 0.5) continue;
        Shown s{job.title, job.progress.fraction(), -1};
        const QString label = QString::fromStdString(job.progress.label());
        if (!label.isEmpty()) s.title += QStringLiteral(" · ") + label;
        if (s.fraction > 0.05) s.seconds_left = elapsed / s.fraction * (1 - s.fraction);
        return s;
    }
    return {};
}

void Jobs::cancel_shown() {
    for (auto it = running_.rbegin(); it != running_.rend(); ++it)
        if (!(*it)->quiet || (*it)->since.elapsed() >= 500) {
            (*it)->progress.cancel();
            return;
        }
}

}  // namespace pristine::app
