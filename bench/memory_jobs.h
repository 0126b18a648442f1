// SPDX-License-Identifier: MIT
#pragma once
// The jobs in an SQLite database in memory, for the baselines: nothing there pays for a file. With a shuffled integer,
// a text of 183 000 values and one of a value a record, which the boatyard does not have by itself.

#include <string>

struct sqlite3;

namespace jollyrow::bench {

/// The same columns for our own side, as a SELECT on the boatyard.
extern const char* const kJobsSelect;

class MemoryJobs final {
  public:
    /// `more`: further columns, each with a comma before it.
    explicit MemoryJobs(const std::string& path, const std::string& more = {});
    ~MemoryJobs();
    MemoryJobs(const MemoryJobs&) = delete;
    MemoryJobs& operator=(const MemoryJobs&) = delete;
    /// Milliseconds to step through all rows of "SELECT … FROM jobs …".
    double run(const std::string& select) const;
    double sort(const std::string& orderBy, const std::string& what = "rowid") const {
        return run("SELECT " + what + " FROM jobs ORDER BY " + orderBy);
    }
    double rowsWhere(const std::string& where) const { return run("SELECT rowid FROM jobs WHERE " + where); }

  private:
    sqlite3* db_ = nullptr;
};

}  // namespace jollyrow::bench
