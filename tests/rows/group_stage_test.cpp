// SPDX-License-Identifier: MIT
// The Group and Summaries stages: what follows an edit equals what is made anew; rules over aggregates, shares and
// running totals equal PostgreSQL's windows; groups by figures, aggregates of the application, too many groups; and
// what stands on each line of a grouped grid.
#include <QtTest>

#include <chrono>
#include <cmath>
#include <numeric>
#include <random>
#include <thread>

#include "core/columns/column_builder.h"
#include "core/rows/computed_column.h"
#include "core/rows/figure_origin.h"
#include "core/rows/group_stage.h"
#include "core/rows/grouped_lines.h"
#include "core/rows/value_spread.h"
#include "core/rules/sort_list.h"
#include "tests/rules/oracle_cells.h"
#include "tests/turns.h"

using namespace jollyrow;

class GroupStageTest : public QObject {
    Q_OBJECT
    static constexpr int kRepeated = 3;
    test::PostgresServer server_;
    std::shared_ptr<const Table> table_;

    EvaluationInput input() const {
        EvaluationInput in;
        in.table = table_;
        return in;
    }
    std::shared_ptr<const GroupedRows> grouped(const std::string& keys, const std::string& summaries,
                                               SummaryMeasure measure = SummaryMeasure::Itself) const {
        const auto levels = parseSortList(keys, table_->schema);
        auto specs = summarySpecsOf(*parseSummaryList(summaries, table_->schema));
        for (SummarySpec& spec : specs) spec.measure = measure;
        const auto made = groupRows(groupTermsOf(*levels), specs, nullptr, input(), Cancel());
        return made ? *made : nullptr;
    }
    /// Compares one figure of a level with the rows of a SELECT in the order of the groups.
    void compare(const GroupedRows& ours, std::size_t summary, int level, const std::string& sql) {
        const auto theirs = server_.query(sql);
        QVERIFY2(theirs.ok, theirs.error.c_str());
        const std::size_t begin = ours.tree->levelBegin[static_cast<std::size_t>(level)];
        QCOMPARE(ours.tree->levelBegin[static_cast<std::size_t>(level) + 1] - begin, theirs.cells.size());
        for (std::size_t n = 0; n < theirs.cells.size(); ++n)
            QVERIFY2(test::agrees(ours.figure(summary, begin + n), false, theirs.cells[n]),
                     fmt::format("{}, group {}: we say {}, PostgreSQL {}", sql, n,
                                 test::described(ours.figure(summary, begin + n)), theirs.cells[n].value_or("(empty)"))
                         .c_str());
    }

  private Q_SLOTS:
    void initTestCase() {
        const std::string failure = server_.start();
        if (!failure.empty()) QFAIL(failure.c_str());
        table_ = test::tableOf(test::hardFields(), kRepeated);
        const std::string filled = test::fillRecords(server_, test::hardFields(), kRepeated);
        QVERIFY2(filled.empty(), filled.c_str());
    }

    void rulesOverAggregatesAgree_data() {
        QTest::addColumn<QString>("rule");
        for (const char* rule :
             {"SUM(d) / COUNT(*)", "MAX(j) - MIN(j)", "COUNT(*) - COUNT(d)", "ROUND(SUM(d * j) / NULLIF(SUM(j), 0), 4)",
              "CASE WHEN COUNT(*) > 3 THEN AVG(e) ELSE MIN(d) END", "MAX(dt) - MIN(dt)",
              "SUM(d) FILTER (WHERE j > 0) + COALESCE(SUM(e) FILTER (WHERE j <= 0), 0)",
              "MIN(s COLLATE \"und-x-icu\") || '!'", "(SUM(e) - SUM(d)) * 2 > 1"})
            QTest::newRow(rule) << rule;
    }
    void rulesOverAggregatesAgree() {
        QFETCH(QString, rule);
        QString own = rule;
        own.remove(QStringLiteral(" COLLATE \"und-x-icu\""));
        const auto ours = grouped("b, MOD(j, 3)", own.toStdString());
        QVERIFY(ours);
        compare(*ours, 0, 0, "SELECT " + rule.toStdString() + " FROM records GROUP BY b ORDER BY b");
        compare(*ours, 0, 1,
                "SELECT " + rule.toStdString() + " FROM records GROUP BY b, mod(j, 3) ORDER BY b, mod(j, 3)");
    }

    void sharesAndRunningTotalsAgree_data() {
        QTest::addColumn<QString>("sum");
        for (const char* sum : {"SUM(e)", "COUNT(*)", "SUM(d) FILTER (WHERE d > 0)"}) QTest::newRow(sum) << sum;
    }
    void sharesAndRunningTotalsAgree() {
        QFETCH(QString, sum);
        const std::string s = sum.toStdString(), from = " FROM records GROUP BY b, dt ORDER BY b, dt";
        // Shares of exact figures are exact quotients.
        const std::string exact = "CAST(" + s + " AS numeric)", all = "SUM(CAST(" + s + " AS numeric))";
        const auto parent = grouped("b, dt", s, SummaryMeasure::ShareOfParent);
        compare(*parent, 0, 1, "SELECT " + exact + " / " + all + " OVER (PARTITION BY b)" + from);
        const auto ofAll = grouped("b, dt", s, SummaryMeasure::ShareOfAll);
        compare(*ofAll, 0, 1, "SELECT " + exact + " / " + all + " OVER ()" + from);
        const auto running = grouped("b, dt", s, SummaryMeasure::RunningTotal);
        compare(*running, 0, 1, "SELECT " + all + " OVER (PARTITION BY b ORDER BY dt)" + from);
        compare(*running, 0, 0, "SELECT " + all + " OVER (ORDER BY b) FROM records GROUP BY b ORDER BY b");
    }

    /// ROLLUP's rows are our groups of every level and the total.
    void rollupAgrees() {
        const auto ours = grouped("b, MOD(j, 3)", "SUM(e), COUNT(DISTINCT s)");
        for (std::size_t k = 0; k < 2; ++k) {
            const auto theirs = server_.query(
                std::string("SELECT ") + (k == 0 ? "SUM(e)" : "COUNT(DISTINCT s)") +
                " FROM records GROUP BY ROLLUP(b, mod(j, 3)) ORDER BY GROUPING(b, mod(j, 3)), b, mod(j, 3)");
            QVERIFY2(theirs.ok, theirs.error.c_str());
            std::vector<EvaluatedCell> cells;
            for (std::uint32_t n = ours->tree->levelBegin[1]; n < ours->tree->levelBegin[2]; ++n)
                cells.push_back(ours->figure(k, n));
            for (std::uint32_t n = 0; n < ours->tree->levelBegin[1]; ++n) cells.push_back(ours->figure(k, n));
            cells.push_back(ours->total(k));
            QCOMPARE(theirs.cells.size(), cells.size());
            for (std::size_t n = 0; n < cells.size(); ++n) QVERIFY(test::agrees(cells[n], false, theirs.cells[n]));
        }
    }

    /// The table as it is read again after somebody else has written: one column has other values, the others are the
    /// same data.
    static std::shared_ptr<const Table> readAgain(const Table& before, FieldIndex field, std::mt19937& random) {
        const Column& column = *before.column(field);
        ColumnBuilder builder(before.schema.field(field));
        ColumnChunk chunk;
        chunk.reset(column.type(), column.scale(), false);
        for (std::size_t row = 0; row < before.rows; ++row) {
            const std::size_t from = random() % 8 == 0 ? random() % before.rows : row;
            addValue(chunk, column.value(static_cast<SourceRow>(from)));
        }
        builder.append(chunk);
        auto after = std::make_shared<Table>(before);
        after->columns[raw(field)] = builder.share();
        return after;
    }

    /// Whatever is edited or read again, what was kept and followed equals what is made anew.
    void edits_data() {
        QTest::addColumn<QString>("keys");
        QTest::addColumn<bool>("shuffled");
        for (const char* keys : {"", "b", "MOD(j, 3), b", "s", "dt, MOD(i, 2)"}) {
            QTest::newRow(keys) << keys << false;
            QTest::addRow("%s, some records, in another order", keys) << keys << true;
        }
    }
    void edits() {
        QFETCH(QString, keys);
        QFETCH(bool, shuffled);
        const auto levels = groupTermsOf(*parseSortList(keys.toStdString(), table_->schema));
        const auto specs = summarySpecsOf(*parseSummaryList(
            "COUNT(*), SUM(d), AVG(e), MIN(j), MAX(d), SUM(j) FILTER (WHERE b), COUNT(DISTINCT s), SUM(d) / COUNT(d), "
            "MIN(s), VAR_SAMP(e), FIRST_VALUE(d), PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY e), BOOL_OR(b), "
            "STRING_AGG(s, u ORDER BY j, dt), CORR(d, j), REGR_COUNT(e, i), MODE() WITHIN GROUP (ORDER BY j), "
            "SUM(DISTINCT j), AVG(DISTINCT d)",
            table_->schema));
        GroupStage stage;
        RankCache ranks;
        EvaluationInput records = input();
        auto edited = std::make_shared<const Edits>();
        std::mt19937 random(17);
        const auto pick = [&](int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); };
        std::shared_ptr<RowOrder> order;
        if (shuffled) {
            order = std::make_shared<RowOrder>();
            for (std::uint32_t row = 0; row < table_->rows; ++row)
                if (row % 4 != 0) order->push_back(row);
            std::shuffle(order->begin(), order->end(), random);
        }
        for (int turn = 0; turn < test::turns(120); ++turn) {
            const auto row = static_cast<SourceRow>(pick(static_cast<int>(table_->rows)));
            const auto set = [&](const char* field, Value value) {
                edited = edited->with(row, *table_->schema.find(field),
                                      {std::move(value), Empty{}, EditState::Saved, {}, {}});
            };
            switch (pick(7)) {
                case 0: set("d", pick(5) == 0 ? Value(Empty{}) : Value(Decimal{pick(200000) - 100000, 2})); break;
                case 1: set("e", Value(Decimal{pick(2000000), 6})); break;
                case 2: set("j", pick(6) == 0 ? Value(Empty{}) : Value(std::int64_t{pick(20) - 10})); break;
                case 3: set("b", pick(3) == 0 ? Value(Empty{}) : Value(pick(2) == 0)); break;
                case 4: set("s", Value(std::string(1, static_cast<char>('a' + pick(5))))); break;
                case 5: set("dt", Value(Date{pick(3) * 400})); break;
                default: set("i", Value(std::int64_t{pick(9)})); break;
            }
            records.edits = edited;
            if (pick(6) == 0) {
                static constexpr const char* kFields[] = {"b", "j", "s", "dt", "i", "d"};
                records.table = readAgain(*records.table, *table_->schema.find(kFields[pick(6)]), random);
                if (pick(2)) records.edits = edited = std::make_shared<const Edits>();
            }
            const auto kept = stage.run({levels, specs, order}, records, ranks, Cancel());
            const auto anew = groupRows(levels, specs, order, records, Cancel());
            QVERIFY2(kept.ok() && anew.ok(), kept ? "" : kept.error().message.c_str());
            const GroupTree &a = *(*kept)->tree, &b = *(*anew)->tree;
            QCOMPARE(a.nodes.size(), b.nodes.size());
            QVERIFY(*a.order == *b.order);
            QVERIFY(a.leafOf == b.leafOf);
            for (std::size_t n = 0; n < a.nodes.size(); ++n) {
                QCOMPARE(a.nodes[n].count, b.nodes[n].count);
                QCOMPARE(a.nodes[n].path, b.nodes[n].path);
            }
            for (std::size_t k = 0; k < specs.size(); ++k)
                for (std::size_t n = 0; n <= a.nodes.size(); ++n) {
                    const EvaluatedCell &x = (*kept)->figure(k, n), &y = (*anew)->figure(k, n);
                    QVERIFY2(test::described(x) == test::described(y),
                             fmt::format("turn {}, {} of node {}: followed {}, anew {}", turn, specs[k].rule.text, n,
                                         test::described(x), test::described(y))
                                 .c_str());
                }
        }
    }

    void groupsStandByAFigure() {
        auto levels = groupTermsOf(*parseSortList("b, MOD(j, 3) DESC", table_->schema));
        levels[0].orderBy = levels[1].orderBy = 1;
        const auto specs = summarySpecsOf(*parseSummaryList("COUNT(*), SUM(j)", table_->schema));
        const auto made = groupRows(levels, specs, nullptr, input(), Cancel());
        QVERIFY(made.ok());
        const GroupTree& tree = *(*made)->tree;
        const auto value = [&](std::uint32_t n) {
            const EvaluatedCell& cell = (*made)->figure(1, n);
            return cell.state == CellState::Filled ? std::optional(std::get<WideDecimal>(cell.value)) : std::nullopt;
        };
        std::vector<bool> seen(table_->rows, false);
        for (std::uint32_t n = 0; n < tree.nodes.size(); ++n) {
            const GroupNode& node = tree.nodes[n];
            for (std::uint32_t child = node.firstChild; child + 1 < node.endChild; ++child)
                if (value(child) && value(child + 1)) QVERIFY(*value(child) >= *value(child + 1));  // downwards
            QCOMPARE(std::get<std::int64_t>((*made)->figure(0, n).value), node.count);
            if (node.level == 1)
                for (std::int64_t at = node.first; at < node.first + node.count; ++at)
                    seen[(*tree.order)[static_cast<std::size_t>(at)]] = true;
        }
        for (std::uint32_t n = 0; n + 1 < tree.levelBegin[1]; ++n)
            if (value(n) && value(n + 1)) QVERIFY(*value(n) <= *value(n + 1));
        QVERIFY(std::find(seen.begin(), seen.end(), false) == seen.end());
    }

    /// The longest text, as an aggregate of the application.
    void aggregatesOfTheApplication() {
        struct Longest final : AggregateState {
            std::string text;
            void add(const RuleValue& value) override {
                if (std::get<std::string>(value).size() > text.size()) text = std::get<std::string>(value);
            }
            void merge(const AggregateState& other) override { add(static_cast<const Longest&>(other).text); }
            Result<RuleValue> finish() const override { return text.empty() ? RuleValue(Empty{}) : RuleValue(text); }
        };
        RuleVocabulary vocabulary;
        vocabulary.aggregates.push_back(std::make_shared<const ExternalAggregate>(
            ExternalAggregate{"longest", RuleKind::Text, RuleKind::Text, [] { return std::make_unique<Longest>(); }}));
        const auto rules = parseSummaryList("longest(s), CHAR_LENGTH(longest(s || 'x'))", table_->schema, vocabulary);
        QVERIFY2(rules.ok(), rules ? "" : rules.error().message.c_str());
        const auto made = groupRows(groupTermsOf(*parseSortList("b", table_->schema)), summarySpecsOf(*rules), nullptr,
                                    input(), Cancel());
        const auto theirs = server_.query("SELECT MAX(OCTET_LENGTH(s)) FROM records GROUP BY b ORDER BY b");
        for (std::size_t n = 0; n < theirs.cells.size(); ++n)
            QCOMPARE(std::to_string(std::get<std::string>((*made)->figure(0, n).value).size()), *theirs.cells[n]);
        QVERIFY(!parseSummaryList("longest(j)", table_->schema, vocabulary).ok());
    }

    void howAFigureWasMade() {
        const auto rules = parseSummaryList("AVG(d) FILTER (WHERE j > 0), SUM(100 / j)", table_->schema);
        const auto made = grouped("b", "COUNT(*)");
        const auto origin = originOf((*rules)[0], *made->tree, 1, input(), Cancel());
        QVERIFY(origin.ok());
        const std::string where = " FROM records WHERE b IS TRUE";
        const auto count = [&](const std::string& sql) { return std::stoll(*server_.query(sql).cells.front()); };
        QCOMPARE(origin->records, count("SELECT COUNT(*)" + where));
        QCOMPARE(origin->terms[0].counted, count("SELECT COUNT(d)" + where + " AND j > 0"));
        QCOMPARE(origin->terms[0].empties, count("SELECT COUNT(*)" + where + " AND j > 0 AND d IS NULL"));
        QCOMPARE(origin->terms[0].filteredOut, count("SELECT COUNT(*)" + where + " AND (j > 0) IS NOT TRUE"));
        QVERIFY(test::agrees({CellState::Filled, origin->terms[0].largest->value}, false,
                             server_.query("SELECT MAX(d)" + where + " AND j > 0").cells.front()));
        QVERIFY(test::agrees(origin->figure, false,
                             server_.query("SELECT AVG(d) FILTER (WHERE j > 0)" + where).cells.front()));
        const auto failing = originOf((*rules)[1], *made->tree, 1'000'000, input(), Cancel());
        QCOMPARE(failing->terms[0].failed, count("SELECT COUNT(*) FROM records WHERE j = 0"));
        QVERIFY(failing->terms[0].firstFailed.has_value());
    }

    void valuesLieInBins() {
        const auto program = compileRule("j", table_->schema);
        const auto spread = spreadOf(*program, input(), 8, Cancel());
        QVERIFY(spread.ok());
        QCOMPARE((*spread)->least, -5.0);
        QCOMPARE((*spread)->greatest, 10.0);
        std::int64_t all = (*spread)->empties;
        for (const std::int64_t bin : (*spread)->bins) all += bin;
        QCOMPARE(all, static_cast<std::int64_t>(table_->rows));
        const std::vector<double> cuts = roundCuts(**spread);
        QCOMPARE(cuts, (std::vector<double>{0, 5}));
        QVERIFY(!spreadOf(*compileRule("s", table_->schema), input(), 8, Cancel()).ok());
    }

    /// Few values far off and values that crowd at one end: the bins stay where most values are, every record is in
    /// one of them or told beside them, and no range of the suggested ones holds nearly all.
    void skewedValuesLieInBins_data() {
        QTest::addColumn<int>("power");
        QTest::addColumn<qint64>("outlier");
        QTest::newRow("one far above") << 1 << qint64{1'000'000'000};
        QTest::newRow("one far below") << 1 << qint64{-1'000'000'000};
        QTest::newRow("crowded") << 4 << qint64{0};
        QTest::newRow("crowded, one far above") << 3 << qint64{1'000'000'000'000};
    }
    void skewedValuesLieInBins() {
        QFETCH(int, power);
        QFETCH(qint64, outlier);
        auto table = std::make_shared<Table>();
        table->schema = table_->schema;
        table->columns.resize(table->schema.fields.size());
        ColumnChunk chunk;
        chunk.reset(Type::Integer, 0, false);
        constexpr int kValues = 500;
        std::vector<double> all = {static_cast<double>(outlier)};
        for (int i = 0; i < kValues; ++i) all.push_back(std::pow(i, power));
        for (const double value : all) chunk.addInteger(static_cast<std::int64_t>(value));
        chunk.addEmpty();
        ColumnBuilder builder(Type::Integer, 0);
        builder.append(chunk);
        table->columns[raw(*table->schema.find("j"))] = builder.share();
        table->rows = builder.size();
        EvaluationInput records;
        records.table = table;
        const auto spread = spreadOf(compileRule("j", table->schema).value(), records, 40, Cancel());
        QVERIFY(spread.ok());
        const auto binned = std::accumulate((*spread)->bins.begin(), (*spread)->bins.end(), std::int64_t{0});
        QCOMPARE(binned + (*spread)->below + (*spread)->above, std::int64_t{kValues + 1});
        QCOMPARE((*spread)->empties, std::int64_t{1});
        QCOMPARE((*spread)->least, std::min<double>(0, static_cast<double>(outlier)));
        QVERIFY((*spread)->to - (*spread)->from <= std::pow(kValues, power));
        const std::vector<double> cuts = roundCuts(**spread);
        QVERIFY(!cuts.empty() && std::is_sorted(cuts.begin(), cuts.end()));
        std::vector<int> in(cuts.size() + 1);
        for (const double value : all)
            ++in[static_cast<std::size_t>(std::upper_bound(cuts.begin(), cuts.end(), value) - cuts.begin())];
        QVERIFY(*std::max_element(in.begin(), in.end()) < kValues * 6 / 10);
    }

    void tooManyGroupsAreSaid() {
        auto many = std::make_shared<Table>();
        many->rows = kMostGroups + 10;
        many->schema = table_->schema;
        many->columns.resize(many->schema.fields.size());
        ColumnChunk chunk;
        chunk.reset(Type::Integer, 0, false);
        ColumnBuilder builder(Type::Integer, 0);
        for (std::size_t i = 0; i < many->rows; ++i) chunk.addInteger(static_cast<std::int64_t>(i) * 7919);
        builder.append(chunk);
        many->columns[raw(*many->schema.find("j"))] = builder.share();
        EvaluationInput records;
        records.table = many;
        const auto refused = groupRows(groupTermsOf(*parseSortList("j", many->schema)), {}, nullptr, records, Cancel());
        QVERIFY(!refused.ok());
        QCOMPARE(refused.error().code, ErrorCode::Unsupported);
        QVERIFY(refused.error().message.find("ranges") != std::string::npos);
        // Twelve levels of fewer records, still on several threads; each halves the one above.
        std::string keys;
        auto some = std::make_shared<Table>(*many);
        some->rows = 100'000;
        records.table = some;
        for (int k = 0; k < 12; ++k) keys += (k == 0 ? "" : ", ") + fmt::format("MOD(j / {}, 2)", 1 << k);
        const auto deep = groupRows(groupTermsOf(*parseSortList(keys, many->schema)), {}, nullptr, records, Cancel());
        QVERIFY(deep.ok());
        QCOMPARE((*deep)->tree->levels(), 12);
        QCOMPARE((*deep)->tree->leaves(), std::size_t{4096});
    }

    /// Keys of a megabyte stand in the order of the text, also where they differ at their end only, and count as others
    /// do.
    void keysOfAMegabyte() {
        auto long_ = std::make_shared<Table>();
        long_->rows = 120;
        long_->schema = table_->schema;
        long_->columns.resize(long_->schema.fields.size());
        const std::string x((std::size_t{1} << 20) - 2, 'x');
        const std::vector<std::string> values = {x, x.substr(0, x.size() - 1) + "é", "short", "Éclair", x.substr(1)};
        ColumnChunk chunk;
        chunk.reset(Type::Text, 0, false);
        ColumnBuilder builder(Type::Text, 0);
        for (std::size_t i = 0; i < long_->rows; ++i) chunk.addText(values[i % values.size()]);
        builder.append(chunk);
        long_->columns[raw(*long_->schema.find("s"))] = builder.share();
        EvaluationInput records;
        records.table = long_;
        const auto made =
            groupRows(groupTermsOf(*parseSortList("s", long_->schema)),
                      summarySpecsOf(*parseSummaryList("COUNT(*), MAX(s)", long_->schema)), nullptr, records, Cancel());
        QVERIFY(made.ok());
        const GroupTree& tree = *(*made)->tree;
        QCOMPARE(tree.nodes.size(), values.size());
        std::vector<std::string> ours;
        for (const GroupNode& node : tree.nodes) {
            QCOMPARE(node.count, std::int64_t{24});
            ours.push_back(std::get<std::string>(tree.key(node).value));
        }
        QVERIFY((ours == std::vector<std::string>{"Éclair", "short", values[4], values[1], x}));
        QVERIFY(std::get<std::string>((*made)->total(1).value).size() > 1000);
    }

    /// Stopped at any moment, a stage gives either everything or the word that it was stopped, and works on afterwards.
    void stoppedAtAnyMoment() {
        auto many = std::make_shared<Table>();
        many->rows = 200'000;
        many->schema = table_->schema;
        many->columns.resize(many->schema.fields.size());
        ColumnChunk chunk;
        chunk.reset(Type::Integer, 0, false);
        ColumnBuilder builder(Type::Integer, 0);
        for (std::size_t i = 0; i < many->rows; ++i) chunk.addInteger(static_cast<std::int64_t>(i) * 7919 % 5003);
        builder.append(chunk);
        many->columns[raw(*many->schema.find("j"))] = builder.share();
        EvaluationInput records;
        records.table = many;
        const auto specs = summarySpecsOf(*parseSummaryList("SUM(j), COUNT(DISTINCT j), MAX(j)", many->schema));
        // Waits up to what a run takes on this machine, so that some are stopped wherever they are and some are not.
        const auto begun = std::chrono::steady_clock::now();
        QVERIFY(
            groupRows(groupTermsOf(*parseSortList("j, MOD(j, 3000)", many->schema)), specs, nullptr, records, Cancel())
                .ok());
        const auto longest =
            std::chrono::duration_cast<std::chrono::microseconds>(std::chrono::steady_clock::now() - begun);
        int whole = 0, cancelled = 0;
        std::mt19937 random(3);
        for (int turn = 0; turn < test::turns(60) || (cancelled < 5 && turn < 2000); ++turn) {
            const auto levels = groupTermsOf(
                *parseSortList(turn % 2 == 0 ? "MOD(j, 7), MOD(j, 100)" : "j, MOD(j, 3000)", many->schema));
            Cancel cancel;
            std::jthread other([&cancel, wait = std::chrono::microseconds(static_cast<std::int64_t>(random()) %
                                                                          (longest.count() + 1))] {
                std::this_thread::sleep_for(wait);
                cancel.request();
            });
            const auto made = groupRows(levels, specs, nullptr, records, cancel);
            if (!made) {
                QCOMPARE(made.error().code, ErrorCode::Cancelled);
                ++cancelled;
                continue;
            }
            ++whole;
            QCOMPARE((*made)->tree->order->size(), many->rows);
            std::int64_t counted = 0;
            for (std::size_t n = 0; n < (*made)->tree->levelBegin[1]; ++n) counted += (*made)->tree->nodes[n].count;
            QCOMPARE(counted, static_cast<std::int64_t>(many->rows));
        }
        QVERIFY2(cancelled >= 5, qPrintable(QString("%1 stopped, %2 came to their end").arg(cancelled).arg(whole)));
        // Stopped between the keys and the tree.
        const auto program = compileRule("MOD(j, 100)", many->schema);
        auto codes = codesOf(*program, records, kMostGroups, Cancel());
        QVERIFY(codes.ok());
        const auto ranks = ranksOf(*codes, SortTerm{}, nullptr, nullptr, Cancel());
        Cancel stopped;
        stopped.request();
        const GroupKeys keys{std::make_shared<const Codes>(std::move(*codes)), *ranks};
        const auto refused = groupTree({keys, keys}, nullptr, many->rows, stopped);
        QVERIFY(!refused.ok() && refused.error().code == ErrorCode::Cancelled);
    }

    /// Lines, and the way back from groups and records, whatever is open.
    void linesOfGroups() {
        const auto made = grouped("b, MOD(j, 3)", "COUNT(*)");
        const auto tree = made->tree;
        std::mt19937 random(5);
        for (int turn = 0; turn < 200; ++turn) {
            OpenGroups open;
            open.levels = {random() % 2 == 0, random() % 2 == 0};
            for (const GroupNode& node : tree->nodes)
                if (random() % 3 == 0) open.setOpen(node, random() % 2 == 0);
            const std::vector<bool> footers = {random() % 2 == 0, random() % 2 == 0};
            const GroupedLines lines(tree, open, footers);
            // What stands there, laid out plainly.
            std::vector<Line> plain;
            for (std::uint32_t n = 0; n < tree->levelBegin[1]; ++n) {
                plain.push_back({LineKind::Group, kNoRow, n});
                if (!open.isOpen(tree->nodes[n])) continue;
                for (std::uint32_t c = tree->nodes[n].firstChild; c < tree->nodes[n].endChild; ++c) {
                    plain.push_back({LineKind::Group, kNoRow, c});
                    if (!open.isOpen(tree->nodes[c])) continue;
                    for (std::int64_t at = 0; at < tree->nodes[c].count; ++at)
                        plain.push_back({LineKind::Record,
                                         static_cast<SourceRow>(
                                             (*tree->order)[static_cast<std::size_t>(tree->nodes[c].first + at)]),
                                         c});
                    if (footers[1]) plain.push_back({LineKind::GroupFooter, kNoRow, c});
                }
                if (footers[0]) plain.push_back({LineKind::GroupFooter, kNoRow, n});
            }
            QCOMPARE(lines.count(), static_cast<std::int64_t>(plain.size()));
            for (std::size_t i = 0; i < plain.size(); ++i) {
                const Line line = lines.at(static_cast<std::int64_t>(i));
                QVERIFY(line.kind == plain[i].kind && line.row == plain[i].row && line.group == plain[i].group);
            }
            for (std::uint32_t n = 0; n < tree->nodes.size(); ++n) {
                const auto at = std::find_if(plain.begin(), plain.end(), [n](const Line& line) {
                    return line.kind == LineKind::Group && line.group == n;
                });
                const auto line = lines.lineOf(n);
                QCOMPARE(line.has_value(), at != plain.end());
                if (!line) continue;
                QCOMPARE(*line, at - plain.begin());
                // It ends before the next line that is not inside it.
                auto end = at + 1;
                const auto inside = [&](const Line& l) {
                    const std::uint32_t parent =
                        tree->nodes[l.group].level == 0 ? l.group : tree->nodes[l.group].parent;
                    return l.group == n || (tree->nodes[n].level == 0 && parent == n);
                };
                while (end != plain.end() && inside(*end)) ++end;
                QCOMPARE(lines.endOf(n), end - plain.begin());
            }
            for (std::size_t place = 0; place < tree->order->size(); ++place) {
                const auto row = static_cast<SourceRow>((*tree->order)[place]);
                const auto at =
                    std::find_if(plain.begin(), plain.end(), [row](const Line& line) { return line.row == row; });
                const auto line = lines.lineOfPlace(static_cast<std::int64_t>(place));
                QCOMPARE(line.has_value(), at != plain.end());
                if (line) QCOMPARE(*line, at - plain.begin());
            }
        }
    }
};

QTEST_APPLESS_MAIN(GroupStageTest)
#include "group_stage_test.moc"
