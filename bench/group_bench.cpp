// SPDX-License-Identifier: MIT
// Groups and summaries against SQLite's GROUP BY on a table in memory; opening and closing groups, edits, and scrolling
// grouped lines against flat ones.
#include <QDateTime>
#include <QImage>
#include <QTest>

#include "bench/measure.h"
#include "bench/memory_jobs.h"
#include "core/design/grouping.h"
#include "core/design/make_design.h"
#include "core/rows/group_stage.h"
#include "core/rows/grouped_lines.h"
#include "core/rules/sort_list.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "grid/api/grid.h"

namespace jollyrow::bench {
namespace {

/// Columns of 40, 200, 12 and 200 000 values.
constexpr const char* kKeys =
    ", (number * 31) % 40 AS yard, (number * 7919) % 200 AS slip, (number * 17) % 12 AS part, (number * 7919) % 200000 "
    "AS client";
constexpr const char* kSummaries = "COUNT(*), SUM(hours), AVG(labour), MIN(parts), MAX(due_on)";

constexpr int kPatience = 900'000;  // ms, for ten million records

/// Two levels and five figures on a window's grid.
bool openGrouped(Grid& grid, const Setting& setting) {
    auto source = openSource(setting.database);
    Design design = designFor(*(*source)->schema({"jobs", "", {}}), {"sqlite", setting.database, "jobs", ""});
    GroupDesign status, month;
    status.key.field = "status";
    month.key.field = "due_on";
    month.by = GroupBy::Month;
    design.groups = {status, month};
    for (const char* column : {"hours", "labour", "parts"}) {
        SummaryDesign sum;
        sum.column = column;
        sum.name = newSummaryName(design, sum);
        design.summaries.push_back(sum);
        sum.show = SummaryShow::Mean;
        sum.onGroups = false;
        sum.name = newSummaryName(design, sum);
        design.summaries.push_back(sum);
    }
    grid.resize(1280, 800);
    if (!grid.open(design, QString::fromStdString(setting.database)).ok()) return false;
    grid.show();
    return QTest::qWaitFor(
        [&] { return !grid.isLoading() && grid.snapshot()->grouped && grid.snapshot()->table->complete; }, kPatience);
}

std::vector<GroupTerm> levelsOf(const Table& table, const char* keys) {
    return groupTermsOf(*parseSortList(keys, table.schema));
}
std::vector<SummarySpec> specsOf(const Table& table, const char* list) {
    return summarySpecsOf(*parseSummaryList(list, table.schema));
}

/// One edit, until its figures are new: of an amount, and of the value that groups.
void benchEdits(const EvaluationInput& records, RankCache& ranks, const Setting& setting,
                std::vector<Figure>& figures) {
    const auto& table = records.table;
    GroupStage stage;
    const GroupInput input{levelsOf(*records.table, "status, part"), specsOf(*records.table, kSummaries), nullptr};
    (void)stage.run(input, records, ranks, Cancel());
    auto edits = std::make_shared<const Edits>();
    std::uint32_t row = 0;
    const auto edited = [&](const char* field, const std::function<Value()>& value) {
        return [&, field, value] {
            row = (row + 7919) % static_cast<std::uint32_t>(table->rows);
            edits = edits->with(static_cast<SourceRow>(row), *table->schema.find(field),
                                {value(), Empty{}, EditState::Saved, {}, {}});
            EvaluationInput now = records;
            now.edits = edits;
            return timed([&] { (void)stage.run(input, now, ranks, Cancel()); });
        };
    };
    int turn = 0;
    figures.push_back(limit("one edit of an amount to its summaries", "at most 5 ms", 5,
                            std::max(3, setting.rounds * 3), edited("hours", [&turn] {
                                return Value(Decimal{1000 + ++turn, 2});
                            })));
    figures.push_back(limit("one edit of the value that groups", "no limit stated", 16, std::max(3, setting.rounds),
                            edited("status", [] { return Value(std::string("Quoted")); })));
}

/// Lines are laid out from the groups, whatever the number of records: a million of them is the most there may be.
void benchOpening(const EvaluationInput& records, const Setting& setting, std::vector<Figure>& figures) {
    const auto made = groupRows(levelsOf(*records.table, "status, client"), {}, nullptr, records, Cancel());
    OpenGroups open;
    open.levels = {true, true};
    const auto lines = std::make_shared<const GroupedLines>((*made)->tree, open, std::vector<bool>{false, true});
    OpenGroups closed;
    closed.levels = {false, false};
    figures.push_back(limit("close all groups", "at most 16 ms at 10 million", 16, setting.rounds * 5,
                            [&] { return timed([&] { GroupedLines(*lines, closed); }); }));
    figures.push_back(limit("open all groups", "at most 16 ms at 10 million", 16, setting.rounds * 5,
                            [&] { return timed([&] { GroupedLines(*lines, open); }); }));
    OpenGroups one = open;
    one.setOpen((*made)->tree->nodes[3], false);
    figures.push_back(limit("close one group", "at most 16 ms at 10 million", 16, setting.rounds * 5,
                            [&] { return timed([&] { GroupedLines(*lines, one); }); }));
}

}  // namespace

std::vector<Figure> benchGroups(const Setting& setting) {
    std::vector<Figure> figures;
    auto source = openSource(setting.database);
    LoadRequest request;
    std::string select = kJobsSelect;
    request.binding.query = select.insert(select.find(" FROM"), kKeys);
    const auto table = *(*source)->load(request, Cancel());
    EvaluationInput records;
    records.table = table;
    const MemoryJobs memory(setting.database, kKeys);
    RankCache ranks;  // the order of a text column is kept between runs, as in the Rowline
    const auto ours = [&](const char* keys) {
        const GroupInput input{levelsOf(*table, keys), specsOf(*table, kSummaries), nullptr};
        return timed([&] {
            GroupStage stage;
            if (!stage.run(input, records, ranks, Cancel())) qFatal("grouping failed");
        });
    };
    const auto theirs = [&](const std::string& keys) {
        return memory.run("SELECT " + keys +
                          ", COUNT(*), SUM(hours), AVG(labour), MIN(parts), MAX(due_on) FROM jobs GROUP BY " + keys +
                          " ORDER BY " + keys);
    };
    figures.push_back(compare(
        "1 level, 5 summaries", "SQLite in memory, GROUP BY", "at most 0.01 (100 times faster)", setting.rounds,
        [&] { return ours("status"); }, [&] { return theirs("status"); }));
    figures.push_back(compare(
        "3 levels of 40, 200 and 12, 5 summaries", "SQLite in memory, GROUP BY of the innermost",
        "at most 0.025 (40 times faster)", setting.rounds, [&] { return ours("yard, slip, part"); },
        [&] { return theirs("yard, slip, part"); }));
    figures.push_back(compare(
        "200 000 groups, 5 summaries", "SQLite in memory, GROUP BY", "at most 0.05 (20 times faster)", setting.rounds,
        [&] { return ours("client"); }, [&] { return theirs("client"); }));

    benchEdits(records, ranks, setting, figures);
    benchOpening(records, setting, figures);
    return figures;
}

std::vector<Figure> benchGroupFrames(const Setting& setting) {
    std::vector<Figure> figures;
    Grid grouped, flat;
    if (!openGrouped(grouped, setting)) qFatal("the grouped grid did not come to its end");
    // An edit as a form's user makes it: until the window has the new figures, saving going on beside.
    const FieldIndex hours = *grouped.session().schema().find("hours");
    std::uint32_t edited = 0;
    std::int64_t value = QDateTime::currentSecsSinceEpoch() % 1000;  // what is there already would be no edit
    figures.push_back(limit(
        "one edit, until the window has its figures", "at most 5 ms at a million", 5, std::max(3, setting.rounds * 3),
        [&] {
            edited = (edited + 7919) % static_cast<std::uint32_t>(setting.rows);
            const auto before = grouped.snapshot()->groups;
            const double ms = timed([&] {
                grouped.session().records().edit(static_cast<SourceRow>(edited), hours, Decimal{1000 + ++value, 2});
                while (grouped.snapshot()->groups == before) QCoreApplication::processEvents();
            });
            (void)QTest::qWaitFor([&] { return grouped.records().unsaved() == 0; }, kPatience);
            return ms;
        }));
    Design plain = grouped.design();
    plain.groups.clear();
    plain.summaries.clear();
    flat.resize(1280, 800);
    (void)flat.open(plain, QString::fromStdString(setting.database));
    flat.show();
    if (!QTest::qWaitFor([&] { return !flat.isLoading(); }, kPatience)) qFatal("the flat grid did not load");
    QImage image(grouped.viewport()->size(), QImage::Format_ARGB32_Premultiplied);
    std::int64_t line = 0;
    const auto frames = [&](Grid& grid) {
        double all = 0;
        for (int i = 0; i < 30; ++i) {
            line = (line + 7919) % grid.lineCount();
            grid.selection().showLine(line);
            all += grid.places().paintOnce(image);
        }
        return all / 30;
    };
    figures.push_back(compare(
        "a frame of grouped lines, scrolled anywhere", "the same records flat", "at most 1.1", setting.rounds,
        [&] { return frames(grouped); }, [&] { return frames(flat); }));
    return figures;
}

}  // namespace jollyrow::bench
