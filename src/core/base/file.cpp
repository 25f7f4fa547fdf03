#include "core/base/file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <random>

namespace pristine {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kWriteBuffer = 4u << 20;

[[noreturn]] void io_error(const std::string& what, const fs::path& path) {
    const int number = errno;
    throw Error(ErrorCode::Io, fmt::format("{}: {}", what, std::strerror(number)), path.string());
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

InputFile::InputFile(const fs::path& path) : path_(path) {
    fd_ = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (fd_ < 0) io_error("Could not open the file", path);
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
            io_error("Could not read", path_);
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

OutputFile::OutputFile(const fs::path& target, bool replace) : target_(target) {
    std::error_code ignored;
    if (!replace && fs::exists(target, ignored))
        throw Error(ErrorCode::Conflict, "The file exists already", target.string(),
                    "Choose another name, or allow it to be replaced.");
    std::random_device seed;
    beside_ = target;
    beside_ += fmt::format(".part-{:08x}", seed());
    fd_ = ::open(beside_.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0644);
    if (fd_ < 0) io_error("Could not create the file", target);
    buffer_.reserve(kWriteBuffer);
}

OutputFile::~OutputFile() {
    if (fd_ >= 0) ::close(fd_);
    if (!finished_) ::unlink(beside_.c_str());
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
    if (::fsync(fd_) != 0) io_error("Could not bring the file to the disk", target_);
    if (::rename(beside_.c_str(), target_.c_str()) != 0)
        io_error("Could not name the finished file", target_);
    finished_ = true;
    const fs::path folder = target_.has_parent_path() ? target_.parent_path() : fs::path(".");
    const int dir = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (dir >= 0) {
        ::fsync(dir);  // the name itself; a file system that cannot do this still has the data
        ::close(dir);
    }
}

}  // namespace pristine
