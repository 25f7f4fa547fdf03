// What the program did, for whoever helps when something went wrong: files that were opened and written, jobs
// and how long they took, errors. No coordinate and no other value of somebody's data.

#pragma once

#include <filesystem>
#include <string>

namespace pristine::log {

/// Writes to this file from now on, and to three older ones of a mebibyte beside it. The folder is made.
/// Throws Error(Io), and Error(Usage) for a file that is there and no log: it is left as it is. Before it,
/// and without it, nothing is written.
void open(const std::filesystem::path& file);
/// Ends the log; for tests.
void close();
/// Empty: there is no log.
std::filesystem::path file();

/// Thread safe. What looks like a coordinate or a measured value is left out (redacted()).
void info(const std::string& sentence);
/// With how long it took.
void info(const std::string& sentence, double seconds);
void error(const std::string& sentence);

/// Numbers with a decimal mark, and whole ones of five digits and more, become "#".
std::string redacted(const std::string&);

}  // namespace pristine::log
