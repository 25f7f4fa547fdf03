#include "app/model/jobs.h"

#include <QMetaObject>
#include <QTimer>
#include <algorithm>

#include "core/base/kept_blocks.h"
#include "core/base/log.h"
#include "core/base/parallel.h"

namespace pristine::app {
namespace {

constexpr int kIdleTicks = 15;  // 3 s without work: its memory is of use to others
constexpr qint64 kLong_ms = 500;

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
    for (auto& job : jobs_) job->progress->cancel();
    for (auto& job : jobs_)
        if (job->thread.joinable()) job->thread.join();
}

Jobs::Handle Jobs::start(const QString& title, Work work, Done done, Failed failed_fn, Show show) {
    jobs_.push_back(std::make_unique<Job>());
    Job& job = *jobs_.back();
    job.title = title;
    job.show = show;
    job.work = std::move(work);
    job.done = std::move(done);
    job.failed = std::move(failed_fn);
    const Handle handle = job.progress;
    start_waiting();
    emit changed();
    return handle;
}

std::size_t Jobs::running() const {
    return static_cast<std::size_t>(
        std::count_if(jobs_.begin(), jobs_.end(), [](const auto& j) { return j->thread.joinable(); }));
}

void Jobs::start_waiting() {
    const std::size_t most = std::max<std::size_t>(2, parallel::workers());
    for (const Show kind : {Show::IfLong, Show::Always}) {
        std::size_t n = 0;
        for (const auto& j : jobs_) n += j->show == kind && j->thread.joinable();
        for (const auto& j : jobs_)
            if (j->show == kind && !j->thread.joinable() && n < most) {
                run(j.get());
                ++n;
            }
    }
}

void Jobs::run(Job* job) {
    job->since.start();
    job->thread = std::thread([this, job] {
        Failure error;
        bool ok = false;
        try {
            job->progress->check();  // it may have been cancelled while it waited
            job->work(*job->progress);
            ok = true;
        } catch (const Cancelled&) {
        } catch (const Error& e) {
            error = {QString::fromUtf8(e.what()), e.remedy()};
        } catch (const std::bad_alloc&) {
            error.message = tr("There is not enough memory for this.");
        } catch (const std::exception& e) {
            error.message = QString::fromUtf8(e.what());
        }
        job->work = nullptr;  // what it holds goes away here, not on the window's thread
        QMetaObject::invokeMethod(
            this, [this, job, ok, error] { end(job, ok, error); }, Qt::QueuedConnection);
    });
}

void Jobs::end(Job* job, bool ok, const Failure& error) {
    job->thread.join();
    const auto at = std::find_if(jobs_.begin(), jobs_.end(), [&](const auto& j) { return j.get() == job; });
    const std::unique_ptr<Job> over = std::move(*at);
    jobs_.erase(at);
    const double seconds = static_cast<double>(over->since.elapsed()) / 1000;
    if (ok)
        log::info(over->title.toStdString(), seconds);
    else
        log::error((over->title + QStringLiteral(": ") +
                    (error.message.isEmpty() ? QStringLiteral("cancelled") : error.message))
                       .toStdString());
    start_waiting();
    if (ok)
        over->done();
    else if (over->failed)
        over->failed(error);
    else if (!error.message.isEmpty())
        emit failed(error.message);
    emit changed();
}

bool Jobs::is_shown(const Job& job) const {
    const bool is_long = job.thread.joinable() && job.since.elapsed() >= kLong_ms;
    return !job.progress->cancelled() && (job.show == Show::Always || is_long);
}

Jobs::Shown Jobs::shown() const {
    for (auto it = jobs_.rbegin(); it != jobs_.rend(); ++it) {
        const Job& job = **it;
        if (!is_shown(job)) continue;
        if (!job.thread.joinable()) return {job.title + QStringLiteral(" · ") + tr("waits"), 0, -1};
        Shown s{job.title, job.progress->fraction(), -1};
        const QString label = QString::fromStdString(job.progress->label());
        if (!label.isEmpty()) s.title += QStringLiteral(" · ") + label;
        const double elapsed = static_cast<double>(job.since.elapsed()) / 1000;
        if (s.fraction > 0.05) s.seconds_left = elapsed / s.fraction * (1 - s.fraction);
        return s;
    }
    return {};
}

void Jobs::cancel_shown() {
    for (auto it = jobs_.rbegin(); it != jobs_.rend(); ++it)
        if (is_shown(**it)) return (*it)->progress->cancel();
}

}  // namespace pristine::app
