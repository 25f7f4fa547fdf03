#include "app/window/status_line.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QProgressBar>
#include <QTimer>
#include <QToolButton>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "app/model/jobs.h"
#include "app/window/written_file.h"

namespace pristine::app {
namespace {

// One line of text that ends in dots where the room ends.
class OneLine : public QLabel {
  public:
    using QLabel::QLabel;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setPen(property("fault").toBool() ? QColor(0xB0, 0x3A, 0x2E) : palette().color(foregroundRole()));
        p.drawText(rect(), Qt::AlignLeft | Qt::AlignVCenter,
                   fontMetrics().elidedText(text(), Qt::ElideRight, width()));
    }
};

}  // namespace

StatusLine::StatusLine(Document* document, Jobs* jobs, QWidget* parent)
    : QWidget(parent), document_(document), jobs_(jobs) {
    setObjectName(QStringLiteral("statusLine"));
    setAttribute(Qt::WA_StyledBackground);
    setFixedHeight(26);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(12, 0, 8, 0);
    layout->setSpacing(18);
    const auto label = [&](const char* name) {
        auto* l = new OneLine(this);
        l->setTextFormat(Qt::PlainText);
        l->setObjectName(QString::fromLatin1(name));
        l->setMinimumWidth(1);  // a long sentence is cut off rather than widening the window
        layout->addWidget(l);
        return l;
    };
    position_ = label("position");
    position_->setMinimumWidth(285);
    counts_ = label("counts");
    disk_ = label("disk");
    message_ = label("message");
    layout->addStretch(1);
    layout->addWidget(written_ = new WrittenFile(this));
    connect(written_, &WrittenFile::gone, this, [this](const QString& text) { say(text, true); });
    job_ = label("job");
    bar_ = new QProgressBar(this);
    bar_->setObjectName(QStringLiteral("jobBar"));
    bar_->setAccessibleName(tr("Progress of the running job"));
    bar_->setRange(0, 1000);
    bar_->setTextVisible(false);
    bar_->setFixedWidth(110);
    layout->addWidget(bar_);
    cancel_ = new QToolButton(this);
    cancel_->setObjectName(QStringLiteral("jobCancel"));
    cancel_->setAccessibleName(tr("Cancel the running job"));
    cancel_->setToolTip(tr("Cancel: everything stays as it was"));
    cancel_->setIcon(icon(QStringLiteral("cancel")));
    cancel_->setAutoRaise(true);
    layout->addWidget(cancel_);
    connect(cancel_, &QToolButton::clicked, jobs_, &Jobs::cancel_shown);
    connect(jobs_, &Jobs::changed, this, [this] { refresh_job(); });
    set_position(false, 0, 0, 0);
    refresh_job();
}

void StatusLine::show_written(const std::filesystem::path& file) {
    written_->show_file(file);
}

void StatusLine::set_position(bool there, double x, double y, double z) {
    pointer_ = there ? std::optional(Vec3{x, y, z}) : std::nullopt;
    show_position();
}

void StatusLine::show_position() {
    const Lengths l(*document_->site());
    position_->setText(
        pointer_ ? tr("E %1   N %2   H %3")
                       .arg(l.number(pointer_->x, 1), l.number(pointer_->y, 1), l.text(pointer_->z, 1))
                 : tr("E –   N –   H –"));
}

void StatusLine::refresh() {
    show_position();
    const site::SitePtr s = document_->site();
    struct Count {
        std::uint64_t all = 0, shown = 0;
    } points, triangles;
    for (const site::ItemPtr& i : s->items) {
        Count& c = i->cloud->triangles() ? triangles : points;
        c.all += i->total();
        if (i->visible) c.shown += i->shown();
    }
    // Of both kinds the whole is short, so that what is shown has room.
    const bool any = points.all + triangles.all > 0;
    const QString shown = grouped(points.shown + triangles.shown);
    counts_->setText(!any                 ? QString()
                     : triangles.all == 0 ? tr("%1 points · %2 shown").arg(grouped(points.all), shown)
                     : points.all == 0    ? tr("%1 triangles · %2 shown").arg(grouped(triangles.all), shown)
                                          : tr("%1 points, %2 triangles · %3 shown")
                                             .arg(rounded(points.all), rounded(triangles.all), shown));
    const store::Journal::Status disk = document_->disk();
    if (!disk.error.empty())
        disk_->setText(tr("not written: %1").arg(QString::fromStdString(disk.error)));
    else if (disk.waiting > 0)
        disk_->setText(tr("writing, %1 %").arg(static_cast<int>(disk.fraction * 100)));
    else
        disk_->setText(!any ? QString() : tr("all changes on disk"));
    disk_->setProperty("fault", !disk.error.empty());
    disk_->setToolTip(disk_->text());
    // Numbers are never cut off; sentences are.
    counts_->setMinimumWidth(counts_->sizeHint().width());
    disk_->setMinimumWidth(disk.error.empty() ? disk_->sizeHint().width() : 1);
    refresh_job();
}

void StatusLine::refresh_job() {
    const Jobs::Shown job = jobs_->shown();
    const bool show = !job.title.isEmpty();
    job_->setVisible(show);
    bar_->setVisible(show);
    cancel_->setVisible(show);
    message_->setVisible(!show && !message_->text().isEmpty());
    if (!show) return;
    QString text = job.title;
    if (job.seconds_left >= 0) text += tr(" · %1 s left").arg(static_cast<int>(job.seconds_left + 0.5));
    job_->setText(text);
    job_->setToolTip(text);
    bar_->setValue(static_cast<int>(job.fraction * 1000));
}

void StatusLine::say(const QString& text, bool fault) {
    message_->setText(text);
    message_->setProperty("fault", fault);
    message_->setToolTip(text);
    refresh_job();
    if (!fault)
        QTimer::singleShot(8000, this, [this, shown = message_->text()] {
            if (message_->text() == shown) message_->clear();
        });
}

QString StatusLine::said() const {
    return message_->toolTip();
}

}  // namespace pristine::app
