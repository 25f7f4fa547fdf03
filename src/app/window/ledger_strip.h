// The ledger strip: one small card for each decision about the item in work, oldest left.

#pragma once

#include <QFrame>
#include <QWidget>

#include "app/model/ledger_decisions.h"

class QHBoxLayout;
class QLabel;
class QScrollArea;

namespace pristine::app {

class Document;

class LedgerCard : public QFrame {
    Q_OBJECT
  public:
    LedgerCard(const LedgerDecision&, QWidget* parent);
    std::uint64_t entry() const { return entry_; }

  signals:
    void toggled(quint64 entry);
    void toggled_in(quint64 entry, quint64 item, bool active);
    void fly_to(quint64 entry);
    void rename(quint64 entry);
    void hovered(quint64 entry, bool in);

  protected:
    void enterEvent(QEnterEvent*) override { emit hovered(entry_, true); }
    void leaveEvent(QEvent*) override { emit hovered(entry_, false); }
    void focusInEvent(QFocusEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override { emit rename(entry_); }
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;

  private:
    std::uint64_t entry_;
    bool active_, gives_class_;
    std::vector<LedgerDecision::In> in_;
};

class LedgerStrip : public QWidget {
    Q_OBJECT
  public:
    LedgerStrip(Document*, QWidget* parent = nullptr);
    void refresh();

  signals:
    /// The pointer is over the card of this entry; 0: over none.
    void hovered(quint64 entry);
    void fly_to(quint64 entry);

  private:
    void toggle(quint64 entry);
    void toggle_in(quint64 entry, quint64 item, bool active);
    void rename(quint64 entry);
    Document* document_;
    QScrollArea* scroll_;
    QWidget* row_ = nullptr;
    std::vector<const void*> shown_;  // what the cards were made from
};

}  // namespace pristine::app
