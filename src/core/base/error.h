// The one error type of the program, and the outcome "cancelled", which is not an error.

#pragma once

#include <stdexcept>
#include <string>

namespace pristine {

/// What sort of fault it is; decides the exit status of the command line.
enum class ErrorCode {
    Io,           ///< the system refused: no such file, no space, no permission
    Format,       ///< the content of a file is broken
    Unsupported,  ///< the content is sound, but we cannot handle it yet
    Memory,       ///< it would not fit
    Usage,        ///< the caller asked for something that makes no sense
    Conflict,     ///< the target exists, is locked or has changed meanwhile
    Empty,        ///< the question makes sense; nothing comes of it
};

/// What can be done about it besides reading the sentence; the window offers it as a button.
enum class Remedy {
    None,
    ReadPart,       ///< what is whole of the file can be read: ReadOptions::accept_partial
    ChooseColumns,  ///< a person says what the columns of a text are
    PartOrColumns,  ///< one of the two
};

/// A failure in words for a person. `what()` is one sentence: what happened, where, what can be done.
class Error : public std::runtime_error {
  public:
    /// `where` names the place (file and offset, line, element); may be empty. `advice` says what to do next.
    Error(ErrorCode code, const std::string& happened, const std::string& where = {},
          const std::string& advice = {}, Remedy remedy = Remedy::None)
        : std::runtime_error(sentence(happened, where, advice)),
          code_(code),
          where_(where),
          remedy_(remedy) {}

    ErrorCode code() const { return code_; }
    const std::string& where() const { return where_; }
    Remedy remedy() const { return remedy_; }

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
    Remedy remedy_;
};

/// Thrown at a cancellation point after the user asked to stop. Deliberately no Error: no fallback may
/// swallow it.
class Cancelled : public std::exception {
  public:
    const char* what() const noexcept override { return "cancelled"; }
};

}  // namespace pristine
