// One element at a time: the one that is clicked, or one of those that lie behind each other under the
// pointer.

#pragma once

#include "app/window/hand.h"

namespace pristine::app {

class Pointing : public HandyPart {
    Q_OBJECT
  public:
    explicit Pointing(Desk&);
    void add_commands() override;

  private:
    void take_seen(Stage*, PixelPoint, Qt::KeyboardModifiers);
    void take(Stage*, std::uint64_t item, std::uint64_t element, site::Combine);
    void list_under();
    struct Under;
    void offer(const std::vector<Under>&);
    Stage* pointed_ = nullptr;  // where the pointer was last
    PixelPoint at_;
};

}  // namespace pristine::app
