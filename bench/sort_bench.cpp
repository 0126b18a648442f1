// SPDX-License-Identifier: MIT
// Sorting through the Rowline against SQLite's ORDER BY on a table in memory, and against a bare vectorised sort of
// packed keys.
#include <hwy/contrib/sort/vqsort.h>
#include <malloc.h>
#include <unistd.h>

#include <fstream>
#include <random>

#include "bench/measure.h"
#include "bench/memory_jobs.h"
#include "core/rows/rowline.h"
#include "core/sources/source.h"

namespace jollyrow::bench {
namespace {

/// Resident memory of this process in bytes, from the kernel.
double residentBytes() {
    malloc_trim(0);
    std::ifstream statm("/proc/self/statm");
    double all = 0, resident = 0;
    statm >> all >> resident;
    return resident * static_cast<double>(sysconf(_SC_PAGESIZE));
}

struct SortKey {
    FieldIndex field;
    Direction direction;
    Empties empties;
};

RowlineInput inputFor(const std::shared_ptr<const Table>& table, const std::vector<SortKey>& keys) {
    RowlineInput input;
    input.table = table;
    for (const SortKey& key : keys) {
        SortTerm& term = input.sort.emplace_back();
        term.field = key.field;
        term.direction = key.direction;
        term.empties = key.empties;
    }
    return input;
}

std::vector<SortKey> threeKeys(const Table& table) {
    const auto field = [&](const char* name) { return *table.schema.find(name); };
    return {{field("status"), Direction::Ascending, Empties::Last},
            {field("due_on"), Direction::Descending, Empties::Last},
            {field("labour"), Direction::Ascending, Empties::Last}};
}

Figure memoryOfView(const std::shared_ptr<const Table>& table) {
    const double before = residentBytes();
    Rowline rowline;
    RowlineInput input = inputFor(table, threeKeys(*table));
    BindOptions condition;
    condition.expected = RuleKind::Boolean;
    input.filter.push_back({"hours > 1", *compileRule("hours > 1", table->schema, {}, condition)});
    const auto shown = rowline.run(input, Cancel());
    const double each = (residentBytes() - before) / static_cast<double>(table->rows);
    return {"memory of a filtered, sorted view (bytes a row)",
            each / 12,
            each,
            12,
            "the limit",
            "12 bytes above the table"};
}

}  // namespace

std::vector<Figure> benchSorting(const Setting& setting) {
    auto source = openSource(setting.database);
    LoadRequest request;
    request.binding.query = kJobsSelect;
    const auto table = *(*source)->load(request, Cancel());
    const auto field = [&](const char* name) { return *table->schema.find(name); };
    const MemoryJobs memory(setting.database);
    // A Rowline of its own each time: nothing kept but, where it says warm, the ranks of text.
    const auto cold = [&](const std::vector<SortKey>& keys) {
        return timed([&] {
            Rowline rowline;
            (void)rowline.run(inputFor(table, keys), Cancel());
        });
    };
    Rowline warmed;
    const auto warm = [&](const std::vector<SortKey>& keys) {
        (void)warmed.run(inputFor(table, {{field("number"), Direction::Descending, Empties::Last}}), Cancel());
        return timed([&] { (void)warmed.run(inputFor(table, keys), Cancel()); });
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
    const std::vector<SortKey> customer = {{field("customer"), Direction::Ascending, Empties::Last}};
    const std::vector<SortKey> remark = {{field("remark"), Direction::Ascending, Empties::Last}};
    figures.push_back(compare(
        "sort by text of 183 000 values, cold", "SQLite ORDER BY in memory, bytes", "at most 0.17 (6 times faster)",
        setting.rounds, [&] { return cold(customer); }, [&] { return memory.sort("customer"); }));
    figures.push_back(compare(
        "sort by text of 183 000 values, ranks made", "SQLite ORDER BY in memory, bytes",
        "at most 0.02 (50 times faster)", setting.rounds, [&] { return warm(customer); },
        [&] { return memory.sort("customer"); }));
    figures.push_back(compare(
        "sort by text, a value a record, cold", "SQLite ORDER BY in memory, bytes", "on a worker",
        std::max(1, setting.rounds / 2), [&] { return cold(remark); }, [&] { return memory.sort("remark"); }));
    const std::vector<SortKey> three = threeKeys(*table);
    figures.push_back(compare(
        "sort by three keys, ranks made", "SQLite ORDER BY in memory", "at most 0.017 (60 times faster)",
        setting.rounds, [&] { return warm(three); },
        [&] { return memory.sort("status, due_on DESC NULLS LAST, labour"); }));
    figures.push_back(memoryOfView(table));
    return figures;
}

}  // namespace jollyrow::bench
