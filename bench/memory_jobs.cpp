// SPDX-License-Identifier: MIT
#include "bench/memory_jobs.h"

#include <sqlite3.h>

#include "bench/measure.h"

namespace jollyrow::bench {

#define JOB_COLUMNS                                                                                                    \
    "*, (number * 7919) % 1000003 AS shuffled, CASE number % 5 WHEN 0 THEN 'Otter''s Due ' WHEN 1 THEN 'Grey Wagtail " \
    "' WHEN 2 THEN 'Brisk Molly ' WHEN 3 THEN 'Second Wind ' ELSE 'Årsund ' END || ((number * 31) % 183000) AS "      \
    "customer, 'note ' || ((number * 7919) % 1000003) AS remark"

const char* const kJobsSelect = "SELECT " JOB_COLUMNS " FROM jobs";

MemoryJobs::MemoryJobs(const std::string& path, const std::string& more) {
    sqlite3_open(":memory:", &db_);
    sqlite3_stmt* attach = nullptr;
    sqlite3_prepare_v2(db_, "ATTACH ?1 AS disk", -1, &attach, nullptr);
    sqlite3_bind_text(attach, 1, path.c_str(), -1, SQLITE_TRANSIENT);
    sqlite3_step(attach);
    sqlite3_finalize(attach);
    const std::string make = "CREATE TABLE jobs AS SELECT " JOB_COLUMNS + more + " FROM disk.jobs; DETACH disk";
    sqlite3_exec(db_, make.c_str(), nullptr, nullptr, nullptr);
}
MemoryJobs::~MemoryJobs() { sqlite3_close(db_); }

double MemoryJobs::run(const std::string& select) const {
    sqlite3_stmt* statement = nullptr;
    sqlite3_prepare_v2(db_, select.c_str(), -1, &statement, nullptr);
    return timed([&] {
        std::int64_t sum = 0;
        while (sqlite3_step(statement) == SQLITE_ROW) sum += sqlite3_column_int64(statement, 0);
        volatile std::int64_t sink = sum;
        (void)sink;
        sqlite3_finalize(statement);
    });
}

}  // namespace jollyrow::bench
