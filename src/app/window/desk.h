// The parts of the window, and the few things that controllers ask of each other. It owns nothing.

#pragma once

#include <QObject>
#include <QString>
#include <cstdint>
#include <filesystem>
#include <vector>

#include "app/cards/side_card.h"
#include "app/model/commands.h"
#include "core/site/site.h"

class QWidget;

namespace pristine::app {

class DecisionBar;
class Document;
class EpochPane;
class Hand;
class Jobs;
class Legend;
class ListsPane;
class Notice;
class PanoramaPane;
class ProfilePane;
class CrossSectionsPane;
class SceneView;
class SectionPane;
class Stage;
class StatusLine;
class WorkCard;

class Desk : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;

    QWidget* window = nullptr;  ///< parent of dialogs
    Jobs* jobs = nullptr;
    Document* document = nullptr;
    CommandTable commands;
    Stage* stage = nullptr;
    WorkCard* card = nullptr;
    StatusLine* status = nullptr;
    Notice* notice = nullptr;
    Legend* legend = nullptr;
    SectionPane* section = nullptr;
    PanoramaPane* panorama = nullptr;
    ProfilePane* profile = nullptr;
    CrossSectionsPane* cross_sections = nullptr;
    EpochPane* epochs = nullptr;
    ListsPane* lists = nullptr;
    std::vector<SideCard*> cards;  ///< those of card_table.h, of which one at most is open
    Hand* hand = nullptr;
    DecisionBar* bar = nullptr;
    SceneView* view = nullptr;

    /// The card of a class; null if there is none.
    template <class Card>
    Card* find() const {
        for (SideCard* card : cards)
            if (auto* found = dynamic_cast<Card*>(card)) return found;
        return nullptr;
    }

    /// The line whose corners can be dragged; 0: none.
    std::uint64_t line_in_work = 0;

  signals:
    /// The document is another one, and the scene shows it.
    void site_changed();
    /// The site is about to be closed.
    void leaving_site();
    /// A card is to be opened, or closed where it is open.
    void card_wanted(SideCard*);
    void line_dragged(const site::Line&);
    void line_let_go();
    void line_changed(quint64 line);
    /// A file of lines was opened; `if_any`: one without lines is no fault.
    void lines_opened(const std::filesystem::path&, bool if_any);
    void drape_wanted(quint64 item, const std::filesystem::path& picture);
};

}  // namespace pristine::app
