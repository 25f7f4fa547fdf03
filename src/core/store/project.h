// The project file (.pristine): a SQLite database with the pages of clouds, their full records, sets and
// commits.
//
// Invariants: 1. A commit is one transaction, synced: once write() returned it survives a crash and a power
// cut. 2. What a commit refers to is in the file before it, in the same transaction or an earlier one. 3.
// Rows are never changed, but for the cursor, the saved mark and the view; commits behind the cursor are
// dropped when a new one is made.

#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <nlohmann/json_fwd.hpp>

#include "core/base/progress.h"
#include "core/site/history.h"
#include "core/site/surface_source.h"
#include "core/store/database.h"

namespace pristine::store {

/// Holds a lock file beside the project, so that no two programs write it. Throws Error(Conflict).
class ProjectLock {
  public:
    explicit ProjectLock(const std::filesystem::path& project);
    ~ProjectLock();
    ProjectLock(const ProjectLock&) = delete;
    ProjectLock& operator=(const ProjectLock&) = delete;
    /// Whether some running program holds it now.
    static bool held(const std::filesystem::path& project);

  private:
    std::filesystem::path path_;
    int fd_ = -1;
};

/// One open project file. Used from one thread at a time.
class Project {
  public:
    /// A new file; Error(Conflict) if it exists.
    static std::unique_ptr<Project> create(const std::filesystem::path&);
    /// Error(Format) if it is no project or of a later version. `Read`: without a lock, beside a window that
    /// has it open; nothing of it changes, and only load(), note() and the copy may be asked for.
    enum class Access { Write, Read };
    static std::unique_ptr<Project> open(const std::filesystem::path&, Access = Access::Write);

    /// The list of commits and the cursor; snapshots other than the current one are loaded when asked for.
    /// Progress over the present stretch.
    site::History load(Progress& = Progress::none());

    /// One snapshot, sharing clouds and sets that are in memory.
    site::SitePtr load_commit(std::uint64_t number) { return load_site(number, Progress::none()); }
    /// Makes the clouds and sets of a history in memory, of which this file is a copy, known as those of this
    /// file.
    void adopt(const site::History&);

    /// Writes a commit with everything that it needs and is not yet here, sets the cursor on it and drops
    /// later ones. Clouds written for the first time then read their records and order from here.
    void write(const site::Commit&, Progress& = Progress::none());
    void set_cursor(std::uint64_t commit_number);

    void mark_saved(std::uint64_t commit_number);
    /// 0: never saved.
    std::uint64_t saved_mark();
    /// Small texts kept beside the commits: the view, for one. Empty if never set.
    void set_note(const std::string& key, const std::string& text);
    std::string note(const std::string& key);

    /// About how large a copy would be.
    std::uint64_t copy_bytes();
    /// A compact copy of all of it, whole or not at all; replaces an existing file only if told so.
    void copy_to(const std::filesystem::path&, bool replace);
    const std::filesystem::path& path() const { return path_; }

  private:
    explicit Project(const std::filesystem::path&, Database::Mode);
    std::int64_t cloud_row(const std::shared_ptr<const cloud::PointCloud>&, Progress&);
    std::int64_t set_row(const site::SetPtr&);
    std::int64_t keep_set(const site::SetPtr&);  ///< set_row, remembered
    site::SetPtr load_set(std::int64_t row);
    site::SetPtr load_set_for(const site::Item&, std::int64_t row);
    site::LedgerEntry load_entry(const site::Item&, const nlohmann::json&);
    site::ItemPtr load_item(const nlohmann::json&, Progress&);
    site::Parts load_parts(const site::Site&, const nlohmann::json&);
    std::shared_ptr<const cloud::PointCloud> load_cloud(std::int64_t row, Progress&);
    site::SitePtr load_site(std::uint64_t number, Progress&);
    std::string site_json(const site::Site&, Progress&);

    std::filesystem::path path_;
    std::unique_ptr<ProjectLock> lock_;  // null: opened to be read only
    void leave_bulk();

    std::unique_ptr<Database> db_;      // the one connection that writes
    std::shared_ptr<Database> reader_;  // shared by the clouds that read their records here
    bool current_ = false;              // the file says that it is of this format
    bool bulk_ = false;                 // a new file is filled without a journal, and synced once
    // Rows of what has been written or loaded; weak for sets, so that an undone selection frees its memory.
    std::map<std::weak_ptr<const cloud::PointCloud>, std::int64_t, std::owner_less<>> cloud_rows_;
    std::map<std::int64_t, std::weak_ptr<const cloud::PointCloud>> clouds_;
    // Clouds under another reference than their rows have, by row and reference: items that shared one share
    // it again.
    std::map<std::pair<std::int64_t, std::string>, std::weak_ptr<const cloud::PointCloud>> views_;
    std::shared_ptr<const cloud::PointCloud> under_reference(std::int64_t row, const std::string& reference,
                                                             std::shared_ptr<const cloud::PointCloud>);
    std::map<std::weak_ptr<const ElementSet>, std::int64_t, std::owner_less<>> set_rows_;
    std::map<std::int64_t, std::weak_ptr<const ElementSet>> sets_;
    /// Things that items refer to, each written once: the row of each.
    template <class T>
    using Rows = std::map<std::weak_ptr<const T>, std::int64_t, std::owner_less<>>;
    template <class T>
    std::int64_t keep(Rows<T>&, const std::shared_ptr<const T>&,
                      const std::function<std::string(const T&)>& packed);
    template <class T>
    std::shared_ptr<const T> load(Rows<T>&, std::int64_t row,
                                  const std::function<T(const std::string&)>& unpacked, const char* what);
    Rows<site::SurfaceSource> source_rows_;
    Rows<surface::Orthophoto> drape_rows_;
    std::int64_t keep_lines(const std::vector<site::LinePtr>&);
    std::vector<site::LinePtr> load_lines(std::int64_t row);
    // All lines of a site are one row; most commits leave them as they were.
    struct Lines {
        std::int64_t row = 0;
        std::vector<site::LinePtr> lines;
    } lines_;
};

/// Whether the file is a project, by its first bytes.
bool is_project(const std::filesystem::path&);

}  // namespace pristine::store
