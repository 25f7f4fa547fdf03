// A card at the right of the stage that does one thing at a time, and is closed again: its head, and that
// only one of them is open.

#pragma once

#include <QKeySequence>
#include <QWidget>
#include <functional>
#include <vector>

#include "core/site/site.h"

class QVBoxLayout;

namespace pristine::app {

class Document;
class Jobs;
class SideCard;

/// A row of the table of cards: the command that opens and closes it, when it is on offer, how it is made.
struct CardSpec {
    QString command, title, help, icon;  ///< as of Command
    QKeySequence key;
    QString menu;
    std::function<SideCard*(Document*, Jobs*, QWidget*)> make;
    /// Besides that an item must be in work: empty text if it can be opened; else what to do. May be null.
    std::function<QString(const site::Site&)> why_not{};
};

class SideCard : public QWidget {
    Q_OBJECT
  public:
    /// The close button is called id + "Close"; `page`: of the manual.
    SideCard(const QString& id, const QString& title, const QString& page, QWidget* parent);
    void open();
    void close_card();
    /// Out of sight for a while, as the settings of the tool are wanted; it stays open.
    void set_aside();
    const QString& title() const { return title_; }
    const QString& page() const { return page_; }
    bool is_open() const { return open_; }
    /// The row that it was made from; without a command for one that was made by itself.
    const CardSpec& spec() const { return spec_; }
    void set_spec(const CardSpec& spec) { spec_ = spec; }
    /// The item in work, or what may be touched of it, may have changed.
    virtual void refresh() {}
    /// Lines that it draws in the stage.
    virtual std::vector<std::vector<Vec3>> guides() const { return {}; }

  signals:
    void opened();
    void closed();
    void tool_wanted();  ///< the settings of the hand tool are to be shown instead
    void said(const QString& text);
    void fly(const Box3& place);
    void guides_changed();

  protected:
    QVBoxLayout* body() { return body_; }
    /// The card was just shown, or is about to be put away.
    virtual void on_open() {}
    virtual void on_close() {}

  private:
    QVBoxLayout* body_;
    QString title_, page_;
    CardSpec spec_;
    bool open_ = false;
};

}  // namespace pristine::app
