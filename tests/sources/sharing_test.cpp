// SPDX-License-Identifier: MIT
// One database file, read and written at a time: by a load and a save of this process, and by others. With and without
// a write-ahead log.
#include <QtTest>

#include <sqlite3.h>

#include <atomic>
#include <functional>
#include <mutex>
#include <thread>

#include "core/sources/source.h"
#include "core/sources/sqlite/file_gate.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "tests/stored_text.h"

using namespace jollyrow;

class SharingTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        path_ = folder_->filePath("yard.db").toStdString();
    }

    /// Another program that commits all the time never waits long for a load, nor a load for it: neither waits for a
    /// lock while it holds one that the other waits for.
    void othersCommitWhileRecordsAreLoaded_data() { modes(); }
    void othersCommitWhileRecordsAreLoaded() {
        QFETCH(QString, mode);
        make(mode, 4);
        const auto source = *openSource(path_);
        std::atomic<bool> stop = false;
        std::atomic<int> commits = 0, busy = 0;
        std::thread writer([&] {
            sqlite3* db = connection(kPatience);
            sqlite3_exec(db, "PRAGMA synchronous = OFF", nullptr, nullptr, nullptr);  // a slow disk is no lock
            while (!stop) {
                QThread::usleep(500);
                const int code = sqlite3_exec(db, "UPDATE jobs SET hours = hours + 1", nullptr, nullptr, nullptr);
                code == SQLITE_OK ? ++commits : ++busy;
            }
            sqlite3_close(db);
        });
        QElapsedTimer all;
        all.start();
        int loads = 0;
        QString failure;
        while (all.elapsed() < 3000 && failure.isEmpty() && busy == 0) {
            const auto table = source->load(jobs(), Cancel());
            if (!table) failure = QString::fromStdString(table.error().message);
            // One state: all records were changed by the same commits.
            for (SourceRow row{1}; table.ok() && raw(row) < (*table)->rows; row = SourceRow{raw(row) + 1})
                if (!(hours(**table, row) == hours(**table, SourceRow{0}))) failure = "two states in one load";
            ++loads;
        }
        stop = true;
        writer.join();
        QVERIFY2(failure.isEmpty(), qPrintable(failure));
        QCOMPARE(busy.load(), 0);
        QVERIFY(commits > 0 && loads > 0);
    }

    /// A save that comes while this program loads, for longer than a lock is waited for, is saved when that is done;
    /// with a write-ahead log at once.
    void aSaveWaitsForALoadOfItsOwn_data() { modes(); }
    void aSaveWaitsForALoadOfItsOwn() {
        QFETCH(QString, mode);
        make(mode, 2000);
        const bool isLogged = mode == "WAL";
        std::atomic<bool> isReading = false, goOn = false;
        std::thread loader([&] { loadUntil(isReading, goOn, Cancel()); });
        QTRY_VERIFY_WITH_TIMEOUT(isReading, 10'000);
        std::atomic<bool> isWritten = false;
        Result<void> written;
        std::thread writer([&] {
            written = write(3, 77);
            isWritten = true;
        });
        if (isLogged) {
            QTRY_VERIFY_WITH_TIMEOUT(isWritten, 4000);
        } else {
            QTest::qWait(sqlite::kPatientMs + 1500);
            QVERIFY(!isWritten);
            // Whoever only looks something up does not wait with it.
            const auto source = *openSource(path_);
            QVERIFY(source->schema({"jobs", ""}, Cancel()).ok());
        }
        goOn = true;
        writer.join();
        loader.join();
        QVERIFY2(written.ok(), written.ok() ? "" : written.error().message.c_str());
        QCOMPARE(stored("SELECT hours FROM jobs WHERE number = 3"), QString("77"));
    }

    /// Loads one after the other, of several grids, do not keep a save out: it is next.
    void aSaveIsNotOvertakenByLoads() {
        make("DELETE", 3000);
        std::atomic<bool> stop = false;
        std::atomic<int> loads = 0;
        std::vector<std::thread> readers;
        for (int i = 0; i < 3; ++i)
            readers.emplace_back([&] {
                const auto source = *openSource(path_);
                while (!stop)
                    if (source->load(jobs(), Cancel()).ok()) ++loads;
            });
        QString failure;
        for (int i = 0; i < 30 && failure.isEmpty(); ++i) {
            const auto written = write(1 + i, 1000 + i);
            if (!written) failure = QString::fromStdString(written.error().message);
        }
        stop = true;
        for (std::thread& reader : readers) reader.join();
        QVERIFY2(failure.isEmpty(), qPrintable(failure));
        QCOMPARE(stored("SELECT count(*) FROM jobs WHERE hours >= 1000"), QString("30"));
        QVERIFY(loads > 0);
    }

    void aLoadThatWaitsForASaveIsCancelled() {
        const auto gate = sqlite::FileGate::of("/of/no/file");
        QCOMPARE(sqlite::FileGate::of("/of/no/file"), gate);
        QVERIFY(sqlite::FileGate::of("/of/another") != gate);
        auto writing = std::make_unique<sqlite::FileGate::Writing>(gate);
        const Cancel cancel;
        std::atomic<bool> isThrough = false;
        std::thread reader([&] {
            const sqlite::FileGate::Reading reading(gate, cancel);
            isThrough = true;
        });
        QTest::qWait(30);
        QVERIFY(!isThrough);
        cancel.request();
        reader.join();
        QVERIFY(isThrough);
        writing.reset();
        // The one that was cancelled had not got in, and has not gone out.
        const sqlite::FileGate::Writing again(gate);
        const sqlite::FileGate::Writing nobody(nullptr);
    }

    /// Nobody is ever inside with a writer, in any order of comings and goings.
    void writersAreAlone() {
        const auto gate = sqlite::FileGate::of("/of/many");
        std::atomic<int> readers = 0, writers = 0, wrong = 0, turns = 0;
        std::vector<std::thread> all;
        for (int i = 0; i < 6; ++i)
            all.emplace_back([&, isWriter = i < 2] {
                for (int turn = 0; turn < 300; ++turn) {
                    if (isWriter) {
                        const sqlite::FileGate::Writing writing(gate);
                        if (++writers != 1 || readers != 0) ++wrong;
                        std::this_thread::yield();
                        if (readers != 0) ++wrong;
                        --writers;
                    } else {
                        const sqlite::FileGate::Reading reading(gate, Cancel());
                        ++readers;
                        if (writers != 0) ++wrong;
                        std::this_thread::yield();
                        if (writers != 0) ++wrong;
                        --readers;
                    }
                    ++turns;
                }
            });
        for (std::thread& one : all) one.join();
        QCOMPARE(wrong.load(), 0);
        QCOMPARE(turns.load(), 1800);
    }

  private:
    static constexpr int kPatience = 3000;  // less than ours, to be the one that gives up

    static void modes() {
        QTest::addColumn<QString>("mode");
        for (const char* mode : {"DELETE", "PERSIST", "WAL"}) QTest::newRow(mode) << QString(mode);
    }
    static LoadRequest jobs() {
        LoadRequest request;
        request.binding.table = "jobs";
        return request;
    }
    static Value hours(const Table& table, SourceRow row) {
        return table.column(*table.schema.find("hours"))->value(row);
    }
    void make(const QString& mode, int records) {
        sqlite3* db = connection(kPatience);
        const QString sql = QStringLiteral(
                                "PRAGMA journal_mode = %1; CREATE TABLE jobs (number INTEGER PRIMARY KEY, work TEXT, "
                                "hours INTEGER); INSERT INTO jobs WITH RECURSIVE c(n) AS (SELECT 1 UNION ALL SELECT n "
                                "+ 1 FROM c WHERE n < %2) SELECT n, 'caulk ' || n, 1 FROM c")
                                .arg(mode)
                                .arg(records);
        QCOMPARE(sqlite3_exec(db, sql.toUtf8().constData(), nullptr, nullptr, nullptr), SQLITE_OK);
        sqlite3_close(db);
    }
    sqlite3* connection(int patienceMs) const {
        sqlite3* db = nullptr;
        sqlite3_open(path_.c_str(), &db);
        sqlite3_busy_timeout(db, patienceMs);
        return db;
    }
    QString stored(const char* sql) const {
        sqlite3* db = connection(kPatience);
        const QString text = test::storedText(db, sql);
        sqlite3_close(db);
        return text;
    }
    /// A load that stays in the middle of its reading until it may go on.
    void loadUntil(std::atomic<bool>& isReading, const std::atomic<bool>& goOn, const Cancel& cancel) const {
        LoadRequest request = jobs();
        request.onPart = [&](const std::shared_ptr<const Table>&, const LoadProgress&) {
            isReading = true;
            while (!goOn) QThread::msleep(1);
        };
        const auto loaded = (*openSource(path_))->load(request, cancel);
        if (!loaded) qWarning("%s", loaded.error().message.c_str());
    }
    /// Sets the hours of a job, whatever they are, by a store of its own.
    Result<void> write(std::int64_t number, std::int64_t hours) const {
        auto store = openStore(path_);
        if (!store) return store.error();
        const auto schema = (*openSource(path_))->schema({"jobs", ""}, Cancel());
        if (!schema) return schema.error();
        RecordWrite request;
        request.schema = *schema;
        request.key = {Value(number)};
        request.keyFields.push_back(*schema->find("number"));
        request.changes.push_back({*schema->find("hours"), Value(std::int64_t{1}), Value(hours)});
        const auto outcomes = (*store)->write({&request, 1}, Atomicity::EachRecord, Cancel());
        if (!outcomes) return outcomes.error();
        if (!std::holds_alternative<StoredRecord>(outcomes->front()))
            return Error{ErrorCode::Conflict, "The write was not stored."};
        return {};
    }

    std::unique_ptr<QTemporaryDir> folder_;
    std::string path_;
};

QTEST_GUILESS_MAIN(SharingTest)
#include "sharing_test.moc"
