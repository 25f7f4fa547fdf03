#include "core/site/scans.h"
#include "core/cloud/by_records.h"

#include <algorithm>
#include <map>

#include "core/site/change.h"

namespace pristine::site {
using namespace detail;
namespace {

// Numbers of entries in an item that is made: of a decision, as it stands there.
using Numbers = std::map<std::pair<std::uint64_t, bool>, std::uint64_t>;

// Takes over what another item says, its elements moved by so many records.
class Mover {
  public:
    Mover(const Item& from, Item& to, std::int64_t records, std::uint64_t& next_id, Numbers& numbers)
        : from_(from), to_(to), records_(records), next_id_(next_id), numbers_(numbers) {}

    void everything() {
        for (const LedgerEntry& e : from_.ledger) entry(e);
        for (const Guard& g : from_.guards)
            if (SetPtr set = moved(g.elements)) joined(to_.guards, Guard{g.id, g.name, set});
        for (const KeptSelection& k : from_.kept)
            if (SetPtr set = moved(k.elements)) joined(to_.kept, KeptSelection{k.id, k.name, set, k.origin});
        to_.hidden = both(to_.hidden, moved(from_.hidden));
        to_.locked |= from_.locked;
        to_.unseen_classes = from_.unseen_classes;
    }
    /// What of it belongs to the item at all.
    SetPtr scope() const {
        return moved(from_.scope ? from_.scope
                                 : std::make_shared<const ElementSet>(ElementSet::all(from_.cloud->size())));
    }
    static SetPtr both(const SetPtr& a, const SetPtr& b) {
        return !a ? b : !b ? a : std::make_shared<const ElementSet>(*a | *b);
    }

  private:
    SetPtr moved(const SetPtr& set) const {
        return set ? shared(cloud::moved_by_records(*set, *from_.cloud, *to_.cloud, records_)) : nullptr;
    }
    void entry(const LedgerEntry& e) {
        SetPtr set = moved(e.elements);
        if (!set) return;
        LedgerEntry own = e;
        own.elements = set;
        // A decision that is lifted in one part only becomes two.
        const auto [number, fresh] = numbers_.insert({{e.id, e.active}, e.id});
        if (fresh && to_.entry(e.id)) number->second = next_id_++;
        own.id = number->second;
        for (LedgerEntry& known : to_.ledger)
            if (known.id == own.id) {
                known.elements = both(known.elements, set);
                return;
            }
        to_.ledger.push_back(std::move(own));
    }
    template <class T>
    static void joined(std::vector<T>& all, T one) {
        const auto known = std::find_if(all.begin(), all.end(), [&](const T& t) { return t.id == one.id; });
        if (known == all.end())
            all.push_back(std::move(one));
        else
            known->elements = both(known->elements, one.elements);
    }

    const Item& from_;
    Item& to_;
    std::int64_t records_;
    std::uint64_t& next_id_;
    Numbers& numbers_;
};

const ItemPtr& free_item(const Site& site, std::uint64_t id) {
    for (const ItemPtr& i : site.items)
        if (i->id == id) {
            if (i->locked)
                throw Error(ErrorCode::Usage, "'" + i->name + "' is locked", {},
                            "Open its lock in the contents.");
            return i;
        }
    throw missing("This item");
}

std::shared_ptr<Item> begun(const Item& like, const std::shared_ptr<const cloud::PointCloud>& cloud,
                            std::uint64_t id, const std::string& name) {
    auto item = std::make_shared<Item>();
    item->id = id;
    item->name = name;
    item->group = like.group;
    item->origin = like.origin;
    item->date = like.date;
    item->survey = like.survey;
    item->style = like.style;
    item->visible = like.visible;
    item->cloud = cloud;
    item->removed = std::make_shared<const ElementSet>(cloud->size());
    return item;
}

void finish(const Site& site, Item& item, const SetPtr& scope) {
    if (!scope || scope->count() < item.cloud->size())
        item.scope = scope ? scope : std::make_shared<const ElementSet>(item.cloud->size());
    clip_item(site, item);
    item.refresh_removed();
}

}  // namespace

SitePtr part_scans(const Site& site, std::uint64_t id, const std::vector<io::ScanPart>& parts) {
    const ItemPtr from = free_item(site, id);
    auto next = std::make_shared<Site>(site);
    std::vector<ItemPtr> items;
    for (const io::ScanPart& p : parts) {
        auto item = begun(*from, p.cloud, next->next_id++, p.name);
        item->group = from->name;
        Numbers numbers;
        Mover mover(*from, *item, -static_cast<std::int64_t>(p.first), next->next_id, numbers);
        mover.everything();
        finish(site, *item, mover.scope());
        items.push_back(std::move(item));
    }
    if (items.empty()) throw Error(ErrorCode::Usage, "The item holds no scans");
    const auto at = std::find(next->items.begin(), next->items.end(), from);
    next->items.insert(next->items.erase(at), items.begin(), items.end());
    forget_selection(*next, id);
    if (next->active == id) next->active = items.front()->id;
    return next;
}

SitePtr join_scans(const Site& site, const Reach& ids, const std::shared_ptr<const cloud::PointCloud>& cloud,
                   const std::string& name) {
    if (ids.empty()) throw Error(ErrorCode::Usage, "There is nothing to join");
    const ItemPtr first = free_item(site, ids.front());
    auto next = std::make_shared<Site>(site);
    auto item = begun(*first, cloud, next->next_id++, name);
    item->group.clear();
    std::int64_t records = 0;
    SetPtr scope;
    Numbers numbers;
    for (const std::uint64_t id : ids) {
        const ItemPtr from = free_item(site, id);
        Mover mover(*from, *item, records, next->next_id, numbers);
        mover.everything();
        scope = Mover::both(scope, mover.scope());
        records += static_cast<std::int64_t>(from->cloud->records()->count());
    }
    std::stable_sort(item->ledger.begin(), item->ledger.end(),
                     [](const LedgerEntry& a, const LedgerEntry& b) { return a.when < b.when; });
    finish(site, *item, scope);
    const auto at = std::find(next->items.begin(), next->items.end(), first);
    *at = item;
    for (const std::uint64_t id : ids) {
        std::erase_if(next->items, [&](const ItemPtr& i) { return i->id == id; });
        forget_selection(*next, id);
        if (next->active == id) next->active = item->id;
    }
    return next;
}

}  // namespace pristine::site
