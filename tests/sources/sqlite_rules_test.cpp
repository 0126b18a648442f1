// SPDX-License-Identifier: MIT
// What the SQL writer gives to SQLite, SQLite computes as we do: thousands of generated expressions over hard records,
// as far as the writer lets them go.
#include <QtTest>

#include <sqlite3.h>

#include "core/rules/evaluator.h"
#include "core/rules/sql_writer.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_rules.h"
#include "tests/rules/rule_generator.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;

class SqliteRulesTest : public QObject {
    Q_OBJECT
    sqlite::Connection connection_;
    std::shared_ptr<const Table> table_;

    static void bind(sqlite3_stmt* statement, int index, const RuleValue& value) {
        if (std::holds_alternative<Empty>(value))
            sqlite3_bind_null(statement, index);
        else if (const auto* whole = std::get_if<std::int64_t>(&value))
            sqlite3_bind_int64(statement, index, *whole);
        else if (const auto* yes = std::get_if<bool>(&value))
            sqlite3_bind_int(statement, index, *yes ? 1 : 0);
        else if (const auto* real = std::get_if<double>(&value))
            sqlite3_bind_double(statement, index, *real);
        else {
            const std::string text = textOf(value);
            sqlite3_bind_text(statement, index, text.data(), static_cast<int>(text.size()), SQLITE_TRANSIENT);
        }
    }

    /// The value of one record as text; "(error)" when SQLite refuses.
    std::string theirs(const SqlRule& sql, std::size_t row) {
        auto statement = sqlite::prepare(connection_.get(),
                                         "SELECT " + sql.text + " FROM records WHERE id = " + std::to_string(row + 1));
        if (!statement) return "(wrong SQL) " + statement.error().message;
        for (std::size_t i = 0; i < sql.values.size(); ++i)
            bind(statement->get(), static_cast<int>(i) + 1, sql.values[i]);
        if (sqlite3_step(statement->get()) != SQLITE_ROW) return "(error)";
        if (sqlite3_column_type(statement->get(), 0) == SQLITE_NULL) return "(empty)";
        return std::string(sqlite::columnText(statement->get(), 0));
    }

    static std::string ours(const EvaluatedCell& cell) {
        if (isError(cell.state)) return "(error)";
        if (cell.state == CellState::Empty) return "(empty)";
        if (const auto* yes = std::get_if<bool>(&cell.value)) return *yes ? "1" : "0";
        return textOf(cell.value);
    }

  private Q_SLOTS:
    void initTestCase() {
        auto opened = sqlite::open(":memory:", sqlite::OpenMode::Create);
        QVERIFY(opened.ok());
        connection_ = std::move(*opened);
        QVERIFY(sqlite::registerRules(connection_.get()).ok());
        const auto fields = test::hardFields();
        table_ = test::tableOf(fields);
        std::string columns, marks;
        for (std::size_t k = 0; k < fields.size(); ++k) {
            columns += (k == 0 ? "" : ", ") + fields[k].name +
                       (isNumber(fields[k].type) || fields[k].type == Type::Boolean ? " NUMERIC" : " TEXT");
            marks += (k == 0 ? "?" : ", ?") + std::to_string(k + 1);
        }
        QVERIFY(sqlite::execute(connection_.get(), ("CREATE TABLE records (" + columns + ")").c_str()).ok());
        for (std::size_t row = 0; row < table_->rows; ++row) {
            auto insert = sqlite::prepare(connection_.get(), "INSERT INTO records VALUES (" + marks + ")");
            QVERIFY(insert.ok());
            for (std::size_t k = 0; k < fields.size(); ++k)
                bind(insert->get(), static_cast<int>(k) + 1,
                     fields[k].values[row] ? ruleValue(test::valueOf(fields[k], *fields[k].values[row]))
                                           : RuleValue(Empty{}));
            QCOMPARE(sqlite3_step(insert->get()), SQLITE_DONE);
        }
    }

    void whatIsPushedIsComputedAlike() {
        test::Generator generator(77);
        int pushed = 0, compared = 0;
        const RuleKind kKinds[] = {RuleKind::Boolean, RuleKind::Boolean, RuleKind::Text, RuleKind::Integer,
                                   RuleKind::Date};
        for (int n = 0; n < 12000; ++n) {
            const std::string rule = generator.make(kKinds[static_cast<std::size_t>(n) % std::size(kKinds)], 1 + n % 3);
            const auto program = compileRule(rule, table_->schema);
            QVERIFY2(program.ok(), rule.c_str());
            SqlOptions options;
            options.today = 20780;
            const auto sql = sqlOf(**program, table_->schema, SqlDialect::Sqlite, options);
            if (!sql) continue;
            ++pushed;
            EvaluationInput input;
            input.table = table_;
            input.today = 20780;
            const auto evaluation = Evaluation::prepare(*program, input, Cancel());
            Runner runner(*evaluation);
            const Vector& values = runner.run(0, table_->rows);
            for (std::size_t row = 0; row < table_->rows; ++row) {
                const std::string mine = ours(cellOf(values, row)), other = theirs(*sql, row);
                ++compared;
                // SQLite promises no order of evaluation: an error may be met that we did not need to look at.
                if (other == "(error)" && rule.find("LIKE") != std::string::npos) continue;
                QVERIFY2(mine == other,
                         qPrintable(QString("record %1: %2, SQLite %3\n%4\n%5")
                                        .arg(row + 1)
                                        .arg(mine.c_str(), other.c_str(), rule.c_str(), sql->text.c_str())));
            }
        }
        qInfo("%d rules pushed, %d values compared", pushed, compared);
        QVERIFY(pushed > 1000);
    }
};

QTEST_APPLESS_MAIN(SqliteRulesTest)
#include "sqlite_rules_test.moc"
