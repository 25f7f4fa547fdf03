#include "core/site/item_classes.h"

#include <algorithm>

#include "core/base/parallel.h"
#include "core/cloud/classes.h"
#include "core/site/change.h"

namespace pristine::site {
using namespace detail;
namespace {

void refuse_triangles(const Item& item) {
    if (item.cloud->triangles())
        throw Error(ErrorCode::Usage, "'" + item.name + "' is made of triangles; only points have classes");
}

SitePtr give_class(const Site& site, const Parts& parts, std::uint8_t code, const Decision& d) {
    auto next = std::make_shared<Site>(site);
    for (ItemPtr& item : next->items) {
        const auto part = parts.find(item->id);
        if (part == parts.end()) continue;
        refuse_triangles(*item);
        auto changed = std::make_shared<Item>(*item);
        LedgerEntry e{site.next_id,     d.reason, d.cause,      d.signature.who,
                      d.signature.when, true,     part->second, d.picture};
        e.to_class = code;
        changed->ledger.push_back(std::move(e));
        changed->refresh();
        item = std::move(changed);
    }
    next->next_id = site.next_id + 1;
    let_go(*next);
    trim_selection(*next);
    return next;
}

// Elements whose class nobody decided.
ElementSet undecided(const Item& item, const ElementSet& of) {
    ElementSet rest = of;
    if (item.decided)
        for (const auto& [code, set] : item.decided->sets) rest = rest - set;
    return rest;
}

}  // namespace

std::shared_ptr<const DecidedClasses> decided_by(const std::vector<LedgerEntry>& ledger) {
    auto out = std::make_shared<DecidedClasses>();
    for (const LedgerEntry& e : ledger) {
        if (!e.active || !e.to_class) continue;
        for (auto& [code, set] : out->sets) set = set - *e.elements;
        const auto [own, fresh] = out->sets.emplace(*e.to_class, *e.elements);
        if (!fresh) own->second = own->second | *e.elements;
    }
    std::erase_if(out->sets, [](const auto& one) { return one.second.empty(); });
    return out->sets.empty() ? nullptr : out;
}

std::uint8_t class_of(const Item& item, std::uint64_t element) {
    if (item.decided)
        for (const auto& [code, set] : item.decided->sets)
            if (set.contains(element)) return code;
    const auto& own = item.cloud->classification();
    return own ? own->value(static_cast<std::size_t>(element / kPageSize), element % kPageSize) : 0;
}

ElementSet of_class(const Item& item, std::uint8_t code) {
    const auto sets = cloud::class_sets(item.cloud);
    const auto own = sets->find(code);
    ElementSet out = own == sets->end() ? ElementSet(item.cloud->size()) : undecided(item, own->second);
    if (item.decided)
        if (const auto given = item.decided->sets.find(code); given != item.decided->sets.end())
            out = out | given->second;
    return out;
}

std::map<std::uint8_t, std::uint64_t> class_counts(const Item& item) {
    const ElementSet here = item.scope ? *item.scope - *item.removed : ~*item.removed;
    std::map<std::uint8_t, std::uint64_t> out;
    for (const auto& [code, set] : *cloud::class_sets(item.cloud))
        out[code] = (undecided(item, set) & here).count();
    if (item.decided)
        for (const auto& [code, set] : item.decided->sets) out[code] += (set & here).count();
    std::erase_if(out, [](const auto& one) { return one.second == 0; });
    return out;
}

std::shared_ptr<const std::vector<std::uint8_t>> classes_by_record(const Item& item, Progress& progress) {
    if (!item.decided) return nullptr;
    const cloud::PointCloud& c = *item.cloud;
    auto out = std::make_shared<std::vector<std::uint8_t>>(c.records()->count(), 0);
    const auto order = c.order();
    parallel::for_each(c.page_count(), [&](std::size_t p) {
        progress.check();
        const std::vector<std::uint32_t> record = order->page(p);
        if (c.classification()) {
            const auto own = c.classification()->page(p);
            for (std::size_t i = 0; i < record.size(); ++i) (*out)[record[i]] = own[i];
        }
        for (const auto& [code, set] : item.decided->sets)
            set.for_each_in_page(p, [&, k = code](std::size_t i) { (*out)[record[i]] = k; });
    });
    return out;
}

SitePtr class_selection(const Site& site, std::uint8_t code, const Decision& d) {
    return give_class(site, selected_or_refuse(site), code, d);
}

SitePtr class_parts(const Site& site, const Parts& parts, std::uint8_t code, const Decision& d) {
    Parts some;
    for (const auto& [id, set] : parts) {
        const ItemPtr item = site.item(id);
        if (!item) throw missing("This item");
        if (SetPtr rest = set ? shared(*set & eligible(*item)) : nullptr) some[id] = std::move(rest);
    }
    if (some.empty()) throw Error(ErrorCode::Empty, "Nothing of it can be given a class");
    return give_class(site, some, code, d);
}

SitePtr show_class(const Site& site, std::uint64_t id, std::uint8_t code, bool shown) {
    auto next = with_item(site, id, [&](Item& i) {
        refuse_triangles(i);
        std::vector<std::uint8_t>& unseen = i.unseen_classes;
        const auto at = std::lower_bound(unseen.begin(), unseen.end(), code);
        const bool known = at != unseen.end() && *at == code;
        if (shown && known) unseen.erase(at);
        if (!shown && !known) unseen.insert(at, code);
        i.refresh();
    });
    trim_selection(*next);
    return next;
}

SitePtr put_class(const Site& site, const SiteClass& c) {
    if (c.colour > 0xFFFFFF) throw Error(ErrorCode::Usage, "A colour has red, green and blue only");
    auto next = std::make_shared<Site>(*drop_class(site, c.code));
    const auto at = std::lower_bound(next->classes.begin(), next->classes.end(), c,
                                     [](const SiteClass& a, const SiteClass& b) { return a.code < b.code; });
    next->classes.insert(at, c);
    return next;
}

SitePtr drop_class(const Site& site, std::uint8_t code) {
    auto next = std::make_shared<Site>(site);
    std::erase_if(next->classes, [&](const SiteClass& c) { return c.code == code; });
    return next;
}

std::string class_name(const Site& site, std::uint8_t code) {
    for (const SiteClass& c : site.classes)
        if (c.code == code && !c.name.empty()) return c.name;
    const std::string standard = cloud::class_name(code);
    return standard.empty() ? "Class " + std::to_string(code) : standard;
}

std::uint32_t class_colour(const Site& site, std::uint8_t code) {
    for (const SiteClass& c : site.classes)
        if (c.code == code) return c.colour;
    return cloud::class_colour(code);
}

}  // namespace pristine::site
