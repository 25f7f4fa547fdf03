#include "app/model/ledger_decisions.h"

#include <QCoreApplication>
#include <algorithm>

#include "app/look/lengths.h"
#include "app/look/theme.h"
#include "app/look/told.h"
#include "app/model/document.h"
#include "core/site/surface_edits.h"

namespace pristine::app {

namespace {

struct LedgerSay {
    Q_DECLARE_TR_FUNCTIONS(LedgerCard)
};

// What a change of a build was about.
QString counted_change(const site::Item& item, const site::LedgerEntry& e, const Lengths& lengths) {
    const auto edit = item.source ? item.source->edits.find(e.edit) : decltype(item.source->edits.begin())();
    if (!item.source || edit == item.source->edits.end()) return LedgerSay::tr("not known");
    const site::SurfaceEdit& change = edit->second;
    switch (change.kind) {
        case site::SurfaceEdit::Kind::DropPoints:
            return change.points.size() == 1 ? LedgerSay::tr("1 point")
                                             : LedgerSay::tr("%1 points").arg(grouped(change.points.size()));
        case site::SurfaceEdit::Kind::Heights:
            return change.points.size() == 1 ? LedgerSay::tr("1 height")
                                             : LedgerSay::tr("%1 heights").arg(grouped(change.points.size()));
        case site::SurfaceEdit::Kind::ReplacePart:
            return LedgerSay::tr("a part");
        case site::SurfaceEdit::Kind::Limits:
            return LedgerSay::tr("all triangles");
        case site::SurfaceEdit::Kind::Thinning:
            return LedgerSay::tr("within %1").arg(lengths.spread(change.tolerance));
    }
    return {};
}

}  // namespace

std::vector<LedgerDecision> ledger_decisions(const site::Site& s, const site::Reach& reach) {
    std::vector<LedgerDecision> all;
    for (const std::uint64_t id : reach)
        for (const site::LedgerEntry& e : s.item(id)->ledger) {
            if (std::any_of(all.begin(), all.end(), [&](const auto& d) { return d.entry.id == e.id; }))
                continue;
            LedgerDecision d{e, {}, told(e.cause, Lengths(s)), 0, {}, true};
            site::Parts parts;
            for (const site::ItemPtr& item : site::items_of_decision(s, e.id)) {
                const site::LedgerEntry& own = *item->entry(e.id);
                parts[item->id] = own.elements;
                d.in.push_back({item->id, QString::fromStdString(item->name), own.active});
                d.entry.active |= own.active;
                d.of_another &= item->id != s.active;
            }
            d.elements = site::count_of(parts);
            d.count = e.edit != 0 ? counted_change(*s.item(id), e, Lengths(s))
                      : e.made ? LedgerSay::tr("−%1, +%2").arg(grouped(e.count()), grouped(e.made->count()))
                               : counted(s, parts);
            all.push_back(std::move(d));
        }
    std::stable_sort(all.begin(), all.end(),
                     [](const auto& a, const auto& b) { return a.entry.when < b.entry.when; });
    return all;
}

std::vector<LedgerDecision> ledger_decisions(const site::Site& s) {
    site::Reach all;
    for (const site::ItemPtr& i : s.items) all.push_back(i->id);
    return ledger_decisions(s, all);
}

QString state_of(const site::LedgerEntry& e) {
    if (e.to_class) return LedgerSay::tr("class %1").arg(*e.to_class);
    return e.made || e.edit != 0 ? LedgerSay::tr("done") : LedgerSay::tr("out");
}

QString time_of(const site::LedgerEntry& e) {
    return QString::fromStdString(e.when).replace(QLatin1Char('T'), QLatin1Char(' '));
}

}  // namespace pristine::app
