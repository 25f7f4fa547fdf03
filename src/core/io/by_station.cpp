#include "core/io/by_station.h"

#include <cmath>
#include <numeric>
#include <optional>

#include "core/io/keep.h"

namespace pristine::io {
namespace {

class Stations {
  public:
    explicit Stations(const WriteItem& item)
        : item_(item),
          layout_(item.cloud->records()->layout()),
          x_(*layout_.find("x")),
          scan_(layout_.find("scan")),
          stations_(item.cloud->stations()) {}

    std::size_t none() const { return stations_.size(); }
    const cloud::Station* station(std::size_t s) const { return s < none() ? &stations_[s] : nullptr; }

    template <class Visit>
    void for_points(Progress& progress, double from, double to, const Visit& visit) const {
        for_kept_records(item_, progress, from, to, [&](const std::byte* r, std::size_t n) {
            for (std::size_t i = 0; i < n; ++i, r += layout_.record_bytes)
                if (std::isfinite(value(x_, r))) visit(of(r), r);
        });
    }

  private:
    std::size_t of(const std::byte* r) const {
        if (stations_.size() == 1) return 0;
        const double s = scan_ ? value(*scan_, r) : -1;
        return s >= 0 && s < static_cast<double>(none()) ? static_cast<std::size_t>(s) : none();
    }

    const WriteItem& item_;
    const cloud::RecordLayout layout_;
    const cloud::Field& x_;
    const cloud::Field* scan_;
    const std::vector<cloud::Station>& stations_;
};

}  // namespace

std::uint64_t for_each_station(const WriteItem& item, Progress& progress, double from, double to,
                               const StationVisitor& visitor) {
    const Stations stations(item);
    std::vector<std::uint64_t> counts(stations.none() + 1, 0);
    std::size_t last = counts.size();
    bool in_turn = true;
    const double counted = from + 0.3 * (to - from);
    stations.for_points(progress, from, counted, [&](std::size_t s, const std::byte*) {
        in_turn &= s == last || counts[s] == 0;
        ++counts[s];
        last = s;
    });
    const std::uint64_t all = std::accumulate(counts.begin(), counts.end(), std::uint64_t{0});
    if (all == 0) {
        visitor.begin(nullptr, 0);
        visitor.end();
        return 0;
    }
    const auto write = [&](std::optional<std::size_t> only, double begin, double end) {
        std::size_t open = counts.size();
        stations.for_points(progress, begin, end, [&](std::size_t s, const std::byte* r) {
            if (only && s != *only) return;
            if (s != open) {
                if (open < counts.size()) visitor.end();
                visitor.begin(stations.station(s), counts[s]);
                open = s;
            }
            visitor.add(r);
        });
        visitor.end();
    };
    if (in_turn) {
        write(std::nullopt, counted, to);
        return all;
    }
    const double share = (to - counted) / static_cast<double>(counts.size());
    for (std::size_t s = 0; s < counts.size(); ++s)
        if (counts[s] > 0)
            write(s, counted + share * static_cast<double>(s), counted + share * static_cast<double>(s + 1));
    return all;
}

}  // namespace pristine::io
