// Lines of a text file, one after the other, with their numbers.

#pragma once

#include <array>
#include <charconv>
#include <string>
#include <string_view>

#include "core/base/file.h"

namespace pristine::io {

/// Lines of a file, however large it is.
class LineReader {
  public:
    explicit LineReader(const InputFile& file) : file_(file) {}
    /// The next line without its end (\n, \r\n or \r); false at the end of the file. The view lasts until the
    /// next call. Throws Error(Format) for a line of more than 64 KiB.
    bool next(std::string_view& line);
    std::uint64_t number() const { return number_; }
    std::uint64_t offset() const { return base_ + at_; }
    /// "name, line 12".
    std::string place() const;

  private:
    bool fill();
    const InputFile& file_;
    std::string buffer_;
    std::size_t at_ = 0;
    std::uint64_t base_ = 0, number_ = 0;
};

/// Up to N numbers of a line, separated by blanks or tabs; how many there were (more than N: N + 1). -1 when
/// something is no number.
template <std::size_t N>
int numbers_of(std::string_view line, std::array<double, N>& out) {
    const char *p = line.data(), *end = p + line.size();
    std::size_t n = 0;
    for (;;) {
        while (p != end && (*p == ' ' || *p == '\t')) ++p;
        if (p == end) return static_cast<int>(n);
        if (n == N) return static_cast<int>(N) + 1;
        if (*p == '+') ++p;
        const auto r = std::from_chars(p, end, out[n]);
        if (r.ec != std::errc() || (r.ptr != end && *r.ptr != ' ' && *r.ptr != '\t')) return -1;
        p = r.ptr;
        ++n;
    }
}

}  // namespace pristine::io
