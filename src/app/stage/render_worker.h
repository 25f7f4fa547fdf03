// The thread that draws the stage. The window's thread only hands over what to draw and shows what came back.

#pragma once

#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "render/renderer.h"

namespace pristine::app {

struct RenderRequest {
    std::shared_ptr<const render::Scene> scene;
    ViewFrame view;
    render::RenderOptions options;
    bool moving = false;  ///< more views follow at once: hold the frame rate, do not go for detail
};

class RenderWorker : public QObject {
    Q_OBJECT
  public:
    explicit RenderWorker(QObject* parent = nullptr);
    ~RenderWorker() override;

    /// Replaces what is being drawn. Returns at once.
    void draw(RenderRequest);
    /// The newest picture; null before the first.
    std::shared_ptr<const render::Picture> picture() const;
    /// Points that a moving frame draws: adapted to what this machine manages.
    std::uint64_t budget() const { return budget_; }

  signals:
    /// A new picture is there. Delivered on the window's thread.
    void drawn();

  private:
    void work();
    void draw_frame(const RenderRequest&);
    bool superseded() const;
    void publish(render::Renderer&);
    std::shared_ptr<render::Picture> blank_picture();
    void learn_triangles(double ms);

    mutable std::mutex mutex_;
    std::condition_variable wake_;
    std::optional<RenderRequest> next_;
    bool stop_ = false;
    std::shared_ptr<const render::Picture> picture_;
    std::vector<std::shared_ptr<render::Picture>> pool_;
    std::atomic<std::uint64_t> budget_{1'000'000};
    double triangles_per_ms_ = 10'000;  // as far as it was seen on this machine
    render::Renderer renderer_;
    std::thread thread_;
};

}  // namespace pristine::app
