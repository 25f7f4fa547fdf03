// What all cards have in common: the command that opens each, what they say, where they fly, what they draw.

#pragma once

#include "app/window/part.h"

namespace pristine::app {

class Cards : public HandyPart {
    Q_OBJECT
  public:
    explicit Cards(Desk&);
    /// Of cards that no other controller has put into its menu.
    void add_commands() override;
};

}  // namespace pristine::app
