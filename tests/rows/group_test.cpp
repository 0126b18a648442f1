// SPDX-License-Identifier: MIT
// Groups and summaries against PostgreSQL's GROUP BY: every aggregate, with FILTER, over keys of every type with
// empties and ties, at each level and over all; decimals to the last digit. Then what PostgreSQL does not have: stated
// orders, keys that fail, records in the order they came.
#include <QtTest>

#include <random>

#include "core/rows/group_stage.h"
#include "core/rows/record_set.h"
#include "core/rules/sort_list.h"
#include "core/rules/sql_writer.h"
#include "tests/rules/oracle_cells.h"

using namespace jollyrow;

class GroupTest : public QObject {
    Q_OBJECT
    static constexpr int kRepeated = 3;
    test::PostgresServer server_;
    std::shared_ptr<const Table> table_;

    EvaluationInput input() const {
        EvaluationInput in;
        in.table = table_;
        return in;
    }
    /// A key as PostgreSQL sorts it.
    std::string keySql(const SortTerm& term) const {
        if (term.field) {
            const FieldSchema& field = table_->schema.field(*term.field);
            return field.type == Type::Text ? "(" + field.name + " COLLATE \"und-x-icu\")" : field.name;
        }
        const auto sql = sqlOf(*term.program, table_->schema, SqlDialect::PostgreSql, {});
        std::string text = sql->text;
        for (std::size_t i = sql->values.size(); i-- > 0;) {
            const std::string mark = "$" + std::to_string(i + 1);
            for (std::size_t at; (at = text.find(mark)) != std::string::npos;)
                text.replace(at, mark.size(), constantText(sql->values[i]));
        }
        if (term.program->type().kind == RuleKind::Text) text = "(" + text + " COLLATE \"und-x-icu\")";
        return text;
    }

  private Q_SLOTS:
    void initTestCase() {
        const std::string failure = server_.start();
        if (!failure.empty()) QFAIL(failure.c_str());
        table_ = test::tableOf(test::hardFields(), kRepeated);
        const std::string filled = test::fillRecords(server_, test::hardFields(), kRepeated);
        QVERIFY2(filled.empty(), filled.c_str());
    }

    void everyAggregateAtEveryLevelAgrees_data() {
        QTest::addColumn<QString>("keys");
        QTest::newRow("all") << "";
        for (const char* keys : {"s", "b", "i", "d", "r", "dt", "b, s", "dt DESC, b", "MOD(j, 3), s DESC, d",
                                 "EXTRACT(YEAR FROM dt), EXTRACT(MONTH FROM dt)", "d / 3, b", "s || 'x'", "ts, tm"})
            QTest::newRow(keys) << keys;
    }
    void everyAggregateAtEveryLevelAgrees() {
        QFETCH(QString, keys);
        const auto levels = parseSortList(keys.toStdString(), table_->schema);
        QVERIFY2(levels.ok(), levels ? "" : levels.error().message.c_str());
        const std::vector<std::string> summaries = {
            "COUNT(*)",
            "COUNT(d)",
            "COUNT(DISTINCT s)",
            "COUNT(DISTINCT e)",
            "SUM(j)",
            "SUM(d)",
            "SUM(e)",
            "SUM(d / 7)",
            "AVG(j)",
            "AVG(d)",
            "AVG(e * 3)",
            "MIN(s)",
            "MAX(s)",
            "MIN(d)",
            "MAX(dt)",
            "MIN(ts)",
            "MAX(i)",
            "VAR_SAMP(d)",
            "VAR_POP(e)",
            "VAR_SAMP(j)",
            "STDDEV_SAMP(d)",
            "STDDEV_POP(j)",
            "VAR_SAMP(CAST(j AS DOUBLE PRECISION))",
            "STDDEV_POP(CAST(e AS DOUBLE PRECISION))",
            "SUM(CAST(e AS DOUBLE PRECISION))",
            "PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY d)",
            "PERCENTILE_CONT(0.9) WITHIN GROUP (ORDER BY j)",
            "PERCENTILE_DISC(0.25) WITHIN GROUP (ORDER BY e)",
            "PERCENTILE_DISC(0.5) WITHIN GROUP (ORDER BY dt)",
            "COUNT(*) FILTER (WHERE b)",
            "SUM(d) FILTER (WHERE i > 0)",
            "MIN(i) FILTER (WHERE b)",
            "MAX(i) FILTER (WHERE NOT b)",
            "MAX(dt) FILTER (WHERE d > 0)",
            "SUM(j) FILTER (WHERE dt IS NOT NULL)",
            "AVG(j) FILTER (WHERE s LIKE '%r%')",
            "STDDEV_SAMP(e)",
            "STDDEV_POP(d * 1.5)",
            "BOOL_AND(b)",
            "BOOL_OR(d > 1)",
            "EVERY(j > 0) FILTER (WHERE b)",
            "SUM(DISTINCT j)",
            "AVG(DISTINCT d)",
            "SUM(DISTINCT CAST(j AS DOUBLE PRECISION))",
            "COUNT(DISTINCT j) FILTER (WHERE b)",
            "MIN(DISTINCT d)",
            "STRING_AGG(s, ', ' ORDER BY id)",
            "STRING_AGG(s, u ORDER BY dt DESC NULLS LAST, id)",
            "STRING_AGG(CAST(j AS TEXT), '/' ORDER BY j, id) FILTER (WHERE j > 0)",
            "STRING_AGG(TRIM(s), '-' ORDER BY id DESC) || '!'",
            "MODE() WITHIN GROUP (ORDER BY j)",
            "MODE() WITHIN GROUP (ORDER BY d) FILTER (WHERE b)",
            "CORR(d, j)",
            "COVAR_SAMP(d, e)",
            "COVAR_POP(e, j)",
            "REGR_COUNT(d, j)",
            "REGR_AVGX(d, j)",
            "REGR_AVGY(d, j)",
            "REGR_SLOPE(d, j)",
            "REGR_INTERCEPT(j, e)",
            "REGR_R2(d, j)",
            "REGR_SXX(d, j)",
            "REGR_SYY(d, j)",
            "REGR_SXY(d, j) FILTER (WHERE b)",
            "REGR_SLOPE(d, CASE WHEN j > 0 THEN j END) * 2",
            "PERCENTILE_CONT(0) WITHIN GROUP (ORDER BY d) FILTER (WHERE j IS NOT NULL)"};
        std::string list;
        for (const std::string& summary : summaries) list += (list.empty() ? "" : ", ") + summary;
        const auto terms = parseSummaryList(list, table_->schema);
        QVERIFY2(terms.ok(), terms ? "" : terms.error().message.c_str());
        QCOMPARE(terms->size(), summaries.size());
        const auto grouped = groupRows(groupTermsOf(*levels), summarySpecsOf(*terms), nullptr, input(), Cancel());
        QVERIFY2(grouped.ok(), grouped ? "" : grouped.error().message.c_str());
        const GroupedRows& figures = **grouped;
        const GroupTree& ours = *figures.tree;
        for (std::size_t k = 0; k < summaries.size(); ++k)
            for (int level = -1; level < ours.levels(); ++level) {
                std::string by, order;
                for (int n = 0; n <= level; ++n) {
                    const SortTerm& term = (*levels)[static_cast<std::size_t>(n)];
                    by += (n == 0 ? " GROUP BY " : ", ") + keySql(term);
                    order += (n == 0 ? " ORDER BY " : ", ") + keySql(term) +
                             (term.direction == Direction::Descending ? " DESC" : "");
                }
                std::string select = summaries[k];
                for (const char* text : {"MIN(s)", "MAX(s)"})
                    if (select == text) select.insert(5, " COLLATE \"und-x-icu\"");
                const auto theirs = server_.query("SELECT " + select + " FROM records" + by + order);
                QVERIFY2(theirs.ok, theirs.error.c_str());
                const std::size_t begin = level < 0 ? 0 : ours.levelBegin[static_cast<std::size_t>(level)];
                const std::size_t count = level < 0 ? 1 : ours.levelBegin[static_cast<std::size_t>(level) + 1] - begin;
                QCOMPARE(count, theirs.cells.size());
                for (std::size_t n = 0; n < count; ++n) {
                    const EvaluatedCell& cell = level < 0 ? figures.total(k) : figures.figure(k, begin + n);
                    QVERIFY2(test::agrees(cell, false, theirs.cells[n]),
                             fmt::format("{} at level {}, group {}: we say {}, PostgreSQL {}", summaries[k], level, n,
                                         test::described(cell), theirs.cells[n].value_or("(empty)"))
                                 .c_str());
                }
            }
        // The tree itself: children fill their parents, and the records fill the leaves.
        for (std::size_t n = 0; n < ours.nodes.size(); ++n) {
            const GroupNode& node = ours.nodes[n];
            QVERIFY(node.count > 0);
            if (node.level + 1 == ours.levels()) continue;
            std::int64_t sum = 0;
            for (std::uint32_t child = node.firstChild; child < node.endChild; ++child) {
                QCOMPARE(ours.nodes[child].parent, static_cast<std::uint32_t>(n));
                QCOMPARE(ours.nodes[child].first, node.first + sum);
                sum += ours.nodes[child].count;
            }
            QCOMPARE(sum, node.count);
        }
        QCOMPARE(ours.order->size(), table_->rows);
    }

    /// The same records many times over, so that they come in many batches and on several threads: extremes
    /// stay, counts and sums grow with the records. Values at both ends of 64 bits, empties and filters among them.
    void manyBatchesAgreeWithOne_data() {
        QTest::addColumn<QString>("keys");
        for (const char* keys : {"b", "s, b", "i", "id"}) QTest::newRow(keys) << keys;
    }
    void manyBatchesAgreeWithOne() {
        QFETCH(QString, keys);
        constexpr std::int64_t kMany = 5000;
        const std::vector<std::string> stay = {"MIN(i)",
                                               "MAX(i)",
                                               "MIN(dt)",
                                               "MAX(dt)",
                                               "MAX(ts)",
                                               "MIN(d)",
                                               "MIN(i) FILTER (WHERE b)",
                                               "MAX(i) FILTER (WHERE j > 0)",
                                               "MAX(dt) FILTER (WHERE NOT b)"};
        const std::vector<std::string> grow = {"COUNT(*)",
                                               "COUNT(i)",
                                               "SUM(i)",
                                               "SUM(j)",
                                               "SUM(d)",
                                               "SUM(e)",
                                               "SUM(d) FILTER (WHERE j > 0)",
                                               "COUNT(dt) FILTER (WHERE b)"};
        std::string list;
        for (const auto* part : {&stay, &grow})
            for (const std::string& summary : *part) list += (list.empty() ? "" : ", ") + summary;
        const auto levels = groupTermsOf(*parseSortList(keys.toStdString(), table_->schema));
        const auto specs = summarySpecsOf(*parseSummaryList(list, table_->schema));
        EvaluationInput many = input();
        many.table = test::tableOf(test::hardFields(), kMany);
        const auto few = groupRows(levels, specs, nullptr, input(), Cancel());
        const auto all = groupRows(levels, specs, nullptr, many, Cancel());
        QVERIFY(few.ok() && all.ok());
        QCOMPARE((*all)->tree->nodes.size(), (*few)->tree->nodes.size());
        const auto whole = [](const EvaluatedCell& cell) {
            if (const auto* count = std::get_if<std::int64_t>(&cell.value)) return Int128{*count};
            const auto* sum = std::get_if<WideDecimal>(&cell.value);
            return sum ? sum->mantissa : Int128{0};
        };
        for (std::size_t node = 0; node <= (*few)->tree->nodes.size(); ++node)
            for (std::size_t k = 0; k < stay.size() + grow.size(); ++k) {
                const bool total = node == (*few)->tree->nodes.size();
                const EvaluatedCell once = total ? (*few)->total(k) : (*few)->figure(k, node);
                const EvaluatedCell often = total ? (*all)->total(k) : (*all)->figure(k, node);
                const std::string what =
                    fmt::format("{}, group {}: {} once, {} often", k < stay.size() ? stay[k] : grow[k - stay.size()],
                                node, test::described(once), test::described(often));
                QVERIFY2(once.state == often.state, what.c_str());
                if (k < stay.size())
                    QVERIFY2(once.value == often.value, what.c_str());
                else
                    QVERIFY2(whole(once) * kMany == whole(often) * kRepeated, what.c_str());
            }
    }

    void recordsKeepTheirOrderAndOnlyTheGivenOnesCount() {
        RowOrder order;
        std::mt19937 random(3);
        for (std::uint32_t row = 0; row < table_->rows; ++row)
            if (random() % 3 != 0) order.push_back(row);
        std::shuffle(order.begin(), order.end(), random);
        const auto levels = parseSortList("b, MOD(j, 2)", table_->schema);
        const auto terms = parseSummaryList("COUNT(*)", table_->schema);
        const auto grouped = groupRows(groupTermsOf(*levels), summarySpecsOf(*terms),
                                       std::make_shared<const RowOrder>(order), input(), Cancel());
        QVERIFY(grouped.ok());
        QCOMPARE((*grouped)->tree->order->size(), order.size());
        QCOMPARE(std::get<std::int64_t>((*grouped)->total(0).value), static_cast<std::int64_t>(order.size()));
        std::vector<std::size_t> placeOf(table_->rows);
        for (std::size_t n = 0; n < order.size(); ++n) placeOf[order[n]] = n;
        for (const GroupNode& node : (*grouped)->tree->nodes) {
            if (node.level != 1) continue;
            for (std::int64_t n = node.first + 1; n < node.first + node.count; ++n)
                QVERIFY(placeOf[(*(*grouped)->tree->order)[static_cast<std::size_t>(n - 1)]] <
                        placeOf[(*(*grouped)->tree->order)[static_cast<std::size_t>(n)]]);
        }
        const auto empty = groupRows(groupTermsOf(*levels), summarySpecsOf(*terms), std::make_shared<const RowOrder>(),
                                     input(), Cancel());
        QVERIFY(empty.ok() && (*empty)->tree->nodes.empty());
        QCOMPARE(std::get<std::int64_t>((*empty)->total(0).value), std::int64_t{0});
        Cancel cancelled;
        cancelled.request();
        QVERIFY(!groupRows(groupTermsOf(*levels), summarySpecsOf(*terms), nullptr, input(), cancelled).ok());
    }

    void failingKeysAndStatedOrders() {
        // 100 / j fails where j is 0: a group of its own, at the end, that says so.
        const auto failing = parseSortList("100 / j", table_->schema);
        const auto terms = parseSummaryList("COUNT(*), SUM(100 / j), SUM(i)", table_->schema);
        const auto grouped = groupRows(groupTermsOf(*failing), summarySpecsOf(*terms), nullptr, input(), Cancel());
        QVERIFY(grouped.ok());
        const GroupNode& last = (*grouped)->tree->nodes.back();
        QCOMPARE((*grouped)->tree->keyState(last), CellState::DivisionByZero);
        QCOMPARE(last.count, std::int64_t{2 * kRepeated});
        QCOMPARE((*grouped)->tree->keyState((*grouped)->tree->nodes[(*grouped)->tree->nodes.size() - 2]),
                 CellState::Empty);
        QCOMPARE((*grouped)->figure(1, (*grouped)->tree->nodes.size() - 1).state, CellState::DivisionByZero);
        QCOMPARE((*grouped)->total(1).state, CellState::DivisionByZero);  // never a sum of the rest
        QVERIFY((*grouped)->total(2).state == CellState::Filled);         // past 64 bits: exact, not wrapped
        std::vector<SortTerm> stated(1);
        stated[0].field = table_->schema.find("j");
        stated[0].values = {"7", "-2"};
        const auto ordered = groupRows(groupTermsOf(stated), {}, nullptr, input(), Cancel());
        QVERIFY(ordered.ok());
        QCOMPARE(std::get<std::int64_t>((*ordered)->tree->key((*ordered)->tree->nodes[0]).value), std::int64_t{7});
        QCOMPARE(std::get<std::int64_t>((*ordered)->tree->key((*ordered)->tree->nodes[1]).value), std::int64_t{-2});
        QCOMPARE(std::get<std::int64_t>((*ordered)->tree->key((*ordered)->tree->nodes[2]).value), std::int64_t{-5});
        QCOMPARE((*ordered)->tree->keyState((*ordered)->tree->nodes.back()), CellState::Empty);
    }

    /// Edited values group and sum as edited.
    void editsCount() {
        EvaluationInput in = input();
        in.edits = Edits().with(SourceRow{0}, *table_->schema.find("s"),
                                {std::string("a new group"), Empty{}, EditState::Saved, {}});
        const auto levels = parseSortList("s", table_->schema);
        const auto terms = parseSummaryList("COUNT(*), MIN(s)", table_->schema);
        const auto grouped = groupRows(groupTermsOf(*levels), summarySpecsOf(*terms), nullptr, in, Cancel());
        const auto found =
            std::find_if((*grouped)->tree->nodes.begin(), (*grouped)->tree->nodes.end(), [&](const GroupNode& node) {
                return (*grouped)->tree->key(node).value == RuleValue(std::string("a new group"));
            });
        QVERIFY(found != (*grouped)->tree->nodes.end() && found->count == 1);
    }

    void wrongListsAreSaid_data() {
        QTest::addColumn<QString>("list");
        QTest::addColumn<QString>("message");
        QTest::addColumn<int>("offset");
        QTest::newRow("no such") << "SUN(d)"
                                 << "SUM" << 0;
        QTest::newRow("column") << "COUNT(*), SUM(dd)"
                                << "dd" << 14;
        QTest::newRow("text") << "SUM(s)"
                              << "SUM takes numbers, not a text" << 0;
        QTest::newRow("filter") << "SUM(d) FILTER (WHERE d)"
                                << "" << 21;
        QTest::newRow("open") << "SUM(d"
                              << "closing bracket" << 5;
        QTest::newRow("percent") << "PERCENTILE_CONT(5) WITHIN GROUP (ORDER BY d)"
                                 << "0 to 1" << 16;
        QTest::newRow("comma") << "SUM(d) SUM(i)"
                               << "comma" << 7;
        QTest::newRow("window") << "SUM(SUM(d) OVER ())"
                                << "OVER" << 4;
        QTest::newRow("statement") << "COUNT(*); DROP TABLE records"
                                   << "" << 8;
    }
    void wrongListsAreSaid() {
        QFETCH(QString, list);
        QFETCH(QString, message);
        QFETCH(int, offset);
        const auto terms = parseSummaryList(list.toStdString(), table_->schema);
        QVERIFY(!terms.ok());
        QVERIFY2(QString::fromStdString(terms.error().message).contains(message), terms.error().message.c_str());
        QVERIFY(terms.error().where);
        QCOMPARE(static_cast<int>(terms.error().where->offset), offset);
    }
};

QTEST_APPLESS_MAIN(GroupTest)
#include "group_test.moc"
