// Decisions of a site as lists show them: one for all items that it took something of.

#pragma once

#include <QString>
#include <cstdint>
#include <vector>

#include "core/site/site.h"

namespace pristine::app {

/// A decision as its card or row shows it.
struct LedgerDecision {
    struct In {
        std::uint64_t item;
        QString name;
        bool active;
    };
    site::LedgerEntry entry;  ///< that of the first item; active when it is so anywhere
    QString count, how;       ///< how many elements, and what made it, in words
    std::uint64_t elements;   ///< of all its items
    std::vector<In> in;       ///< at least one
    bool of_another = false;  ///< the item in work is not among them
};

/// Those of these items, each once, oldest first.
std::vector<LedgerDecision> ledger_decisions(const site::Site&, const site::Reach&);
/// Of all items.
std::vector<LedgerDecision> ledger_decisions(const site::Site&);

/// "out", "done" for a repair, "class 5": what a decision that is not lifted has done.
QString state_of(const site::LedgerEntry&);
/// "2026-11-25 08:41:07".
QString time_of(const site::LedgerEntry&);

}  // namespace pristine::app
