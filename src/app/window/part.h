// What every controller has at hand. A controller is for one subject: it registers its own commands, listens
// to the parts of the window, and knows no other controller.

#pragma once

#include "app/window/desk.h"

namespace pristine::app {

class RuleCard;

class Part : public QObject {
    Q_OBJECT
  public:
    /// All parts that the desk names exist already.
    explicit Part(Desk&);
    /// Called once, in the order of the menus.
    virtual void add_commands() {}

  protected:
    void say_refused(const QString& why) const;
    /// Why a command cannot run; empty: it can.
    QString needs_item() const;
    QString needs_selection() const;
    QString needs_removed() const;
    QString needs_hidden() const;
    /// A selection that is not among what is out.
    QString needs_free_selection() const;
    /// The command that opens and closes a card, by its id.
    void add_card(const QString& command);
    void add(const char* id, const QString& title, const QString& help, const QKeySequence& key,
             const QString& menu, std::function<void()> run, std::function<QString()> why_not,
             std::function<bool()> checked = {});
    void add_iconed(const char* id, const QString& title, const QString& help, const QString& icon,
                    const QKeySequence& key, const QString& menu, std::function<void()> run,
                    std::function<QString()> why_not);
    /// A menu inside a menu, filled when it opens.
    void add_menu(const char* id, const QString& title, const QString& help, const QString& menu,
                  std::function<void(QMenu*)> fill);

    Desk& desk_;
    QWidget* const window_;
    Jobs* const jobs_;
    Document* const document_;
    CommandTable& commands_;
    Stage* const stage_;
    WorkCard* const card_;
    StatusLine* const status_;
    Notice* const notice_;
    SectionPane* const section_;
    PanoramaPane* const panorama_;
    RuleCard* const rule_;
};

/// One that selects, or changes what is shown: after the hand and the view.
class HandyPart : public Part {
    Q_OBJECT
  public:
    explicit HandyPart(Desk& desk) : Part(desk), hand_(*desk.hand), view_(*desk.view) {}

  protected:
    Hand& hand_;
    SceneView& view_;
};

}  // namespace pristine::app
