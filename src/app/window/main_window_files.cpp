// Files: opening, saving, exporting, what is dropped on the window, closing.

#include "app/look/lengths.h"
#include "app/window/main_window.h"

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

#include "app/cards/rule_card.h"
#include "app/cards/work_card.h"
#include "app/look/theme.h"
#include "app/model/thumbnails.h"
#include "app/panes/panorama_pane.h"
#include "app/panes/section_pane.h"
#include "app/window/contents_panel.h"
#include "app/window/decision_bar.h"
#include "app/window/grid_export.h"
#include "app/window/grid_opening.h"
#include "app/window/ledger_strip.h"
#include "app/window/legend.h"
#include "app/window/manual_window.h"
#include "app/window/notice.h"
#include "app/window/status_line.h"
#include "app/window/text_import.h"
#include "app/window/unfinished_dialog.h"
#include "core/io/cloud_io.h"
#include "core/io/grid/grid_io.h"
#include "core/io/lines/lines.h"
#include "core/io/mesh/mesh_cloud.h"
#include "core/io/mesh/mesh_io.h"
#include "core/select/summary.h"

namespace pristine::app {
namespace fs = std::filesystem;

void MainWindow::open_files(const std::vector<fs::path>& paths) {
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
            if (p.extension() == ".xml") add_lines(p, true);  // breaklines beside the surface
        } else if (io::is_line_file(p) || p.extension() == ".geojson")
            add_lines(p);
        else if (TextImport::wants_help(p))
            preview_text(p);
        else
            scans.push_back(p);
    }
    document_->add_files(scans);
}

// A photograph is no terrain: it can lie on one.
void MainWindow::offer_drape(const fs::path& picture) {
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
                        [this, id = item->id, picture] { drape(id, picture); }});
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

void MainWindow::choose_grid() {
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Open a grid thinned"), QSettings().value("folder").toString(),
                                     tr("Grids of heights (*.tif *.tiff *.asc);;All files (*)"));
    if (!file.isEmpty()) ask_of_grid(file.toStdString());
}

void MainWindow::ask_of_grid(const fs::path& path) {
    try {
        auto* dialog = new GridOpening(path, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        connect(dialog, &QDialog::accepted, this,
                [this, dialog, path] { document_->add_files({path}, dialog->options()); });
        dialog->show();
    } catch (const Error& e) {
        notice_->show_text(QString::fromStdString(e.what()), true);
    }
}

void MainWindow::offer_drafts() {
    const auto drafts = Document::left_drafts();
    if (drafts.empty()) return;
    const fs::path newest = drafts.front();
    notice_->show_text(tr("%1.").arg(UnfinishedDialog::told(drafts)), false,
                       {drafts.size() == 1 ? tr("Open it") : tr("Open the newest"),
                        [this, newest] { document_->open_project(newest); }},
                       {drafts.size() == 1 ? tr("Look at it…") : tr("Show all…"), [this] { show_drafts(); }});
}

void MainWindow::show_drafts() {
    auto* dialog = new UnfinishedDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog] { document_->open_project(dialog->chosen()); });
    dialog->show();
}

void MainWindow::choose_open() {
    QStringList endings;
    for (const io::CloudFormat& f : io::cloud_formats())
        for (const std::string& e : f.extensions) endings << "*." + QString::fromStdString(e);
    const QStringList files = QFileDialog::getOpenFileNames(
        this, tr("Open scans or a project"), QSettings().value("folder").toString(),
        tr("Scans, lines and projects (%1 *.obj *.stl *.off *.tif *.tiff *.asc *.geojson *.shp *.gpkg *.dxf "
           "*.xml *.pristine);;All files (*)")
            .arg(endings.join(' ')));
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
    const QString title = what == Export::Shown     ? tr("Export what is shown")
                          : what == Export::Removed ? tr("Export what is out")
                          : what == Export::Reasons
                              ? tr("Export each reason: the reason is added to the name")
                              : tr("Export all, what is out marked");
    const bool marked = what == Export::Withheld || what == Export::Noise || what == Export::HighNoise;
    const site::ItemPtr item = document_->site()->active_item();
    const bool triangles = item && item->cloud->triangles();
    const QString file = QFileDialog::getSaveFileName(
        this, title, QSettings().value("folder").toString(),
        triangles ? tr("PLY (*.ply);;LandXML (*.xml);;OBJ (*.obj);;STL (*.stl);;OFF (*.off);;DXF faces "
                       "(*.dxf);;GeoTIFF "
                       "(*.tif);;ASCII grid (*.asc)")
        : marked
            ? tr("LAS (*.las);;LAZ, compressed LAS (*.laz)")
            : tr("LAS (*.las);;LAZ, compressed LAS (*.laz);;E57 (*.e57);;PTX (*.ptx);;PTS (*.pts);;PLY "
                 "(*.ply);;Text with commas (*.csv);;Text with blanks (*.xyz *.txt);;LandXML survey points "
                 "(*.xml)"));
    if (file.isEmpty()) return;
    switch (what) {
        case Export::Shown:
            if (io::is_grid_ending(file.toStdString())) return export_grid(file.toStdString());
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

void MainWindow::choose_export_lines() {
    const QString file = QFileDialog::getSaveFileName(
        this, tr("Export the lines that are shown"), QSettings().value("folder").toString(),
        tr("LandXML (*.xml);;DXF (*.dxf);;GeoPackage (*.gpkg);;Shapefile (*.shp);;GeoJSON (*.geojson)"));
    if (!file.isEmpty()) document_->export_lines(file.toStdString(), true);
}

// Asks for the cell with a good one proposed, and says how large the grid would be.
void MainWindow::export_grid(const fs::path& file) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->cloud->triangles()) return say_refused(tr("Take a surface in work first."));
    auto* dialog = new GridExport(*s, *item, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, file] {
        document_->export_shown(file, true, io::Dropped::LeftOut, dialog->options());
    });
    dialog->show();
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

void MainWindow::close_when_done() {
    if (!closing_) return;
    if (jobs_->shown().title.isEmpty()) return void(close());
    QTimer::singleShot(100, this, [this] { close_when_done(); });
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
    if (const Jobs::Shown job = jobs_->shown(); !job.title.isEmpty() && !leaving_) {
        // What runs would be lost: an export that a person waits for, an hour of repair.
        notice_->show_text(tr("%1 is not done yet.").arg(job.title), false,
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
    notice_->show_text(tr("Still writing to the disk. The window closes by itself when everything is safe."),
                       false, {tr("Stay"), [this] { closing_ = false; }});
    e->ignore();
}

}  // namespace pristine::app
