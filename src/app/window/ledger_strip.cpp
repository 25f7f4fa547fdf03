#include "app/window/ledger_strip.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QTimer>
#include <algorithm>

#include "app/look/theme.h"
#include "app/look/told.h"
#include "app/model/document.h"

namespace pristine::app {

LedgerCard::LedgerCard(const site::LedgerEntry& e, const QString& count, const QString& how, QWidget* parent)
    : QFrame(parent), entry_(e.id), active_(e.active) {
    setObjectName(QStringLiteral("ledgerCard%1").arg(e.id));
    setFocusPolicy(Qt::StrongFocus);
    setFixedSize(196, 76);
    setStyleSheet(
        QStringLiteral(
            "LedgerCard, QFrame { background: %1; border: 1px solid #D8D1C3; border-radius: 6px; } "
            "QFrame:focus { border: 2px solid #B86BFF; } QLabel { border: none; background: transparent; }")
            .arg(e.active ? "#FFFDF9" : "#EFEAE0"));
    const QString reason = QString::fromStdString(e.reason);
    setAccessibleName(tr("%1, %2, %3. Space lifts or applies it, Enter flies there, F2 renames it.")
                          .arg(reason, count, e.active ? tr("out") : tr("lifted")));
    setToolTip(tr("%1\n%2\n%3, %4 by %5\nClick: fly there. Double click: rename.")
                   .arg(reason, how, count,
                        QString::fromStdString(e.when).replace(QLatin1Char('T'), QLatin1Char(' ')),
                        QString::fromStdString(e.who)));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(1, 1, 6, 1);
    auto* picture = new QLabel(this);
    picture->setObjectName(QStringLiteral("ledgerPicture"));
    picture->setFixedSize(92, 72);
    if (e.picture) {
        const QImage image(e.picture->rgb.data(), e.picture->width, e.picture->height, e.picture->width * 3,
                           QImage::Format_RGB888);
        QPixmap pixmap = QPixmap::fromImage(image).scaled(picture->size(), Qt::KeepAspectRatioByExpanding,
                                                          Qt::SmoothTransformation);
        picture->setPixmap(pixmap);
    }
    picture->setEnabled(e.active);
    layout->addWidget(picture);
    auto* words = new QVBoxLayout;
    words->setSpacing(1);
    auto* title = new QLabel(reason, this);
    title->setStyleSheet(QStringLiteral("font-weight: 600;"));
    auto* number = new QLabel(count, this);
    number->setObjectName(QStringLiteral("soft"));
    auto* when = new QLabel(
        !e.active ? tr("lifted")
                  : (e.made ? tr("done, %1") : tr("out, %1")).arg(QString::fromStdString(e.when).mid(11, 5)),
        this);
    when->setObjectName(QStringLiteral("soft"));
    auto* toggle = new QPushButton(e.active ? tr("Lift") : tr("Apply again"), this);
    toggle->setObjectName(QStringLiteral("ledgerToggle%1").arg(e.id));
    toggle->setAccessibleName(e.active ? tr("Lift %1: bring %2 back").arg(reason, count)
                                       : tr("Apply %1 again: %2 go").arg(reason, count));
    toggle->setStyleSheet(QStringLiteral("padding: 0px 6px; font-size: 8.5pt;"));
    connect(toggle, &QPushButton::clicked, this, [this] { emit toggled(entry_); });
    for (QWidget* w : {static_cast<QWidget*>(title), static_cast<QWidget*>(number),
                       static_cast<QWidget*>(when), static_cast<QWidget*>(toggle)})
        words->addWidget(w);
    layout->addLayout(words, 1);
}

void LedgerCard::focusInEvent(QFocusEvent* e) {
    emit hovered(entry_, true);
    QFrame::focusInEvent(e);
}
void LedgerCard::focusOutEvent(QFocusEvent* e) {
    emit hovered(entry_, false);
    QFrame::focusOutEvent(e);
}

void LedgerCard::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton) emit fly_to(entry_);
}

void LedgerCard::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
        case Qt::Key_Space:
            emit toggled(entry_);
            break;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            emit fly_to(entry_);
            break;
        case Qt::Key_F2:
            emit rename(entry_);
            break;
        default:
            QFrame::keyPressEvent(e);
    }
}

void LedgerCard::contextMenuEvent(QContextMenuEvent* e) {
    QMenu menu(this);
    menu.addAction(active_ ? tr("Lift: bring it back") : tr("Apply again"), this,
                   [this] { emit toggled(entry_); });
    menu.addAction(tr("Fly there"), this, [this] { emit fly_to(entry_); });
    menu.addAction(tr("Rename the reason…"), this, [this] { emit rename(entry_); });
    menu.exec(e->globalPos());
}

LedgerStrip::LedgerStrip(Document* document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName(QStringLiteral("ledgerStrip"));
    setAttribute(Qt::WA_StyledBackground);
    setAccessibleName(tr("Ledger: everything that was removed from the item in work"));
    setFixedHeight(94);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 6, 10, 4);
    scroll_ = new QScrollArea(this);
    scroll_->setObjectName(QStringLiteral("ledgerScroll"));
    scroll_->setWidgetResizable(true);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    layout->addWidget(scroll_);
}

void LedgerStrip::refresh() {
    const site::ItemPtr item = document_->site()->active_item();
    std::vector<const void*> now{item.get()};
    if (row_ && now == shown_) return;
    shown_ = now;
    row_ = new QWidget;
    auto* layout = new QHBoxLayout(row_);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(8);
    std::uint64_t out = 0;
    bool any_active = false;
    if (item) {
        for (const site::LedgerEntry& e : item->ledger) {
            auto* card =
                new LedgerCard(e,
                               e.made ? tr("−%1, +%2").arg(grouped(e.count()), grouped(e.made->count()))
                                      : counted(*document_, e.count()),
                               told(e.cause, Lengths(*document_->site())), row_);
            connect(card, &LedgerCard::toggled, this, &LedgerStrip::toggle, Qt::QueuedConnection);
            connect(card, &LedgerCard::rename, this, &LedgerStrip::rename, Qt::QueuedConnection);
            connect(card, &LedgerCard::fly_to, this, &LedgerStrip::fly_to, Qt::QueuedConnection);
            connect(card, &LedgerCard::hovered, this,
                    [this](quint64 entry, bool in) { emit hovered(in ? entry : 0); });
            layout->addWidget(card);
        }
        out = item->taken().count();
        any_active = std::any_of(item->ledger.begin(), item->ledger.end(),
                                 [](const site::LedgerEntry& e) { return e.active; });
    }
    auto* words = new QLabel(
        !item                  ? tr("Open a scan to begin: drop a file here, or press Ctrl+O.")
        : item->ledger.empty() ? tr("Nothing has been removed from this item.\nWhat you remove appears here "
                                    "and can be brought back.")
        : out == 0 && any_active ? tr("Nothing is out. Repairs can be lifted too.")
        : out == 0               ? tr("Nothing is out: all entries are lifted.")
                                 : tr("%1 are out.\nNothing is lost: lift any card to bring it back.")
                         .arg(counted(*document_, out)),
        row_);
    words->setObjectName(QStringLiteral("soft"));
    layout->addWidget(words);
    layout->addStretch(1);
    scroll_->setWidget(row_);
    QTimer::singleShot(0, scroll_, [this] {
        scroll_->horizontalScrollBar()->setValue(scroll_->horizontalScrollBar()->maximum());
    });
}

void LedgerStrip::toggle(quint64 id) {
    const site::ItemPtr item = document_->site()->active_item();
    const site::LedgerEntry* e = item ? item->entry(id) : nullptr;
    if (!e) return;
    const QString reason = QString::fromStdString(e->reason);
    const bool active = e->active;
    document_->apply(active ? tr("Lift %1").arg(reason) : tr("Apply %1 again").arg(reason),
                     [&](const site::Site& s) { return site::set_entry_active(s, item->id, id, !active); });
}

void LedgerStrip::rename(quint64 id) {
    const site::ItemPtr item = document_->site()->active_item();
    const site::LedgerEntry* e = item ? item->entry(id) : nullptr;
    if (!e) return;
    bool ok = false;
    const QString text = QInputDialog::getText(this, tr("Reason"), tr("Why was this removed?"),
                                               QLineEdit::Normal, QString::fromStdString(e->reason), &ok)
                             .trimmed();
    if (ok && !text.isEmpty())
        document_->apply(tr("Rename the reason to %1").arg(text), [&](const site::Site& s) {
            return site::set_entry_reason(s, item->id, id, text.toStdString());
        });
}

}  // namespace pristine::app
