// SPDX-License-Identifier: MIT
// Related fields: what comes by foreign keys, to any depth, is what SQLite's own joins give; keys that lead nowhere,
// tables that point at themselves or at nothing unique, look-ups, and a record read again.
#include <QtTest>

#include <sqlite3.h>

#include "core/design/make_design.h"
#include "core/design/plan.h"
#include "core/formats/text_format.h"
#include "core/session/schema_for.h"
#include "core/session/session.h"
#include "core/sources/source.h"

using namespace jollyrow;

namespace {

constexpr const char* kYard = R"sql(
CREATE TABLE owners (id INTEGER PRIMARY KEY, name TEXT NOT NULL, partner INTEGER REFERENCES owners);
CREATE TABLE "odd ""names" (key TEXT PRIMARY KEY, title TEXT, amount DECIMAL(8,2), day DATE) WITHOUT ROWID;
CREATE TABLE loose (a INTEGER, b TEXT);
CREATE TABLE vessels (id INTEGER PRIMARY KEY, name TEXT NOT NULL, owner INTEGER REFERENCES owners(id), "select" TEXT REFERENCES "odd ""names"(key));
CREATE TABLE jobs (number INTEGER PRIMARY KEY, vessel INTEGER REFERENCES vessels(id), loose INTEGER REFERENCES loose(a), work TEXT);
INSERT INTO owners VALUES (1, 'Ines', 2), (2, 'Åse', 1), (3, 'Tomas', NULL);
INSERT INTO "odd ""names" VALUES ('k1', 'one', 12.5, '2026-11-23'), ('k2', 'two', NULL, 'soon');
INSERT INTO loose VALUES (1, 'x'), (1, 'y');
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 40)
INSERT INTO vessels SELECT i, 'vessel ' || (i * 17 % 41), CASE WHEN i % 9 = 0 THEN NULL ELSE i % 4 END, CASE i % 3 WHEN 0 THEN 'k1' WHEN 1 THEN 'k2' END FROM c;
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 40000)
INSERT INTO jobs SELECT i, CASE WHEN i % 11 = 0 THEN NULL ELSE i * 7 % 43 END, 1, 'w' FROM c;
)sql";

std::string shown(const Column& column, std::uint32_t row) {
    std::string out;
    appendPlain(out, column.value(SourceRow{row}));
    return out;
}

}  // namespace

class RelatedTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        path_ = folder_.filePath("yard.db");
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        char* message = nullptr;
        QVERIFY2(sqlite3_exec(db, kYard, nullptr, nullptr, &message) == SQLITE_OK, message);
        sqlite3_close(db);
        source_ = *openSource(path_.toStdString());
    }

    void valuesAreThoseOfTheDatabasesOwnJoin() {
        const std::vector<std::string> fields = {"vessel.name", "vessel.owner.name", "vessel.owner.partner.name",
                                                 "vessel.select.amount", "vessel.select.title"};
        const Binding binding{"jobs", {}, fields};
        const auto schema = source_->schema(binding);
        QVERIFY(schema.ok());
        QCOMPARE(schema->joins.size(), std::size_t{4});  // vessel, owner, partner, select: each once
        QCOMPARE(schema->field(*schema->find("vessel.select.amount")).type, Type::Decimal);
        LoadRequest request;
        request.binding = binding;
        const auto table = source_->load(request, Cancel());
        QVERIFY(table.ok());
        QCOMPARE((*table)->rows, std::size_t{40000});
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(db,
                           "SELECT v.name, o.name, p.name, CASE WHEN s.amount IS NULL THEN NULL ELSE printf('%.2f', "
                           "s.amount) END, s.title FROM jobs j "
                           "LEFT JOIN vessels v ON v.id = j.vessel LEFT JOIN owners o ON o.id = v.owner "
                           "LEFT JOIN owners p ON p.id = o.partner LEFT JOIN \"odd \"\"names\" s ON s.key = "
                           "v.\"select\" ORDER BY j.number",
                           -1, &statement, nullptr);
        std::uint32_t row = 0;
        for (; sqlite3_step(statement) == SQLITE_ROW; ++row)
            for (std::size_t i = 0; i < fields.size(); ++i) {
                const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement, static_cast<int>(i)));
                const Column& column = *(*table)->column(*schema->find(fields[i]));
                QCOMPARE(column.isEmpty(SourceRow{row}), text == nullptr);
                if (text) QCOMPARE(QString::fromStdString(shown(column, row)), QString::fromUtf8(text));
            }
        QCOMPARE(row, 40000U);
        sqlite3_finalize(statement);
        sqlite3_close(db);
    }

    void pathsThatLeadNowhereAddNothing_data() {
        QTest::addColumn<QString>("path");
        for (const char* path : {"vessel.nothing", "nothing.name", "work.name", "vessel.owner.owner.name", "vessel.",
                                 ".name", "vessel..name", "loose.b" /* not unique: would multiply the records */,
                                 "vessel.name.name", "v\"; DROP TABLE jobs; --.name"})
            QTest::newRow(path) << path;
        QTest::newRow("too deep") << QString("vessel.owner") + QString(".partner").repeated(12) + ".name";
    }
    void pathsThatLeadNowhereAddNothing() {
        QFETCH(QString, path);
        const Binding binding{"jobs", {}, {path.toStdString()}};
        const auto schema = source_->schema(binding);
        QVERIFY(schema.ok());
        QCOMPARE(schema->fields.size(), std::size_t{4});
        LoadRequest request;
        request.binding = binding;
        const auto table = source_->load(request, Cancel());
        QVERIFY(table.ok() && (*table)->rows == 40000);
        Design design = designFor(*schema, {"sqlite", path_.toStdString(), "jobs", ""});
        ColumnDesign column;
        column.field = path.toStdString();
        design.columns.push_back(column);
        const ViewPlan plan = planOf(design, *schema);
        QCOMPARE(plan.findings.size(), std::size_t{1});
        QCOMPARE(plan.columns.size(), std::size_t{4});
    }

    void labelsAreFoundByThemselves() {
        const auto schema = source_->schema({"jobs", {}, {}});
        QCOMPARE(schema->foreignKeys[*foreignKeyOf(*schema, "vessel")].label, std::string("name"));
        const auto vessels = source_->schema({"vessels", {}, {}});
        const ForeignKey& odd = vessels->foreignKeys[*foreignKeyOf(*vessels, "select")];
        QCOMPARE(odd.label, std::string("title"));
        const auto owners = source_->schema({"owners", {}, {}});
        QCOMPARE(owners->foreignKeys[0].targetFields, (std::vector<std::string>{"id"}));  // not said in the table
        const Design design = designFor(*schema, {"sqlite", path_.toStdString(), "jobs", ""});
        QCOMPARE(relatedFields(design, *schema), (std::vector<std::string>{"vessel.name", "loose.b"}));
        const auto whole = schemaFor(*source_, design);
        QVERIFY(whole->find("vessel.name"));
    }

    void messagesThatBreakOffNameWhatTheyCan() {
        const auto schema = source_->schema({"jobs", {}, {}});
        for (const char* pattern : {"{vessel   ", "{", "{ ", "{vessel", "{}", "{ ,", "{{{", "{vessel.name"}) {
            Design design;
            ColumnDesign column;
            column.field = "work";
            column.format = formatFor(pattern, false);
            design.columns.push_back(column);
            QVERIFY(relatedFields(design, *schema).empty());
            QVERIFY(planOf(design, *schema).columns.size() == 1);
        }
    }

    void lookUpsSearchLabels() {
        const auto found = source_->lookUp({"owners", "id", "name", "s", std::nullopt, 10}, Cancel());
        QVERIFY(found.ok());
        QCOMPARE(found->size(), std::size_t{3});
        QCOMPARE(found->front().label, std::string("Ines"));
        QVERIFY(source_->lookUp({"owners", "id", "name", "%", std::nullopt, 10}, Cancel())->empty());  // not a wildcard
        QVERIFY(source_->lookUp({"owners", "id", "name", "' OR 1=1 --", std::nullopt, 10}, Cancel())->empty());
        const auto one = source_->lookUp({"owners", "id", "name", "", Value(std::int64_t{2}), 10}, Cancel());
        QCOMPARE(one->front().label, std::string("Åse"));
        QCOMPARE(source_->lookUp({"vessels", "id", "name", "", std::nullopt, 7}, Cancel())->size(), std::size_t{7});
        QVERIFY(!source_->lookUp({"nothing", "id", "name", "", std::nullopt, 7}, Cancel()).ok());
        // Labels that are numbers are called by their digits, too.
        LookUpRequest called{"owners", "name", "id", "", std::nullopt};
        called.called = {"2"};
        QCOMPARE(source_->lookUp(called, Cancel())->size(), std::size_t{1});
        QVERIFY(!source_->lookUp({"owners", "id", "nothing", "", std::nullopt, 7}, Cancel()).ok());
    }

    void aRecordIsReadAgain() {
        const auto schema = source_->schema({"jobs", {}, {"vessel.name", "vessel.owner.name"}});
        RecordRequest request;
        request.schema = *schema;
        request.key = {std::int64_t{3}};
        request.keyFields = {*schema->find("number")};
        request.fields = {*schema->find("vessel.name"), *schema->find("vessel.owner.name")};
        const auto values = source_->valuesOf(request);
        QVERIFY(values.ok());
        QVERIFY(std::holds_alternative<std::string>((*values)[0]));
        request.key = {std::int64_t{999999}};
        QCOMPARE(source_->valuesOf(request).error().code, ErrorCode::NotFound);
    }

    void aDesignThatAsksForMoreIsServedWithoutLosingWhatIsThere() {
        std::vector<std::function<void()>> calls;
        std::mutex mutex;
        Session session(
            [&](std::function<void()> call) {
                const std::lock_guard lock(mutex);
                calls.push_back(std::move(call));
            },
            {});
        const auto run = [&] {
            std::vector<std::function<void()>> now;
            {
                const std::lock_guard lock(mutex);
                now.swap(calls);
            }
            for (const auto& call : now) call();
        };
        const auto schema = source_->schema({"jobs", {}, {}});
        Design design = designFor(*schema, {"sqlite", path_.toStdString(), "jobs", ""});
        QVERIFY(session.open(design, path_.toStdString()).ok());
        QTRY_VERIFY((run(), !session.isLoading()));
        QCOMPARE(session.snapshot()->table->rows, std::size_t{40000});
        ColumnDesign column;
        column.field = "vessel.owner.name";
        column.heading = "Owner";
        design.columns.push_back(column);
        design.sort = {{"vessel.owner.name", Direction::Ascending, Empties::Last}};
        session.setDesign(design);
        QCOMPARE(session.snapshot()->table->rows, std::size_t{40000});  // still in sight, the new column on its way
        QVERIFY(!session.snapshot()->table->column(session.plan().columns.back().field));
        QTRY_VERIFY((run(), !session.isLoading()));
        const Column* owners = session.snapshot()->table->column(session.plan().columns.back().field);
        QVERIFY(owners);
        QCOMPARE(shown(*owners, raw(session.snapshot()->line(ViewLine{0}).row)), std::string("Åse"));
        // Loading anew while the first load is still under way.
        Session second(
            [&](std::function<void()> call) {
                const std::lock_guard lock(mutex);
                calls.push_back(std::move(call));
            },
            {});
        QVERIFY(second.open(designFor(*schema, {"sqlite", path_.toStdString(), "jobs", ""}), path_.toStdString()).ok());
        second.setDesign(design);
        QTRY_VERIFY((run(), !second.isLoading()));
        QCOMPARE(second.snapshot()->table->rows, std::size_t{40000});
        QVERIFY(second.snapshot()->table->column(second.plan().columns.back().field));
    }

  private:
    QTemporaryDir folder_;
    QString path_;
    std::shared_ptr<const Source> source_;
};

QTEST_GUILESS_MAIN(RelatedTest)
#include "related_test.moc"
