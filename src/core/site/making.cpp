#include "core/site/making.h"

#include <algorithm>
#include <cstring>
#include <map>
#include <mutex>

namespace pristine::site {
namespace {

// FNV-1a over 64-bit words: what changes in one of them changes the result.
class Mixer {
  public:
    void add(std::uint64_t word) {
        h_ = (h_ ^ word) * 0x100000001B3ull;
        h_ ^= h_ >> 31;
    }
    void add(double v) {
        std::uint64_t bits = 0;
        std::memcpy(&bits, &v, sizeof bits);
        add(bits);
    }
    void add(const std::string& s) {
        add(std::uint64_t{s.size()});
        for (const char c : s) add(static_cast<std::uint64_t>(static_cast<unsigned char>(c)));
    }
    std::uint64_t result() const { return h_; }

  private:
    std::uint64_t h_ = 0xCBF29CE484222325ull;
};

std::uint64_t hash_of(const ElementSet& set) {
    Mixer m;
    m.add(set.size());
    for (std::size_t p = 0; p < set.page_count(); ++p) {
        m.add(static_cast<std::uint64_t>(set.kind(p)));
        if (const PageBits* bits = set.bits(p))
            for (const std::uint64_t w : bits->words) m.add(w);
    }
    return m.result();
}

std::uint64_t hash_of(const cloud::PointCloud& c) {
    Mixer m;
    m.add(c.size());
    for (int a = 0; a < 3; ++a) {
        m.add(c.grid().scale[a]);
        m.add(c.grid().offset[a]);
    }
    for (std::size_t p = 0; p < c.page_count(); ++p) {
        const cloud::PositionPage page = c.positions(p);
        for (std::size_t i = 0; i < page.size(); ++i)
            m.add(static_cast<std::uint64_t>(static_cast<std::uint32_t>(page.x[i])) << 32 ^
                  static_cast<std::uint64_t>(static_cast<std::uint32_t>(page.y[i])) << 16 ^
                  static_cast<std::uint64_t>(static_cast<std::uint32_t>(page.z[i])));
    }
    return m.result();
}

// Snapshots ask for the same clouds and sets again and again.
template <class T>
std::uint64_t remembered(const std::shared_ptr<const T>& thing) {
    static std::mutex mutex;
    static std::map<std::weak_ptr<const T>, std::uint64_t, std::owner_less<>> known;
    const std::lock_guard<std::mutex> guard(mutex);
    if (const auto it = known.find(thing); it != known.end()) return it->second;
    std::erase_if(known, [](const auto& k) { return k.first.expired(); });
    return known[thing] = hash_of(*thing);
}

bool touches(const Making& a, const Making& b) {
    return a.item != 0 ? a.item == b.item : a.group == b.group && b.item == 0;
}

}  // namespace

std::uint64_t stamp_of(const Item& item) {
    Mixer m;
    m.add(remembered(item.cloud->base() ? item.cloud->base() : item.cloud));
    m.add(remembered(item.absent));
    m.add(item.cloud->unit());
    return m.result();
}

std::uint64_t stamp_of(const Line& line) {
    Mixer m;
    m.add(std::uint64_t{line.closed});
    for (const Vec3& p : line.points)
        for (int a = 0; a < 3; ++a) m.add(p[a]);
    return m.result();
}

std::vector<MadeFrom> stamps(const Site& site, const std::vector<std::uint64_t>& items,
                             const std::vector<std::uint64_t>& lines) {
    std::vector<MadeFrom> out;
    for (const std::uint64_t id : items)
        if (const ItemPtr item = site.item(id)) out.push_back({id, false, stamp_of(*item)});
    for (const std::uint64_t id : lines)
        if (const LinePtr line = site.line(id)) out.push_back({id, true, stamp_of(*line)});
    return out;
}

std::string why_stale(const Site& site, const Making& making) {
    for (const MadeFrom& from : making.from) {
        if (from.line) {
            const LinePtr line = site.line(from.id);
            if (!line) return "a line that it was made with is gone";
            if (stamp_of(*line) != from.stamp) return line->name + " changed";
        } else {
            const ItemPtr item = site.item(from.id);
            if (!item) return "an item that it was made from is gone";
            if (stamp_of(*item) != from.stamp) return item->name + " changed";
        }
    }
    return {};
}

bool is_stale(const Site& site, const Making& making) {
    return !why_stale(site, making).empty();
}

const Making* making_of_item(const Site& site, std::uint64_t item) {
    for (const Making& m : site.makings)
        if (m.item == item && item != 0) return &m;
    return nullptr;
}

const Making* making_of_group(const Site& site, const std::string& group) {
    for (const Making& m : site.makings)
        if (m.item == 0 && m.group == group) return &m;
    return nullptr;
}

SitePtr put_making(const Site& site, Making making) {
    auto next = std::make_shared<Site>(site);
    std::erase_if(next->makings, [&](const Making& m) {
        const bool there = m.item != 0 ? site.item(m.item) != nullptr
                                       : std::any_of(site.lines.begin(), site.lines.end(),
                                                     [&](const LinePtr& l) { return l->group == m.group; });
        return touches(m, making) || !there;
    });
    next->makings.push_back(std::move(making));
    return next;
}

}  // namespace pristine::site
