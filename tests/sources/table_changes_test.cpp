// SPDX-License-Identifier: MIT
// What became of a table's records, against the database itself: the changes that are told, made on the older reading,
// give the newer one, and nothing is told that is not so.
#include <QtTest>

#include <QTemporaryDir>

#include <fmt/format.h>

#include <map>
#include <random>

#include "core/sources/table_changes.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

using Record = std::map<std::size_t, std::string>;  // by field
using Records = std::map<std::string, Record>;      // by key

std::string words(const Value& value) {
    std::string out = isEmpty(value) ? "(empty)" : "";
    appendPlain(out, value);
    return out;
}
std::string words(const RecordKey& key) {
    std::string out;
    for (const Value& part : key) out += words(part) + "|";
    return out;
}
Records recordsOf(const Table& table) {
    Records all;
    for (std::size_t i = 0; i < table.loaded(); ++i) {
        const auto row = static_cast<SourceRow>(i);
        Record& one = all[words(table.key(row))];
        for (std::size_t f = 0; f < table.schema.fields.size(); ++f)
            one[f] = words(table.column(static_cast<FieldIndex>(f))->value(row));
    }
    return all;
}

}  // namespace

class TableChangesTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString path_;
    std::mt19937 random_{5};

    std::string any(std::initializer_list<const char*> of) { return std::data(of)[random_() % of.size()]; }
    std::string value() {
        return any({"NULL", "1", "2", "-7", "0.1", "'text'", "''", "'2026-01-05'", "x'00ff'", "1e300", "'1.50'",
                    "12.25", "'nonsense'", "9223372036854775807", "'\xc3\xa9'"});
    }
    std::shared_ptr<const KeyIndex> read() {
        auto loaded = loadAll(path_, {"t", ""});
        return loaded ? std::make_shared<const KeyIndex>(*loaded) : nullptr;
    }

  private Q_SLOTS:
    void init() {
        path_ = folder_.filePath("t.db");
        QFile::remove(path_);
    }

    void changesMakeOneOfTheOther_data() {
        QTest::addColumn<QString>("keys");
        QTest::newRow("whole numbers") << "k INTEGER PRIMARY KEY";
        QTest::newRow("texts") << "k TEXT PRIMARY KEY";
        QTest::newRow("row ids") << "k INTEGER";
    }
    void changesMakeOneOfTheOther() {
        QFETCH(QString, keys);
        run(path_,
            "CREATE TABLE t(" + keys.toStdString() + ", n INTEGER, d DECIMAL(10,2), r REAL, w TEXT, day DATE, b BLOB)");
        const bool hasKey = keys.contains("PRIMARY");
        int next = 0;
        const auto row = [&](int key) {
            return fmt::format("({},{},{},{},{},{},{})", key, value(), value(), value(), value(), value(), value());
        };
        for (; next < 60; ++next) run(path_, "INSERT INTO t VALUES" + row(next));
        for (int round = 0; round < 25; ++round) {
            const auto before = read();
            QVERIFY(before);
            std::string sql = "BEGIN;";
            for (int i = static_cast<int>(random_() % 6); i > 0; --i) {
                const int key = static_cast<int>(random_() % static_cast<unsigned>(next));
                const std::string what = any({"n", "d", "r", "w", "day", "b"});
                switch (random_() % 4) {
                    case 0: sql += fmt::format("DELETE FROM t WHERE k = {};", key); break;
                    case 1: sql += "INSERT INTO t VALUES" + row(next++) + ";"; break;
                    default: sql += fmt::format("UPDATE t SET {} = {} WHERE k = {};", what, value(), key);
                }
            }
            run(path_, sql + "COMMIT");
            const auto after = read();
            QVERIFY(after);
            const auto changes = changesBetween(*before, *after, 1000, Cancel());
            if (!(before->table()->schema.fields == after->table()->schema.fields)) {
                QVERIFY(!changes);  // a type was guessed anew
                continue;
            }
            QVERIFY2(changes, hasKey ? "keys" : "row ids");
            Records made = recordsOf(*before->table());
            const Records wanted = recordsOf(*after->table());
            for (const ElsewhereChange& change : *changes) {
                const std::string key = words(change.key);
                QCOMPARE(change.isGone, !wanted.contains(key));
                QVERIFY(!change.isGone || made.contains(key));
                if (change.isGone) {
                    made.erase(key);
                    continue;
                }
                const bool isNew = !made.contains(key);
                for (const auto& [field, now] : change.values) {
                    QVERIFY2(isNew || made[key][raw(field)] != words(now), "told of a value that stayed");
                    made[key][raw(field)] = words(now);
                }
            }
            QVERIFY(made == wanted);
        }
    }

    void whatCannotBeToldApartIsReadAnew() {
        run(path_, "CREATE TABLE t(k INTEGER PRIMARY KEY, w TEXT); INSERT INTO t VALUES (1, 'a'), (2, 'b'), (3, 'c')");
        const auto before = read();
        run(path_, "UPDATE t SET w = w || '!'");
        const auto after = read();
        QCOMPARE(changesBetween(*before, *after, 3, Cancel())->size(), std::size_t(3));
        QVERIFY(!changesBetween(*before, *after, 2, Cancel()));
        Cancel stopped;
        stopped.request();
        QVERIFY(!changesBetween(*before, *after, 3, stopped));
        run(path_, "ALTER TABLE t ADD COLUMN more TEXT");
        QVERIFY(!changesBetween(*before, *read(), 3, Cancel()));
        // Keys that no declaration keeps apart: two records of one.
        run(path_,
            "DROP TABLE t; CREATE TABLE t(k TEXT, w TEXT, PRIMARY KEY (k)); INSERT INTO t VALUES (NULL, 'a'), "
            "(NULL, 'b'), ('x', 'c')");
        const auto doubled = read();
        if (!doubled->table()->rowIds) {
            run(path_, "DELETE FROM t WHERE w = 'a'");
            QVERIFY(!changesBetween(*doubled, *read(), 100, Cancel()));
        }
    }
};

QTEST_APPLESS_MAIN(TableChangesTest)
#include "table_changes_test.moc"
