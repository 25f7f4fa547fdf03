#include "core/base/file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

namespace pristine {
namespace fs = std::filesystem;
namespace {

[[noreturn]] void read_error(const std::string& what, const fs::path& path) {
    const int number = errno;
    throw Error(ErrorCode::Io, fmt::format("{}: {}", what, std::strerror(number)), path.string());
}

}  // namespace

InputFile::InputFile(const fs::path& path) : path_(path) {
    // Opening a pipe would wait for whoever writes into it.
    fd_ = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (fd_ < 0) read_error("Could not open the file", path);
    struct stat st {};
    if (::fstat(fd_, &st) != 0 || !S_ISREG(st.st_mode)) {
        ::close(fd_);
        throw Error(ErrorCode::Io, "This is not a regular file", path.string(), "Choose a file.");
    }
    size_ = static_cast<std::uint64_t>(st.st_size);
}

InputFile::~InputFile() {
    if (fd_ >= 0) ::close(fd_);
}

std::size_t InputFile::read_some(std::uint64_t offset, std::span<std::byte> out) const {
    std::size_t got = 0;
    while (got < out.size()) {
        const ssize_t n = ::pread(fd_, out.data() + got, out.size() - got, static_cast<off_t>(offset + got));
        if (n < 0) {
            if (errno == EINTR) continue;
            read_error("Could not read", path_);
        }
        if (n == 0) break;
        got += static_cast<std::size_t>(n);
    }
    return got;
}

void InputFile::read_at(std::uint64_t offset, std::span<std::byte> out) const {
    if (read_some(offset, out) != out.size())
        throw Error(ErrorCode::Format,
                    fmt::format("The file ends too early: {} bytes are needed, it has {}",
                                offset + out.size(), size_),
                    place(offset), "It may have been cut off while it was copied.");
}

std::string InputFile::read_string(std::uint64_t offset, std::uint64_t length) const {
    if (offset > size_ || length > size_ - offset)
        throw Error(ErrorCode::Format,
                    fmt::format("The file ends too early: {} bytes are announced here, {} are left", length,
                                offset > size_ ? 0 : size_ - offset),
                    place(offset), "It may have been cut off while it was copied.");
    std::string text(length, '\0');
    read_at(offset, std::as_writable_bytes(std::span(text)));
    return text;
}

std::string InputFile::place(std::uint64_t offset) const {
    return fmt::format("{}, byte {}", path_.filename().string(), offset);
}

}  // namespace pristine
