// The parts of the window, and the few things that controllers ask of each other. It owns nothing.

#pragma once

#include <QObject>
#include <QString>
#include <cstdint>
#include <filesystem>

#include "app/model/commands.h"
#include "core/site/site.h"

class QWidget;

namespace pristine::app {

class AlignCard;
class DecisionBar;
class Document;
class EpochPane;
class Hand;
class HolesCard;
class Jobs;
class Legend;
class MarkersCard;
class MeasureCard;
class MeshCard;
class Notice;
class ObjectsCard;
class PanoramaPane;
class ProfilePane;
class RuleCard;
class SceneView;
class SectionPane;
class SideCard;
class Stage;
class StatusLine;
class SurfaceCard;
class TunnelCard;
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
    EpochPane* epochs = nullptr;
    RuleCard* rule = nullptr;
    ObjectsCard* objects = nullptr;
    TunnelCard* tunnel = nullptr;
    SurfaceCard* surface = nullptr;
    MeasureCard* measure = nullptr;
    MeshCard* mesh = nullptr;
    MarkersCard* markers = nullptr;
    AlignCard* align = nullptr;
    HolesCard* holes = nullptr;
    Hand* hand = nullptr;
    SceneView* view = nullptr;

    /// The line whose corners can be dragged; 0: none.
    std::uint64_t line_in_work = 0;

  signals:
    /// The document is another one, and the scene shows it.
    void site_changed();
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
