#include "app/model/document.h"

#include <unistd.h>

#include <QDateTime>
#include <QStandardPaths>
#include <QTimer>
#include <algorithm>
#include <cctype>
#include <set>

#include "app/look/theme.h"
#include "app/model/jobs.h"
#include "core/base/units.h"
#include "core/io/cloud_io.h"
#include "core/io/keep.h"
#include "core/io/reference/reproject.h"
#include "core/io/reference/system.h"
#include "core/report/setup.h"
#include "core/site/item_classes.h"
#include "core/site/making.h"
#include "core/site/surface_source.h"
#include "core/site/written.h"
#include "core/store/glance.h"

namespace pristine::app {
namespace fs = std::filesystem;
namespace {

// "chamber-station-1" as "Chamber station 1".
QString spoken(const std::string& file_name) {
    QString name = QString::fromStdString(file_name).replace('-', ' ').replace('_', ' ');
    if (!name.isEmpty()) name[0] = name[0].toUpper();
    return name;
}

void remove_project_files(const fs::path& project) {
    std::error_code ignored;
    for (const char* end : {"", "-wal", "-shm"}) fs::remove(project.string() + end, ignored);
}

site::SitePtr new_site() {
    auto s = std::make_shared<site::Site>();
    s->name = "New site";
    return s;
}

constexpr int kRetryEvery_ms = 3000;
constexpr std::size_t kSnapshotsInMemory = 60;  // to either side of the present one

}  // namespace

Document::Document(Jobs* jobs, QObject* parent)
    : QObject(parent), jobs_(jobs), measuring_(jobs), history_(new_site()) {
    // Room may have been made on a full disk: nobody should have to tell the program.
    auto* again = new QTimer(this);
    connect(again, &QTimer::timeout, this, [this] {
        if (!disk().error.empty()) retry_writing();
    });
    again->start(kRetryEvery_ms);
}

Document::~Document() {
    end_journal();
}

// A draft in which scans were only opened and looked at is worth nothing: the files are still there.
void Document::end_journal() {
    const bool only_opened = history_.commits().size() == history_.now()->items.size() + 1;
    const bool worthless = draft_ && journal_ && only_opened && history_.now()->selected() == 0;
    journal_.reset();
    if (worthless) remove_project_files(file_);
}

bool Document::close_site() {
    if (!jobs_->shown().title.isEmpty()) {
        emit failed(tr("%1 is not done yet: wait for it, or stop it first.").arg(jobs_->shown().title));
        return false;
    }
    if (!flush()) {
        emit failed(tr("The site stays open, for not everything could be written: %1")
                        .arg(QString::fromStdString(disk().error)));
        return false;
    }
    end_journal();
    history_ = site::History(new_site());
    file_.clear();
    draft_ = true;
    saved_index_ = unsaved_at_open_ = 0;
    view_.clear();
    notes_.clear();
    emit replaced();
    committed();
    return true;
}

bool Document::apply(const QString& title, const Edit& edit) {
    try {
        site::SitePtr next = edit(*site());
        ensure_draft();
        const site::Commit& c = history_.commit(std::move(next), title.toStdString());
        journal_->commit(c);
    } catch (const std::exception& e) {
        emit failed(QString::fromUtf8(e.what()));
        return false;
    }
    committed();
    return true;
}

void Document::go_to(std::size_t index) {
    try {
        history_.go_to(index);
        if (journal_) journal_->cursor(history_.current().number);
    } catch (const std::exception& e) {
        emit failed(QString::fromUtf8(e.what()));
        return;
    }
    committed();
}

void Document::undo() {
    if (history_.can_undo()) go_to(history_.cursor() - 1);
}
void Document::redo() {
    if (history_.can_redo()) go_to(history_.cursor() + 1);
}

void Document::committed() {
    // Old selections of a large cloud take memory; the project file has them.
    if (journal_) history_.forget_far(kSnapshotsInMemory, journal_->status().safe);
    update_numbers();
    emit changed();
    emit disk_changed();
}

// ---- files
// -----------------------------------------------------------------------------------------------------

fs::path Document::drafts_folder() {
    return fs::path(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString()) /
           "drafts";
}

std::vector<fs::path> Document::left_drafts() {
    std::vector<std::pair<fs::file_time_type, fs::path>> found;
    std::error_code error;
    for (const auto& e : fs::directory_iterator(drafts_folder(), error))
        if (e.path().extension() == ".pristine" && !store::ProjectLock::held(e.path()))
            found.emplace_back(e.last_write_time(error), e.path());
    std::sort(found.rbegin(), found.rend());
    std::vector<fs::path> paths;
    for (auto& [time, path] : found) paths.push_back(std::move(path));
    return paths;
}

void Document::start_journal(std::unique_ptr<store::Project> project, bool draft) {
    file_ = project->path();
    draft_ = draft;
    // Called from the writer's thread.
    journal_ = std::make_unique<store::Journal>(std::move(project), [this] {
        QMetaObject::invokeMethod(
            this, [this] { emit disk_changed(); }, Qt::QueuedConnection);
    });
}

void Document::use_stored_snapshots() {
    history_.set_loader([this](std::uint64_t number) {
        site::SitePtr s;
        journal_->with_project([&](store::Project& p) { s = p.load_commit(number); });
        return s;
    });
}

void Document::ensure_draft() {
    if (journal_) return;
    fs::create_directories(drafts_folder());
    // Drafts hold whole scans: nobody else on the machine need read them.
    std::error_code error;
    fs::permissions(drafts_folder(), fs::perms::owner_all, error);
    const QString name =
        QDateTime::currentDateTime().toString(QStringLiteral("yyyyMMdd-hhmmss-zzz")) + ".pristine";
    const fs::path draft = drafts_folder() / name.toStdString();
    auto project = store::Project::create(draft);
    fs::permissions(draft, fs::perms::owner_read | fs::perms::owner_write, error);
    start_journal(std::move(project), true);
    journal_->commit(history_.current());
    use_stored_snapshots();
}

void Document::add_files(const std::vector<fs::path>& files, const io::ReadOptions& options) {
    io::ReadOptions each = options;
    each.scans_apart = true;
    read_next(files, each, true);
}

void Document::read_next(std::vector<fs::path> files, const io::ReadOptions& options, bool in_work) {
    if (files.empty()) return;
    const fs::path file = files.front();
    files.erase(files.begin());
    const auto items = std::make_shared<std::vector<io::ReadResult>>();
    jobs_->start(
        tr("Opening %1").arg(QString::fromStdString(file.filename().string())),
        [=](Progress& p) {
            p.stretch(0, 1, "Reading points");
            *items = io::read_items(file, options, p);
        },
        [this, files, file, items, options, in_work] {
            if (!items->empty()) add_items(file, *items, in_work);
            std::vector<std::string> warnings;
            for (const io::ReadResult& item : *items)
                for (const std::string& w : item.warnings) warnings.push_back(w);
            for (const io::ReadResult& item : *items)
                if (item.cloud->size() == 0)
                    warnings.push_back(item.cloud->triangles() ? "It holds no triangles."
                                                               : "It holds no points.");
            if (!warnings.empty()) emit odd(file, warnings);
            read_next(files, options, in_work && items->empty());
        },
        [this, files, file, options, in_work](const Jobs::Failure& failure) {
            if (!failure.message.isEmpty())
                emit unreadable(failure.message, QString::fromStdString(file.string()),
                                options.accept_partial ? Remedy::None : failure.remedy);
            read_next(files, options, in_work);
        });
}

void Document::add_items(const fs::path& file, const std::vector<io::ReadResult>& items, bool in_work) {
    const QString of_file = spoken(file.stem().string());
    std::vector<std::string> names;
    // The same file once more, or two of one name: each can be told from the others.
    for (const io::ReadResult& item : items) {
        const QString own = item.name.empty() ? of_file : QString::fromStdString(item.name);
        QString name = own;
        const auto taken = [&] {
            const std::string n = name.toStdString();
            return std::find(names.begin(), names.end(), n) != names.end() ||
                   std::any_of(site()->items.begin(), site()->items.end(),
                               [&](const site::ItemPtr& i) { return i->name == n; });
        };
        for (int k = 2; taken(); ++k) name = QStringLiteral("%1 (%2)").arg(own).arg(k);
        names.push_back(name.toStdString());
    }
    const bool scans = items.size() > 1 && !items.front().cloud->triangles();
    apply(items.size() == 1 ? tr("Open %1").arg(QString::fromStdString(names.front()))
                            : tr("Open %1 items of %2").arg(items.size()).arg(of_file),
          [&](const site::Site& s) {
              auto next = std::make_shared<site::Site>(s);
              for (std::size_t k = 0; k < items.size(); ++k) {
                  next = std::make_shared<site::Site>(*site::add_cloud(
                      *next, items[k].cloud, names[k], file.string() + " (" + items[k].format + ")"));
                  if (items[k].thinned > 0)
                      next = std::make_shared<site::Site>(
                          *site::set_thinned(*next, next->items.back()->id, items[k].thinned));
                  if (scans)
                      next = std::make_shared<site::Site>(
                          *site::set_group(*next, next->items.back()->id, of_file.toStdString()));
              }
              if (s.items.empty() && !file.parent_path().filename().empty())
                  next->name = spoken(file.parent_path().filename().string()).toStdString();
              // Somebody opens a file to work on it; a selection that is there is not dropped for that.
              const site::ItemPtr first = next->items[s.items.size()];
              if (in_work && s.selection.empty() && first->cloud->size() > 0)
                  return site::activate(*next, first->id);
              return site::SitePtr(next);
          });
}

void Document::convert_item(std::uint64_t id, const std::string& target) {
    const site::ItemPtr item = site()->item(id);
    if (!item) return;
    const auto made = std::make_shared<std::shared_ptr<const cloud::PointCloud>>();
    jobs_->start(
        tr("Converting %1").arg(QString::fromStdString(item->name)),
        [item, target, made](Progress& p) { *made = io::reprojected(item->cloud, target, p); },
        [this, item, target, made] {
            const io::System system = io::system_of(target);
            const QString name =
                tr("%1 in %2")
                    .arg(QString::fromStdString(item->name),
                         QString::fromStdString(system.code.empty() ? system.name : system.code));
            apply(tr("Convert %1").arg(QString::fromStdString(item->name)), [&](const site::Site& s) {
                const site::ItemPtr now = s.item(item->id);
                if (!now || now->cloud != item->cloud)
                    throw Error(ErrorCode::Usage, "The item changed meanwhile", {}, "Convert it once more.");
                return site::add_converted(s, item->id, *made, name.toStdString());
            });
            emit converted(site()->active);
        });
}

void Document::open_project(const fs::path& path, const std::function<void()>& then) {
    struct Opened {
        std::unique_ptr<store::Project> project;
        std::unique_ptr<site::History> history;
        std::uint64_t saved = 0;
        std::string view;
        std::map<std::string, std::string> notes;
    };
    const auto opened = std::make_shared<Opened>();
    jobs_->start(
        tr("Opening %1").arg(QString::fromStdString(path.filename().string())),
        [=](Progress& p) {
            opened->project = store::Project::open(path);
            p.stretch(0, 1, "Reading pages");
            opened->history = std::make_unique<site::History>(opened->project->load(p));
            opened->saved = opened->project->saved_mark();
            opened->view = opened->project->note("view");
            for (const char* key : {report::kSetupNote, report::kTemplatesNote})
                opened->notes[key] = opened->project->note(key);
        },
        [this, opened, then, path] {
            end_journal();
            view_ = opened->view;
            notes_ = opened->notes;
            history_ = std::move(*opened->history);
            const bool draft = path.parent_path() == drafts_folder();
            start_journal(std::move(opened->project), draft);
            use_stored_snapshots();
            saved_index_ = 0;
            for (std::size_t i = 0; i < history_.commits().size(); ++i)
                if (history_.commits()[i].number == opened->saved) saved_index_ = i;
            unsaved_at_open_ =
                opened->saved == 0 || history_.cursor() < saved_index_ ? 0 : history_.cursor() - saved_index_;
            emit replaced();
            committed();
            if (then) then();
        });
}

void Document::go_back_to_saved() {
    unsaved_at_open_ = 0;
    go_to(saved_index_);
}

QString Document::title() const {
    if (draft_) return QString::fromStdString(site()->name);
    return QString::fromStdString(file_.stem().string());
}

void Document::save() {
    if (!has_file()) return;
    journal_->mark_saved(history_.current().number);
    unsaved_at_open_ = 0;
    emit disk_changed();
}

void Document::save_as(const fs::path& path, bool replace) {
    ensure_draft();
    if (!flush()) {
        emit failed(tr("The project could not be written: %1").arg(QString::fromStdString(disk().error)));
        return;
    }
    const std::uint64_t number = history_.current().number;
    const std::vector<site::Commit> copied = history_.commits();
    jobs_->start(
        tr("Saving %1").arg(QString::fromStdString(path.filename().string())),
        [this, path, replace](Progress& p) {
            p.stretch(0, 1, "Writing the project");
            journal_->with_project([&](store::Project& project) { project.copy_to(path, replace); });
        },
        [this, path, number, copied] {
            const fs::path before = file_;
            const bool was_draft = draft_;
            try {
                auto project = store::Project::open(path);
                project->adopt(history_);
                journal_.reset();
                start_journal(std::move(project), false);
            } catch (const std::exception& e) {
                emit failed(QString::fromUtf8(e.what()));
                return;
            }
            journal_->mark_saved(number);
            // What was done while the copy was made is not in it yet: everything from the first difference
            // on.
            std::size_t same = 0;
            const auto& now = history_.commits();
            while (same < now.size() && same < copied.size() && now[same].number == copied[same].number &&
                   (now[same].site == copied[same].site || !now[same].site || !copied[same].site))
                ++same;
            for (std::size_t i = same; i < now.size(); ++i) journal_->commit(now[i]);
            journal_->cursor(history_.current().number);
            if (was_draft) remove_project_files(before);
            unsaved_at_open_ = 0;
            emit disk_changed();
            emit message(tr("Saved as %1").arg(QString::fromStdString(path.string())));
        });
}

std::shared_ptr<const cloud::FetchedColumn> Document::column_of(const site::Item& item) {
    const std::string name = item.style.column;
    std::erase_if(columns_, [](const Column& c) { return c.cloud.expired(); });
    for (const Column& c : columns_)
        if (c.cloud.lock() == item.cloud && c.name == name) return c.values;
    // One column a cloud is kept: they cost four bytes a point.
    std::erase_if(columns_, [&](const Column& c) { return c.cloud.lock() == item.cloud; });
    columns_.push_back({item.cloud, name, nullptr});
    const auto fetched = std::make_shared<std::shared_ptr<const cloud::FetchedColumn>>();
    jobs_->start(
        tr("Colouring by %1").arg(QString::fromStdString(name)),
        [cloud = item.cloud, name, fetched](Progress& p) { *fetched = cloud::fetch_column(*cloud, name, p); },
        [this, cloud = item.cloud, name, fetched] {
            for (Column& c : columns_)
                if (c.cloud.lock() == cloud && c.name == name) c.values = *fetched;
            emit columns_changed();
        });
    return nullptr;
}

std::map<std::uint8_t, std::uint64_t> Document::classes_of(const site::ItemPtr& item) {
    if (classes_of_ == item) return classes_;
    // Of the same item the counts of before stay until they are counted again.
    if (!classes_of_ || classes_of_->id != item->id) classes_.clear();
    classes_of_ = item;
    const auto counts = std::make_shared<std::map<std::uint8_t, std::uint64_t>>();
    jobs_->start(
        tr("Counting classes"), [item, counts](Progress&) { *counts = site::class_counts(*item); },
        [this, item, counts] {
            if (classes_of_ != item) return;
            classes_ = *counts;
            emit columns_changed();
        },
        {}, Jobs::Show::IfLong);
    return classes_;
}

void Document::keep_view(const std::string& text) {
    if (view_ == text) return;
    view_ = text;
    if (journal_) journal_->note("view", text);
}

void Document::keep_note(const std::string& key, const std::string& text) {
    if (kept_note(key) == text) return;
    notes_[key] = text;
    ensure_draft();
    journal_->note(key, text);
}

std::string Document::kept_note(const std::string& key) const {
    const auto it = notes_.find(key);
    return it == notes_.end() ? std::string() : it->second;
}

void Document::keep_picture(const std::string& png) {
    if (journal_) journal_->note(store::kPictureNote, png);
}

store::Journal::Status Document::disk() const {
    return journal_ ? journal_->status() : store::Journal::Status{};
}

void Document::retry_writing() {
    if (journal_) journal_->retry();
}

bool Document::flush() {
    return !journal_ || journal_->flush();
}

}  // namespace pristine::app
