// SPDX-License-Identifier: MIT
// Days typed in a hurry, against the calendar of the toolkit.
#include <QtTest>

#include <random>

#include "core/columns/civil.h"
#include "core/formats/loose_date.h"

using namespace jollyrow;

namespace {
const QDate kEpoch(1970, 1, 1);
QDate dateOf(std::int32_t days) { return kEpoch.addDays(days); }
std::int32_t daysOf(const QDate& date) { return static_cast<std::int32_t>(kEpoch.daysTo(date)); }
}  // namespace

class LooseDateTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatIsTypedIsMeant() {
        const QDate monday(2026, 11, 30);
        const auto read = [&](const char* typed) {
            const auto days = looseDate(typed, daysOf(monday));
            return days ? dateOf(*days).toString(Qt::ISODate) : QString("none");
        };
        QCOMPARE(read("today"), QString("2026-11-30"));
        QCOMPARE(read(" Tomorrow "), QString("2026-12-01"));
        QCOMPARE(read("YESTERDAY"), QString("2026-11-29"));
        QCOMPARE(read("3"), QString("2026-11-03"));
        QCOMPARE(read("03."), QString("2026-11-03"));
        QCOMPARE(read("30"), QString("2026-11-30"));
        QCOMPARE(read("31"), QString("none"));
        QCOMPARE(read("0"), QString("none"));
        QCOMPARE(read("mon"), QString("2026-11-30"));
        QCOMPARE(read("Sunday"), QString("2026-12-06"));
        QCOMPARE(read("thu"), QString("2026-12-03"));
        QCOMPARE(read("+2w"), QString("2026-12-14"));
        QCOMPARE(read("-10d"), QString("2026-11-20"));
        QCOMPARE(read("+3"), QString("2026-12-03"));
        QCOMPARE(read("+3m"), QString("2027-02-28"));
        QCOMPARE(read("-1 y"), QString("2025-11-30"));
        for (const char* wrong :
             {"", "x", "+", "-", "+w", "+2q", "++2", "123", "mo", "3x", "+999999999w", "+2w2", "1.5"})
            QCOMPARE(read(wrong), QString("none"));
    }

    void stepsAgreeWithTheCalendar() {
        std::mt19937 dice(2);
        for (int turn = 0; turn < 5000; ++turn) {
            const QDate today = QDate(1900, 1, 1).addDays(dice() % 100'000);
            const int by = static_cast<int>(dice() % 2000) - 1000;
            const char unit = "dwmy"[dice() % 4];
            const QDate wanted = unit == 'd'   ? today.addDays(by)
                                 : unit == 'w' ? today.addDays(7 * by)
                                 : unit == 'm' ? today.addMonths(by)
                                               : today.addYears(by / 10);
            const QString typed =
                QString("%1%2%3").arg(by < 0 ? "-" : "+").arg(std::abs(unit == 'y' ? by / 10 : by)).arg(unit);
            const auto read = looseDate(typed.toStdString(), daysOf(today));
            QVERIFY2(read && dateOf(*read) == wanted, qPrintable(typed + " from " + today.toString(Qt::ISODate)));
        }
    }

    void whatIsNotHasNeighbours() {
        const auto near = [](const char* typed) {
            QStringList all;
            for (const std::int32_t days : datesNear(typed, daysOf(QDate(2026, 11, 30))))
                all << dateOf(days).toString(Qt::ISODate);
            return all.join(' ');
        };
        QCOMPARE(near("31 Feb 2027"), QString("2027-02-28 2027-03-03"));
        QCOMPARE(near("29.2.2027"), QString("2027-02-28 2027-03-01"));
        QCOMPARE(near("2027-02-30"), QString("2027-02-28 2027-03-02"));
        QCOMPARE(near("31 november"), QString("2026-11-30 2026-12-01"));
        QCOMPARE(near("29 Feb 2028"), QString());  // there is one
        for (const char* none : {"", "soon", "32 Feb 2027", "31", "1 Foo 2027", "31 Feb 20270", "a.b.c"})
            QCOMPARE(near(none), QString());
    }
};

QTEST_APPLESS_MAIN(LooseDateTest)
#include "loose_date_test.moc"
