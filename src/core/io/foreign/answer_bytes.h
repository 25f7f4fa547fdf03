// Numbers and texts as bytes, between pristine-reader and who called it.

#pragma once

#include <string>

#include "core/base/bytes.h"
#include "core/base/error.h"

namespace pristine::io {

/// Its length, 64 bits, and its bytes.
inline void append_text(std::string& out, const std::string& text) {
    append_le(out, static_cast<std::uint64_t>(text.size()));
    out += text;
}

/// Takes them apart in the order in which they were put together. Throws Error(Format) at the end of the
/// bytes.
class AnswerBytes {
  public:
    explicit AnswerBytes(const std::string& s) : s_(s) {}
    template <class T>
    T number() {
        need(sizeof(T));
        const T v = load_le<T>(s_.data() + at_);
        at_ += sizeof(T);
        return v;
    }
    std::string text() { return bytes(number<std::uint64_t>()); }
    std::string bytes(std::uint64_t n) {
        need(n);
        at_ += n;
        return s_.substr(at_ - n, n);
    }
    /// How many things follow, each of one byte at least.
    std::uint64_t count() {
        const auto n = number<std::uint64_t>();
        need(n);
        return n;
    }
    void need(std::uint64_t n) const {
        if (n > s_.size() - at_) throw Error(ErrorCode::Format, "A reader broke off in its answer");
    }
    bool at_end() const { return at_ == s_.size(); }

  private:
    const std::string& s_;
    std::size_t at_ = 0;
};

}  // namespace pristine::io
