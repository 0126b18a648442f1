// SPDX-License-Identifier: MIT
// Zones against ICU, asked for each instant by itself: random instants, every change of the clocks, the hours that are
// shown twice and those that are skipped. ISO 8601 texts there and back.
#include <QtTest>

#include <unicode/timezone.h>

#include <memory>
#include <random>

#include "core/columns/civil.h"
#include "core/columns/time_zone.h"

using namespace jollyrow;

namespace {

constexpr std::int64_t kHour = 3'600'000'000;

std::int64_t icuOffset(const std::string& zone, std::int64_t micros) {
    const std::unique_ptr<icu::TimeZone> rules(
        icu::TimeZone::createTimeZone(icu::UnicodeString::fromUTF8(icu::StringPiece(zone))));
    std::int32_t raw = 0, saving = 0;
    UErrorCode status = U_ZERO_ERROR;
    rules->getOffset(std::floor(static_cast<double>(micros) / 1000.0), false, raw, saving, status);
    return (static_cast<std::int64_t>(raw) + saving) * 1000;
}

std::int64_t at(const char* iso) {
    const auto micros =
        std::string(iso).find_first_of("Z+") != std::string::npos ? parseIsoInstant(iso) : parseIsoTimestamp(iso);
    if (!micros) qFatal("%s is no moment", iso);
    return *micros;
}

}  // namespace

class TimeZoneTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void offsetsAreThoseOfTheDatabase() {
        std::mt19937_64 random(7);
        const std::int64_t low = at("1805-01-01T00:00:00Z"), high = at("2190-01-01T00:00:00Z");
        std::uniform_int_distribution<std::int64_t> pick(low, high);
        for (const char* name : {"Europe/Berlin", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu",
                                 "Africa/Casablanca", "Pacific/Apia", "America/St_Johns", "Etc/UTC"}) {
            const TimeZone* zone = TimeZone::named(name);
            QVERIFY2(zone, name);
            for (int i = 0; i < 1500; ++i) {
                const std::int64_t instant = pick(random);
                QCOMPARE(zone->offsetAt(instant), icuOffset(name, instant));
                const std::int64_t back = zone->toInstant(zone->toLocal(instant));
                // Only an hour that the clocks show twice comes back as another one: the later.
                if (back != instant) QVERIFY(back > instant && back - instant <= 24 * kHour);
                QCOMPARE(zone->toLocal(back), zone->toLocal(instant));
            }
        }
    }

    void anyLocalTimeHasOneInstant() {
        std::mt19937_64 random(8);
        std::uniform_int_distribution<std::int64_t> pick(at("1930-01-01T00:00:00"), at("2060-01-01T00:00:00"));
        for (const std::string& name : TimeZone::names()) {
            const TimeZone* zone = TimeZone::named(name);
            QVERIFY2(zone, name.c_str());
            for (int i = 0; i < 200; ++i) {
                const std::int64_t local = pick(random), instant = zone->toInstant(local);
                // A skipped time comes out later by what was skipped, any other as itself.
                const std::int64_t shown = zone->toLocal(instant);
                QVERIFY2(shown == local || (shown > local && shown - local <= 25 * kHour), name.c_str());
            }
        }
    }

    void changesOfTheClocks_data() {
        QTest::addColumn<QString>("local");
        QTest::addColumn<QString>("instant");
        QTest::newRow("winter") << "2026-01-15T12:00:00"
                                << "2026-01-15T11:00:00Z";
        QTest::newRow("summer") << "2026-07-15T12:00:00"
                                << "2026-07-15T10:00:00Z";
        QTest::newRow("before the skipped hour") << "2026-03-29T01:59:59"
                                                 << "2026-03-29T00:59:59Z";
        QTest::newRow("skipped") << "2026-03-29T02:30:00"
                                 << "2026-03-29T01:30:00Z";
        QTest::newRow("after it") << "2026-03-29T03:00:00"
                                  << "2026-03-29T01:00:00Z";
        QTest::newRow("before the doubled hour") << "2026-10-25T01:59:59"
                                                 << "2026-10-24T23:59:59Z";
        QTest::newRow("shown twice") << "2026-10-25T02:30:00"
                                     << "2026-10-25T01:30:00Z";
        QTest::newRow("after the doubled hour") << "2026-10-25T03:00:00"
                                                << "2026-10-25T02:00:00Z";
        QTest::newRow("double summer time") << "1945-06-01T12:00:00"
                                            << "1945-06-01T09:00:00Z";
    }
    void changesOfTheClocks() {
        QFETCH(QString, local);
        QFETCH(QString, instant);
        const TimeZone* berlin = TimeZone::named("Europe/Berlin");
        QCOMPARE(berlin->toInstant(at(local.toLatin1())), at(instant.toLatin1()));
    }

    void unknownNamesAreNone() {
        for (const char* name : {"Europe/Atlantis", "CEST?", "GMT+27", "europe/berlin", "Europe/Berlin ", "\xff"})
            QVERIFY2(!TimeZone::named(name), name);
        QVERIFY(TimeZone::named("") == &TimeZone::machine());
        QVERIFY(TimeZone::named("UTC"));
        QVERIFY(TimeZone::names().size() > 300);
    }

    void isoTextsThereAndBack() {
        std::mt19937_64 random(9);
        std::uniform_int_distribution<std::int64_t> pick(at("0002-01-01T00:00:00"), at("9998-12-31T00:00:00"));
        for (const char* name : {"Europe/Berlin", "Asia/Kathmandu", "America/St_Johns", "Africa/Monrovia"})
            for (int i = 0; i < 3000; ++i) {
                const std::int64_t instant = i % 3 == 0 ? pick(random) : pick(random) / 1'000'000 * 1'000'000;
                const TimeZone& zone = *TimeZone::named(name);
                std::string utc, zoned;
                appendIsoInstant(utc, instant);
                appendZonedInstant(zoned, instant, zone);
                QCOMPARE(parseIsoInstant(utc), std::optional(instant));
                QCOMPARE(parseIsoInstant(zoned), std::optional(instant));
                std::string shortest;
                appendZonedInstant(shortest, instant, zone, true);
                // Local times of old have seconds in their offset, which ISO 8601 has no place for.
                if (zone.offsetAt(instant) % 60'000'000 == 0)
                    QCOMPARE(parseIsoInstant(shortest), std::optional(instant));
            }
    }

    void whatIsNoInstant() {
        for (const char* text : {"", "Z", "2026-01-01", "2026-01-01Z", "2026-01-01T10:00:00", "2026-01-01T10:00:00 Z",
                                 "2026-02-30T10:00:00Z", "2026-01-01T10:00:00+2", "2026-01-01T10:00:00+02:",
                                 "2026-01-01T10:00:00+16:00", "2026-01-01T10:00:00+02:60", "2026-01-01T24:00:01Z",
                                 "2026-01-01T10:00:00+ab", "2026-01-01T10:00:00++02", "10:00:00+02"})
            QVERIFY2(!parseIsoInstant(text), text);
        QCOMPARE(parseIsoInstant("2026-01-01 24:00:00+02"), std::optional(at("2026-01-01T22:00:00Z")));
        QCOMPARE(parseIsoInstant("2026-01-01T10:00:00-0330"), std::optional(at("2026-01-01T13:30:00Z")));
        QCOMPARE(parseIsoInstant("2026-01-01T10:00:00.25z"), std::optional(at("2026-01-01T10:00:00Z") + 250'000));
    }

    void theEndOfADayIsATime() {
        QCOMPARE(parseIsoTime("24:00"), std::optional(kMicrosPerDay));
        QCOMPARE(parseIsoTime("24:00:00.000"), std::optional(kMicrosPerDay));
        for (const char* text : {"24:00:01", "24:01", "24:59:59", "25:00", "24:00:00.000001"})
            QVERIFY2(!parseIsoTime(text), text);
        QCOMPARE(parseIsoTimestamp("2026-12-31 24:00:00"), parseIsoTimestamp("2027-01-01"));
        QVERIFY(!parseIsoTimestamp("9999-12-31T24:00:00"));
        std::string out;
        appendIsoTime(out, kMicrosPerDay);
        QCOMPARE(out, std::string("24:00:00"));
    }
};

QTEST_GUILESS_MAIN(TimeZoneTest)
#include "time_zone_test.moc"
