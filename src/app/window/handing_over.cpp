#include "app/window/handing_over.h"

#include <QFileDialog>
#include <QSettings>

#include "app/handover/deliver_page.h"
#include "app/handover/export_page.h"
#include "app/handover/picture_page.h"
#include "app/handover/report_page.h"
#include "app/handover/sheet_page.h"
#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/stage/stage.h"
#include "app/window/grid_export.h"
#include "app/window/status_line.h"
#include "core/io/ending.h"
#include "core/io/format.h"

namespace pristine::app {

HandingOver::HandingOver(Desk& desk) : Part(desk) {}

void HandingOver::build_pages(QWidget* parent) {
    follow(report_ = new ReportPage(document_, jobs_, status_, parent));
    follow(sheet_ = new SheetPage(document_, jobs_, status_, parent));
    follow(deliver_ = new DeliverPage(document_, jobs_, status_, parent));
    follow(picture_ = new PicturePage(document_, stage_, jobs_, status_, parent));
    follow(export_ = new ExportPage(document_, jobs_, status_, parent));
    connect(export_, &ExportPage::grid_wanted, this, &HandingOver::export_grid);
}

void HandingOver::follow(Cover* page) {
    connect(page, &Cover::said, this,
            [this](const QString& text, bool refused) { status_->say(text, refused); });
    connect(page, &Cover::wrote, status_, &StatusLine::show_written);
    connect(page, &Cover::left, this, [this] {
        stage_->setFocus();
        commands_.refresh();
    });
}

// Each opens the page of exports with what it names.
void HandingOver::add_exporting() {
    using site::Export;
    const auto add_export = [this](const char* id, const QString& title, const QString& help, Export what,
                                   const QKeySequence& key = {}) {
        commands_.add({id,
                       title,
                       help,
                       what == Export::Shown ? "export" : "",
                       key,
                       tr("Hand over"),
                       [this, what] { open_page(export_, [this, what] { export_->open(what); }); },
                       [this, what] { return what == Export::Shown ? needs_item() : needs_removed(); },
                       {},
                       {}});
    };
    add_export("site.export", tr("Export what is shown…"),
               tr("Writes the visible items, without what is out, to any format of point clouds; "
                  "meshes and surfaces to theirs. What goes where is shown first"),
               Export::Shown, QKeySequence(Qt::CTRL | Qt::Key_E));
    add_export("site.export_withheld", tr("Export all, what is out withheld…"),
               tr("Writes LAS or LAZ with every point; what is out carries the withheld flag"),
               Export::Withheld);
    add_export("site.export_noise", tr("Export all, what is out as noise…"),
               tr("Writes LAS or LAZ with every point; what is out gets class 7"), Export::Noise);
    add_export("site.export_high_noise", tr("Export all, what is out as high noise…"),
               tr("The same with class 18, for point formats 6 to 10"), Export::HighNoise);
    add(
        "site.export_lines", tr("Export the lines…"),
        tr("Writes the lines that are shown: LandXML, DXF, GeoPackage, Shapefile, GeoJSON"), {},
        tr("Hand over"), [this] { choose_export_lines(); },
        [this] {
            for (const site::LinePtr& l : document_->site()->lines)
                if (l->visible) return QString();
            return tr("No line is shown.");
        });
    add_export("site.export_removed", tr("Export what is out…"),
               tr("Writes the removed points of the item in work"), Export::Removed);
    add_export("site.export_reasons", tr("Export each reason…"),
               tr("Writes the removed points of the item in work, each reason into a file of its own"),
               Export::Reasons);
}

void HandingOver::choose_export_lines() {
    QStringList filters;
    for (const io::Format& f : io::formats()) {
        if (f.holds != io::Format::Holds::Lines || !f.writes) continue;
        QStringList endings;
        for (const std::string& e : f.endings) endings << "*." + QString::fromStdString(e);
        filters << QStringLiteral("%1 (%2)").arg(QString::fromStdString(f.title), endings.join(' '));
    }
    const QString file =
        QFileDialog::getSaveFileName(window_, tr("Export the lines that are shown"),
                                     QSettings().value("folder").toString(), filters.join(";;"));
    if (!file.isEmpty()) document_->export_lines(file.toStdString(), true);  // the dialog has asked
}

// Asks for the cell with a good one proposed, and says how large the grid would be.
void HandingOver::export_grid(const ExportWish& wish) {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !item->cloud->triangles()) return say_refused(tr("Take a surface in work first."));
    auto* dialog = new GridExport(*s, *item, window_);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, wish] {
        ExportWish w = wish;
        w.how = dialog->options();
        document_->export_files(w);
    });
    dialog->show();
}

void HandingOver::add_commands() {
    add_exporting();
    add_page(
        "handover.report", tr("Report…"),
        tr("What was measured, what was removed and why, with pictures and figures: PDF, HTML, CSV or JSON, "
           "to sign"),
        QKeySequence(Qt::CTRL | Qt::Key_P), [this] { return report_; }, [this] { report_->open(); });
    add_page(
        "handover.sheet", tr("Plan sheet…"),
        tr("A plan, contours, change, sections or an unrolled tunnel on paper at a true scale: PDF, SVG, "
           "PNG, DXF, GeoTIFF"),
        QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_P), [this] { return sheet_; },
        [this] { sheet_->open(); });
    add_page(
        "handover.deliver", tr("Deliverable…"),
        tr("One folder or zip with cleaned files, removed parts by reason, ledger, report and checksums, for "
           "another office to check"),
        {}, [this] { return deliver_; }, [this] { deliver_->open(); });
    add_page(
        "handover.picture", tr("Picture, film, client's page…"),
        tr("What is shown at any size, with or without a background, before and after; a turn or a flight as "
           "a "
           "short film; one HTML file for the client"),
        {}, [this] { return picture_; }, [this] { picture_->open(); });
    add(
        "handover.archive", tr("Archive…"),
        tr("The project with all that was removed in one compact file, which opens on another machine "
           "without the sources"),
        {}, tr("Hand over"), [this] { choose_archive(); },
        [this] { return document_->site()->items.empty() ? tr("Open a scan first.") : QString(); });
}

// The size is told before a person says where to.
void HandingOver::choose_archive() {
    const double mb = static_cast<double>(document_->archive_bytes()) / 1e6;
    const QString folder = QSettings().value("folder").toString();
    QString file = QFileDialog::getSaveFileName(
        window_, tr("Archive, about %1 MB").arg(shown_figure(mb, mb < 10 ? 1 : 0)),
        folder + QLatin1Char('/') + document_->title() + tr(" archive") + QStringLiteral(".pristine"),
        QStringLiteral("*.pristine"));
    if (file.isEmpty()) return;
    if (io::ending_of(file.toStdString()) != ".pristine") file += QStringLiteral(".pristine");
    document_->archive(file.toStdString(), true);  // the dialog has asked
}

// One page at a time.
void HandingOver::open_page(Cover* page, const std::function<void()>& open) {
    for (Cover* other : std::initializer_list<Cover*>{report_, sheet_, deliver_, export_, picture_})
        if (other != page && other->isVisible()) other->go_back();
    open();
}

void HandingOver::add_page(const char* id, const QString& title, const QString& help, const QKeySequence& key,
                           std::function<Cover*()> page, std::function<void()> open) {
    add(
        id, title, help, key, tr("Hand over"),
        [this, page, open] {
            const bool shown = page()->isVisible();
            if (shown)
                page()->go_back();
            else
                open_page(page(), open);
        },
        [this] { return document_->site()->items.empty() ? tr("Open a scan first.") : QString(); },
        [page] { return page() && page()->isVisible(); });
}

}  // namespace pristine::app
