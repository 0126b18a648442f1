// SPDX-License-Identifier: MIT
// Schemas are read elsewhere: what the owner's thread waits for, how long in all, and what it is told later. Also under
// the thread sanitizer.
#include <QtTest>

#include <atomic>
#include <condition_variable>
#include <mutex>

#include "core/session/schema_desk.h"
#include "core/session/session.h"
#include "tests/hasty.h"
#include "tests/session/inbox.h"
#include "tests/session/session_fixture.h"

using namespace jollyrow;
namespace {

/// Answers when it may: each table has one field of its name, and a link to the next.
class GatedSource final : public Source {
  public:
    void open(bool isOpen) {
        {
            const std::lock_guard lock(mutex_);
            open_ = isOpen;
        }
        changed_.notify_all();
    }
    Result<std::vector<TableSummary>> tables(const Cancel&) const override { return std::vector<TableSummary>{}; }
    Result<TableSchema> schema(const Binding& binding, const Cancel& cancel) const override {
        ++asked;
        if (std::this_thread::get_id() == owner) onOwner = true;
        std::unique_lock lock(mutex_);
        while (!open_ && !cancel.requested()) changed_.wait_for(lock, std::chrono::milliseconds(2));
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
        if (binding.table == "locked") return Error{ErrorCode::Locked, "locked is locked."};
        if (binding.table == "none") return Error{ErrorCode::NotFound, "There is no table none."};
        TableSchema schema;
        schema.name = binding.table;
        for (const char* field : {"id", "next"}) schema.fields.emplace_back().name = field;
        schema.fields[0].primaryKeyRank = 1;
        schema.foreignKeys.push_back({{"next"}, binding.table + "'", {"id"}});
        return schema;
    }
    Result<std::shared_ptr<const Table>> load(const LoadRequest&, const Cancel&) const override {
        return Error{ErrorCode::Unsupported, "Not read here."};
    }
    Result<std::vector<LookUpEntry>> lookUp(const LookUpRequest&, const Cancel&) const override {
        return std::vector<LookUpEntry>{};
    }
    Result<std::vector<Value>> valuesOf(const RecordRequest&) const override { return std::vector<Value>{}; }

    mutable std::atomic<int> asked{0};
    mutable std::atomic<bool> onOwner{false};
    std::thread::id owner = std::this_thread::get_id();

  private:
    mutable std::mutex mutex_;
    mutable std::condition_variable changed_;
    bool open_ = true;  // guarded by mutex_
};

}  // namespace

class SchemaDeskTest : public QObject {
    Q_OBJECT

    Inbox inbox_;
    int news_ = 0;
    std::shared_ptr<GatedSource> source_;
    std::unique_ptr<SchemaDesk> desk_;

    bool until(const std::function<bool()>& reached) {
        for (int i = 0; i < 20000 && !reached(); ++i) {
            inbox_.pump();
            QThread::msleep(1);
        }
        return reached();
    }

  private Q_SLOTS:
    void init() {
        inbox_.pump();
        news_ = 0;
        source_ = std::make_shared<GatedSource>();
        desk_ = std::make_unique<SchemaDesk>([this](std::function<void()> call) { inbox_.post(std::move(call)); },
                                             [this] { ++news_; });
        desk_->forget(source_);
    }
    void cleanup() {
        source_->open(true);
        desk_->stop();
        inbox_.pump();
        desk_.reset();
    }

    void anotherTableIsReadOnceAndNeverHere() {
        QCOMPARE(desk_->schemaOf("vessels")->name, std::string("vessels"));
        QCOMPARE(desk_->schemaOf("vessels")->fields.size(), std::size_t{2});
        QCOMPARE(source_->asked.load(), 1);
        QVERIFY(!source_->onOwner);
        QCOMPARE(news_, 0);
        desk_->forget(source_);  // it may have been altered
        QVERIFY(desk_->schemaOf("vessels").ok());
        QCOMPARE(source_->asked.load(), 2);
    }

    void whatTakesLongIsToldLater() {
        const Hasty hasty;
        source_->open(false);
        const auto soon = desk_->schemaOf("vessels");
        QCOMPARE(soon.error().code, ErrorCode::Locked);
        QVERIFY(soon.error().message.find("vessels are still being read") != std::string::npos);
        QCOMPARE(desk_->schemaOf("vessels").error().code, ErrorCode::Locked);  // asked for once
        source_->open(true);
        QVERIFY(until([&] { return news_ == 1; }));
        QCOMPARE(desk_->schemaOf("vessels")->name, std::string("vessels"));
        QCOMPARE(source_->asked.load(), 1);
    }

    /// However many tables are asked for in one turn: the owner's thread waits for all of them together no longer than
    /// for one.
    void theWaitIsForAllOfThemTogether() {
        const Hasty hasty(std::chrono::milliseconds(40));
        source_->open(false);
        QElapsedTimer timer;
        timer.start();
        for (int i = 0; i < 30; ++i) QVERIFY(!desk_->schemaOf("table" + std::to_string(i)).ok());
        QVERIFY2(timer.elapsed() < 30 * 40 / 3, qPrintable(QString::number(timer.elapsed())));
        source_->open(true);
        QVERIFY(until([&] { return news_ == 30; }));
        // In another turn there is time to wait again.
        QVERIFY(desk_->schemaOf("late").ok());
    }

    void whatWasAskedOfTheSourceBeforeIsNotTold() {
        const Hasty hasty(std::chrono::milliseconds(0));
        source_->open(false);
        QVERIFY(!desk_->schemaOf("vessels").ok());
        auto other = std::make_shared<GatedSource>();
        desk_->forget(other);
        source_->open(true);
        setLongestWait(std::chrono::seconds(30));
        inbox_.pump();
        QVERIFY(desk_->schemaOf("vessels").ok());
        QCOMPARE(other->asked.load(), 1);
        inbox_.pump();
        QCOMPARE(news_, 0);
    }

    void errorsAreKeptButForLocks() {
        QCOMPARE(desk_->schemaOf("none").error().code, ErrorCode::NotFound);
        QCOMPARE(desk_->schemaOf("none").error().code, ErrorCode::NotFound);
        QCOMPARE(source_->asked.load(), 1);
        QCOMPARE(desk_->schemaOf("locked").error().code, ErrorCode::Locked);
        QCOMPARE(desk_->schemaOf("locked").error().code, ErrorCode::Locked);
        QCOMPARE(source_->asked.load(), 3);
        desk_->forget(nullptr);
        QCOMPARE(desk_->schemaOf("vessels").error().code, ErrorCode::NotFound);
    }

    void relatedFieldsAreAddedAsFarAsTheyAreKnown() {
        const TableSchema jobs = *source_->schema({"jobs", ""}, {});
        QCOMPARE(desk_->withRelated(jobs, {"next.id", "next.next.id", "none.id"}).fields.size(), std::size_t{4});
        desk_->forget(source_);
        const Hasty hasty(std::chrono::milliseconds(0));
        source_->open(false);
        QCOMPARE(desk_->withRelated(jobs, {"next.id", "next.next.id"}).fields.size(), std::size_t{2});
        source_->open(true);
        QVERIFY(until([&] { return news_ == 1; }));
        source_->open(false);
        QCOMPARE(desk_->withRelated(jobs, {"next.id", "next.next.id"}).fields.size(), std::size_t{3});
        source_->open(true);
        QVERIFY(until([&] { return news_ == 2; }));
        QCOMPARE(desk_->withRelated(jobs, {"next.id", "next.next.id"}).fields.size(), std::size_t{4});
    }

    void theNewestQuestionCounts() {
        const Hasty hasty(std::chrono::milliseconds(0));
        QStringList came;
        const auto ask = [&](const char* table) {
            return desk_->ask(
                [this, table](const Cancel& cancel) {
                    return source_->schema({table, ""}, cancel);
                },
                [&came](const Result<TableSchema>& schema) {
                    came << (schema ? QString::fromStdString(schema->name) : QStringLiteral("error"));
                });
        };
        source_->open(false);
        QVERIFY(!ask("first") && !ask("second") && !ask("third"));
        source_->open(true);
        QVERIFY(until([&] { return !came.isEmpty(); }));
        QCOMPARE(came, QStringList("third"));
        source_->open(false);
        QVERIFY(!ask("fourth"));
        desk_->cancel();
        QVERIFY(until([&] { return came.size() == 2; }));
        QCOMPARE(came.back(), QStringLiteral("error"));
    }

    /// A view whose first records take long to come to: nothing waits for them but a worker, and it can be cancelled.
    void aSlowViewIsOpenedBehind() {
        SessionFixture db(
            "CREATE TABLE jobs (id INTEGER PRIMARY KEY, hours REAL); INSERT INTO jobs VALUES (1, 2.5);"
            "CREATE VIEW slow AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < "
            "400000) SELECT i % 7 AS day, count(*) AS times FROM n GROUP BY day;"
            "CREATE VIEW endless AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) "
            "SELECT count(*) AS times FROM n");
        Design design;
        design.source = {"sqlite", db.path(), "slow", ""};
        QVERIFY(db.open());
        const Hasty hasty(std::chrono::milliseconds(1));
        const int loads = db.loads;
        QVERIFY(db.session->open(design, db.path()).ok());
        QVERIFY(db.session->isLoading());
        QVERIFY(db.session->schema().fields.empty());
        QCOMPARE(db.session->snapshot()->lineCount(), std::int64_t{0});
        QVERIFY(db.until([&] { return db.loads == loads + 1; }));
        QVERIFY2(db.failures.isEmpty(), qPrintable(db.failures));
        QCOMPARE(db.session->snapshot()->lineCount(), std::int64_t{7});
        // One that never comes is let go when it is cancelled, and by the session's end.
        design.source.table = "endless";
        QVERIFY(db.session->open(design, db.path()).ok());
        QVERIFY(db.session->isLoading());
        db.session->cancelLoad();
        QVERIFY(db.until([&] { return db.loads == loads + 2; }));
        QVERIFY(db.failures.contains(QStringLiteral("cancelled")));
        QVERIFY(db.session->open(design, db.path()).ok());
        // What cannot be opened leaves the present one as it was: on its way.
        Design wrong = design;
        wrong.source.table = "no_such";
        setLongestWait(std::chrono::seconds(2));
        QVERIFY(!db.session->open(wrong, db.path()).ok());
        setLongestWait(std::chrono::milliseconds(1));
        QVERIFY(db.session->isLoading());
        QCOMPARE(db.session->design().source.table, std::string("endless"));
        db.session.reset();
    }
};

QTEST_GUILESS_MAIN(SchemaDeskTest)
#include "schema_desk_test.moc"
