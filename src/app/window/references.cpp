#include "app/window/references.h"

#include <QTimer>

#include "app/cards/measure_card.h"
#include "app/look/lengths.h"
#include "app/model/document.h"
#include "app/window/codes_dialog.h"
#include "app/window/notice.h"
#include "app/window/reference_dialog.h"
#include "core/io/reference/reproject.h"
#include "core/io/reference/system.h"
#include "core/site/making.h"

namespace pristine::app {

References::References(Desk& desk) : Part(desk) {
    connect(&desk_, &Desk::site_changed, this, [this] {
        if (!unasked_items().empty()) return ask_unit();
        offer_codes();
        offer_zone();
    });
    connect(document_, &Document::odd, this, &References::say_odd);
    connect(document_, &Document::replaced, this, [this] { asked_unit_.clear(); });
}

void References::add_commands() {
    commands_.add({"item.reference",
                   tr("Unit and reference system…"),
                   tr("What the coordinates of the item in work mean, and converting them to another system"),
                   "",
                   QKeySequence(),
                   tr("Item"),
                   [this] { choose_reference(); },
                   [this] { return needs_item(); },
                   {},
                   {}});
    commands_.add(
        {"item.to_site",
         tr("Convert to the site's system"),
         tr("A new item with the coordinates of the item in work in the unit and system of the site"),
         "",
         QKeySequence(),
         tr("Item"),
         [this] {
             document_->convert_item(document_->site()->active, site::reference_of(*document_->site()).crs);
         },
         [this] { return why_not_to_site(); },
         {},
         {}});
    commands_.add({"item.make_again",
                   tr("Make everything out of date again"),
                   tr("Contours and maps whose surfaces changed since they were made"),
                   "",
                   QKeySequence(),
                   tr("Item"),
                   [this] {
                       const site::SitePtr s = document_->site();
                       for (const site::Making& m : s->makings)
                           if (site::is_stale(*s, m)) desk_.find<MeasureCard>()->make_again(m);
                   },
                   [this] {
                       const site::SitePtr s = document_->site();
                       return std::any_of(s->makings.begin(), s->makings.end(),
                                          [&](const site::Making& m) { return site::is_stale(*s, m); })
                                  ? QString()
                                  : tr("Nothing is out of date.");
                   },
                   {},
                   {}});
    commands_.add({"item.code_lines",
                   tr("Lines from codes…"),
                   tr("Breaklines and boundaries from the codes of a survey list"),
                   "",
                   QKeySequence(),
                   tr("Item"),
                   [this] { choose_codes(); },
                   [this] {
                       if (const QString why = needs_item(); !why.isEmpty()) return why;
                       return has_codes(*document_->site()->active_item())
                                  ? QString()
                                  : tr("Open a survey list with a column named code.");
                   },
                   {},
                   {}});
}

bool References::has_codes(const site::Item& item) {
    const auto records = item.cloud->records();
    const cloud::Field* f = records->layout().find("code");
    return f && f->words;
}

void References::choose_codes() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item || !has_codes(*item)) return;
    auto* dialog = new CodesDialog(*s, item, window_);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog] {
        document_->apply(tr("Make %n line(s) from codes", "", static_cast<int>(dialog->lines().size())),
                         [&](const site::Site& now) {
                             return site::set_codes(*site::put_lines(now, dialog->lines()), dialog->table());
                         });
    });
    dialog->show();
}

// A list that was just opened, or whose unit was just stated, can become lines.
void References::offer_codes() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || !has_codes(*item) || item->cloud->unit().empty() || !offered_codes_.insert(item->id).second)
        return;
    QStringList codes;
    for (const site::CodeCount& c : site::codes_of(*item->cloud))
        if (codes.size() < 6) codes << QString::fromStdString(c.code);
    if (codes.isEmpty()) return;
    notice_->show_text(
        tr("%1 has codes: %2.").arg(QString::fromStdString(item->name), codes.join(QStringLiteral(", "))),
        false, {tr("Lines from codes…"), [this] { choose_codes(); }});
}

QString References::why_not_to_site() const {
    if (const QString why = needs_item(); !why.isEmpty()) return why;
    const site::SitePtr s = document_->site();
    if (!site::differs_from_site(*s, *s->active_item()))
        return tr("The item is in the site's system already.");
    if (s->active_item()->cloud->crs().empty()) return tr("State the item's reference system first.");
    if (site::reference_of(*s).crs.empty()) return tr("The site's reference system is not stated.");
    return {};
}

void References::choose_reference() {
    const site::SitePtr s = document_->site();
    const site::ItemPtr item = s->active_item();
    if (!item) return;
    auto* dialog = new ReferenceDialog(*s, *item, window_);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this,
            [this, dialog, id = item->id] { state_reference({id}, dialog->reference()); });
    connect(dialog, &ReferenceDialog::convert, this, [this, id = item->id](const QString& system) {
        try {
            document_->convert_item(id, io::system_typed(system.toStdString()));
        } catch (const Error& e) {
            say_refused(QString::fromStdString(e.what()));
        }
    });
    dialog->show();
}

void References::state_reference(const std::vector<std::uint64_t>& ids, const cloud::Reference& reference) {
    document_->apply(tr("State the unit"), [&](const site::Site& s) {
        auto next = std::make_shared<const site::Site>(s);
        for (const std::uint64_t id : ids)
            if (next->item(id)) next = site::set_reference(*next, id, reference);
        return next;
    });
    offer_codes();
}

// Items that came since the last look and say nothing of their unit.
std::vector<std::uint64_t> References::unasked_items() {
    std::vector<std::uint64_t> fresh;
    for (const site::ItemPtr& i : document_->site()->items)
        if (i->cloud->unit().empty() && !asked_unit_.contains(i->id)) fresh.push_back(i->id);
    return fresh;
}

void References::ask_unit(const QString& before) {
    const std::vector<std::uint64_t> ids = unasked_items();
    if (ids.empty()) {
        if (!before.isEmpty()) notice_->show_text(before, false);
        return;
    }
    for (const std::uint64_t id : ids) asked_unit_.insert(id);
    const QString name = QString::fromStdString(document_->site()->item(ids.front())->name);
    QString text = before.isEmpty() ? QString() : before + QLatin1Char('\n');
    text +=
        ids.size() == 1
            ? tr("The unit of %1 is not stated. Until it is, figures say so, and rules take metres.")
                  .arg(name)
            : tr("The unit of %n item(s) is not stated. Until it is, figures say so, and rules take metres.",
                 "", static_cast<int>(ids.size()));
    std::vector<Notice::Choice> choices;
    for (const char* unit : {"m", "usft", "ft", "mm"}) {
        QString title = unit_title(unit);
        title[0] = title[0].toUpper();
        choices.push_back({title, [this, ids, unit] { state_reference(ids, {{}, unit, {}}); }});
    }
    notice_->show_choices(text, false, choices);
}

// Degrees can be neither measured nor seen to scale: the fitting zone is one click away.
void References::offer_zone() {
    const site::ItemPtr item = document_->site()->active_item();
    if (!item || item->cloud->unit() != kDegrees || !offered_zone_.insert(item->id).second) return;
    const std::string zone = io::fitting_zone(*item->cloud);
    if (zone.empty()) return;
    notice_->show_text(
        tr("The coordinates of %1 are degrees: they can be neither measured nor seen to scale.")
            .arg(QString::fromStdString(item->name)),
        false,
        {tr("Convert to %1").arg(QString::fromStdString(io::system_of(zone).title())),
         [this, id = item->id, zone] { document_->convert_item(id, zone); }});
}

void References::say_odd(const std::filesystem::path& file, const std::vector<std::string>& sentences) {
    constexpr std::size_t kMost = 4;
    QString text = QString::fromStdString(file.filename().string()) + QStringLiteral(": ");
    for (std::size_t i = 0; i < std::min(sentences.size(), kMost); ++i)
        text += (i ? QStringLiteral("\n") : QString()) + QString::fromStdString(sentences[i]);
    if (sentences.size() > kMost)
        text += tr("\n… and %n more", "", static_cast<int>(sentences.size() - kMost));
    for (const site::ItemPtr& i :
         document_->site()->items)  // what was asked a moment ago is asked again with it
        if (i->cloud->unit().empty() && i->origin.rfind(file.string(), 0) == 0) asked_unit_.erase(i->id);
    ask_unit(text);
}

}  // namespace pristine::app
