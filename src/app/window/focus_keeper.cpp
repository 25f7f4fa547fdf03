#include "app/window/focus_keeper.h"

#include <QAbstractSpinBox>
#include <QApplication>
#include <QComboBox>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPointer>
#include <QTimer>

#include "app/model/commands.h"

namespace pristine::app {
namespace {

constexpr const char* kWatched = "focusKeeper";

bool is_field(const QObject* o) {
    return qobject_cast<const QLineEdit*>(o) || qobject_cast<const QAbstractSpinBox*>(o);
}

// What a field itself does with such a key: copying, pasting, undoing, moving.
bool edits(const QKeyEvent& e) {
    for (const QKeySequence::StandardKey k :
         {QKeySequence::Copy, QKeySequence::Cut, QKeySequence::Paste, QKeySequence::Undo, QKeySequence::Redo,
          QKeySequence::SelectAll, QKeySequence::DeleteStartOfWord, QKeySequence::DeleteEndOfWord,
          QKeySequence::MoveToNextWord, QKeySequence::MoveToPreviousWord, QKeySequence::SelectNextWord,
          QKeySequence::SelectPreviousWord})
        if (e.matches(k)) return true;
    return false;
}

}  // namespace

FocusKeeper::FocusKeeper(QWidget* window, QWidget* stage, CommandTable* commands)
    : QObject(window), window_(window), stage_(stage), commands_(commands) {
    qApp->installEventFilter(this);
}

bool FocusKeeper::is_command(const QKeyEvent& e) const {
    const QKeySequence pressed(e.keyCombination());
    for (const Command& c : commands_->all())
        if (!c.key.isEmpty() && c.key == pressed) return true;
    return false;
}

// After what the event still does.
void FocusKeeper::back_to_stage(const QWidget* from) {
    QTimer::singleShot(0, this, [this, w = QPointer<const QWidget>(from)] {
        // Whoever took the focus meanwhile keeps it.
        const QWidget* now = QApplication::focusWidget();
        const bool still = !now || !w || now == w || w->isAncestorOf(now) || now->isAncestorOf(w.data());
        if (still && window_->isActiveWindow()) stage_->setFocus(Qt::OtherFocusReason);
    });
}

bool FocusKeeper::eventFilter(QObject* watched, QEvent* event) {
    auto* w = qobject_cast<QWidget*>(watched);
    if (!w || w->window() != window_) return false;
    if (event->type() == QEvent::FocusIn)
        if (auto* box = qobject_cast<QComboBox*>(w->focusProxy() ? w->focusProxy() : w);
            box && !box->property(kWatched).toBool()) {
            box->setProperty(kWatched, true);
            connect(box, &QComboBox::activated, this, [this, box] { back_to_stage(box); });
        }
    if (auto* box = qobject_cast<QComboBox*>(w->parentWidget());
        box && event->type() == QEvent::FocusIn && !box->property(kWatched).toBool()) {
        box->setProperty(kWatched, true);  // its line, where names can be typed
        connect(box, &QComboBox::activated, this, [this, box] { back_to_stage(box); });
    }
    if (!is_field(w)) return false;
    if (event->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (!(key->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) || edits(*key) || !is_command(*key))
            return false;
        event->ignore();
        return true;
    }
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Escape) back_to_stage(w);
    }
    return false;
}

void focus_next_area(std::vector<QWidget*> areas, int by) {
    std::erase_if(areas, [](const QWidget* a) { return !a || !a->isVisible(); });
    const QWidget* now = QApplication::focusWidget();
    std::size_t at = 0;
    for (std::size_t i = 0; i < areas.size(); ++i)
        if (now && (areas[i] == now || areas[i]->isAncestorOf(now))) at = i;
    for (std::size_t k = 1; k <= areas.size(); ++k) {
        const auto n = static_cast<std::ptrdiff_t>(areas.size());
        QWidget* area = areas[static_cast<std::size_t>(
            ((static_cast<std::ptrdiff_t>(at) + by * static_cast<std::ptrdiff_t>(k)) % n + n) % n)];
        if (area->focusPolicy() & Qt::TabFocus) return area->setFocus(Qt::TabFocusReason);
        for (QWidget* w : area->findChildren<QWidget*>())
            if (w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus))
                return w->setFocus(Qt::TabFocusReason);
    }
}

}  // namespace pristine::app
