// SPDX-License-Identifier: MIT
// An application that decides what becomes of each save: yes, no and why, by itself, later, never.
#include <QtTest>

#include <stdexcept>
#include <thread>

#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {
Value text(const char* value) { return std::string(value); }
}  // namespace

class SaverTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        f_ = std::make_unique<SessionFixture>(kJobs);
        asked_.clear();
        answers_.clear();
    }
    void cleanup() {
        answers_.clear();
        f_.reset();
    }

    void theDatabaseHasThemAfterAYes() {
        QVERIFY(opened());
        edit(10, "x");
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        QCOMPARE(asked_[0][0].changes[0].after, text("x"));
        QCOMPARE(asked_[0][0].changes[0].before, text("rewire"));
        QCOMPARE(asked_[0][0].key, RecordKey{Value(std::int64_t{10})});
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));  // it waits
        QCOMPARE(f_->state(f_->row(10), "work"), EditState::Saving);
        answers_[0].store();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("x"));
    }

    void aNoIsToldAtItsField() {
        QVERIFY(opened(Saving::Together));
        edit(10, "x");
        session().records().edit(f_->row(20), f_->field("work"), text("y"));
        QCOMPARE(session().records().saveAll(), std::size_t{2});
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        QCOMPARE(asked_[0].size(), std::size_t{2});
        answers_[0].refuse("The office is closed.", {f_->field("work")}, 1);
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(f_->row(20), "work"), EditState::Refused);
        QCOMPARE(message(20), QString("The office is closed."));
        QCOMPARE(f_->state(f_->row(10), "work"), EditState::Draft);  // for another's sake
        QCOMPARE(f_->stored("SELECT count(*) FROM jobs WHERE work IN ('x', 'y')"), QString("0"));
        // Put right, both are saved.
        session().records().edit(f_->row(20), f_->field("work"), text("z"));
        QCOMPARE(session().records().saveAll(), std::size_t{2});
        QVERIFY(f_->until([&] { return answers_.size() == 2; }));
        answers_[1].store();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT group_concat(work) FROM jobs WHERE number < 30"), QString("x,z"));
    }

    /// The application keeps its records somewhere else: the grid's database is not written.
    void theApplicationMaySaveByItself() {
        QVERIFY(opened());
        edit(10, "elsewhere");
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        answers_[0].stored();
        QVERIFY(f_->settled());
        QCOMPARE(session().records().unsaved(), std::size_t{0});
        QCOMPARE(f_->value(f_->row(10), "work"), text("elsewhere"));
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
        const auto made = session().records().insert({{f_->field("work"), text("new")}});
        session().records().leave(*made);
        QVERIFY(f_->until([&] { return answers_.size() == 2; }));
        QCOMPARE(asked_[1][0].change, RecordChange::Insert);
        StoredRecord record;
        record.key = {Value(std::int64_t{500})};
        answers_[1].stored({record});
        QVERIFY(f_->settled());
        QCOMPARE(session().refOf(*made).key, record.key);
        session().records().remove({f_->row(20)});
        QVERIFY(f_->until([&] { return answers_.size() == 3; }));
        QCOMPARE(asked_[2][0].change, RecordChange::Delete);
        answers_[2].stored();
        QVERIFY(f_->shows("10,30,40,500"));
    }

    void aNewRecordNeedsAKey() {
        QVERIFY(opened());
        const auto made = session().records().insert({{f_->field("work"), text("new")}});
        session().records().leave(*made);
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        answers_[0].stored();
        QVERIFY(f_->settled());
        QCOMPARE(session().snapshot()->edits->fate(*made)->state, EditState::Refused);
        QVERIFY(session().snapshot()->edits->fate(*made)->message.find("key") != std::string::npos);
    }

    void silenceIsANo() {
        QVERIFY(opened());
        edit(10, "x");
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        answers_.clear();
        QVERIFY(f_->settled());
        QCOMPARE(f_->state(f_->row(10), "work"), EditState::Refused);
        QVERIFY(!message(10).isEmpty());
    }

    void onlyTheFirstAnswerCounts() {
        QVERIFY(opened());
        edit(10, "x");
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        answers_[0].refuse("no");
        answers_[0].store();
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
    }

    void whatItThrowsIsANo() {
        QVERIFY(f_->open());
        session().records().setSaver(
            [](const std::vector<RecordWrite>&, const SaveAnswer&) { throw std::runtime_error("printer"); });
        edit(10, "x");
        QVERIFY(f_->settled());
        QVERIFY2(message(10).contains("printer"), qPrintable(message(10)));
        session().records().setSaver({});
        session().records().retry(f_->row(10), f_->field("work"));
        QVERIFY(f_->settled());
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("x"));
    }

    void answersComeFromAnyThread() {
        QVERIFY(opened());
        for (int turn = 0; turn < 20; ++turn) {
            edit(10, ("x" + std::to_string(turn)).c_str());
            QVERIFY(f_->until([&] { return answers_.size() == static_cast<std::size_t>(turn) + 1; }));
            std::thread other([answer = answers_.back()] { answer.store(); });
            other.join();
            QVERIFY(f_->settled());
        }
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("x19"));
    }

    /// Nothing waits for an answer that nobody can give any more; what was typed is kept.
    void aSessionThatEndsDoesNotWait() {
        f_->drafts = f_->folder.filePath("drafts").toStdString();
        QVERIFY(opened());
        edit(10, "kept");
        QVERIFY(f_->until([&] { return answers_.size() == 1; }));
        QElapsedTimer timer;
        timer.start();
        f_->session.reset();
        QVERIFY(timer.elapsed() < 5000);
        QCOMPARE(f_->stored("SELECT work FROM jobs WHERE number = 10"), QString("rewire"));
        QVERIFY(f_->open());
        QVERIFY(f_->until([&] { return f_->draftsLeft == 1; }));
        QCOMPARE(session().drafts().takeUp(), std::size_t{1});
        QVERIFY(f_->settled());
        QCOMPARE(f_->value(f_->row(10), "work"), text("kept"));
        answers_[0].store();  // too late, and harmless
    }

  private:
    Session& session() { return *f_->session; }
    bool opened(Saving saving = Saving::EachCell) {
        if (!f_->open(saving)) return false;
        session().records().setSaver([this](std::vector<RecordWrite> records, SaveAnswer answer) {
            asked_.push_back(std::move(records));
            answers_.push_back(std::move(answer));
        });
        return true;
    }
    void edit(std::int64_t key, const char* work) { session().records().edit(f_->row(key), f_->field("work"), text(work)); }
    QString message(std::int64_t key) {
        const CellEdit* edit = session().snapshot()->edits->find(f_->row(key), f_->field("work"));
        return edit ? QString::fromStdString(edit->message) : QString();
    }
    std::unique_ptr<SessionFixture> f_;
    std::vector<std::vector<RecordWrite>> asked_;
    std::vector<SaveAnswer> answers_;
};

QTEST_GUILESS_MAIN(SaverTest)
#include "saver_test.moc"
