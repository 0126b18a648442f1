// SPDX-License-Identifier: MIT
// Spans of time as people type them: each reading against the seconds that it must be, by any pattern and none; and
// columns that keep what was typed, or refuse it.
#include <QtTest>

#include <random>

#include "core/formats/duration_text.h"
#include "core/formats/formatter.h"

using namespace jollyrow;

namespace {

std::shared_ptr<const Formatter> formatOf(const char* pattern, DurationUnit unit, const FieldSchema& field) {
    TextFormat format = defaultFormat(field, false);
    format.spec.style = FormatStyle::Duration;
    format.spec.pattern = pattern;
    format.spec.unit = unit;
    auto made = Formatter::make(format, {}, {});
    return made ? *made : nullptr;
}

FieldSchema fieldOf(Type type, int scale = 0) {
    FieldSchema field;
    field.name = "span";
    field.type = type;
    field.scale = scale;
    return field;
}

QString read(const Formatter& format, const FieldSchema& field, const std::string& typed) {
    const auto value = format.parse(typed, field);
    if (!value) return "refused";
    std::string plain;
    appendPlain(plain, *value);
    return QString::fromStdString(plain);
}

}  // namespace

class DurationTextTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void unitsAreRead_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<qlonglong>("seconds");  // -1: nothing of ours
        const auto row = [](const char* typed, qlonglong seconds) { QTest::newRow(typed) << typed << seconds; };
        row("90 min", 5400);
        row("90min", 5400);
        row("1h30", 5400);
        row("1h 30", 5400);
        row("1 h 30 min", 5400);
        row("1H 30M", 5400);
        row("1.5 hours", 5400);
        row("1,5 h", 5400);
        row("2d 4h", 2 * 86400 + 4 * 3600);
        row("2 days 4 hours 1 second", 2 * 86400 + 4 * 3600 + 1);
        row("1d12", 86400 + 12 * 3600);
        row("5m 30s", 330);
        row("5m30", 330);
        row("0.5 s", 0);  // half a second: compared in whole ones
        row("PT1H30M", 5400);
        row("p1dt2h", 86400 + 7200);
        row("PT0.5H", 1800);
        row("P3D", 3 * 86400);
        row("1:30", 5400);
        row(" 1 : 30 ", 5400);
        row("-1:30", -5400);
        row("- 90 min", -5400);
        row("", -1);
        row("90", -1);
        row("1.5", -1);
        row("1:", -1);
        row(":30", -1);
        row("1:30:15", -1);
        row("30 min 1 h", -1);
        row("1h 1h", -1);
        row("1.5h 30m", -1);
        row("1.5h30", -1);
        row("1h x", -1);
        row("1 fortnight", -1);
        row("30s5", -1);
        row("1 30", -1);
        row("3 dec 5", -1);
        row("2026-01-05", -1);
        row("P1Y", -1);
        row("P1M", -1);
        row("PT", -1);
        row("P", -1);
        row("PT5", -1);
        row("P1H", -1);
        row("999999999h", -1);
        row("1e3 h", -1);
        row("--1h", -1);
        row("1\xc2\xa0h\xe2\x80\xaf"
            "30\xe2\x80\x89min",
            5400);
    }
    void unitsAreRead() {
        QFETCH(QString, typed);
        QFETCH(qlonglong, seconds);
        const std::vector<DurationPiece> clock = {{"", 3600, 1}, {":", 60, 2}};
        const auto micros = durationMicros(typed.toStdString(), clock);
        QCOMPARE(micros.has_value(), seconds != -1);
        if (micros) QCOMPARE(static_cast<qlonglong>(*micros / 1'000'000), seconds);
    }

    void whatTheUnitsAreDecidesNotTheirPlace() {
        // "5m 30s" was once five hours and a half here: the first number by the pattern's first part.
        const FieldSchema hours = fieldOf(Type::Decimal, 4);
        const auto clock = formatOf("h:mm", DurationUnit::Hours, hours);
        QCOMPARE(read(*clock, hours, "6m 0s"), "0.1000");
        QCOMPARE(read(*clock, hours, "36 min"), "0.6000");
        QCOMPARE(read(*clock, hours, "30 min 15"), "refused");  // a quarter of a minute is no such decimal
    }

    void whatIsShownIsWhatWasTyped_data() {
        QTest::addColumn<int>("type");
        QTest::addColumn<int>("scale");
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("kept");
        const auto row = [](Type type, int scale, const char* typed, const char* kept) {
            QTest::addRow("%s as %d,%d", typed, static_cast<int>(type), scale)
                << static_cast<int>(type) << scale << typed << kept;
        };
        row(Type::Decimal, 2, "0:20", "0.33");  // shown as 0:20
        row(Type::Decimal, 2, "1:30", "1.50");
        row(Type::Decimal, 2, "90 s", "refused");
        row(Type::Decimal, 4, "90 s", "0.0250");
        row(Type::Decimal, 1, "0:20", "refused");  // 0.3 hours are 0:18
        row(Type::Decimal, 0, "0:20", "refused");
        row(Type::Integer, 0, "1:30", "refused");
        row(Type::Integer, 0, "2:00", "2");
        row(Type::Integer, 0, "120 min", "2");
        row(Type::Integer, 0, "100 min", "refused");
        row(Type::Decimal, 2, "2", "2.00");
        row(Type::Decimal, 2, "2.25", "2.25");
        row(Type::Real, 0, "90 s", "0.025");
        row(Type::Decimal, 18, "99999999 h", "refused");  // more than such a column holds
    }
    void whatIsShownIsWhatWasTyped() {
        QFETCH(int, type);
        QFETCH(int, scale);
        QFETCH(QString, typed);
        QFETCH(QString, kept);
        const FieldSchema field = fieldOf(static_cast<Type>(type), scale);
        QCOMPARE(read(*formatOf("h:mm", DurationUnit::Hours, field), field, typed.toStdString()), kept);
    }

    void whatCannotBeKeptIsSaid() {
        const FieldSchema hours = fieldOf(Type::Integer);
        const auto refused = formatOf("h:mm", DurationUnit::Hours, hours)->parse("100 min", hours);
        QVERIFY(!refused);
        QVERIFY2(refused.error().message.find("whole hours") != std::string::npos, refused.error().message.c_str());
        const FieldSchema minutes = fieldOf(Type::Decimal, 1);
        const auto finer = formatOf("m:ss", DurationUnit::Minutes, minutes)->parse("0:01", minutes);
        QVERIFY2(!finer && finer.error().message.find("minutes with 1 decimal") != std::string::npos,
                 finer ? "taken" : finer.error().message.c_str());
    }

    void whateverAPatternWritesIsReadBack() {
        std::mt19937 random(7);
        const struct {
            const char* pattern;
            std::int64_t smallest;
        } patterns[] = {{"h:mm", 60},
                        {"h:mm:ss", 1},
                        {"m:ss", 1},
                        {"d 'd' hh:mm", 60},
                        {"h 'h' mm 'min'", 60},
                        {"d 'Tage' h 'Std'", 3600},
                        {"'<' h 'uur' mm '>'", 60}};
        const FieldSchema field = fieldOf(Type::Integer);
        for (const auto& [pattern, smallest] : patterns) {
            const auto format = formatOf(pattern, DurationUnit::Seconds, field);
            QVERIFY2(format, pattern);
            for (int i = 0; i < 300; ++i) {
                const std::int64_t value =
                    (static_cast<std::int64_t>(random() % 4'000'000) - 2'000'000) / smallest * smallest;
                std::string shown;
                format->append(shown, Value(value));
                const auto again = format->parse(shown, field);
                QVERIFY2(again && *again == Value(value), (pattern + (" " + shown)).c_str());
            }
        }
    }
};

QTEST_APPLESS_MAIN(DurationTextTest)
#include "duration_text_test.moc"
