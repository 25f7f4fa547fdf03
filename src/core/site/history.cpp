#include "core/site/history.h"

#include <cassert>

#include "core/base/error.h"

namespace pristine::site {

History::History(SitePtr first) {
    commits_.push_back({1, {}, std::move(first)});
}

History::History(std::vector<Commit> commits, std::size_t cursor, Loader loader)
    : commits_(std::move(commits)), loader_(std::move(loader)) {
    assert(!commits_.empty() && cursor < commits_.size());
    go_to(cursor);
}

const Commit& History::commit(SitePtr site, std::string title) {
    commits_.resize(cursor_ + 1);
    commits_.push_back({commits_.back().number + 1, std::move(title), std::move(site)});
    ++cursor_;
    return commits_.back();
}

void History::forget_far(std::size_t keep, std::uint64_t stored) {
    if (!loader_) return;
    for (std::size_t i = 0; i < commits_.size(); ++i)
        if ((i + keep < cursor_ || i > cursor_ + keep) && commits_[i].number <= stored)
            commits_[i].site = nullptr;
}

void History::go_to(std::size_t index) {
    if (index >= commits_.size()) throw Error(ErrorCode::Usage, "There is nothing more to undo or redo");
    if (!commits_[index].site) commits_[index].site = loader_(commits_[index].number);
    cursor_ = index;
}

}  // namespace pristine::site
