// SPDX-License-Identifier: MIT
// Patterns of entries: what matches, what may still match, what alone can follow; and patterns meant to hang a program.
#include <QElapsedTimer>
#include <QtTest>

#include <fmt/format.h>

#include <random>
#include <regex>

#include "core/columns/number_list.h"
#include "core/formats/entry_pattern.h"
#include "core/formats/text_format.h"

using namespace jollyrow;
using Fit = EntryPattern::Fit;

namespace {
std::shared_ptr<const EntryPattern> patternOf(const char* pattern) {
    auto made = EntryPattern::make(pattern);
    return made ? *made : nullptr;
}
}  // namespace

class EntryPatternTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void fits_data() {
        QTest::addColumn<QString>("pattern");
        QTest::addColumn<QString>("text");
        QTest::addColumn<int>("fit");
        const auto row = [](const char* pattern, const char* text, Fit fit) {
            QTest::addRow("%s of %s", text, pattern)
                << QString::fromUtf8(pattern) << QString::fromUtf8(text) << int(fit);
        };
        row("[A-Z]{2}-\\d{4}", "", Fit::Begun);
        row("[A-Z]{2}-\\d{4}", "A", Fit::Begun);
        row("[A-Z]{2}-\\d{4}", "AB-12", Fit::Begun);
        row("[A-Z]{2}-\\d{4}", "AB-1234", Fit::Whole);
        row("[A-Z]{2}-\\d{4}", "AB-12345", Fit::None);
        row("[A-Z]{2}-\\d{4}", "ab", Fit::None);
        row("[A-Z]{2}-\\d{4}", "AB1", Fit::None);
        row("[0-9 +()-]*", "+44 (0)12", Fit::Whole);
        row("[0-9 +()-]*", "x", Fit::None);
        row("yes|no", "y", Fit::Begun);
        row("yes|no", "yn", Fit::None);
        row("\\p{Lu}\\p{Ll}+", "Å", Fit::Begun);
        row("\\p{Lu}\\p{Ll}+", "Åse", Fit::Whole);
        row("..", "🛥", Fit::Begun);
        row("..", "🛥🛥", Fit::Whole);
        row("", "", Fit::Whole);
        row("", "a", Fit::None);
    }
    void fits() {
        QFETCH(QString, pattern);
        QFETCH(QString, text);
        QFETCH(int, fit);
        const auto made = EntryPattern::make(pattern.toStdString());
        QVERIFY(made.ok());
        QCOMPARE(static_cast<int>((*made)->fit(text.toStdString())), fit);
    }

    void whatAloneCanFollowIsFilledIn() {
        QCOMPARE(patternOf("JOB-\\d{4}")->filledIn("J"), std::string("JOB-"));
        QCOMPARE(patternOf("JOB-\\d{4}")->filledIn(""), std::string("JOB-"));
        QCOMPARE(patternOf("\\d{2}/\\d{2}")->filledIn("12"), std::string("12/"));
        QCOMPARE(patternOf("\\d{2}/\\d{2}")->filledIn("1"), std::string("1"));
        QCOMPARE(patternOf("\\d{2}/?\\d{2}")->filledIn("12"), std::string("12"));  // a digit may follow, too
        QCOMPARE(patternOf("\\d+( kg)?")->filledIn("12"), std::string("12"));      // it is whole already
        QCOMPARE(patternOf("\\d+ kg")->filledIn("12 "), std::string("12 kg"));
        QCOMPARE(patternOf("a€b")->filledIn("a"), std::string("a€b"));
        QCOMPARE(patternOf("x{100}")->filledIn("x").size(), std::size_t{33});  // no more than 32 at a time
        QCOMPARE(patternOf("[A-Z]+")->filledIn("a"), std::string("a"));        // it cannot fit: left alone
    }

    /// Every beginning of a text that matches has begun; what has no way on has none: against the standard library.
    void beginningsOfWhatMatchesHaveBegun() {
        const char* patterns[] = {"[A-C]{2}-\\d{1,3}", "(ab|ba)*c", "\\d+(\\.\\d\\d)?", "a?b?c?-[xyz]+",
                                  "(x|xy)(z|yz)q"};
        std::mt19937 dice(5);
        int whole = 0;
        for (const char* text : patterns) {
            const auto pattern = patternOf(text);
            const std::regex judge(text, std::regex::ECMAScript);
            for (int turn = 0; turn < 20'000; ++turn) {
                std::string word;
                for (std::size_t i = dice() % 7; i > 0; --i) word += "ABCabcxyzq12.-"[dice() % 14];
                const Fit fit = pattern->fit(word);
                QCOMPARE(fit == Fit::Whole, std::regex_match(word, judge));
                if (fit != Fit::Whole) continue;
                ++whole;
                for (std::size_t length = 0; length < word.size(); ++length)
                    QVERIFY2(pattern->fit(word.substr(0, length)) != Fit::None, word.c_str());
            }
        }
        QVERIFY2(whole > 200, qPrintable(QString::number(whole)));
    }

    void wrongPatternsAreSaid() {
        const auto open = EntryPattern::make("[A-Z");
        QVERIFY(!open.ok());
        QVERIFY2(open.error().message.find("[A-Z") != std::string::npos, open.error().message.c_str());
        QVERIFY(!EntryPattern::make("(").ok());
        QVERIFY(!EntryPattern::make("a{9").ok());
        QVERIFY(!EntryPattern::make(std::string(2000, 'a')).ok());
    }

    /// A column of texts, each of which would take as long as it may: given less after some of them; what can be told
    /// still is.
    void aPatternThatOftenTakesTooLongIsGivenLessTime() {
        const auto pattern = EntryPattern::make("(a|aa)+b");
        QVERIFY(pattern.ok());
        QCOMPARE((*pattern)->fit("aab"), EntryPattern::Fit::Whole);
        for (int i = 0; i < 3; ++i) QCOMPARE((*pattern)->fit(std::string(60, 'a') + "c"), EntryPattern::Fit::Unknown);
        QElapsedTimer timer;
        timer.start();
        for (int i = 0; i < 200; ++i) QCOMPARE((*pattern)->fit(std::string(60, 'a') + "c"), EntryPattern::Fit::Unknown);
        QVERIFY2(timer.elapsed() < 8'000, qPrintable(QString::number(timer.elapsed())));
        QCOMPARE((*pattern)->fit("aab"), EntryPattern::Fit::Whole);
        QCOMPARE((*pattern)->fit("aac"), EntryPattern::Fit::None);
    }

    /// Patterns come with designs, which nobody vouches for.
    void evilPatternsAreGivenUp() {
        QElapsedTimer timer;
        timer.start();
        for (const char* evil : {"(a+)+$", "(a|aa)+$", "(.*)*x", "((a*)*)*b", "(a|b|ab)*(c|(a|b)*)*d"}) {
            const auto pattern = patternOf(evil);
            if (!pattern) continue;
            const std::string text(5000, 'a');
            (void)pattern->fit(text + "!");
            (void)pattern->filledIn(text);
        }
        QVERIFY2(timer.elapsed() < 20'000, qPrintable(QString::number(timer.elapsed())));
    }

    void listsOfNumbersAreTyped() {
        using Text = std::optional<std::string>;
        QCOMPARE(numberListTyped("1, 2.50,3"), Text("[1, 2.50, 3]"));
        QCOMPARE(numberListTyped("[1,,null,-4e3]"), Text("[1, null, null, -4e3]"));
        QCOMPARE(numberListTyped("  "), Text("[]"));
        for (const char* none : {"1, x", "[1", "1]", "01", "1.", ".5", "1 2", "NaN", "+1", "--1", "1e", "[[1]]"})
            QVERIFY2(!numberListTyped(none), none);
        FieldSchema field;
        field.type = Type::NumberList;
        QCOMPARE(*parseTyped("4, 7.5", field), Value(std::string("[4, 7.5]")));
        QCOMPARE(*parseTyped("", field), Value(Empty{}));
        QVERIFY(!parseTyped("4; 7", field).ok());
        // What was typed is what is read of it.
        std::mt19937 dice(9);
        for (int turn = 0; turn < 2000; ++turn) {
            std::vector<double> numbers(dice() % 6);
            std::string typed;
            for (std::size_t i = 0; i < numbers.size(); ++i) {
                numbers[i] = static_cast<double>(dice() % 100'000) / 8.0 - 5000;
                typed += (i == 0 ? "" : ",") + std::string(dice() % 3, ' ') + fmt::format("{}", numbers[i]);
            }
            const auto list = numberListTyped(typed);
            QVERIFY2(list, typed.c_str());
            QCOMPARE(*numbersIn(*list), numbers);
        }
    }
};

QTEST_GUILESS_MAIN(EntryPatternTest)
#include "entry_pattern_test.moc"
