// SPDX-License-Identifier: MIT
// Conditions on parameters without a value are lifted from a SELECT; SQLite runs what is written, and a source loads
// with the values bound.
#include <QtTest>

#include <sqlite3.h>

#include "core/columns/civil.h"
#include "core/design/make_design.h"
#include "core/rules/query_parameters.h"
#include "core/sources/source.h"

using namespace jollyrow;

class QueryParametersTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    std::string path_ = folder_.filePath("yard.db").toStdString();

    QString run(const std::string& sql) const {
        sqlite3* connection = nullptr;
        sqlite3_open(path_.c_str(), &connection);
        QStringList rows;
        char* message = nullptr;
        const int code = sqlite3_exec(
            connection, sql.c_str(),
            [](void* out, int, char** values, char**) {
                *static_cast<QStringList*>(out) << QString::fromUtf8(values[0] ? values[0] : "NULL");
                return 0;
            },
            &rows, &message);
        if (code != SQLITE_OK) rows = {QString("error: ") + message};
        sqlite3_free(message);
        sqlite3_close(connection);
        return rows.join(' ');
    }

  private Q_SLOTS:
    void initTestCase() {
        QCOMPARE(run("CREATE TABLE jobs (number INTEGER PRIMARY KEY, owner TEXT, due_on DATE, hours DECIMAL(6,2));"
                     "INSERT INTO jobs VALUES (1, 'Ada', '2026-11-01', 2.5), (2, 'Bo', '2026-11-20', 4),"
                     "(3, NULL, '2026-12-01', 1.25), (4, 'O''Hara', NULL, NULL), (5, 'Ada', '2026-12-24', 12)"),
                 QString());
    }

    void namesAreFound() {
        QCOMPARE(parametersIn("SELECT ':no', \":no\", [:no], `:no` /* :no */ -- :no\n FROM t WHERE a = :yes AND b=:two "
                              "AND c = :yes AND d::text = 'x'"),
                 (std::vector<std::string>{"yes", "two"}));
        QVERIFY(parametersIn("SELECT 'open FROM t WHERE a = :x").empty());
        QVERIFY(parametersIn("").empty());
        QCOMPARE(comparedWith("SELECT * FROM jobs j WHERE j.due_on >= :from", "from"), std::string("due_on"));
        QCOMPARE(comparedWith("SELECT * FROM jobs WHERE owner LIKE :name", "name"), std::string("owner"));
        QCOMPARE(comparedWith("SELECT * FROM jobs WHERE lower(owner) = :name", "name"), std::string());
    }

    /// As PostgreSQL has them: each name one number, quotes, comments and casts left alone.
    void namesBecomeNumbers() {
        const auto numbered =
            withNumbers("SELECT ':no', a::text FROM t WHERE a = :yes AND b=:two /* :no */ OR c > :yes");
        QCOMPARE(numbered.query, std::string("SELECT ':no', a::text FROM t WHERE a = $1 AND b=$2 /* :no */ OR c > $1"));
        QCOMPARE(numbered.names, (std::vector<std::string>{"yes", "two"}));
        const auto none = withNumbers("SELECT 'open WHERE a = :x");
        QVERIFY(none.query == "SELECT 'open WHERE a = :x" && none.names.empty());
    }

    void conditionsAreLifted_data() {
        QTest::addColumn<QString>("where");
        QTest::addColumn<QString>("expected");  // the records left; every parameter is empty
        const auto row = [](const char* where, const char* expected) { QTest::newRow(where) << where << expected; };
        row("owner = :o", "1 2 3 4 5");
        row("owner = :o AND hours > 2", "1 2 5");
        row("hours > 2 AND owner = :o ORDER BY number DESC", "5 2 1");
        row("owner = :o OR hours > 2", "1 2 3 4 5");
        row("hours > 4 OR (owner = :o AND hours < 2)", "3 5");
        row("(owner = :o OR hours > 100) AND number < 3", "1 2");
        row("NOT owner = :o", "1 2 3 4 5");
        row("NOT (owner = :o)", "1 2 3 4 5");
        row("NOT (owner = :o OR hours > 4)", "1 2 3");
        row("NOT (NOT (owner = :o)) AND number = 2", "2");
        row("due_on BETWEEN :from AND :to AND hours > 2", "1 2 5");
        row("due_on BETWEEN '2026-11-01' AND '2026-11-30' AND owner = :o", "1 2");
        row("lower(owner) = lower(:o) AND number > 3", "4 5");
        row("owner IN ('Ada', :o) AND number > 3", "4 5");
        row("(hours + :more) * 2 > 3 AND number < 4", "1 2 3");
        row("coalesce(owner, :o) = 'Ada' OR number = 2", "1 2 3 4 5");
        row("number IN (SELECT number FROM jobs WHERE owner = :o AND number < 4)", "1 2 3");
        row("number NOT IN (SELECT number FROM jobs WHERE owner = :o) AND number < 4", "1 2 3");
        row("NOT EXISTS (SELECT 1 FROM jobs k WHERE k.owner = :o AND k.number = jobs.number)", "1 2 3 4 5");
        row("owner LIKE '%' || :o || '%' AND number < 3 -- :o stays\n", "1 2");
        row("CASE WHEN owner = :o THEN 1 ELSE 0 END = 0 AND number = 1", "1");  // inside CASE: bound as NULL
        row("owner = ':o' AND hours = :h", "");
        row("number < 3 GROUP BY owner HAVING count(*) > :n ORDER BY 1", "1 2");
        row("number = 1 LIMIT coalesce(:n, 1)", "1");
    }
    void conditionsAreLifted() {
        QFETCH(QString, where);
        QFETCH(QString, expected);
        const std::string query = "SELECT number FROM jobs WHERE " + where.toStdString();
        const auto names = parametersIn(query);
        const std::string lifted = withoutConditionsOn(query, {names.begin(), names.end()});
        const QString got = run(lifted);
        QVERIFY2(got == expected, qPrintable(QString::fromStdString(lifted) + " gives " + got));
        QCOMPARE(withoutConditionsOn(query, {"nobody"}), query);
    }

    /// Random brackets, quotes and words: never a crash, and without the parameter nothing changes.
    void hostileTextsAreLeftAlone() {
        const std::vector<std::string> bits = {"(",     ")",      "'",  "\"",        ":a",          " AND ", " OR ",
                                               " NOT ", "WHERE ", "/*", "*/",        "--",          "\n",    "=",
                                               " IN ",  "[",      "]",  " BETWEEN ", ";",           "::",    "x.y",
                                               "\xff",  "1",      ":",  "SELECT ",   " CASE WHEN ", "`"};
        std::uint32_t seed = 1;
        for (int round = 0; round < 20'000; ++round) {
            std::string text;
            for (int n = 0; n < 14; ++n) text += bits[(seed = seed * 1664525 + 1013904223) / 65536 % bits.size()];
            const std::string out = withoutConditionsOn(text, {"a"});
            QVERIFY(out.size() <= text.size() * 6 + 6);
            QCOMPARE(withoutConditionsOn(text, {"b"}), text);
            comparedWith(text, "a");
        }
        QCOMPARE(withoutConditionsOn(std::string(20'000, '(') + ":a", {"a"}).size(), std::size_t{20'002});
    }

    void aSourceBindsTheValues() {
        const auto source = openSource(path_);
        QVERIFY(source.ok());
        LoadRequest request;
        request.binding.query =
            "SELECT * FROM jobs WHERE owner = :owner AND due_on >= :from AND hours >= :least ORDER BY number";
        const auto schema = (*source)->schema(request.binding);
        QVERIFY2(schema.ok(), schema ? "" : schema.error().message.c_str());
        const Design design = designFor(*schema, {"sqlite", path_, "", request.binding.query});
        QCOMPARE(design.parameters.size(), std::size_t{3});
        QCOMPARE(design.parameters[1].type, Type::Date);
        QCOMPARE(design.parameters[2].type, Type::Decimal);
        const auto count = [&] {
            const auto table = (*source)->load(request, Cancel());
            return table ? static_cast<int>((*table)->rows) : -1;
        };
        QCOMPARE(count(), 5);
        request.parameters["owner"] = std::string("Ada");
        QCOMPARE(count(), 2);
        request.parameters["from"] = Date{*daysFromCivil({2026, 12, 1})};
        QCOMPARE(count(), 1);
        request.parameters["from"] = Empty{};
        request.parameters["least"] = Decimal{1000, 2};
        QCOMPARE(count(), 1);
        request.parameters = {{"owner", std::string("O'Hara")}};
        QCOMPARE(count(), 1);
        request.parameters = {{"owner", std::string("x' OR '1' = '1")}};
        QCOMPARE(count(), 0);
        const auto wrong = (*source)->schema({"", "SELECT * FROM jobs WHERE number = ?", {}});
        QVERIFY(!wrong && wrong.error().message.find(":name") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(QueryParametersTest)
#include "query_parameters_test.moc"
