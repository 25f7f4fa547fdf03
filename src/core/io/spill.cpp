#include "core/io/spill.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <filesystem>
#include <utility>
#include <vector>

#include "core/base/error.h"

namespace pristine::io {
namespace {

[[noreturn]] void failed(const char* what) {
    throw Error(ErrorCode::Io, fmt::format("{}: {}", what, std::strerror(errno)),
                std::filesystem::temp_directory_path().string(), "TMPDIR names another folder.");
}

class SpilledRecords : public cloud::RecordSource {
  public:
    SpilledRecords(int fd, cloud::RecordLayout layout, std::uint64_t count)
        : fd_(fd), layout_(std::move(layout)), count_(count) {}
    ~SpilledRecords() override { ::close(fd_); }
    const cloud::RecordLayout& layout() const override { return layout_; }
    std::uint64_t count() const override { return count_; }
    void read(std::uint64_t first, std::span<std::byte> out) const override {
        auto at = static_cast<off_t>(first * layout_.record_bytes);
        while (!out.empty()) {
            const ssize_t n = ::pread(fd_, out.data(), out.size(), at);
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) failed("Could not read a temporary file");
            if (n == 0) throw Error(ErrorCode::Usage, "Records beyond the end were asked for");
            out = out.subspan(static_cast<std::size_t>(n));
            at += n;
        }
    }

  private:
    int fd_;
    cloud::RecordLayout layout_;
    std::uint64_t count_;
};

}  // namespace

SpillWriter::SpillWriter(std::size_t record_bytes) : record_bytes_(record_bytes) {
    std::string name = (std::filesystem::temp_directory_path() / "pristine-XXXXXX").string();
    fd_ = ::mkostemp(name.data(), O_CLOEXEC);
    if (fd_ < 0) failed("Could not make a temporary file");
    ::unlink(name.c_str());
}

SpillWriter::~SpillWriter() {
    if (fd_ >= 0) ::close(fd_);
}

void SpillWriter::write(std::span<const std::byte> records) {
    count_ += records.size() / record_bytes_;
    while (!records.empty()) {
        const ssize_t n = ::write(fd_, records.data(), records.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) failed("Could not write a temporary file");
        records = records.subspan(static_cast<std::size_t>(n));
    }
}

std::shared_ptr<const cloud::RecordSource> SpillWriter::finish(cloud::RecordLayout layout) {
    return std::make_shared<SpilledRecords>(std::exchange(fd_, -1), std::move(layout), count_);
}

}  // namespace pristine::io
