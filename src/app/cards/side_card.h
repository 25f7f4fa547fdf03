// A card at the right of the stage that does one thing at a time, and is closed again: its head, and that
// only one of them is open.

#pragma once

#include <QWidget>

class QVBoxLayout;

namespace pristine::app {

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
    /// The item in work, or what may be touched of it, may have changed.
    virtual void refresh() {}

  signals:
    void opened();
    void closed();
    void tool_wanted();  ///< the settings of the hand tool are to be shown instead

  protected:
    QVBoxLayout* body() { return body_; }
    /// The card was just shown, or is about to be put away.
    virtual void on_open() {}
    virtual void on_close() {}

  private:
    QVBoxLayout* body_;
    QString title_, page_;
    bool open_ = false;
};

}  // namespace pristine::app
