#include "core/io/foreign/guarded.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstring>

#include "core/base/error.h"

extern char** environ;

namespace pristine::io {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

// Beside this program, or where packages put what is not for people to call.
fs::path reader_program() {
    std::error_code none;
    const fs::path folder = fs::read_symlink("/proc/self/exe", none).parent_path();
    for (const fs::path& p : {folder / "pristine-reader",
                              folder.parent_path() / "libexec" / "pristine-cloud" / "pristine-reader"})
        if (::access(p.c_str(), X_OK) == 0) return p;
    throw Error(ErrorCode::Io, "A part of this program is missing: pristine-reader", folder.string(),
                "Install it again.");
}

// A file without a name that holds these bytes. -1 when there is no memory for it.
int file_in_memory(std::string_view bytes) {
    const int file = ::memfd_create("pristine-picture", MFD_CLOEXEC);
    for (std::size_t at = 0; file >= 0 && at < bytes.size();) {
        const ssize_t n = ::write(file, bytes.data() + at, bytes.size() - at);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) {
            ::close(file);
            return -1;
        }
        at += static_cast<std::size_t>(n);
    }
    if (file >= 0) ::lseek(file, 0, SEEK_SET);
    return file;
}

}  // namespace

class GuardedReader::Child {
  public:
    Child(const std::vector<std::string>& arguments, const ReaderLimits& limits, std::string_view input) {
        const std::string program = reader_program().string();
        std::vector<std::string> all{program, fmt::format("{}", limits.seconds),
                                     fmt::format("{}", limits.bytes)};
        all.insert(all.end(), arguments.begin(), arguments.end());
        std::vector<char*> argv;
        for (std::string& a : all) argv.push_back(a.data());
        argv.push_back(nullptr);
        const int in = input.empty() ? ::open("/dev/null", O_RDONLY | O_CLOEXEC) : file_in_memory(input);
        if (in < 0) fail();
        int ends[2];
        if (::pipe2(ends, O_CLOEXEC) != 0) {
            ::close(in);
            fail();
        }
        // As much as the system lets anybody have: large answers take turns less often.
        constexpr int kPipe = 1 << 20;
        (void)::fcntl(ends[1], F_SETPIPE_SZ, kPipe);
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, in, STDIN_FILENO);
        posix_spawn_file_actions_adddup2(&actions, ends[1], STDOUT_FILENO);
        posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
        posix_spawnattr_t attributes;
        posix_spawnattr_init(&attributes);
        sigset_t none;
        sigemptyset(&none);
        posix_spawnattr_setsigmask(&attributes, &none);
        posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
        const int error = ::posix_spawn(&pid_, program.c_str(), &actions, &attributes, argv.data(), environ);
        posix_spawn_file_actions_destroy(&actions);
        posix_spawnattr_destroy(&attributes);
        ::close(ends[1]);
        ::close(in);
        out_ = ends[0];
        if (error != 0) {
            ::close(out_);
            errno = error;
            fail();
        }
    }
    ~Child() {
        ::close(out_);
        if (pid_ <= 0) return;
        ::kill(pid_, SIGKILL);
        (void)wait();
    }
    Child(const Child&) = delete;
    Child& operator=(const Child&) = delete;

    /// Up to so many bytes, at least one; 0 at the end, -1 when nothing came in time.
    ssize_t read_some(char* to, std::size_t bytes, Clock::time_point until) {
        for (;;) {
            const auto left =
                std::chrono::duration_cast<std::chrono::milliseconds>(until - Clock::now()).count();
            if (left <= 0) return -1;
            pollfd p{out_, POLLIN, 0};
            if (::poll(&p, 1, static_cast<int>(std::min<long>(left, 1000))) < 0 && errno != EINTR) fail();
            if (!(p.revents & (POLLIN | POLLHUP))) continue;
            const ssize_t n = ::read(out_, to, bytes);
            if (n < 0 && errno == EINTR) continue;
            return std::max<ssize_t>(n, 0);
        }
    }
    int wait() {
        int status = 0;
        while (::waitpid(pid_, &status, 0) < 0 && errno == EINTR) {
        }
        pid_ = 0;
        return status;
    }

  private:
    [[noreturn]] static void fail() {
        throw Error(ErrorCode::Io, std::string("A reader could not be started: ") + std::strerror(errno));
    }
    pid_t pid_ = 0;
    int out_ = -1;
};

ReaderLimits limits_for(const fs::path& path) {
    std::error_code none;
    const auto bytes = fs::file_size(path, none);
    return limits_for(none ? 0 : static_cast<std::uint64_t>(bytes));
}

ReaderLimits limits_for(std::uint64_t bytes) {
    const double megabytes = static_cast<double>(bytes) / 1e6;
    ReaderLimits l;
    l.seconds += 2 * megabytes;
    l.bytes += static_cast<std::uint64_t>(20e6 * megabytes);
    return l;
}

GuardedReader::GuardedReader(const std::vector<std::string>& arguments, const ReaderLimits& limits,
                             std::string place, std::string_view input)
    : child_(std::make_unique<Child>(arguments, limits, input)), limits_(limits), place_(std::move(place)) {}
GuardedReader::~GuardedReader() = default;

void GuardedReader::broke_off(bool in_time) {
    const int status = in_time ? child_->wait() : SIGXCPU;
    if (!in_time || (WIFSIGNALED(status) && (WTERMSIG(status) == SIGXCPU || WTERMSIG(status) == SIGKILL)))
        throw Error(ErrorCode::Format,
                    fmt::format("The file could not be read within {:.0f} s", limits_.seconds), place_,
                    "It is damaged, or not what its name says.");
    throw Error(ErrorCode::Format, "The file is damaged: its reader broke off", place_);
}

void GuardedReader::take(char* to, std::size_t bytes) {
    // Processor time is limited in the other process; waiting, on a slow disk say, may take longer.
    const auto until = Clock::now() + std::chrono::milliseconds(
                                          static_cast<std::int64_t>(1000 * (2 * limits_.seconds + 10)));
    while (bytes > 0) {
        const ssize_t n = child_->read_some(to, bytes, until);
        if (n <= 0) broke_off(n == 0);
        to += n;
        bytes -= static_cast<std::size_t>(n);
    }
}

bool GuardedReader::next(std::string& frame) {
    char kind = 0;
    take(&kind, 1);
    if (kind == 'Z') {
        if (const int status = child_->wait(); !WIFEXITED(status) || WEXITSTATUS(status) != 0)
            throw Error(ErrorCode::Format, "The file is damaged: its reader broke off", place_);
        return false;
    }
    if (kind == 'E') {
        char code = 0;
        take(&code, 1);
        std::string sentence;
        char buffer[1024];
        const auto until = Clock::now() + std::chrono::seconds(10);
        for (ssize_t n; (n = child_->read_some(buffer, sizeof buffer, until)) > 0;)
            sentence.append(buffer, static_cast<std::size_t>(n));
        throw Error(static_cast<ErrorCode>(code - '0'), sentence);
    }
    if (kind != 'A') broke_off(true);
    std::uint64_t bytes = 0;
    take(reinterpret_cast<char*>(&bytes), sizeof bytes);
    // As much as the reader itself could hold.
    if (bytes > limits_.bytes) broke_off(true);
    frame.resize(bytes);
    take(frame.data(), bytes);
    return true;
}

std::string run_guarded(const std::vector<std::string>& arguments, const ReaderLimits& limits,
                        const std::string& place) {
    GuardedReader reader(arguments, limits, place);
    std::string answer, more;
    if (!reader.next(answer) || reader.next(more))
        throw Error(ErrorCode::Format, "The file is damaged: its reader broke off", place);
    return answer;
}

}  // namespace pristine::io
