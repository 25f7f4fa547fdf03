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
#include "app/model/document.h"

namespace pristine::app {

namespace {

constexpr int kWords = 88;  // px beside the picture

// "in Scan 2", "in 3 items"; nothing for the item in work alone.
QString where_of(const LedgerDecision& d) {
    if (d.in.size() == 1) return d.of_another ? LedgerCard::tr("in %1").arg(d.in.front().name) : QString();
    const auto active = std::count_if(d.in.begin(), d.in.end(), [](const auto& i) { return i.active; });
    if (active > 0 && active < static_cast<std::ptrdiff_t>(d.in.size()))
        return LedgerCard::tr("in %1 of %2 items").arg(active).arg(d.in.size());
    return LedgerCard::tr("in %1 items").arg(d.in.size());
}

}  // namespace

LedgerCard::LedgerCard(const LedgerDecision& d, QWidget* parent)
    : QFrame(parent),
      entry_(d.entry.id),
      active_(d.entry.active),
      gives_class_(d.entry.to_class.has_value()),
      in_(d.in) {
    const site::LedgerEntry& e = d.entry;
    const QString &count = d.count, &how = d.how, where = where_of(d);
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
                          .arg(reason, count, e.active ? state_of(e) : tr("lifted")));
    QString tip = tr("%1\n%2\n%3, %4 by %5\nClick: fly there. Double click: rename.")
                      .arg(reason, how, count, time_of(e), QString::fromStdString(e.who));
    for (const LedgerDecision::In& i : d.in)
        if (!where.isEmpty())
            tip += "\n" + (i.active ? tr("%1: %2").arg(i.name, state_of(e)) : tr("%1: lifted").arg(i.name));
    setToolTip(tip);
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
    auto* title = new QLabel(this);
    title->setStyleSheet(QStringLiteral("font-weight: 600;"));
    auto* number = new QLabel(this);
    // Nothing is cut without a sign; the tooltip has all of it.
    QFont bold = font();
    bold.setWeight(QFont::DemiBold);
    title->setText(QFontMetrics(bold).elidedText(reason, Qt::ElideRight, kWords));
    number->setText(fontMetrics().elidedText(count, Qt::ElideRight, kWords));
    number->setObjectName(QStringLiteral("soft"));
    auto* when = new QLabel(
        !e.active ? tr("lifted") : tr("%1, %2").arg(state_of(e), QString::fromStdString(e.when).mid(11, 5)),
        this);
    when->setObjectName(QStringLiteral("soft"));
    if (!where.isEmpty()) when->setText(where);
    auto* toggle = new QPushButton(e.active ? tr("Lift") : tr("Apply again"), this);
    toggle->setObjectName(QStringLiteral("ledgerToggle%1").arg(e.id));
    toggle->setAccessibleName(
        e.active && e.to_class ? tr("Lift %1: %2 have the class of before").arg(reason, count)
        : e.active             ? tr("Lift %1: bring %2 back").arg(reason, count)
        : e.to_class           ? tr("Apply %1 again: class %2 of %3").arg(reason).arg(*e.to_class).arg(count)
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
    menu.addAction(!active_       ? tr("Apply again")
                   : gives_class_ ? tr("Lift: the class of before")
                                  : tr("Lift: bring it back"),
                   this, [this] { emit toggled(entry_); });
    if (in_.size() > 1)
        for (const LedgerDecision::In& i : in_)
            menu.addAction((i.active ? tr("Lift in %1 only") : tr("Apply again in %1 only")).arg(i.name),
                           this, [this, i] { emit toggled_in(entry_, i.item, !i.active); });
    menu.addAction(tr("Fly there"), this, [this] { emit fly_to(entry_); });
    menu.addAction(tr("Rename the reason…"), this, [this] { emit rename(entry_); });
    menu.exec(e->globalPos());
}

LedgerStrip::LedgerStrip(Document* document, QWidget* parent) : QWidget(parent), document_(document) {
    setObjectName(QStringLiteral("ledgerStrip"));
    setAttribute(Qt::WA_StyledBackground);
    setAccessibleName(tr("Ledger: everything that was decided about the item in work"));
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
    // Which decisions are shown goes by what tools reach.
    connect(document, &Document::numbers_changed, this, &LedgerStrip::refresh);
}

void LedgerStrip::refresh() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    std::vector<const void*> now{item.get()};
    const site::Reach reach = document_->reach ? document_->reach() : site::reach_of(*s, false);
    for (const std::uint64_t id : reach) now.push_back(s->item(id).get());
    if (row_ && now == shown_) return;
    shown_ = now;
    row_ = new QWidget;
    auto* layout = new QHBoxLayout(row_);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(8);
    const std::vector<LedgerDecision> all = ledger_decisions(*s, reach);
    for (const LedgerDecision& d : all) {
        auto* card = new LedgerCard(d, row_);
        connect(card, &LedgerCard::toggled, this, &LedgerStrip::toggle, Qt::QueuedConnection);
        connect(card, &LedgerCard::toggled_in, this, &LedgerStrip::toggle_in, Qt::QueuedConnection);
        connect(card, &LedgerCard::rename, this, &LedgerStrip::rename, Qt::QueuedConnection);
        connect(card, &LedgerCard::fly_to, this, &LedgerStrip::fly_to, Qt::QueuedConnection);
        connect(card, &LedgerCard::hovered, this,
                [this](quint64 entry, bool in) { emit hovered(in ? entry : 0); });
        layout->addWidget(card);
    }
    site::Parts taken;
    for (const std::uint64_t id : reach) taken[id] = std::make_shared<const ElementSet>(s->item(id)->taken());
    const std::uint64_t out = site::count_of(taken);
    const bool any_active =
        std::any_of(all.begin(), all.end(), [](const LedgerDecision& d) { return d.entry.active; });
    auto* words = new QLabel(
        !item                             ? tr("Open a scan to begin: drop a file here, or press Ctrl+O.")
        : all.empty() && reach.size() > 1 ? tr("Nothing has been decided about the items that are "
                                               "shown.\nWhat you remove or class appears here "
                                               "and can be brought back.")
        : all.empty() ? tr("Nothing has been decided about this item.\nWhat you remove or class appears here "
                           "and can be brought back.")
        : out == 0 && any_active
            ? tr("Nothing is out. Classes, repairs and changes of a build can be lifted too.")
        : out == 0
            ? tr("Nothing is out: all entries are lifted.")
            : tr("%1 are out.\nNothing is lost: lift any card to bring it back.").arg(counted(*s, taken)),
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
    const std::vector<site::ItemPtr> items = site::items_of_decision(*document_->site(), id);
    if (items.empty()) return;
    const QString reason = QString::fromStdString(items.front()->entry(id)->reason);
    const bool active =
        std::any_of(items.begin(), items.end(), [&](const auto& i) { return i->entry(id)->active; });
    document_->set_decisions_active({id}, !active,
                                    active ? tr("Lift %1").arg(reason) : tr("Apply %1 again").arg(reason));
}

void LedgerStrip::toggle_in(quint64 id, quint64 item, bool active) {
    const site::ItemPtr i = document_->site()->item(item);
    if (!i || !i->entry(id)) return;
    document_->set_decisions_active(
        {id}, active,
        (active ? tr("Apply %1 again in %2") : tr("Lift %1 in %2"))
            .arg(QString::fromStdString(i->entry(id)->reason), QString::fromStdString(i->name)),
        item);
}

void LedgerStrip::rename(quint64 id) {
    const std::vector<site::ItemPtr> items = site::items_of_decision(*document_->site(), id);
    if (items.empty()) return;
    const std::string reason = items.front()->entry(id)->reason;
    bool ok = false;
    const QString text = QInputDialog::getText(this, tr("Reason"), tr("Why was this decided?"),
                                               QLineEdit::Normal, QString::fromStdString(reason), &ok)
                             .trimmed();
    if (ok && !text.isEmpty())
        document_->apply(tr("Rename the reason to %1").arg(text), [&](const site::Site& s) {
            return site::set_decision_reason(s, id, text.toStdString());
        });
}

}  // namespace pristine::app
