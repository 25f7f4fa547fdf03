// Surfaces that follow a line while a corner of it is dragged: built beside the window, one after the other,
// always for the newest place; nothing is committed.

#pragma once

#include <QObject>
#include <functional>
#include <optional>

#include "core/site/site.h"

namespace pristine::app {

class Document;
class Jobs;

class LiveSurface : public QObject {
    Q_OBJECT
  public:
    /// `show` is given the site as it would be.
    LiveSurface(Document*, Jobs*, std::function<void(const site::SitePtr&)> show, QObject* parent);

    /// Of a surface of more points only what is let go is built, and not at once.
    static constexpr std::size_t kMostPoints = 100'000;
    /// The corner is here now. Does nothing when no surface that is small enough follows the line.
    void drag(const site::Line& line);
    /// The corner was let go: what is still being built is not shown.
    void stop();
    /// How many were shown since the last stop.
    int shown() const { return shown_; }

  private:
    void build();
    Document* document_;
    Jobs* jobs_;
    std::function<void(const site::SitePtr&)> show_;
    std::optional<site::Line> wanted_;
    bool building_ = false;
    unsigned round_ = 0;
    int shown_ = 0;
};

/// Surfaces of a site that were built along a line or end at it.
std::vector<site::ItemPtr> followers(const site::Site&, std::uint64_t line);

}  // namespace pristine::app
