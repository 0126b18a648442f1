// SPDX-License-Identifier: MIT
// The sources that there are, held to what every source must keep to.
#include "tests/sources/conformance.h"

#include "core/sources/objects/table_source.h"
#include "tests/rules/postgres_server.h"
#include "tests/sources/database.h"

using namespace jollyrow;

class ConformanceTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void sqlite_data() {
        QTest::addColumn<QString>("change");
        QTest::newRow("a table with its own key") << "";
        QTest::newRow("a write-ahead log") << "PRAGMA journal_mode = WAL";
        QTest::newRow("small pages") << "PRAGMA page_size = 512; VACUUM";
    }
    void sqlite() {
        QFETCH(QString, change);
        QTemporaryDir folder;
        const QString path = folder.filePath("yard.db");
        run(path, test::kConformanceSql);
        if (!change.isEmpty()) run(path, change.toStdString());
        test::checkDatabase(
            {*openSource(path.toStdString()), [path] { return openStore(path.toStdString()); }, "jobs"});
    }

    void postgres() {
        test::PostgresServer server;
        QCOMPARE(server.start(), std::string());
        QCOMPARE(server.execute(R"SQL(
            CREATE TABLE vessels (id integer PRIMARY KEY, name text NOT NULL);
            INSERT INTO vessels VALUES (3, 'Curlew'), (1, 'Bittern'), (2, 'Avocet');
            CREATE TABLE jobs (number integer PRIMARY KEY, vessel integer REFERENCES vessels(id), work text NOT NULL UNIQUE,
              hours numeric(6,2) CHECK (hours >= 0), due date, paid boolean,
              UNIQUE (vessel, due));
            INSERT INTO jobs SELECT i, nullif(i % 4, 0), 'work ' || i, i % 97 + 0.25, date '2026-01-01' + i, i % 2 = 1
              FROM generate_series(1, 2000) AS i)SQL"),
                 std::string());
        const std::string address = server.address();
        test::checkDatabase({*openSource(address), [address] { return openStore(address); }, "jobs"});
    }

    void aTableInMemory() {
        QTemporaryDir folder;
        const QString path = folder.filePath("yard.db");
        run(path, test::kConformanceSql);
        const auto table = loadAll(path, {"jobs", ""});
        test::checkSource({tableSource(*table), {}, (*table)->schema.name});
    }
};

QTEST_APPLESS_MAIN(ConformanceTest)
#include "conformance_test.moc"
