#include "app/window/part.h"

#include "app/cards/rule_card.h"
#include "app/model/document.h"
#include "app/window/status_line.h"

namespace pristine::app {

Part::Part(Desk& desk)
    : desk_(desk),
      window_(desk.window),
      jobs_(desk.jobs),
      document_(desk.document),
      commands_(desk.commands),
      stage_(desk.stage),
      card_(desk.card),
      status_(desk.status),
      notice_(desk.notice),
      section_(desk.section),
      panorama_(desk.panorama),
      rule_(desk.find<RuleCard>()) {}

void Part::say_refused(const QString& why) const {
    status_->say(why, true);
}

QString Part::needs_item() const {
    return document_->site()->active_item() ? QString() : tr("Open a scan first.");
}

QString Part::needs_selection() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->selected() > 0 ? QString() : tr("Select something first: draw a fence.");
}

QString Part::needs_removed() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->active_item()->removed->empty() ? tr("Nothing is out of this item.")
                                                              : QString();
}

QString Part::needs_hidden() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    return document_->site()->active_item()->hidden ? QString() : tr("Nothing of this item is hidden.");
}

QString Part::needs_free_selection() const {
    return document_->site()->of_removed ? tr("What is selected is out: put it back first.")
                                         : needs_selection();
}

void Part::add(const char* id, const QString& title, const QString& help, const QKeySequence& key,
               const QString& menu, std::function<void()> run, std::function<QString()> why_not,
               std::function<bool()> checked) {
    commands_.add({QString::fromLatin1(id),
                   title,
                   help,
                   {},
                   key,
                   menu,
                   std::move(run),
                   std::move(why_not),
                   std::move(checked),
                   {}});
}

void Part::add_card(const QString& command) {
    for (SideCard* card : desk_.cards) {
        const CardSpec& s = card->spec();
        if (s.command != command) continue;
        commands_.add({s.command,
                       s.title,
                       s.help,
                       s.icon,
                       s.key,
                       s.menu,
                       [this, card] { emit desk_.card_wanted(card); },
                       [this, card] {
                           const QString why = needs_item();
                           const auto& also = card->spec().why_not;
                           return why.isEmpty() && also ? also(*document_->site()) : why;
                       },
                       [card] { return card->is_open(); },
                       {}});
    }
}

void Part::add_iconed(const char* id, const QString& title, const QString& help, const QString& icon,
                      const QKeySequence& key, const QString& menu, std::function<void()> run,
                      std::function<QString()> why_not) {
    commands_.add(
        {QString::fromLatin1(id), title, help, icon, key, menu, std::move(run), std::move(why_not), {}, {}});
}

void Part::add_menu(const char* id, const QString& title, const QString& help, const QString& menu,
                    std::function<void(QMenu*)> fill) {
    Command c{QString::fromLatin1(id), title, help, {}, {}, menu, [] {}, {}, {}, {}};
    c.fill = std::move(fill);
    commands_.add(std::move(c));
}

}  // namespace pristine::app
