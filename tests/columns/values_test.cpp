// SPDX-License-Identifier: MIT
// Exact decimals and civil dates against plain wide arithmetic, round trips and tables of hard cases.
#include <QtTest>

#include <cmath>
#include <random>

#include "core/base/near_name.h"
#include "core/columns/civil.h"
#include "core/columns/decimal.h"
#include "core/columns/wide_decimal.h"

using namespace jollyrow;

class ValuesTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void decimalText_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("expected");  // "" = refused
        QTest::newRow("whole") << "42"
                               << "42";
        QTest::newRow("two decimals") << "-1184.50"
                                      << "-1184.50";
        QTest::newRow("no whole digits") << ".5"
                                         << "0.5";
        QTest::newRow("no decimals behind the point") << "7."
                                                      << "7";
        QTest::newRow("plus") << "+3.25"
                              << "3.25";
        QTest::newRow("small negative") << "-0.05"
                                        << "-0.05";
        QTest::newRow("largest") << "9223372036854775807"
                                 << "9223372036854775807";
        QTest::newRow("smallest") << "-9223372036854775808"
                                  << "-9223372036854775808";
        QTest::newRow("one past the largest") << "9223372036854775808"
                                              << "";
        QTest::newRow("far past") << "99999999999999999999999999"
                                  << "";
        QTest::newRow("eighteen decimals") << "0.123456789012345678"
                                           << "0.123456789012345678";
        QTest::newRow("nineteen decimals") << "0.1234567890123456789"
                                           << "";
        QTest::newRow("two points") << "1.2.3"
                                    << "";
        QTest::newRow("sign alone") << "-"
                                    << "";
        QTest::newRow("empty") << ""
                               << "";
        QTest::newRow("exponent") << "1e3"
                                  << "";
        QTest::newRow("letters behind") << "12abc"
                                        << "";
    }
    void decimalText() {
        QFETCH(QString, text);
        QFETCH(QString, expected);
        const auto parsed = parseDecimal(text.toStdString());
        QCOMPARE(parsed.has_value(), !expected.isEmpty());
        if (parsed) QCOMPARE(QString::fromStdString(toString(*parsed)), expected);
    }

    void rescaling_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<int>("scale");
        QTest::addColumn<QString>("rounded");
        QTest::newRow("half away from zero") << "2.345" << 2 << "2.35";
        QTest::newRow("half away from zero, negative") << "-2.345" << 2 << "-2.35";
        QTest::newRow("just under half") << "2.3449" << 2 << "2.34";
        QTest::newRow("half to whole") << "0.5" << 0 << "1";
        QTest::newRow("negative half to whole") << "-0.5" << 0 << "-1";
        QTest::newRow("widened") << "3.5" << 4 << "3.5000";
    }
    void rescaling() {
        QFETCH(QString, text);
        QFETCH(int, scale);
        QFETCH(QString, rounded);
        QCOMPARE(QString::fromStdString(toString(*rescaled(*parseDecimal(text.toStdString()), scale))), rounded);
    }

    void decimalArithmeticAgainstWideIntegers() {
        std::mt19937_64 random(7);
        for (int i = 0; i < 20000; ++i) {
            const int scaleA = static_cast<int>(random() % 7), scaleB = static_cast<int>(random() % 7);
            const int shift = static_cast<int>(random() % 60);
            const Decimal a{static_cast<std::int64_t>(random()) >> shift, scaleA},
                b{static_cast<std::int64_t>(random()) >> (random() % 60), scaleB};
            const int wide = std::max(scaleA, scaleB);
            const Int128 left = static_cast<Int128>(a.mantissa) * powerOfTen(wide - scaleA),
                         right = static_cast<Int128>(b.mantissa) * powerOfTen(wide - scaleB);
            QCOMPARE(a < b, left < right);
            QCOMPARE(a == b, left == right);
            const auto sum = added(a, b);
            const Int128 exact = left + right;
            const bool fits = exact == static_cast<Int128>(static_cast<std::int64_t>(exact));
            QCOMPARE(sum.has_value(), fits);
            if (sum) QVERIFY(static_cast<Int128>(sum->mantissa) == exact);
            const Int128 product = static_cast<Int128>(a.mantissa) * b.mantissa;
            QCOMPARE(multiplied(a, b).has_value(), product == static_cast<Int128>(static_cast<std::int64_t>(product)));
            QVERIFY(*parseDecimal(toString(a)) == a);
        }
    }

    void sumsAreExact() {
        std::mt19937_64 random(9);
        for (const std::size_t count : {0, 1, 2, 65535, 65536, 65537, 200001}) {
            std::vector<std::int64_t> values(count);
            Int128 expected = 0;
            for (auto& v : values) {
                v = static_cast<std::int64_t>(random());
                expected += v;
            }
            QVERIFY(sumOf(values) == expected);
        }
        QCOMPARE(QString::fromStdString(toString(static_cast<Int128>(9223372036854775807) * 1000 + 999, 2)),
                 QStringLiteral("92233720368547758079.99"));
    }

    void decimalFromRealReadsTheShortestText() {
        for (const char* text : {"0.1", "1184.1", "-3.05", "390", "99999999.99", "0"}) {
            const double real = std::strtod(text, nullptr);
            QVERIFY(*decimalFromReal(real, 2) == *parseWideDecimal(text));
        }
        // Noise of computing is no digit; what 15 digits keep is.
        QVERIFY(*decimalFromReal(0.1 + 0.2, 2) == *parseWideDecimal("0.3"));
        QVERIFY(*decimalFromReal(0.1 + 0.2, 17) == *parseWideDecimal("0.30000000000000004"));
        QVERIFY(!decimalFromReal(0.3000000000001, 2));
        QVERIFY(*decimalFromReal(12345678901234.56, 2) == *parseWideDecimal("12345678901234.56"));
        QVERIFY(*decimalFromReal(1e22, 2) == *parseWideDecimal("10000000000000000000000.00"));
        QVERIFY(!decimalFromReal(0.125, 2));
        QVERIFY(!decimalFromReal(std::nan(""), 2));
        QVERIFY(!decimalFromReal(1e300, 2));
    }

    void everyDayOfTenThousandYears() {
        std::int32_t day = *daysFromCivil({1, 1, 1});
        const std::int32_t last = *daysFromCivil({9999, 12, 31});
        int weekday = isoWeekday(day);
        for (; day <= last; day += 13) {
            std::string iso;
            appendIsoDate(iso, day);
            QCOMPARE(parseIsoDate(iso), std::optional(day));
            QCOMPARE(isoWeekday(day), weekday);
            weekday = (weekday - 1 + 13) % 7 + 1;
        }
        QVERIFY(last - *daysFromCivil({1, 1, 1}) == 3652058);
    }

    void wrongDatesAndTimes() {
        for (const char* text : {"", "2026", "2026-02-30", "2026-13-01", "2026-00-10", "2026-1-1", "26-01-01",
                                 "2026-01-01 ", "2026/01/01", "0000-01-01"})
            QVERIFY2(!parseIsoDate(text), text);
        QVERIFY(parseIsoDate("2024-02-29") && !parseIsoDate("2023-02-29"));
        for (const char* text : {"24:01", "12:60", "1:00", "12:00:60", "12:00:00.", "12:00:00.1234567", "12"})
            QVERIFY2(!parseIsoTime(text), text);
        QCOMPARE(*parseIsoTime("12:34:56.25"), ((12LL * 60 + 34) * 60 + 56) * 1'000'000 + 250'000);
        for (const char* text : {"2026-11-23T14:05:09.000250", "1969-12-31T23:59:59", "0001-01-01T00:00:00"}) {
            std::string again;
            appendIsoTimestamp(again, *parseIsoTimestamp(text));
            QCOMPARE(again.substr(0, 19), std::string(text).substr(0, 19));
            QCOMPARE(parseIsoTimestamp(again), parseIsoTimestamp(text));
        }
        QVERIFY(!parseIsoTimestamp("2026-11-23T14:05Z"));
    }

    void nearNames() {
        const std::vector<std::string> names = {"due_on", "booked_on", "work", "status"};
        QCOMPARE(*nearestName("du_on", names), std::string("due_on"));
        QCOMPARE(*nearestName("STATUS", names), std::string("status"));
        QVERIFY(!nearestName("insured_until", names));
    }
};

QTEST_APPLESS_MAIN(ValuesTest)
#include "values_test.moc"
