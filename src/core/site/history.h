// Undo and redo of everything: a cursor over a list of snapshots.
//
// Laws (tested): 1. undo then redo gives the same snapshot, pointer for pointer. 2. A commit after undo drops
// what could have been redone. 3. The first snapshot cannot be undone. 4. No move of the cursor copies data.

#pragma once

#include <functional>
#include <string>
#include <vector>

#include "core/site/site.h"

namespace pristine::site {

/// One step.
struct Commit {
    std::uint64_t number = 0;  ///< increasing along the list; names the commit in the project file
    std::string title;         ///< "Remove 12,482 points"; empty for the first
    SitePtr site;              ///< null while it is only in the project file
};

/// At least one commit; the cursor is on one of them.
class History {
  public:
    /// Fetches a snapshot that is only in the project file.
    using Loader = std::function<SitePtr(std::uint64_t number)>;

    explicit History(SitePtr first);
    /// As stored: at least one commit; `cursor` is an index into them.
    History(std::vector<Commit> commits, std::size_t cursor, Loader);

    /// Where snapshots come from that are only in the project file.
    void set_loader(Loader loader) { loader_ = std::move(loader); }

    const SitePtr& now() const { return commits_[cursor_].site; }
    const Commit& current() const { return commits_[cursor_]; }
    const std::vector<Commit>& commits() const { return commits_; }
    std::size_t cursor() const { return cursor_; }

    const Commit& commit(SitePtr, std::string title);
    bool can_undo() const { return cursor_ > 0; }
    bool can_redo() const { return cursor_ + 1 < commits_.size(); }
    /// Titles of what undo and redo would take back and bring again; empty if they cannot.
    std::string undo_title() const { return can_undo() ? commits_[cursor_].title : std::string(); }
    std::string redo_title() const { return can_redo() ? commits_[cursor_ + 1].title : std::string(); }
    /// Moves the cursor to any commit; loads its snapshot if need be. Throws Error if that fails; then
    /// nothing moved.
    void go_to(std::size_t index);
    /// Lets go of snapshots more than `keep` places from the cursor whose number is at most `stored`: the
    /// loader brings them back when they are wanted. Without a loader nothing happens.
    void forget_far(std::size_t keep, std::uint64_t stored);
    void undo() { go_to(cursor_ - 1); }
    void redo() { go_to(cursor_ + 1); }

  private:
    std::vector<Commit> commits_;
    std::size_t cursor_ = 0;
    Loader loader_;
};

}  // namespace pristine::site
