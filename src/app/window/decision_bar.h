// The decision bar: floats at the bottom of the stage while something is selected, says what, and offers what
// to do.

#pragma once

#include <QFrame>
#include <functional>

#include "core/site/site.h"

class QBoxLayout;
class QComboBox;
class QHBoxLayout;
class QLabel;
class QToolButton;

namespace pristine::app {

class CommandTable;
class Document;

class DecisionBar : public QFrame {
    Q_OBJECT
  public:
    DecisionBar(Document*, CommandTable*, QWidget* stage);
    void refresh();
    /// What it says of the selection, as lines of text; empty when nothing is selected.
    QString told() const;
    /// The reason that a removal is entered with: that of what made the selection, or what a person chose
    /// instead.
    QString reason() const;
    /// What a person chose for the present selection; empty: nothing.
    const QString& chosen_reason() const { return chosen_; }
    /// Where a menu of classes ends at the bottom: above the bar, at its button; on the screen.
    QPoint place_for_classes() const;
    /// What is proposed when the selection itself proposes nothing.
    std::function<QString()> usual_reason;

  signals:
    /// A person chose another reason for the present selection.
    void reason_chosen(const QString& reason);

  protected:
    bool eventFilter(QObject*, QEvent*) override;

  private:
    void add_words(QBoxLayout*);
    void add_reason();
    void offer_reasons();
    void add_buttons(QHBoxLayout*, CommandTable*);
    void place();
    void propose_reason();
    Document* document_;
    QComboBox* reason_;
    QString chosen_;
    QStringList offered_;
    site::Parts proposed_for_;
    site::Origin proposed_;
    QString usual_;
    QLabel *count_, *detail_;
    QToolButton *remove_, *class_, *keep_, *apart_, *guard_, *put_back_;
};

}  // namespace pristine::app
