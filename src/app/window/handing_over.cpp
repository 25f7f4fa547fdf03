#include "app/window/handing_over.h"

#include <QFileDialog>
#include <QSettings>

#include "app/handover/deliver_page.h"
#include "app/handover/report_page.h"
#include "app/handover/sheet_page.h"
#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/stage/stage.h"
#include "app/window/status_line.h"
#include "core/io/ending.h"

namespace pristine::app {

HandingOver::HandingOver(Desk& desk) : Part(desk) {}

void HandingOver::build_pages(QWidget* parent) {
    follow(report_ = new ReportPage(document_, jobs_, status_, parent));
    follow(sheet_ = new SheetPage(document_, jobs_, status_, parent));
    follow(deliver_ = new DeliverPage(document_, jobs_, status_, parent));
}

void HandingOver::follow(Cover* page) {
    connect(page, &Cover::said, this,
            [this](const QString& text, bool refused) { status_->say(text, refused); });
    connect(page, &Cover::left, this, [this] {
        stage_->setFocus();
        commands_.refresh();
    });
}

void HandingOver::add_commands() {
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

void HandingOver::add_page(const char* id, const QString& title, const QString& help, const QKeySequence& key,
                           std::function<Cover*()> page, std::function<void()> open) {
    add(
        id, title, help, key, tr("Hand over"),
        [this, page, open] {
            const bool shown = page()->isVisible();
            for (Cover* other : std::initializer_list<Cover*>{report_, sheet_, deliver_})
                if (other->isVisible()) other->go_back();
            if (!shown) open();
        },
        [this] { return document_->site()->items.empty() ? tr("Open a scan first.") : QString(); },
        [page] { return page() && page()->isVisible(); });
}

}  // namespace pristine::app
