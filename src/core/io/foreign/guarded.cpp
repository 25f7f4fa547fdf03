#include "core/io/foreign/guarded.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

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

class Child {
  public:
    Child(const std::vector<std::string>& arguments, const ReaderLimits& limits) {
        const std::string program = reader_program().string();
        std::vector<std::string> all{program, fmt::format("{}", limits.seconds),
                                     fmt::format("{}", limits.bytes)};
        all.insert(all.end(), arguments.begin(), arguments.end());
        std::vector<char*> argv;
        for (std::string& a : all) argv.push_back(a.data());
        argv.push_back(nullptr);
        int ends[2];
        if (::pipe2(ends, O_CLOEXEC) != 0) fail();
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
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

    /// Everything that it writes; false when it is not at its end in time.
    bool read_all(std::string& out, Clock::time_point until) {
        char buffer[1 << 16];
        for (;;) {
            const auto left =
                std::chrono::duration_cast<std::chrono::milliseconds>(until - Clock::now()).count();
            if (left <= 0) return false;
            pollfd p{out_, POLLIN, 0};
            if (::poll(&p, 1, static_cast<int>(std::min<long>(left, 1000))) < 0 && errno != EINTR) fail();
            if (!(p.revents & (POLLIN | POLLHUP))) continue;
            const ssize_t n = ::read(out_, buffer, sizeof buffer);
            if (n < 0 && errno == EINTR) continue;
            if (n <= 0) return true;
            out.append(buffer, static_cast<std::size_t>(n));
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

}  // namespace

ReaderLimits limits_for(const fs::path& path) {
    std::error_code none;
    const auto bytes = fs::file_size(path, none);
    const double megabytes = none ? 0 : static_cast<double>(bytes) / 1e6;
    ReaderLimits l;
    l.seconds += 2 * megabytes;
    l.bytes += static_cast<std::uint64_t>(20e6 * megabytes);
    return l;
}

std::string run_guarded(const std::vector<std::string>& arguments, const ReaderLimits& limits,
                        const std::string& place) {
    Child child(arguments, limits);
    std::string answer;
    // Processor time is limited in the child; waiting, on a slow disk say, may take longer.
    const auto until =
        Clock::now() + std::chrono::milliseconds(static_cast<std::int64_t>(1000 * (2 * limits.seconds + 10)));
    const bool in_time = child.read_all(answer, until);
    const int status = in_time ? child.wait() : SIGXCPU;
    if (in_time && WIFEXITED(status) && !answer.empty()) {
        const char kind = answer.front();
        answer.erase(0, 1);
        if (kind == 'A' && WEXITSTATUS(status) == 0) return answer;
        if (kind == 'E' && answer.size() > 1)
            throw Error(static_cast<ErrorCode>(answer.front() - '0'), answer.substr(1));
    }
    if (!in_time || (WIFSIGNALED(status) && (WTERMSIG(status) == SIGXCPU || WTERMSIG(status) == SIGKILL)))
        throw Error(ErrorCode::Format,
                    fmt::format("The file could not be read within {:.0f} s", limits.seconds), place,
                    "It is damaged, or not what its name says.");
    throw Error(ErrorCode::Format, "The file is damaged: its reader broke off", place);
}

}  // namespace pristine::io
