// SPDX-License-Identifier: MIT
// Records deleted in a session, and brought back: with what goes along in the database, around reloads, where somebody
// else has been meanwhile, several that take each other along.
#include <QtTest>

#include <atomic>
#include <chrono>
#include <thread>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
Value money(std::int64_t cents) { return Decimal{cents, 2}; }

/// Has written long before it says so.
class LateStore final : public Store {
  public:
    LateStore(std::unique_ptr<Store> store, const std::atomic<bool>& mayAnswer)
        : store_(std::move(store)), mayAnswer_(mayAnswer) {}
    Result<std::vector<Outcome>> write(std::span<const RecordWrite> records, Atomicity atomicity,
                                       const Cancel& cancel) override {
        auto outcomes = store_->write(records, atomicity, cancel);
        while (!mayAnswer_) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        return outcomes;
    }

  private:
    std::unique_ptr<Store> store_;
    const std::atomic<bool>& mayAnswer_;
};

}  // namespace

class DeletingTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { f_ = std::make_unique<SessionFixture>(kJobs); }
    void cleanup() { f_.reset(); }

    /// A record that was added and saved here is deleted again, before the table is read anew, while it is, or after:
    /// with any kind of key, saved at once or together, and taken back.
    void aRecordJustAddedIsDeleted_data() {
        QTest::addColumn<QString>("key");
        QTest::addColumn<bool>("together");
        QTest::addColumn<int>("reload");
        const char* when[] = {"without a reload", "reloaded after", "reloaded meanwhile", "reloaded before"};
        for (const char* key : {"id INTEGER PRIMARY KEY", "id TEXT PRIMARY KEY", "id TEXT, at INTEGER"})
            for (const bool together : {false, true})
                for (int reload = 0; reload < 4; ++reload)
                    QTest::addRow("%s, %s, %s", key, together ? "together" : "each", when[reload])
                        << QString(key) << together << reload;
    }
    void aRecordJustAddedIsDeleted() {
        QFETCH(QString, key);
        QFETCH(bool, together);
        QFETCH(int, reload);
        const QString sql = QStringLiteral(
                                "CREATE TABLE firms (%1, name TEXT); INSERT INTO firms (id, name) VALUES ('1', "
                                "'Tern'), ('2', 'Wren'), ('3', 'Brisk')")
                                .arg(key);
        f_ = std::make_unique<SessionFixture>(sql.toUtf8().constData(), "firms");
        QVERIFY(f_->open(together ? Saving::Together : Saving::EachCell));
        const Value id =
            f_->session->schema().field(f_->field("id")).type == Type::Text ? text("9") : Value(std::int64_t{9});
        const auto all = [&] {
            return f_->stored("SELECT group_concat(name, ',') FROM (SELECT name FROM firms ORDER BY id)");
        };
        const auto row = session().records().insert({{f_->field("id"), id}, {f_->field("name"), text("Curlew")}});
        QVERIFY(row.ok());
        QCOMPARE(session().records().save({*row}), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(all(), QString("Tern,Wren,Brisk,Curlew"));
        if (reload == 3) QVERIFY(f_->reload());
        const auto there = [&] {
            for (std::int64_t i = 0; i < session().snapshot()->recordCount(); ++i)
                if (f_->value(session().snapshot()->record(i), "name") == text("Curlew"))
                    return session().snapshot()->record(i);
            return kNoRow;
        };
        QVERIFY(f_->until([&] { return there() != kNoRow; }));
        const RowRef ref = session().refOf(there());
        if (reload == 2) session().reload();  // begun, and not heard of yet
        session().records().remove({there()});
        if (together) {
            // Deleted in a draft it is still there to be seen, and to be taken back.
            QVERIFY(session().records().unsaved() > 0);
            QVERIFY(f_->until([&] { return there() != kNoRow && !session().isLoading(); }));
            if (reload == 1) QVERIFY(f_->reload());
            QVERIFY(session().now(ref).has_value());
            QVERIFY(f_->until([&] { return there() != kNoRow; }));
            session().records().revert(there());
            QVERIFY(f_->settled());
            QCOMPARE(session().records().unsaved(), std::size_t{0});
            QCOMPARE(all(), QString("Tern,Wren,Brisk,Curlew"));
            QVERIFY(f_->until([&] { return there() != kNoRow; }));
            session().records().remove({there()});
            QCOMPARE(session().records().saveAll(), std::size_t{1});
        }
        QVERIFY(f_->settled());
        QCOMPARE(all(), QString("Tern,Wren,Brisk"));
        QVERIFY(f_->until([&] { return there() == kNoRow; }));
        QVERIFY(!session().now(ref));
        if (reload == 1) QVERIFY(f_->reload());
        QVERIFY(f_->until([&] { return f_->shown("name") == "Tern,Wren,Brisk"; }));
        // And undone it is there again.
        QVERIFY(session().steps().undo());
        if (together) QCOMPARE(session().records().saveAll(), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(all(), QString("Tern,Wren,Brisk,Curlew"));
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown("name"), QString("Tern,Wren,Brisk,Curlew"));
        QVERIFY2(f_->failures.isEmpty(), qPrintable(f_->failures));
    }

    /// A reload is shown, once or twice, before the store has said that the deletion is done: it is ours all the same,
    /// and is undone with all that went along.
    void aDeletionThatIsAnsweredLateIsUndone_data() {
        QTest::addColumn<int>("reloads");
        QTest::newRow("one") << 1;
        QTest::newRow("two") << 2;
    }
    void aDeletionThatIsAnsweredLateIsUndone() {
        QFETCH(int, reloads);
        std::atomic<bool> mayAnswer = false;
        f_->store = [&]() -> Result<std::unique_ptr<Store>> {
            auto own = openStore(f_->path());
            if (!own) return own.error();
            return std::unique_ptr<Store>(std::make_unique<LateStore>(std::move(*own), mayAnswer));
        };
        QVERIFY(f_->open());
        const QString lines = f_->stored("SELECT group_concat(id || job) FROM lines");
        session().records().remove({f_->row(20)});
        QVERIFY(f_->until([&] { return f_->stored("SELECT count(*) FROM jobs") == "3"; }));
        for (int i = 0; i < reloads; ++i) QVERIFY(f_->reload());
        QCOMPARE(f_->shown(), QString("10,30,40"));
        QVERIFY(!session().steps().undo());  // not yet; the step is not used up
        // The answer of a later save comes behind it.
        session().records().edit(f_->row(30), f_->field("hours"), money(900));
        mayAnswer = true;
        QVERIFY(f_->until([&] { return !f_->answers.empty(); }));
        QCOMPARE(f_->answers.front().row, f_->row(30));  // who listens is told of rows that there are
        QVERIFY(f_->settled());
        QVERIFY(session().steps().undo());
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(number) FROM (SELECT number FROM jobs ORDER BY number)"),
                 QString("10,20,30,40"));
        QCOMPARE(f_->stored("SELECT group_concat(id || job) FROM (SELECT * FROM lines ORDER BY id)"), lines);
        QCOMPARE(f_->failures, QString());
        f_->session.reset();
    }

    void deletingTellsWhatGoesAlong() {
        QVERIFY(f_->open());
        std::vector<Dependents> found;
        const auto ask = [&](std::vector<std::int64_t> keys) {
            std::vector<SourceRow> rows;
            for (const auto key : keys) rows.push_back(f_->row(key));
            bool done = false;
            session().questions().dependentsOf(rows, [&](const Result<std::vector<Dependents>>& answer) {
                done = true;
                found = answer.ok() ? *answer : std::vector<Dependents>{};
            });
            return f_->until([&] { return done; });
        };
        QVERIFY(ask({20}));
        QCOMPARE(found, (std::vector<Dependents>{{"lines", 2, Dependents::Then::Delete}}));
        QVERIFY(ask({20, 40}));
        QCOMPARE(found, (std::vector<Dependents>{{"lines", 3, Dependents::Then::Delete}}));
        QVERIFY(ask({10}));
        QCOMPARE(found, (std::vector<Dependents>{{"claims", 1, Dependents::Then::Refuse}}));
        QVERIFY(ask({30}));
        QVERIFY(found.empty());
    }

    void deletingIsSavedAtOnceAndUndone() {
        QVERIFY(f_->open());
        session().records().remove({f_->row(30)});
        QVERIFY(f_->shows("10,20,40"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(number) FROM (SELECT number FROM jobs ORDER BY number)"),
                 QString("10,20,40"));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work || hours || tag FROM jobs WHERE number = 30"), QString("paint2c"));
        QVERIFY(f_->shows("10,20,40,30"));  // at the end until it is put in order
        QVERIFY(session().steps().redo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(number) FROM (SELECT number FROM jobs ORDER BY number)"),
                 QString("10,20,40"));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown(), QString("10,20,30,40"));
    }

    /// Undo, redo and undo again: what went along with a record comes and goes with it.
    void whatWentAlongComesBack_data() {
        QTest::addColumn<bool>("together");
        QTest::newRow("each") << false;
        QTest::newRow("together") << true;
    }
    void whatWentAlongComesBack() {
        QFETCH(bool, together);
        QVERIFY(f_->open(together ? Saving::Together : Saving::EachCell));
        const auto lines = [&] {
            return f_->stored(
                "SELECT coalesce(group_concat(id || ':' || job), '-') FROM (SELECT * FROM lines ORDER BY id)");
        };
        const auto saved = [&] {
            session().records().saveAll();
            return f_->settled();
        };
        const QString all = lines();
        session().records().remove({f_->row(20)});
        QVERIFY(saved());
        const QString without = lines();
        QVERIFY(without != all);
        for (int i = 0; i < 3; ++i) {
            QVERIFY(session().steps().undo());
            QVERIFY(saved());
            QCOMPARE(lines(), all);
            QVERIFY(session().steps().redo());
            QVERIFY(saved());
            QCOMPARE(lines(), without);
            QVERIFY(f_->reload());
        }
        QVERIFY(session().steps().undo());
        QVERIFY(saved());
        QCOMPARE(lines(), all);
        QCOMPARE(f_->failures, QString());
    }

    /// A record that others of its own table point to takes them along; they leave the grid, and come back to it.
    void whatWentAlongOfTheSameTableIsSeen() {
        f_ = std::make_unique<SessionFixture>(kParts, "parts");
        QVERIFY(f_->open());
        const auto shows = [&](const char* ids) {
            return f_->until([&] { return !session().isLoading() && f_->shown("id") == QString(ids); });
        };
        session().records().remove({f_->row(1)});
        QVERIFY(shows("4,5"));
        QVERIFY(session().steps().undo());
        QVERIFY2(shows("1,2,3,4,5"), qPrintable(f_->shown("id") + f_->failures));
        QCOMPARE(f_->stored("SELECT group_concat(id || name || coalesce(whole, '')) FROM parts"),
                 QString("1hull,2keel1,3bolt2,4mast,5boom4"));
        QVERIFY(session().steps().redo());
        QVERIFY(shows("4,5"));
        QVERIFY(session().steps().undo());
        QVERIFY(shows("1,2,3,4,5"));
    }

    /// Where what went along cannot come back, nor does the record: it stays a draft that says why.
    void whatCannotComeBackIsSaid() {
        QVERIFY(f_->open());
        const QString work = f_->stored("SELECT work FROM jobs WHERE number = 20");
        session().records().remove({f_->row(20)});
        QVERIFY(f_->settled());
        f_->run("INSERT INTO lines VALUES (1, 10)");  // somebody has the key of one of them by now
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE number = 20"), QString("0"));
        QVERIFY(f_->shows("10,30,40,20"));
        const SourceRow row = session().snapshot()->record(session().snapshot()->recordCount() - 1);
        const RecordFate* fate = session().snapshot()->edits->fate(row);
        QVERIFY(fate && fate->state == EditState::Refused);
        QVERIFY2(QString::fromStdString(fate->message).startsWith("What was deleted with it cannot come back to lines"),
                 fate->message.c_str());
        // When the way is free, saving it again brings both back.
        f_->run("DELETE FROM lines WHERE id = 1");
        session().records().saveAll();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 20"), work);
        QVERIFY(f_->stored("SELECT count(*) FROM lines WHERE job = 20") != QString("0"));
    }

    /// Brought back, a record is what it was: empties stay empty where the database has a default, what fits no type is
    /// as it stood.
    void whatIsBroughtBackIsWhatItWas() {
        f_->run(
            "DROP TRIGGER note; UPDATE jobs SET hours = 'many' WHERE number = 30;"
            "UPDATE jobs SET hours = NULL WHERE number IN (20, 40)");
        QVERIFY(f_->open());
        const char* whole =
            "SELECT group_concat(quote(number) || quote(work) || quote(hours) || quote(tag) || quote(vessel)) "
            "FROM (SELECT * FROM jobs WHERE number >= 30 ORDER BY number)";
        const QString before = f_->stored(whole);
        const RowRef kept = session().refOf(f_->row(30));
        session().records().remove({f_->row(30), f_->row(40)});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("2"));
        QVERIFY(!session().now(kept));  // it is not there
        QVERIFY(!session().rowOf({Value(std::int64_t{30})}));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored(whole), before);
        QVERIFY(session().rowOf({Value(std::int64_t{30})}));
        const auto twin = session().records().duplicate(f_->row(20));
        session().records().leave(*twin);
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT quote(hours) FROM jobs WHERE number > 40"), QString("NULL"));
    }

    /// Data that was not read cannot come back, so nothing comes back in part.
    void whatIsNotKnownWholeIsNotMadeAgain() {
        f_->run("ALTER TABLE jobs ADD COLUMN picture BLOB; UPDATE jobs SET picture = x'0102' WHERE number = 30");
        QVERIFY(f_->open());
        session().records().remove({f_->row(30)});
        QVERIFY(f_->settled());
        QVERIFY(!session().steps().undo());
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE number = 30"), QString("0"));
        QVERIFY(f_->shows("10,20,40"));
    }

    /// What is to be deleted stands on its line and counts no more: as a draft, refused, taken back, saved, undone.
    void whatIsToBeDeletedIsNotSummedUp_data() {
        QTest::addColumn<QString>("group");
        QTest::newRow("totals alone") << "";
        QTest::newRow("groups") << "vessel";
    }
    void whatIsToBeDeletedIsNotSummedUp() {
        QFETCH(QString, group);
        Design design = f_->design();
        design.grid.saving = Saving::Together;
        if (!group.isEmpty()) design.groups = {{{group.toStdString()}}};
        for (const SummaryShow show : {SummaryShow::Sum, SummaryShow::Count, SummaryShow::Distinct}) {
            SummaryDesign summary;
            summary.column = "hours";
            summary.show = show;
            summary.name = newSummaryName(design, summary);
            design.summaries.push_back(summary);
        }
        ColumnDesign share;
        share.field = "share";
        share.rule = "hours / SUM(hours) OVER ()";
        design.columns.push_back(share);
        QVERIFY(f_->open(design));
        const auto figures = [&] {
            const Snapshot& now = *session().snapshot();
            std::string text;
            for (std::size_t i = 0; now.groups && i < now.groups->figures.size(); ++i)
                text += textOf(now.groups->total(i).value) + " ";
            return text;
        };
        const auto shares = [&](std::int64_t number) {
            std::string text;
            appendPlain(text, f_->value(f_->row(number), "share"));
            return text.substr(0, 6);
        };
        QVERIFY(f_->until([&] { return figures() == "30.00 4 4 "; }));
        QCOMPARE(shares(20), std::string("0.2666"));
        const SourceRow refused = f_->row(10), goes = f_->row(40);
        session().records().remove({refused, goes});
        QVERIFY(f_->until([&] { return figures() == "10.00 2 2 " && shares(20) == "0.8000"; }));
        QCOMPARE(session().snapshot()->recordCount(), std::int64_t{4});
        for (std::uint32_t node = 0; node < session().snapshot()->groups->tree->nodes.size(); ++node) {
            const GroupedRows& groups = *session().snapshot()->groups;
            QCOMPARE(groups.figure(1, node).value, RuleValue(groups.records(node)));
        }
        session().records().saveAll();  // another record points to the one
        QVERIFY(f_->settled());
        QCOMPARE(session().snapshot()->edits->fate(refused)->state, EditState::Refused);
        QVERIFY(f_->until([&] { return figures() == "10.00 2 2 "; }));
        session().records().revert(refused);
        QVERIFY(f_->until([&] { return figures() == "14.00 3 3 "; }));
        session().records().saveAll();
        QVERIFY(f_->settled());
        QVERIFY(f_->until([&] { return session().snapshot()->recordCount() == 3; }));
        QVERIFY(f_->until([&] { return figures() == "14.00 3 3 "; }));
        QVERIFY(session().steps().undo());
        QVERIFY(f_->until([&] { return figures() == "30.00 4 4 "; }));
    }

    void whatCannotBeDeletedStaysAndSaysWhy() {
        QVERIFY(f_->open());
        const SourceRow row = f_->row(10);
        session().records().remove({row});
        QVERIFY(f_->settled());
        const RecordFate* fate = session().snapshot()->edits->fate(row);
        QVERIFY(fate && fate->state == EditState::Refused &&
                fate->message.find("point to this one") != std::string::npos);
        session().records().revert(row);
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QVERIFY(f_->shows("10,20,30,40"));
    }

    void oneOfManyThatCannotBeDeletedKeepsAll() {
        QVERIFY(f_->open());
        session().records().remove({f_->row(10), f_->row(30)});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("4"));
        QCOMPARE(session().snapshot()->edits->fate(f_->row(30))->state, EditState::Draft);
        session().records().revertAll();
        QVERIFY(f_->shows("10,20,30,40"));
    }

    void somebodyElsesChangeIsNotDeletedUnseen() {
        QVERIFY(f_->open());
        f_->run("UPDATE jobs SET work = 'much added' WHERE number = 30");
        const SourceRow row = f_->row(30);
        session().records().remove({row});
        QVERIFY(f_->settled());
        QCOMPARE(session().snapshot()->edits->fate(row)->state, EditState::Conflict);
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs"), QString("4"));
    }

    /// Some are taken along by others that are deleted with them, whichever is named first.
    void thoseThatTakeEachOtherAlong_data() {
        QTest::addColumn<bool>("together");
        QTest::addColumn<QList<int>>("order");
        for (const bool together : {false, true})
            for (const QList<int>& order : {QList{1, 2, 3, 5}, QList{5, 3, 2, 1}, QList{2, 1, 3}, QList{3, 1}})
                QTest::addRow("%s %d%d", together ? "together" : "each", order[0], order[1]) << together << order;
    }
    void thoseThatTakeEachOtherAlong() {
        QFETCH(bool, together);
        QFETCH(QList<int>, order);
        f_ = std::make_unique<SessionFixture>(kParts, "parts");
        QVERIFY(f_->open(together ? Saving::Together : Saving::EachCell));
        const char* all =
            "SELECT group_concat(id || name || coalesce(whole, '')) FROM (SELECT * FROM parts ORDER BY id)";
        const QString before = f_->stored(all);
        const auto saved = [&] {
            session().records().saveAll();
            return f_->settled();
        };
        std::vector<SourceRow> rows;
        for (const int id : order) rows.push_back(f_->row(id));
        session().records().remove(rows);
        QVERIFY(saved());
        const QString left = order.contains(5) ? "4mast" : "4mast,5boom4";
        QCOMPARE(f_->stored(all), left);
        QVERIFY(session().steps().undo());
        QVERIFY(saved());
        QCOMPARE(f_->stored(all), before);
        QVERIFY(session().steps().redo());
        QVERIFY(saved());
        QCOMPARE(f_->stored(all), left);
        QVERIFY(f_->reload());
        QVERIFY(session().steps().undo());
        QVERIFY(saved());
        QCOMPARE(f_->stored(all), before);
        QVERIFY(f_->reload());
        QCOMPARE(f_->shown("id"), QString("1,2,3,4,5"));
        QCOMPARE(f_->failures, QString());
    }

  private:
    static constexpr const char* kParts =
        "CREATE TABLE parts (id INTEGER PRIMARY KEY, name TEXT, whole INTEGER REFERENCES parts ON DELETE CASCADE);"
        "INSERT INTO parts VALUES (1, 'hull', NULL), (2, 'keel', 1), (3, 'bolt', 2), (4, 'mast', NULL), (5, 'boom', 4)";
    Session& session() { return *f_->session; }
    std::unique_ptr<SessionFixture> f_;
};

QTEST_GUILESS_MAIN(DeletingTest)
#include "deleting_test.moc"
