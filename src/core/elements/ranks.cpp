#include "core/elements/ranks.h"

#include <algorithm>

namespace pristine {

ElementSet members_at(const ElementSet& of, std::vector<std::uint32_t> ranks) {
    std::sort(ranks.begin(), ranks.end());
    ranks.erase(std::unique(ranks.begin(), ranks.end()), ranks.end());
    ElementSet found(of.size());
    std::uint64_t first = 0;  // rank of the first member of the page
    auto next = ranks.begin();
    for (std::size_t p = 0; p < of.page_count() && next != ranks.end(); ++p) {
        const std::uint64_t behind = first + of.page_members(p);
        if (*next < behind) {
            PageBits bits;
            std::uint64_t rank = first;
            of.for_each_in_page(p, [&](std::size_t i) {
                if (next != ranks.end() && *next == rank++) {
                    bits.set(i);
                    ++next;
                }
            });
            found.set_page(p, bits);
        }
        first = behind;
    }
    return found;
}

ElementSet members_flagged(const ElementSet& of, const std::vector<char>& flags) {
    ElementSet found(of.size());
    std::size_t rank = 0;
    for (std::size_t p = 0; p < of.page_count() && rank < flags.size(); ++p) {
        PageBits bits;
        of.for_each_in_page(p, [&](std::size_t i) {
            if (rank < flags.size() && flags[rank] != 0) bits.set(i);
            ++rank;
        });
        found.set_page(p, bits);
    }
    return found;
}

std::vector<char> flags_of(const ElementSet& of, const ElementSet& in) {
    std::vector<char> flags;
    flags.reserve(of.count());
    of.for_each([&](std::uint64_t e) { flags.push_back(in.contains(e) ? 1 : 0); });
    return flags;
}

}  // namespace pristine
