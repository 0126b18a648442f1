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

/// Rules on the jobs of the database, against others that answer the same.
class RulesBench {
  public:
    explicit RulesBench(const Setting& setting) : setting_(setting), table_(jobs(setting)), memory_(setting.database) {}

    std::vector<Figure> run() {
        filters();
        expressions();
        functions();
        windows();
        pickList();
        editedRecord();
        keystroke();
        return std::move(figures_);
    }

  private:
    static std::shared_ptr<const Table> jobs(const Setting& setting) {
        auto source = openSource(setting.database);
        LoadRequest request;
        request.binding.query = kJobsSelect;
        return *(*source)->load(request, Cancel());
    }
    std::shared_ptr<const Program> program(const std::string& rule) const {
        const auto made = compileRule(rule, table_->schema);
        if (!made) std::fprintf(stderr, "%s: %s\n", rule.c_str(), made.error().message.c_str());
        return *made;
    }
    RowlineInput inputFor(const std::vector<std::string>& rules) const {
        RowlineInput input;
        input.table = table_;
        for (const std::string& rule : rules) input.filter.push_back({rule, program(rule)});
        return input;
    }
    auto filterCold(const std::string& rule) const {
        return [input = inputFor({rule})] {
            return timed([&] {
                Rowline rowline;
                (void)rowline.run(input, Cancel());
            });
        };
    }
    void filters() {
        figures_.push_back(compare("filter: hours > x AND status IN (…)", "SQLite in memory, SELECT rowid WHERE",
                                   "at most 0.025 (40 times faster)", setting_.rounds,
                                   filterCold("hours > 6 AND status IN ('Booked', 'In hand')"),
                                   [&] { return memory_.rowsWhere("hours > 6 AND status IN ('Booked', 'In hand')"); }));
        {
            // As while one types: the folded texts are kept, the pattern is another one each time.
            Rowline typed;
            int turn = 0;
            const std::vector<std::string> parts = {"otter", "wag", "pip", "molly", "jane", "due 1"};
            (void)typed.run(inputFor({"LOWER(customer) LIKE '%x%'"}), Cancel());
            figures_.push_back(compare(
                "filter: text contains, any case, 183 000 texts", "SQLite in memory, LIKE '%…%'",
                "at most 0.033 (30 times faster)", setting_.rounds,
                [&] {
                    const RowlineInput input = inputFor(
                        {"LOWER(customer) LIKE '%" + parts[static_cast<std::size_t>(turn++) % parts.size()] + "%'"});
                    return timed([&] { (void)typed.run(input, Cancel()); });
                },
                [&] { return memory_.rowsWhere("customer LIKE '%otter%'"); }));
        }
        figures_.push_back(compare("filter: text contains, first time (folding)", "SQLite in memory, LIKE '%…%'", "",
                                   setting_.rounds, filterCold("LOWER(customer) LIKE '%otter%'"),
                                   [&] { return memory_.rowsWhere("customer LIKE '%otter%'"); }));
    }

    /// A rule on all records, on one thread.
    auto evaluated(const std::string& rule) const {
        EvaluationInput input;
        input.table = table_;
        const auto evaluation = *Evaluation::prepare(program(rule), input, Cancel());
        return [evaluation, rows = table_->rows] {
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
    }
    std::vector<std::int64_t> valuesOf(const char* field) const {
        return plainValues(*table_->column(*table_->schema.find(field)));
    }
    /// Against loops over the same values.
    void expressions() {
        const auto hours = valuesOf("hours"), labour = valuesOf("labour"), due = valuesOf("due_on");
        std::vector<std::int64_t> out(table_->rows);
        const auto loop = [&](auto f) {
            return [&, f] {
                return timed([&] {
                    for (std::size_t i = 0; i < out.size(); ++i) out[i] = f(i);
                    volatile std::int64_t sink = out[out.size() / 2];
                    (void)sink;
                });
            };
        };
        figures_.push_back(compare("expression: labour + parts, decimals", "a hand-written loop", "at most 3",
                                   setting_.rounds, evaluated("labour + labour"),
                                   loop([&](std::size_t i) { return labour[i] + labour[i]; })));
        figures_.push_back(compare("expression: labour > hours", "a hand-written loop", "at most 3", setting_.rounds,
                                   evaluated("labour > hours"), loop([&](std::size_t i) {
                                       return static_cast<std::int64_t>(labour[i] > hours[i]);
                                   })));
        figures_.push_back(compare("expression: CASE over two columns", "a hand-written loop", "at most 3",
                                   setting_.rounds, evaluated("CASE WHEN labour > 100 THEN labour ELSE parts END"),
                                   loop([&](std::size_t i) { return labour[i] > 10000 ? labour[i] : hours[i]; })));
        figures_.push_back(compare("expression: EXTRACT(MONTH FROM due_on)", "a hand-written loop", "at most 3",
                                   setting_.rounds, evaluated("EXTRACT(MONTH FROM due_on)"), loop([&](std::size_t i) {
                                       const auto shifted = static_cast<std::int32_t>(due[i]) + 719468;
                                       const std::int32_t era = shifted / 146097, day = shifted - era * 146097;
                                       const std::int32_t year = (day - day / 1460 + day / 36524 - day / 146096) / 365;
                                       const std::int32_t month =
                                           (5 * (day - (365 * year + year / 4 - year / 100)) + 2) / 153;
                                       return static_cast<std::int64_t>(month + (month < 10 ? 3 : -9));
                                   })));
    }

    /// A rule on all records with what is made ready for it, on one thread.
    auto fromScratch(const std::string& rule) const {
        return [this, ready = program(rule)] {
            return timed([&] {
                EvaluationInput input;
                input.table = table_;
                Runner runner(*Evaluation::prepare(ready, input, Cancel()));
                for (std::size_t begin = 0; begin < table_->rows; begin += kBatch)
                    (void)runner.run(begin, std::min(kBatch, table_->rows - begin));
            });
        };
    }

    /// Functions of texts against loops that do the same by hand.
    void functions() {
        const Column& customer = *table_->column(*table_->schema.find("customer"));
        std::vector<std::string> texts(table_->rows);
        for (std::size_t i = 0; i < texts.size(); ++i)
            if (const Value value = customer.value(static_cast<SourceRow>(i));
                const auto* text = std::get_if<std::string>(&value))
                texts[i] = *text;
        const auto loop = [&](auto f) {
            return [&, f] {
                return timed([&] {
                    std::size_t sum = 0;
                    for (const std::string& text : texts) sum += f(text);
                    volatile std::size_t sink = sum;
                    (void)sink;
                });
            };
        };
        figures_.push_back(compare("function: LEFT(customer, 5)", "a hand-written loop", "at most 3", setting_.rounds,
                                   fromScratch("LEFT(customer, 5)"),
                                   loop([](const std::string& text) { return text.substr(0, 5).size(); })));
        figures_.push_back(compare("function: REPLACE(customer, 'a', 'o')", "a hand-written loop", "at most 3",
                                   setting_.rounds, fromScratch("REPLACE(customer, 'a', 'o')"),
                                   loop([](std::string text) {
                                       std::replace(text.begin(), text.end(), 'a', 'o');
                                       return text.size();
                                   })));
        const auto numbers = valuesOf("number");
        figures_.push_back(compare("function: number & 4 <> 0", "a hand-written loop", "at most 3", setting_.rounds,
                                   evaluated("number & 4 <> 0"), [&] {
                                       return timed([&] {
                                           std::size_t found = 0;
                                           for (const std::int64_t number : numbers) found += (number & 4) != 0;
                                           volatile std::size_t sink = found;
                                           (void)sink;
                                       });
                                   }));
    }

    /// Windows over all records in a hundred partitions, the values read once.
    void windows() {
        const std::string over = "OVER (PARTITION BY number % 100 ORDER BY labour, number";
        const std::pair<const char*, std::string> calls[] = {
            {"RANK() by labour, number", "RANK() " + over + ")"},
            {"SUM(hours), running", "SUM(hours) " + over + ")"},
            {"LAG(labour)", "LAG(labour) " + over + ")"},
            {"SUM(labour), 5 records before and behind",
             "SUM(labour) " + over + " ROWS BETWEEN 5 PRECEDING AND 5 FOLLOWING)"},
            {"MAX(labour), 5 records before and behind",
             "MAX(labour) " + over + " ROWS BETWEEN 5 PRECEDING AND 5 FOLLOWING)"}};
        for (const auto& [name, call] : calls)
            figures_.push_back(
                compare(std::string("window: ") + name, "SQLite in memory", "at most 0.1 (10 times faster)",
                        std::min(setting_.rounds, 3), fromScratch(call),
                        [this, select = call] { return memory_.run("SELECT " + select + " FROM jobs"); }));
    }

    void pickList() {
        Rowline picked;
        const RowlineInput input = inputFor({});
        const FieldIndex customer = *table_->schema.find("customer");
        (void)picked.pickList(input, customer, std::nullopt, {}, Cancel());
        figures_.push_back(limit("pick list of 183 000 values, ranks made", "50 ms", 50, setting_.rounds, [&] {
            return timed([&] { (void)picked.pickList(input, customer, std::nullopt, {}, Cancel()); });
        }));
    }

    void editedRecord() {
        // One edited record in a sorted, filtered view.
        Rowline kept;
        RowlineInput input = inputFor({"hours > 2"});
        input.sort.emplace_back().field = table_->schema.find("labour");
        input.edits = std::make_shared<const Edits>();
        (void)kept.run(input, Cancel());
        std::mt19937 random(5);
        figures_.push_back(limit("one edited record put back in its place", "5 ms", 5, setting_.rounds * 3, [&] {
            input.edits =
                Edits().with(static_cast<SourceRow>(random() % table_->rows), *table_->schema.find("labour"),
                             {Decimal{static_cast<std::int64_t>(random() % 100000), 2}, Empty{}, EditState::Saved, {}});
            return timed([&] { (void)kept.run(input, Cancel()); });
        }));
    }

    void keystroke() {
        // A keystroke in the filter row to the repaint, in a window, sorted by text.
        Grid grid;
        Design design = demo::yardJobsDesign(setting_.database);
        design.grid.filterRow = true;
        design.sort = {{"work", Direction::Ascending, Empties::Last}};
        grid.resize(1280, 800);
        if (grid.open(design, QString::fromStdString(setting_.database)).ok()) {
            grid.show();
            (void)QTest::qWaitFor([&] { return !grid.isLoading() && grid.lineCount() == setting_.rows; }, 60000);
            (void)grid.filters().focus("hours");
            QLineEdit* entry = grid.findChild<FilterRow*>()->entry();
            int turn = 0;
            figures_.push_back(
                limit("a keystroke in the filter row, sorted, to the repaint", "16 ms", 16, setting_.rounds * 3, [&] {
                    const std::int64_t before = grid.lineCount();
                    const QString text = QStringLiteral("> %1").arg(1 + turn++ % 12);
                    QImage image(1280, 800, QImage::Format_RGB32);
                    return timed([&] {
                        entry->setText(text);
                        Q_EMIT entry->textEdited(text);
                        for (int spins = 0; grid.lineCount() == before && spins < 2'000'000; ++spins)
                            QCoreApplication::processEvents();
                        (void)grid.places().paintOnce(image);
                    });
                }));
        }
    }

    const Setting& setting_;
    std::shared_ptr<const Table> table_;
    MemoryJobs memory_;
    std::vector<Figure> figures_;
};

}  // namespace

std::vector<Figure> benchRules(const Setting& setting) { return RulesBench(setting).run(); }

}  // namespace jollyrow::bench
