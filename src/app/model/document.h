// The document of the window: history, journal and the one place where commits are made.

#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>

#include "app/model/latest_job.h"
#include "core/cloud/column.h"
#include "core/io/cloud_io.h"
#include "core/select/summary.h"
#include "core/site/exporting.h"
#include "core/site/history.h"
#include "core/store/journal.h"

namespace pristine::app {

class Jobs;

/// What is exported, where to, and how.
struct ExportWish {
    site::Export what = site::Export::Shown;
    std::filesystem::path path;
    bool replace = false;
    io::WriteOptions how{};
    bool source_classes = false;  ///< classes as the sources have them, not as they were decided
};

class Document : public QObject {
    Q_OBJECT
  public:
    explicit Document(Jobs* jobs, QObject* parent = nullptr);
    ~Document() override;

    const site::SitePtr& site() const { return history_.now(); }
    const site::History& history() const { return history_; }

    using Edit = std::function<site::SitePtr(const site::Site&)>;
    /// Makes a commit of edit(site()). A refusal is reported by failed() and changes nothing. True if it was
    /// made.
    bool apply(const QString& title, const Edit&);
    void undo();
    void redo();
    void go_to(std::size_t index);

    /// Reads files in the background and adds what they hold, each file in one step; each scan of a file of
    /// many becomes an item.
    void add_files(const std::vector<std::filesystem::path>&, const io::ReadOptions& = {});
    /// Replaces the document by a project. `then` runs when it is open.
    /// Everything is written; what was never saved stays among the unfinished work. An empty site is next.
    /// False: something runs, or could not be written, and says so.
    bool close_site();
    void open_project(const std::filesystem::path&, const std::function<void()>& then = {});
    /// Saving marks the present commit. A site without a name of its own needs save_as first.
    void save();
    void save_as(const std::filesystem::path&, bool replace);
    /// About how large archive() would be.
    std::uint64_t archive_bytes();
    /// A compact copy beside the project, with all that was removed; work goes on in the project. In the
    /// background.
    void archive(const std::filesystem::path&, bool replace);
    bool has_file() const { return !draft_ && journal_ != nullptr; }
    QString title() const;
    /// Writes everything shown into one file, in the background.
    /// The lines that are shown.
    void export_lines(const std::filesystem::path&, bool replace);
    void export_shown(const std::filesystem::path&, bool replace, io::Dropped dropped = io::Dropped::LeftOut,
                      const io::WriteOptions& how = {});
    /// All files appear, or none; a file that the site was opened from is never one of them.
    void export_files(const ExportWish&);
    /// A new item with the same elements in another reference system; the old one stays, hidden. In the
    /// background.
    void convert_item(std::uint64_t item, const std::string& target);
    /// A new item with what is shown of all visible ones; they stay, hidden. In the background.
    /// All that is shown in one new item; of meshes and surfaces, open edges within the tolerance (data unit)
    /// are joined.
    void merge_shown(double tolerance = 0);
    /// Lifts decisions, or applies them again, in all items or in one (0: in all). A surface whose build they
    /// change is built again first, in the background.
    void set_decisions_active(const std::vector<std::uint64_t>& entries, bool active, const QString& title,
                              std::uint64_t item = 0);
    /// An item for each scan in place of one that holds them all. In the background.
    void part_by_scan(std::uint64_t item);
    /// One item in place of the scans under a heading. In the background.
    void join_group(const std::string& group);
    /// Items under a heading that can be joined.
    std::vector<site::ItemPtr> scans_of_group(const std::string& group) const;
    /// Writes what is out of the item in work into one file.
    void export_removed(const std::filesystem::path&, bool replace);
    /// Writes what is out of the item in work, each reason into a file of its own: "name-reason.ending".
    void export_reasons(const std::filesystem::path&, bool replace);

    /// The column that an item is coloured by; null while it is being fetched (columns_changed follows) or if
    /// it has none.
    std::shared_ptr<const cloud::FetchedColumn> column_of(const site::Item&);

    /// Classes of an item's points with their counts, those it has; empty while they are being counted
    /// (columns_changed follows).
    std::map<std::uint8_t, std::uint64_t> classes_of(const site::ItemPtr&);

    /// The view, kept with the project but not in the history.
    void keep_view(const std::string& text);
    std::string kept_view() const { return view_; }
    /// Small texts kept with the project beside the history, such as how its report is set up. Empty: never
    /// set.
    void keep_note(const std::string& key, const std::string& text);
    std::string kept_note(const std::string& key) const;
    /// The project file, or the draft; empty while nothing was opened.
    std::filesystem::path file() const { return draft_ ? std::filesystem::path() : file_; }
    /// A small picture of the site (PNG in base64), kept with it so that it can be told from others.
    void keep_picture(const std::string& png);

    store::Journal::Status disk() const;
    void retry_writing();
    /// Waits until all is on the disk; false if it could not be written.
    bool flush();
    /// Commits made after the last save, when the project was opened; 0: none.
    std::size_t unsaved_at_open() const { return unsaved_at_open_; }
    void go_back_to_saved();

    /// Numbers of the present selection, worked out in the background after each change.
    struct Numbers {
        std::uint64_t count = 0, of = 0;
        select::Summary detail;  ///< valid when ready
        bool ready = false;
        std::shared_ptr<const site::Thumbnail> picture;
    };
    const Numbers& numbers() const { return numbers_; }
    /// Set by the window: the items that decisions act on; without it the item in work.
    std::function<site::Reach()> reach;
    /// After a change of what `reach` says.
    void update_numbers();
    /// Makes the thumbnail of a selection, given its box; called on a worker thread.
    using PictureMaker = std::function<std::shared_ptr<const site::Thumbnail>(const Box3&)>;
    /// Set by the window; called on this thread, to take the camera as it is now.
    std::function<PictureMaker(const site::SitePtr&)> picture_maker;
    /// Makes a thumbnail of elements of a cloud in the style of the item in work, as the camera is now; to be
    /// called on a worker.
    using PictureOf = std::function<std::shared_ptr<const site::Thumbnail>(
        const std::shared_ptr<const cloud::PointCloud>&, const ElementSet&)>;
    /// Set by the window, like picture_maker.
    std::function<PictureOf()> picture_of = [] {
        return [](const std::shared_ptr<const cloud::PointCloud>&, const ElementSet&) {
            return std::shared_ptr<const site::Thumbnail>();
        };
    };

    static std::filesystem::path drafts_folder();
    /// Drafts left behind by a crash or a quick exit, newest first.
    static std::vector<std::filesystem::path> left_drafts();

  signals:
    /// A conversion brought an item that lies elsewhere.
    void converted(quint64 item);
    void changed();  ///< the present snapshot is another one
    void numbers_changed();
    void columns_changed();  ///< a column was fetched that some item is coloured by
    void disk_changed();
    void replaced();  ///< another document: views start afresh
    void failed(const QString& message);
    /// A scan could not be read; the window offers the remedy, if there is one.
    void unreadable(const QString& message, const QString& path, Remedy remedy);
    void message(const QString& text);
    /// An export or an archive is there.
    void wrote(const std::filesystem::path&);
    /// A file was read or written, and something about it must be known: sentences.
    void odd(const std::filesystem::path& file, const std::vector<std::string>& sentences);

  private:
    void put_merged(const site::SitePtr& before, const std::shared_ptr<const cloud::PointCloud>&,
                    const QString& title);
    void merge_meshes(double tolerance);
    void committed();
    void use_stored_snapshots();
    void start_journal(std::unique_ptr<store::Project>, bool draft);
    void ensure_draft();
    void end_journal();
    /// `in_work`: the first item that comes is put in work.
    void read_next(std::vector<std::filesystem::path> files, const io::ReadOptions&, bool in_work);
    /// All items of a file, in one step. Several scans come under a heading with the name of the file.
    void add_items(const std::filesystem::path& file, const std::vector<io::ReadResult>&, bool in_work);

    Jobs* jobs_;
    LatestJob measuring_;  // the numbers of the selection
    site::History history_;
    std::unique_ptr<store::Journal> journal_;
    std::filesystem::path file_;
    bool draft_ = true;
    std::string view_;
    std::map<std::string, std::string> notes_;
    std::size_t unsaved_at_open_ = 0;
    std::size_t saved_index_ = 0;
    Numbers numbers_;
    site::Parts numbers_for_;
    std::shared_ptr<const terrain::GroundModel> ground_;
    const cloud::PointCloud* ground_of_ = nullptr;
    struct Column {
        std::weak_ptr<const cloud::PointCloud> cloud;
        std::string name;
        std::shared_ptr<const cloud::FetchedColumn> values;  // null: being fetched, or it failed
    };
    std::vector<Column> columns_;
    site::ItemPtr classes_of_;  // the last one asked for
    std::map<std::uint8_t, std::uint64_t> classes_;
};

/// "1,234 points", or triangles where those are the elements of the item in work.
QString counted(const Document&, std::uint64_t n);
/// "1,234 points", or triangles, or both: what these parts are made of.
QString counted(const site::Site&, const site::Parts&);

}  // namespace pristine::app
