#include "app/stage/render_worker.h"

#include <algorithm>
#include <chrono>

namespace pristine::app {
namespace {

using Clock = std::chrono::steady_clock;
constexpr double kDrawn_ms = 33;
constexpr std::uint64_t kLeastBudget = 150'000, kMostBudget = 20'000'000;
constexpr double kBetweenPictures_ms = 90;  // while detail builds up
constexpr double kTriangles_ms = 60;        // all triangles may take so long before points stand in for them
constexpr double kFewTriangles = 100'000;   // tell nothing of the speed

double ms_since(Clock::time_point t) {
    return std::chrono::duration<double, std::milli>(Clock::now() - t).count();
}

}  // namespace

RenderWorker::RenderWorker(QObject* parent) : QObject(parent), thread_([this] { work(); }) {}

RenderWorker::~RenderWorker() {
    {
        const std::lock_guard<std::mutex> guard(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    thread_.join();
}

void RenderWorker::draw(RenderRequest request) {
    {
        const std::lock_guard<std::mutex> guard(mutex_);
        next_ = std::move(request);
    }
    wake_.notify_all();
}

std::shared_ptr<const render::Picture> RenderWorker::picture() const {
    const std::lock_guard<std::mutex> guard(mutex_);
    return picture_;
}

bool RenderWorker::superseded() const {
    const std::lock_guard<std::mutex> guard(mutex_);
    return stop_ || next_.has_value();
}

void RenderWorker::work() {
    for (;;) {
        RenderRequest request;
        {
            std::unique_lock<std::mutex> lock(mutex_);
            wake_.wait(lock, [&] { return stop_ || next_; });
            if (stop_) return;
            request = std::move(*next_);
            next_.reset();
        }
        if (request.view.width > 0 && request.view.height > 0) draw_frame(request);
    }
}

void RenderWorker::draw_frame(const RenderRequest& request) {
    const auto start = Clock::now();
    render::RenderOptions options = request.options;
    options.most_triangles = static_cast<std::uint64_t>(triangles_per_ms_ * kTriangles_ms);
    renderer_.begin(request.scene, request.view, options);
    const bool stands_in = renderer_.triangles_in_view() > options.most_triangles;
    renderer_.step(budget_);
    if (!stands_in) learn_triangles(ms_since(start));
    publish(renderer_);
    if (request.moving || !renderer_.complete()) {
        const double factor = std::clamp(kDrawn_ms / std::max(ms_since(start), 1.0), 0.5, 1.5);
        budget_ = std::clamp(static_cast<std::uint64_t>(static_cast<double>(budget_) * factor), kLeastBudget,
                             kMostBudget);
    }
    auto shown = Clock::now();
    const auto anew = shown;
    while (!renderer_.complete() && !superseded()) {
        renderer_.step(2'000'000, [this] { return superseded(); });
        if (superseded()) return;
        if (renderer_.complete() || (renderer_.presentable() && ms_since(shown) > kBetweenPictures_ms)) {
            if (stands_in && renderer_.complete()) learn_triangles(ms_since(anew));
            publish(renderer_);
            shown = Clock::now();
        }
    }
}

void RenderWorker::learn_triangles(double ms) {
    const auto n = static_cast<double>(renderer_.triangles_in_view());
    if (n > kFewTriangles) triangles_per_ms_ += 0.3 * (n / std::max(ms, 1.0) - triangles_per_ms_);
}

std::shared_ptr<render::Picture> RenderWorker::blank_picture() {
    for (const auto& p : pool_)
        if (p.use_count() == 1) return p;
    pool_.push_back(std::make_shared<render::Picture>());
    if (pool_.size() > 6) pool_.erase(pool_.begin());  // whoever still shows it keeps it alive
    return pool_.back();
}

void RenderWorker::publish(render::Renderer& renderer) {
    const auto picture = blank_picture();
    renderer.resolve(*picture);
    {
        const std::lock_guard<std::mutex> guard(mutex_);
        picture_ = picture;
    }
    emit drawn();
}

}  // namespace pristine::app
