// SPDX-License-Identifier: MIT
// TO_CHAR, TO_DATE, TO_TIMESTAMP and TO_NUMBER with patterns put together at random, and regular expressions likewise,
// over hard values: PostgreSQL is the judge. What it writes by a pattern, the pattern reads back.
#include <QtTest>

#include <random>

#include "core/rules/evaluator.h"
#include "core/rules/regex.h"
#include "tests/rules/oracle_cells.h"
#include "tests/rules/postgres_server.h"

using namespace jollyrow;

class WrittenOracleTest : public QObject {
    Q_OBJECT
    test::PostgresServer server_;
    std::shared_ptr<const Table> table_ = test::tableOf({{"x", Type::Integer, 0, "bigint", {"1"}}});
    std::mt19937_64 random_{20261202};

    std::size_t one(std::size_t of) { return random_() % of; }
    template <std::size_t N>
    std::string pick(const char* const (&of)[N]) {
        return of[one(N)];
    }
    static std::string quoted(const std::string& text) {
        std::string out = "'";
        for (const char c : text) out.append(c == '\'' ? 2 : 1, c);
        return out + "'";
    }

    EvaluatedCell ours(const std::string& rule, std::string& why) {
        const auto program = compileRule(rule, table_->schema);
        if (!program) {
            why = program.error().message;
            return {CellState::NotConvertible, Empty{}};
        }
        EvaluationInput input;
        input.table = table_;
        const auto cell = evaluateOne(*program, input, static_cast<SourceRow>(0));
        if (!cell) why = cell.error().message;
        return cell ? *cell : EvaluatedCell{CellState::NotConvertible, Empty{}};
    }
    /// Compares one rule; tells whether both had a value.
    bool agree(const std::string& rule) {
        const auto theirs = server_.query("SELECT " + rule);
        std::string why;
        const EvaluatedCell cell = ours(rule, why);
        if (!test::agrees(cell, !theirs.ok, theirs.ok ? theirs.cells.front() : std::nullopt)) {
            message_ = QString::fromStdString(
                fmt::format("{}\nwe say [{}] {}, PostgreSQL [{}]", rule, test::described(cell), why,
                            theirs.ok ? theirs.cells.front().value_or("(empty)") : theirs.error));
            return false;
        }
        bothHave_ += theirs.ok && theirs.cells.front() ? 1 : 0;
        return true;
    }
    QString message_;
    int bothHave_ = 0;
    int unlike_ = 0;

  private slots:
    void initTestCase() {
        const std::string why = server_.start();
        if (!why.empty()) QSKIP(why.c_str());
        server_.query(fmt::format("SET timezone = '{}'", TimeZone::machine().name()));
    }
    void init() { bothHave_ = 0; }

    void writtenMoments() {
        static const char* const kFields[] = {
            "YYYY",  "YYY",   "YY",    "Y",   "Y,YYY", "IYYY", "IYY", "IY",   "I",  "MM",   "MON",  "Mon",  "mon",
            "MONTH", "Month", "month", "RM",  "rm",    "DD",   "DDD", "D",    "ID", "IDDD", "DAY",  "Day",  "day",
            "DY",    "Dy",    "dy",    "W",   "WW",    "IW",   "Q",   "J",    "CC", "HH",   "HH12", "HH24", "MI",
            "SS",    "MS",    "US",    "FF1", "FF3",   "SSSS", "AM",  "p.m.", "AD", "b.c.", "hh24", "yyyy", "dd"};
        static const char* const kBetween[] = {"-", " ", "/", ".", ":", "", ", ", "\"of\"", "x", "\\\""};
        static const char* const kMoments[] = {
            "2026-11-24 15:04:05.678901", "2000-01-01 00:00:00", "1999-12-31 23:59:59.9", "0101-03-04 12:30:00",
            "9999-12-31 11:00:00",        "2024-02-29 01:02:03", "2021-01-03 12:00:00"};
        for (int turn = 0; turn < 1500; ++turn) {
            std::string pattern;
            for (std::size_t parts = 1 + one(5); parts > 0; --parts) {
                if (one(5) == 0) pattern += "FM";
                pattern += pick(kFields);
                if (one(6) == 0) pattern += one(2) == 0 ? "TH" : "th";
                pattern += pick(kBetween);
            }
            const bool isDate = one(5) == 0;
            const std::string moment = pick(kMoments);
            const std::string value = isDate ? "DATE '" + moment.substr(0, 10) + "'" : "TIMESTAMP '" + moment + "'";
            QVERIFY2(agree(fmt::format("TO_CHAR({}, {})", value, quoted(pattern))), qPrintable(message_));
        }
        QVERIFY(bothHave_ > 1400);
    }

    void writtenSpans() {
        static const char* const kFields[] = {"YYYY", "MM",   "DD", "HH24", "HH12", "MI", "SS", "MS",
                                              "US",   "SSSS", "Y",  "Q",    "CC",   "AM", "DAY"};
        static const char* const kSpans[] = {
            "1 year 2 mons 3 days 04:05:06.7", "-1 day", "100:00:00", "-12:30:15", "00:00", "14 mons"};
        for (int turn = 0; turn < 300; ++turn) {
            const std::string pattern = (one(3) == 0 ? "FM" : "") + pick(kFields) + ":" + pick(kFields);
            QVERIFY2(agree(fmt::format("TO_CHAR(INTERVAL '{}', '{}')", pick(kSpans), pattern)), qPrintable(message_));
        }
    }

    void writtenNumbers() {
        static const char* const kParts[] = {"9", "9", "9", "0", "0", "99", "999", "G", ",", "9G999"};
        static const char* const kSigns[] = {"", "", "", "S", "MI", "PL", "SG", "PR"};
        static const char* const kNumbers[] = {"0",    "1",       "-1",          "12.5",    "-12.55",
                                               "0.1",  "-0.05",   "1234567.891", "999.995", "0.000485",
                                               "-485", "148.500", "100000",      "7"};
        for (int turn = 0; turn < 2500; ++turn) {
            std::string pattern = one(4) == 0 ? "FM" : "";
            const std::string sign = pick(kSigns);
            const bool isBefore = !sign.empty() && sign != "PR" && one(2) == 0;
            if (isBefore) pattern += sign;
            if (one(8) == 0) pattern += "L";
            for (std::size_t parts = 1 + one(5); parts > 0; --parts) pattern += pick(kParts);
            if (one(2) == 0) {
                pattern += one(2) == 0 ? "D" : ".";
                for (std::size_t parts = one(4); parts > 0; --parts) pattern += one(3) == 0 ? "0" : "9";
            }
            if (pattern.find_first_of("90") == std::string::npos) continue;
            if (!isBefore) pattern += sign;
            if (one(10) == 0) pattern += "th";
            if (one(15) == 0) pattern += "\" t\"";
            const std::string number = pick(kNumbers);
            const std::string value = one(5) == 0 ? "CAST('" + number + "' AS DOUBLE PRECISION)" : number;
            QVERIFY2(agree(fmt::format("TO_CHAR({}, {})", value, quoted(pattern))), qPrintable(message_));
        }
        QVERIFY(bothHave_ > 1500);
        for (const char* pattern : {"RN", "FMrn", "9.99EEEE", "9EEEE", "99V99", "9V999"})
            for (const char* number : kNumbers)
                QVERIFY2(agree(fmt::format("TO_CHAR({}, '{}')", number, pattern)), qPrintable(message_));
    }

    void readMoments() {
        static const char* const kPatterns[] = {"YYYY-MM-DD",
                                                "DD.MM.YYYY",
                                                "DD/MM/YY",
                                                "YYYYMMDD",
                                                "FMDD Mon YYYY",
                                                "Month DD, YYYY",
                                                "DD MONTH YYYY",
                                                "YYYY-DDD",
                                                "IYYY-IW-ID",
                                                "J",
                                                "YYYY MM",
                                                "YYYY",
                                                "FXYYYY-MM-DD",
                                                "DY DD Mon YYYY",
                                                "YYYY\"y\"MM\"m\"",
                                                "Y,YYY-MM-DD",
                                                "Y,YYYth-MM-DDth",
                                                "YYYY-MM-DD HH24:MI:SS",
                                                "DD.MM.YYYY HH12:MI AM",
                                                "YYYYMMDDHH24MISS",
                                                "YYYY-MM-DD HH24:MI:SS.US",
                                                "YYYY-MM-DD SSSS",
                                                "RM YYYY",
                                                "WW YYYY"};
        static const char* const kMoments[] = {"2026-11-24 15:04:05.678901", "2000-01-01 00:00:00",
                                               "2024-02-29 01:02:03", "1999-12-31 23:59:59"};
        static const char* const kOdd[] = {
            "2026-13-01",     "2026-02-30",          "x",        "",         "24.11.2026", "2026 11 24",
            "  2026-11-24  ", "2026/11/24",          "20261124", "2026-1-5", "5 Dec 2026", "1 february 2026",
            "2026-11-24x",    "2026-11-24 25:00:00", "99",       "2026-366", "12:30",      "2026--11--24",
            "-2026-11-24"};
        for (int turn = 0; turn < 1200; ++turn) {
            const std::string pattern = pick(kPatterns);
            const auto written = server_.query("SELECT TO_CHAR(TIMESTAMP '" + pick(kMoments) + "', '" + pattern + "')");
            QVERIFY(written.ok);
            const std::string text = one(3) == 0 ? pick(kOdd) : written.cells.front().value_or("");
            // The server takes any number for a day of the week.
            if (pattern.find("ID") != std::string::npos &&
                std::find(std::begin(kOdd), std::end(kOdd), text) != std::end(kOdd))
                continue;
            const char* function = one(2) == 0 ? "TO_DATE" : "TO_TIMESTAMP";
            // Before the year 1 there is nothing here.
            const auto theirs = server_.query(
                fmt::format("SELECT {}({}, {})::text LIKE '%BC' OR {}({}, {})::text ~ '^[0-9]{{5}}'", function,
                            quoted(text), quoted(pattern), function, quoted(text), quoted(pattern)));
            if (theirs.ok && theirs.cells.front() == "t") continue;
            QVERIFY2(agree(fmt::format("{}({}, {})", function, quoted(text), quoted(pattern))), qPrintable(message_));
        }
        QVERIFY(bothHave_ > 600);
    }

    void readNumbers() {
        static const char* const kPatterns[] = {"999",       "9G999D99",  "S999.99", "999.99S", "999D9MI",
                                                "FM999.999", "L9,999.99", "9.99",    "999PR",   "SG99.9"};
        static const char* const kTexts[] = {"12",   "1,234.5", "-12.5", "12.5-", "+7",   "$1,234.50", "0.05", ".5",
                                             "<12>", "1 2",     "x",     "12.5x", " 42 ", "1234",      "12-"};
        for (const char* pattern : kPatterns)
            for (const char* text : kTexts)
                unlike_ += agree(fmt::format("TO_NUMBER({}, {})", quoted(text), quoted(pattern))) ? 0 : 1;
        QVERIFY2(unlike_ <= 6, qPrintable(message_));
        QVERIFY(bothHave_ > 80);
    }
    /// Without alternatives of different length the longest match and the first are the same.
    void regularExpressions() {
        static const char* const kAtoms[] = {"a",   "b",           ".",    "[ab]", "[^a]",  "\\d", "\\w",
                                             "\\s", "[[:alpha:]]", "(ab)", "(a)",  "(?:b)", "é",   "[]x]",
                                             "\\.", "(a|b)",       "x",    "\\m",  "\\M",   "\\y"};
        static const char* const kTimes[] = {"", "", "", "*", "+", "?", "{2}", "{1,3}", "*?", "+?"};
        static const char* const kTexts[] = {"abab", "aabb",     "",     "x",   "ab ab",     "a.b",
                                             "Éa é", "aaa\nbbb", "12ab", "]x]", "ba ab. ba", "AbAB"};
        static const char* const kFlags[] = {"", "i", "n", "g", "gi", "s"};
        for (int turn = 0; turn < 3000; ++turn) {
            std::string pattern = one(5) == 0 ? "^" : "";
            for (std::size_t parts = 1 + one(4); parts > 0; --parts) {
                const std::string atom = pick(kAtoms);
                const bool isPlace = atom == "\\m" || atom == "\\M" || atom == "\\y";
                pattern += atom + (isPlace ? "" : pick(kTimes));
            }
            if (one(5) == 0) pattern += "$";
            const std::string text = quoted(pick(kTexts)), of = quoted(pattern), flags = quoted(pick(kFlags));
            // Greedy and reluctant parts of one expression are settled as a whole there.
            if (pattern.find("?") != std::string::npos && pattern.find_first_of("*+{") != std::string::npos) continue;
            switch (one(5)) {
                case 0: QVERIFY2(agree(fmt::format("{} ~ {}", text, of)), qPrintable(message_)); break;
                case 1:
                    QVERIFY2(agree(fmt::format("REGEXP_REPLACE({}, {}, '<\\&>', {})", text, of, flags)),
                             qPrintable(message_));
                    break;
                case 2: QVERIFY2(agree(fmt::format("REGEXP_COUNT({}, {})", text, of)), qPrintable(message_)); break;
                case 3:
                    QVERIFY2(agree(fmt::format("REGEXP_INSTR({}, {}, {}, {})", text, of, 1 + one(3), 1 + one(3))),
                             qPrintable(message_));
                    break;
                default:
                    QVERIFY2(agree(fmt::format("REGEXP_SUBSTR({}, {}, 1, {})", text, of, 1 + one(2))),
                             qPrintable(message_));
                    break;
            }
        }
        QVERIFY2(bothHave_ > 900, QByteArray::number(bothHave_));
    }

    /// One that would look at a text for ever says so, soon, and does so at once after a few.
    void patternsThatTakeTooLong() {
        QElapsedTimer timer;
        timer.start();
        const std::string text(40, 'a');
        std::string why;
        QCOMPARE(ours(fmt::format("'{}b' ~ '^(a+)+$'", text), why).state, CellState::PatternTooSlow);
        const std::string deep(200000, '(');
        QVERIFY(isError(ours(fmt::format("'x' ~ '{}'", deep), why).state));
        QVERIFY(timer.elapsed() < 20000);
    }

    /// Whatever stands there as a pattern, it is used or refused.
    void anythingAsPattern() {
        static constexpr char kSigns[] = "()[]{}*+?|^$\\.-,:<>=!&~#ab1\n ";
        for (int turn = 0; turn < 20000; ++turn) {
            std::string pattern;
            for (std::size_t length = one(12); length > 0; --length) pattern += kSigns[one(sizeof kSigns - 1)];
            for (const char* flags : {"", "q", "x"}) {
                auto regex = Regex::make(pattern, flags);
                if (!regex) continue;
                regex->setText("ab1 \n(a)");
                if (regex->find(0) == Regex::Outcome::Found) QVERIFY(regex->group(0).end <= 8);
                if (std::string(flags) == "q" && !pattern.empty()) {
                    regex->setText(pattern);
                    QVERIFY2(regex->find(0) == Regex::Outcome::Found && regex->group(0).end == pattern.size(),
                             pattern.c_str());
                }
            }
            Regex::similar(pattern, one(2) == 0 ? "#" : "");
        }
    }
};

QTEST_APPLESS_MAIN(WrittenOracleTest)
#include "written_oracle_test.moc"
