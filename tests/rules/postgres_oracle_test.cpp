// SPDX-License-Identifier: MIT
// The rule language against PostgreSQL: thousands of generated expressions over hard values give the same value, or an
// error on both sides. The SQL is our own writer's, so it is proven as well. Differences we mean are in `isMeant`, and
// in docs/formats/rules.md.
#include <QtTest>

#include <cmath>
#include <random>

#include "core/rules/evaluator.h"
#include "core/rules/sql_writer.h"
#include "tests/rules/oracle_cells.h"
#include "tests/rules/postgres_server.h"
#include "tests/rules/rule_generator.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;
using jollyrow::test::agrees;
using jollyrow::test::described;
using jollyrow::test::Generator;
using jollyrow::test::near;

namespace {

std::vector<std::optional<std::string>> asTexts(const std::vector<RuleValue>& values) {
    std::vector<std::optional<std::string>> out;
    for (const RuleValue& value : values)
        out.push_back(std::holds_alternative<Empty>(value) ? std::nullopt : std::optional(textOf(value)));
    return out;
}

/// Differences we mean (docs/formats/rules.md): decimals have 38 digits, years are 1 to 9999 (also on the way, as when
/// a difference of times is added), IN goes through its items in turn up to the one that fits (PostgreSQL takes
/// constants first), a LIKE pattern that ends with its escape is always wrong.
bool isMeant(const EvaluatedCell& ours, bool theyFailed, const std::optional<std::string>& theirs,
             const std::string& rule) {
    if (theyFailed) return !isError(ours.state) && rule.find(" IN (") != std::string::npos;
    const auto says = [&](const char* words) { return rule.find(words) != std::string::npos; };
    if (ours.state == CellState::BadPattern) return says("LIKE") || says("SIMILAR TO");
    if (isError(ours.state) && says(" IN (")) return true;
    if (ours.state == CellState::TooLarge && (says("TIMESTAMP) - ") || says(" - ts)"))) return true;
    if (!theirs) return false;
    // Of powers and exponentials 33 digits, also on the way to something else.
    const bool isPower = says("POWER(") || says("EXP(");
    if (isPower && ours.state == CellState::TooLarge) return true;
    const auto digits = std::count_if(theirs->begin(), theirs->end(), [](char c) { return c >= '0' && c <= '9'; });
    if (ours.state == CellState::TooLarge) return digits > 37 || theirs->find(" BC") != std::string::npos;
    // Fewer digits, but right ones.
    const auto* decimal = std::get_if<WideDecimal>(&ours.value);
    constexpr int kFunctionDigits = 33;
    if ((digits <= kFunctionDigits && !isPower) || !decimal) return false;
    const long double a = std::strtold(toString(*decimal).c_str(), nullptr), b = std::strtold(theirs->c_str(), nullptr);
    return std::fabs(a - b) <= 1e-17L * std::max(std::fabs(a), std::fabs(b));
}

}  // namespace

class PostgresOracleTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    std::shared_ptr<const Table> table_;

    struct Comparison {
        int compared = 0, failed = 0, meant = 0;
    };

    /// Empty when equal on all records, else what differs.
    std::string difference(const std::string& rule, Comparison& counts) {
        const auto program = compileRule(rule, table_->schema);
        if (!program) return "does not bind: " + program.error().message;
        EvaluationInput input;
        input.table = table_;
        input.today = 20780;
        const auto evaluation = Evaluation::prepare(*program, input, Cancel());
        if (!evaluation) return evaluation.error().message;
        Runner runner(*evaluation);
        const Vector& ours = runner.run(0, table_->rows);
        SqlOptions options;
        options.today = 20780;
        const auto sql = sqlOf(**program, table_->schema, SqlDialect::PostgreSql, options);
        if (!sql) return sql.error().message;
        const auto values = asTexts(sql->values);
        const auto whole = server_.query("SELECT " + sql->text + " FROM records ORDER BY id", values);
        if (!whole.ok && (whole.error.find("syntax error") != std::string::npos ||
                          whole.error.find("does not exist") != std::string::npos))
            return "the SQL is wrong: " + whole.error + sql->text;
        for (std::size_t row = 0; row < table_->rows; ++row) {
            std::optional<std::string> theirs;
            bool failed = false;
            std::string why;
            if (whole.ok) {
                theirs = whole.cells[row];
            } else {
                const auto one = server_.query(
                    "SELECT " + sql->text + " FROM records WHERE id = " + std::to_string(row + 1), values);
                failed = !one.ok;
                why = one.error;
                // A double that vanishes is 0 here and an error there (docs/formats/rules.md).
                if (why.find("underflow") != std::string::npos) continue;
                if (one.ok) theirs = one.cells[0];
            }
            const EvaluatedCell cell = cellOf(ours, row);
            ++counts.compared;
            counts.failed += isError(cell.state) ? 1 : 0;
            if (agrees(cell, failed, theirs)) continue;
            ++counts.meant;
            if (!isMeant(cell, failed, theirs, rule))
                return fmt::format("record {}: we say {}, PostgreSQL {}\n  rule {}\n  SQL {}", row + 1, described(cell),
                                   failed ? why : theirs.value_or("(empty)"), rule, sql->text);
        }
        return {};
    }

  private Q_SLOTS:
    void initTestCase() {
        const std::string failure = server_.start();
        if (!failure.empty()) QFAIL(failure.c_str());
        table_ = test::tableOf(test::hardFields());
        const std::string filled = test::fillRecords(server_, test::hardFields());
        QVERIFY2(filled.empty(), filled.c_str());
    }

    void generatedExpressionsAgree() {
        const int wanted = qEnvironmentVariableIntValue("JOLLYROW_ORACLE_RULES") > 0
                               ? qEnvironmentVariableIntValue("JOLLYROW_ORACLE_RULES")
                               : 6000;
        const int seed = qEnvironmentVariableIntValue("JOLLYROW_ORACLE_SEED");
        Generator generator(20261123u + static_cast<unsigned>(seed));
        Comparison counts;
        int differing = 0;
        for (int n = 0; n < wanted; ++n) {
            const std::string rule = generator.make(generator.anyKind(), 1 + n % 4);
            const std::string found = difference(rule, counts);
            if (found.empty()) continue;
            qWarning("%s", found.c_str());
            if (++differing > 20) break;
        }
        qInfo("%d values compared, %d of them errors on both sides, %d meant to differ", counts.compared, counts.failed,
              counts.meant);
        QCOMPARE(differing, 0);
        QVERIFY(counts.failed < counts.compared / 2);
        QVERIFY2(counts.meant * 500 < counts.compared, qPrintable(QString::number(counts.meant)));
    }

    void aggregatesOverAllRecordsAgree_data() {
        QTest::addColumn<QString>("rule");
        for (const char* rule : {"COUNT(*) OVER ()",
                                 "COUNT(d) OVER (PARTITION BY b)",
                                 "SUM(d) OVER ()",
                                 "SUM(j) OVER (PARTITION BY b)",
                                 "AVG(e) OVER ()",
                                 "AVG(j) OVER (PARTITION BY i)",
                                 "MIN(s) OVER ()",
                                 "MAX(s) OVER (PARTITION BY b)",
                                 "MIN(dt) OVER ()",
                                 "MAX(ts) OVER (PARTITION BY i)",
                                 "RANK() OVER (ORDER BY d)",
                                 "RANK() OVER (ORDER BY d DESC)",
                                 "RANK() OVER (PARTITION BY b ORDER BY j, s DESC)",
                                 "ROW_NUMBER() OVER (ORDER BY j, id)",
                                 "PERCENT_RANK() OVER (ORDER BY e)",
                                 "d > AVG(d) OVER ()",
                                 "COUNT(*) OVER (PARTITION BY s) > 1",
                                 "MAX(d) OVER (PARTITION BY EXTRACT(YEAR FROM dt))",
                                 "SUM(r) OVER (PARTITION BY b)",
                                 "d * 100 / NULLIF(SUM(d) OVER (), 0)"})
            QTest::newRow(rule) << rule;
    }
    void aggregatesOverAllRecordsAgree() {
        QFETCH(QString, rule);
        Comparison counts;
        const std::string found = difference(rule.toStdString(), counts);
        QVERIFY2(found.empty(), found.c_str());
    }
};

QTEST_APPLESS_MAIN(PostgresOracleTest)
#include "postgres_oracle_test.moc"
