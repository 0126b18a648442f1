// SPDX-License-Identifier: MIT
// Values that contradict what their column says of itself: nothing stored is taken for empty or for another value, by
// loading, rules, sums, groups, pick lists and saving.
#include <QtTest>

#include <random>

#include "core/rows/group_stage.h"
#include "core/rows/pick_list.h"
#include "core/rows/record_set.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluator.h"
#include "core/rules/program.h"
#include "core/rules/sort_list.h"
#include "core/rules/summary_list.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

std::string textOfCell(const EvaluatedCell& cell) {
    return isError(cell.state)              ? std::string(words(cell.state))
           : cell.state == CellState::Empty ? "empty"
                                            : textOf(cell.value);
}

EvaluationInput inputOf(std::shared_ptr<const Table> table) {
    EvaluationInput input;
    input.table = std::move(table);
    input.edits = std::make_shared<Edits>();
    return input;
}

std::string evaluated(const std::shared_ptr<const Table>& table, const std::string& rule, std::size_t row) {
    const auto program = compileRule(rule, table->schema, {});
    if (!program) return program.error().message;
    const auto cell = evaluateOne(*program, inputOf(table), static_cast<SourceRow>(row));
    return cell ? textOfCell(*cell) : cell.error().message;
}

std::string summedUp(const std::shared_ptr<const Table>& table, const std::string& summary) {
    const auto rules = parseSummaryList(summary, table->schema, {});
    if (!rules) return rules.error().message;
    const auto grouped = groupRows({}, summarySpecsOf(*rules), nullptr, inputOf(table), Cancel());
    return grouped ? textOfCell((*grouped)->total(0)) : grouped.error().message;
}

}  // namespace

class HardValuesTest : public QObject {
    Q_OBJECT
  private slots:
    void init() {
        QVERIFY(folder_.isValid());
        path_ = folder_.filePath("hard.db");
        QFile::remove(path_);
    }

    std::shared_ptr<const Table> made(const std::string& sql) {
        run(path_, sql);
        const auto table = loadAll(path_, {"t", ""});
        if (!table) qFatal("%s", table.error().message.c_str());
        return *table;
    }

    void aMillionHundredthsAreThemselves() {
        const auto table = made(
            "CREATE TABLE t (v DECIMAL(10,2)); WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM "
            "n WHERE i < 300000) INSERT INTO t SELECT i * 0.01 FROM n");
        const Column& column = *table->columns[0];
        QCOMPARE(column.misfitCount() + column.emptyCount(), std::size_t{0});
        for (std::size_t row = 0; row < table->rows; ++row)
            if (column.integer(static_cast<SourceRow>(row)) != static_cast<std::int64_t>(row) + 1)
                QFAIL(plain(*table, row, "v").c_str());
        QCOMPARE(summedUp(table, "SUM(v)"), std::string("450001500.00"));
    }

    void noiseIsNoDigitAndDigitsAreNoNoise_data() {
        QTest::addColumn<QString>("declared");
        QTest::addColumn<QString>("stored");
        QTest::addColumn<QString>("read");
        QTest::addColumn<bool>("fits");
        QTest::newRow("a sum of tenths") << "DECIMAL(10,2)"
                                         << "0.1 + 0.2"
                                         << "0.30" << true;
        QTest::newRow("text read one unit off") << "DECIMAL(10,6)"
                                                << "'0.002877'"
                                                << "0.002877" << true;
        QTest::newRow("a third decimal") << "DECIMAL(10,2)"
                                         << "0.125"
                                         << "0.125" << false;
        QTest::newRow("words") << "DECIMAL(10,2)"
                               << "'much'"
                               << "much" << false;
        QTest::newRow("infinity") << "DECIMAL(10,2)"
                                  << "9e999"
                                  << "Inf" << false;
        QTest::newRow("38 digits") << "DECIMAL(38,18)"
                                   << "9223372036854775807"
                                   << "9223372036854775807.000000000000000000" << true;
        QTest::newRow("too many for the scale") << "DECIMAL(38,30)"
                                                << "9223372036854775807"
                                                << "9223372036854775807" << false;
        QTest::newRow("unsized, seven decimals") << "NUMERIC"
                                                 << "52.3702157"
                                                 << "52.3702157" << true;
        QTest::newRow("unsized, whole") << "NUMERIC"
                                        << "5"
                                        << "5" << true;
        QTest::newRow("unsized, noise") << "NUMERIC"
                                        << "0.1 + 0.2"
                                        << "0.3" << true;
        QTest::newRow("unsized, a third") << "NUMERIC"
                                          << "1 / 3.0"
                                          << "0.3333333333333333" << true;
        QTest::newRow("a whole number past the doubles") << "REAL"
                                                         << "x"
                                                         << "" << true;
        QTest::newRow("span of time") << "INTERVAL"
                                      << "'2 days'"
                                      << "2 days" << true;
    }
    void noiseIsNoDigitAndDigitsAreNoNoise() {
        QFETCH(QString, declared);
        QFETCH(QString, stored);
        QFETCH(QString, read);
        QFETCH(bool, fits);
        if (stored == "x") {  // only a column of a view can hold it: REAL affinity makes a double of it
            run(path_,
                "CREATE TABLE w (v INTEGER); INSERT INTO w VALUES (9007199254740993), (1.5); CREATE VIEW t AS SELECT + "
                "v AS v FROM w");
            const auto table = loadAll(path_, {"t", ""});
            QCOMPARE(plain(**table, 0, "v"), std::string("9007199254740993"));
            QCOMPARE(plain(**table, 1, "v"), std::string("1.5"));
            return;
        }
        const auto table = made("CREATE TABLE t (v " + declared.toStdString() + "); INSERT INTO t VALUES (" +
                                stored.toStdString() + ")");
        QCOMPARE(plain(*table, 0, "v"), read.toStdString());
        QCOMPARE(table->misfitCount(), std::size_t(fits ? 0 : 1));
        QCOMPARE(evaluated(table, "v IS NULL", 0), std::string("false"));
        std::string shown;
        appendDisplay(shown, *table->columns[0], SourceRow{0},
                      {.type = table->schema.fields[0].type, .scale = table->schema.fields[0].scale, .grouped = false});
        QCOMPARE(shown, read.toStdString());
    }

    void aTypeHoldsForAllValues_data() {
        QTest::addColumn<QString>("first");
        QTest::addColumn<QString>("later");
        QTest::addColumn<int>("type");
        const auto row = [](const char* tag, const char* first, const char* later, Type type) {
            QTest::newRow(tag) << first << later << static_cast<int>(type);
        };
        row("whole numbers, then 1.5", "7", "1.5", Type::Real);
        row("whole numbers, then words", "7", "'otter'", Type::Text);
        row("doubles, then words", "0.5", "'otter'", Type::Text);
        row("empties, then whole numbers", "NULL", "12", Type::Integer);
        row("words, then a number", "'otter'", "12", Type::Text);
        row("bytes, then words", "x'01'", "'otter'", Type::Text);
        row("whole numbers only", "7", "12", Type::Integer);
    }
    void aTypeHoldsForAllValues() {
        QFETCH(QString, first);
        QFETCH(QString, later);
        QFETCH(int, type);
        const auto sql =
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 250) SELECT i, CASE WHEN i = 250 "
            "THEN %1 ELSE %2 END AS v FROM n";
        run(path_,
            "CREATE TABLE u (i INTEGER PRIMARY KEY, v); INSERT INTO u " + QString(sql).arg(later, first).toStdString());
        for (const Binding& binding : {Binding{"u", ""}, Binding{"", "SELECT i, v FROM u"}}) {
            const auto table = loadAll(path_, binding);
            QVERIFY2(table.ok(), table.ok() ? "" : table.error().message.c_str());
            QCOMPARE(static_cast<int>((*table)->schema.fields[1].type), type);
            QCOMPARE(plain(**table, 249, "v"), later.remove('\'').toStdString());
            QCOMPARE((*table)->rows, std::size_t{250});
            const std::size_t blobs = first.startsWith("x'") ? 249 : 0;
            QCOMPARE((*table)->misfitCount(), blobs);
        }
    }

    void aDeclarationThatNoValueKeepsToIsNone_data() {
        QTest::addColumn<QString>("declared");
        QTest::addColumn<QStringList>("values");
        QTest::addColumn<int>("type");
        QTest::addColumn<int>("misfits");
        const auto row = [](const char* tag, const char* declared, const QStringList& values, Type type, int misfits) {
            QTest::newRow(tag) << declared << values << static_cast<int>(type) << misfits;
        };
        const QStringList times{"'10:00'", "'11:00:00'", "'half past ten'"};
        row("times without a day", "TIMESTAMP", times, Type::Text, 0);
        row("no spans", "INTERVAL", {"'soon'", "'later'", "'2 moons'"}, Type::Text, 0);
        row("minutes for spans", "INTERVAL", {"90", "15", "0"}, Type::Integer, 0);
        row("seconds of an epoch", "DATETIME", {"1764410400", "0", "-1"}, Type::Integer, 0);
        row("an epoch with fractions", "TIMESTAMP", {"1764410400.25", "1.5", "2.5"}, Type::Real, 0);
        row("days in another order", "DATE", {"'29/11/2026'", "'30/11/2026'", "'01/12/2026'"}, Type::Text, 0);
        row("yes and no", "BOOLEAN", {"'yes'", "'no'", "'yes'"}, Type::Text, 0);
        row("names of records", "INTEGER", {"'a7'", "'b8'", "'c9'"}, Type::Text, 0);
        row("prices in words", "NUMERIC", {"'two'", "'three'", "'four'"}, Type::Text, 0);
        row("pictures", "TEXT", {"x'89504E47'", "x'00'", "x'01'"}, Type::Binary, 0);
        row("of several kinds", "DATE", {"'soon'", "20261129", "1.5"}, Type::Date, 3);
        row("one slip or two", "DATE", {"'soon'", "'later'", "NULL"}, Type::Date, 2);
        row("one keeps to it", "TIMESTAMP", times + QStringList{"'2026-11-29T10:00:00'"}, Type::Timestamp, 3);
        row("nothing to go by", "DATE", {"NULL", "NULL", "NULL", "NULL"}, Type::Date, 0);
        row("texts of no length", "DATE", {"''", "''", "''", "''"}, Type::Date, 4);
    }
    /// Each value stands in the table as it is stored, whatever the column is taken for.
    void aDeclarationThatNoValueKeepsToIsNone() {
        QFETCH(QString, declared);
        QFETCH(QStringList, values);
        QFETCH(int, type);
        QFETCH(int, misfits);
        QString sql = "CREATE TABLE t (id INTEGER PRIMARY KEY, v " + declared + "); CREATE VIEW w AS SELECT * FROM t;";
        for (const QString& value : values) sql += "INSERT INTO t (v) VALUES (" + value + ");";
        const auto table = made(sql.toStdString());
        QCOMPARE(static_cast<int>(table->schema.fields[1].type), type);
        QCOMPARE(table->schema.fields[1].declaredType, declared.toStdString());
        QCOMPARE(table->misfitCount(), static_cast<std::size_t>(misfits));
        for (qsizetype i = 0; i < values.size(); ++i) {
            const QString stored = values[i] == "NULL"         ? ""
                                   : values[i].startsWith('x') ? values[i].mid(1).toLower()
                                                               : values[i];
            QCOMPARE(QString::fromStdString(plain(*table, static_cast<std::size_t>(i), "v")),
                     QString(stored).remove('\''));
            QCOMPARE(table->column(FieldIndex{1})->isEmpty(static_cast<SourceRow>(i)) &&
                         !table->column(FieldIndex{1})->misfit(static_cast<SourceRow>(i)),
                     values[i] == "NULL");
        }
        // Where the first record may take long nothing is looked at beforehand; nothing is lost there either.
        const auto view = loadAll(path_, {"w", ""});
        QVERIFY(view.ok());
        for (std::size_t i = 0; i < table->rows; ++i)
            QVERIFY(plain(**view, i, "v") == plain(*table, i, "v") || type == static_cast<int>(Type::Binary));
    }

    void whatFitsNoTypeIsNotEmpty() {
        const auto table = made(
            "CREATE TABLE t (d DATE, h DECIMAL(6,2), s TEXT); INSERT INTO t VALUES ('2026-11-29', 2.5, 'a'), "
            "('soon', 'long', x'00'), (NULL, NULL, NULL), ('2026-12-01', 4, 'a')");
        QCOMPARE(evaluated(table, "d IS NULL", 1), std::string("false"));
        QCOMPARE(evaluated(table, "s IS NULL", 1), std::string("false"));
        QCOMPARE(evaluated(table, "d IS NULL", 2), std::string("true"));
        QCOMPARE(evaluated(table, "d IS NOT NULL", 1), std::string("true"));
        for (const char* rule : {"h + 1", "d > DATE '2026-01-01'", "UPPER(s)", "COALESCE(h, 0)", "CAST(h AS TEXT)"})
            QCOMPARE(evaluated(table, rule, 1), std::string(words(CellState::Misfit)));
        QCOMPARE(summedUp(table, "SUM(h)"), std::string("6.50"));
        QCOMPARE(summedUp(table, "COUNT(h)"), std::string("2"));
        QCOMPARE(summedUp(table, "MIN(d)"), std::string("2026-11-29"));
        QCOMPARE(summedUp(table, "PERCENTILE_DISC(0.5) WITHIN GROUP (ORDER BY h)"), std::string("2.50"));
        QCOMPARE(summedUp(table, "COUNT(DISTINCT s)"), std::string("1"));

        for (const char* key : {"d", "h", "s"}) {
            const auto keys = parseSortList(key, table->schema, {});
            const auto grouped = groupRows(groupTermsOf(*keys), {}, nullptr, inputOf(table), Cancel());
            QVERIFY(grouped.ok());
            std::size_t odd = 0, empty = 0;
            for (const auto& node : (*grouped)->tree->nodes) {
                odd += (*grouped)->tree->keyState(node) == CellState::Misfit ? 1 : 0;
                empty += (*grouped)->tree->keyState(node) == CellState::Empty ? 1 : 0;
            }
            QCOMPARE(odd, std::size_t{1});
            QCOMPARE(empty, std::size_t{1});
            RankCache ranks;
            const auto field = *table->schema.find(key);
            const auto list = pickListOf(*table->column(field), field, nullptr, nullptr, {}, ranks, Cancel());
            QCOMPARE((*list)->empties, std::int64_t{1});
            QCOMPARE((*list)->misfits, std::int64_t{1});
        }
    }

    void sumsOfWholeNumbersAreAsWideAsTheDatabaseHasThem() {
        const auto table =
            made("CREATE TABLE t (i INTEGER, b BIGINT, d DECIMAL(6,2)); INSERT INTO t VALUES (3, 3, 3), (4, 4, 4)");
        QCOMPARE(summedUp(table, "SUM(i) / COUNT(*)"), std::string("3"));
        QCOMPARE(summedUp(table, "SUM(b) / COUNT(*)"), std::string("3.5000000000000000"));
        QCOMPARE(summedUp(table, "SUM(d) / COUNT(*)"), std::string("3.5000000000000000"));
        QCOMPARE(summedUp(table, "SUM(i + b) / COUNT(*)"), std::string("7.0000000000000000"));
        QCOMPARE(summedUp(table, "SUM(i * 9223372036854775807)"), std::string(words(CellState::TooLarge)));
        QCOMPARE(summedUp(table, "AVG(i)"), std::string("3.5000000000000000"));
        QCOMPARE(evaluated(table, "SUM(i) OVER () / 2", 0), std::string("3"));
        QCOMPARE(evaluated(table, "SUM(b) OVER () / 2", 0), std::string("3.5000000000000000"));
    }

    void anExactNumberComesBackOrIsRefused() {
        run(path_,
            "CREATE TABLE t (id INTEGER PRIMARY KEY, v DECIMAL(30,10), w TEXT); INSERT INTO t VALUES (1, 1.5, 'a')");
        const auto source = openSource(path_.toStdString());
        const auto schema = (*source)->schema({"t", ""});
        auto store = openStore(path_.toStdString());
        const FieldIndex v = *schema->find("v");
        RecordWrite request;
        request.schema = *schema;
        request.key = {std::int64_t{1}};
        request.keyFields = {FieldIndex{0}};
        const Value typed = *parseTyped("12345678901234567890.1234567891", schema->field(v));
        request.changes = {{v, *parseTyped("1.5", schema->field(v)), typed}};
        const auto refused = writeOne(**store, request);
        QVERIFY(!refused.ok() && refused.error().code == ErrorCode::Refused);
        QVERIFY(refused.error().message.find("v") != std::string::npos);
        request.changes[0].after = *parseTyped("1184.1", schema->field(v));
        const auto kept = writeOne(**store, request);
        QVERIFY2(kept.ok(), kept.ok() ? "" : kept.error().message.c_str());
        QVERIFY(kept->values.front() == request.changes[0].after);
        QCOMPARE(plain(**loadAll(path_, {"t", ""}), 0, "v"), std::string("1184.1000000000"));
    }

    /// SQLite takes texts that spell a number for that number in columns of numeric affinity. Whatever is typed into a
    /// text column is stored letter by letter or refused.
    void aTextComesBackOrIsRefused() {
        run(path_, "CREATE TABLE t (id INTEGER PRIMARY KEY, v STRING, x TEXT); INSERT INTO t VALUES (1, 'a', 'a')");
        const auto source = openSource(path_.toStdString());
        const auto schema = (*source)->schema({"t", ""});
        auto store = openStore(path_.toStdString());
        std::mt19937 random(7);
        int refusals = 0;
        for (int turn = 0; turn < 300; ++turn) {
            std::string typed;
            const char letters[] = "0017.eE+- \tx";
            for (std::size_t n = 1 + random() % 5; n-- > 0;) typed += letters[random() % (sizeof(letters) - 1)];
            if (turn % 20 == 0) typed.assign(10 + random() % 15, static_cast<char>('0' + random() % 10));
            for (const char* name : {"v", "x"}) {
                const std::string before = plain(**loadAll(path_, {"t", ""}), 0, name);
                RecordWrite request{
                    *schema, {std::int64_t{1}}, false, {FieldIndex{0}}, {{*schema->find(name), before, typed}}};
                const auto answer = writeOne(**store, request);
                const std::string now = plain(**loadAll(path_, {"t", ""}), 0, name);
                QVERIFY2(now == (answer.ok() ? typed : before),
                         (name + (": \"" + typed + "\" stands as \"" + now + "\"")).c_str());
                if (answer.ok()) continue;
                QCOMPARE(std::string(name), std::string("v"));  // declared TEXT, it keeps all
                QVERIFY(answer.error().code == ErrorCode::Refused &&
                        answer.error().message.ends_with("what is typed."));
                ++refusals;
            }
        }
        QVERIFY(refusals > 20);
    }

    void misfitsGoBackAsTheyWereStored() {
        run(path_,
            "CREATE TABLE t (id INTEGER PRIMARY KEY, d DATE); INSERT INTO t VALUES (1, 'soon'), (2, 20261129), (3, "
            "1.5)");
        const auto table = *loadAll(path_, {"t", ""});
        auto store = openStore(path_.toStdString());
        const FieldIndex d = *table->schema.find("d");
        for (std::int64_t id = 1; id <= 3; ++id) {
            const Value odd = table->column(d)->value(static_cast<SourceRow>(id - 1));
            RecordWrite request{table->schema, {id}, false, {FieldIndex{0}}, {{d, odd, Date{1}}}};
            QVERIFY(writeOne(**store, request).ok());
            request.changes = {{d, Date{1}, odd}};
            QVERIFY(writeOne(**store, request).ok());
        }
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        sqlite3_stmt* types = nullptr;
        sqlite3_prepare_v2(db, "SELECT group_concat(typeof(d) || ' ' || d) FROM t", -1, &types, nullptr);
        QCOMPARE(sqlite3_step(types), SQLITE_ROW);
        QCOMPARE(QString(reinterpret_cast<const char*>(sqlite3_column_text(types, 0))),
                 "text soon,integer 20261129,real 1.5");
        sqlite3_finalize(types);
        sqlite3_close(db);
    }

    void wideNumbersSortGroupAndPick() {
        std::string sql = "CREATE TABLE t (v DECIMAL(38,10));";
        for (const char* v :
             {"9223372036854775807", "-9223372036854775807", "0.5", "NULL", "3", "9223372036854775806", "3"})
            sql += std::string("INSERT INTO t VALUES (") + v + ");";
        const auto table = made(sql);
        QVERIFY(table->columns[0]->isWide());
        QCOMPARE(summedUp(table, "SUM(v)"), std::string("9223372036854775812.5000000000"));
        QCOMPARE(summedUp(table, "MAX(v)"), std::string("9223372036854775807.0000000000"));
        RankCache ranks;
        const SortColumn key{table->columns[0], Direction::Descending, Empties::Last, {}};
        const auto order = sortRows(std::span(&key, 1), table->rows, ranks, Cancel());
        QVERIFY(order.ok());
        QCOMPARE(**order, (RowOrder{0, 5, 4, 6, 2, 1, 3}));
        const auto keys = parseSortList("v", table->schema, {});
        const auto grouped = groupRows(groupTermsOf(*keys), {}, nullptr, inputOf(table), Cancel());
        QCOMPARE((*grouped)->tree->nodes.size(), std::size_t{6});
        const auto list = pickListOf(*table->columns[0], FieldIndex{0}, nullptr, nullptr, {}, ranks, Cancel());
        QCOMPARE((*list)->entries.size(), std::size_t{5});
        QVERIFY(exactOf((*list)->entries.front().value) == parseWideDecimal("-9223372036854775807"));
        QCOMPARE(evaluated(table, "v + 1", 0), std::string("9223372036854775808.0000000000"));
        QCOMPARE(evaluated(table, "v = 9223372036854775807", 0), std::string("true"));
    }

  private:
    QTemporaryDir folder_;
    QString path_;
};

QTEST_GUILESS_MAIN(HardValuesTest)
#include "hard_values_test.moc"
