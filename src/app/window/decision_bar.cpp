#include "app/window/decision_bar.h"

#include <QApplication>
#include <QComboBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "app/look/lengths.h"
#include "app/look/preferences.h"
#include "app/look/theme.h"
#include "app/model/commands.h"
#include "app/model/document.h"

namespace pristine::app {
namespace {

QToolButton* button(const QString& name, const QString& command, CommandTable* table, QWidget* parent) {
    auto* b = new QToolButton(parent);
    b->setObjectName(name);
    b->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    b->setIconSize({22, 22});
    b->setFocusPolicy(Qt::StrongFocus);
    b->setMinimumHeight(44);
    QObject::connect(b, &QToolButton::clicked, table, [table, command] { table->trigger(command); });
    return b;
}

QString share(std::uint64_t part, std::uint64_t whole) {
    if (whole == 0) return {};
    const double percent = 100.0 * static_cast<double>(part) / static_cast<double>(whole);
    return QStringLiteral("%1 %").arg(QString::number(percent, 'f', percent < 1 ? 2 : percent < 10 ? 1 : 0));
}

// Where it lies, when that is not the item in work alone: "in Pier 2", "in 3 items: Pier 1, Pier 2, …".
QString where_of(const site::Site& s) {
    if (s.selection.size() == 1 && s.selection.contains(s.active)) return {};
    constexpr int kNamed = 2;
    QStringList names;
    for (const auto& [id, part] : s.selection)
        if (const site::ItemPtr item = s.item(id); item && names.size() <= kNamed)
            names << (names.size() < kNamed ? QString::fromStdString(item->name) : QStringLiteral("…"));
    if (s.selection.size() == 1) return DecisionBar::tr("in %1").arg(names.front());
    return DecisionBar::tr("in %1 items: %2").arg(s.selection.size()).arg(names.join(QStringLiteral(", ")));
}

// How much of it is not seen: outside a clip box that tools may leave.
std::uint64_t beyond_clip(const site::Site& s) {
    std::uint64_t n = 0;
    for (const auto& [id, part] : s.selection)
        if (const site::ItemPtr item = s.item(id); item && item->clipped && !s.of_removed)
            n += (*part & *item->clipped).count();
    return n;
}

}  // namespace

DecisionBar::DecisionBar(Document* document, CommandTable* table, QWidget* stage)
    : QFrame(stage), document_(document) {
    setObjectName(QStringLiteral("decisionBar"));
    setAccessibleName(tr("What to do with the selection"));
    setStyleSheet(QStringLiteral(
        "#decisionBar { background: #F5F2EC; border: 1px solid #CFC7B7; border-left: 6px solid #B86BFF; "
        "border-radius: 8px; }"
        "#decisionCount { font-size: 10pt; font-weight: 600; } #decisionDetail { color: #6B7076; font-size: "
        "8.5pt; }"
        "QToolButton { border: none; border-radius: 6px; padding: 3px 4px; font-weight: 600; }"
        "QToolButton#decideRemove, QToolButton#decidePutBack { background: #1D2733; color: #F5F2EC; }"
        "QToolButton#decideRemove:hover, QToolButton#decidePutBack:hover { background: #33445A; }"
        "QToolButton#decideClear:hover, QToolButton#decideApart:hover, QToolButton#decideGuard:hover, "
        "QToolButton#decideClass:hover { "
        "background: #E2DBCD; }"
        "QToolButton#decideApart, QToolButton#decideGuard { font-weight: 400; padding: 1px 5px; }"
        "QToolButton#decideKeep { border: 2px dashed #8C8577; border-radius: 18px; font-weight: 400; }"
        "QToolButton#decideKeep:hover { background: #E2DBCD; }"
        "QToolButton:focus { border: 2px solid #B86BFF; }"));
    // Words beside the buttons, or above them where the stage is narrow (place).
    auto* outer = new QBoxLayout(QBoxLayout::LeftToRight, this);
    outer->setContentsMargins(10, 4, 6, 4);
    outer->setSpacing(4);
    add_words(outer);
    auto* layout = new QHBoxLayout;
    layout->setSpacing(4);
    outer->addLayout(layout);
    add_reason();
    add_buttons(layout, table);
    stage->installEventFilter(this);
    hide();
}

void DecisionBar::add_words(QBoxLayout* outer) {
    auto* words = new QVBoxLayout;
    words->setSpacing(0);
    count_ = new QLabel(this);
    count_->setObjectName(QStringLiteral("decisionCount"));
    detail_ = new QLabel(this);
    detail_->setObjectName(QStringLiteral("decisionDetail"));
    words->addWidget(count_);
    words->addWidget(detail_);
    outer->addLayout(words);
    outer->addSpacing(6);
}

// What the removal is entered with.
void DecisionBar::add_reason() {
    reason_ = new QComboBox(this);
    reason_->setObjectName(QStringLiteral("reason"));
    reason_->setAccessibleName(tr("Reason that a removal is entered with"));
    reason_->setToolTip(tr("The reason that the removal is entered with"));
    reason_->setEditable(true);
    reason_->setInsertPolicy(QComboBox::NoInsert);
    offer_reasons();
    reason_->setMinimumWidth(96);
    reason_->setMinimumContentsLength(10);
    reason_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    const auto chosen = [this] {
        chosen_ = reason();
        emit reason_chosen(chosen_);
    };
    connect(reason_, &QComboBox::activated, this, chosen);
    connect(reason_->lineEdit(), &QLineEdit::editingFinished, this, [this, chosen] {
        if (reason_->lineEdit()->isModified()) chosen();
        reason_->lineEdit()->setModified(false);
    });
}

void DecisionBar::add_buttons(QHBoxLayout* layout, CommandTable* table) {
    remove_ = button(QStringLiteral("decideRemove"), QStringLiteral("decide.remove"), table, this);
    remove_->setIcon(icon(QStringLiteral("remove"), token::paper));
    class_ = button(QStringLiteral("decideClass"), QStringLiteral("decide.class"), table, this);
    class_->setIcon(icon(QStringLiteral("class")));
    class_->setText(tr("Class as…"));
    auto* clear = button(QStringLiteral("decideClear"), QStringLiteral("select.clear"), table, this);
    clear->setText(tr("Drop"));
    clear->setAccessibleName(tr("Drop the selection, remove nothing"));
    keep_ = button(QStringLiteral("decideKeep"), QStringLiteral("decide.keep"), table, this);
    keep_->setIcon(icon(QStringLiteral("keep")));
    put_back_ = button(QStringLiteral("decidePutBack"), QStringLiteral("decide.put_back"), table, this);
    put_back_->setIcon(icon(QStringLiteral("put-back"), token::paper));
    apart_ = button(QStringLiteral("decideApart"), QStringLiteral("decide.apart"), table, this);
    apart_->setIcon(icon(QStringLiteral("apart")));
    apart_->setText(tr("Set apart"));
    guard_ = button(QStringLiteral("decideGuard"), QStringLiteral("decide.guard"), table, this);
    guard_->setIcon(icon(QStringLiteral("guard")));
    guard_->setText(tr("Guard"));
    auto* others = new QVBoxLayout;
    others->setSpacing(0);
    for (QToolButton* b : {apart_, guard_}) {
        b->setMinimumHeight(24);
        b->setIconSize({16, 16});
        b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        others->addWidget(b);
    }
    // The reason stands with what it is the reason of.
    auto* removal = new QVBoxLayout;
    removal->setSpacing(2);
    remove_->setMinimumHeight(26);
    remove_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    removal->addWidget(remove_);
    removal->addWidget(reason_);
    layout->addLayout(removal);
    layout->addWidget(put_back_);
    auto* stay = new QVBoxLayout;
    stay->setSpacing(0);
    for (QToolButton* b : {class_, clear}) {
        b->setMinimumHeight(24);
        b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
        stay->addWidget(b);
    }
    layout->addLayout(stay);
    layout->addLayout(others);
    layout->addSpacing(4);
    layout->addWidget(keep_);
}

bool DecisionBar::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::Resize) place();
    return QFrame::eventFilter(watched, event);
}

void DecisionBar::place() {
    constexpr int kClear = 16;  // of the edges of the stage, both together
    auto* outer = static_cast<QBoxLayout*>(layout());
    enum { kAll, kShortWords, kTwoRows, kNarrow };
    const QString detail = detail_->property("full").toString();
    const auto lay_out = [&](int how) {
        const bool narrow = how == kNarrow;
        outer->setDirection(how >= kTwoRows ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
        detail_->setText(how >= kTwoRows ? QString(detail).replace('\n', QStringLiteral("  ·  ")) : detail);
        detail_->setVisible(!narrow);
        detail_->parentWidget()->setToolTip(narrow ? detail : QString());
        for (QToolButton* b : {apart_, guard_})  // their words are in the tooltips
            b->setToolButtonStyle(narrow ? Qt::ToolButtonIconOnly : Qt::ToolButtonTextBesideIcon);
        const bool short_words = how == kShortWords || narrow;
        keep_->setText(short_words ? tr("Keep only") : keep_->property("full").toString());
        outer->invalidate();
        outer->activate();
        adjustSize();
    };
    for (const int how : {kAll, kShortWords, kTwoRows, kNarrow}) {
        lay_out(how);
        if (width() <= parentWidget()->width() - kClear) break;
    }
    move((parentWidget()->width() - width()) / 2, parentWidget()->height() - height() - 14);
}

// Those of the settings, else the usual ones; what is chosen stays.
void DecisionBar::offer_reasons() {
    QStringList wanted = preferences().reasons;
    if (wanted.isEmpty())
        wanted = {tr("Person"),     tr("Vehicle"), tr("Moving object"),    tr("Noise"),
                  tr("Vegetation"), tr("Fixture"), tr("Outside boundary"), tr("Artifact")};
    if (wanted == offered_) return;
    offered_ = wanted;
    const QString chosen = reason_->currentText();
    const QSignalBlocker quiet(reason_);
    reason_->clear();
    reason_->addItems(offered_);
    if (!chosen.isEmpty()) reason_->setCurrentText(chosen);
}

QPoint DecisionBar::place_for_classes() const {
    return class_->isVisible() ? QPoint(class_->mapToGlobal(QPoint(0, 0)).x(), mapToGlobal(QPoint(0, 0)).y())
                               : QCursor::pos();
}

QString DecisionBar::reason() const {
    const QString text = reason_->currentText().trimmed();
    return text.isEmpty() ? tr("Artifact") : text;
}

// Once for each selection; what a person chose since stays.
void DecisionBar::propose_reason() {
    const site::SitePtr s = document_->site();
    const QString usual = usual_reason ? usual_reason() : QString();
    if (s->selection == proposed_for_ && s->origin == proposed_ && usual == usual_) return;
    chosen_.clear();
    proposed_for_ = s->selection;
    proposed_ = s->origin;
    usual_ = usual;
    reason_->setEditText(s->origin.reason.empty() ? usual : QString::fromStdString(s->origin.reason));
    reason_->lineEdit()->setModified(false);
    reason_->lineEdit()->setCursorPosition(0);
}

QString DecisionBar::told() const {
    if (document_->numbers().count == 0) return {};
    return count_->text() + QLatin1Char('\n') + detail_->property("full").toString();
}

void DecisionBar::refresh() {
    offer_reasons();
    propose_reason();
    const Document::Numbers& n = document_->numbers();
    // Hands go on in the stage; else the focus would jump to whatever comes next in the window.
    if (n.count == 0 && isAncestorOf(QApplication::focusWidget())) parentWidget()->setFocus();
    setVisible(n.count > 0);
    if (n.count == 0) return;
    const site::SitePtr s = document_->site();
    const QString what = counted(*s, s->selection);
    count_->setText(tr("%1 · %2").arg(what, share(n.count, n.of)));
    QString detail = tr("measuring…");
    if (n.ready && n.detail.lowest) {
        const Lengths lengths(*document_->site());
        // Of small things the last digits count.
        const int more = (*n.detail.highest - *n.detail.lowest) * lengths.data_metres() < 1 ? 1 : 0;
        detail = tr("H %1 to %2")
                     .arg(lengths.number(*n.detail.lowest, more), lengths.text(*n.detail.highest, more));
        if (n.detail.lowest_above_ground)
            detail += (*n.detail.lowest_above_ground < 0 ? tr("\nlowest %1 below ground")
                                                         : tr("\nlowest %1 above ground"))
                          .arg(lengths.text(std::fabs(*n.detail.lowest_above_ground)));
    }
    if (const std::uint64_t n = beyond_clip(*s); n > 0)
        detail = tr("of it %1 outside the clip box, not shown").arg(grouped(n)) + "\n" + detail;
    if (const QString where = where_of(*s); !where.isEmpty()) detail = where + "\n" + detail;
    detail_->setProperty("full", detail);
    const bool ghosts = document_->site()->of_removed;
    for (QToolButton* b : {remove_, keep_, apart_, guard_}) b->setVisible(!ghosts);
    const bool points = std::none_of(s->selection.begin(), s->selection.end(), [&](const auto& part) {
        return s->item(part.first)->cloud->triangles() != nullptr;
    });
    class_->setVisible(!ghosts && points);
    reason_->setVisible(!ghosts);
    put_back_->setVisible(ghosts);
    put_back_->setText(tr("Put back %1").arg(rounded(n.count)));
    put_back_->setAccessibleName(tr("Put back %1 removed points").arg(grouped(n.count)));
    put_back_->setToolTip(tr("These points come back; their ledger entries keep the rest."));
    remove_->setText(tr("Remove %1").arg(rounded(n.count)));
    remove_->setAccessibleName(tr("Remove %1").arg(what));
    remove_->setToolTip(tr("The selection goes, everything else stays. %1 would be left.")
                            .arg(counted(*document_, n.of - n.count)));
    keep_->setProperty("full", tr("Keep only this\n%1 would go").arg(rounded(n.of - n.count)));
    keep_->setAccessibleName(
        tr("Keep only the selection: %1 would go").arg(counted(*document_, n.of - n.count)));
    keep_->setToolTip(tr("The selection stays, everything else of this item goes: %1.")
                          .arg(counted(*document_, n.of - n.count)));
    place();
    raise();
}

}  // namespace pristine::app
