#include "app/window/class_menu.h"

#include <QCoreApplication>
#include <QInputDialog>
#include <QMenu>

#include "app/look/make.h"
#include "app/model/class_text.h"

namespace pristine::app {
namespace {

struct ClassMenuSay {
    Q_DECLARE_TR_FUNCTIONS(ClassMenu)
};

}  // namespace

void fill_class_menu(QMenu* menu, const site::Site& site, const std::function<void(std::uint8_t)>& chosen) {
    const auto row = [&](std::uint8_t code, bool digit) {
        QString text = class_text(site, code);
        if (digit && code < 10) text.prepend(QLatin1Char('&'));
        QAction* a = menu->addAction(swatch_icon(QColor::fromRgb(site::class_colour(site, code))), text,
                                     [chosen, code] { chosen(code); });
        a->setObjectName(QStringLiteral("class%1").arg(code));
    };
    const std::vector<std::uint8_t> recent = recent_classes();
    for (const std::uint8_t code : recent) row(code, false);
    if (!recent.empty()) menu->addSeparator();
    for (const std::uint8_t code : classes_to_choose(site)) row(code, true);
    menu->addSeparator();
    menu->addAction(ClassMenuSay::tr("Another number…"), [menu, chosen] {
        bool ok = false;
        const int code =
            QInputDialog::getInt(menu->parentWidget(), ClassMenuSay::tr("Class"),
                                 ClassMenuSay::tr("Number of the class, 0 to 255; 64 and more are free for "
                                                  "classes of your own"),
                                 64, 0, 255, 1, &ok);
        if (ok) chosen(static_cast<std::uint8_t>(code));
    });
}

}  // namespace pristine::app
