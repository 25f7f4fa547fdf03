// Words and numbers of a text, one after the other, with the line for messages.

#pragma once

#include <charconv>
#include <string>
#include <string_view>

#include "core/base/error.h"
#include "core/base/progress.h"

namespace pristine::io {

/// Lines and words of a text in memory, with the place for errors.
class TextScan {
  public:
    /// `progress`, if any, is told how much of the text was read, and may stop it: line() then throws
    /// Cancelled.
    TextScan(std::string_view text, std::string name, Progress* progress = nullptr)
        : text_(text), name_(std::move(name)), progress_(progress) {}

    /// The next line without its end and without blanks round it; false at the end.
    bool line(std::string_view& out) {
        if (at_ >= text_.size()) return false;
        std::size_t end = text_.find_first_of("\r\n", at_);
        if (end == std::string_view::npos) end = text_.size();
        out = text_.substr(at_, end - at_);
        at_ = end;
        if (at_ < text_.size()) at_ += text_.substr(at_, 2) == "\r\n" ? 2 : 1;
        if (++number_ % kTell == 0 && progress_)
            progress_->advance(static_cast<double>(at_) / static_cast<double>(text_.size()));
        while (!out.empty() && (out.front() == ' ' || out.front() == '\t')) out.remove_prefix(1);
        while (!out.empty() && (out.back() == ' ' || out.back() == '\t')) out.remove_suffix(1);
        return true;
    }
    std::string place() const { return name_ + ", line " + std::to_string(number_); }
    [[noreturn]] void fail(const std::string& what) const { throw Error(ErrorCode::Format, what, place()); }

    /// Takes the first word off a line; empty at its end.
    static std::string_view word(std::string_view& line) {
        std::size_t from = 0;
        while (from < line.size() && (line[from] == ' ' || line[from] == '\t')) ++from;
        std::size_t to = from;
        while (to < line.size() && line[to] != ' ' && line[to] != '\t') ++to;
        const std::string_view w = line.substr(from, to - from);
        line.remove_prefix(to);
        return w;
    }
    double number(std::string_view w) const {
        double v = 0;
        if (!w.empty() && w.front() == '+') w.remove_prefix(1);
        const auto r = std::from_chars(w.data(), w.data() + w.size(), v);
        if (r.ec != std::errc() || r.ptr != w.data() + w.size() || w.empty())
            fail("'" + std::string(w.substr(0, 40)) + "' is no number");
        return v;
    }
    std::int64_t whole(std::string_view w) const {
        std::int64_t v = 0;
        const auto r = std::from_chars(w.data(), w.data() + w.size(), v);
        if (r.ec != std::errc() || r.ptr != w.data() + w.size() || w.empty())
            fail("'" + std::string(w.substr(0, 40)) + "' is no whole number");
        return v;
    }

  private:
    static constexpr std::uint64_t kTell = 16'384;
    std::string_view text_;
    std::string name_;
    Progress* progress_;
    std::size_t at_ = 0;
    std::uint64_t number_ = 0;
};

}  // namespace pristine::io
