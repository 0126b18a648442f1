// SPDX-License-Identifier: MIT
// Tables of servers that nobody would have made for us: names, widths, rights, and tables that change under a form.
#include <QtTest>

#include <fmt/format.h>

#include "core/design/grouping.h"
#include "core/design/make_design.h"
#include "core/rows/group_stage.h"
#include "core/rows/sort_stage.h"
#include "core/rules/evaluator.h"
#include "core/rules/sort_list.h"
#include "core/rules/sql_writer.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "tests/rules/postgres_server.h"
#include "tests/session/inbox.h"
#include "tests/sources/conformance.h"

using namespace jollyrow;

class ServerTablesTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    std::string address_;

    void does(const std::string& sql) {
        const std::string wrong = server_.execute(sql);
        if (!wrong.empty()) qFatal("%s: %s", wrong.c_str(), sql.substr(0, 300).c_str());
    }
    std::string asked(const std::string& sql) {
        const auto answer = server_.query(sql);
        if (!answer.ok) qFatal("%s", answer.error.c_str());
        return answer.cells.empty() ? "(none)" : answer.cells.front().value_or("(null)");
    }
    Result<std::shared_ptr<const Table>> loaded(const std::string& table) const {
        LoadRequest request;
        request.binding.table = table;
        return (*openSource(address_))->load(request, Cancel());
    }

  private Q_SLOTS:
    void initTestCase() {
        QCOMPARE(server_.start(), std::string());
        address_ = server_.address();
    }

    /// Whatever a table and its columns are called, they are read and written by these names and no others.
    void names_data() {
        QTest::addColumn<QString>("name");
        const QString long63 = QString("x").repeated(60) + "\"'é";  // 64 bytes less one
        for (const QString& name :
             {QString("select"), QString("a\"b"), QString("a'b"), QString("Ümläut Straße"), QString("日本"),
              QString("with.dot"), QString("%s$1?"), QString(" "), QString("semi;drop table x"), QString("a\\b"),
              QString("{\"json\"}"), QString("tab\there"), QString("q.c1"), QString("t0"), long63.left(61)})
            QTest::newRow(qPrintable(name)) << name;
    }
    void names() {
        QFETCH(QString, name);
        std::string quoted = "\"";
        for (const char c : name.toStdString()) quoted += c == '"' ? std::string("\"\"") : std::string(1, c);
        quoted += '"';
        does(fmt::format(
            "DROP SCHEMA IF EXISTS s CASCADE; CREATE SCHEMA s; CREATE TABLE s.{0} ({0} text PRIMARY KEY, other text "
            "REFERENCES s.{0}); INSERT INTO s.{0} VALUES ('one', NULL), ('two', 'one')",
            quoted));
        const auto tables = (*openSource(address_))->tables();
        QVERIFY(tables.ok());
        const std::string table = "s." + name.toStdString();
        QVERIFY(std::any_of(tables->begin(), tables->end(), [&](const auto& t) { return t.name == table; }));
        const auto all = loaded(table);
        QVERIFY2(all.ok(), all.ok() ? "" : all.error().message.c_str());
        QCOMPARE((*all)->rows, std::size_t{2});
        const auto field = (*all)->schema.find(name.toStdString());
        QVERIFY(field);
        auto store = openStore(address_);
        const auto written = writeOne(**store, test::writeOf(**all, 1, *field, std::string("three")));
        QVERIFY2(written.ok(), written.ok() ? "" : written.error().message.c_str());
        QCOMPARE(asked(fmt::format("SELECT string_agg({0}, '|' ORDER BY {0}) FROM s.{0}", quoted)),
                 std::string("one|three"));
        RecordWrite gone = test::writeOf(**all, 0, *field, Value(Empty{}));
        gone.change = RecordChange::Delete;
        gone.changes.clear();
        const auto kept = (*store)->write({&gone, 1}, Atomicity::EachRecord, Cancel());
        QVERIFY(std::get<Problem>(kept->front()).message.find("Other records point to this one") != std::string::npos);
        const auto dependents = (*openSource(address_))->dependentsOf({test::recordOf(**all, 0)}, Cancel());
        QVERIFY(dependents.ok() && dependents->size() == 1 && dependents->front().records == 1);
    }

    /// As wide as a table of the server can be.
    void manyColumns() {
        std::string columns, values;
        for (int i = 1; i < 1600; ++i) {
            columns += fmt::format(", c{} smallint", i);
            values += fmt::format(", {}", i);
        }
        does("CREATE TABLE wide (id integer PRIMARY KEY" + columns + "); INSERT INTO wide VALUES (1" + values + ")");
        const auto table = loaded("wide");
        QVERIFY2(table.ok(), table.ok() ? "" : table.error().message.c_str());
        QCOMPARE((*table)->schema.fields.size(), std::size_t{1600});
        QVERIFY((*table)->column(FieldIndex{1599})->value(SourceRow{0}) == Value(std::int64_t{1599}));
        auto store = openStore(address_);
        QVERIFY(writeOne(**store, test::writeOf(**table, 0, FieldIndex{1599}, Value(std::int64_t{-5}))).ok());
        QCOMPARE(asked("SELECT c1599 FROM wide"), std::string("-5"));
    }

    /// A `real` is the number that was written into it: shown, found by a rule, saved without a conflict, and a key.
    void numbersOfSinglePrecision() {
        does(
            "CREATE TABLE small (r real PRIMARY KEY, other real, word text); INSERT INTO small VALUES (1004.3, 0.1, "
            "'a'), "
            "(-34.84, 1e-20, 'b'), (16777216, 1.2345679e20, 'c'), (3.4028235e38, 'NaN', 'd'), (0.5, '-Infinity', 'e')");
        auto read = loaded("small");
        QVERIFY(read.ok());
        const Table& table = **read;
        const FieldIndex r = *table.schema.find("r"), other = *table.schema.find("other");
        const std::vector<double> wanted = {1004.3, -34.84, 16777216, 3.4028235e38, 0.5};
        std::size_t found = 0;
        for (std::size_t row = 0; row < table.rows; ++row)
            for (const double value : wanted)
                found += table.column(r)->value(static_cast<SourceRow>(row)) == Value(value) ? 1 : 0;
        QCOMPARE(found, wanted.size());
        auto store = openStore(address_);
        for (std::size_t row = 0; row < table.rows; ++row) {
            const auto written = writeOne(**store, test::writeOf(table, row, other, Value(0.1)));
            QVERIFY2(written.ok(), written.ok() ? "" : written.error().message.c_str());
        }
        QCOMPARE(asked("SELECT count(*) FROM small WHERE other = 0.1::real"), std::string("5"));
        // The condition as the server is asked finds the same records.
        const auto program = compileRule("r IN (1004.3::float8, 0.5) OR r < -34.83", table.schema);
        QVERIFY(program.ok());
        const auto sql = sqlOf(**program, table.schema, SqlDialect::PostgreSql, {});
        QVERIFY(sql.ok());
        std::vector<std::optional<std::string>> values;
        for (const RuleValue& value : sql->values) values.push_back(textOf(value));
        const auto answer = server_.query("SELECT count(*) FROM small WHERE " + sql->text, values);
        QVERIFY2(answer.ok, answer.error.c_str());
        QCOMPARE(answer.cells.front().value_or(""), std::string("3"));
        EvaluationInput input;
        input.table = *read;
        const auto evaluation = Evaluation::prepare(*program, input, Cancel());
        QVERIFY(evaluation.ok());
        Runner runner(*evaluation);
        const Vector& met = runner.run(0, table.rows);
        int ours = 0;
        for (std::size_t row = 0; row < table.rows; ++row) ours += cellOf(met, row).value == RuleValue(true) ? 1 : 0;
        QCOMPARE(ours, 3);
    }

    /// An enum is compared, sorted, grouped and summed up in the order its type states, not in that of its letters.
    void enumsHaveTheirOrder() {
        does(
            "CREATE TYPE haste AS ENUM ('soon', 'at once', 'when dry', 'Never'); CREATE TABLE hurry (id integer "
            "PRIMARY KEY, how haste, other text, n integer); INSERT INTO hurry SELECT g, CASE WHEN g % 7 = 0 THEN NULL "
            "ELSE (enum_range(NULL::haste))[1 + g * 5 % 4] END, (ARRAY['soon', 'Never'])[1 + g % 2], g % 3 FROM "
            "generate_series(1, 60) g");
        auto read = loaded("hurry");
        QVERIFY(read.ok());
        const TableSchema& schema = (*read)->schema;
        QVERIFY(schema.field(*schema.find("how")).ordered && !schema.field(*schema.find("other")).ordered);
        EvaluationInput input;
        input.table = *read;
        const auto cellsOf = [&](const char* rule) {
            std::vector<EvaluatedCell> cells;
            const auto program = compileRule(rule, schema);
            if (!program) qWarning("%s", program.error().message.c_str());
            const auto evaluation = program ? Evaluation::prepare(*program, input, Cancel())
                                            : Result<std::shared_ptr<const Evaluation>>(program.error());
            if (!evaluation) return cells;
            Runner runner(*evaluation);
            const Vector& values = runner.run(0, (*read)->rows);
            for (std::size_t i = 0; i < (*read)->rows; ++i) cells.push_back(cellOf(values, i));
            return cells;
        };
        for (const char* rule :
             {"how < 'when dry'", "how >= 'at once'", "'soon' < how", "how BETWEEN 'at once' AND 'when dry'",
              "how = 'Never'", "how IN ('soon', 'Never')", "MAX(how) OVER (PARTITION BY n)", "MIN(how) OVER ()",
              "RANK() OVER (ORDER BY how DESC NULLS LAST)", "GREATEST(how, 'at once')", "LEAST(how, 'when dry')",
              "LAG(how) OVER (ORDER BY how, id)", "how IS DISTINCT FROM 'soon'"}) {
            const auto theirs = server_.query(fmt::format("SELECT ({})::text FROM hurry ORDER BY id", rule));
            QVERIFY2(theirs.ok, theirs.error.c_str());
            const auto ours = cellsOf(rule);
            QCOMPARE(ours.size(), (*read)->rows);
            for (std::size_t i = 0; i < (*read)->rows; ++i) {
                const auto* truth = std::get_if<bool>(&ours[i].value);
                const std::string text = truth ? (*truth ? "true" : "false") : textOf(ours[i].value);
                QVERIFY2(text == theirs.cells[i].value_or(""), fmt::format("{}: {}", rule, text).c_str());
            }
        }
        // What is none of the values has no place among them, a digit least of all; empty is empty.
        for (const char* rule : {"how < CONCAT(other, '!')", "how >= CAST(n AS TEXT)", "how > NULLIF(other, other)"}) {
            const auto ours = cellsOf(rule);
            QCOMPARE(ours.size(), (*read)->rows);
            const bool isEmpty = std::string(rule).find("NULLIF") != std::string::npos;
            const auto how = (*read)->column(*schema.find("how"));
            for (std::size_t i = 0; i < (*read)->rows; ++i) {
                const CellState state = ours[i].state;
                if (isEmpty || !how->isEmpty(static_cast<SourceRow>(i)))
                    QCOMPARE(state, isEmpty ? CellState::Empty : CellState::NotConvertible);
            }
        }
        const auto wrong = compileRule("how > 'at onc'", schema);
        QVERIFY(!wrong.ok());
        QVERIFY2(wrong.error().message.find("at once") != std::string::npos, wrong.error().message.c_str());
        // Sorted and grouped.
        for (const char* order : {"how, id", "how DESC NULLS LAST, id", "how COLLATE \"C\", id"}) {
            const auto terms = parseSortList(order, schema);
            const std::string theirOrder =
                std::string(order).find("COLLATE") == std::string::npos ? order : "how::text COLLATE \"C\", id";
            const auto theirs = server_.query("SELECT id FROM hurry ORDER BY " + theirOrder);
            QVERIFY(terms.ok() && theirs.ok);
            SortStage stage;
            const auto sorted = stage.run(*terms, input, Cancel());
            QVERIFY(sorted.ok());
            const FieldIndex id = *schema.find("id");
            for (std::size_t place = 0; place < (*read)->rows; ++place) {
                const Value ours = (*read)->column(id)->value(static_cast<SourceRow>((**sorted)[place]));
                QCOMPARE(std::to_string(std::get<std::int64_t>(ours)), theirs.cells[place].value_or(""));
            }
        }
        // A group by a rule is called by the value, not by its place.
        Design design;
        design.groups.emplace_back().key.rule = "how";
        const auto planned = plannedGroup(design, 0, schema, nullptr);
        QVERIFY2(planned.ok(), planned.ok() ? "" : planned.error().message.c_str());
        QVERIFY(planned->term.key.program->type().kind == RuleKind::Text);
        QCOMPARE(planned->term.key.values.front(), std::string("soon"));
        design.groups[0].key.rule = "how COLLATE \"C\"";
        const auto collated = plannedGroup(design, 0, schema, nullptr);
        QVERIFY(!collated.ok());
        QVERIFY2(collated.error().message.find("COLLATE") != std::string::npos, collated.error().message.c_str());
        QVERIFY(!parseGroupList("how COLLATE \"C\"", schema).ok());
        const std::vector<std::string> figures = {"MIN(how)", "MAX(how)", "MODE() WITHIN GROUP (ORDER BY how)",
                                                  "PERCENTILE_DISC(0.5) WITHIN GROUP (ORDER BY how)",
                                                  "COALESCE(CAST(MAX(how) AS TEXT), 'none')"};
        std::string list;
        for (const std::string& figure : figures) list += (list.empty() ? "" : ", ") + figure;
        const auto rules = parseSummaryList(list, schema);
        QVERIFY2(rules.ok(), rules.ok() ? "" : rules.error().message.c_str());
        const auto grouped = groupRows({}, summarySpecsOf(*rules), nullptr, input, Cancel());
        QVERIFY(grouped.ok());
        for (std::size_t k = 0; k < figures.size(); ++k)
            QCOMPARE(textOf((*grouped)->total(k).value), asked("SELECT (" + figures[k] + ")::text FROM hurry"));
    }

    /// What the database says of a column to people stands at its heading.
    void comments() {
        does(
            "CREATE TABLE told (id integer PRIMARY KEY, work text); COMMENT ON COLUMN told.work IS 'What is to be "
            "done, in "
            "the yard''s words: \"Überholen\"'");
        const auto schema = (*openSource(address_))->schema({"told", "", {}}, Cancel());
        QVERIFY(schema.ok());
        const Design design = designFor(*schema, {"postgresql", address_, "told", ""});
        QCOMPARE(design.columns[1].toolTip, std::string("What is to be done, in the yard's words: \"Überholen\""));
        QCOMPARE(design.columns[0].toolTip, std::string());
    }

    /// A role that may read some columns reads and writes what it may, and a save costs it nothing but that.
    void rightsOnColumns() {
        does(
            "CREATE ROLE porter LOGIN; CREATE TABLE ledger (id integer PRIMARY KEY, note text, pay numeric); INSERT "
            "INTO ledger "
            "VALUES (1, 'a', 100); GRANT SELECT (id, note), UPDATE (note) ON ledger TO porter");
        const std::string address = server_.address("postgres", "porter");
        LoadRequest request;
        request.binding.table = "ledger";
        const auto table = (*openSource(address))->load(request, Cancel());
        QVERIFY2(table.ok(), table.ok() ? "" : table.error().message.c_str());
        QVERIFY(!(*table)->schema.find("pay"));
        auto store = openStore(address);
        const auto written =
            writeOne(**store, test::writeOf(**table, 0, *(*table)->schema.find("note"), std::string("b")));
        QVERIFY2(written.ok(), written.ok() ? "" : written.error().message.c_str());
        QCOMPARE(asked("SELECT note FROM ledger"), std::string("b"));
    }

    /// Tables of other servers, and parts of one that lie there, are saved as any.
    void tablesElsewhere() {
        if (!server_.execute("CREATE EXTENSION postgres_fdw").empty()) QSKIP("the server has no postgres_fdw");
        does(fmt::format(
            "CREATE TABLE far (id integer PRIMARY KEY, v text); INSERT INTO far VALUES (1, 'x'); CREATE SERVER other "
            "FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '{}', dbname 'postgres'); CREATE USER MAPPING FOR "
            "tester SERVER other OPTIONS (user 'tester'); CREATE TABLE split (id integer, v text, PRIMARY KEY (id)) "
            "PARTITION BY RANGE (id); CREATE TABLE near PARTITION OF split FOR VALUES FROM (10) TO (20); INSERT "
            "INTO split VALUES (11, 'y')",
            server_.socketPath().substr(0, server_.socketPath().rfind('/'))));
        auto store = openStore(address_);
        const auto split = *loaded("split");
        QVERIFY(writeOne(**store, test::writeOf(*split, 0, *split->schema.find("v"), std::string("z"))).ok());
        QCOMPARE(asked("SELECT v FROM split"), std::string("z"));
        does("CREATE FOREIGN TABLE alien (id integer NOT NULL, v text) SERVER other OPTIONS (table_name 'far')");
        const auto alien = loaded("alien");
        QVERIFY2(alien.ok(), alien.ok() ? "" : alien.error().message.c_str());
        QVERIFY(!(*alien)->schema.writable && !(*alien)->schema.whyNotWritable.empty());  // it has no key
    }

    /// Changed or dropped under an open form: said, and nothing of what was typed is lost or lands elsewhere.
    void changedUnderAForm_data() {
        QTest::addColumn<QString>("change");
        QTest::addColumn<bool>("isSaved");
        QTest::addColumn<QString>("expected");  // SQL that is true afterwards
        const auto row = [](const char* change, bool isSaved, const char* expected) {
            QTest::newRow(change) << change << isSaved << expected;
        };
        row("ALTER TABLE tides ADD COLUMN level integer", true, "SELECT word = 'typed' FROM tides WHERE id = 2");
        row("ALTER TABLE tides ALTER COLUMN word TYPE varchar(60)", true,
            "SELECT word = 'typed' FROM tides WHERE id = 2");
        row("ALTER TABLE tides DROP COLUMN other", false, "SELECT word = 'b' FROM tides WHERE id = 2");
        row("DROP TABLE tides", false, "SELECT to_regclass('tides') IS NULL");
        row("ALTER TABLE tides RENAME COLUMN word TO said", false, "SELECT said = 'b' FROM tides WHERE id = 2");
        row("ALTER TABLE tides RENAME TO ebbs", false, "SELECT word = 'b' FROM ebbs WHERE id = 2");
        row("ALTER TABLE tides ALTER COLUMN word TYPE integer USING 7", false,
            "SELECT word = 7 FROM tides WHERE id = 2");
        row("ALTER TABLE tides RENAME COLUMN word TO hidden; ALTER TABLE tides RENAME COLUMN other TO word", false,
            "SELECT hidden = 'b' AND word = 'z' FROM tides WHERE id = 2");
        row("REVOKE UPDATE ON tides FROM sailor", false, "SELECT word = 'b' FROM tides WHERE id = 2");
        row("DELETE FROM tides", false, "SELECT count(*) = 0 FROM tides");
    }
    void changedUnderAForm() {
        QFETCH(QString, change);
        QFETCH(bool, isSaved);
        QFETCH(QString, expected);
        does(
            "DROP TABLE IF EXISTS tides, ebbs; CREATE TABLE tides (id integer PRIMARY KEY, word text, other text); "
            "INSERT INTO "
            "tides VALUES (1, 'a', 'y'), (2, 'b', 'z')");
        (void)server_.execute("CREATE ROLE sailor LOGIN");
        does("GRANT ALL ON tides TO sailor");
        const std::string address = server_.address("postgres", "sailor");
        Inbox inbox;
        Session session([&](std::function<void()> call) { inbox.post(std::move(call)); }, {});
        const auto comes = [&](const auto& wanted) {
            return QTest::qWaitFor([&] { return inbox.pump(), wanted(); }, 20'000);
        };
        const auto schema = (*openSource(address))->schema({"tides", "", {}}, Cancel());
        QVERIFY(session.open(designFor(*schema, {"postgresql", address, "tides", ""}), address).ok());
        QVERIFY(comes([&] { return !session.isLoading() && session.snapshot()->recordCount() == 2; }));
        const FieldIndex word = *schema->find("word");
        does(change.toStdString());
        session.records().edit(SourceRow{1}, word, Value(std::string("typed")));
        QVERIFY(comes([&] { return session.snapshot()->edits->count(EditState::Saving) == 0; }));
        QCOMPARE(session.records().unsaved(), isSaved ? std::size_t{0} : std::size_t{1});
        QVERIFY(session.snapshot()->value(SourceRow{1}, word) == Value(std::string("typed")));
        QCOMPARE(asked(expected.toStdString()), std::string("t"));
        const auto changes = session.records().unsaved() ? session.snapshot()->edits->record(SourceRow{1}) : nullptr;
        if (!isSaved) QVERIFY(changes);
        // Read again it is what it is now, or said why not; what was typed is not gone without a word.
        session.reload();
        QVERIFY(comes([&] { return !session.isLoading(); }));
        QVERIFY(session.snapshot());
    }
};

QTEST_GUILESS_MAIN(ServerTablesTest)
#include "server_tables_test.moc"
