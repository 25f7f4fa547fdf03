#include "app/shell/main_window.h"
#include "app/panels/lengths.h"

#include <QCloseEvent>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMenuBar>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <nlohmann/json.hpp>

#include "app/panels/contents_panel.h"
#include "app/panels/decision_bar.h"
#include "app/panels/ledger_strip.h"
#include "app/panels/legend.h"
#include "app/panels/notice.h"
#include "app/panels/objects_card.h"
#include "app/panels/panorama_pane.h"
#include "app/panels/rule_card.h"
#include "app/panels/section_pane.h"
#include "app/panels/status_line.h"
#include "app/panels/text_import.h"
#include "app/panels/work_card.h"
#include "app/shell/manual_window.h"
#include "app/shell/theme.h"
#include "app/shell/thumbnails.h"
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
    take_tool(Hand::Polygon);
    refresh();
}

MainWindow::~MainWindow() {
    // Jobs end before what they report to goes away.
    delete jobs_;
}

// ---- layout
// ----------------------------------------------------------------------------------------------------

void MainWindow::build_layout() {
    auto* centre = new QWidget(this);
    auto* rows = new QVBoxLayout(centre);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    auto* columns = new QHBoxLayout;
    columns->setSpacing(0);
    contents_ = new ContentsPanel(document_, this);
    contents_->setFixedWidth(254);
    stage_ = new Stage(this);
    card_ = new WorkCard(document_, this);
    card_->setFixedWidth(296);
    columns->addWidget(contents_);
    columns->addWidget(build_rail());
    section_ = new SectionPane(jobs_, this);
    auto* split = new QSplitter(Qt::Vertical, this);
    split->setObjectName(QStringLiteral("stageSplit"));
    split->setChildrenCollapsible(false);
    split->addWidget(stage_);
    panorama_ = new PanoramaPane(jobs_, this);
    split->addWidget(section_);
    split->addWidget(panorama_);
    split->setSizes({420, 240, 240});
    columns->addWidget(split, 1);
    columns->addWidget(card_);
    rule_ = new RuleCard(document_, jobs_, this);
    rule_->setFixedWidth(296);
    columns->addWidget(rule_);
    objects_ = new ObjectsCard(document_, jobs_, this);
    objects_->setFixedWidth(296);
    columns->addWidget(objects_);
    rows->addLayout(columns, 1);
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

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (watched == stage_ && event->type() == QEvent::Resize) place_stage_corner();
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::connect_parts() {
    stage_->installEventFilter(this);
    connect(document_, &Document::changed, this, [this] { refresh(); });
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
            [this](const QString& text, const QString& path, bool part) {
                Notice::Choice read_part;
                if (part && text.contains(QStringLiteral("can be read (--partial)")))
                    read_part = {tr("Open what is whole"), [this, path] {
                                     io::ReadOptions partial;
                                     partial.accept_partial = true;
                                     document_->add_files({path.toStdString()}, partial);
                                 }};
                notice_->show_text(QString(text).remove(QStringLiteral(" (--partial)")), true, read_part);
            });
    connect(document_, &Document::message, this, [this](const QString& text) { status_->say(text, false); });
    connect(document_, &Document::replaced, this, [this] {
        drawn_site_ = nullptr;
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
    connect(card_, &WorkCard::command, &commands_, &CommandTable::trigger);
    connect(stage_, &Stage::camera_changed, this, [this] { commands_.refresh(); });
    connect(stage_, &Stage::settled_now, this, [this] { store_view(); });
    connect(contents_, &ContentsPanel::fly_to, this, [this](quint64 id) { fly_to_item(id); });
    connect(rule_, &RuleCard::preview, this, &MainWindow::preview_rule);
    connect(rule_, &RuleCard::chosen, this, &MainWindow::select_by_rule);
    connect(rule_, &RuleCard::begun, this, [this] { rule_selection_ = nullptr; });
    connect(rule_, &RuleCard::closed, this, [this] {
        card_->show();
        show_scene();
        follow_lines();
        commands_.refresh();
    });
    connect(rule_, &RuleCard::colour_changed, this,
            [this] { show_scene_of(drawn_site_ ? drawn_site_ : document_->site()); });
    connect(rule_, &RuleCard::fly, stage_, [this](const Box3& place) { stage_->look_at(place); });
    connect(objects_, &ObjectsCard::chosen, this, &MainWindow::select_objects);
    connect(objects_, &ObjectsCard::fly, stage_, [this](const Box3& place) { stage_->look_at(place); });
    connect(objects_, &ObjectsCard::said, this, [this](const QString& text) { status_->say(text, false); });
    connect(objects_, &ObjectsCard::closed, this, [this] {
        card_->show();
        commands_.refresh();
    });
    connect(card_, &WorkCard::plane_changed, this, &MainWindow::plane_settings_changed);
    connect(contents_, &ContentsPanel::edit_line, this, &MainWindow::edit_line);
    connect(contents_, &ContentsPanel::select_inside, this, &MainWindow::select_inside_lines);
    connect(contents_, &ContentsPanel::fly_to_line, this, &MainWindow::fly_to_line);
    connect(ledger_, &LedgerStrip::hovered, this, [this](quint64 id) { set_ghosts(id); });
    connect(ledger_, &LedgerStrip::fly_to, this, [this](quint64 id) { fly_to_entry(id); });
    document_->picture_maker = [this](const site::SitePtr& s) {
        return
            [s, camera = stage_->camera()](const Box3& box) { return selection_thumbnail(*s, box, camera); };
    };
}

// ---- what is shown
// ---------------------------------------------------------------------------------------------

void MainWindow::refresh() {
    show_scene();
    follow_clip();
    follow_solid();
    rule_->refresh();
    objects_->refresh();
    follow_lines();
    contents_->refresh();
    ledger_->refresh();
    status_->refresh();
    commands_.refresh();
    const site::ItemPtr item = document_->site()->active_item();
    working_on_->setVisible(item != nullptr);
    if (item) working_on_->setText(tr("Working on %1 ▾").arg(QString::fromStdString(item->name)));
    place_stage_corner();
    setWindowTitle(tr("%1 – Pristine Cloud").arg(document_->title()));
}

void MainWindow::show_scene() {
    show_scene_of(document_->site());
}

void MainWindow::show_scene_of(const site::SitePtr& s) {
    site::SetPtr ghosts;
    if (const site::ItemPtr item = s->active_item()) {
        if (const site::LedgerEntry* e = item->entry(ghost_entry_))
            ghosts = e->elements;
        else if (ghosts_shown_ || among_removed_ || s->of_removed)
            ghosts = item->removed;
    }
    drawn_site_ = s;
    section_->refresh(s, ghosts);
    panorama_->refresh(s);
    show_wipe(s);
    // A rule in hand may colour the item in work by its values; the item's own style stays as it is.
    const auto by_rule = rule_->colours();
    const auto column_of = [&](const site::Item& i) {
        return by_rule && i.id == s->active ? by_rule : document_->column_of(i);
    };
    site::Site shown = *s;
    if (by_rule)
        for (site::ItemPtr& i : shown.items)
            if (i->id == s->active) {
                auto coloured = std::make_shared<site::Item>(*i);
                coloured->style.colour_by = site::ColourBy::Column;
                coloured->style.own_range = false;
                i = std::move(coloured);
            }
    stage_->set_scene(std::make_shared<const render::Scene>(render::scene_of(shown, ghosts, column_of)));
    show_legend();
}

// Before: everything that is out is there again.
void MainWindow::show_wipe(const site::SitePtr& s) {
    if (!wipe_) {
        if (stage_->wiping()) stage_->set_before(nullptr);
        return;
    }
    const render::Scene now =
        render::scene_of(*s, nullptr, [this](const site::Item& i) { return document_->column_of(i); });
    std::vector<render::DrawItem> items = now.items();
    for (render::DrawItem& d : items) {
        if (const site::ItemPtr item = s->item(d.id))
            d.hidden = std::make_shared<const ElementSet>(*item->absent - *item->removed);
        d.selected = nullptr;
    }
    stage_->set_before(std::make_shared<const render::Scene>(std::move(items)));
}

void MainWindow::show_legend() {
    const site::ItemPtr item = document_->site()->active_item();
    std::optional<render::ColourRange> range;
    if (item && item->visible)
        for (const render::DrawItem& d : stage_->scene().items())
            if (d.id == item->id) range = render::colour_range(d);
    if (!range) return legend_->set({}, false, std::nullopt);
    if (rule_->colours()) return legend_->set(rule_->title(), false, range, rule_->per_shown());
    const site::Style& style = item->style;
    const bool grey = style.colour_by == site::ColourBy::Intensity && item->cloud->intensity();
    const bool height = !grey && style.colour_by != site::ColourBy::Column;
    const Lengths lengths(*document_->site());
    const QString unit =
        lengths.suffix().isEmpty() ? QString() : QStringLiteral(" [%1]").arg(lengths.suffix().trimmed());
    legend_->set(grey     ? tr("Intensity")
                 : height ? tr("Height%1").arg(unit)
                          : QString::fromStdString(style.column),
                 grey, range, height ? lengths.data(1) : 1);
}

void MainWindow::connect_legend() {
    const auto with_range = [this](double lo, double hi, bool own) {
        site::Style style = document_->site()->active_item()->style;
        style.own_range = own;
        style.range_lo = own ? lo : 0;
        style.range_hi = own ? hi : 0;
        return style;
    };
    connect(legend_, &Legend::dragged, this, [this, with_range](double lo, double hi) {
        const site::SitePtr s = document_->site();
        show_scene_of(site::set_style(*s, s->active, with_range(lo, hi, true)));
    });
    connect(legend_, &Legend::changed, this, [this, with_range](double lo, double hi) {
        document_->apply(tr("Colour range"), [&](const site::Site& s) {
            return site::set_style(s, s.active, with_range(lo, hi, true));
        });
    });
    connect(legend_, &Legend::reset, this, [this, with_range] {
        document_->apply(tr("Usual colour range"), [&](const site::Site& s) {
            return site::set_style(s, s.active, with_range(0, 0, false));
        });
    });
}

void MainWindow::set_ghosts(std::uint64_t entry) {
    if (ghost_entry_ == entry) return;
    ghost_entry_ = entry;
    show_scene();
}

void MainWindow::fly_to_entry(std::uint64_t id) {
    const site::ItemPtr item = document_->site()->active_item();
    const site::LedgerEntry* e = item ? item->entry(id) : nullptr;
    if (!e) return;
    const auto box = std::make_shared<Box3>();
    jobs_->start(
        tr("Looking for the points"),
        [item, elements = e->elements, box](Progress& p) {
            *box = select::summarise(*item->cloud, *elements, *elements, nullptr, p).box;
        },
        [this, box] {
            const double margin = std::max(box->diagonal() * 0.3, 0.1);
            box->lo = box->lo - Vec3{margin, margin, margin};
            box->hi = box->hi + Vec3{margin, margin, margin};
            stage_->look_at(*box);
        },
        {}, true);
}

void MainWindow::fly_to_item(std::uint64_t id) {
    if (const site::ItemPtr item = document_->site()->item(id)) stage_->look_at(item->cloud->robust_bounds());
}

void MainWindow::choose_item() {
    QMenu menu(this);
    for (const site::ItemPtr& item : document_->site()->items)
        menu.addAction(QString::fromStdString(item->name), this, [this, id = item->id, name = item->name] {
            document_->apply(tr("Work on %1").arg(QString::fromStdString(name)),
                             [id](const site::Site& s) { return site::activate(s, id); });
        });
    menu.exec(working_on_->mapToGlobal(QPoint(0, working_on_->height())));
}

void MainWindow::say_refused(const QString& why) {
    status_->say(why, true);
}

// ---- decisions
// -------------------------------------------------------------------------------------------------

void MainWindow::decide(bool keep_only) {
    const site::SitePtr s = document_->site();
    const Command* tool = nullptr;  // the hand tool that is checked now
    for (const Command& c : commands_.all())
        if (c.checked && c.menu.endsWith(tr("Tools")) && c.checked()) tool = &c;
    site::Decision d;
    d.reason = keep_only ? tr("Everything else").toStdString() : card_->reason().toStdString();
    d.how = (tool ? tool->title.toLower() : tr("selection")).toStdString() +
            (card_->visible_only() ? ", visible only" : ", through");
    if (s->selection && s->selection == rule_selection_) d.how = rule_how_.toStdString();
    if (keep_only) d.how = "keep only what was selected by " + d.how;
    d.picture = document_->numbers().picture;
    const std::uint64_t n = keep_only ? document_->numbers().of - document_->numbers().count : s->selected();
    document_->apply(
        (keep_only ? tr("Keep only the selection, %1 points go") : tr("Remove %1 points")).arg(grouped(n)),
        [&](const site::Site& site) {
            return keep_only ? site::keep_only_selection(site, d) : site::remove_selection(site, d);
        });
}

// ---- files
// -----------------------------------------------------------------------------------------------------

void MainWindow::open_files(const std::vector<fs::path>& paths) {
    std::vector<fs::path> scans;
    for (const fs::path& p : paths) {
        remember_recent(p);
        bool project = false;
        try {
            project = store::is_project(p);
        } catch (const std::exception& e) {
            notice_->show_text(QString::fromUtf8(e.what()), true);
            continue;
        }
        if (project)
            document_->open_project(p);
        else if (TextImport::wants_help(p))
            preview_text(p);
        else
            scans.push_back(p);
    }
    document_->add_files(scans);
}

void MainWindow::preview_text(const fs::path& path) {
    try {
        auto* preview = new TextImport(path, this);
        preview->setAttribute(Qt::WA_DeleteOnClose);
        connect(preview, &QDialog::accepted, this, [this, preview, path] {
            io::ReadOptions options;
            options.text = preview->reading();
            document_->add_files({path}, options);
        });
        preview->show();
    } catch (const Error& e) {
        notice_->show_text(QString::fromStdString(e.what()), true);
    }
}

void MainWindow::choose_text() {
    const QString file = QFileDialog::getOpenFileName(
        this, tr("Open text with a preview"), QSettings().value("folder").toString(),
        tr("Text of points (*.xyz *.txt *.csv *.asc);;All files (*)"));
    if (!file.isEmpty()) preview_text(file.toStdString());
}

void MainWindow::offer_drafts() {
    const auto drafts = Document::left_drafts();
    if (drafts.empty()) return;
    const fs::path newest = drafts.front();
    notice_->show_text(tr("A site that was never saved is still here (%1).")
                           .arg(QString::fromStdString(newest.stem().string())),
                       false, {tr("Open it"), [this, newest] { document_->open_project(newest); }},
                       {tr("Throw it away"), [newest] {
                            std::error_code ignored;
                            for (const char* end : {"", "-wal", "-shm"})
                                fs::remove(newest.string() + end, ignored);
                        }});
}

void MainWindow::choose_open() {
    QStringList endings;
    for (const io::CloudFormat& f : io::cloud_formats())
        for (const std::string& e : f.extensions) endings << "*." + QString::fromStdString(e);
    const QStringList files = QFileDialog::getOpenFileNames(
        this, tr("Open scans or a project"), QSettings().value("folder").toString(),
        tr("Scans and projects (%1 *.pristine);;All files (*)").arg(endings.join(' ')));
    std::vector<fs::path> paths;
    for (const QString& f : files) paths.emplace_back(f.toStdString());
    if (!paths.empty())
        QSettings().setValue("folder", QString::fromStdString(paths[0].parent_path().string()));
    open_files(paths);
}

void MainWindow::choose_save_as() {
    QString file = QFileDialog::getSaveFileName(
        this, tr("Save the project"), QSettings().value("folder").toString(), tr("Projects (*.pristine)"));
    if (file.isEmpty()) return;
    if (!file.endsWith(QStringLiteral(".pristine"))) file += QStringLiteral(".pristine");
    document_->save_as(file.toStdString(), true);
    remember_recent(file.toStdString());
}

void MainWindow::choose_export(Export what) {
    const QString title =
        what == Export::Shown                               ? tr("Export what is shown")
        : what == Export::Withheld || what == Export::Noise ? tr("Export all, what is out marked")
        : what == Export::Removed                           ? tr("Export what is out")
                                  : tr("Export each reason: the reason is added to the name");
    const bool marked = what == Export::Withheld || what == Export::Noise || what == Export::HighNoise;
    const QString file = QFileDialog::getSaveFileName(
        this, title, QSettings().value("folder").toString(),
        marked ? tr("LAS (*.las);;LAZ, compressed LAS (*.laz)")
               : tr("LAS (*.las);;LAZ, compressed LAS (*.laz);;E57 (*.e57);;PTX (*.ptx);;PTS (*.pts);;PLY "
                    "(*.ply);;Text with commas (*.csv);;Text with blanks (*.xyz *.txt)"));
    if (file.isEmpty()) return;
    switch (what) {
        case Export::Shown:
            return document_->export_shown(file.toStdString(), true);
        case Export::Withheld:
            return document_->export_shown(file.toStdString(), true, io::Dropped::Withheld);
        case Export::Noise:
            return document_->export_shown(file.toStdString(), true, io::Dropped::Noise);
        case Export::HighNoise:
            return document_->export_shown(file.toStdString(), true, io::Dropped::HighNoise);
        case Export::Removed:
            return document_->export_removed(file.toStdString(), true);
        case Export::Reasons:
            return document_->export_reasons(file.toStdString(), true);
    }
}

void MainWindow::remember_recent(const fs::path& path) {
    std::error_code error;
    const QString absolute = QString::fromStdString(fs::absolute(path, error).string());
    QStringList recent = QSettings().value("recent").toStringList();
    recent.removeAll(absolute);
    recent.prepend(absolute);
    while (recent.size() > 10) recent.removeLast();
    QSettings().setValue("recent", recent);
}

void MainWindow::fill_recent() {
    recent_->clear();
    for (const QString& f : QSettings().value("recent").toStringList())
        recent_->addAction(f, this, [this, f] { open_files({f.toStdString()}); });
    if (recent_->isEmpty()) recent_->addAction(tr("Nothing opened yet"))->setEnabled(false);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
    std::vector<fs::path> paths;
    for (const QUrl& url : e->mimeData()->urls())
        if (url.isLocalFile()) paths.emplace_back(url.toLocalFile().toStdString());
    open_files(paths);
}

void MainWindow::closeEvent(QCloseEvent* e) {
    store_view();
    // Everything is in the project file or a draft: nothing to ask, only to wait until the disk has it.
    const store::Journal::Status disk = document_->disk();
    if (!disk.error.empty()) {
        notice_->show_text(tr("Not everything could be written: %1").arg(QString::fromStdString(disk.error)),
                           true, {tr("Try again"), [this] { document_->retry_writing(); }},
                           {tr("Close all the same"), [] { std::_Exit(1); }});
        closing_ = false;
        return e->ignore();
    }
    if (disk.waiting == 0) return e->accept();
    closing_ = true;
    notice_->show_text(tr("Still writing to the disk. The window closes by itself when everything is safe."),
                       false, {tr("Stay"), [this] { closing_ = false; }});
    e->ignore();
}

// ---- the view is kept with the project
// -------------------------------------------------------------------------

namespace {

nlohmann::json view_json(const render::Camera& c) {
    return {{"eye", {c.eye.x, c.eye.y, c.eye.z}},
            {"yaw", c.yaw_deg},
            {"pitch", c.pitch_deg},
            {"focus", c.focus},
            {"perspective", c.perspective},
            {"field", c.field_deg}};
}

// Throws nlohmann::json::exception for a view that a later version wrote.
render::Camera camera_from(const nlohmann::json& j) {
    render::Camera c;
    c.eye = {j.at("eye").at(0), j.at("eye").at(1), j.at("eye").at(2)};
    c.yaw_deg = j.at("yaw");
    c.pitch_deg = j.at("pitch");
    c.focus = j.at("focus");
    c.perspective = j.at("perspective");
    c.field_deg = j.at("field");
    return c;
}

}  // namespace

void MainWindow::store_view() {
    if (stage_->peeking() || document_->site()->items.empty()) return;
    nlohmann::json j = view_json(stage_->camera());
    const auto before = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (before.is_object() && before.contains("saved")) j["saved"] = before["saved"];
    document_->keep_view(j.dump());
}

void MainWindow::restore_view() {
    const auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (!j.is_object()) return;
    try {
        stage_->set_camera(camera_from(j));
    } catch (const nlohmann::json::exception&) {
        // The data matter more than the place of the camera.
    }
}

void MainWindow::keep_view_as() {
    bool ok = false;
    const QString name =
        QInputDialog::getText(this, tr("Keep this view"), tr("Name"), QLineEdit::Normal, {}, &ok).trimmed();
    if (!ok || name.isEmpty()) return;
    store_view();
    auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    nlohmann::json view = view_json(stage_->camera());
    view["name"] = name.toStdString();
    nlohmann::json others = nlohmann::json::array();
    for (const auto& v : j.value("saved", nlohmann::json::array()))
        if (v.value("name", "") != name.toStdString()) others.push_back(v);
    others.push_back(view);
    j["saved"] = others;
    document_->keep_view(j.dump());
    status_->say(tr("The view is kept as %1").arg(name), false);
}

void MainWindow::fill_views() {
    saved_views_->clear();
    const auto j = nlohmann::json::parse(document_->kept_view(), nullptr, false);
    if (j.is_object())
        for (const auto& v : j.value("saved", nlohmann::json::array()))
            saved_views_->addAction(QString::fromStdString(v.value("name", "?")), this, [this, v] {
                try {
                    stage_->jump_to(camera_from(v));
                } catch (const nlohmann::json::exception&) {
                    say_refused(tr("This view cannot be read."));
                }
            });
    if (saved_views_->isEmpty()) saved_views_->addAction(tr("None yet"))->setEnabled(false);
}

void MainWindow::open_manual() {
    for (const QString& folder : {QCoreApplication::applicationDirPath() + "/../share/pristine-cloud/manual",
                                  QStringLiteral(PRISTINE_MANUAL_DIR)})
        if (QFileInfo::exists(folder + "/index.md")) {
            if (!manual_) manual_ = new ManualWindow(folder, this);
            manual_->show_page(document_->site()->items.empty()    ? QStringLiteral("index.md")
                               : document_->site()->selected() > 0 ? QStringLiteral("decide.md")
                                                                   : QStringLiteral("select.md"));
            return;
        }
    notice_->show_text(tr("The manual was not found beside the program."), true);
}

}  // namespace pristine::app
