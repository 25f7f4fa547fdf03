#include "app/window/frame.h"

#include <QAction>
#include <QCoreApplication>
#include <QHash>
#include <QMainWindow>
#include <QMenu>
#include <QMenuBar>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

namespace pristine::app {
namespace {

struct FrameSay {
    Q_DECLARE_TR_FUNCTIONS(Frame)
};

}  // namespace

QWidget* make_rail(const CommandTable& commands, QWidget* parent) {
    auto* rail = new QWidget(parent);
    rail->setObjectName(QStringLiteral("rail"));
    rail->setAttribute(Qt::WA_StyledBackground);
    rail->setFixedWidth(46);
    auto* layout = new QVBoxLayout(rail);
    layout->setContentsMargins(5, 6, 5, 4);
    layout->setSpacing(1);
    const QStringList groups[] = {
        {"select.rectangle", "select.polygon", "select.freehand", "select.circle", "select.strip"},
        {"select.brush", "select.ball_brush"},
        {"select.ball", "select.cylinder", "select.box", "select.plane", "select.painted_plane",
         "select.level"},
        {"select.rule"},
        {"view.section", "view.line", "view.clip", "view.pick", "view.mark"}};
    QStringList all;
    for (const QStringList& g : groups) all << QString() << g;
    for (const QString& id : all.mid(1)) {
        if (id.isEmpty()) {
            layout->addSpacing(4);
            continue;
        }
        auto* b = new QToolButton(rail);
        b->setObjectName(QStringLiteral("rail.") + id);
        b->setProperty("rail", true);
        b->setDefaultAction(commands.action(id));
        b->setAccessibleName(commands.find(id)->title);
        b->setIconSize({21, 21});
        b->setFocusPolicy(Qt::TabFocus);
        layout->addWidget(b);
    }
    layout->addStretch(1);
    return rail;
}

void make_menus(const CommandTable& commands, QMainWindow* window) {
    auto* find = new QPushButton(FrameSay::tr("Find a command…   Ctrl K"), window);
    find->setObjectName(QStringLiteral("findCommand"));
    find->setAccessibleName(FrameSay::tr("Find a command"));
    find->setFocusPolicy(Qt::TabFocus);
    QObject::connect(find, &QPushButton::clicked, commands.action(QStringLiteral("help.search")),
                     &QAction::trigger);
    window->menuBar()->setCornerWidget(find);
    QHash<QString, QMenu*> menus;
    for (const QString& title : {FrameSay::tr("Site"), FrameSay::tr("Edit"), FrameSay::tr("Item"),
                                 FrameSay::tr("View"), FrameSay::tr("Tools"), FrameSay::tr("Select"),
                                 FrameSay::tr("Decide"), FrameSay::tr("Hand over"), FrameSay::tr("Help")}) {
        menus[title] = window->menuBar()->addMenu(title);
        menus[title]->setToolTipsVisible(true);
    }
    for (const Command& c : commands.all()) {
        const bool new_group = c.menu.startsWith('-');
        QMenu* menu = menus.value(new_group ? c.menu.mid(1) : c.menu);
        if (!menu) continue;
        if (new_group && !menu->isEmpty()) menu->addSeparator();
        if (c.fill) {
            QMenu* inner = menu->addMenu(c.title);
            QObject::connect(inner, &QMenu::aboutToShow, inner, [inner, fill = c.fill] {
                inner->clear();
                fill(inner);
            });
        } else {
            menu->addAction(commands.action(c.id));
        }
    }
}

}  // namespace pristine::app
