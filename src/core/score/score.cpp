#include "core/score/score.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/base/memory.h"
#include "core/base/parallel.h"
#include "core/base/units.h"
#include "core/elements/column_writer.h"

namespace pristine::score {

// Every file of rules/, in the order in which its rules are offered: add_NAME(std::vector<Score>&) is in
// NAME.cpp.
#define PRISTINE_RULES(RULE) \
    RULE(spacing)            \
    RULE(thin)               \
    RULE(groups)             \
    RULE(ground)             \
    RULE(seen_through)       \
    RULE(shape)              \
    RULE(range)              \
    RULE(incidence)          \
    RULE(gridded)            \
    RULE(other_cloud)        \
    RULE(over_surface)       \
    RULE(lining)             \
    RULE(near_line)          \
    RULE(colour)             \
    RULE(plane)              \
    RULE(duplicates)         \
    RULE(fields)             \
    RULE(triangles)

#define PRISTINE_DECLARE(name) void add_##name(std::vector<Score>&);
PRISTINE_RULES(PRISTINE_DECLARE)
#undef PRISTINE_DECLARE

const std::vector<Score>& scores() {
    static const std::vector<Score> all = [] {
        std::vector<Score> s;
#define PRISTINE_ADD(name) add_##name(s);
        PRISTINE_RULES(PRISTINE_ADD)
#undef PRISTINE_ADD
        // Places and planes are for middles of triangles as well.
        for (Score& one : s)
            if (one.id == "east" || one.id == "north" || one.id == "height" || one.id == "plane")
                one.applies = Score::Applies::Both;
        return s;
    }();
    return all;
}

const Score& find(const std::string& id) {
    std::string known;
    for (const Score& s : scores()) {
        if (s.id == id) return s;
        known += (known.empty() ? "" : ", ") + s.id;
    }
    throw Error(ErrorCode::Usage, "There is no score '" + id + "'", {}, "There are: " + known + ".");
}

Parameters complete(const Score& score, const Parameters& given, double per_metre) {
    const auto factor = [&](const Parameter& p) { return p.unit == "length" ? per_metre : 1; };
    Parameters all;
    for (const Parameter& p : score.parameters) all[p.name] = p.usual * factor(p);
    for (const auto& one : given) {
        const std::string& name = one.first;
        const double value = one.second;
        const auto p = std::find_if(score.parameters.begin(), score.parameters.end(),
                                    [&](const Parameter& k) { return k.name == name; });
        if (p == score.parameters.end())
            throw Error(ErrorCode::Usage, fmt::format("'{}' has no parameter '{}'", score.id, name));
        const double least = p->least * factor(*p), most = p->most * factor(*p);
        if (!(value >= least && value <= most) || (p->whole && value != std::floor(value)))
            throw Error(ErrorCode::Usage,
                        fmt::format("'{}' of '{}' is {}{} from {} to {}, not {}", name, score.id,
                                    p->whole ? "a whole number" : "a number", "", least, most, value));
        all[name] = value;
    }
    return all;
}

Column compute(const Score& score, const Input& input, const Parameters& given, Progress& progress) {
    const Parameters all = complete(score, given, 1 / length_unit(input.cloud.unit()).metres);
    if (input.cloud.unit() == kDegrees)
        throw Error(ErrorCode::Usage, "The coordinates are degrees, in which no rule can measure", {},
                    "Convert the item to a system that counts in lengths first.");
    if (score.why_not)
        if (const std::string why = score.why_not(input); !why.empty()) throw Error(ErrorCode::Usage, why);
    if (input.eligible.size() != input.cloud.size())
        throw Error(ErrorCode::Usage, "The set of points is not one of this cloud");
    return score.compute(input, all, progress);
}

PagedArray<float> for_members(const Input& input, Progress& progress,
                              const std::function<void(std::size_t, std::vector<float>&)>& fill) {
    const std::uint64_t n = input.cloud.size();
    std::uint64_t at = 0;
    ColumnWriter<float> column =
        fits_memory(4 * n)
            ? ColumnWriter<float>(n)
            : ColumnWriter<float>(
                  n, std::make_shared<ScratchFile>(pages_for(n) * PageColumn<float>::kPageBytes), at);
    std::atomic<std::size_t> done{0};
    parallel::for_each(input.cloud.page_count(), [&](std::size_t p) {
        std::vector<float> values(page_length(n, p), NAN);
        if (input.eligible.kind(p) != ElementSet::Kind::None) fill(p, values);
        column.put(p, std::move(values));
        progress.advance(static_cast<double>(++done) / static_cast<double>(input.cloud.page_count()));
    });
    return column.finish();
}

}  // namespace pristine::score
