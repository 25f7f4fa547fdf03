#include "core/base/scratch_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "core/base/error.h"
#include "core/base/memory.h"

namespace pristine {
namespace {

[[noreturn]] void failed(const char* what, int error) {
    throw Error(ErrorCode::Io, fmt::format("{}: {}", what, std::strerror(error)), scratch_folder().string(),
                "PRISTINE_SCRATCH names another folder.");
}

}  // namespace

ScratchFile::ScratchFile(std::uint64_t reserve) {
    std::string name = (scratch_folder() / "pristine-XXXXXX").string();
    fd_ = ::mkostemp(name.data(), O_CLOEXEC);
    if (fd_ < 0) failed("Could not make a scratch file", errno);
    ::unlink(name.c_str());
    if (reserve == 0) return;
    const int error = ::posix_fallocate(fd_, 0, static_cast<off_t>(reserve));
    if (error == 0) return;
    ::close(fd_);
    failed(
        fmt::format("Could not reserve {} for points that do not fit in memory", bytes_text(reserve)).c_str(),
        error);
}

ScratchFile::~ScratchFile() {
    ::close(fd_);
}

void ScratchFile::write_at(std::uint64_t offset, std::span<const std::byte> bytes) {
    while (!bytes.empty()) {
        const ssize_t n = ::pwrite(fd_, bytes.data(), bytes.size(), static_cast<off_t>(offset));
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) failed("Could not write a scratch file", errno);
        bytes = bytes.subspan(static_cast<std::size_t>(n));
        offset += static_cast<std::uint64_t>(n);
    }
}

void ScratchFile::read_at(std::uint64_t offset, std::span<std::byte> out) const {
    while (!out.empty()) {
        const ssize_t n = ::pread(fd_, out.data(), out.size(), static_cast<off_t>(offset));
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) failed("Could not read a scratch file", errno);
        if (n == 0) throw Error(ErrorCode::Usage, "What lies beyond the end of a scratch file was asked for");
        out = out.subspan(static_cast<std::size_t>(n));
        offset += static_cast<std::uint64_t>(n);
    }
}

}  // namespace pristine
