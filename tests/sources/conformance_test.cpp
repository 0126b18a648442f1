// SPDX-License-Identifier: MIT
// The sources that there are, held to what every source must keep to.
#include "tests/sources/conformance.h"

#include "core/sources/objects/table_source.h"
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
