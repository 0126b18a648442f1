// SPDX-License-Identifier: MIT
// Aggregates, values and places OVER (…) against PostgreSQL: every function over partitions, orders and frames that are
// put together at random, over records with ties, empties, huge values and texts of all kinds. The rule as it is typed
// is also what the server is asked.
#include <QtTest>

#include <random>

#include "core/columns/edits.h"
#include "core/rules/evaluator.h"
#include "core/rules/sql_writer.h"
#include "tests/rules/oracle_cells.h"
#include "tests/rules/postgres_server.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;

namespace {

class WindowMaker {
  public:
    explicit WindowMaker(std::uint64_t seed) : random_(seed) {}

    std::string rule() {
        const std::string call = function();
        std::string over;
        if (one(3) != 0) over = "PARTITION BY " + pick({"b", "j", "b, j % 2", "s", "EXTRACT(YEAR FROM dt)", "d > 1"});
        if (needsOrder_ || one(4) != 0) over += order();
        if (!ordered_.empty() || one(3) == 0) over += frame();
        return call + " OVER (" + over + ")";
    }

  private:
    std::size_t one(std::size_t of) { return random_() % of; }
    std::string pick(std::initializer_list<const char*> of) { return *(of.begin() + one(of.size())); }
    std::string filter() { return one(4) == 0 ? " FILTER (WHERE " + pick({"j > 0", "b", "s IS NOT NULL"}) + ")" : ""; }

    std::string function() {
        needsOrder_ = needsRow_ = takesFrame_ = false;
        ordered_.clear();
        const std::string number = pick({"j", "d", "e", "j * 2", "d + e", "r"});
        const std::string any = pick({"j", "d", "e", "r", "s", "dt", "ts", "tm", "b", "i", "INTERVAL '1 day' * j"});
        const auto tile = [&] { return std::to_string(1 + one(7)); };
        needsRow_ = true;
        switch (one(20)) {
            case 0: needsRow_ = false; return takesFrame_ = true, "COUNT(*)" + filter();
            case 1: needsRow_ = false; return takesFrame_ = true, "COUNT(" + any + ")" + filter();
            case 2:
            case 3: needsRow_ = false; return takesFrame_ = true, "SUM(" + number + ")" + filter();
            case 4: needsRow_ = false; return takesFrame_ = true, "AVG(" + number + ")" + filter();
            case 5:
            case 6: {
                needsRow_ = false;
                takesFrame_ = true;
                const std::string of = pick({"j", "d", "r", "dt", "ts", "tm", "i"});
                return pick({"MIN(", "MAX("}) + of + ")" + filter();
            }
            case 7: needsRow_ = false; return takesFrame_ = true, pick({"VAR_SAMP(", "VAR_POP("}) + number + ")";
            case 8: needsRow_ = false; return takesFrame_ = true, pick({"STDDEV(", "STDDEV_POP("}) + number + ")";
            case 9: needsRow_ = false; return takesFrame_ = true, pick({"BOOL_AND(", "BOOL_OR(", "EVERY("}) + "b)";
            case 10:
                needsOrder_ = takesFrame_ = true;
                return "STRING_AGG(s, " + pick({"', '", "u", "''"}) + ")" + filter();
            case 11: needsOrder_ = takesFrame_ = true; return "FIRST_VALUE(" + any + ")";
            case 12: needsOrder_ = takesFrame_ = true; return "LAST_VALUE(" + any + ")";
            case 13: needsOrder_ = takesFrame_ = true; return "NTH_VALUE(" + any + ", " + tile() + ")";
            case 14: needsOrder_ = true; return "ROW_NUMBER()";
            case 15:
                needsOrder_ = true;
                needsRow_ = false;
                return pick({"RANK()", "DENSE_RANK()"});
            case 16:
                needsOrder_ = true;
                needsRow_ = false;
                return pick({"PERCENT_RANK()", "CUME_DIST()"});
            case 17: needsOrder_ = true; return "NTILE(" + tile() + ")";
            case 18: needsOrder_ = true; return "LAG(" + any + ")";
            default:
                needsOrder_ = true;
                return pick({"LAG(", "LEAD("}) + "j, " + pick({"2", "0", "-1", "CAST(j AS INTEGER)"}) + ", " +
                       pick({"-9::bigint", "j * 10", "NULL", "0.5"}) + ")";
        }
    }

    std::string order() {
        const char* const keys[] = {"j", "d", "e", "r", "s", "dt", "ts", "tm", "b", "INTERVAL '2 days' * j"};
        ordered_ = keys[one(std::size(keys))];
        std::string out = ordered_ == "s" ? "s COLLATE \"und-x-icu\"" : ordered_;
        out += pick({"", " ASC", " DESC"}) + pick({"", "", " NULLS FIRST", " NULLS LAST"});
        isSingle_ = one(3) != 0;
        if (!isSingle_) out += ", " + pick({"j DESC", "d", "dt NULLS FIRST"});
        // What goes by single records must know which comes first.
        if (needsRow_ || one(4) == 0) {
            out += ", id";
            isSingle_ = false;
        }
        return " ORDER BY " + out;
    }

    std::string distance() {
        if (unit_ != "RANGE") return std::to_string(one(4));
        if (ordered_ == "j") return std::to_string(one(9));
        if (ordered_ == "d" || ordered_ == "e") return pick({"0", "1.5", "100", "0.001"});
        if (ordered_ == "r") return pick({"0", "2.5", "1e10"});
        if (ordered_ == "tm") return pick({"INTERVAL '1 hour'", "INTERVAL '90 minutes'"});
        return pick({"INTERVAL '1 day'", "INTERVAL '1 month'", "INTERVAL '2 years 3 days 4:05'", "INTERVAL '0 days'"});
    }
    bool hasDistances() const {
        if (ordered_.empty()) return false;
        return unit_ != "RANGE" || (isSingle_ && ordered_ != "s" && ordered_ != "b");
    }
    std::string frame() {
        if (!takesFrame_ || one(4) == 0) return "";
        // Rows that are equal in the order stand in any.
        unit_ = needsRow_ && !ordered_.empty() ? pick({"ROWS", "RANGE", "GROUPS"}) : pick({"RANGE", "GROUPS"});
        if (ordered_.empty()) unit_ = "RANGE";
        const bool has = hasDistances();
        std::string out = " " + unit_ + " ";
        const std::size_t begin = has ? one(4) : one(2);
        const auto preceding = [&] { return distance() + " PRECEDING"; };
        const auto following = [&] { return distance() + " FOLLOWING"; };
        const std::string from = begin == 0   ? "UNBOUNDED PRECEDING"
                                 : begin == 1 ? "CURRENT ROW"
                                 : begin == 2 ? preceding()
                                              : following();
        std::string to = one(2) == 0 ? "UNBOUNDED FOLLOWING" : "CURRENT ROW";
        if (begin == 3) to = one(2) == 0 ? "UNBOUNDED FOLLOWING" : following();
        if (has && one(2) == 0) to = begin == 2 && one(2) == 0 ? preceding() : following();
        out += "BETWEEN " + from + " AND " + to;
        return out + pick({"", "", " EXCLUDE CURRENT ROW", " EXCLUDE GROUP", " EXCLUDE TIES", " EXCLUDE NO OTHERS"});
    }

    std::mt19937_64 random_;
    std::string ordered_, unit_;
    bool needsOrder_ = false, needsRow_ = false, takesFrame_ = false, isSingle_ = false;
};

}  // namespace

class WindowOracleTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    std::shared_ptr<const Table> table_ = test::tableOf(test::hardFields());

    std::vector<EvaluatedCell> ours(const std::shared_ptr<const Program>& program) const {
        EvaluationInput input;
        input.table = table_;
        const auto evaluation = Evaluation::prepare(program, input, Cancel());
        if (!evaluation) return {};
        Runner runner(*evaluation);
        const Vector& values = runner.run(0, table_->rows);
        std::vector<EvaluatedCell> cells;
        for (std::size_t i = 0; i < table_->rows; ++i) cells.push_back(cellOf(values, i));
        return cells;
    }

  private slots:
    void initTestCase() {
        const std::string why = server_.start();
        if (!why.empty()) QSKIP(why.c_str());
        QCOMPARE(test::fillRecords(server_, test::hardFields()), std::string());
    }

    /// A frame's figures of sixteen records each, by the server's own count of its errors.
    void typedWindowsAgree() {
        WindowMaker maker(qEnvironmentVariableIntValue("JOLLYROW_SEED") + 20261202);
        int compared = 0, refused = 0, failed = 0;
        for (int turn = 0; turn < 3000; ++turn) {
            const std::string rule = maker.rule();
            const auto theirs = server_.query("SELECT " + rule + " FROM records ORDER BY id");
            const auto program = compileRule(rule, table_->schema);
            if (!program) {
                // Some have no order where they need one; the server takes any.
                QVERIFY2(program.error().message.find("ORDER BY") != std::string::npos || !theirs.ok,
                         qPrintable(QString::fromStdString(rule + ": " + program.error().message)));
                ++refused;
                continue;
            }
            const auto cells = ours(*program);
            QCOMPARE(cells.size(), table_->rows);
            const bool anyFails =
                std::any_of(cells.begin(), cells.end(), [](const EvaluatedCell& cell) { return isError(cell.state); });
            if (!theirs.ok) {
                // One value that fails ends the whole statement there.
                QVERIFY2(anyFails || theirs.error.find("out of range") != std::string::npos,
                         qPrintable(QString::fromStdString(rule + ": " + theirs.error)));
                ++failed;
                continue;
            }
            for (std::size_t i = 0; i < cells.size(); ++i)
                QVERIFY2(test::agrees(cells[i], false, theirs.cells[i]),
                         qPrintable(QString("%1, record %2: we say %3, PostgreSQL %4")
                                        .arg(QString::fromStdString(rule))
                                        .arg(i + 1)
                                        .arg(QString::fromStdString(test::described(cells[i])),
                                             QString::fromStdString(theirs.cells[i].value_or("(empty)")))));
            ++compared;
        }
        QVERIFY2(compared > 2000,
                 qPrintable(QString("%1 compared, %2 refused, %3 failed").arg(compared).arg(refused).arg(failed)));
    }

    /// What we would ask a server gives what we compute.
    void writtenWindowsAgree() {
        WindowMaker maker(77);
        int compared = 0;
        for (int turn = 0; turn < 400; ++turn) {
            const std::string rule = maker.rule();
            const auto program = compileRule(rule, table_->schema);
            if (!program || rule.find("COLLATE") != std::string::npos) continue;
            const auto sql = sqlOf(**program, table_->schema, SqlDialect::PostgreSql, {});
            if (!sql) continue;
            std::vector<std::optional<std::string>> values;
            for (const RuleValue& value : sql->values)
                values.push_back(std::holds_alternative<Empty>(value) ? std::nullopt : std::optional(textOf(value)));
            const auto theirs = server_.query("SELECT " + sql->text + " FROM records ORDER BY id", values);
            const auto cells = ours(*program);
            if (!theirs.ok) {
                QVERIFY2(theirs.error.find("out of range") != std::string::npos ||
                             std::any_of(cells.begin(), cells.end(), [](const auto& c) { return isError(c.state); }),
                         qPrintable(QString::fromStdString(rule + "\n" + sql->text + ": " + theirs.error)));
                continue;
            }
            for (std::size_t i = 0; i < cells.size(); ++i)
                QVERIFY2(test::agrees(cells[i], false, theirs.cells[i]), qPrintable(QString::fromStdString(sql->text)));
            ++compared;
        }
        QVERIFY(compared > 200);
    }

    /// One that is to be deleted counts for nothing, and keeps the place it would have.
    void recordsThatLeave() {
        EvaluationInput input;
        input.table = table_;
        auto edits = std::make_shared<Edits>();
        RecordEdit gone;
        gone.setFate(RecordFate{RecordChange::Delete, EditState::Draft, {}, {}, 0});
        edits->setRecord(static_cast<SourceRow>(3), gone);
        input.edits = edits;
        const auto values = [&](const std::string& rule) {
            const auto program = compileRule(rule, table_->schema);
            const auto evaluation = program ? Evaluation::prepare(*program, input, Cancel()) : program.error();
            std::vector<std::string> out;
            if (!evaluation) return out;
            Runner runner(*evaluation);
            const Vector& of = runner.run(0, table_->rows);
            for (std::size_t i = 0; i < table_->rows; ++i) out.push_back(test::described(cellOf(of, i)));
            return out;
        };
        const auto running = values("COUNT(*) OVER (ORDER BY id)");
        QCOMPARE(running[2], std::string("3"));
        QCOMPARE(running[3], std::string("(empty)"));
        QCOMPARE(running[4], std::string("4"));
        const auto before = values("LAG(id) OVER (ORDER BY id)");
        QCOMPARE(before[4], std::string("3"));
        for (const char* rank : {"RANK()", "DENSE_RANK()", "ROW_NUMBER()"}) {
            const auto ranks = values(std::string(rank) + " OVER (ORDER BY id)");
            QCOMPARE(ranks[3], std::string("4"));
            QCOMPARE(ranks[4], std::string("4"));
        }
    }

    /// Each of many that leave has the place that it would have alone.
    void manyThatLeave() {
        auto edits = std::make_shared<Edits>();
        RecordEdit gone;
        gone.setFate(RecordFate{RecordChange::Delete, EditState::Draft, {}, {}, 0});
        for (std::uint32_t row = 0; row < table_->rows; row += 2) edits->setRecord(static_cast<SourceRow>(row), gone);
        EvaluationInput input;
        input.table = table_;
        input.edits = edits;
        for (const char* call : {"RANK()", "DENSE_RANK()", "ROW_NUMBER()"}) {
            const auto program =
                compileRule(fmt::format("{} OVER (PARTITION BY b ORDER BY j, id)", call), table_->schema);
            const auto evaluation = Evaluation::prepare(*program, input, Cancel());
            QVERIFY(evaluation.ok());
            Runner runner(*evaluation);
            const Vector& all = runner.run(0, table_->rows);
            for (std::uint32_t row = 0; row < table_->rows; row += 2) {
                // How many of those that stay stand before it.
                const std::string wanted = fmt::format(
                    "SELECT count(*) + 1 FROM records a, records b WHERE a.id = {} AND b.id % 2 = 0 AND b.b IS NOT "
                    "DISTINCT FROM a.b AND (coalesce(b.j, 99), b.id) < (coalesce(a.j, 99), a.id)",
                    row + 1);
                const auto theirs = server_.query(wanted);
                QVERIFY(theirs.ok);
                QCOMPARE(test::described(cellOf(all, row)), theirs.cells.front().value_or(""));
            }
        }
    }

    void refusalsSayWhy_data() {
        QTest::addColumn<QString>("rule");
        QTest::addColumn<QString>("says");
        QTest::newRow("order") << "RANK() OVER ()"
                               << "ORDER BY";
        QTest::newRow("rows without order") << "SUM(j) OVER (ROWS 1 PRECEDING)"
                                            << "ORDER BY";
        QTest::newRow("turned") << "SUM(j) OVER (ORDER BY j ROWS BETWEEN CURRENT ROW AND 1 PRECEDING)"
                                << "before it begins";
        QTest::newRow("texts") << "SUM(j) OVER (ORDER BY s RANGE 1 PRECEDING)"
                               << "ROWS and GROUPS";
        QTest::newRow("two keys") << "SUM(j) OVER (ORDER BY j, d RANGE 1 PRECEDING)"
                                  << "takes one";
        QTest::newRow("moving distance") << "SUM(j) OVER (ORDER BY j ROWS j PRECEDING)"
                                         << "same for all";
        QTest::newRow("kind") << "SUM(j) OVER (ORDER BY dt RANGE 1 PRECEDING)"
                              << "span of time";
        QTest::newRow("within") << "SUM(SUM(j) OVER ()) OVER ()"
                                << "inside another";
        QTest::newRow("distinct") << "COUNT(DISTINCT j) OVER ()"
                                  << "DISTINCT";
        QTest::newRow("filter of a rank") << "RANK() FILTER (WHERE b) OVER (ORDER BY j)"
                                          << "FILTER";
        QTest::newRow("filter alone") << "SUM(j) FILTER (WHERE b)"
                                      << "OVER";
        QTest::newRow("no aggregate") << "UPPER(s) OVER ()"
                                      << "UPPER";
        QTest::newRow("arguments") << "LAG() OVER (ORDER BY j)"
                                   << "LAG(value";
        QTest::newRow("count") << "COUNT() OVER ()"
                               << "COUNT(*)";
        QTest::newRow("exclude") << "SUM(j) OVER (ORDER BY j ROWS 1 PRECEDING EXCLUDE ALL)"
                                 << "EXCLUDE";
    }
    void refusalsSayWhy() {
        QFETCH(QString, rule);
        QFETCH(QString, says);
        const auto program = compileRule(rule.toStdString(), table_->schema);
        QVERIFY(!program);
        QVERIFY2(QString::fromStdString(program.error().message).contains(says), program.error().message.c_str());
    }

    /// A distance that is none makes no record's figure up.
    void distancesThatAreNone() {
        for (const char* distance : {"-1", "NULL::int", "NULL"}) {
            const auto program =
                compileRule(fmt::format("SUM(j) OVER (ORDER BY id ROWS {} PRECEDING)", distance), table_->schema);
            QVERIFY(program);
            for (const EvaluatedCell& cell : ours(*program)) QVERIFY(isError(cell.state));
        }
    }
};

QTEST_APPLESS_MAIN(WindowOracleTest)
#include "window_oracle_test.moc"
