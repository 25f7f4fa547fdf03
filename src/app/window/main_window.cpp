#include "app/window/main_window.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QKeyEvent>
#include <QMimeData>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <QVBoxLayout>

#include "app/cards/card_table.h"
#include "app/cards/measure_card.h"
#include "app/cards/work_card.h"
#include "app/look/copying.h"
#include "app/look/scrolled_column.h"
#include "app/panes/cross_sections_pane.h"
#include "app/panes/epoch_pane.h"
#include "app/panes/lists_pane.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/profile_pane.h"
#include "app/panes/section_pane.h"
#include "app/window/command_search.h"
#include "app/window/contents_panel.h"
#include "app/window/controllers.h"
#include "app/window/decision_bar.h"
#include "app/window/focus_keeper.h"
#include "app/window/frame.h"
#include "app/window/ledger_strip.h"
#include "app/window/legend.h"
#include "app/window/log_dialog.h"
#include "app/window/manual_window.h"
#include "app/window/notice.h"
#include "app/window/settings_dialog.h"
#include "app/window/stage_corner.h"
#include "app/window/status_line.h"

namespace pristine::app {

MainWindow::MainWindow() : desk_(this) {
    setObjectName(QStringLiteral("mainWindow"));
    setWindowTitle(tr("Pristine Cloud"));
    setAcceptDrops(true);
    resize(1280, 800);
    make_parts();
    controllers_ = std::make_unique<Controllers>(desk_);
    add_commands();
    build_layout();
    make_menus(desk_.commands, this);
    connect_parts();
    controllers_->hand.take_tool(ToolId::Polygon);
    refresh();
}

MainWindow::~MainWindow() {
    // Jobs end before what they report to goes away.
    delete desk_.jobs;
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

void MainWindow::make_parts() {
    desk_.window = this;
    desk_.jobs = new Jobs(this);
    new Copying(this);
    desk_.document = new Document(desk_.jobs, this);
    Document* const document = desk_.document;
    Jobs* const jobs = desk_.jobs;
    desk_.stage = new Stage(this);
    desk_.card = new WorkCard(document, this);
    desk_.section = new SectionPane(jobs, this);
    desk_.panorama = new PanoramaPane(jobs, this);
    desk_.profile = new ProfilePane(document, jobs, this);
    desk_.cross_sections = new CrossSectionsPane(document, jobs, this);
    desk_.epochs = new EpochPane(document, jobs, this);
    desk_.lists = new ListsPane(document, this);
    desk_.cards = make_cards(document, jobs, this);
    desk_.status = new StatusLine(document, jobs, this);
    desk_.legend = new Legend(desk_.stage);
    desk_.notice = new Notice(desk_.stage);
    contents_ = new ContentsPanel(document, this);
    ledger_ = new LedgerStrip(document, this);
}

QWidget* MainWindow::build_stages() {
    auto* middle = new QWidget(this);
    auto* beside_rail = new QHBoxLayout(middle);
    beside_rail->setContentsMargins(0, 0, 0, 0);
    beside_rail->setSpacing(0);
    beside_rail->addWidget(scrolling(make_rail(desk_.commands, this), 46));
    auto* split = new QSplitter(Qt::Vertical, this);
    split->setObjectName(QStringLiteral("stageSplit"));
    split->setChildrenCollapsible(false);
    for (QWidget* one :
         std::initializer_list<QWidget*>{desk_.stage, desk_.section, desk_.panorama, desk_.profile,
                                         desk_.cross_sections, desk_.epochs, desk_.lists})
        split->addWidget(one);
    split->setSizes({420, 240, 240, 240});
    beside_rail->addWidget(split, 1);
    return middle;
}

// One card at a time; on a small screen it scrolls.
QWidget* MainWindow::build_side() {
    auto* side = new QWidget(this);
    side->setObjectName(QStringLiteral("side"));
    side->setMinimumWidth(280);
    auto* cards = new QVBoxLayout(side);
    cards->setContentsMargins(0, 0, 0, 0);
    work_column_ = scrolling(desk_.card, 0);
    cards->addWidget(work_column_);
    for (SideCard* card : desk_.cards) cards->addWidget(card);
    return side;
}

void MainWindow::build_layout() {
    auto* centre = new QWidget(this);
    auto* rows = new QVBoxLayout(centre);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    auto* columns = new QSplitter(Qt::Horizontal, this);
    columns->setObjectName(QStringLiteral("columns"));
    columns->setChildrenCollapsible(false);
    columns->setHandleWidth(1);
    contents_->setMinimumWidth(200);
    columns->addWidget(contents_);
    columns->addWidget(build_stages());
    columns->addWidget(build_side());
    columns->setStretchFactor(0, 0);
    columns->setStretchFactor(1, 1);
    columns->setStretchFactor(2, 0);
    columns->setSizes({254, 730, 296});
    columns->restoreState(QSettings().value(kColumns).toByteArray());
    connect(columns, &QSplitter::splitterMoved, this,
            [columns] { QSettings().setValue(kColumns, columns->saveState()); });
    rows->addWidget(columns, 1);
    rows->addWidget(ledger_);
    rows->addWidget(desk_.status);
    setCentralWidget(centre);
    controllers_->files.build_start(centre);
    controllers_->handing_over.build_pages(centre);
    corner_ = new StageCorner(desk_);
    corner_->setParent(this);
    desk_.legend->move(12, 50);
    controllers_->decisions.set_bar(new DecisionBar(desk_.document, &desk_.commands, desk_.stage));
}

void MainWindow::add_commands() {
    CommandTable& commands = desk_.commands;
    const auto add = [&](const char* id, const QString& title, const QString& help, const QKeySequence& key,
                         const QString& menu, std::function<void()> run) {
        commands.add({QString::fromLatin1(id), title, help, {}, key, menu, std::move(run), {}, {}, {}});
    };
    add("site.settings", tr("Settings…"), tr("Who signs decisions, reasons on offer, digits, mouse, memory"),
        QKeySequence::Preferences, tr("-Site"), [this] {
            if (SettingsDialog(this).exec() == QDialog::Accepted) refresh();
        });
    add("site.quit", tr("Quit"), tr("Closes the window; nothing needs to be saved first"), QKeySequence::Quit,
        tr("-Site"), [this] { close(); });
    add("help.search", tr("Find a command…"),
        tr("Type what you want to do, in words of the program or of the trade, and press Enter"),
        QKeySequence(Qt::CTRL | Qt::Key_K), tr("Help"),
        [this] { CommandSearch(&desk_.commands, this).exec(); });
    add("help.next_area", tr("To the next area"),
        tr("Moves the keys on: stage, card, ledger, contents, tools"), QKeySequence(Qt::Key_F6), tr("Help"),
        [this] { to_area(1); });
    add("help.earlier_area", tr("To the area before"), tr("Moves the keys back"),
        QKeySequence(Qt::SHIFT | Qt::Key_F6), tr("Help"), [this] { to_area(-1); });
    add("help.log", tr("Show the log…"),
        tr("What the program did and what went wrong, to be sent to who helps"), {}, tr("Help"),
        [this] { (new LogDialog(this))->show(); });
    add("help.manual", tr("Manual"), tr("Opens the manual at the page for what you are doing"),
        QKeySequence(Qt::Key_F1), tr("Help"), [this] { open_manual(); });
}

void MainWindow::connect_parts() {
    new FocusKeeper(this, desk_.stage, &desk_.commands);
    connect_document();
    connect_contents();
    connect(desk_.jobs, &Jobs::failed, this,
            [this](const QString& text) { desk_.notice->show_text(text, true); });
    const auto refuse = [this](const QString& why) { desk_.status->say(why, true); };
    connect(&desk_.commands, &CommandTable::refused, this, refuse);
    for (Stage* stage : {desk_.stage, &desk_.section->stage()}) {
        connect(stage, &Stage::refused, this, refuse);
        connect(stage, &Stage::pointed, desk_.status, &StatusLine::set_position);
    }
    connect(&desk_, &Desk::card_wanted, this, &MainWindow::toggle_card);
    connect(desk_.card, &WorkCard::back, this, &MainWindow::back_to_card);
    for (SideCard* card : desk_.cards) {
        connect(card, &SideCard::opened, this, [this, card] {
            work_column_->hide();
            for (SideCard* other : desk_.cards)
                if (other != card && other->is_open()) other->close_card();
        });
        connect(card, &SideCard::tool_wanted, this, [this, card] { show_tool_settings(card); });
        connect(card, &SideCard::closed, this, [this] {
            if (std::none_of(desk_.cards.begin(), desk_.cards.end(),
                             [](SideCard* c) { return c->is_open(); }))
                show_tool_settings(nullptr);
            desk_.commands.refresh();
        });
    }
}

void MainWindow::connect_document() {
    Document* const document = desk_.document;
    connect(document, &Document::changed, this, &MainWindow::refresh);
    connect(document, &Document::converted, this, [this](quint64 id) { desk_.view->fly_to_item(id); });
    connect(document, &Document::numbers_changed, this, [this] { desk_.card->refresh(); });
    connect(document, &Document::disk_changed, this, [this] {
        desk_.status->refresh();
        contents_->refresh_head();
        const store::Journal::Status disk = desk_.document->disk();
        if (closing_ && (disk.waiting == 0 || !disk.error.empty()))
            QTimer::singleShot(0, this, [this] { close(); });
    });
    connect(document, &Document::failed, this,
            [this](const QString& text) { desk_.notice->show_text(text, true); });
    connect(document, &Document::message, this,
            [this](const QString& text) { desk_.status->say(text, false); });
    connect(document, &Document::wrote, desk_.status, &StatusLine::show_written);
    connect(document, &Document::replaced, this, [this] {
        desk_.view->forget();
        if (const std::size_t n = desk_.document->unsaved_at_open(); n > 0)
            desk_.notice->show_text(
                tr("%n change(s) made after the last save are here too.", "", static_cast<int>(n)), false,
                {tr("Keep them"), [] {}},
                {tr("Back to the saved state"), [this] { desk_.document->go_back_to_saved(); }});
    });
}

void MainWindow::connect_contents() {
    SceneView* const view = desk_.view;
    connect(contents_, &ContentsPanel::fly_to, view, &SceneView::fly_to_item);
    connect(contents_, &ContentsPanel::fly_to_line, view, &SceneView::fly_to_line);
    connect(contents_, &ContentsPanel::fly_along_line, &controllers_->walking, &Walking::fly_along);
    connect(contents_, &ContentsPanel::fly_to_mark, &controllers_->marks, &Marks::fly_to);
    connect(contents_, &ContentsPanel::make_again, desk_.find<MeasureCard>(), &MeasureCard::make_again);
    connect(contents_, &ContentsPanel::edit_line, &controllers_->lines, &Lines::edit_line);
    connect(contents_, &ContentsPanel::select_inside, &controllers_->lines, &Lines::select_inside_lines);
    connect(contents_, &ContentsPanel::replace_inside, &controllers_->surfaces, &Surfaces::replace_inside);
    connect(contents_, &ContentsPanel::drape, &controllers_->surfaces, &Surfaces::choose_drape);
    connect(contents_, &ContentsPanel::refused, this,
            [this](const QString& why) { desk_.status->say(why, true); });
    connect(ledger_, &LedgerStrip::hovered, view, &SceneView::set_ghosts);
    connect(ledger_, &LedgerStrip::fly_to, view, &SceneView::fly_to_entry);
}

void MainWindow::refresh() {
    desk_.view->show_scene();
    for (SideCard* card : desk_.cards) card->refresh();
    desk_.profile->refresh();
    desk_.cross_sections->refresh();
    desk_.epochs->refresh();
    desk_.lists->refresh();
    contents_->refresh();
    ledger_->refresh();
    desk_.status->refresh();
    corner_->refresh();
    setWindowTitle(tr("%1 – Pristine Cloud").arg(desk_.document->title()));
    emit desk_.site_changed();
    desk_.view->show_guides();
    desk_.commands.refresh();
}

void MainWindow::toggle_card(SideCard* card) {
    if (card->is_open() && card->isHidden()) return back_to_card();
    if (card->is_open()) return card->close_card();
    card->open();
    desk_.commands.refresh();
}

// In place of a card, which waits; null: no card is open.
void MainWindow::show_tool_settings(SideCard* instead_of) {
    if (instead_of) instead_of->set_aside();
    desk_.card->set_waiting(instead_of ? instead_of->title() : QString());
    work_column_->show();
}

void MainWindow::back_to_card() {
    work_column_->hide();
    for (SideCard* card : desk_.cards)
        if (card->is_open()) card->open();
}

void MainWindow::open_files(const std::vector<std::filesystem::path>& files) {
    controllers_->files.open_files(files);
}

void MainWindow::show_start() {
    controllers_->files.show_start();
}

void MainWindow::offer_drafts() {
    controllers_->files.offer_drafts();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    std::vector<std::filesystem::path> paths;
    for (const QUrl& url : e->mimeData()->urls())
        if (url.isLocalFile()) paths.emplace_back(url.toLocalFile().toStdString());
    open_files(paths);
}

void MainWindow::close_when_done() {
    if (!closing_) return;
    if (desk_.jobs->shown().title.isEmpty()) return void(close());
    QTimer::singleShot(100, this, [this] { close_when_done(); });
}

void MainWindow::closeEvent(QCloseEvent* e) {
    controllers_->views.store_view();
    // Everything is in the project file or a draft: nothing to ask, only to wait until the disk has it.
    const store::Journal::Status disk = desk_.document->disk();
    if (!disk.error.empty()) {
        desk_.notice->show_text(
            tr("Not everything could be written: %1").arg(QString::fromStdString(disk.error)), true,
            {tr("Try again"), [this] { desk_.document->retry_writing(); }},
            {tr("Close all the same"), [] { std::_Exit(1); }});
        closing_ = false;
        return e->ignore();
    }
    if (const Jobs::Shown job = desk_.jobs->shown(); !job.title.isEmpty() && !leaving_) {
        // What runs would be lost: an export that a person waits for, an hour of repair.
        desk_.notice->show_text(tr("%1 is not done yet.").arg(job.title), false,
                                {tr("Close when it is done"),
                                 [this] {
                                     closing_ = true;
                                     close_when_done();
                                 }},
                                {tr("Stop it and close"), [this] {
                                     leaving_ = true;
                                     close();
                                 }});
        return e->ignore();
    }
    if (disk.waiting == 0) return e->accept();
    closing_ = true;
    desk_.notice->show_text(
        tr("Still writing to the disk. The window closes by itself when everything is safe."), false,
        {tr("Stay"), [this] { closing_ = false; }});
    e->ignore();
}

// A key whose command is off says why.
void MainWindow::keyPressEvent(QKeyEvent* e) {
    const QKeySequence pressed(e->keyCombination());
    for (const Command& c : desk_.commands.all())
        if (!c.key.isEmpty() && c.key == pressed && !desk_.commands.action(c.id)->isEnabled())
            return desk_.commands.trigger(c.id);
    QMainWindow::keyPressEvent(e);
}

void MainWindow::open_manual() {
    for (const QString& folder : {QCoreApplication::applicationDirPath() + "/../share/pristine-cloud/manual",
                                  QStringLiteral(PRISTINE_MANUAL_DIR)})
        if (QFileInfo::exists(folder + "/index.md")) {
            if (!manual_) manual_ = new ManualWindow(folder, this);
            for (const SideCard* card : desk_.cards)
                if (card->is_open()) return manual_->show_page(card->page());
            const site::SitePtr s = desk_.document->site();
            manual_->show_page(s->items.empty()    ? QStringLiteral("index.md")
                               : s->selected() > 0 ? QStringLiteral("decide.md")
                                                   : QStringLiteral("select.md"));
            return;
        }
    desk_.notice->show_text(tr("The manual was not found beside the program."), true);
}

// Stage, card, ledger, contents, tools.
void MainWindow::to_area(int by) {
    QWidget* card = desk_.card;
    for (SideCard* c : desk_.cards)
        if (c->is_open() && c->isVisible()) card = c;
    focus_next_area({desk_.stage, card, ledger_, contents_, findChild<QWidget*>(QStringLiteral("rail"))}, by);
}

}  // namespace pristine::app
