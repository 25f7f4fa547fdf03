// Decisions lifted and applied again. Those that change what a surface is built from are jobs: it is built
// again.

#include "app/model/document.h"
#include "app/model/jobs.h"
#include "core/site/surface_edits.h"

namespace pristine::app {
namespace {

struct Rebuild {
    site::ItemPtr item;
    std::vector<std::uint32_t> edits;
    site::Rebuilt result;
};

using Rebuilds = std::vector<Rebuild>;

// Changes of builds among the entries, by item; they are taken off the list of the others.
Rebuilds changes_among(const site::Site& s, std::vector<std::uint64_t>& entries, bool active) {
    Rebuilds all;
    std::vector<std::uint64_t> others;
    for (const std::uint64_t id : entries) {
        bool other = false;
        for (const site::ItemPtr& item : site::items_of_decision(s, id)) {
            const site::LedgerEntry& e = *item->entry(id);
            other |= e.edit == 0;
            if (e.edit == 0 || e.active == active) continue;
            const auto known =
                std::find_if(all.begin(), all.end(), [&](const Rebuild& r) { return r.item == item; });
            if (known != all.end())
                known->edits.push_back(e.edit);
            else
                all.push_back({item, {e.edit}, {}});
        }
        if (other) others.push_back(id);
    }
    entries = std::move(others);
    return all;
}

void build(const site::Site& s, Rebuild& r, bool active, Progress& progress) {
    site::SourcePtr source = site::with_edits(s, *r.item->source, r.edits, active, progress);
    // Lines that moved while a part was lifted count where they are now.
    if (const site::SourcePtr moved = site::with_lines_of(*source, s)) source = moved;
    r.result = site::rebuild(*r.item, *source, progress);
}

bool any_other_state(const site::Site& s, const std::vector<std::uint64_t>& entries, bool active) {
    for (const std::uint64_t id : entries)
        for (const site::ItemPtr& item : site::items_of_decision(s, id))
            if (item->entry(id)->active != active) return true;
    return false;
}

}  // namespace

void Document::set_decisions_active(const std::vector<std::uint64_t>& entries, bool active,
                                    const QString& title, std::uint64_t item) {
    const site::SitePtr s = site();
    std::vector<std::uint64_t> others = entries;
    const auto rebuilds = std::make_shared<Rebuilds>(changes_among(*s, others, active));
    const auto set_others = [others, active, item](const site::Site& now) {
        if (item != 0 && others.size() == 1) return site::set_entry_active(now, item, others[0], active);
        return site::set_decisions_active(now, others, active);
    };
    if (rebuilds->empty()) {
        apply(title, set_others);
        return;
    }
    jobs_->start(
        title,
        [=](Progress& p) {
            for (std::size_t k = 0; k < rebuilds->size(); ++k) {
                const auto n = static_cast<double>(rebuilds->size()), at = static_cast<double>(k);
                const Progress::Part part(p, at / n, (at + 1) / n, "Building a surface");
                build(*s, (*rebuilds)[k], active, p);
            }
        },
        [=, this] {
            apply(title, [&](const site::Site& now) {
                site::SitePtr next = std::make_shared<site::Site>(now);
                for (const Rebuild& r : *rebuilds) {
                    if (now.item(r.item->id) != r.item)
                        throw Error(ErrorCode::Usage, "The surface changed meanwhile", {}, "Try once more.");
                    next = site::replace_surface(*next, r.item->id, r.result);
                }
                return any_other_state(*next, others, active) ? set_others(*next) : next;
            });
        },
        [this](const QString& why) {
            if (!why.isEmpty()) emit failed(why);
        });
}

}  // namespace pristine::app
