#include "app/window/cards.h"

#include "app/cards/side_card.h"
#include "app/stage/stage.h"
#include "app/window/scene_view.h"
#include "app/window/status_line.h"

namespace pristine::app {

Cards::Cards(Desk& desk) : HandyPart(desk) {
    for (SideCard* card : desk_.cards) {
        connect(card, &SideCard::said, this, [this](const QString& text) { status_->say(text, false); });
        connect(card, &SideCard::fly, stage_, [this](const Box3& place) { stage_->look_at(place); });
        connect(card, &SideCard::guides_changed, &view_, &SceneView::show_guides);
        view_.add_guides([card] { return card->guides(); });
    }
}

void Cards::add_commands() {
    for (const SideCard* card : desk_.cards)
        if (!commands_.find(card->spec().command)) add_card(card->spec().command);
}

}  // namespace pristine::app
