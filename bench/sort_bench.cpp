// SPDX-License-Identifier: MIT
// Sorting through the Rowline against SQLite's ORDER BY on a table in memory, and against a bare vectorised sort of
// packed keys.
#include <hwy/contrib/sort/vqsort.h>
#include <sqlite3.h>

#include <random>

#include "bench/measure.h"
#include "core/rows/rowline.h"
#include "core/sources/source.h"

namespace jollyrow::bench {
namespace {

/// The jobs in an in-memory database; sorting there pays for no file.
class MemoryJobs {
  public:
    explicit MemoryJobs(const std::string& path) {
        sqlite3_open(":memory:", &db_);
        sqlite3_stmt* attach = nullptr;
        sqlite3_prepare_v2(db_, "ATTACH ?1 AS disk", -1, &attach, nullptr);
        sqlite3_bind_text(attach, 1, path.c_str(), -1, SQLITE_TRANSIENT);
        sqlite3_step(attach);
        sqlite3_finalize(attach);
        sqlite3_exec(db_,
                     "CREATE TABLE jobs AS SELECT *, (number * 7919) % 1000003 AS shuffled FROM disk.jobs; DETACH disk",
                     nullptr, nullptr, nullptr);
    }
    ~MemoryJobs() { sqlite3_close(db_); }
    MemoryJobs(const MemoryJobs&) = delete;
    MemoryJobs& operator=(const MemoryJobs&) = delete;

    double sort(const char* orderBy, const char* what = "rowid") {
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(db_, (std::string("SELECT ") + what + " FROM jobs ORDER BY " + orderBy).c_str(), -1,
                           &statement, nullptr);
        return timed([&] {
            std::int64_t sum = 0;
            while (sqlite3_step(statement) == SQLITE_ROW) sum += sqlite3_column_int64(statement, 0);
            volatile std::int64_t sink = sum;
            (void)sink;
            sqlite3_finalize(statement);
        });
    }

  private:
    sqlite3* db_ = nullptr;
};

}  // namespace

std::vector<Figure> benchSorting(const Setting& setting) {
    auto source = openSource(setting.database);
    LoadRequest request;
    request.binding = {"", "SELECT *, (number * 7919) % 1000003 AS shuffled FROM jobs"};
    const auto table = *(*source)->load(request, Cancel());
    const auto field = [&](const char* name) { return *table->schema.find(name); };
    MemoryJobs memory(setting.database);
    // A Rowline of its own each time: nothing kept but, where it says warm, the ranks of text.
    struct SortKey {
        FieldIndex field;
        Direction direction;
        Empties empties;
    };
    const auto inputFor = [&](const std::vector<SortKey>& keys) {
        RowlineInput input;
        input.table = table;
        for (const SortKey& key : keys) {
            SortTerm& term = input.sort.emplace_back();
            term.field = key.field;
            term.direction = key.direction;
            term.empties = key.empties;
        }
        return input;
    };
    const auto cold = [&](const std::vector<SortKey>& keys) {
        return timed([&] {
            Rowline rowline;
            (void)rowline.run(inputFor(keys), Cancel());
        });
    };
    Rowline warmed;
    const auto warm = [&](const std::vector<SortKey>& keys) {
        (void)warmed.run(inputFor({{field("number"), Direction::Descending, Empties::Last}}), Cancel());
        return timed([&] { (void)warmed.run(inputFor(keys), Cancel()); });
    };
    const SortKey byInteger{field("shuffled"), Direction::Ascending, Empties::Last};
    std::vector<std::uint64_t> packed(table->rows), work;
    std::mt19937_64 random(1);
    for (std::size_t i = 0; i < packed.size(); ++i) packed[i] = (random() % 1000003) << 32 | i;
    const auto bare = [&] {
        work = packed;
        return timed([&] { hwy::Sorter()(work.data(), work.size(), hwy::SortAscending()); });
    };
    std::vector<Figure> figures;
    figures.push_back(compare(
        "sort by an integer column", "SQLite in memory, SELECT * ORDER BY", "at most 0.02 (50 times faster)",
        setting.rounds, [&] { return cold({byInteger}); }, [&] { return memory.sort("shuffled", "*"); }));
    figures.push_back(compare(
        "sort by an integer column, row ids only", "SQLite in memory, SELECT rowid ORDER BY",
        "at most 0.02 (50 times faster)", setting.rounds, [&] { return cold({byInteger}); },
        [&] { return memory.sort("shuffled"); }));
    figures.push_back(compare(
        "sort by an integer column, through the Rowline", "a bare vectorised sort of packed keys", "at most 2.5",
        setting.rounds * 3, [&] { return cold({byInteger}); }, bare));
    figures.push_back(compare(
        "sort by text, ranks not yet made", "SQLite ORDER BY in memory, bytes", "", setting.rounds,
        [&] {
            return cold({{field("work"), Direction::Ascending, Empties::Last}});
        },
        [&] { return memory.sort("work"); }));
    const std::vector<SortKey> three = {{field("status"), Direction::Ascending, Empties::Last},
                                        {field("due_on"), Direction::Descending, Empties::Last},
                                        {field("labour"), Direction::Ascending, Empties::Last}};
    figures.push_back(compare(
        "sort by three keys, ranks made", "SQLite ORDER BY in memory", "", setting.rounds, [&] { return warm(three); },
        [&] { return memory.sort("status, due_on DESC NULLS LAST, labour"); }));
    return figures;
}

}  // namespace jollyrow::bench
