// SPDX-License-Identifier: MIT
// Formats: what each pattern writes, that it reads back what it wrote, what a wrong pattern is told, and threads.
#include <QtTest>

#include <random>
#include <thread>

#include "core/columns/civil.h"
#include "core/columns/time_zone.h"
#include "core/formats/formatter.h"

using namespace jollyrow;

namespace {

FieldSchema fieldOf(Type type, int scale = 0) {
    FieldSchema field;
    field.name = "f";
    field.type = type;
    field.scale = type == Type::Decimal ? scale : 0;
    return field;
}

TableSchema jobsSchema() {
    TableSchema schema;
    schema.name = "jobs";
    const std::pair<const char*, Type> fields[] = {{"vessel", Type::Text},   {"hours", Type::Decimal},
                                                   {"lines", Type::Integer}, {"due_on", Type::Date},
                                                   {"paid", Type::Boolean},  {"owner.name", Type::Text}};
    for (const auto& [name, type] : fields) {
        FieldSchema field = fieldOf(type, 2);
        field.name = name;
        schema.fields.push_back(field);
    }
    return schema;
}

Result<std::shared_ptr<const Formatter>> made(Type type, FormatStyle style, const std::string& pattern,
                                              const std::string& locale = {}, int scale = 2) {
    TextFormat format = defaultFormat(fieldOf(type, scale), false);
    format.spec.style = style;
    format.spec.pattern = pattern;
    format.locale = locale;
    const TableSchema schema = jobsSchema();
    return Formatter::make(format, schema, [&](std::string_view name) -> std::optional<MessageField> {
        const auto found = schema.find(name);
        return found ? std::optional(MessageField{*found, *found}) : std::nullopt;
    });
}

Date day(int year, unsigned month, unsigned d) { return Date{*daysFromCivil({year, month, d})}; }
QString shown(const Formatter& formatter, const Value& value) {
    std::string out;
    formatter.append(out, value);
    return QString::fromStdString(out);
}

}  // namespace
Q_DECLARE_METATYPE(jollyrow::Value)
Q_DECLARE_METATYPE(jollyrow::FormatStyle)
Q_DECLARE_METATYPE(jollyrow::Type)

class FormatterTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void writesAndReadsBack_data() {
        QTest::addColumn<Type>("type");
        QTest::addColumn<FormatStyle>("style");
        QTest::addColumn<QString>("pattern");
        QTest::addColumn<QString>("locale");
        QTest::addColumn<Value>("value");
        QTest::addColumn<QString>("text");
        const auto row = [](const char* tag, Type type, FormatStyle style, const char* pattern, const char* locale,
                            const Value& value, const char* text) {
            QTest::newRow(tag) << type << style << pattern << locale << value << QString::fromUtf8(text);
        };
        constexpr auto P = FormatStyle::Pattern, A = FormatStyle::Automatic;
        const Value amount = Decimal{118450, 2}, debt = Decimal{-350, 2};
        row("two decimals", Type::Decimal, P, "#,##0.00", "", amount, "1 184.50");
        row("true minus", Type::Decimal, P, "#,##0.00", "", debt, "−3.50");
        row("German", Type::Decimal, P, "#,##0.00", "de-DE", amount, "1.184,50");
        row("Indian groups", Type::Decimal, P, "#,##,##0.00", "en-IN", Decimal{1234567800, 2}, "1,23,45,678.00");
        row("automatic German", Type::Decimal, A, "", "de-DE", amount, "1.184,50");
        row("accounting", Type::Decimal, P, "#,##0.00;(#,##0.00)", "", debt, "(3.50)");
        row("percent", Type::Decimal, P, "0%", "", Decimal{25, 2}, "25%");
        row("whole percent exactly", Type::Decimal, P, "0.0%", "de-DE", Decimal{7, 2}, "7,0%");
        row("scientific", Type::Integer, P, "0.###E0", "", std::int64_t{12340}, "1.234E4");
        row("compact", Type::Integer, P, "::compact-short", "en", std::int64_t{12000}, "12K");
        row("currency", Type::Decimal, P, "::currency/EUR .00", "de-DE", amount, "1.184,50 €");
        row("unit", Type::Decimal, P, "::unit/meter .0", "en", Decimal{1250, 2}, "12.5 m");
        row("sign accounting", Type::Decimal, P, "::currency/GBP sign-accounting", "en-GB", debt, "(£3.50)");
        row("largest", Type::Integer, P, "#,##0", "en", std::int64_t{9223372036854775807}, "9,223,372,036,854,775,807");
        row("smallest", Type::Integer, P, "0", "en", std::int64_t{-9223372036854775807 - 1}, "-9223372036854775808");
        row("weekday", Type::Date, P, "EEE d MMM y", "", day(2026, 11, 24), "Tue 24 Nov 2026");
        row("skeleton", Type::Date, P, "::yMMMd", "de-DE", day(2026, 11, 24), "24. Nov. 2026");
        row("quoted", Type::Date, P, "'week' w y", "", day(2026, 11, 24), "week 48 2026");
        row("before the Gregorian calendar", Type::Date, P, "y-MM-dd", "", day(1500, 2, 28), "1500-02-28");
        row("Thai years stay civil", Type::Date, P, "y-MM-dd", "th-TH", day(2026, 2, 28), "2026-02-28");
        row("time", Type::Time, P, "HH:mm", "", Time{14LL * 3600'000'000 + 5LL * 60'000'000}, "14:05");
        row("both", Type::Timestamp, P, "d.M.y HH:mm", "", Timestamp{1795536300LL * 1000000}, "24.11.2026 16:05");
        row("words", Type::Boolean, FormatStyle::Words, "paid;open", "", true, "paid");
        row("other word", Type::Boolean, FormatStyle::Words, "paid;open", "", false, "open");
        row("hours", Type::Decimal, FormatStyle::Duration, "h:mm", "", Decimal{1850, 2}, "18:30");
        row("hours and words", Type::Decimal, FormatStyle::Duration, "h 'h' mm 'min'", "", Decimal{-125, 2},
            "−1 h 15 min");
    }
    void writesAndReadsBack() {
        QFETCH(Type, type);
        QFETCH(FormatStyle, style);
        QFETCH(QString, pattern);
        QFETCH(QString, locale);
        QFETCH(Value, value);
        QFETCH(QString, text);
        const auto formatter = made(type, style, pattern.toStdString(), locale.toStdString());
        QVERIFY2(formatter.ok(), formatter.ok() ? "" : formatter.error().message.c_str());
        QString written = shown(**formatter, value);
        written.replace(QChar(0xa0), u' ').replace(QChar(0x202f), u' ').replace(QChar(0x2009), u' ');
        QCOMPARE(written, text);
        const FieldSchema field = fieldOf(type, 2);
        const auto read = (*formatter)->parse(shown(**formatter, value).toStdString(), field);
        if (pattern.startsWith("'week'")) return;  // says less than the value
        QVERIFY2(read.ok(), read.ok() ? "" : read.error().message.c_str());
        QVERIFY(*read == value);
        // The plain form is read as well, and the entry shows something that reads back.
        std::string plain;
        appendPlain(plain, value);
        const auto again = (*formatter)->parse(plain, field);
        QVERIFY(again.ok() && *again == value);
        const auto edited = (*formatter)->parse((*formatter)->editText(value, field), field);
        QVERIFY(edited.ok() && *edited == value);
    }

    void randomValuesReadBack() {
        std::mt19937_64 random(5);
        const char* patterns[] = {"#,##0.00", "0.00", "::currency/EUR .00", "#,##0.00;(#,##0.00)"};
        for (const char* locale : {"", "de-DE", "fr-CH", "hi-IN", "ar-EG"})
            for (const char* pattern : patterns) {
                const auto formatter = made(Type::Decimal, FormatStyle::Pattern, pattern, locale);
                QVERIFY(formatter.ok());
                for (int i = 0; i < 300; ++i) {
                    const Decimal value{static_cast<std::int64_t>(random() >> (i % 60)) * (i % 2 ? 1 : -1), 2};
                    const FieldSchema field = fieldOf(Type::Decimal, 2);
                    const auto read = (*formatter)->parse((*formatter)->editText(value, field), field);
                    QVERIFY2(read.ok() && *read == Value(value), shown(**formatter, value).toUtf8());
                }
            }
    }

    void locatesWhatIsWrong_data() {
        QTest::addColumn<Type>("type");
        QTest::addColumn<FormatStyle>("style");
        QTest::addColumn<QString>("pattern");
        QTest::addColumn<int>("offset");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* tag, Type type, FormatStyle style, const char* pattern, int offset,
                            const char* says) { QTest::newRow(tag) << type << style << pattern << offset << says; };
        constexpr auto P = FormatStyle::Pattern, M = FormatStyle::Message;
        row("number pattern on a date", Type::Date, P, "#,##0.00", 0, "not a date pattern");
        row("date pattern on a number", Type::Decimal, P, "EEE d MMM", 0, "not a number pattern");
        row("word without quotes", Type::Date, P, "d Nov", 2, "N is not a date field");
        row("time of a day", Type::Date, P, "d MMM HH:mm", 6, "H is a time of day");
        row("open quote", Type::Date, P, "d 'of MMM", 2, "not closed");
        row("pattern on text", Type::Text, P, "#,##0", 0, "cannot be used here");
        row("words on a number", Type::Integer, FormatStyle::Words, "a;b", 0, "cannot be used here");
        row("one word", Type::Boolean, FormatStyle::Words, "paid", 0, "Two words");
        row("duration of text", Type::Text, FormatStyle::Duration, "h:mm", 0, "cannot be used here");
        row("duration upside down", Type::Integer, FormatStyle::Duration, "m:hh", 2, "large to small");
        row("skeleton", Type::Decimal, P, "::currency/EUR wrong", 15, "not known");
        row("two points", Type::Decimal, P, "0.0.0", 3, "second point");
        row("unknown field", Type::Text, M, "{vessel}, {hurs} h", 11, "Did you mean hours?");
        row("open brace", Type::Text, M, "{vessel", 0, "not closed");
        row("unknown type", Type::Text, M, "{hours, numbr}", 0, "not known");
        row("numbered", Type::Text, M, "{0}", 1, "Name a field");
        row("plural without other", Type::Text, M, "{lines, plural, one {# line}}", 0, "");
    }
    void locatesWhatIsWrong() {
        QFETCH(Type, type);
        QFETCH(FormatStyle, style);
        QFETCH(QString, pattern);
        QFETCH(int, offset);
        QFETCH(QString, says);
        const auto formatter = made(type, style, pattern.toStdString());
        QVERIFY(!formatter.ok());
        QVERIFY2(QString::fromStdString(formatter.error().message).contains(says), formatter.error().message.c_str());
        QVERIFY(formatter.error().where.has_value());
        QVERIFY(formatter.error().where->offset < static_cast<std::size_t>(pattern.size()));
        if (!says.isEmpty() && pattern != "{vessel" && pattern != "{hours, numbr}")
            QCOMPARE(static_cast<int>(formatter.error().where->offset), offset);
    }

    void messagesReadSeveralFields() {
        const auto formatter = made(Type::Text, FormatStyle::Message,
                                    "{vessel}, {hours, number, ::.0} h, {lines, plural, one {# line} other {# lines}}, "
                                    "{due_on, date, ::EEEdMMM}, {owner.name}");
        QVERIFY2(formatter.ok(), formatter.ok() ? "" : formatter.error().message.c_str());
        const TableSchema schema = jobsSchema();
        std::vector<Value> record = {
            std::string("Otter's Due"), Decimal{1850, 2}, std::int64_t{1}, day(2026, 11, 24), true, std::string("Åse")};
        const auto text = [&] {
            std::string out;
            (*formatter)->appendMessage(out, [&](FieldIndex f) { return record[raw(f)]; });
            return QString::fromStdString(out);
        };
        for (const char* zone : {"UTC", "Pacific/Auckland", "America/Los_Angeles"}) {
            qputenv("TZ", zone);
            QVERIFY2(text().startsWith("Otter's Due, 18.5 h, 1 line, Tue"), text().toUtf8());
            QVERIFY(text().contains("24") && text().endsWith("Åse"));
        }
        record[2] = std::int64_t{3};
        QVERIFY(text().contains("3 lines"));
        record[5] = Empty{};  // a text that is empty leaves its place empty
        QVERIFY(text().endsWith(", "));
        record[1] = Empty{};  // a number that is empty leaves nothing to say
        QCOMPARE(text(), QString());
        QCOMPARE((*formatter)->fieldsRead().size(), std::size_t{5});
    }

    /// A field's own name reads as its column writes it, wherever it stands in the message.
    void namesInPluralsReadAsTheColumn() {
        const auto formatter =
            made(Type::Text, FormatStyle::Message,
                 "{owner.name}: {lines, plural, one {{lines} line} other {{lines} lines of {owner.name}}}, {hours}");
        QVERIFY2(formatter.ok(), formatter.ok() ? "" : formatter.error().message.c_str());
        std::vector<Value> record = {Empty{}, Decimal{125000, 2}, std::int64_t{1234567}, Empty{},
                                     Empty{}, std::string("Åse")};
        const auto text = [&] {
            std::string out;
            (*formatter)->appendMessage(out, [&](FieldIndex f) { return record[raw(f)]; });
            return QString::fromStdString(out);
        };
        QCOMPARE(text(), QString("Åse: 1\u2009234\u2009567 lines of Åse, 1\u2009250.00"));
        record[2] = std::int64_t{1};
        QCOMPARE(text(), QString("Åse: 1 line, 1\u2009250.00"));
        QCOMPARE((*formatter)->fieldsRead().size(), std::size_t{3});
    }

    void relativeDays() {
        const auto formatter = made(Type::Date, FormatStyle::RelativeDays, "d MMM y");
        QVERIFY(formatter.ok());
        QCOMPARE(shown(**formatter, Date{today()}), QString("today"));
        QCOMPARE(shown(**formatter, Date{today() + 1}), QString("tomorrow"));
        QCOMPARE(shown(**formatter, Date{today() - 3}), QString("3 days ago"));
        QCOMPARE(shown(**formatter, day(2001, 5, 1)), QString("1 May 2001"));
        const auto read = (*formatter)->parse("tomorrow", fieldOf(Type::Date));
        QVERIFY(read.ok() && *read == Value(Date{today() + 1}));
    }

    void instantsOnTheClocksOfTheirZone() {
        std::mt19937_64 random(12);
        const std::int64_t low = *parseIsoTimestamp("1971-01-01"), high = *parseIsoTimestamp("2090-01-01");
        for (const char* zone : {"Europe/Berlin", "America/New_York", "Asia/Kathmandu"})
            for (const char* pattern : {"EEE d MMM y HH:mm", "y-MM-dd HH:mm:ss", "y-MM-dd HH:mm xxx", "::yMMMdjm"}) {
                TextFormat format{.type = Type::Instant, .spec = formatFor(pattern, false), .zone = zone};
                const auto formatter = Formatter::make(format, TableSchema{}, nullptr);
                QVERIFY2(formatter.ok(), pattern);
                // The same clock time as a plain timestamp writes.
                format.type = Type::Timestamp;
                const auto local = Formatter::make(format, TableSchema{}, nullptr);
                FieldSchema field = fieldOf(Type::Instant);
                field.zone = zone;
                for (int i = 0; i < 300; ++i) {
                    const std::int64_t micros =
                        (low + static_cast<std::int64_t>(random() % static_cast<std::uint64_t>(high - low))) /
                        60'000'000 * 60'000'000;
                    const Value value = Instant{micros};
                    if (!std::strstr(pattern, "xxx"))
                        QCOMPARE(shown(**formatter, value),
                                 shown(**local, Timestamp{TimeZone::named(zone)->toLocal(micros)}));
                    const auto back = (*formatter)->parse((*formatter)->editText(value, field), field);
                    QVERIFY2(back.ok() && *back == value, (*formatter)->editText(value, field).c_str());
                }
            }
        TextFormat summer{.type = Type::Instant, .spec = formatFor("HH:mm xxx", false), .zone = "Europe/Berlin"};
        QCOMPARE(
            shown(**Formatter::make(summer, TableSchema{}, nullptr), Instant{*parseIsoInstant("2026-07-01T10:00:00Z")}),
            QString("12:00 +02:00"));
    }

    void theEndOfADayIsNotItsBeginning() {
        for (const char* pattern : {"HH:mm", "h:mm a", "::jm", "HH:mm:ss"}) {
            const auto formatter = made(Type::Time, FormatStyle::Pattern, pattern);
            QVERIFY(formatter.ok());
            QCOMPARE(shown(**formatter, Time{kMicrosPerDay}), QString("24:00"));
            const auto back = (*formatter)->parse("24:00", fieldOf(Type::Time));
            QVERIFY(back.ok() && *back == Value(Time{kMicrosPerDay}));
        }
    }

    void anyBytesAsAPatternAreRefusedOrUsed() {
        std::mt19937 random(11);
        const std::string alphabet = "#0.,;'{}dMyEHhms%:- ¤currency/EUR@\xc3\x28\xf0";
        for (int i = 0; i < 4000; ++i) {
            std::string pattern;
            for (unsigned n = random() % 14; n > 0; --n) pattern += alphabet[random() % alphabet.size()];
            const auto style = static_cast<FormatStyle>(1 + random() % 5);
            const Type type = static_cast<Type>(random() % 12);
            const auto formatter = made(type, style, pattern, random() % 2 ? "de-DE" : "");
            if (!formatter) {
                QVERIFY(!formatter.error().message.empty());
                continue;
            }
            std::string out;
            if ((*formatter)->isMessage())
                (*formatter)->appendMessage(out, [](FieldIndex) { return Value(Empty{}); });
            else
                (*formatter)->append(out, Value(Decimal{12345, 2}));
        }
    }

    void threadsMayShareOne() {
        const auto number = made(Type::Decimal, FormatStyle::Pattern, "#,##0.00", "de-DE");
        const auto date = made(Type::Date, FormatStyle::Pattern, "EEE d MMM y");
        std::atomic<int> wrong = 0;
        {
            std::vector<std::jthread> threads;
            for (int t = 0; t < 4; ++t)
                threads.emplace_back([&] {
                    for (int i = 0; i < 2000; ++i) {
                        wrong += shown(**number, Decimal{118450, 2}) != "1.184,50";
                        wrong += shown(**date, day(2026, 11, 24)) != "Tue 24 Nov 2026";
                        wrong += !(*date)->parse("Tue 24 Nov 2026", fieldOf(Type::Date)).ok();
                    }
                });
        }
        QCOMPARE(wrong.load(), 0);
    }
};

QTEST_APPLESS_MAIN(FormatterTest)
#include "formatter_test.moc"
