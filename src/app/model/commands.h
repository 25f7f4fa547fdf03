// The command table: every action of the program, defined once. Menus, tool rail, command search, tooltips
// and the manual are made from it.

#pragma once

#include <QKeySequence>
#include <QObject>
#include <QString>
#include <functional>
#include <vector>

class QAction;

class QMenu;

namespace pristine::app {

struct Command {
    QString id;        ///< stable: "select.polygon"; also the object name of its action
    QString title;     ///< as in the menu
    QString help;      ///< one sentence
    QString icon;      ///< name in theme.h; may be empty
    QKeySequence key;  ///< may be empty
    QString menu;      ///< title of the menu; "-" in front starts a new group in it; empty: not in a menu
    std::function<void()> run;
    std::function<QString()>
        why_not;  ///< empty text: enabled; else what is missing, and what to do. May be null.
    std::function<bool()> checked;        ///< null: not checkable
    std::function<QString()> live_title;  ///< null: the title is fixed
    std::function<void(QMenu*)> fill{};   ///< it is a menu inside a menu, filled when it opens
};

class CommandTable : public QObject {
    Q_OBJECT
  public:
    explicit CommandTable(QObject* parent = nullptr) : QObject(parent) {}

    void add(Command);
    const std::vector<Command>& all() const { return commands_; }
    const Command* find(const QString& id) const;
    QAction* action(const QString& id) const;
    /// Runs it if it is enabled; else says why not by refused().
    void trigger(const QString& id);
    /// Brings enabled, checked, titles and tooltips of all actions up to date.
    void refresh();

  signals:
    void refused(const QString& why);

  private:
    std::vector<Command> commands_;
    std::vector<QAction*> actions_;
};

/// A Markdown table of all commands, for the manual.
QString commands_as_markdown(const CommandTable&);

}  // namespace pristine::app
