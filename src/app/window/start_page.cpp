#include "app/window/start_page.h"

#include <QDateTime>
#include <QEvent>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLocale>
#include <QPixmap>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QVBoxLayout>

#include "app/look/make.h"
#include "app/look/theme.h"
#include "app/model/document.h"
#include "core/base/error.h"
#include "core/base/memory.h"
#include "core/store/project.h"

namespace pristine::app {
namespace fs = std::filesystem;
namespace {

constexpr QSize kPicture{192, 112};
constexpr int kAcross = 3;
constexpr std::size_t kDrafts = 2, kRecent = 9;

StartPage::Entry entry_of(const fs::path& path) {
    StartPage::Entry e;
    e.path = path;
    std::error_code error;
    e.there = fs::is_regular_file(path, error);
    if (!e.there) return e;
    const auto written = fs::last_write_time(path, error);
    if (!error)
        e.modified_s = std::chrono::duration_cast<std::chrono::seconds>(
                           std::chrono::file_clock::to_sys(written).time_since_epoch())
                           .count();
    try {
        e.project = store::is_project(path);
        if (e.project) e.glance = store::glance(path);
        if (!e.project) e.glance.bytes = fs::file_size(path);
    } catch (const std::exception& why) {
        e.trouble = why.what();
    }
    return e;
}

// A picture in a frame of one size, or a sign where there is none.
QLabel* picture_of(const StartPage::Entry& e, QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setFixedSize(kPicture);
    label->setAlignment(Qt::AlignCenter);
    label->setStyleSheet(QStringLiteral("background: #1D2733; color: #AEB1B5;"));
    QPixmap picture;
    if (!e.glance.picture.empty() &&
        picture.loadFromData(QByteArray::fromBase64(QByteArray::fromStdString(e.glance.picture)), "PNG"))
        label->setPixmap(picture.scaled(kPicture, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation));
    else
        label->setText(!e.there    ? StartPage::tr("not there")
                       : e.project ? StartPage::tr("no picture yet")
                                   : QString::fromStdString(e.path.extension().string()).mid(1).toUpper());
    return label;
}

QString when(const StartPage::Entry& e) {
    return QLocale().toString(QDateTime::fromSecsSinceEpoch(e.modified_s), QLocale::ShortFormat);
}

QString items_told(const StartPage::Entry& e) {
    QStringList names;
    for (const std::string& n : e.glance.items) names << QString::fromStdString(n);
    return names.size() > 3 ? StartPage::tr("%1 and %n more", "", static_cast<int>(names.size()) - 2)
                                  .arg(names.mid(0, 2).join(QStringLiteral(", ")))
                            : names.join(QStringLiteral(", "));
}

QLabel* words(const QString& text, QWidget* parent, int points, bool strong, bool soft = false) {
    auto* l = new QLabel(text, parent);
    l->setWordWrap(true);
    // The style sheet of the program gives every widget its font.
    l->setStyleSheet(QStringLiteral("font-size: %1pt; font-weight: %2; color: %3;")
                         .arg(points)
                         .arg(strong ? 700 : 400)
                         .arg(soft ? QStringLiteral("#565B61") : QStringLiteral("#1D2733")));
    return l;
}

QFrame* card(QWidget* parent) {
    auto* frame = new QFrame(parent);
    frame->setFrameShape(QFrame::StyledPanel);
    frame->setStyleSheet(QStringLiteral("QFrame { background: #FFFDF9; } QLabel { border: none; }"));
    return frame;
}

}  // namespace

StartPage::StartPage(Jobs* jobs, QWidget* parent) : QWidget(parent), latest_(jobs) {
    setObjectName(QStringLiteral("startPage"));
    setAttribute(Qt::WA_StyledBackground);
    setAutoFillBackground(true);
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    columns->addWidget(build_begin());
    columns->addWidget(build_middle(), 1);
    parent->installEventFilter(this);
    hide();
}

QWidget* StartPage::build_begin() {
    auto* side = new QWidget(this);
    side->setFixedWidth(248);
    side->setStyleSheet(QStringLiteral("background: #ECE7DD;"));
    auto* rows = new QVBoxLayout(side);
    rows->setContentsMargins(24, 32, 24, 24);
    rows->setSpacing(8);
    rows->addWidget(words(tr("Pristine Cloud"), side, 18, true));
    rows->addWidget(words(tr("Clean scans, meshes and terrain. Then measure."), side, 9, false, true));
    rows->addSpacing(16);
    const auto button = [&](const char* name, const QString& text, const QString& help) {
        QPushButton* b = make_button(side, name, text, help);
        b->setMinimumHeight(32);
        rows->addWidget(b);
        return b;
    };
    QPushButton* open = button("startOpen", tr("Open files or a site…"), tr("Ctrl+O"));
    open->setMinimumHeight(44);
    open->setStyleSheet(QStringLiteral("background: #1D2733; color: #FFFDF9; font-weight: bold;"));
    QPushButton* demo =
        button("startDemo", tr("Try it on Ashmere Lock"),
               tr("An invented site, made here: a lock chamber with people in it, a spoil bank on two "
                  "dates, a culvert, a milestone; about 45 MB in your documents"));
    QPushButton* leave = button("startLeave", tr("To the empty window"), tr("Esc"));
    rows->addSpacing(12);
    rows->addWidget(words(tr("Or drop files or a folder anywhere in this window."), side, 9, false, true));
    rows->addStretch(1);
    rows->addWidget(words(tr("F1 opens the manual, Ctrl+K finds a command."), side, 9, false, true));
    connect(open, &QPushButton::clicked, this, &StartPage::open_wanted);
    connect(demo, &QPushButton::clicked, this, &StartPage::demo_wanted);
    connect(leave, &QPushButton::clicked, this, &StartPage::left);
    return side;
}

QWidget* StartPage::build_middle() {
    auto* inside = new QWidget(this);
    auto* rows = new QVBoxLayout(inside);
    rows->setContentsMargins(24, 32, 24, 24);
    rows->setSpacing(8);
    rows->addWidget(words(tr("Unfinished work"), inside, 12, true));
    rows->addWidget(unfinished_said_ = words({}, inside, 9, false, true));
    unfinished_said_->setObjectName(QStringLiteral("startUnfinishedSaid"));
    rows->addLayout(unfinished_ = new QVBoxLayout);
    rows->addSpacing(16);
    rows->addWidget(words(tr("Recent sites and files"), inside, 12, true));
    rows->addWidget(recent_said_ = words({}, inside, 9, false, true));
    rows->addLayout(sites_ = new QGridLayout);
    sites_->setSpacing(8);
    for (int c = 0; c < kAcross; ++c) sites_->setColumnStretch(c, 1);
    rows->addStretch(1);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setWidget(inside);
    return scroll;
}

void StartPage::open() {
    resize(parentWidget()->size());
    move(0, 0);
    show();
    raise();
    findChild<QPushButton*>(QStringLiteral("startOpen"))->setFocus();
    QStringList files = QSettings().value("recent").toStringList();
    latest_.start<Found>(
        tr("Looking for recent sites"),
        [files, drafts = Document::left_drafts()](Progress& p, Found& found) {
            for (const fs::path& d : drafts) found.drafts.push_back(entry_of(d));
            for (const QString& f : files) {
                p.check();
                if (found.recent.size() < kRecent) found.recent.push_back(entry_of(f.toStdString()));
            }
        },
        [this](Found& found) {
            drafts_ = std::move(found.drafts);
            recent_ = std::move(found.recent);
            fill();
        },
        [](const QString&) {}, Jobs::Show::IfLong);
}

void StartPage::fill() {
    const auto empty = [](QLayout* layout) {
        while (QLayoutItem* item = layout->takeAt(0)) {
            if (item->widget()) item->widget()->deleteLater();
            delete item;
        }
    };
    empty(unfinished_);
    empty(sites_);
    std::uint64_t bytes = 0;
    for (const Entry& e : drafts_) bytes += e.glance.bytes;
    unfinished_said_->setText(
        drafts_.empty() ? tr("Nothing: every site has a name, or was thrown away.")
                        : tr("%n site(s) kept by themselves, never saved under a name; %1 on the disk.", "",
                             static_cast<int>(drafts_.size()))
                              .arg(QString::fromStdString(bytes_text(bytes))));
    for (std::size_t k = 0; k < std::min(kDrafts, drafts_.size()); ++k)
        unfinished_->addWidget(draft_card(drafts_[k]));
    if (drafts_.size() > kDrafts) {
        QPushButton* all = make_button(this, "startDrafts", tr("Show all…"));
        connect(all, &QPushButton::clicked, this, &StartPage::drafts_wanted);
        unfinished_->addWidget(all, 0, Qt::AlignLeft);
    }
    recent_said_->setText(recent_.empty() ? tr("Nothing was opened yet.") : QString());
    recent_said_->setVisible(recent_.empty());
    for (std::size_t k = 0; k < recent_.size(); ++k)
        sites_->addWidget(recent_card(recent_[k]), static_cast<int>(k) / kAcross,
                          static_cast<int>(k) % kAcross);
}

QWidget* StartPage::draft_card(const Entry& e) {
    QFrame* frame = card(this);
    auto* row = new QHBoxLayout(frame);
    row->addWidget(picture_of(e, frame));
    auto* text = new QVBoxLayout;
    const QString file = QString::fromStdString(e.path.string());
    text->addWidget(
        words(e.trouble.empty() ? QString::fromStdString(e.glance.name) : tr("A site that cannot be read"),
              frame, 10, true));
    text->addWidget(words(e.trouble.empty() ? tr("last: %1").arg(QString::fromStdString(e.glance.last_step))
                                            : QString::fromStdString(e.trouble),
                          frame, 9, false));
    text->addWidget(words(
        tr("%1 · %2 · %3").arg(when(e), QString::fromStdString(bytes_text(e.glance.bytes)), items_told(e)),
        frame, 9, false, true));
    QPushButton* go = make_button(frame, "startGoOn", tr("Go on"), file);
    connect(go, &QPushButton::clicked, this, [this, file] { emit file_wanted(file); });
    text->addWidget(go, 0, Qt::AlignLeft);
    row->addLayout(text, 1);
    return frame;
}

QWidget* StartPage::recent_card(const Entry& e) {
    QFrame* frame = card(this);
    frame->setToolTip(QString::fromStdString(e.path.string()));
    auto* rows = new QVBoxLayout(frame);
    rows->addWidget(picture_of(e, frame), 0, Qt::AlignHCenter);
    const QString file = QString::fromStdString(e.path.string());
    auto* name = make_button(frame, "startRecent", QString::fromStdString(e.path.stem().string()), file);
    name->setEnabled(e.there && e.trouble.empty());
    rows->addWidget(name);
    QString text;
    if (!e.there)
        text = tr("Not there: it was moved, or its drive is not connected.");
    else if (!e.trouble.empty())
        text = QString::fromStdString(e.trouble);
    else
        text = e.project ? items_told(e) + QLatin1Char('\n') : QString();
    rows->addWidget(
        words(text + (e.there ? tr("%1 · %2").arg(when(e), QString::fromStdString(bytes_text(e.glance.bytes)))
                              : QString()),
              frame, 9, false, true));
    connect(name, &QPushButton::clicked, this, [this, file] { emit file_wanted(file); });
    if (!e.there) {
        QPushButton* off = make_button(frame, "startForget", tr("Take it off the list"), file);
        connect(off, &QPushButton::clicked, this, [this, path = e.path] { forget(path); });
        rows->addWidget(off);
    }
    return frame;
}

void StartPage::forget(const fs::path& path) {
    QStringList files = QSettings().value("recent").toStringList();
    files.removeAll(QString::fromStdString(path.string()));
    QSettings().setValue("recent", files);
    std::erase_if(recent_, [&](const Entry& e) { return e.path == path; });
    fill();
}

bool StartPage::eventFilter(QObject* watched, QEvent* e) {
    if (watched == parentWidget() && e->type() == QEvent::Resize) resize(parentWidget()->size());
    return QWidget::eventFilter(watched, e);
}

void StartPage::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape) return emit left();
    QWidget::keyPressEvent(e);
}

}  // namespace pristine::app
