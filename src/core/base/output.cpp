#include "core/base/output.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <mutex>
#include <optional>
#include <set>
#include <thread>
#include <tuple>
#include <utility>

namespace pristine {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kWriteBuffer = 4u << 20;

[[noreturn]] void io_error(const std::string& what, const fs::path& path) {
    const int number = errno;
    throw Error(ErrorCode::Io, fmt::format("{}: {}", what, std::strerror(number)), path.string());
}

// Part files and folders that no commit has taken yet.
class Unfinished {
  public:
    void add(const fs::path& path) {
        const std::lock_guard<std::mutex> guard(mutex_);
        paths_.insert(path);
    }
    void forget(const fs::path& path) noexcept {
        const std::lock_guard<std::mutex> guard(mutex_);
        paths_.erase(path);
    }
    /// Called where an error is on its way already, for want of memory perhaps: a file is removed without
    /// any.
    void remove(const fs::path& path) noexcept {
        unlink(path);
        forget(path);
    }
    void remove_all() {
        const std::lock_guard<std::mutex> guard(mutex_);
        for (const fs::path& p : paths_) unlink(p);
    }

  private:
    static void unlink(const fs::path& path) noexcept {
        if (::unlink(path.c_str()) == 0 || errno == ENOENT) return;
        try {
            std::error_code gone;
            fs::remove_all(path, gone);
        } catch (const std::bad_alloc&) {  // a folder of ours stays, hidden
        }
    }
    std::mutex mutex_;
    std::set<fs::path> paths_;
};

Unfinished& unfinished() {
    static auto* all = new Unfinished;  // outlives the thread that waits for signals
    return *all;
}

fs::path folder_of(const fs::path& target) {
    return target.has_parent_path() ? target.parent_path() : fs::path(".");
}

// Where a name leads: its folder without links, and its own link followed.
fs::path resolved(const fs::path& target) {
    std::error_code none;
    if (fs::is_symlink(target, none)) {
        const fs::path real = fs::canonical(target, none);
        if (none)
            throw Error(ErrorCode::Io, "The output is a link that leads nowhere", target.string(),
                        "Choose another name.");
        return real;
    }
    const fs::path folder = fs::canonical(folder_of(target), none);
    if (none)
        throw Error(ErrorCode::Io, "There is no such folder", folder_of(target).string(),
                    "Make it first, or choose another.");
    if (target.filename().empty() || fs::is_directory(target, none))
        throw Error(ErrorCode::Io, "The output is a folder", target.string(), "Give the name of a file.");
    return folder / target.filename();
}

struct Identity {
    dev_t device = 0;
    ino_t file = 0;
    bool operator==(const Identity&) const = default;
};

struct Staged {
    fs::path from, target;
    bool replace = false;
    bool gone = false;  // the target is to be removed, and nothing takes its place
};

void sync_folder(const fs::path& folder) {
    const int dir = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (dir < 0) return;
    ::fsync(dir);  // the names; a file system that cannot do this still has the data
    ::close(dir);
}

// A new empty file beside the target, open and known as unfinished.
std::pair<fs::path, int> file_beside(const fs::path& target) {
    std::string name = (folder_of(target) / ".pristine-XXXXXX").string();
    const int fd = ::mkostemp(name.data(), O_CLOEXEC);
    if (fd < 0) io_error("Could not create the file", target);
    try {
        fs::path path = name;
        unfinished().add(path);
        return {std::move(path), fd};
    } catch (...) {
        ::close(fd);
        ::unlink(name.c_str());
        throw;
    }
}

fs::path name_beside(const fs::path& target) {
    auto [path, fd] = file_beside(target);
    ::close(fd);
    return std::move(path);
}

// Puts files in place one by one, and back again when one of them cannot be.
//
// What is to be remembered of a step is made before it: when memory ends, nothing is renamed that could not
// be named back.
class Renaming {
  public:
    explicit Renaming(std::size_t files) { done_.reserve(2 * files); }
    void place(const Staged& s) {
        struct stat st {};
        const bool there = ::lstat(s.target.c_str(), &st) == 0;
        if (s.gone) return there ? put_aside(s.target) : void();
        if (there && !s.replace) conflict(s);
        if (there && !S_ISREG(st.st_mode))
            throw Error(ErrorCode::Io, "The output is not a regular file", s.target.string(),
                        "Choose another name.");
        Done exchanged{s.from, s.target, Step::Exchanged}, fresh{s.target, {}, Step::New};
        // The old file stays whole under the name of the new one, and at no time is there none.
        if (there && renamed(s, RENAME_EXCHANGE)) {
            done_.push_back(std::move(exchanged));
            return;
        }
        if (there) put_aside(s.target);
        // A name that appeared meanwhile is not overwritten.
        if (!renamed(s, RENAME_NOREPLACE)) link_or_rename(s);
        unfinished().forget(s.from);
        done_.push_back(std::move(fresh));
    }
    void undo() noexcept {
        for (auto d = done_.rbegin(); d != done_.rend(); ++d) {
            if (d->step == Step::New) ::unlink(d->now.c_str());
            if (d->step != Step::New) ::rename(d->now.c_str(), d->before.c_str());
        }
    }
    void keep() {
        for (const Done& d : done_)
            if (d.step != Step::New) unfinished().remove(d.now);
    }

  private:
    enum class Step { New, Exchanged, Aside };
    struct Done {
        fs::path now, before;  // of an old file: where it is, and where it was
        Step step;
    };
    [[noreturn]] static void conflict(const Staged& s) {
        throw Error(ErrorCode::Conflict, "The file exists already", s.target.string(),
                    "Choose another name, or allow it to be replaced.");
    }
    // False where the file system cannot do it.
    static bool renamed(const Staged& s, unsigned how) {
        if (::renameat2(AT_FDCWD, s.from.c_str(), AT_FDCWD, s.target.c_str(), how) == 0) return true;
        if (errno == EEXIST) conflict(s);
        if (errno != EINVAL && errno != ENOSYS) io_error("Could not name the finished file", s.target);
        return false;
    }
    static void link_or_rename(const Staged& s) {
        if (::link(s.from.c_str(), s.target.c_str()) == 0) {
            ::unlink(s.from.c_str());
            return;
        }
        if (errno == EEXIST) conflict(s);
        // There are no links on this file system either.
        if (::rename(s.from.c_str(), s.target.c_str()) != 0)
            io_error("Could not name the finished file", s.target);
    }
    void put_aside(const fs::path& target) {
        Done aside{name_beside(target), target, Step::Aside};
        if (::rename(target.c_str(), aside.now.c_str()) != 0) {
            const int number = errno;
            unfinished().remove(aside.now);
            errno = number;
            io_error("Could not put the old file aside", target);
        }
        done_.push_back(std::move(aside));
    }
    std::vector<Done> done_;
};

void place_all(const std::vector<Staged>& files) {
    std::set<fs::path> folders;
    std::optional<Renaming> renaming;
    try {
        renaming.emplace(files.size());
        for (const Staged& s : files) folders.insert(folder_of(s.target));
        for (const Staged& s : files) renaming->place(s);
    } catch (...) {
        if (renaming) renaming->undo();
        for (const Staged& s : files)
            if (!s.gone) unfinished().remove(s.from);
        throw;
    }
    renaming->keep();
    for (const fs::path& f : folders) sync_folder(f);
}

// What the outermost group of a thread has read and will write.
struct Ambient {
    std::vector<Identity> inputs;
    std::vector<fs::path> expected;
    std::vector<Staged> staged;
};
thread_local Ambient* ambient = nullptr;

// Files that speak for another of the same name.
const char* const kCompanions[] = {".prj", ".PRJ", ".origin.txt", ".mtl", ".shp", ".shx", ".dbf", ".cpg",
                                   ".qix", ".sbn", ".sbx", ".tfw", ".wld", ".aux", ".ovr"};

void add_input(const fs::path& path, std::vector<Identity>& out) {
    struct stat st {};
    if (::stat(path.c_str(), &st) == 0 && S_ISREG(st.st_mode)) out.push_back({st.st_dev, st.st_ino});
}

// Where the target is; throws where it may not be written.
fs::path checked(const fs::path& target, bool replace) {
    const fs::path real = resolved(target);
    struct stat st {};
    if (::stat(real.c_str(), &st) != 0) return real;
    if (!S_ISREG(st.st_mode))
        throw Error(ErrorCode::Io, "The output is not a regular file", target.string(),
                    "Choose another name.");
    const Identity id{st.st_dev, st.st_ino};
    if (ambient && std::find(ambient->inputs.begin(), ambient->inputs.end(), id) != ambient->inputs.end())
        throw Error(ErrorCode::Usage, "The output would overwrite its input", target.string(),
                    "Choose another name.");
    if (!replace)
        throw Error(ErrorCode::Conflict, "The file exists already", target.string(),
                    "Choose another name, or allow it to be replaced.");
    return real;
}

bool same_file(const fs::path& a, const fs::path& b) {
    std::error_code none;
    return a == b || fs::equivalent(a, b, none);
}

// Gives a finished file the rights that its target has, or that a new file of this user has.
mode_t rights_for(const fs::path& target) {
    struct stat st {};
    if (::stat(target.c_str(), &st) == 0) return st.st_mode & 07777;
    static const mode_t mask = [] {
        const mode_t m = ::umask(0);
        ::umask(m);
        return m;
    }();
    return 0666 & ~mask;
}

void stage(Staged s) {
    if (!ambient) return place_all({s});
    for (const Staged& other : ambient->staged)
        if (same_file(other.target, s.target))
            throw Error(ErrorCode::Usage, "Two outputs have the same name", s.target.string(),
                        "Give each its own.");
    ambient->staged.push_back(std::move(s));
}

void write_all(int fd, const char* data, std::size_t length, const fs::path& path) {
    while (length > 0) {
        const ssize_t n = ::write(fd, data, length);
        if (n < 0) {
            if (errno == EINTR) continue;
            io_error("Could not write", path);
        }
        data += n;
        length -= static_cast<std::size_t>(n);
    }
}

}  // namespace

OutputGroup::OutputGroup(const std::vector<fs::path>& inputs) : outer_(ambient == nullptr) {
    std::vector<Identity> found;
    for (const fs::path& in : inputs) {
        add_input(in, found);
        for (const char* ending : kCompanions) add_input(fs::path(in).replace_extension(ending), found);
        add_input(in.string() + ".aux.xml", found);
    }
    if (!outer_) {
        ambient->inputs.insert(ambient->inputs.end(), found.begin(), found.end());
        return;
    }
    ambient = new Ambient;
    ambient->inputs = std::move(found);
}

OutputGroup::~OutputGroup() {
    if (!outer_) return;
    if (!done_)
        for (const Staged& s : ambient->staged)
            if (!s.gone) unfinished().remove(s.from);
    delete ambient;
    ambient = nullptr;
}

void OutputGroup::expect(const fs::path& target, bool replace) {
    const fs::path real = checked(target, replace);
    for (const fs::path& other : ambient->expected)
        if (same_file(other, real))
            throw Error(ErrorCode::Usage, "Two outputs have the same name", target.string(),
                        "Give each its own.");
    ambient->expected.push_back(real);
}

void OutputGroup::commit() {
    if (!outer_) return;
    done_ = true;
    place_all(std::exchange(ambient->staged, {}));
}

OutputFile::OutputFile(const fs::path& target, bool replace)
    : target_(checked(target, replace)), replace_(replace) {
    buffer_.reserve(kWriteBuffer);
    std::tie(beside_, fd_) = file_beside(target_);
}

OutputFile::~OutputFile() {
    if (fd_ < 0) return;
    ::close(fd_);
    unfinished().remove(beside_);
}

void OutputFile::flush() {
    write_all(fd_, buffer_.data(), buffer_.size(), target_);
    flushed_ += buffer_.size();
    buffer_.clear();
}

void OutputFile::write(const void* data, std::size_t length) {
    if (buffer_.size() + length > kWriteBuffer) flush();
    if (length >= kWriteBuffer) {
        write_all(fd_, static_cast<const char*>(data), length, target_);
        flushed_ += length;
    } else {
        buffer_.append(static_cast<const char*>(data), length);
    }
}

void OutputFile::write_at(std::uint64_t offset, const void* data, std::size_t length) {
    flush();
    std::size_t done = 0;
    while (done < length) {
        const ssize_t n = ::pwrite(fd_, static_cast<const char*>(data) + done, length - done,
                                   static_cast<off_t>(offset + done));
        if (n < 0) {
            if (errno == EINTR) continue;
            io_error("Could not write", target_);
        }
        done += static_cast<std::size_t>(n);
    }
}

void OutputFile::finish() {
    flush();
    if (::fchmod(fd_, rights_for(target_)) != 0) io_error("Could not set the rights of the file", target_);
    if (::fsync(fd_) != 0) io_error("Could not bring the file to the disk", target_);
    const int fd = std::exchange(fd_, -1);
    if (::close(fd) != 0) {
        unfinished().remove(beside_);
        io_error("Could not close the file", target_);
    }
    try {
        stage({beside_, target_, replace_});
    } catch (...) {
        unfinished().remove(beside_);
        throw;
    }
}

OutputFolder::OutputFolder(const fs::path& target, bool replace)
    : target_(checked(target, replace)), replace_(replace) {
    std::string name = (folder_of(target_) / ".pristine-XXXXXX").string();
    if (!::mkdtemp(name.data())) io_error("Could not create the file", target);
    try {
        folder_ = name;
        unfinished().add(folder_);
    } catch (...) {
        ::rmdir(name.c_str());
        throw;
    }
}

OutputFolder::~OutputFolder() {
    unfinished().remove(folder_);
}

fs::path OutputFolder::path() const {
    return folder_ / target_.filename();
}

void OutputFolder::add(const std::string& name, const void* data, std::size_t length) {
    const fs::path path = folder_ / fs::path(name).filename();
    const int fd = ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
    if (fd < 0) io_error("Could not create the file", target_);
    try {
        write_all(fd, static_cast<const char*>(data), length, target_);
    } catch (...) {
        ::close(fd);
        throw;
    }
    if (::close(fd) != 0) io_error("Could not close the file", target_);
}

void OutputFolder::finish(const std::vector<std::string>& companions) {
    OutputGroup together;
    std::set<fs::path> written;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder_)) {
        const fs::path target = checked(target_.parent_path() / entry.path().filename(), replace_);
        written.insert(target);
        const int fd = ::open(entry.path().c_str(), O_RDONLY | O_CLOEXEC);
        if (fd < 0) io_error("Could not bring the file to the disk", target);
        const bool synced = ::fchmod(fd, rights_for(target)) == 0 && ::fsync(fd) == 0;
        ::close(fd);
        if (!synced) io_error("Could not bring the file to the disk", target);
        // Out of the folder, which ends with this object.
        const fs::path beside = name_beside(target_);
        try {
            if (::rename(entry.path().c_str(), beside.c_str()) != 0)
                io_error("Could not name the finished file", target);
            stage({beside, target, replace_});
        } catch (...) {
            unfinished().remove(beside);
            throw;
        }
    }
    for (const std::string& ending : companions) {
        const fs::path old = fs::path(target_).replace_extension(ending);
        std::error_code none;
        if (written.contains(old) || !fs::exists(fs::symlink_status(old, none))) continue;
        stage({{}, checked(old, replace_), true, true});
    }
    together.commit();
}

void remove_unfinished_on_signals() {
    sigset_t set;
    sigemptyset(&set);
    for (const int s : {SIGINT, SIGTERM, SIGHUP}) {
        struct sigaction now {};
        // What the caller has this process ignore (nohup) stays ignored.
        if (::sigaction(s, nullptr, &now) == 0 && now.sa_handler != SIG_IGN) sigaddset(&set, s);
    }
    if (pthread_sigmask(SIG_BLOCK, &set, nullptr) != 0) return;
    (void)unfinished();
    std::thread([set] {
        int number = 0;
        if (sigwait(&set, &number) != 0) return;
        unfinished().remove_all();
        // End as the signal would have ended us, so that the caller sees which it was.
        std::signal(number, SIG_DFL);
        sigset_t one;
        sigemptyset(&one);
        sigaddset(&one, number);
        pthread_sigmask(SIG_UNBLOCK, &one, nullptr);
        std::raise(number);
        std::_Exit(128 + number);
    }).detach();
}

}  // namespace pristine
