// SPDX-License-Identifier: MIT
// What a view is computed from, and many cells edited in one step: the same as one by one.
#include <QtTest>

#include <random>

#include "core/columns/column_builder.h"
#include "core/design/make_design.h"
#include "core/session/session.h"
#include "tests/session/inbox.h"
#include "tests/sources/database.h"
#include "tests/sources/faulty_source.h"

using namespace jollyrow;

class ViewInputTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_ = folder_.filePath("yard.db");

    Design design() const {
        auto source = openSource(path_.toStdString());
        return designFor(*(*source)->schema({"jobs", ""}), {"sqlite", path_.toStdString(), "jobs", ""});
    }
    static std::shared_ptr<const Table> withColumns(const TableSchema& schema, const std::vector<bool>& there) {
        auto table = std::make_shared<Table>();
        table->schema = schema;
        table->rows = 1;
        for (std::size_t i = 0; i < schema.fields.size(); ++i) {
            ColumnBuilder builder(schema.fields[i]);
            ColumnChunk chunk;
            chunk.reset(schema.fields[i].type, schema.fields[i].scale, false);
            chunk.addEmpty();
            builder.append(chunk);
            table->columns.push_back(there[i] ? builder.share() : nullptr);
        }
        return table;
    }

  private Q_SLOTS:
    void initTestCase() {
        run(path_,
            "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, hours DECIMAL(6,2), paid BOOLEAN);"
            "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 500) INSERT INTO jobs "
            "SELECT i, 'work ' || i % 50, i % 90 + 0.25, i % 2 FROM c");
    }

    /// Whichever columns are still to come, nothing reads one that is not there, and all else does its work.
    void onlyWhatIsThereIsRead() {
        Design d = design();
        ColumnDesign twice;
        twice.field = "twice";
        twice.heading = "Twice";
        twice.rule = "hours * 2";
        d.columns.push_back(twice);
        d.filter = {{"twice > 3", "", "", true}, {"paid", "", "", true}, {"work LIKE 'w%'", "", "", true}};
        d.sort = {{"twice", Direction::Ascending, Empties::Last}, {"work", Direction::Descending, Empties::Last}};
        d.groups.emplace_back().key.field = "paid";
        SummaryDesign sum;
        sum.column = "hours";
        sum.show = SummaryShow::Sum;
        sum.name = "hours";
        d.summaries = {sum};
        const auto source = openSource(path_.toStdString());
        const TableSchema schema = withComputedFields(*(*source)->schema({"jobs", ""}), d, nullptr);
        const ViewPlan plan = planOf(d, schema);
        const auto field = [&](const char* name) { return raw(*schema.find(name)); };
        for (unsigned mask = 0; mask < 16; ++mask) {
            std::vector<bool> there(schema.fields.size(), false);
            for (unsigned i = 0; i < 4; ++i) there[i] = ((mask >> i) & 1U) != 0;
            const RowlineInput input = viewInput(plan, withColumns(schema, there), nullptr, {});
            const bool hours = there[field("hours")], paid = there[field("paid")], work = there[field("work")];
            QCOMPARE(input.computed.size(), hours ? std::size_t{1} : 0);
            QCOMPARE(input.filter.size(), std::size_t{hours} + std::size_t{paid} + std::size_t{work});
            QCOMPARE(input.sort.size(), std::size_t{hours} + std::size_t{work});
            QCOMPARE(input.groups.size(), std::size_t{paid});
            QCOMPARE(input.summaries.size(), std::size_t{hours});
        }
        const std::vector<bool> all(schema.fields.size(), true);
        for (const Stage stage : {Stage::Filter, Stage::Sort, Stage::Group, Stage::Summaries}) {
            ViewState state;
            state.bypassed = {stage};
            const RowlineInput input = viewInput(plan, withColumns(schema, all), nullptr, state);
            QCOMPARE(input.filter.empty(), stage == Stage::Filter);
            QCOMPARE(input.sort.empty(), stage == Stage::Sort);
            QCOMPARE(input.groups.empty(), stage == Stage::Group);
            QCOMPARE(input.summaries.empty(), stage == Stage::Summaries);
        }
    }

    void aMissingParameterLiftsItsConditions() {
        Design d = design();
        ParameterDesign least;
        least.name = "least";
        least.type = Type::Decimal;
        d.parameters = {least};
        d.filter = {{"hours > :least", "", "", true}, {"paid", "", "", true}};
        const auto source = openSource(path_.toStdString());
        const TableSchema schema = *(*source)->schema({"jobs", ""});
        const ViewPlan plan = planOf(d, schema);
        const std::vector<bool> all(schema.fields.size(), true);
        ViewState state;
        QCOMPARE(viewInput(plan, withColumns(schema, all), nullptr, state).filter.size(), std::size_t{1});
        state.parameters.emplace("least", RuleValue(WideDecimal{150, 2}));
        QCOMPARE(viewInput(plan, withColumns(schema, all), nullptr, state).filter.size(), std::size_t{2});
    }

    /// A load asks for the stored fields that are wanted, never for computed ones.
    void aLoadAsksForStoredFields() {
        Design d = design();
        ColumnDesign twice;
        twice.field = "twice";
        twice.rule = "hours * 2";
        d.columns.push_back(twice);
        const auto source = openSource(path_.toStdString());
        const TableSchema schema = withComputedFields(*(*source)->schema({"jobs", ""}), d, nullptr);
        const LoadRequest request = loadRequest(d, schema, planOf(d, schema).wanted, {});
        QCOMPARE(request.wanted.size(), schema.storedFields());
        QVERIFY(schema.storedFields() < schema.fields.size());
        QVERIFY((*source)->load(request, Cancel()).ok());
    }

    /// n cells in one step are shown by one snapshot and stored as n edits are.
    void manyCellsAreOneStepAndStoredLikeOneByOne() {
        for (const bool together : {true, false}) {
            Inbox inbox;
            int snapshots = 0, answers = 0;
            SessionListener listener;
            listener.onSnapshot = [&] { ++snapshots; };
            listener.onEditAnswered = [&](SourceRow, FieldIndex, const CellEdit&) { ++answers; };
            Session session([&](std::function<void()> call) { inbox.post(std::move(call)); }, listener);
            QVERIFY(session.open(design(), path_.toStdString()).ok());
            const auto until = [&](const auto& done) {
                QElapsedTimer timer;
                timer.start();
                while (!done() && timer.elapsed() < 20'000) {
                    inbox.pump();
                    QThread::msleep(1);
                }
                return done();
            };
            QVERIFY(until([&] { return !session.isLoading(); }));
            const auto hours = *session.schema().find("hours"), work = *session.schema().find("work");
            std::mt19937 random(together);
            std::map<Edits::Place, Value> wanted;
            std::vector<CellWrite> cells;
            for (int i = 0; i < 300; ++i) {
                const auto row = static_cast<SourceRow>(random() % 500);
                const bool isHours = random() % 2;
                const FieldIndex field = isHours ? hours : work;
                if (wanted.contains({row, field})) continue;
                const Value value = isHours
                                        ? Value(Decimal{static_cast<std::int64_t>((together ? 10'000 : 20'000) + i), 2})
                                        : Value((together ? "typed " : "one by one ") + std::to_string(i));
                cells.push_back({row, field, value});
                wanted[{row, field}] = value;
            }
            // What a cell shows already is no edit.
            cells.push_back({SourceRow{0}, *session.schema().find("number"), Value(std::int64_t{1})});
            snapshots = 0;
            if (together) {
                session.records().edit(cells);
                QCOMPARE(snapshots, 1);
            } else {
                for (const CellWrite& cell : cells) session.records().edit(cell.row, cell.field, cell.value);
                QCOMPARE(snapshots, static_cast<int>(wanted.size()));
            }
            QCOMPARE(session.records().unsaved(), wanted.size());
            for (const auto& [place, value] : wanted)
                QVERIFY(session.snapshot()->value(place.first, place.second) == value);
            QVERIFY(until([&] { return session.records().unsaved() == 0; }));
            QCOMPARE(answers, static_cast<int>(wanted.size()));
            const auto stored = loadAll(path_, {"jobs", ""});
            for (const auto& [place, value] : wanted)
                QVERIFY((*stored)->column(place.second)->value(place.first) == value);
        }
    }
};

QTEST_APPLESS_MAIN(ViewInputTest)
#include "view_input_test.moc"
