// SPDX-License-Identifier: MIT
// Filtering, expressions, pick lists and re-placing an edited record: against SQLite on a table in memory, against
// hand-written loops over the same columns, and against fixed limits.
#include <QCoreApplication>
#include <QImage>
#include <QLineEdit>
#include <QTest>

#include <random>

#include "bench/measure.h"
#include "bench/memory_jobs.h"
#include "core/columns/column_builder.h"
#include "core/rows/computed_column.h"
#include "core/rows/rowline.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "grid/filter/filter_row.h"

namespace jollyrow::bench {
namespace {

/// The span of 64-bit values behind an integral column, widened once, outside of what is timed.
std::vector<std::int64_t> plainValues(const Column& column) {
    std::vector<std::int64_t> out(column.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = column.isEmpty(static_cast<SourceRow>(i)) ? 0 : column.integer(static_cast<SourceRow>(i));
    return out;
}

}  // namespace

std::vector<Figure> benchRules(const Setting& setting) {
    auto source = openSource(setting.database);
    LoadRequest request;
    request.binding.query = kJobsSelect;
    const auto table = *(*source)->load(request, Cancel());
    const MemoryJobs memory(setting.database);
    const auto program = [&](const std::string& rule) {
        const auto made = compileRule(rule, table->schema);
        if (!made) std::fprintf(stderr, "%s: %s\n", rule.c_str(), made.error().message.c_str());
        return *made;
    };
    const auto inputFor = [&](const std::vector<std::string>& rules) {
        RowlineInput input;
        input.table = table;
        for (const std::string& rule : rules) input.filter.push_back({rule, program(rule)});
        return input;
    };
    const auto filterCold = [&](const std::string& rule) {
        const RowlineInput input = inputFor({rule});
        return [input] {
            return timed([&] {
                Rowline rowline;
                (void)rowline.run(input, Cancel());
            });
        };
    };
    std::vector<Figure> figures;
    figures.push_back(compare("filter: hours > x AND status IN (…)", "SQLite in memory, SELECT rowid WHERE",
                              "at most 0.025 (40 times faster)", setting.rounds,
                              filterCold("hours > 6 AND status IN ('Booked', 'In hand')"),
                              [&] { return memory.rowsWhere("hours > 6 AND status IN ('Booked', 'In hand')"); }));
    {
        // As while one types: the folded texts are kept, the pattern is another one each time.
        Rowline typed;
        int turn = 0;
        const std::vector<std::string> parts = {"otter", "wag", "pip", "molly", "jane", "due 1"};
        (void)typed.run(inputFor({"LOWER(customer) LIKE '%x%'"}), Cancel());
        figures.push_back(compare(
            "filter: text contains, any case, 183 000 texts", "SQLite in memory, LIKE '%…%'",
            "at most 0.033 (30 times faster)", setting.rounds,
            [&] {
                const RowlineInput input = inputFor(
                    {"LOWER(customer) LIKE '%" + parts[static_cast<std::size_t>(turn++) % parts.size()] + "%'"});
                return timed([&] { (void)typed.run(input, Cancel()); });
            },
            [&] { return memory.rowsWhere("customer LIKE '%otter%'"); }));
    }
    figures.push_back(compare("filter: text contains, first time (folding)", "SQLite in memory, LIKE '%…%'", "",
                              setting.rounds, filterCold("LOWER(customer) LIKE '%otter%'"),
                              [&] { return memory.rowsWhere("customer LIKE '%otter%'"); }));

    // Expressions, single-threaded, against loops over the same values.
    const auto hours = plainValues(*table->column(*table->schema.find("hours")));
    const auto labour = plainValues(*table->column(*table->schema.find("labour")));
    const auto due = plainValues(*table->column(*table->schema.find("due_on")));
    std::vector<std::int64_t> out(table->rows);
    const auto evaluated = [&](const std::string& rule) {
        const auto compiled = program(rule);
        EvaluationInput input;
        input.table = table;
        const auto evaluation = *Evaluation::prepare(compiled, input, Cancel());
        return [evaluation, rows = table->rows] {
            return timed([&] {
                Runner runner(evaluation);
                std::int64_t sum = 0;
                for (std::size_t begin = 0; begin < rows; begin += kBatch) {
                    const Vector& v = runner.run(begin, std::min(kBatch, rows - begin));
                    sum += v.integers ? v.integers[0] : v.booleans ? v.booleans[0] : 0;
                }
                volatile std::int64_t sink = sum;
                (void)sink;
            });
        };
    };
    const auto loop = [&](auto f) {
        return [&, f] {
            return timed([&] {
                for (std::size_t i = 0; i < out.size(); ++i) out[i] = f(i);
                volatile std::int64_t sink = out[out.size() / 2];
                (void)sink;
            });
        };
    };
    figures.push_back(compare("expression: labour + parts, decimals", "a hand-written loop", "at most 3",
                              setting.rounds, evaluated("labour + labour"),
                              loop([&](std::size_t i) { return labour[i] + labour[i]; })));
    figures.push_back(compare("expression: labour > hours", "a hand-written loop", "at most 3", setting.rounds,
                              evaluated("labour > hours"),
                              loop([&](std::size_t i) { return static_cast<std::int64_t>(labour[i] > hours[i]); })));
    figures.push_back(compare("expression: CASE over two columns", "a hand-written loop", "at most 3", setting.rounds,
                              evaluated("CASE WHEN labour > 100 THEN labour ELSE parts END"),
                              loop([&](std::size_t i) { return labour[i] > 10000 ? labour[i] : hours[i]; })));
    figures.push_back(compare("expression: EXTRACT(MONTH FROM due_on)", "a hand-written loop", "at most 3",
                              setting.rounds, evaluated("EXTRACT(MONTH FROM due_on)"), loop([&](std::size_t i) {
                                  const auto shifted = static_cast<std::int32_t>(due[i]) + 719468;
                                  const std::int32_t era = shifted / 146097, day = shifted - era * 146097;
                                  const std::int32_t year = (day - day / 1460 + day / 36524 - day / 146096) / 365;
                                  const std::int32_t month =
                                      (5 * (day - (365 * year + year / 4 - year / 100)) + 2) / 153;
                                  return static_cast<std::int64_t>(month + (month < 10 ? 3 : -9));
                              })));
    {
        Rowline picked;
        const RowlineInput input = inputFor({});
        const FieldIndex customer = *table->schema.find("customer");
        (void)picked.pickList(input, customer, std::nullopt, {}, Cancel());
        figures.push_back(limit("pick list of 183 000 values, ranks made", "50 ms", 50, setting.rounds, [&] {
            return timed([&] { (void)picked.pickList(input, customer, std::nullopt, {}, Cancel()); });
        }));
    }
    {
        // One edited record in a sorted, filtered view.
        Rowline kept;
        RowlineInput input = inputFor({"hours > 2"});
        input.sort.emplace_back().field = table->schema.find("labour");
        input.edits = std::make_shared<const Edits>();
        (void)kept.run(input, Cancel());
        std::mt19937 random(5);
        figures.push_back(limit("one edited record put back in its place", "5 ms", 5, setting.rounds * 3, [&] {
            input.edits =
                Edits().with(static_cast<SourceRow>(random() % table->rows), *table->schema.find("labour"),
                             {Decimal{static_cast<std::int64_t>(random() % 100000), 2}, Empty{}, EditState::Saved, {}});
            return timed([&] { (void)kept.run(input, Cancel()); });
        }));
    }
    {
        // A keystroke in the filter row to the repaint, in a window, sorted by text.
        Grid grid;
        Design design = demo::yardJobsDesign(setting.database);
        design.grid.filterRow = true;
        design.sort = {{"work", Direction::Ascending, Empties::Last}};
        grid.resize(1280, 800);
        if (grid.open(design, QString::fromStdString(setting.database)).ok()) {
            grid.show();
            (void)QTest::qWaitFor([&] { return !grid.isLoading() && grid.lineCount() == setting.rows; }, 60000);
            (void)grid.focusFilter("hours");
            QLineEdit* entry = grid.findChild<FilterRow*>()->entry();
            int turn = 0;
            figures.push_back(
                limit("a keystroke in the filter row, sorted, to the repaint", "16 ms", 16, setting.rounds * 3, [&] {
                    const std::int64_t before = grid.lineCount();
                    const QString text = QStringLiteral("> %1").arg(1 + turn++ % 12);
                    QImage image(1280, 800, QImage::Format_RGB32);
                    return timed([&] {
                        entry->setText(text);
                        Q_EMIT entry->textEdited(text);
                        for (int spins = 0; grid.lineCount() == before && spins < 2'000'000; ++spins)
                            QCoreApplication::processEvents();
                        (void)grid.paintOnce(image);
                    });
                }));
        }
    }
    return figures;
}

}  // namespace jollyrow::bench
