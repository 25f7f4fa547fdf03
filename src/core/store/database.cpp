#include "core/store/database.h"

#include <sqlite3.h>

#include "core/base/error.h"

namespace pristine::store {
namespace {

[[noreturn]] void fail(sqlite3* db, const std::string& what) {
    const int code = db ? sqlite3_errcode(db) : SQLITE_CANTOPEN;
    const std::string detail = db ? sqlite3_errmsg(db) : "out of memory";
    const char* file = db ? sqlite3_db_filename(db, "main") : nullptr;
    const std::string where = file ? file : "";
    if (code == SQLITE_FULL || code == SQLITE_IOERR)
        throw Error(ErrorCode::Io, what + ": " + detail, where,
                    "Make room on the disk; nothing that was on it is lost.");
    if (code == SQLITE_CORRUPT || code == SQLITE_NOTADB)
        throw Error(ErrorCode::Format, what + ": this is no project file, or it is damaged", where);
    if (code == SQLITE_BUSY || code == SQLITE_LOCKED)
        throw Error(ErrorCode::Conflict, what + ": another program has it open", where,
                    "Close it there first.");
    throw Error(ErrorCode::Io, what + ": " + detail, where);
}

}  // namespace

Statement::Statement(sqlite3* db, const char* sql) : db_(db) {
    if (sqlite3_prepare_v2(db, sql, -1, &statement_, nullptr) != SQLITE_OK)
        fail(db, "The project file does not answer");
}

Statement::~Statement() {
    sqlite3_finalize(statement_);
}

Statement& Statement::bind(int index, std::int64_t value) {
    if (sqlite3_bind_int64(statement_, index + 1, value) != SQLITE_OK)
        fail(db_, "The project file does not answer");
    return *this;
}

Statement& Statement::bind(int index, std::string_view bytes, bool blob) {
    const int rc =
        blob ? sqlite3_bind_blob64(statement_, index + 1, bytes.data(), bytes.size(), SQLITE_TRANSIENT)
             : sqlite3_bind_text64(statement_, index + 1, bytes.data(), bytes.size(), SQLITE_TRANSIENT,
                                   SQLITE_UTF8);
    if (rc != SQLITE_OK) fail(db_, "The project file does not take the data");
    return *this;
}

bool Statement::step() {
    const int rc = sqlite3_step(statement_);
    if (rc == SQLITE_ROW) return true;
    if (rc == SQLITE_DONE) return false;
    fail(db_, "The project file could not be read or written");
}

void Statement::run() {
    while (step()) {
    }
    sqlite3_reset(statement_);
}

std::int64_t Statement::number(int column) const {
    return sqlite3_column_int64(statement_, column);
}

std::string Statement::bytes(int column) const {
    const void* data = sqlite3_column_blob(statement_, column);
    const int n = sqlite3_column_bytes(statement_, column);
    return data ? std::string(static_cast<const char*>(data), static_cast<std::size_t>(n)) : std::string();
}

Database::Database(const std::filesystem::path& path, Mode mode) : path_(path) {
    const int flags = mode == Mode::Create      ? SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE
                      : mode == Mode::ReadWrite ? SQLITE_OPEN_READWRITE
                                                : SQLITE_OPEN_READONLY;
    if (sqlite3_open_v2(path.c_str(), &db_, flags | SQLITE_OPEN_NOMUTEX, nullptr) != SQLITE_OK) {
        try {
            fail(db_, "The project file could not be opened");
        } catch (...) {
            sqlite3_close_v2(db_);
            throw;
        }
    }
    sqlite3_busy_timeout(db_, 5000);
    // The file may come from anywhere: it is data, not a program.
    sqlite3_db_config(db_, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    sqlite3_db_config(db_, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
    sqlite3_db_config(db_, SQLITE_DBCONFIG_ENABLE_VIEW, 0, nullptr);
    sqlite3_db_config(db_, SQLITE_DBCONFIG_ENABLE_TRIGGER, 0, nullptr);
}

Database::~Database() {
    sqlite3_close_v2(db_);
}

void Database::run(const char* sql) {
    if (sqlite3_exec(db_, sql, nullptr, nullptr, nullptr) != SQLITE_OK)
        fail(db_, "The project file could not be written");
}

}  // namespace pristine::store
