// SPDX-License-Identifier: MIT
#include <QtTest>

#include <random>

#include "core/formats/named_records.h"

using namespace jollyrow;

class NamedRecordsTest : public QObject {
    Q_OBJECT
    static LookUpEntry record(std::int64_t key, const char* label) { return {Value(key), label}; }

  private Q_SLOTS:
    void labelsComeBeforeKeys() {
        const NamedRecords all({record(1, "Avocet"), record(2, "7"), record(7, "Curlew"), record(-3, "")});
        QCOMPARE(all.called("Avocet")->key, Value(std::int64_t{1}));
        QCOMPARE(all.called("7")->key, Value(std::int64_t{2}));  // what the column shows
        QCOMPARE(all.called("1")->label, std::string("Avocet"));
        QCOMPARE(all.called("-3")->key, Value(std::int64_t{-3}));
        QVERIFY(!all.called("avocet").ok());
        QVERIFY(!all.called("Avocet ").ok());
        QVERIFY(!all.called("01").ok());
        QVERIFY(!all.called("Dunlin").ok());
        QVERIFY(all.called("Dunlin").error().message.find("\"Dunlin\"") != std::string::npos);
    }
    /// A number is its label with and without groups: its digits never lead to the record that has them for a key.
    void numbersAreOneNameHoweverWritten() {
        const NamedRecords all({record(7, "1\u20091234"), record(8, "\u22121\u202f500.25"), record(11234, "Avocet")});
        QCOMPARE(all.called("11234")->key, Value(std::int64_t{7}));
        QCOMPARE(all.called("1\u20091234")->key, Value(std::int64_t{7}));
        QCOMPARE(all.called("-1500.25")->key, Value(std::int64_t{8}));
        const NamedRecords two({record(1, "1\u2009234"), record(2, "1234")});
        QVERIFY(!two.called("1234").ok());
        const NamedRecords words({record(1, "\u2212"), record(2, "Pier\u00a07"), record(3, "\u2009")});
        QCOMPARE(words.called("\u2212")->key, Value(std::int64_t{1}));
        QCOMPARE(words.called("Pier\u00a07")->key, Value(std::int64_t{2}));
        QVERIFY(!words.called("Pier7").ok());
        QVERIFY(!words.called("").ok());
    }
    void severalOfOneNameAreNoneOfThem() {
        const NamedRecords all({record(1, "Sandpiper"), record(2, "Sandpiper"), record(3, "2")});
        QVERIFY(!all.called("Sandpiper").ok());
        QVERIFY(all.called("Sandpiper").error().message.find("Several") == 0);
        QCOMPARE(all.called("2")->key, Value(std::int64_t{3}));
        QCOMPARE(all.called("1")->key, Value(std::int64_t{1}));
    }
    /// Against a search of all of them, with few names so that they meet.
    void isWhatASearchOfAllFinds() {
        std::mt19937 random(7);
        for (int turn = 0; turn < 300; ++turn) {
            std::vector<LookUpEntry> entries;
            for (std::int64_t key = 0; key < 8; ++key) entries.push_back({Value(key), std::to_string(random() % 12)});
            const NamedRecords all(entries);
            for (int name = 0; name < 14; ++name) {
                const std::string text = std::to_string(name);
                std::vector<LookUpEntry> meant;
                for (const LookUpEntry& e : entries)
                    if (e.label == text) meant.push_back(e);
                if (meant.empty())
                    for (const LookUpEntry& e : entries)
                        if (e.key == Value(std::int64_t{name})) meant.push_back(e);
                const auto found = all.called(text);
                QCOMPARE(found.ok(), meant.size() == 1);
                if (found) QCOMPARE(*found, meant.front());
            }
        }
    }
};

QTEST_APPLESS_MAIN(NamedRecordsTest)
#include "named_records_test.moc"
