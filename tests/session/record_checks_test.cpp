// SPDX-License-Identifier: MIT
// What is wrong with records besides rules: what functions say at once and later, and what the database would refuse
// when it is asked, told before it is.
#include <QtTest>

#include <stdexcept>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
}  // namespace

class RecordChecksTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() { f_ = std::make_unique<SessionFixture>(kJobs); }
    void cleanup() { f_.reset(); }

    // ---- What the database would refuse

    void aValueThatAnotherRecordHasIsForeseen() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("tag"), text("c"));
        QVERIFY(says(20, "There is another record with Tag c."));
        QCOMPARE(f_->state(f_->row(20), "tag"), EditState::Draft);
        session().records().edit(f_->row(20), f_->field("tag"), text("free"));
        QVERIFY(says(20, ""));
        session().records().edit(f_->row(20), f_->field("tag"), text("b"));  // its own
        QVERIFY(says(20, ""));
        session().records().edit(f_->row(20), f_->field("tag"), Empty{});
        QVERIFY(says(20, ""));
    }

    void aLinkThatLeadsNowhereIsForeseen() {
        QVERIFY(f_->open(Saving::EachRecord));
        session().records().edit(f_->row(20), f_->field("vessel"), std::int64_t{77});
        QVERIFY(says(20, "There is no record of vessels for Vessel 77."));
        session().records().edit(f_->row(20), f_->field("vessel"), std::int64_t{3});
        QVERIFY(says(20, ""));
    }

    /// What was foreseen may not hold any more: the database decides when it is asked.
    void whatIsForeseenDoesNotStandInTheWay() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("tag"), text("c"));
        QVERIFY(says(20, "There is another record with Tag c."));
        f_->run("UPDATE jobs SET tag = 'other' WHERE number = 30");
        QCOMPARE(session().records().save({f_->row(20)}), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT tag FROM jobs WHERE number = 20"), QString("c"));
        QCOMPARE(session().records().unsaved(), std::size_t{0});
    }

    /// What another record is saved with decides anew, both ways.
    void whatIsSavedElsewhereIsAskedAgain() {
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(20), f_->field("tag"), text("c"));
        QVERIFY(says(20, "There is another record with Tag c."));
        session().records().edit(f_->row(30), f_->field("tag"), text("mine"));
        QCOMPARE(session().records().save({f_->row(30)}), std::size_t{1});
        QVERIFY(says(20, ""));
        session().records().edit(f_->row(20), f_->field("tag"), text("free"));
        QVERIFY(f_->settled());
        QVERIFY(says(20, ""));
        session().records().edit(f_->row(30), f_->field("tag"), text("free"));
        QCOMPARE(session().records().save({f_->row(30)}), std::size_t{1});
        QVERIFY(says(20, "There is another record with Tag free."));
        session().records().remove({f_->row(30)});
        session().records().save({f_->row(30)});
        QVERIFY(says(20, ""));
    }

    void newRecordsAreLookedAtToo() {
        QVERIFY(f_->open());
        const auto row = session().records().insert({{f_->field("work"), text("w")}, {f_->field("tag"), text("a")}});
        QVERIFY(f_->until([&] { return wordsOf(*row) == QString("There is another record with Tag a."); }, 30'000));
        const auto key = session().records().insert({{f_->field("number"), std::int64_t{20}}, {f_->field("work"), text("w")}});
        QVERIFY(f_->until([&] { return wordsOf(*key) == QString("There is another record with Number 20."); }, 30'000));
    }

    void keysOfSeveralFields() {
        f_ = std::make_unique<SessionFixture>(
            "CREATE TABLE jobs (number INTEGER PRIMARY KEY, yard TEXT, slip INTEGER, UNIQUE (yard, slip));"
            "INSERT INTO jobs VALUES (1, 'n', 1), (2, 'n', 2), (3, 's', 1), (4, NULL, 1);");
        QVERIFY(f_->open(Saving::Together));
        session().records().edit(f_->row(2), f_->field("slip"), std::int64_t{1});
        QVERIFY(says(2, "There is another record with Yard n and Slip 1."));
        session().records().edit(f_->row(2), f_->field("yard"), text("s"));
        QVERIFY(says(2, "There is another record with Yard s and Slip 1."));
        session().records().edit(f_->row(2), f_->field("yard"), Empty{});  // empties are no equals
        QVERIFY(says(2, ""));
        session().records().edit(f_->row(2), f_->field("yard"), text("w"));
        QVERIFY(says(2, ""));
    }

    void manyAtOnceAreAskedTogether() {
        QString sql = "CREATE TABLE jobs (number INTEGER PRIMARY KEY, tag TEXT UNIQUE);";
        sql +=
            "WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 2000) INSERT INTO jobs SELECT i, "
            "'t' || i FROM c;";
        f_ = std::make_unique<SessionFixture>(sql.toUtf8().constData());
        QVERIFY(f_->open(Saving::Together));
        std::vector<CellWrite> cells;
        for (std::int64_t i = 1; i <= 1000; ++i)
            cells.push_back({f_->row(i), f_->field("tag"), text(("t" + std::to_string(i + 1000)).c_str())});
        session().records().edit(cells);
        QVERIFY(f_->until([&] { return !wordsOf(f_->row(1)).isEmpty() && !wordsOf(f_->row(1000)).isEmpty(); }, 30'000));
        for (std::int64_t i = 1; i <= 1000; ++i)
            QCOMPARE(wordsOf(f_->row(i)), QString("There is another record with Tag t%1.").arg(i + 1000));
    }

    // ---- Functions of the application

    void aFunctionSaysWhatIsWrong() {
        QVERIFY(f_->open());
        session().checks().set({{"polite", "work", false, [](const ReadRecord& read) {
                                        const Value work = read("work");
                                        const auto* words = std::get_if<std::string>(&work);
                                        return words && *words == "damn" ? "Mind your words." : "";
                                    }}});
        const auto problem = session().checks().problemWith(f_->row(10), f_->field("work"), text("damn"));
        QVERIFY(problem);
        QCOMPARE(problem->message, std::string("Mind your words."));
        QVERIFY(!session().checks().problemWith(f_->row(10), f_->field("work"), text("dame")));
        session().records().edit(f_->row(10), f_->field("work"), text("damn"));
        QVERIFY(says(10, "Mind your words."));
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));  // it is not saved
        session().records().edit(f_->row(10), f_->field("work"), text("dam"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("dam"));
        session().checks().set({});
    }

    void whatAFunctionThrowsIsSaid() {
        QVERIFY(f_->open());
        session().checks().set(
            {{"broken", "", false, [](const ReadRecord&) -> std::string { throw std::runtime_error("no licence"); }},
             {"odd", "tag", false, [](const ReadRecord&) -> std::string { throw 7; }}});
        session().records().edit(f_->row(10), f_->field("work"), text("x"));
        QVERIFY(says(10, "The check broken could not be made: no licence|The check odd could not be made."));
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
    }

    void aWarningIsOverridden() {
        QVERIFY(f_->open());
        session().checks().set(
            {{"late", "work", true, [](const ReadRecord&) { return std::string("It is late."); }}});
        session().records().edit(f_->row(10), f_->field("work"), text("x"));
        QVERIFY(says(10, "It is late."));
        session().records().overrideWarning(f_->row(10), "late");
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("x"));
    }

    void aRecordWaitsForAnAnswer() {
        QVERIFY(f_->open());
        std::vector<std::function<void(std::string)>> asked;
        session().checks().set({later(asked)});
        session().records().edit(f_->row(10), f_->field("work"), text("x"));
        QVERIFY(says(10, "This is still being checked."));
        QCOMPARE(asked.size(), std::size_t{1});
        QTest::qWait(30);
        f_->inbox.pump();
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
        asked[0]("");
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("x"));  // saved without another word
        asked[0]("Too late to say so.");
        QCOMPARE(wordsOf(f_->row(10)), QString());
    }

    /// The answer to an older value says nothing about the newer one.
    void answersToOlderValuesDoNotCount() {
        QVERIFY(f_->open(Saving::Together));
        std::vector<std::function<void(std::string)>> asked;
        session().checks().set({later(asked)});
        session().records().edit(f_->row(10), f_->field("work"), text("x"));
        session().records().edit(f_->row(10), f_->field("work"), text("y"));
        QCOMPARE(asked.size(), std::size_t{2});
        asked[0]("x is wrong");
        QCOMPARE(wordsOf(f_->row(10)), QString("This is still being checked."));
        asked[1]("y is wrong");
        QVERIFY(says(10, "y is wrong"));
        QCOMPARE(session().records().saveAll(), std::size_t{0});
        session().records().edit(f_->row(10), f_->field("work"), text("z"));
        QCOMPARE(asked.size(), std::size_t{3});
        asked[2]("");
        QVERIFY(says(10, ""));
        QCOMPARE(session().records().saveAll(), std::size_t{1});
    }

    void answeredAtOnceIsAnswered() {
        QVERIFY(f_->open());
        RecordCheck check{"now", "work"};
        check.ask = [](const ReadRecord& read, const std::function<void(std::string)>& answer) {
            answer(read("work") == Value(std::string("bad")) ? "bad" : "");
        };
        session().checks().set({check});
        session().records().edit(f_->row(10), f_->field("work"), text("bad"));
        QVERIFY(says(10, "bad"));
        session().records().edit(f_->row(10), f_->field("work"), text("good"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("good"));
    }

    /// A record that is left while it waits is saved when the answer is there.
    void aRecordThatIsLeftIsSavedLater() {
        QVERIFY(f_->open(Saving::EachRecord));
        std::vector<std::function<void(std::string)>> asked;
        session().checks().set({later(asked)});
        session().records().edit(f_->row(10), f_->field("work"), text("x"));
        session().records().leave(f_->row(10));
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
        asked[0]("");
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("x"));
    }

    /// Rows are others after a reload: an answer to what was asked before reaches nobody, and it is asked again.
    void aReloadAsksAgain() {
        QVERIFY(f_->open(Saving::Together));
        std::vector<std::function<void(std::string)>> asked;
        session().checks().set({later(asked)});
        session().records().edit(f_->row(40), f_->field("work"), text("x"));
        f_->run("DELETE FROM jobs WHERE number = 20");
        QVERIFY(f_->reload());
        const std::size_t before = asked.size();
        asked[0]("meant for a row of the older table");
        QCOMPARE(wordsOf(f_->row(30)), QString());
        session().records().edit(f_->row(40), f_->field("tag"), text("t"));
        QVERIFY(asked.size() > before);
        asked.back()("wrong tag");
        QVERIFY(says(40, "wrong tag"));
        QCOMPARE(wordsOf(f_->row(30)), QString());
    }

    void answersAfterTheEndAreHarmless() {
        QVERIFY(f_->open());
        std::vector<std::function<void(std::string)>> asked;
        session().checks().set({later(asked)});
        session().records().edit(f_->row(10), f_->field("work"), text("x"));
        f_->session.reset();
        asked[0]("nobody is there");
    }

  private:
    Session& session() { return *f_->session; }
    static RecordCheck later(std::vector<std::function<void(std::string)>>& asked) {
        RecordCheck check{"later", "work"};
        check.ask = [&asked](const ReadRecord&, std::function<void(std::string)> answer) {
            asked.push_back(std::move(answer));
        };
        return check;
    }
    QString wordsOf(SourceRow row) {
        QStringList words;
        const RecordEdit* record = session().snapshot()->edits->record(row);
        if (record)
            for (const RecordProblem& problem : record->problems()) words << QString::fromStdString(problem.message);
        return words.join(u'|');
    }
    bool says(std::int64_t key, const char* words) {
        if (f_->until([&] { return wordsOf(f_->row(key)) == words; }, 30'000)) return true;
        qWarning("%s", qPrintable(wordsOf(f_->row(key))));
        return false;
    }
    std::unique_ptr<SessionFixture> f_;
};

QTEST_GUILESS_MAIN(RecordChecksTest)
#include "record_checks_test.moc"
