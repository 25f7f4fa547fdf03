#include "app/window/main_window.h"
#include "app/look/lengths.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include "app/cards/align_card.h"
#include "app/cards/holes_card.h"
#include "app/cards/markers_card.h"
#include "app/cards/measure_card.h"
#include "app/cards/mesh_card.h"
#include "app/cards/objects_card.h"
#include "app/cards/rule_card.h"
#include "app/cards/surface_card.h"
#include "app/cards/tunnel_card.h"
#include "app/cards/work_card.h"
#include "app/look/scrolled_column.h"
#include "app/look/theme.h"
#include "app/model/live_surface.h"
#include "app/model/thumbnails.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/profile_pane.h"
#include "app/panes/section_pane.h"
#include "app/window/contents_panel.h"
#include "app/window/decision_bar.h"
#include "app/window/focus_keeper.h"
#include "app/window/ledger_strip.h"
#include "app/window/legend.h"
#include "app/window/manual_window.h"
#include "app/window/notice.h"
#include "app/window/status_line.h"
#include "app/window/text_import.h"
#include "core/io/cloud_io.h"
#include "core/select/summary.h"

namespace pristine::app {
namespace fs = std::filesystem;

MainWindow::MainWindow() : jobs_(new Jobs(this)), document_(new Document(jobs_, this)) {
    setObjectName(QStringLiteral("mainWindow"));
    setWindowTitle(tr("Pristine Cloud"));
    setAcceptDrops(true);
    resize(1280, 800);
    add_commands();
    build_layout();
    build_menus();
    connect_parts();
    take_tool(ToolId::Polygon);
    refresh();
}

MainWindow::~MainWindow() {
    // Jobs end before what they report to goes away.
    delete jobs_;
}

namespace {

constexpr const char* kColumns = "window/columns";

// Of a width, without a bar; 0: as wide as its place.
QScrollArea* scrolling(QWidget* inner, int width) {
    auto* scroll = new ScrolledColumn;
    if (width > 0) {
        scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        scroll->setFixedWidth(width);
    }
    scroll->setWidget(inner);
    return scroll;
}

}  // namespace

// ---- layout
// ----------------------------------------------------------------------------------------------------

void MainWindow::build_layout() {
    auto* centre = new QWidget(this);
    auto* rows = new QVBoxLayout(centre);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    auto* columns = new QSplitter(Qt::Horizontal, this);
    columns->setObjectName(QStringLiteral("columns"));
    columns->setChildrenCollapsible(false);
    columns->setHandleWidth(1);
    contents_ = new ContentsPanel(document_, this);
    contents_->setMinimumWidth(200);
    stage_ = new Stage(this);
    card_ = new WorkCard(document_, this);
    columns->addWidget(contents_);
    auto* middle = new QWidget(this);
    auto* beside_rail = new QHBoxLayout(middle);
    beside_rail->setContentsMargins(0, 0, 0, 0);
    beside_rail->setSpacing(0);
    beside_rail->addWidget(scrolling(build_rail(), 46));
    section_ = new SectionPane(jobs_, this);
    auto* split = new QSplitter(Qt::Vertical, this);
    split->setObjectName(QStringLiteral("stageSplit"));
    split->setChildrenCollapsible(false);
    split->addWidget(stage_);
    panorama_ = new PanoramaPane(jobs_, this);
    split->addWidget(section_);
    split->addWidget(panorama_);
    profile_ = new ProfilePane(document_, jobs_, this);
    split->addWidget(profile_);
    epochs_ = new EpochPane(document_, jobs_, this);
    split->addWidget(epochs_);
    split->setSizes({420, 240, 240, 240});
    beside_rail->addWidget(split, 1);
    columns->addWidget(middle);
    // One card at a time; on a small screen it scrolls.
    auto* side = new QWidget(this);
    side->setObjectName(QStringLiteral("side"));
    side->setMinimumWidth(280);
    auto* cards = new QVBoxLayout(side);
    cards->setContentsMargins(0, 0, 0, 0);
    work_column_ = scrolling(card_, 0);
    cards->addWidget(work_column_);
    columns->addWidget(side);
    rule_ = new RuleCard(document_, jobs_, this);
    objects_ = new ObjectsCard(document_, jobs_, this);
    tunnel_ = new TunnelCard(document_, jobs_, this);
    surface_ = new SurfaceCard(document_, jobs_, this);
    measure_ = new MeasureCard(document_, jobs_, this);
    mesh_ = new MeshCard(document_, jobs_, this);
    markers_ = new MarkersCard(document_, jobs_, this);
    align_ = new AlignCard(document_, jobs_, this);
    holes_ = new HolesCard(document_, jobs_, this);
    cards_ = {rule_, objects_, tunnel_, surface_, measure_, mesh_, align_, markers_, holes_};
    for (SideCard* card : cards_) cards->addWidget(card);
    columns->setStretchFactor(0, 0);
    columns->setStretchFactor(1, 1);
    columns->setStretchFactor(2, 0);
    columns->setSizes({254, 730, 296});
    columns->restoreState(QSettings().value(kColumns).toByteArray());
    connect(columns, &QSplitter::splitterMoved, this,
            [columns] { QSettings().setValue(kColumns, columns->saveState()); });
    rows->addWidget(columns, 1);
    ledger_ = new LedgerStrip(document_, this);
    rows->addWidget(ledger_);
    status_ = new StatusLine(document_, jobs_, this);
    rows->addWidget(status_);
    setCentralWidget(centre);
    build_stage_corner();
    legend_ = new Legend(stage_);
    legend_->move(12, 50);
    notice_ = new Notice(stage_);
    bar_ = new DecisionBar(document_, &commands_, stage_);
    bar_->usual_reason = [this] { return usual_reason(); };
    connect(bar_, &DecisionBar::reason_chosen, this, &MainWindow::reason_chosen);
}

QWidget* MainWindow::build_rail() {
    auto* rail = new QWidget(this);
    rail->setObjectName(QStringLiteral("rail"));
    rail->setAttribute(Qt::WA_StyledBackground);
    rail->setFixedWidth(46);
    auto* layout = new QVBoxLayout(rail);
    layout->setContentsMargins(5, 10, 5, 10);
    layout->setSpacing(1);
    const QStringList groups[] = {{"select.rectangle", "select.polygon", "select.freehand", "select.circle"},
                                  {"select.brush", "select.ball_brush"},
                                  {"select.ball", "select.cylinder", "select.box", "select.plane",
                                   "select.painted_plane", "select.level"},
                                  {"select.rule"},
                                  {"view.section", "view.line", "view.clip", "view.pick"}};
    QStringList all;
    for (const QStringList& g : groups) all << QString() << g;
    for (const QString& id : all.mid(1)) {
        if (id.isEmpty()) {
            layout->addSpacing(7);
            continue;
        }
        auto* b = new QToolButton(rail);
        b->setObjectName(QStringLiteral("rail.") + id);
        b->setProperty("rail", true);
        b->setDefaultAction(commands_.action(id));
        b->setAccessibleName(commands_.find(id)->title);
        b->setIconSize({21, 21});
        b->setFocusPolicy(Qt::TabFocus);
        layout->addWidget(b);
    }
    layout->addStretch(1);
    return rail;
}

void MainWindow::build_stage_corner() {
    working_on_ = new QPushButton(stage_);
    working_on_->setObjectName(QStringLiteral("workingOn"));
    working_on_->setAccessibleName(tr("Item in work; press to choose another"));
    working_on_->setStyleSheet(
        QStringLiteral("QPushButton { background: #F5F2EC; border: none; border-radius: 4px; padding: 4px "
                       "9px; font-weight: 600; } QPushButton:focus { border: 2px solid #B86BFF; }"));
    working_on_->move(12, 10);
    connect(working_on_, &QPushButton::clicked, this, [this] { choose_item(); });

    view_strip_ = new QWidget(stage_);
    view_strip_->setObjectName(QStringLiteral("viewStrip"));
    view_strip_->setAttribute(Qt::WA_StyledBackground);
    view_strip_->setStyleSheet(
        QStringLiteral("#viewStrip { background: rgba(18,23,30,170); border-radius: 4px; } QToolButton { "
                       "color: #D9D4C8; border: none; border-radius: 4px; padding: 3px 5px; font-size: 9pt; }"
                       "QToolButton:hover { background: #3A4656; } QToolButton:checked { background: "
                       "#F5F2EC; color: #1D2733; } QToolButton:focus { border: 1px solid #B86BFF; }"));
    auto* layout = new QHBoxLayout(view_strip_);
    layout->setContentsMargins(3, 2, 3, 2);
    layout->setSpacing(1);
    const std::pair<const char*, QString> views[] = {
        {"view.top", tr("Top")},        {"view.front", tr("Front")}, {"view.back", tr("Back")},
        {"view.left", tr("Left")},      {"view.right", tr("Right")}, {"view.bottom", tr("Below")},
        {"view.perspective", QString()}};
    for (const auto& [id, text] : views) {
        auto* b = new QToolButton(view_strip_);
        QAction* a = commands_.action(QString::fromLatin1(id));
        b->setObjectName(QString::fromLatin1(id) + ".button");
        b->setAccessibleName(commands_.find(QString::fromLatin1(id))->title);
        b->setFocusPolicy(Qt::TabFocus);
        if (text.isEmpty()) {
            b->setDefaultAction(a);
            b->setToolButtonStyle(Qt::ToolButtonTextOnly);
        } else {
            b->setText(text);
            connect(b, &QToolButton::clicked, a, &QAction::trigger);
            b->setToolTip(commands_.find(QString::fromLatin1(id))->help);
        }
        layout->addWidget(b);
    }
}

void MainWindow::place_stage_corner() {
    working_on_->adjustSize();
    view_strip_->adjustSize();
    const int left = stage_->width() - view_strip_->width() - 10;
    const bool collides = working_on_->isVisibleTo(stage_) && left < working_on_->geometry().right() + 4;
    view_strip_->move(left, collides ? 46 : 10);
}

// A key whose command is off says why.
void MainWindow::keyPressEvent(QKeyEvent* e) {
    const QKeySequence pressed(e->keyCombination());
    for (const Command& c : commands_.all())
        if (!c.key.isEmpty() && c.key == pressed && !commands_.action(c.id)->isEnabled())
            return commands_.trigger(c.id);
    QMainWindow::keyPressEvent(e);
}

// Stage, card, decisions, ledger, contents, tools: by one key, whatever lies between.
void MainWindow::to_next_area(int by) {
    QWidget* card = card_;
    for (SideCard* c : cards_)
        if (c->is_open()) card = c;
    std::vector<QWidget*> areas{stage_, card, ledger_, contents_,
                                findChild<QWidget*>(QStringLiteral("rail"))};
    std::erase_if(areas, [](const QWidget* a) { return !a || !a->isVisible(); });
    const QWidget* now = QApplication::focusWidget();
    std::size_t at = 0;
    for (std::size_t i = 0; i < areas.size(); ++i)
        if (now && (areas[i] == now || areas[i]->isAncestorOf(now))) at = i;
    for (std::size_t k = 1; k <= areas.size(); ++k) {
        const auto n = static_cast<std::ptrdiff_t>(areas.size());
        QWidget* area = areas[static_cast<std::size_t>(
            ((static_cast<std::ptrdiff_t>(at) + by * static_cast<std::ptrdiff_t>(k)) % n + n) % n)];
        if (area->focusPolicy() & Qt::TabFocus) return area->setFocus(Qt::TabFocusReason);
        for (QWidget* w : area->findChildren<QWidget*>())
            if (w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus))
                return w->setFocus(Qt::TabFocusReason);
    }
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (watched == stage_ && event->type() == QEvent::Resize) place_stage_corner();
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::connect_parts() {
    new FocusKeeper(this, stage_, &commands_);
    stage_->installEventFilter(this);
    connect(document_, &Document::changed, this, [this] {
        refresh();
        if (!unasked_items().empty())
            ask_unit();
        else {
            offer_codes();
            offer_zone();
        }
    });
    connect(document_, &Document::converted, this, [this](quint64 id) { fly_to_item(id); });
    connect(document_, &Document::odd, this, &MainWindow::say_odd);
    connect(document_, &Document::numbers_changed, this, [this] {
        bar_->refresh();
        card_->refresh();
    });
    connect(document_, &Document::disk_changed, this, [this] {
        status_->refresh();
        contents_->refresh_head();
        if (closing_ && (document_->disk().waiting == 0 || !document_->disk().error.empty()))
            QTimer::singleShot(0, this, [this] { close(); });
    });
    connect(document_, &Document::failed, this,
            [this](const QString& text) { notice_->show_text(text, true); });
    connect(document_, &Document::unreadable, this,
            [this](const QString& text, const QString& path, Remedy remedy) {
                std::vector<Notice::Choice> choices;
                if (remedy == Remedy::ReadPart || remedy == Remedy::PartOrColumns)
                    choices.push_back({tr("Open what is whole"), [this, path] {
                                           io::ReadOptions partial;
                                           partial.accept_partial = true;
                                           document_->add_files({path.toStdString()}, partial);
                                       }});
                if (remedy == Remedy::ChooseColumns || remedy == Remedy::PartOrColumns)
                    choices.push_back({tr("Say what the columns are…"),
                                       [this, path] { preview_text(path.toStdString()); }});
                notice_->show_choices(text, true, choices);
            });
    connect(document_, &Document::message, this, [this](const QString& text) { status_->say(text, false); });
    connect(document_, &Document::replaced, this, [this] {
        drawn_site_ = nullptr;
        asked_unit_.clear();
        restore_view();
        if (const std::size_t n = document_->unsaved_at_open(); n > 0)
            notice_->show_text(
                tr("%n change(s) made after the last save are here too.", "", static_cast<int>(n)), false,
                {tr("Keep them"), [] {}},
                {tr("Back to the saved state"), [this] { document_->go_back_to_saved(); }});
    });
    connect(document_, &Document::columns_changed, this, [this] { show_scene(); });
    connect(jobs_, &Jobs::failed, this, [this](const QString& text) { notice_->show_text(text, true); });
    connect(&commands_, &CommandTable::refused, this, &MainWindow::say_refused);
    connect_stage(stage_);
    connect_stage(&section_->stage());
    connect(section_, &SectionPane::changed, this, [this] {
        follow_lines();
        commands_.refresh();
    });
    connect_legend();
    connect(&panorama_->view(), &PanoramaView::fence_closed, this, &MainWindow::close_panorama_fence);
    connect(card_, &WorkCard::back, this, &MainWindow::back_to_card);
    connect(card_, &WorkCard::command, &commands_, &CommandTable::trigger);
    connect(stage_, &Stage::camera_changed, this, [this] { commands_.refresh(); });
    connect(stage_, &Stage::settled_now, this, [this] { store_view(); });
    connect(contents_, &ContentsPanel::fly_to, this, [this](quint64 id) { fly_to_item(id); });
    connect(rule_, &RuleCard::preview, this, &MainWindow::preview_rule);
    connect(rule_, &RuleCard::chosen, this, &MainWindow::select_by_rule);
    connect(rule_, &RuleCard::remove_everywhere, this, &MainWindow::remove_by_rule_everywhere);
    connect(rule_, &RuleCard::begun, this, [this] { rule_selection_ = nullptr; });
    for (SideCard* card : cards_) {
        connect(card, &SideCard::opened, this, [this, card] {
            work_column_->hide();
            for (SideCard* other : cards_)
                if (other != card && other->is_open()) other->close_card();
        });
        connect(card, &SideCard::tool_wanted, this, [this, card] { show_tool_settings(card); });
        connect(card, &SideCard::closed, this, [this] {
            if (std::none_of(cards_.begin(), cards_.end(), [](SideCard* c) { return c->is_open(); }))
                show_tool_settings(nullptr);
            commands_.refresh();
        });
    }
    connect(rule_, &RuleCard::closed, this, [this] {
        show_scene();
        follow_lines();
    });
    connect(rule_, &RuleCard::colour_changed, this,
            [this] { show_scene_of(drawn_site_ ? drawn_site_ : document_->site()); });
    connect(rule_, &RuleCard::fly, stage_, [this](const Box3& place) { stage_->look_at(place); });
    connect(objects_, &ObjectsCard::chosen, this, &MainWindow::select_objects);
    connect(objects_, &ObjectsCard::fly, stage_, [this](const Box3& place) { stage_->look_at(place); });
    connect(objects_, &ObjectsCard::said, this, [this](const QString& text) { status_->say(text, false); });
    connect(epochs_, &EpochPane::closed, this, [this] { commands_.refresh(); });
    connect(profile_, &ProfilePane::closed, this, [this] { commands_.refresh(); });
    connect(surface_, &SurfaceCard::guides_changed, this, &MainWindow::follow_lines);
    connect(surface_, &SurfaceCard::fly, this, [this](const Vec3& place) {
        Box3 box;
        const double near = 0.05 * stage_->scene().bounds().diagonal();
        box.add(place - Vec3{near, near, near});
        box.add(place + Vec3{near, near, near});
        stage_->look_at(box);
    });
    connect(surface_, &SurfaceCard::said, this, [this](const QString& text) {
        status_->say(text, false);
        if (std::exchange(ahead_, nullptr)) show_scene();  // built, or refused
    });
    live_ = new LiveSurface(
        document_, jobs_,
        [this](const site::SitePtr& s) {
            ahead_ = s;
            ahead_of_ = document_->site();
            show_scene();
        },
        this);
    connect_mesh_cards();
    connect(measure_, &MeasureCard::said, this, [this](const QString& text) { status_->say(text, false); });
    connect(tunnel_, &TunnelCard::chosen, this, &MainWindow::select_inside_tunnel);
    connect(tunnel_, &TunnelCard::fly, stage_, [this](const Box3& place) { stage_->look_at(place); });
    connect(tunnel_, &TunnelCard::save_mesh, this, &MainWindow::save_lining_mesh);
    connect(tunnel_, &TunnelCard::save_report, this, &MainWindow::save_lining_report);
    connect(card_, &WorkCard::plane_changed, this, &MainWindow::plane_settings_changed);
    connect(contents_, &ContentsPanel::make_again, measure_, &MeasureCard::make_again);
    connect(contents_, &ContentsPanel::edit_line, this, &MainWindow::edit_line);
    connect(contents_, &ContentsPanel::select_inside, this, &MainWindow::select_inside_lines);
    connect(contents_, &ContentsPanel::replace_inside, this, &MainWindow::replace_inside);
    connect(contents_, &ContentsPanel::drape, this, &MainWindow::choose_drape);
    connect(contents_, &ContentsPanel::refused, this, &MainWindow::say_refused);
    connect(contents_, &ContentsPanel::fly_to_line, this, &MainWindow::fly_to_line);
    connect(ledger_, &LedgerStrip::hovered, this, [this](quint64 id) { set_ghosts(id); });
    connect(ledger_, &LedgerStrip::fly_to, this, [this](quint64 id) { fly_to_entry(id); });
    document_->picture_maker = [this](const site::SitePtr& s) {
        return
            [s, camera = stage_->camera()](const Box3& box) { return selection_thumbnail(*s, box, camera); };
    };
    document_->picture_of = [this]() -> Document::PictureOf {
        const site::ItemPtr item = document_->site()->active_item();
        return [style = item ? item->style : site::Style(), camera = stage_->camera()](
                   const std::shared_ptr<const cloud::PointCloud>& c, const ElementSet& set) {
            Box3 box;
            for (std::size_t p = 0; p < set.page_count(); ++p) {
                const cloud::PositionPage page = c->positions(p);
                set.for_each_in_page(
                    p, [&](std::size_t i) { box.add(c->grid().world(page.x[i], page.y[i], page.z[i])); });
            }
            return thumbnail_of(c, set, style, box, camera);
        };
    };
}

// In place of a card, which waits; null: no card is open.
void MainWindow::show_tool_settings(SideCard* instead_of) {
    if (instead_of) instead_of->set_aside();
    card_->set_waiting(instead_of ? instead_of->title() : QString());
    work_column_->show();
}

void MainWindow::back_to_card() {
    work_column_->hide();
    for (SideCard* card : cards_)
        if (card->is_open()) card->open();
}

// ---- decisions
// -------------------------------------------------------------------------------------------------

void MainWindow::decide(bool keep_only) {
    const site::SitePtr s = document_->site();
    site::Decision d;
    d.reason = keep_only ? tr("Everything else").toStdString() : bar_->reason().toStdString();
    // What made the selection goes with it, through undo, kept selections and the project file.
    d.cause = s->origin.cause.empty() ? site::by({}) : s->origin.cause;
    if (keep_only) d.cause = site::wrapped(d.cause, site::Act::Kind::KeepOnly);
    // The picture is one of what is selected: of keep only that is what stayed.
    constexpr std::uint64_t kMostForPicture = 3'000'000;  // more would hold up the window
    const site::ItemPtr item = s->active_item();
    if (!keep_only)
        d.picture = document_->numbers().picture;
    else if (item && s->selection && document_->numbers().of <= kMostForPicture)
        d.picture = document_->picture_of()(item->cloud, site::eligible(*item) - *s->selection);
    const std::uint64_t n = keep_only ? document_->numbers().of - document_->numbers().count : s->selected();
    document_->apply(
        (keep_only ? tr("Keep only the selection, %1 go") : tr("Remove %1")).arg(counted(*document_, n)),
        [&](const site::Site& site) {
            return keep_only ? site::keep_only_selection(site, d) : site::remove_selection(site, d);
        });
}

site::Origin MainWindow::hand_origin() const {
    const ToolSpec& tool = spec_of(tool_id_);
    site::Act act{.kind = site::Act::Kind::Tool, .id = tool.command};
    if (tool.settings.depth) act.settings["visible_only"] = card_->visible_only() && !among_removed_;
    const QString reason = QSettings().value(QStringLiteral("reasons/") + tool.command).toString();
    return {site::by(std::move(act)), reason.toStdString()};
}

QString MainWindow::usual_reason() const {
    const site::ItemPtr item = document_->site()->active_item();
    return item && item->cloud->triangles() ? tr("Fixture") : tr("Person");
}

// It holds for this selection, and for the next ones that the same hand tool makes.
void MainWindow::reason_chosen(const QString& reason) {
    const std::string tool = site::tool_of(document_->site()->origin.cause);
    if (!tool.empty()) QSettings().setValue(QStringLiteral("reasons/") + tool.c_str(), reason);
    stage_->setFocus();  // so that Delete decides
}

}  // namespace pristine::app
