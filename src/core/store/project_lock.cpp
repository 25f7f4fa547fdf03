#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "core/base/error.h"
#include "core/store/project.h"

namespace pristine::store {
namespace fs = std::filesystem;
namespace {

fs::path lock_path(const fs::path& project) {
    fs::path p = project;
    p += ".lock";
    return p;
}

}  // namespace

ProjectLock::ProjectLock(const fs::path& project) : path_(lock_path(project)) {
    fd_ = ::open(path_.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0644);
    if (fd_ < 0)
        throw Error(ErrorCode::Io, std::string("The folder cannot be written: ") + std::strerror(errno),
                    project.string());
    if (::flock(fd_, LOCK_EX | LOCK_NB) != 0) {
        ::close(fd_);
        throw Error(ErrorCode::Conflict, "The project is open in another window", project.string(),
                    "Close it there first.");
    }
}

ProjectLock::~ProjectLock() {
    ::unlink(path_.c_str());
    ::close(fd_);
}

bool ProjectLock::held(const fs::path& project) {
    const int fd = ::open(lock_path(project).c_str(), O_RDWR | O_CLOEXEC);
    if (fd < 0) return false;
    const bool free = ::flock(fd, LOCK_EX | LOCK_NB) == 0;
    ::close(fd);
    return !free;
}

}  // namespace pristine::store
