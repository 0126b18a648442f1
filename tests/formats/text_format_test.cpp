// SPDX-License-Identifier: MIT
#include <QtTest>

#include <bit>
#include <cmath>
#include <random>

#include "core/columns/civil.h"
#include "core/formats/text_format.h"

using namespace jollyrow;

namespace {

FieldSchema fieldOf(Type type, int scale = 0, bool required = false) {
    FieldSchema field;
    field.name = "f";
    field.type = type;
    field.scale = scale;
    field.required = required;
    return field;
}

QString shown(const Value& value, bool grouped = true) {
    std::string out;
    appendDisplay(out, value, {Type::Text, Use::Plain, 0, grouped});
    return QString::fromStdString(out);
}

}  // namespace

class TextFormatTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void display() {
        QCOMPARE(shown(std::int64_t{1234567}), QStringLiteral("1\u2009234\u2009567"));
        QCOMPARE(shown(std::int64_t{-999}), QStringLiteral("\u2212999"));
        QCOMPARE(shown(std::int64_t{INT64_MIN}),
                 QStringLiteral("\u22129\u2009223\u2009372\u2009036\u2009854\u2009775\u2009808"));
        QCOMPARE(shown(std::int64_t{4107}, false), QStringLiteral("4107"));
        QCOMPARE(shown(Decimal{118450, 2}), QStringLiteral("1\u2009184.50"));
        QCOMPARE(shown(Decimal{-5, 2}), QStringLiteral("\u22120.05"));
        QCOMPARE(shown(Decimal{0, 2}), QStringLiteral("0.00"));
        QCOMPARE(shown(Date{*daysFromCivil({2026, 11, 3})}), QStringLiteral("3 Nov 2026"));
        QCOMPARE(shown(Timestamp{-60'000'000}), QStringLiteral("31 Dec 1969 23:59"));
        QCOMPARE(shown(true), QStringLiteral("yes"));
        QCOMPARE(shown(Empty{}), QString());
    }

    void typed_data() {
        QTest::addColumn<int>("type");
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("plain");  // "!part of the message" when refused
        const int decimal = static_cast<int>(Type::Decimal), date = static_cast<int>(Type::Date),
                  integer = static_cast<int>(Type::Integer);
        QTest::newRow("decimal") << decimal << "1184.5"
                                 << "1184.50";
        QTest::newRow("decimal with groups") << decimal << "1\u2009184.50"
                                             << "1184.50";
        QTest::newRow("decimal with comma groups") << decimal << "1,184.50"
                                                   << "1184.50";
        QTest::newRow("decimal with a true minus") << decimal << "\u22123.5"
                                                   << "-3.50";
        QTest::newRow("too many decimals") << decimal << "3.555"
                                           << "!more than 2 decimals";
        QTest::newRow("comma as a decimal sign is not guessed at") << decimal << "3,5"
                                                                   << "!not a number";
        QTest::newRow("words") << decimal << "lots"
                               << "!not a number";
        QTest::newRow("past 64 bits") << decimal << "99999999999999999999"
                                      << "99999999999999999999.00";
        QTest::newRow("too large") << decimal << "9999999999999999999999999999999999999"
                                   << "!too large";
        QTest::newRow("blank is empty") << decimal << "  "
                                        << "";
        QTest::newRow("integer") << integer << " 4 107 "
                                 << "4107";
        QTest::newRow("integer overflow") << integer << "9223372036854775808"
                                          << "!too large";
        QTest::newRow("not whole") << integer << "2.5"
                                   << "!not a whole number";
        QTest::newRow("iso date") << date << "2026-11-24"
                                  << "2026-11-24";
        QTest::newRow("shown date") << date << "24 Nov 2026"
                                    << "2026-11-24";
        QTest::newRow("long month") << date << "3 february 2027"
                                    << "2027-02-03";
        QTest::newRow("dots") << date << "24.11.2026"
                              << "2026-11-24";
        QTest::newRow("no such day") << date << "31 Feb 2027"
                                     << "!There is no 31 Feb 2027";
        QTest::newRow("half a year") << date << "24 Nov 26"
                                     << "!not a date";
        QTest::newRow("a word") << date << "soon"
                                << "!not a date";
        QTest::newRow("time") << static_cast<int>(Type::Time) << "14:05"
                              << "14:05:00";
        QTest::newRow("wrong time") << static_cast<int>(Type::Time) << "25:00"
                                    << "!not a time";
        QTest::newRow("timestamp") << static_cast<int>(Type::Timestamp) << "24 Nov 2026 14:05"
                                   << "2026-11-24T14:05:00";
        QTest::newRow("yes") << static_cast<int>(Type::Boolean) << "Yes"
                             << "true";
        QTest::newRow("maybe") << static_cast<int>(Type::Boolean) << "maybe"
                               << "!neither yes nor no";
        QTest::newRow("real") << static_cast<int>(Type::Real) << "1e3"
                              << "1000";
        QTest::newRow("infinity is no number to type") << static_cast<int>(Type::Real) << "inf"
                                                       << "!not a number";
    }
    void typed() {
        QFETCH(int, type);
        QFETCH(QString, text);
        QFETCH(QString, plain);
        const auto parsed = parseTyped(
            text.toStdString(), fieldOf(static_cast<Type>(type), type == static_cast<int>(Type::Decimal) ? 2 : 0));
        QCOMPARE(parsed.ok(), !plain.startsWith('!'));
        if (!parsed) {
            QVERIFY2(QString::fromStdString(parsed.error().message).contains(plain.mid(1)),
                     parsed.error().message.c_str());
            return;
        }
        std::string out;
        appendPlain(out, *parsed);
        QCOMPARE(QString::fromStdString(out), plain);
    }

    void whatTheEditorShowsReadsBack() {
        std::mt19937_64 random(11);
        for (int i = 0; i < 5000; ++i) {
            const Decimal money{static_cast<std::int64_t>(random()) >> (random() % 60), 2};
            QCOMPARE(*parseTyped(editText(money), fieldOf(Type::Decimal, 2)), Value(money));
            std::string display;
            appendDisplay(display, Value(money), {Type::Decimal, Use::Plain, 2, true});
            QCOMPARE(*parseTyped(display, fieldOf(Type::Decimal, 2)), Value(money));
            const Date day{static_cast<std::int32_t>(random() % 40000)};
            QCOMPARE(*parseTyped(editText(day), fieldOf(Type::Date)), Value(day));
            const Timestamp at{static_cast<std::int64_t>(random() % 2'000'000'000) * 1'000'000};
            QCOMPARE(*parseTyped(editText(at), fieldOf(Type::Timestamp)), Value(at));
            const std::int64_t whole = static_cast<std::int64_t>(random());
            QCOMPARE(*parseTyped(editText(whole), fieldOf(Type::Integer)), Value(whole));
            const double real = std::bit_cast<double>((random() >> 2) | 1);
            if (std::isfinite(real)) QCOMPARE(*parseTyped(editText(real), fieldOf(Type::Real)), Value(real));
        }
    }

    void limitsOfAField() {
        FieldSchema name = fieldOf(Type::Text, 0, true);
        name.maxLength = 3;
        QVERIFY(parseTyped("Åse", name).ok());
        QVERIFY(!parseTyped("Åsel", name).ok());
        QVERIFY(!parseTyped("", name).ok());
        FieldSchema status = fieldOf(Type::Text);
        status.permitted = {"Quoted", "Done"};
        QVERIFY(parseTyped("Done", status).ok());
        QVERIFY(QString::fromStdString(parseTyped("done", status).error().message).contains("Quoted, Done"));
        FieldSchema money = fieldOf(Type::Decimal, 2);
        money.precision = 5;
        QVERIFY(parseTyped("999.99", money).ok());
        QVERIFY(
            QString::fromStdString(parseTyped("1000", money).error().message).contains("3 digits before the point"));
    }
};

QTEST_APPLESS_MAIN(TextFormatTest)
#include "text_format_test.moc"
