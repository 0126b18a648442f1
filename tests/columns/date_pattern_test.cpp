// SPDX-License-Identifier: MIT
// Patterns with ICU as judge: what we write is what it writes, and every text that we write is read back as the value
// it was made of. Texts that are nearly of the form are none. And the forms in which columns are kept.
#include <QtTest>

#include <unicode/gregocal.h>
#include <unicode/smpdtfmt.h>

#include <memory>
#include <random>

#include "core/columns/civil.h"
#include "core/columns/date_pattern.h"
#include "core/columns/schema.h"

using namespace jollyrow;

namespace {

std::string byIcu(double millis, const std::string& pattern) {
    UErrorCode status = U_ZERO_ERROR;
    icu::SimpleDateFormat format(icu::UnicodeString::fromUTF8(pattern), icu::Locale::getEnglish(), status);
    auto calendar = std::make_unique<icu::GregorianCalendar>(*icu::TimeZone::getGMT(), status);
    calendar->setGregorianChange(-1e17, status);  // proleptic
    format.adoptCalendar(calendar.release());
    icu::UnicodeString text;
    format.format(millis, text);
    std::string out;
    text.toUTF8String(out);
    return out;
}

const std::vector<std::string> kDays = {"dd.MM.yyyy",  "d.M.y",           "yyyyMMdd",     "MM/dd/yyyy", "dd-MMM-yyyy",
                                        "d MMMM yyyy", "'on' dd.MM.yyyy", "dd''MM''yyyy", "yyyy.MM.dd"};
const std::vector<std::string> kTimes = {"HH:mm",   "HH:mm:ss",  "H:mm",         "HHmmss",
                                         "hh:mm a", "h:mm:ss a", "HH:mm:ss.SSS", "HH.mm 'h'"};

}  // namespace

class DatePatternTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void daysAsIcuWritesThem() {
        std::mt19937 random(1);
        std::uniform_int_distribution<std::int32_t> pick(*daysFromCivil({1000, 1, 1}), *daysFromCivil({9999, 12, 31}));
        for (const std::string& pattern : kDays) {
            const auto kind = checkDatePattern(pattern);
            QVERIFY2(kind.ok() && *kind == PatternKind::Date, pattern.c_str());
            for (int i = 0; i < 400; ++i) {
                const std::int32_t day = pick(random);
                const auto text = writeByPattern(day, pattern, PatternKind::Date);
                QVERIFY(text);
                QCOMPARE(*text, byIcu(day * 86'400'000.0, pattern));
                QCOMPARE(readByPattern(*text, pattern, PatternKind::Date), std::optional<std::int64_t>(day));
            }
        }
    }

    void daysAndTimesAsIcuWritesThem() {
        std::mt19937_64 random(2);
        std::uniform_int_distribution<std::int64_t> pick(*parseIsoTimestamp("1000-01-01"),
                                                         *parseIsoTimestamp("2200-12-31"));  // ICU counts in doubles
        for (const std::string& day : kDays)
            for (const std::string& time : kTimes) {
                const std::string pattern = day + " " + time;
                const auto kind = checkDatePattern(pattern);
                QVERIFY2(kind.ok() && *kind == PatternKind::Timestamp, pattern.c_str());
                const std::int64_t unit = time.find('S') != std::string::npos   ? 1000
                                          : time.find('s') != std::string::npos ? 1'000'000
                                                                                : 60'000'000;
                for (int i = 0; i < 60; ++i) {
                    const std::int64_t whole = pick(random) / unit * unit;
                    const auto text = writeByPattern(whole, pattern, PatternKind::Timestamp);
                    QVERIFY(text);
                    const std::string theirs = byIcu(static_cast<double>(whole) / 1000.0, pattern);
                    QVERIFY2(*text == theirs, (*text + " / " + theirs + " by " + pattern).c_str());
                    // What the pattern does not write is not written away.
                    QVERIFY(!writeByPattern(whole + 1, pattern, PatternKind::Timestamp));
                }
            }
    }

    void instantsWithOffsets() {
        const std::int64_t micros = *parseIsoTimestamp("2026-11-29T09:30:00");
        const auto read = [](const char* text, const char* pattern) {
            return readByPattern(text, pattern, PatternKind::Instant);
        };
        QCOMPARE(read("29.11.2026 10:30 +01:00", "dd.MM.yyyy HH:mm xxx"), std::optional(micros));
        QCOMPARE(read("29.11.2026 10:30+0100", "dd.MM.yyyy HH:mmxx"), std::optional(micros));
        QCOMPARE(read("29.11.2026 09:30Z", "dd.MM.yyyy HH:mmX"), std::optional(micros));
        QVERIFY(!read("29.11.2026 10:30", "dd.MM.yyyy HH:mmX"));
        QVERIFY(!read("29.11.2026 10:30+00:00", "dd.MM.yyyy HH:mmXXX"));  // would be written Z
        QCOMPARE(*writeByPattern(micros, "dd.MM.yyyy HH:mm xxx", PatternKind::Instant),
                 std::string("29.11.2026 09:30 +00:00"));
    }

    void nearlyOfTheFormIsNone_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("pattern");
        for (const auto& [text, pattern] :
             {std::pair("1.2.2026", "dd.MM.yyyy"), std::pair("01.02.2026 ", "dd.MM.yyyy"),
              std::pair(" 01.02.2026", "dd.MM.yyyy"), std::pair("01.02.26", "dd.MM.yyyy"),
              std::pair("30.02.2026", "dd.MM.yyyy"), std::pair("29.02.2025", "dd.MM.yyyy"),
              std::pair("00.01.2026", "dd.MM.yyyy"), std::pair("01.13.2026", "dd.MM.yyyy"),
              std::pair("01/02/2026", "dd.MM.yyyy"), std::pair("01.02.2026x", "dd.MM.yyyy"),
              std::pair("", "dd.MM.yyyy"), std::pair("01.1.2026", "d.M.y"), std::pair("1-feb-2026", "d-MMM-yyyy"),
              std::pair("1-Febr-2026", "d-MMM-yyyy"), std::pair("13:00 PM", "hh:mm a"),
              std::pair("00:00 AM", "hh:mm a"), std::pair("10:00 pm", "hh:mm a"), std::pair("24:30", "HH:mm"),
              std::pair("23:60", "HH:mm")})
            QTest::addRow("%s", text) << text << pattern;
    }
    void nearlyOfTheFormIsNone() {
        QFETCH(QString, text);
        QFETCH(QString, pattern);
        const auto kind = checkDatePattern(pattern.toStdString());
        QVERIFY(kind.ok());
        QVERIFY(!readByPattern(text.toStdString(), pattern.toStdString(), *kind));
    }

    void twoDigitYearsAreOfOneCentury() {
        const auto read = [](const char* text) { return readByPattern(text, "dd.MM.yy", PatternKind::Date); };
        QCOMPARE(read("01.02.69"), std::optional<std::int64_t>(*daysFromCivil({1969, 2, 1})));
        QCOMPARE(read("01.02.68"), std::optional<std::int64_t>(*daysFromCivil({2068, 2, 1})));
        QVERIFY(!writeByPattern(*daysFromCivil({1850, 2, 1}), "dd.MM.yy", PatternKind::Date));
        QVERIFY(!writeByPattern(*daysFromCivil({2069, 2, 1}), "dd.MM.yy", PatternKind::Date));
    }

    void patternsThatMakeNoSense_data() {
        QTest::addColumn<QString>("pattern");
        QTest::addColumn<int>("place");
        QTest::newRow("nothing") << "" << 0;
        QTest::newRow("words only") << "'day'" << 0;
        QTest::newRow("no year") << "dd.MM" << 0;
        QTest::newRow("a foreign letter") << "dd.MM.YYYY" << 6;
        QTest::newRow("weekday") << "EEE dd.MM.yyyy" << 0;
        QTest::newRow("twice") << "dd.MM.yyyy dd" << 11;
        QTest::newRow("too many") << "ddd.MM.yyyy" << 0;
        QTest::newRow("minutes for months") << "dd.mm.yyyy" << 0;
        QTest::newRow("open apostrophe") << "dd.MM.yyyy 'h" << 11;
        QTest::newRow("no hour") << "dd.MM.yyyy mm:ss" << 0;
        QTest::newRow("h without a") << "dd.MM.yyyy hh:mm" << 0;
        QTest::newRow("offset of a time") << "HH:mm xxx" << 0;
    }
    void patternsThatMakeNoSense() {
        QFETCH(QString, pattern);
        QFETCH(int, place);
        const auto kind = checkDatePattern(pattern.toStdString());
        QVERIFY(!kind.ok());
        QVERIFY(kind.error().where.has_value());
        QCOMPARE(static_cast<int>(kind.error().where->offset), place);
        QVERIFY(!kind.error().message.empty());
    }

    void anyBytesAreReadWithoutHarm() {
        std::mt19937 random(3);
        const std::string letters = "yMdHhamsSXx'. :-/0123456789ZAPM+\xff";
        for (int i = 0; i < 60000; ++i) {
            std::string pattern, text;
            for (unsigned n = random() % 14; n != 0; --n) pattern += letters[random() % letters.size()];
            for (unsigned n = random() % 14; n != 0; --n) text += letters[random() % letters.size()];
            const auto kind = checkDatePattern(pattern);
            if (!kind) continue;
            if (const auto value = readByPattern(text, pattern, *kind)) {
                const auto again = writeByPattern(*value, pattern, *kind);
                // Offsets are written in UTC, all else as it was.
                if (*kind != PatternKind::Instant && again) QCOMPARE(readByPattern(*again, pattern, *kind), value);
            }
        }
    }

    void formsThereAndBack() {
        for (const char* text : {"date dd.MM.yyyy", "date dd.MM.yyyy HH:mm", "seconds", "milliseconds", "number",
                                 "number ,", "words J N", "words yes no way"}) {
            const auto how = readAsFromText(text);
            QVERIFY2(how.ok(), text);
            QCOMPARE(toText(*how), std::string(text));
        }
        for (const char* text :
             {"", "day", "date", "date dd", "seconds 5", "number ;", "words J", "words J J", "words"})
            QVERIFY2(!readAsFromText(text).ok(), text);
    }

    void numbersWithGroups_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("sign");
        QTest::addColumn<QString>("plain");  // "" = none
        QTest::newRow("comma") << "1234,5"
                               << ","
                               << "1234.5";
        QTest::newRow("groups") << "1.234.567,50"
                                << ","
                                << "1234567.50";
        QTest::newRow("spaces") << "1 234 567"
                                << "."
                                << "1234567";
        QTest::newRow("negative") << "-1.234,5"
                                  << ","
                                  << "-1234.5";
        QTest::newRow("a point is a group mark there") << "12.34"
                                                       << ","
                                                       << "";
        QTest::newRow("two decimal signs") << "1,2,3"
                                           << ","
                                           << "";
        QTest::newRow("group in the fraction") << "1,234.5"
                                               << ","
                                               << "";
        QTest::newRow("mark first") << ".5"
                                    << ","
                                    << "";
        QTest::newRow("short group") << "1.23.456"
                                     << ","
                                     << "";
        QTest::newRow("plain") << "12.34"
                               << "."
                               << "12.34";
    }
    void numbersWithGroups() {
        QFETCH(QString, text);
        QFETCH(QString, sign);
        QFETCH(QString, plain);
        const auto read = plainNumber(text.toStdString(), sign.toStdString());
        QCOMPARE(QString::fromStdString(read.value_or("")), plain);
    }
};

QTEST_GUILESS_MAIN(DatePatternTest)
#include "date_pattern_test.moc"
