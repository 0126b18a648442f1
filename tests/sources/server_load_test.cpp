// SPDX-License-Identifier: MIT
// Large tables of a server, read on two connections: the very records in the very order that one connection reads, of
// one moment, whatever their keys are like and whoever writes meanwhile. Also under the thread sanitizer.
#include <QtTest>

#include <fmt/format.h>

#include <atomic>
#include <chrono>
#include <thread>

#include "core/sources/postgres/pg_connection.h"
#include "core/sources/source.h"
#include "tests/rules/postgres_server.h"
#include "tests/sources/conformance.h"
#include "tests/sources/fault_proxy.h"

using namespace jollyrow;
using namespace std::chrono_literals;

class ServerLoadTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;

    void does(const std::string& sql) {
        const std::string wrong = server_.execute(sql);
        if (!wrong.empty()) qFatal("%s", wrong.c_str());
    }
    /// Jobs with the keys that an expression of i makes.
    void makes(const std::string& type, const std::string& key, int rows = 60'000) {
        does(fmt::format(
            "DROP TABLE IF EXISTS jobs, vessels; CREATE TABLE vessels (id integer PRIMARY KEY, name text); INSERT INTO "
            "vessels VALUES (0, 'Avocet'), (1, NULL), (2, 'Bittern'); CREATE TABLE jobs (number {} PRIMARY KEY, "
            "vessel integer REFERENCES vessels, work text, hours numeric(8,2)); INSERT INTO jobs SELECT {}, nullif(i "
            "% 4, 3), 'work ' || i % 977, i / 4.0 FROM generate_series(1, {}) AS i ON CONFLICT DO NOTHING; ANALYZE "
            "jobs",
            type, key, rows));
    }
    static LoadRequest everything() {
        LoadRequest request;
        request.binding.table = "jobs";
        request.binding.related = {"vessel.name"};
        return request;
    }
    /// By one connection.
    static std::shared_ptr<const Table> alone(const Source& source) {
        LoadRequest request = everything();
        request.most = 1'000'000'000;
        const auto table = source.load(request, Cancel());
        if (!table) qFatal("%s", table.error().message.c_str());
        return *table;
    }

  private Q_SLOTS:
    void initTestCase() { QCOMPARE(server_.start(), std::string()); }

    void theSameRecordsInTheSameOrder_data() {
        QTest::addColumn<QString>("type");
        QTest::addColumn<QString>("key");
        QTest::addColumn<int>("rows");
        const auto row = [](const char* type, const char* key, int rows = 60'000) {
            QTest::addRow("%s %s %d", type, key, rows) << QString(type) << QString(key) << rows;
        };
        row("integer", "i");
        row("integer", "-i * 3");
        row("integer", "(i * 7919) % 2000003");  // in another order than they lie
        row("integer", "CASE WHEN i < 59990 THEN i ELSE 2147483647 - i % 10 END");
        row("integer", "CASE WHEN i % 2 = 0 THEN i ELSE 2147480000 - i END");
        row("smallint", "i - 30000");
        row("bigint", "(i - 30000)::bigint * 300000000000000");
        row("bigint", "CASE i WHEN 1 THEN -9223372036854775808 WHEN 2 THEN 9223372036854775807 ELSE i END");
        row("bigint", "9223372036854775807 - i");
        row("bigint", "-9223372036854775808 + i");
        row("bigint", "i % 3", 60'000);
        row("numeric", "i");
        row("text", "'k' || i");
        row("integer", "i", 130'001);
    }
    void theSameRecordsInTheSameOrder() {
        QFETCH(QString, type);
        QFETCH(QString, key);
        QFETCH(int, rows);
        makes(type.toStdString(), key.toStdString(), rows);
        const auto source = *openSource(server_.address());
        const auto one = alone(*source);
        std::mutex mutex;
        std::size_t shown = 0;
        LoadRequest request = everything();
        request.onPart = [&](const std::shared_ptr<const Table>& part, const LoadProgress&) {
            const std::lock_guard lock(mutex);
            QVERIFY(part->rows >= shown && part->rows <= one->rows);
            shown = part->rows;
            for (std::size_t row = 0; row < part->rows; row += row < 300 || row + 300 > part->rows ? 1 : 97)
                for (std::size_t column = 0; column < one->columns.size(); ++column)
                    QVERIFY(part->columns[column]->value(static_cast<SourceRow>(row)) ==
                            one->columns[column]->value(static_cast<SourceRow>(row)));
        };
        const auto two = source->load(request, Cancel());
        QVERIFY2(two.ok(), two.ok() ? "" : two.error().message.c_str());
        QVERIFY((*two)->complete);
        QCOMPARE((*two)->rows, one->rows);
        QCOMPARE(std::to_string(one->rows), *server_.query("SELECT count(*)::text FROM jobs").cells[0]);
        QVERIFY(test::areEqual(**two, *one, one->rows));
    }

    /// Others move hours from one record to another all the time: the sum is that of any moment.
    void ofOneMoment() {
        makes("integer", "i");
        std::atomic<bool> isOver = false;
        const std::string sum = *server_.query("SELECT sum(hours)::text FROM jobs").cells[0];
        std::thread writer([&] {
            PGconn* other = PQconnectdb(server_.address().c_str());
            for (int i = 1; !isOver; ++i)
                PQclear(PQexec(
                    other,
                    fmt::format("BEGIN; UPDATE jobs SET hours = hours + 1 WHERE number = {}; UPDATE jobs SET hours "
                                "= hours - 1 WHERE number = {}; DELETE FROM jobs WHERE number > 60000; INSERT INTO "
                                "jobs VALUES (60000 + {}, 0, 'new', 0); COMMIT",
                                i * 37 % 60'000 + 1, 60'000 - i * 41 % 60'000, i % 900 + 1)
                        .c_str()));
            PQfinish(other);
        });
        const auto source = *openSource(server_.address());
        for (int turn = 0; turn < 8; ++turn) {
            const auto table = source->load(everything(), Cancel());
            if (!table) isOver = true, writer.join();
            QVERIFY2(table.ok(), table.ok() ? "" : table.error().message.c_str());
            std::int64_t mantissas = 0;
            const FieldIndex hours = *(*table)->schema.find("hours");
            for (std::size_t row = 0; row < (*table)->rows; ++row)
                mantissas += std::get<Decimal>((*table)->column(hours)->value(static_cast<SourceRow>(row))).mantissa;
            if (std::to_string(mantissas / 100) != sum.substr(0, sum.find('.'))) isOver = true, writer.join();
            QCOMPARE(std::to_string(mantissas / 100), sum.substr(0, sum.find('.')));
            QVERIFY((*table)->rows <= 60'001);
        }
        isOver = true;
        writer.join();
    }

    void oneConnectionIsEnough() {
        makes("integer", "i");
        does("CREATE ROLE narrow LOGIN CONNECTION LIMIT 1; GRANT SELECT ON ALL TABLES IN SCHEMA public TO narrow");
        const auto source = *openSource(server_.address("postgres", "narrow"));
        const auto table = source->load(everything(), Cancel());
        QVERIFY2(table.ok(), table.ok() ? "" : table.error().message.c_str());
        QVERIFY(test::areEqual(**table, *alone(**openSource(server_.address())), 60'000));
    }

    void cancelledAtAnyMoment() {
        makes("integer", "i", 90'000);
        const auto source = *openSource(server_.address());
        int cancelled = 0;
        for (int turn = 0; turn < 25; ++turn) {
            const Cancel cancel;
            std::thread later([&] {
                std::this_thread::sleep_for(turn * 4ms);
                cancel.request();
            });
            const auto table = source->load(everything(), cancel);
            later.join();
            if (table)
                QCOMPARE((*table)->rows, std::size_t{90'000});
            else
                QCOMPARE(table.error().code, ErrorCode::Cancelled);
            cancelled += table ? 0 : 1;
        }
        QVERIFY(cancelled > 0);
        QCOMPARE((*source->load(everything(), Cancel()))->rows, std::size_t{90'000});
    }

    /// One of the two connections breaks: there is no half table.
    void whenOneBreaks() {
        makes("integer", "i", 90'000);
        postgres::setLongestSilence(200ms);
        test::FaultProxy proxy(server_.socketPath());
        const auto source = *openSource(proxy.address());
        const std::int64_t before = proxy.passed(test::Way::ToClient);
        QVERIFY(source->load(everything(), Cancel()).ok());
        const std::int64_t all = proxy.passed(test::Way::ToClient) - before;
        for (const int passing : {0, 1})
            for (const test::Fault fault : {test::Fault::Cut, test::Fault::Swallow})
                for (const int percent : {15, 30, 40}) {
                    proxy.plan({fault, test::Way::ToClient, all * percent / 100, passing});
                    const int faults = proxy.faults();
                    const auto table = source->load(everything(), Cancel());
                    if (table)
                        QCOMPARE((*table)->rows, std::size_t{90'000});
                    else
                        QCOMPARE(table.error().code, ErrorCode::Io);
                    QVERIFY(table.ok() == (proxy.faults() == faults));  // the other may have read nearly all of it
                    proxy.plan({});
                }
        postgres::setLongestSilence(10s);
    }
};

QTEST_GUILESS_MAIN(ServerLoadTest)
#include "server_load_test.moc"
