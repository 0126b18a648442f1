// SPDX-License-Identifier: MIT
// What is done at each moment of a reload, while others have changed the table: between its first record and its view
// there is a table that nobody sees yet, and what is asked then must meet the records that it was meant for.
#include <QDeadlineTimer>

#include "core/formats/text_format.h"
#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {

using Deed = std::function<void(Session&)>;

void addColumn(Session& session, const char* field) {
    Design next = session.design();
    ColumnDesign column;
    column.field = field;
    next.columns.push_back(std::move(column));
    session.setDesign(std::move(next));
}

void addComputed(Session& session) {
    Design next = session.design();
    ColumnDesign column;
    column.field = "double";
    column.rule = "hours * 2";
    next.columns.push_back(std::move(column));
    session.setDesign(std::move(next));
}

void sortByWork(Session& session) {
    Design next = session.design();
    next.sort = {{.field = "work"}};
    session.setDesign(std::move(next));
}

void forgetColumn(Session& session) {
    Design next = session.design();
    std::erase_if(next.columns, [](const ColumnDesign& column) { return column.field == "tag"; });
    session.setDesign(std::move(next));
}

}  // namespace

class ReloadTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatIsDoneWhileRecordsAreReadAgain_data() {
        QTest::addColumn<Deed>("deed");
        QTest::addColumn<int>("calls");
        const std::vector<std::pair<const char*, Deed>> deeds{
            {"a related column", [](Session& s) { addColumn(s, "vessel.id"); }},
            {"a computed column", addComputed},
            {"a sort", sortByWork},
            {"a column less", forgetColumn},
            {"another reload", [](Session& s) { s.reload(); }},
            {"a cancel, and another reload",
             [](Session& s) {
                 s.cancelLoad();
                 s.reload();
             }},
            {"a new record", [](Session& s) { QVERIFY(s.records().insert().ok()); }},
            {"an edit",
             [](Session& s) {
                 s.records().edit(*s.rowOf({Value(std::int64_t{40})}), *s.schema().find("hours"), Decimal{900, 2});
             }},
        };
        for (const auto& [name, deed] : deeds)
            for (const int calls : {0, 1, 2, 3, 4}) QTest::addRow("%s after %d", name, calls) << deed << calls;
    }

    /// An unsaved edit stays with its record, each record shows what the table has of it, and a save writes that one.
    void whatIsDoneWhileRecordsAreReadAgain() {
        QFETCH(const Deed, deed);
        QFETCH(int, calls);
        SessionFixture f(kJobs);
        QVERIFY(f.open(Saving::Together));
        f.session->records().edit(f.row(30), f.field("work"), std::string("mine"));
        // All records but one stand on other rows now.
        f.run(
            "DELETE FROM claims; DELETE FROM jobs WHERE number = 10; INSERT INTO jobs (number, work, hours) VALUES "
            "(1, 'oil', 1), (2, 'tar', 2), (3, 'plank', 3)");
        f.session->reload();
        for (QDeadlineTimer wait(300); calls > 0 && !wait.hasExpired();)
            if (calls -= static_cast<int>(f.inbox.pump(1)); calls > 0) QThread::usleep(200);
        deed(*f.session);
        f.run("DELETE FROM jobs WHERE number = 2; INSERT INTO jobs (number, work, hours) VALUES (0, 'rope', 7)");
        QVERIFY(f.until([&] { return areOfOneTable(f) ? !f.session->isLoading() : true; }));
        QVERIFY(f.until([&, wait = QDeadlineTimer(30)] { return !areOfOneTable(f) || wait.hasExpired(); }));
        QVERIFY(areOfOneTable(f));
        QVERIFY(f.settled());
        QVERIFY2(!f.shown().contains(QStringLiteral("10")), qPrintable(f.shown()));  // it was gone before the reload
        f.failures.remove(QStringLiteral("Loading was cancelled."));
        QVERIFY2(f.failures.isEmpty(), qPrintable(f.failures));
        QVERIFY(f.reload());
        expectRecordsAsStored(f, f.row(30));

        QCOMPARE(f.session->records().save({f.row(30)}), std::size_t{1});
        QVERIFY(f.settled());
        QCOMPARE(f.stored("SELECT group_concat(work, ' ') FROM (SELECT work FROM jobs ORDER BY number)"),
                 QStringLiteral("rope oil plank caulk mine step mast"));
    }

  private:
    /// What is shown on a line is what the session takes the line for.
    static bool areOfOneTable(SessionFixture& f) {
        const Snapshot& snapshot = *f.session->snapshot();
        const auto key = snapshot.table->schema.find("number"), work = snapshot.table->schema.find("work");
        for (std::int64_t i = 0; i < snapshot.recordCount(); ++i) {
            const SourceRow row = snapshot.record(i);
            const Value number = snapshot.value(row, *key);
            if (isEmpty(number)) continue;  // a draft
            if (f.session->refOf(row).key != RecordKey{number} || f.session->rowOf({number}) != row) return false;
            const bool isMine = snapshot.value(row, *work) == Value(std::string("mine"));
            if (isMine != (number == Value(std::int64_t{30}))) return false;
        }
        return true;
    }
    /// By key; where nothing was typed, and computed columns by what they are computed from.
    static void expectRecordsAsStored(SessionFixture& f, SourceRow edited) {
        const Snapshot& snapshot = *f.session->snapshot();
        QVERIFY(edited != kNoRow);
        QCOMPARE(f.value(edited, "work"), Value(std::string("mine")));
        QCOMPARE(f.session->records().unsaved() >= 1, true);
        for (std::int64_t i = 0; i < snapshot.recordCount(); ++i) {
            const SourceRow row = snapshot.record(i);
            const Value key = snapshot.value(row, f.field("number"));
            if (snapshot.edits->record(row) && row != edited) continue;
            QVERIFY(std::holds_alternative<std::int64_t>(key));
            const auto number = static_cast<int>(std::get<std::int64_t>(key));
            const Value work = snapshot.value(row, f.field("work"));
            if (row != edited)
                QCOMPARE(QString::fromStdString(std::get<std::string>(work)),
                         f.stored(qPrintable(QStringLiteral("SELECT work FROM jobs WHERE number = %1").arg(number))));
            if (const auto computed = f.session->schema().find("double"))
                QCOMPARE(
                    toText(snapshot.value(row, *computed)).toDouble(),
                    f.stored(qPrintable(QStringLiteral("SELECT hours * 2 FROM jobs WHERE number = %1").arg(number)))
                        .toDouble());
            if (const auto related = f.session->schema().find("vessel.id"))
                QCOMPARE(toText(snapshot.value(row, *related)),
                         f.stored(qPrintable(QStringLiteral("SELECT coalesce(v.id, '') FROM jobs j LEFT JOIN vessels v "
                                                            "ON v.id = j.vessel WHERE j.number = %1")
                                                 .arg(number))));
        }
    }
    static QString toText(const Value& value) { return QString::fromStdString(editText(value)); }
};

QTEST_GUILESS_MAIN(ReloadTest)
#include "reload_test.moc"
