// SPDX-License-Identifier: MIT
// Conditions: what is typed in a filter row, rules and words are one thing in three forms. Rule -> condition -> rule
// means the same; entries say what is wrong and where; hostile entries do no harm.
#include <QtTest>

#include <random>

#include "core/columns/civil.h"
#include "core/design/condition.h"
#include "core/design/design_file.h"
#include "core/design/filter_entry.h"
#include "core/design/make_design.h"
#include "core/design/operators.h"
#include "core/rules/program.h"
#include "tests/turns.h"

using namespace jollyrow;

class ConditionTest : public QObject {
    Q_OBJECT
    TableSchema schema_;
    Design design_;

    void field(const char* name, Type type, int scale = 0, std::vector<std::string> permitted = {}) {
        FieldSchema f;
        f.name = name;
        f.type = type;
        f.scale = scale;
        f.permitted = std::move(permitted);
        if (!f.permitted.empty()) f.use = Use::Choice;
        schema_.fields.push_back(f);
        ColumnDesign column;
        column.field = name;
        column.heading = QString(name).replace('_', ' ').toStdString();
        column.heading[0] = static_cast<char>(std::toupper(column.heading[0]));
        design_.columns.push_back(column);
    }

  private Q_SLOTS:
    void initTestCase() {
        schema_.name = "jobs";
        field("hours", Type::Decimal, 2);
        field("number", Type::Integer);
        field("work", Type::Text);
        field("status", Type::Text, 0, {"Quoted", "In hand", "Done"});
        field("due_on", Type::Date);
        field("seen_at", Type::Timestamp);
        field("paid", Type::Boolean);
        field("odd name", Type::Integer);
        field("picture", Type::Binary);
    }

    void entries_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<QString>("entry");
        QTest::addColumn<QString>("rule");  // "!offset words" when refused
        QTest::addColumn<QString>("sentence");
        const auto row = [](const char* field, const char* entry, const char* rule, const char* sentence) {
            QTest::newRow(qPrintable(QString("%1: %2").arg(field, entry))) << field << entry << rule << sentence;
        };
        row("hours", "> 4", "hours > 4", "Hours is over 4");
        row("hours", "2..8", "hours BETWEEN 2 AND 8", "Hours is from 2 to 8");
        row("hours", "..8", "hours <= 8", "Hours is at most 8");
        row("hours", "4", "hours = 4", "Hours is 4");
        row("hours", "1, 2.5", "hours IN (1, 2.5)", "Hours is 1 or 2.5");
        row("hours", "not 4", "hours <> 4", "Hours is not 4");
        row("hours", "-3", "hours = -3", "Hours is −3");
        row("number", "top 08", "top(number, 8)", "Number is among the largest 8");
        row("number", "top percent +5.", "top_percent(number, 5)", "Number is in the top percent 5");
        row("number", "bottom percent 1e1", "bottom_percent(number, 10)", "Number is in the bottom percent 10");
        row("number", "top percent", "!0 top percent needs its", "");
        row("hours", "empty", "hours IS NULL", "Hours is empty");
        row("hours", "not empty", "hours IS NOT NULL", "Hours is not empty");
        row("hours", "> x", "!2 is not an exact decimal", "");
        row("hours", ">", "!0 A value is expected after >", "");
        row("hours", "1..x", "!3 is not", "");
        row("work", "hull", "LOWER(work) LIKE '%hull%'", "Work contains hull");
        row("work", "Otter*", "LOWER(work) LIKE LOWER('Otter%')", "Work begins with Otter");
        row("work", "*ing", "LOWER(work) LIKE '%ing'", "Work ends with ing");
        row("work", "= Step mast", "LOWER(work) LIKE LOWER('Step mast')", "Work is Step mast");
        row("work", "not hull", "NOT (LOWER(work) LIKE '%hull%')", "Work does not contain hull");
        row("work", "a, b", "LOWER(work) LIKE '%a%' OR LOWER(work) LIKE '%b%'", "Work contains a or Work contains b");
        row("work", "100%", "LOWER(work) LIKE '%100\\%%'", "Work contains 100%");
        row("work", "it's", "LOWER(work) LIKE '%it''s%'", "Work contains it's");
        row("work", "; DROP TABLE jobs", "LOWER(work) LIKE LOWER('%; DROP TABLE jobs%')",
            "Work contains ; DROP TABLE jobs");
        row("status", "done", "status = 'Done'", "Status is Done");
        row("status", "≠ Done", "status <> 'Done'", "Status is not Done");
        row("status", "quoted, done", "status IN ('Quoted', 'Done')", "Status is Quoted or Done");
        row("status", "hand", "LOWER(status) LIKE '%hand%'", "Status contains hand");
        row("due_on", "24 Nov 2026", "due_on = DATE '2026-11-24'", "Due on is 24 Nov 2026");
        row("due_on", ">= 2026-11-24", "due_on >= DATE '2026-11-24'", "Due on is from 24 Nov 2026");
        row("due_on", "today", "due_on = CURRENT_DATE", "Due on is today");
        row("due_on", "This week",
            "due_on BETWEEN CURRENT_DATE - EXTRACT(ISODOW FROM CURRENT_DATE) + 1 AND CURRENT_DATE - EXTRACT(ISODOW "
            "FROM CURRENT_DATE) + 7",
            "Due on is this week");
        row("due_on", "31 Feb 2026", "!0 is not a date", "");
        row("seen_at", "2026-11-24",
            "seen_at >= TIMESTAMP '2026-11-24 00:00:00' AND seen_at < TIMESTAMP '2026-11-25 00:00:00'",
            "Seen at is from 24 Nov 2026 00:00 and Seen at is before 25 Nov 2026 00:00");
        row("seen_at", "last month",
            "EXTRACT(YEAR FROM CAST(seen_at AS DATE)) = EXTRACT(YEAR FROM CURRENT_DATE - INTERVAL '1' MONTH) AND "
            "EXTRACT(MONTH FROM CAST(seen_at AS DATE)) = EXTRACT(MONTH FROM CURRENT_DATE - INTERVAL '1' MONTH)",
            "Seen at is last month");
        row("seen_at", "2026-11-24, 2026-11-26 08:30",
            "(seen_at >= TIMESTAMP '2026-11-24 00:00:00' AND seen_at < TIMESTAMP '2026-11-25 00:00:00') OR seen_at = "
            "TIMESTAMP '2026-11-26 08:30:00'",
            "(Seen at is from 24 Nov 2026 00:00 and Seen at is before 25 Nov 2026 00:00) or Seen at is 26 Nov 2026 "
            "08:30");
        row("paid", "no", "NOT paid", "Paid: no");
        row("paid", "maybe", "!0 Yes or no", "");
        row("odd name", "> 1", "\"odd name\" > 1", "Odd name is over 1");
        row("picture", "empty", "picture IS NULL", "Picture is empty");
        row("picture", "x", "!0 Only \"empty\"", "");
    }
    void entries() {
        QFETCH(QString, field);
        QFETCH(QString, entry);
        QFETCH(QString, rule);
        QFETCH(QString, sentence);
        const auto condition = conditionFromEntry(entry.toStdString(), design_, schema_, field.toStdString());
        if (rule.startsWith('!')) {
            QVERIFY(!condition.ok());
            QVERIFY2(QString::fromStdString(condition.error().message).contains(rule.section(' ', 1)),
                     condition.error().message.c_str());
            QCOMPARE(static_cast<int>(condition.error().where->offset), rule.mid(1).section(' ', 0, 0).toInt());
            return;
        }
        QVERIFY2(condition.ok(), condition.ok() ? "" : condition.error().message.c_str());
        const std::string written = ruleOf(*condition, schema_);
        QCOMPARE(QString::fromStdString(written), rule);
        QCOMPARE(QString::fromStdString(sentenceOf(*condition, schema_, design_)), sentence);
        // The rule means the same condition again.
        if (field != "picture") {
            const auto program = compileRule(written, schema_, vocabularyOf(design_), {RuleKind::Boolean, {}});
            QVERIFY2(program.ok(), program.ok() ? "" : program.error().message.c_str());
            QCOMPARE(ruleOf(conditionFrom(written, schema_, design_), schema_), written);
            QCOMPARE(QString::fromStdString(sentenceOf(conditionFrom(written, schema_, design_), schema_, design_)),
                     sentence);
        }
        // Where a filter row has a form for it, that form gives it back.
        const std::string again = entryOf(*condition, design_, schema_);
        if (!again.empty())
            QCOMPARE(ruleOf(*conditionFromEntry(again, design_, schema_, field.toStdString()), schema_), written);
    }

    /// What is pasted brings tabs and line ends, which numbers are read over: none stays in a condition.
    void whiteSpaceAroundMeansNothing() {
        const std::pair<const char*, const char*> entries[] = {
            {"hours", "> 4"},          {"hours", "2..8"},       {"hours", "1, 2.5"}, {"hours", "4"},
            {"hours", "top 5"},        {"hours", "not 4"},      {"hours", "empty"},  {"work", "hull"},
            {"work", "a, b"},          {"work", "= Step mast"}, {"status", "done"},  {"paid", "no"},
            {"due_on", "24 Nov 2026"}, {"due_on", "today"}};
        for (const auto& [field, entry] : entries) {
            const auto plain = conditionFromEntry(entry, design_, schema_, field);
            QVERIFY2(plain.ok(), entry);
            for (const char* around : {"\t", "\t\t", "\n", " \r\n"}) {
                const auto same = conditionFromEntry(around + std::string(entry) + around, design_, schema_, field);
                QVERIFY2(same.ok(), entry);
                QCOMPARE(ruleOf(*same, schema_), ruleOf(*plain, schema_));
            }
        }
    }

    void rulesBecomeGroups_data() {
        QTest::addColumn<QString>("rule");
        QTest::addColumn<QString>("sentence");
        const auto row = [](const char* rule, const char* sentence) { QTest::newRow(rule) << rule << sentence; };
        row("hours > 2 AND (status = 'Done' OR paid)", "Hours is over 2 and (Status is Done or Paid: yes)");
        row("NOT (paid OR hours > 2)", "none of: Paid: yes or Hours is over 2");
        row("hours > number", "Hours is over Number");
        row("is_even(number) AND top(hours, 10)", "Number is even and Hours is among the largest 10");
        row("hours * 2 > 5", "hours * 2 > 5");
        row("NOT is_even(number)", "Number is not even");
        row("hours BETWEEN 1 AND 2 AND paid", "Hours is from 1 to 2 and Paid: yes");
        row("not a rule (", "not a rule (");
    }
    void rulesBecomeGroups() {
        QFETCH(QString, rule);
        QFETCH(QString, sentence);
        const Condition condition = conditionFrom(rule.toStdString(), schema_, design_);
        QCOMPARE(QString::fromStdString(sentenceOf(condition, schema_, design_)), sentence);
        const Condition again = conditionFrom(ruleOf(condition, schema_), schema_, design_);
        QCOMPARE(again, condition);
    }

    /// Random conditions keep their meaning through their rule.
    void randomConditionsReadBack() {
        std::mt19937 random(3);
        const std::function<Condition(int)> make = [&](int depth) {
            if (depth > 0 && random() % 3 == 0) {
                Condition group;
                group.kind = static_cast<ConditionKind>(random() % 3);
                // One child alone is no group when it is read back.
                for (unsigned i = 0; i < 2 + random() % 3; ++i) group.children.push_back(make(depth - 1));
                return group;
            }
            static const char* kEntries[][2] = {{"hours", "> 4"},         {"hours", "1..3"},  {"status", "done"},
                                                {"due_on", "2026-01-31"}, {"paid", "yes"},    {"work", "a*"},
                                                {"number", "not empty"},  {"work", "not x_y"}};
            const auto& [field, entry] = kEntries[random() % std::size(kEntries)];
            return *conditionFromEntry(entry, design_, schema_, field);
        };
        for (int n = 0; n < test::turns(2000); ++n) {
            const Condition condition = make(3);
            const std::string rule = ruleOf(condition, schema_);
            const auto program = compileRule(rule, schema_);
            QVERIFY2(program.ok(), rule.c_str());
            const std::string again = ruleOf(conditionFrom(rule, schema_, design_), schema_);
            QCOMPARE((*compileRule(again, schema_))->dump(), (*program)->dump());
        }
    }

    void hostileEntriesDoNoHarm() {
        std::mt19937 random(9);
        static const char* kPieces[] = {">",
                                        "<",
                                        "=",
                                        "..",
                                        "*",
                                        ",",
                                        "not ",
                                        "empty",
                                        "1",
                                        "'",
                                        "\"",
                                        "%",
                                        "\\",
                                        "2026-02-30",
                                        "\xff",
                                        "é",
                                        " ",
                                        "≥",
                                        "today",
                                        "--",
                                        "/*",
                                        "top ",
                                        "bottom percent ",
                                        "same day ",
                                        "08",
                                        "+5",
                                        "-0",
                                        ".5",
                                        "7.",
                                        "1e2",
                                        "above average",
                                        "2026-11-24",
                                        "\t"};
        for (int n = 0; n < test::turns(20000); ++n) {
            std::string entry;
            for (unsigned k = 0; k < random() % 9; ++k) entry += kPieces[random() % std::size(kPieces)];
            for (const FieldSchema& at : schema_.fields) {
                const auto condition = conditionFromEntry(entry, design_, schema_, at.name);
                if (!condition) {
                    QVERIFY(condition.error().where.has_value());
                    QVERIFY(condition.error().where->offset + condition.error().where->length <= entry.size());
                    continue;
                }
                const std::string rule = ruleOf(*condition, schema_);
                if (rule.empty() || at.type == Type::Binary) continue;
                const auto program = compileRule(rule, schema_, vocabularyOf(design_), {RuleKind::Boolean, {}});
                // "same day 5" and "top today" fit in form; what they lack is said by the operator's own rule.
                const auto calls = [&](const OperatorDesign& op) {
                    return !op.arguments.empty() && rule.find(op.name + "(") != std::string::npos;
                };
                if (!program.ok() && std::ranges::any_of(standardOperators(), calls)) continue;
                QVERIFY2(program.ok(), (entry + " -> " + rule).c_str());
                // Read again, it is what it was: whatever form its numbers were typed in.
                QCOMPARE(ruleOf(conditionFrom(rule, schema_, design_), schema_), rule);
            }
        }
        QVERIFY(!conditionFromEntry(std::string(20000, 'a'), design_, schema_, "work").ok());
    }

    void designsKeepConditionsAndKeys() {
        Design design = design_;
        design.filter = {{"hours > 2", "hours", "> 2", true}, {"is_even(number)", "", "", false}};
        design.sort = {{"due_on", Direction::Descending, Empties::First}};
        SortDesign key;
        key.rule = "EXTRACT(MONTH FROM due_on) * 100 + EXTRACT(DAY FROM due_on)";
        key.title = "due day";
        design.sort.push_back(key);
        SortDesign stated;
        stated.field = "status";
        stated.values = {"Done", "Quoted"};
        stated.natural = true;
        stated.strength = TextStrength::Letters;
        design.sortRules = {{"by state", {stated}}};
        design.columns[8].sortBy = "by state";
        design.operators = {{"long", "is long", {"least"}, "hours > least", {Type::Decimal}}};
        design.parameters = {{"owner", "Owner", Type::Text, ""}};
        design.grid.filterRow = true;
        const auto read = designFromJson(toJson(design));
        QVERIFY(read.ok());
        QVERIFY2(read->findings.empty(), read->findings.empty() ? "" : read->findings[0].message.c_str());
        QVERIFY(read->design == design);
        // A picture column sorts by the rule it was given.
        Design sorted = design;
        sorted.sort = {{"picture", Direction::Ascending, Empties::Last}};
        sorted.filter = {{"hous > 2", "", "", true}, {"long(hours, 5)", "", "", true}};
        const ViewPlan plan = planOf(sorted, schema_);
        QCOMPARE(plan.sort.size(), std::size_t{1});
        QCOMPARE(plan.sort[0].values.size(), std::size_t{2});
        QCOMPARE(plan.filter.size(), std::size_t{1});
        QCOMPARE(plan.findings.size(), std::size_t{1});
        QVERIFY(plan.findings[0].message.find("Did you mean hours?") != std::string::npos);
        QVERIFY(mend(sorted, plan.findings[0]));
        QVERIFY(planOf(sorted, schema_).findings.empty());
    }

    /// An operator redefined under its name makes its conditions and keys other ones, though their text is the same.
    void meaningCountsNotTheText() {
        Design design = design_;
        design.operators = {{"long", "is long", {}, "value > 5", {Type::Decimal}}};
        design.filter = {{"long(hours)", "", "", true}};
        const ViewPlan before = planOf(design, schema_);
        QVERIFY(planOf(design, schema_).filter == before.filter);
        design.operators[0].rule = "value > 6";
        QVERIFY(planOf(design, schema_).filter != before.filter);
        design.operators[0].rule = "RANK() OVER (ORDER BY value) > 5";
        const ViewPlan up = planOf(design, schema_);
        design.operators[0].rule = "RANK() OVER (ORDER BY value DESC) > 5";
        QVERIFY(planOf(design, schema_).filter != up.filter);
    }
};

QTEST_APPLESS_MAIN(ConditionTest)
#include "condition_test.moc"
