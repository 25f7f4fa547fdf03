// A thin wrapper of SQLite: the only place that names it. Errors become pristine::Error here.

#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <mutex>
#include <string>
#include <string_view>

struct sqlite3;
struct sqlite3_stmt;

namespace pristine::store {

/// A prepared statement; parameters and columns count from 0. Numbers and text are copied.
class Statement {
  public:
    Statement(sqlite3* db, const char* sql);
    ~Statement();
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;

    Statement& bind(int index, std::int64_t value);
    Statement& bind(int index, std::string_view bytes, bool blob = false);
    /// True while there is a row.
    bool step();
    /// Runs to the end and makes it ready for new parameters.
    void run();
    std::int64_t number(int column) const;
    std::string bytes(int column) const;

  private:
    sqlite3* db_;
    sqlite3_stmt* statement_ = nullptr;
};

/// One connection to a SQLite file. Not thread safe; each thread opens its own.
class Database {
  public:
    enum class Mode { Create, ReadWrite, Read };
    Database(const std::filesystem::path&, Mode);
    ~Database();
    Database(const Database&) = delete;
    Database& operator=(const Database&) = delete;

    void run(const char* sql);
    Statement prepare(const char* sql) { return Statement(db_, sql); }
    const std::filesystem::path& path() const { return path_; }
    /// Held by whoever uses the connection from several threads.
    std::mutex& mutex() { return mutex_; }

  private:
    std::filesystem::path path_;
    sqlite3* db_ = nullptr;
    std::mutex mutex_;
};

}  // namespace pristine::store
