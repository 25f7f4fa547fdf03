// The table of cards. A new card is its file, a test, and a row here.

#pragma once

#include "app/cards/side_card.h"

namespace pristine::app {

/// In the order in which cards stand in the menus, each menu by itself.
const std::vector<CardSpec>& card_specs();
/// Every card once, closed.
std::vector<SideCard*> make_cards(Document*, Jobs*, QWidget* parent);

}  // namespace pristine::app
