#include "app/model/commands.h"

#include <QAction>

#include "app/look/theme.h"

namespace pristine::app {

void CommandTable::add(Command c) {
    auto* a = new QAction(this);
    a->setObjectName(c.id);
    if (!c.icon.isEmpty()) a->setIcon(icon(c.icon));
    a->setShortcut(c.key);
    a->setCheckable(c.checked != nullptr);
    const QString id = c.id;
    connect(a, &QAction::triggered, this, [this, id] { trigger(id); });
    commands_.push_back(std::move(c));
    actions_.push_back(a);
}

const Command* CommandTable::find(const QString& id) const {
    for (const Command& c : commands_)
        if (c.id == id) return &c;
    return nullptr;
}

QAction* CommandTable::action(const QString& id) const {
    for (std::size_t i = 0; i < commands_.size(); ++i)
        if (commands_[i].id == id) return actions_[i];
    return nullptr;
}

void CommandTable::trigger(const QString& id) {
    const Command* c = find(id);
    if (!c) return;
    const QString why = c->why_not ? c->why_not() : QString();
    if (why.isEmpty())
        c->run();
    else
        emit refused(why);
    refresh();
}

void CommandTable::refresh() {
    for (std::size_t i = 0; i < commands_.size(); ++i) {
        const Command& c = commands_[i];
        QAction* a = actions_[i];
        const QString why = c.why_not ? c.why_not() : QString();
        a->setText(c.live_title ? c.live_title() : c.title);
        a->setEnabled(why.isEmpty());
        if (c.checked) a->setChecked(c.checked());
        QString tip = QStringLiteral("<b>%1</b>").arg(c.title.toHtmlEscaped());
        if (!c.key.isEmpty())
            tip += QStringLiteral(" &nbsp; %1").arg(c.key.toString(QKeySequence::NativeText));
        tip += QStringLiteral("<br>%1").arg(c.help.toHtmlEscaped());
        if (!why.isEmpty()) tip += QStringLiteral("<br><i>%1</i>").arg(why.toHtmlEscaped());
        a->setToolTip(tip);
        a->setStatusTip(why.isEmpty() ? c.help : why);
    }
}

QString commands_as_markdown(const CommandTable& table) {
    QString text = QStringLiteral("| Command | Where | Key | What it does |\n|---|---|---|---|\n");
    for (const Command& c : table.all()) {
        if (c.fill) continue;
        text += QStringLiteral("| %1 | %2 | %3 | %4 |\n")
                    .arg(c.title, QString(c.menu).remove('-'), c.key.toString(QKeySequence::PortableText),
                         c.help);
    }
    return text;
}

}  // namespace pristine::app
