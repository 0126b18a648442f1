// SPDX-License-Identifier: MIT
#include <QtTest>

#include "core/rows/sort_stage.h"
#include "core/rules/lexer.h"
#include "core/rules/sort_list.h"
#include "tests/rules/rule_records.h"
#include "tests/turns.h"

using namespace jollyrow;

class SortListTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    /// COLLATE "C" orders by bytes, whatever language the design sorts in: Danish takes "aa" for one letter.
    void collationsInEveryLanguage() {
        const auto table =
            test::tableOf({{"s", Type::Text, 0, "text", {"aa", "z", "b", "ab", "Aa", "å", "", "ch", "d"}}});
        EvaluationInput input;
        input.table = table;
        for (const char* locale : {"", "da", "cs", "sv", "et"}) {
            auto terms = parseSortList("s COLLATE \"C\"", table->schema);
            QVERIFY(terms.ok());
            terms->front().text.locale = locale;
            SortStage stage;
            const auto order = stage.run(*terms, input, Cancel());
            QVERIFY(order.ok());
            std::vector<std::string> texts;
            for (const std::uint32_t row : **order)
                texts.push_back(std::get<std::string>(table->columns[0]->value(static_cast<SourceRow>(row))));
            QVERIFY2(std::is_sorted(texts.begin(), texts.end()), locale);
        }
    }

    void keys_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("keys");  // field direction empties; "!offset message part" when refused
        QTest::newRow("nothing") << ""
                                 << "";
        QTest::newRow("one") << "work"
                             << "work up last";
        QTest::newRow("descending has empties first, as the oracle does") << "due_on DESC"
                                                                          << "due_on down first";
        QTest::newRow("nulls last") << "due_on desc nulls last, number"
                                    << "due_on down last; number up last";
        QTest::newRow("nulls first") << "hours NULLS FIRST"
                                     << "hours up first";
        QTest::newRow("quoted") << "\"odd name\" ASC"
                                << "odd name up last";
        QTest::newRow("another case") << "WORK"
                                      << "work up last";
        QTest::newRow("quoted names keep their case") << "\"WORK\""
                                                      << "!0 no column WORK";
        QTest::newRow("comment") << "work -- the job\n, hours /* h */ DESC"
                                 << "work up last; hours down first";
        QTest::newRow("near name") << "number, hour"
                                   << "!8 Did you mean hours?";
        QTest::newRow("picture") << "picture"
                                 << "!0 no order";
        QTest::newRow("two words") << "work hours"
                                   << "!5 not expected";
        QTest::newRow("trailing comma") << "work,"
                                        << "!5 a column, a value or a function is expected";
        QTest::newRow("expression") << "CHAR_LENGTH(work) DESC NULLS LAST, number"
                                    << "(CHAR_LENGTH(work)) down last; number up last";
        QTest::newRow("wrong expression") << "number, hours + 1"
                                          << "!8 takes a number";
        QTest::newRow("statement") << "work; DROP TABLE jobs"
                                   << "!4 not expected";
        QTest::newRow("nulls what") << "work NULLS DESC"
                                    << "!11 FIRST or LAST";
        QTest::newRow("open quote") << "\"work"
                                    << "!0 not closed";
        QTest::newRow("broken bytes") << QString(QChar(1)) << "!0 no meaning";
    }
    void keys() {
        QFETCH(QString, text);
        QFETCH(QString, keys);
        TableSchema schema;
        schema.name = "jobs";
        for (const char* name : {"number", "work", "due_on", "hours", "odd name", "picture"}) {
            FieldSchema field;
            field.name = name;
            field.type = std::string_view(name) == "picture" ? Type::Binary : Type::Text;
            schema.fields.push_back(field);
        }
        const auto parsed = parseSortList(text.toStdString(), schema);
        if (keys.startsWith('!')) {
            QVERIFY(!parsed.ok());
            const QString message = QString::fromStdString(parsed.error().message);
            QVERIFY2(message.contains(keys.section(' ', 1)), qPrintable(message));
            QVERIFY(parsed.error().where.has_value());
            QCOMPARE(static_cast<qulonglong>(parsed.error().where->offset),
                     keys.mid(1).section(' ', 0, 0).toULongLong());
            return;
        }
        QVERIFY2(parsed.ok(), parsed.ok() ? "" : parsed.error().message.c_str());
        QStringList written;
        for (const SortTerm& key : *parsed)
            written << QString::fromStdString(key.field ? schema.field(*key.field).name : "(" + key.rule + ")") +
                           (key.direction == Direction::Ascending ? " up" : " down") +
                           (key.empties == Empties::First ? " first" : " last");
        QCOMPARE(written.join("; "), keys);
    }

    void longAndRandomTextsNeverHang() {
        QVERIFY(!tokensOf(std::string((1 << 20) + 1, 'a')).ok());
        QVERIFY(tokensOf(std::string(1 << 20, '(')).ok());
        unsigned seed = 5;
        for (int round = 0; round < test::turns(3000); ++round) {
            std::string text;
            for (int i = 0; i < 40; ++i) {
                seed = seed * 1664525u + 1013904223u;
                text += static_cast<char>(seed >> 24);
            }
            const auto tokens = tokensOf(text);
            if (!tokens) continue;
            std::size_t end = 0;
            for (const Token& token : *tokens) {
                QVERIFY(token.range.offset >= end);
                end = token.range.offset + token.range.length;
            }
            QVERIFY(end <= text.size());
        }
    }
};

QTEST_APPLESS_MAIN(SortListTest)
#include "sort_list_test.moc"
