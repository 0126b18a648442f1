// SPDX-License-Identifier: MIT
// Records side by side: each cell is what the grid shows of it, in whatever format, empty or odd; exactly the lines on
// which they differ are tinted; too many and none are refused.
#include <QtTest>

#include <QTemporaryDir>

#include <random>

#include "core/design/cell_text.h"
#include "core/design/turned_records.h"
#include "core/session/session.h"
#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {

std::string cellOf(const SummaryTable& made, std::size_t line, std::size_t column) {
    const Value value = made.table->columns[column]->value(static_cast<SourceRow>(line));
    const auto* text = std::get_if<std::string>(&value);
    return text ? *text : std::string();
}

}  // namespace

class TurnedRecordsTest : public QObject {
    Q_OBJECT
    std::unique_ptr<SessionFixture> f_;
    std::vector<NamedRecord> records(std::initializer_list<int> numbers) const {
        std::vector<NamedRecord> all;
        for (const int number : numbers) all.push_back({f_->row(number), std::to_string(number)});
        return all;
    }
    Result<SummaryTable> turned(const std::vector<NamedRecord>& records) const {
        const Session& session = *f_->session;
        return turnedRecords(*session.snapshot(), session.plan(), session.design(), records);
    }

  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<SessionFixture>(
            "CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, due DATE, hours DECIMAL(6,2), paid BOOLEAN, "
            "\"it's "
            "odd\" TEXT);"
            "INSERT INTO jobs VALUES (1, 'caulk', '2026-11-24', '2.50', 1, 'a'), (2, 'caulk', NULL, 2.5, 0, 'a'), (3, "
            "'', '2026-11-24', 'lots', 1, NULL), (4, 'caulk', '2026-11-24', 2.50, 1, 'a');");
    }
    void cleanup() { f_.reset(); }

    void eachCellIsWhatTheGridShows() {
        Design design = f_->design();
        for (ColumnDesign& column : design.columns) {
            if (column.field == "hours") {
                column.format.prefix = "~";
                column.heading = "Time it takes";
            }
            if (column.field == "work") column.shown = false;
        }
        QVERIFY(f_->open(design));
        const Session& session = *f_->session;
        const auto made = turned(records({3, 1, 2}));
        QVERIFY2(made.ok(), made.ok() ? "" : made.error().message.c_str());
        const auto& columns = session.plan().columns;
        QCOMPARE(made->table->rows, columns.size());
        QCOMPARE(made->design.columns.size(), std::size_t{4});
        QCOMPARE(made->design.columns[1].heading, std::string("3"));
        int compared = 0;
        for (std::size_t line = 0; line < columns.size(); ++line) {
            QVERIFY(columns[line].design.field != "work");
            const std::string heading = columns[line].design.heading;
            QCOMPARE(cellOf(*made, line, 0), heading.empty() ? columns[line].design.field : heading);
            std::size_t at = 1;
            for (const int number : {3, 1, 2}) {
                CellText shown;
                readCell(*session.snapshot(), f_->row(number), columns[line], shown);
                if (columns[line].format.type != Type::Boolean)
                    QCOMPARE(cellOf(*made, line, at), shown.isEmpty ? std::string() : shown.text);
                ++at;
                ++compared;
            }
        }
        QCOMPARE(compared, 15);
        const auto lineOf = [&](const char* heading) {
            for (std::size_t line = 0; line < made->table->rows; ++line)
                if (cellOf(*made, line, 0) == heading) return line;
            return std::size_t{99};
        };
        QCOMPARE(cellOf(*made, lineOf("Time it takes"), 1), std::string("lots"));  // what is stored, though no number
        QCOMPARE(cellOf(*made, lineOf("Paid"), 1), std::string("yes"));
        QCOMPARE(cellOf(*made, lineOf("Paid"), 3), std::string("no"));
    }

    /// The style's rule, run over the table as the grid would, holds for the lines that differ and for no other.
    void linesThatDifferAreTinted_data() {
        QTest::addColumn<QList<int>>("numbers");
        QTest::newRow("two alike") << QList<int>{1, 4};
        QTest::newRow("two") << QList<int>{1, 2};
        QTest::newRow("three") << QList<int>{4, 1, 3};
        QTest::newRow("the same one twice") << QList<int>{2, 2};
    }
    void linesThatDifferAreTinted() {
        QFETCH(QList<int>, numbers);
        QVERIFY(f_->open());
        std::vector<NamedRecord> chosen;
        for (const int number : numbers) chosen.push_back({f_->row(number), {}});
        const auto made = turned(chosen);
        QVERIFY(made.ok());
        QCOMPARE(made->design.columns[1].heading, std::string("1"));
        QCOMPARE(made->design.styles.size(), std::size_t{1});
        const auto program = compileRule(made->design.styles[0].where, made->table->schema);
        QVERIFY2(program.ok(), program.ok() ? "" : program.error().message.c_str());
        EvaluationInput input;
        input.table = made->table;
        const auto evaluation = Evaluation::prepare(*program, input, Cancel());
        QVERIFY(evaluation.ok());
        Runner runner(*evaluation);
        const Vector& values = runner.run(0, made->table->rows);
        const Session& session = *f_->session;
        for (std::size_t line = 0; line < made->table->rows; ++line) {
            bool isDifferent = false;
            for (const NamedRecord& one : chosen)
                isDifferent |= !(session.snapshot()->value(one.row, session.plan().columns[line].field) ==
                                 session.snapshot()->value(chosen[0].row, session.plan().columns[line].field));
            QCOMPARE(jollyrow::cellOf(values, line).value == RuleValue(true), isDifferent);
        }
    }

    /// What is rounded to one text, an empty text beside none, and a text over two values are no likeness.
    void whatLooksAlikeMayDiffer() {
        f_->run(
            "UPDATE jobs SET hours = 2.51, work = '' WHERE number = 4; UPDATE jobs SET work = NULL, hours = 2.6 WHERE "
            "number = 1");
        Design design = f_->design();
        for (ColumnDesign& column : design.columns)
            if (column.field == "hours") {
                column.format.style = FormatStyle::Pattern;
                column.format.pattern = "0";
            }
        QVERIFY(f_->open(design));
        const auto made = turned(records({1, 4}));
        QVERIFY(made.ok());
        const Column& differs = *made->table->column(*made->table->schema.find(kDiffers));
        int seen = 0;
        for (std::size_t line = 0; line < made->table->rows; ++line) {
            const std::string& field = f_->session->plan().columns[line].design.field;
            const bool isDifferent = differs.integer(static_cast<SourceRow>(line)) != 0;
            QCOMPARE(isDifferent, field == "hours" || field == "work" || field == "number");
            if (field != "hours") continue;
            QCOMPARE(cellOf(*made, line, 1), std::string("3"));
            QCOMPARE(cellOf(*made, line, 2), std::string("3"));
            ++seen;
        }
        QCOMPARE(seen, 1);
    }

    void noneAndTooManyAreRefused() {
        QVERIFY(f_->open());
        QVERIFY(!turned({}).ok());
        const std::vector<NamedRecord> most(kMostTableColumns - 1, {f_->row(1), "x"});
        const auto made = turned(most);
        QVERIFY(made.ok());
        QCOMPARE(made->design.columns.size(), kMostTableColumns);
        const std::vector<NamedRecord> many(kMostTableColumns, {f_->row(1), "x"});
        QVERIFY(!turned(many).ok());
        QVERIFY(turned(records({1})).ok());
    }
};

QTEST_GUILESS_MAIN(TurnedRecordsTest)
#include "turned_records_test.moc"
