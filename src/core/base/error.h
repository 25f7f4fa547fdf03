// The one error type of the program, and the outcome "cancelled", which is not an error.

#pragma once

#include <stdexcept>
#include <string>

namespace pristine {

/// What sort of fault it is; decides the exit status of the command line and what the window offers.
enum class ErrorCode {
    Io,           ///< the system refused: no such file, no space, no permission
    Format,       ///< the content of a file is broken
    Unsupported,  ///< the content is sound, but we cannot handle it yet
    Memory,       ///< it would not fit
    Usage,        ///< the caller asked for something that makes no sense
    Conflict,     ///< the target exists, is locked or has changed meanwhile
};

/// A failure in words for a person. `what()` is one sentence: what happened, where, what can be done.
class Error : public std::runtime_error {
  public:
    /// `where` names the place (file and offset, line, element); may be empty. `advice` says what to do next.
    Error(ErrorCode code, const std::string& happened, const std::string& where = {},
          const std::string& advice = {})
        : std::runtime_error(sentence(happened, where, advice)), code_(code), where_(where) {}

    ErrorCode code() const { return code_; }
    const std::string& where() const { return where_; }

  private:
    static std::string sentence(const std::string& happened, const std::string& where,
                                const std::string& advice) {
        std::string s = happened;
        if (!where.empty()) s += " (" + where + ")";
        s += ".";
        if (!advice.empty()) s += " " + advice;
        return s;
    }
    ErrorCode code_;
    std::string where_;
};

/// Thrown at a cancellation point after the user asked to stop. Deliberately no Error: no fallback may
/// swallow it.
class Cancelled : public std::exception {
  public:
    const char* what() const noexcept override { return "cancelled"; }
};

}  // namespace pristine
