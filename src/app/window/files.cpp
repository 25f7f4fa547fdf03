#include "app/window/files.h"

#include <QCoreApplication>
#include <QFileDialog>
#include <QMenu>
#include <QProcess>
#include <QSettings>
#include <QStandardPaths>

#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/stage/stage.h"
#include "app/window/grid_opening.h"
#include "app/window/notice.h"
#include "app/window/start_page.h"
#include "app/window/text_import.h"
#include "app/window/unfinished_dialog.h"
#include "core/cloud/triangles.h"
#include "core/io/cloud_io.h"
#include "core/io/format.h"
#include "core/io/grid/grid_io.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "demo/ashmere.h"

namespace pristine::app {

namespace fs = std::filesystem;

Files::Files(Desk& desk) : Part(desk) {
    connect(document_, &Document::unreadable, this, &Files::say_unreadable);
}

void Files::add_commands() {
    add_opening();
    add_saving();
}

// What comes in.
void Files::add_opening() {
    commands_.add({"site.open",
                   tr("Open…"),
                   tr("Adds scans to the site, or opens a project"),
                   "open",
                   QKeySequence::Open,
                   tr("Site"),
                   [this] { choose_open(); },
                   {},
                   {},
                   {}});
    add_menu("site.recent", tr("Recent files"), tr("The last files that were opened, to open them again"),
             tr("Site"), [this](QMenu* menu) { fill_recent(menu); });
    add(
        "site.start", tr("Start page"), tr("Unfinished work and recent sites, with their pictures"), {},
        tr("Site"), [this] { show_start(); }, [] { return QString(); });
    add(
        "site.window", tr("New window"),
        tr("A site of its own beside this one; a site is open in one window only"),
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N), tr("Site"), [this] { open_window(); },
        [] { return QString(); });
    add(
        "site.close", tr("Close the site"),
        tr("Everything is written already; what has no name yet stays among the unfinished work"),
        QKeySequence(Qt::CTRL | Qt::Key_W), tr("Site"), [this] { close_site(); },
        [this] {
            return document_->site()->items.empty() && !document_->has_file() ? tr("No site is open.")
                                                                              : QString();
        });
    commands_.add(
        {"site.unfinished",
         tr("Unfinished work…"),
         tr("Sites that were never saved under a name: what they hold, to open them or throw them away"),
         "",
         {},
         tr("Site"),
         [this] { show_drafts(); },
         {},
         {},
         {}});
    commands_.add(
        {"site.open_text",
         tr("Open text with a preview…"),
         tr("Shows the first lines of a text file, to name its columns, skip lines, set separator and unit"),
         "",
         {},
         tr("Site"),
         [this] { choose_text(); },
         {},
         {},
         {}});
    commands_.add({"site.open_grid",
                   tr("Open a grid thinned…"),
                   tr("Asks how large an error of height thinning may make, and how many cells are kept"),
                   "",
                   {},
                   tr("Site"),
                   [this] { choose_grid(); },
                   {},
                   {},
                   {}});
}

// The project.
void Files::add_saving() {
    commands_.add({"site.save",
                   tr("Save"),
                   tr("Marks this state of the project as saved; every change is on the disk anyway"),
                   "save",
                   QKeySequence::Save,
                   tr("-Site"),
                   [this] { document_->has_file() ? document_->save() : choose_save_as(); },
                   [this] {
                       return document_->site()->items.empty()
                                  ? tr("There is nothing to save yet: open a scan first.")
                                  : QString();
                   },
                   {},
                   {}});
    commands_.add({"site.save_as",
                   tr("Save as…"),
                   tr("Writes the whole project to another file and goes on there"),
                   "",
                   QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S),
                   tr("Site"),
                   [this] { choose_save_as(); },
                   [this] {
                       return document_->site()->items.empty()
                                  ? tr("There is nothing to save yet: open a scan first.")
                                  : QString();
                   },
                   {},
                   {}});
}

void Files::build_start(QWidget* area) {
    start_ = new StartPage(jobs_, area);
    connect(start_, &StartPage::open_wanted, this, &Files::choose_open);
    connect(start_, &StartPage::file_wanted, this,
            [this](const QString& file) { open_files({file.toStdString()}); });
    connect(start_, &StartPage::drafts_wanted, this, &Files::show_drafts);
    connect(start_, &StartPage::demo_wanted, this, &Files::open_demo);
    connect(start_, &StartPage::left, start_, &QWidget::hide);
    // What is opened is seen.
    connect(document_, &Document::changed, this, [this] {
        if (!document_->site()->items.empty() || !document_->site()->lines.empty()) start_->hide();
    });
}

void Files::show_start() {
    if (start_) start_->open();
}

void Files::close_site() {
    emit desk_.leaving_site();
    if (!document_->close_site()) return;
    stage_->look_anew();  // the next site may lie anywhere
    notice_->hide();
    show_start();
}

// A process of its own: what goes wrong in one window does no harm to another, and a project is locked by who
// has it open.
void Files::open_window() {
    if (!QProcess::startDetached(QCoreApplication::applicationFilePath(), {}))
        notice_->show_text(tr("Another window could not be started."), true);
}

// Made once; found again the next time.
void Files::open_demo() {
    const fs::path folder =
        fs::path(QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation).toStdString()) /
        "ashmere-lock";
    const std::vector<fs::path> scans{folder / "chamber-station-1.las", folder / "chamber-station-2.las"};
    std::error_code error;
    if (fs::exists(scans[0], error) && fs::exists(scans[1], error)) return open_files(scans);
    jobs_->start(
        tr("Making Ashmere Lock"), [folder](Progress& p) { demo::write_site(folder, {}, p); },
        [this, scans] { open_files(scans); },
        [this](const Jobs::Failure& why) {
            if (!why.message.isEmpty()) notice_->show_text(why.message, true);
        });
}

void Files::open_files(const std::vector<fs::path>& paths) {
    std::vector<fs::path> scans;
    notice_->hide();  // what it says is of what was opened before
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
        else if (io::is_picture(p))
            offer_drape(p);
        else if (io::is_mesh_file(p) || io::is_grid_file(p) ||
                 (p.extension() == ".xml" && io::landxml_has_items(p))) {
            scans.push_back(p);
            if (p.extension() == ".xml") emit desk_.lines_opened(p, true);  // breaklines beside the surface
        } else if (io::is_line_file(p) || p.extension() == ".geojson")
            emit desk_.lines_opened(p, false);
        else if (TextImport::wants_help(p))
            preview_text(p);
        else
            scans.push_back(p);
    }
    document_->add_files(scans);
}

void Files::say_unreadable(const QString& text, const QString& path, Remedy remedy) {
    std::vector<Notice::Choice> choices;
    if (remedy == Remedy::ReadPart || remedy == Remedy::PartOrColumns)
        choices.push_back({tr("Open what is whole"), [this, path] {
                               io::ReadOptions partial;
                               partial.accept_partial = true;
                               document_->add_files({path.toStdString()}, partial);
                           }});
    if (remedy == Remedy::ChooseColumns || remedy == Remedy::PartOrColumns)
        choices.push_back(
            {tr("Say what the columns are…"), [this, path] { preview_text(path.toStdString()); }});
    notice_->show_choices(text, true, choices);
}

// A photograph is no terrain: it can lie on one.
void Files::offer_drape(const fs::path& picture) {
    const site::ItemPtr item = document_->site()->active_item();
    const QString name = QString::fromStdString(picture.filename().string());
    if (!item || !item->cloud->triangles())
        return notice_->show_text(
            tr("%1 is a picture, not a grid of heights. Open a surface, then drape the picture on "
               "it: right click in the contents.")
                .arg(name),
            false);
    notice_->show_text(tr("%1 is a picture, not a grid of heights.").arg(name), false,
                       {tr("Drape it on %1").arg(QString::fromStdString(item->name)),
                        [this, id = item->id, picture] { emit desk_.drape_wanted(id, picture); }});
}

void Files::preview_text(const fs::path& path) {
    try {
        auto* preview = new TextImport(path, window_);
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

void Files::choose_text() {
    const QString file = QFileDialog::getOpenFileName(
        window_, tr("Open text with a preview"), QSettings().value("folder").toString(),
        tr("Text of points (*.xyz *.txt *.csv *.asc);;All files (*)"));
    if (!file.isEmpty()) preview_text(file.toStdString());
}

void Files::choose_grid() {
    const QString file = QFileDialog::getOpenFileName(
        window_, tr("Open a grid thinned"), QSettings().value("folder").toString(),
        tr("Grids of heights (*.tif *.tiff *.asc);;All files (*)"));
    if (!file.isEmpty()) ask_of_grid(file.toStdString());
}

void Files::ask_of_grid(const fs::path& path) {
    try {
        auto* dialog = new GridOpening(path, window_);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        connect(dialog, &QDialog::accepted, this,
                [this, dialog, path] { document_->add_files({path}, dialog->options()); });
        dialog->show();
    } catch (const Error& e) {
        notice_->show_text(QString::fromStdString(e.what()), true);
    }
}

void Files::offer_drafts() {
    const auto drafts = Document::left_drafts();
    if (drafts.empty()) return;
    const fs::path newest = drafts.front();
    notice_->show_text(tr("%1.").arg(UnfinishedDialog::told(drafts)), false,
                       {drafts.size() == 1 ? tr("Open it") : tr("Open the newest"),
                        [this, newest] { document_->open_project(newest); }},
                       {drafts.size() == 1 ? tr("Look at it…") : tr("Show all…"), [this] { show_drafts(); }});
}

void Files::show_drafts() {
    auto* dialog = new UnfinishedDialog(window_);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog] { document_->open_project(dialog->chosen()); });
    dialog->show();
}

void Files::choose_open() {
    QStringList endings;
    for (const std::string& e : io::endings_read()) endings << "*." + QString::fromStdString(e);
    const QStringList files = QFileDialog::getOpenFileNames(
        window_, tr("Open scans or a project"), QSettings().value("folder").toString(),
        tr("Scans, lines and projects (%1 *.pristine);;All files (*)").arg(endings.join(' ')));
    std::vector<fs::path> paths;
    for (const QString& f : files) paths.emplace_back(f.toStdString());
    if (!paths.empty())
        QSettings().setValue("folder", QString::fromStdString(paths[0].parent_path().string()));
    open_files(paths);
}

void Files::choose_save_as() {
    QString file = QFileDialog::getSaveFileName(
        window_, tr("Save the project"), QSettings().value("folder").toString(), tr("Projects (*.pristine)"));
    if (file.isEmpty()) return;
    if (!file.endsWith(QStringLiteral(".pristine"))) file += QStringLiteral(".pristine");
    document_->save_as(file.toStdString(), true);
    remember_recent(file.toStdString());
}

void Files::remember_recent(const fs::path& path) {
    std::error_code error;
    const QString absolute = QString::fromStdString(fs::absolute(path, error).string());
    QStringList recent = QSettings().value("recent").toStringList();
    recent.removeAll(absolute);
    recent.prepend(absolute);
    while (recent.size() > 10) recent.removeLast();
    QSettings().setValue("recent", recent);
}

void Files::fill_recent(QMenu* menu) {
    for (const QString& f : QSettings().value("recent").toStringList())
        menu->addAction(f, this, [this, f] { open_files({f.toStdString()}); });
    if (menu->isEmpty()) menu->addAction(tr("Nothing opened yet"))->setEnabled(false);
}

}  // namespace pristine::app
