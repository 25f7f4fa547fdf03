#include "core/io/ptx/line_reader.h"

#include <fmt/format.h>

namespace pristine::io {
namespace {

constexpr std::size_t kBlock = 4u << 20, kLongestLine = 64u << 10;

}  // namespace

bool LineReader::fill() {
    buffer_.erase(0, at_);
    base_ += at_;
    at_ = 0;
    const std::size_t had = buffer_.size();
    buffer_.resize(had + kBlock);
    const std::size_t got =
        file_.read_some(base_ + had, std::as_writable_bytes(std::span(buffer_).subspan(had)));
    buffer_.resize(had + got);
    return got > 0;
}

bool LineReader::next(std::string_view& line) {
    std::size_t end = buffer_.find_first_of("\r\n", at_);
    // A \r at the very end may be half of an end of line.
    while (end == std::string::npos || end + 1 == buffer_.size()) {
        const bool more = fill();
        end = buffer_.find_first_of("\r\n", at_);
        if (!more) break;
    }
    if (end == std::string::npos && at_ == buffer_.size()) return false;
    ++number_;
    const std::size_t stop = end == std::string::npos ? buffer_.size() : end;
    if (stop - at_ > kLongestLine) throw Error(ErrorCode::Format, "A line is too long for numbers", place());
    line = std::string_view(buffer_).substr(at_, stop - at_);
    at_ = stop == buffer_.size()
              ? stop
              : stop +
                    (buffer_[stop] == '\r' && stop + 1 < buffer_.size() && buffer_[stop + 1] == '\n' ? 2 : 1);
    return true;
}

std::string LineReader::place() const {
    return fmt::format("{}, line {}", file_.path().filename().string(), number_);
}

}  // namespace pristine::io
