// SPDX-License-Identifier: MIT
// A design's groups and summaries: the rules they come down to, what groups and figures are called, what is refused and
// how, and that the file keeps all of it.
#include <QtTest>

#include "core/columns/civil.h"
#include "core/columns/column_builder.h"
#include "core/design/design_file.h"
#include "core/design/grouping.h"
#include "core/design/plan.h"
#include "core/rules/conversion.h"

using namespace jollyrow;

class GroupingTest : public QObject {
    Q_OBJECT
    TableSchema schema_;
    std::shared_ptr<const Table> table_;

    void add(const char* name, Type type, int scale, const std::vector<const char*>& values) {
        FieldSchema field;
        field.name = name;
        field.type = type;
        field.scale = scale;
        schema_.fields.push_back(field);
        auto table = std::make_shared<Table>(*table_);
        table->rows = values.size();
        ColumnChunk chunk;
        chunk.reset(type, scale, false);
        for (const char* value : values) {
            if (!value)
                chunk.addEmpty();
            else if (type == Type::Text)
                chunk.addText(value);
            else if (type == Type::Date)
                chunk.addInteger(*parseIsoDate(value));
            else
                chunk.addInteger(std::stoll(value));
        }
        ColumnBuilder builder(type, scale);
        builder.append(chunk);
        table->columns.push_back(builder.share());
        table->schema = schema_;
        table_ = table;
    }

  private Q_SLOTS:
    void initTestCase() {
        schema_.name = "jobs";
        table_ = std::make_shared<Table>();
        add("work", Type::Text, 0, {"Antifoul", "rewire", "Rehang", nullptr, "", "Ärmel", "antifoul"});
        // Hundredths of an hour.
        add("hours", Type::Decimal, 2, {"0", "24999", "25000", "50000", nullptr, "-1", "49999"});
        // A Monday, today, that week's Sunday, next week, a month off, none, yesterday.
        add("due", Type::Date, 0,
            {"2026-11-23", "2026-11-25", "2026-11-29", "2026-12-01", "2027-01-02", nullptr, "2026-11-24"});
        FieldSchema picture;
        picture.name = "picture";
        picture.type = Type::Binary;
        schema_.fields.push_back(picture);
        auto table = std::make_shared<Table>(*table_);
        table->schema = schema_;
        table->columns.resize(schema_.fields.size());
        table_ = table;
    }

    void groupsAreCalled_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<int>("by");
        QTest::addColumn<QStringList>("names");
        const auto row = [](const char* name, const char* field, GroupBy by, const QStringList& names) {
            QTest::newRow(name) << QString(field) << static_cast<int>(by) << names;
        };
        row("ranges", "hours", GroupBy::Ranges, {"below 0", "0 to 250", "250 to 500", "500 and above", "(empty)"});
        row("letters", "work", GroupBy::FirstLetters, {"(no text)", "A", "Ä", "R", "(empty)"});
        row("value", "work", GroupBy::EachValue,
            {"(no text)", "antifoul", "Antifoul", "Ärmel", "Rehang", "rewire", "(empty)"});
        row("year", "due", GroupBy::Year, {"2026", "2027", "(empty)"});
        row("quarter", "due", GroupBy::Quarter, {"Q4 2026", "Q1 2027", "(empty)"});
        row("month", "due", GroupBy::Month, {"November 2026", "December 2026", "January 2027", "(empty)"});
        row("week", "due", GroupBy::Week,
            {"week 48, from 23 Nov 2026", "week 49, from 30 Nov 2026", "week 53, from 28 Dec 2026", "(empty)"});
        row("nearness", "due", GroupBy::Nearness,
            {"before today", "today", "later this week", "next week", "later", "(empty)"});
    }
    void groupsAreCalled() {
        QFETCH(QString, field);
        QFETCH(int, by);
        QFETCH(QStringList, names);
        Design design;
        GroupDesign group;
        group.key.field = field.toStdString();
        group.by = static_cast<GroupBy>(by);
        group.cuts = {"0", "250", "500"};
        design.groups = {group};
        const auto planned = plannedGroup(design, 0, schema_, nullptr);
        QVERIFY2(planned.ok(), planned ? "" : planned.error().message.c_str());
        EvaluationInput records;
        records.table = table_;
        records.today = *parseIsoDate("2026-11-25");
        const auto made = groupRows({planned->term}, {}, nullptr, records, Cancel());
        QVERIFY2(made.ok(), made ? "" : made.error().message.c_str());
        QStringList ours;
        for (const GroupNode& node : (*made)->tree->nodes) {
            std::string name;
            planned->names->append(name, (*made)->tree->key(node));
            ours << QString::fromStdString(name);
        }
        QCOMPARE(ours, names);
    }

    void wrongOnesAreSaid_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<int>("by");
        QTest::addColumn<QStringList>("cuts");
        QTest::addColumn<QString>("message");
        const auto row = [](const char* name, const char* field, GroupBy by, const QStringList& cuts,
                            const char* says) {
            QTest::newRow(name) << QString(field) << static_cast<int>(by) << cuts << QString(says);
        };
        row("picture", "picture", GroupBy::EachValue, {}, "makes no groups");
        row("no field", "houns", GroupBy::EachValue, {}, "no column houns");
        row("no cuts", "hours", GroupBy::Ranges, {}, "0, 250, 500");
        row("order", "hours", GroupBy::Ranges, {"250", "0"}, "Cut points rise: 0 does not stand after 250");
        row("equal", "hours", GroupBy::Ranges, {"0", "0.00"}, "Cut points rise");
        row("no number", "hours", GroupBy::Ranges, {"0", "many"}, "\"many\" is not");
        row("no day", "due", GroupBy::Ranges, {"2026-02-30"}, "\"2026-02-30\" is not");
        row("text ranges", "work", GroupBy::Ranges, {"a"}, "cannot be grouped by ranges");
        row("month of hours", "hours", GroupBy::Month, {}, "cannot be grouped by month");
        row("letters of a day", "due", GroupBy::FirstLetters, {}, "first letters");
    }
    void wrongOnesAreSaid() {
        QFETCH(QString, field);
        QFETCH(int, by);
        QFETCH(QStringList, cuts);
        QFETCH(QString, message);
        Design design;
        GroupDesign group;
        group.key.field = field.toStdString();
        group.by = static_cast<GroupBy>(by);
        for (const QString& cut : cuts) group.cuts.push_back(cut.toStdString());
        design.groups = {group};
        const ViewPlan plan = planOf(design, schema_);
        QVERIFY(plan.grouping->groups.empty());
        QCOMPARE(plan.findings.size(), std::size_t{1});
        QVERIFY2(QString::fromStdString(plan.findings[0].message).contains(message), plan.findings[0].message.c_str());
        QVERIFY(mend(design, plan.findings[0]));
        QVERIFY(design.groups.empty());
    }

    /// A column that groups already groups by another part of it next, which stands where it makes sense.
    void nextLevelsOfAColumn_data() {
        QTest::addColumn<QString>("field");
        QTest::addColumn<QList<int>>("there");
        QTest::addColumn<QList<int>>("then");
        const auto row = [](const char* field, std::vector<GroupBy> there, std::vector<GroupBy> then) {
            QList<int> before, after;
            QString name = field;
            for (const GroupBy by : there) before << static_cast<int>(by), name += QString(" ") + words(by).c_str();
            for (const GroupBy by : then) after << static_cast<int>(by);
            QTest::newRow(qPrintable(name)) << QString(field) << before << after;
        };
        using G = GroupBy;
        row("due", {}, {G::Month});
        row("due", {G::Month}, {G::Month, G::Day});
        row("due", {G::Year}, {G::Year, G::Month});
        row("due", {G::Year, G::Month}, {G::Year, G::Month, G::Day});
        row("due", {G::Day}, {G::Month, G::Day});
        row("work", {}, {G::EachValue});
        row("work", {G::FirstLetters}, {G::FirstLetters, G::EachValue});
        row("work", {G::EachValue}, {G::FirstLetters, G::EachValue});
        row("hours", {G::Ranges}, {G::Ranges, G::EachValue});
        row("work", {G::FirstLetters, G::EachValue}, {G::FirstLetters, G::EachValue});  // nothing else is left
    }
    void nextLevelsOfAColumn() {
        QFETCH(QString, field);
        QFETCH(QList<int>, there);
        QFETCH(QList<int>, then);
        Design design;
        for (const int by : there) {
            GroupDesign level;
            level.key.field = field.toStdString();
            level.by = static_cast<GroupBy>(by);
            design.groups.push_back(level);
        }
        addGroup(design, newGroup(design, table_->schema, field.toStdString()));
        QList<int> levels;
        for (const GroupDesign& level : design.groups) levels << static_cast<int>(level.by);
        QCOMPARE(levels, then);
    }

    void figuresAreWritten_data() {
        QTest::addColumn<int>("show");
        QTest::addColumn<QString>("column");
        QTest::addColumn<QString>("caption");
        QTest::addColumn<QString>("text");
        const auto row = [](SummaryShow show, const char* column, const char* caption, const char* text) {
            QTest::newRow(qPrintable(QString("%1 of %2 %3").arg(words(show, Type::Integer).c_str(), column, caption)))
                << static_cast<int>(show) << QString(column) << QString(caption) << QString(text);
        };
        row(SummaryShow::Sum, "hours", "", "1\u2009499.97");
        row(SummaryShow::Mean, "hours", "", "250.00");  // 249.995, half away from zero
        row(SummaryShow::Minimum, "due", "from {value}", "from 23 Nov 2026");
        row(SummaryShow::Range, "due", "{value} days", "40 days");
        row(SummaryShow::Count, "work", "{value, plural, one{# job} other{# jobs}}", "7 jobs");
        row(SummaryShow::Count, "work", "{value, plural, one{{value} job} other{{value} jobs}}", "7 jobs");
        row(SummaryShow::Blank, "hours", "", "1");
        row(SummaryShow::Distinct, "work", "", "6");
        row(SummaryShow::Median, "hours", "", "250.00");
        row(SummaryShow::Last, "work", "", "antifoul");
        row(SummaryShow::Maximum, "hours", "", "500.00");
    }
    void figuresAreWritten() {
        QFETCH(int, show);
        QFETCH(QString, column);
        QFETCH(QString, caption);
        QFETCH(QString, text);
        Design design;
        SummaryDesign summary;
        summary.name = "figure";
        summary.column = column.toStdString();
        summary.show = static_cast<SummaryShow>(show);
        summary.caption = caption.toStdString();
        design.summaries = {summary};
        const auto planned = plannedSummary(design, 0, schema_, nullptr);
        QVERIFY2(planned.ok(), planned ? "" : planned.error().message.c_str());
        EvaluationInput records;
        records.table = table_;
        const auto made = groupRows({}, {planned->spec}, nullptr, records, Cancel());
        std::string plain, shown;
        appendFigure(plain, (*made)->total(0), *planned->formatter);
        if (planned->caption) planned->caption->append(shown, {{plain, plainValue((*made)->total(0).value)}});
        QCOMPARE(QString::fromStdString(planned->caption ? shown : plain), text);
    }

    void figuresThatMakeNoSenseAreSaid() {
        Design design;
        SummaryDesign sum;
        sum.name = "a";
        sum.column = "work";
        SummaryDesign rule = sum;
        rule.name = "b";
        rule.show = SummaryShow::Rule;
        rule.rule = "hours + 1";
        SummaryDesign share = sum;
        share.name = "c";
        share.show = SummaryShow::Minimum;
        share.as = SummaryAs::ShareOfAll;
        design.summaries = {sum, rule, share};
        GroupDesign group;
        group.key.field = "work";
        group.orderBy = "a";
        design.groups = {group};
        const ViewPlan plan = planOf(design, schema_);
        QCOMPARE(plan.findings.size(), std::size_t{4});
        QVERIFY(
            QString::fromStdString(plan.findings[0].message).contains("sum of work makes no sense: it holds a text"));
        QVERIFY(QString::fromStdString(plan.findings[1].message).contains("A summary is expected"));
        QVERIFY(QString::fromStdString(plan.findings[2].message).contains("made of numbers"));
        QVERIFY(QString::fromStdString(plan.findings[3].message).contains("stand by cannot be had"));
    }

    void theFileKeepsAll() {
        Design design;
        GroupDesign group;
        group.key.field = "hours";
        group.key.direction = Direction::Descending;
        group.key.values = {"1", "2"};
        group.by = GroupBy::Ranges;
        group.cuts = {"0", "2.5"};
        group.letters = 3;
        group.orderBy = "n";
        group.caption = "{heading}: {value}";
        group.footer = true;
        group.footerCaption = "{value} in all";
        group.open = false;
        group.height = 30;
        group.colour = "#aabbcc";
        group.weight = LineWeight::Regular;
        group.textColour = "#123123";
        group.footerHeight = 44;
        group.footerColour = "#012345";
        group.footerTextColour = "#321321";
        group.footerWeight = LineWeight::Bold;
        design.groups = {group};
        SummaryDesign summary;
        summary.name = "n";
        summary.column = "work";
        summary.show = SummaryShow::Percentile;
        summary.of = "hours";
        summary.rule = "SUM(hours)";
        summary.weight = "hours";
        summary.percent = 12.5;
        summary.where = "hours > 1";
        summary.as = SummaryAs::RunningTotal;
        summary.caption = "{value} h";
        summary.format.pattern = "0.0";
        summary.format.style = FormatStyle::Pattern;
        summary.onGroups = false;
        summary.onFooters = true;
        summary.onTotal = false;
        design.summaries = {summary};
        design.grid.groupIndent = 20;
        design.grid.stickyGroups = false;
        design.grid.totalFiltered = false;
        design.grid.totalHeight = 50;
        design.grid.totalColour = "#fedcba";
        design.grid.totalTextColour = "#0a0b0c";
        design.grid.changedBy = "saved_by";
        design.grid.totalWeight = LineWeight::Medium;
        design.grid.totalAll = design.grid.totalSelected = true;
        const auto read = designFromJson(toJson(design));
        QVERIFY(read.ok());
        QVERIFY(read->findings.empty());
        QVERIFY(read->design == design);
        const auto broken =
            designFromJson(R"({"jollyrow":1,"grid":{"totalColour":"blue"},)"
                           R"("groups":[{"cuts":["1"]},{"field":"a","by":"b","colour":"red","groupBy":"moon"}],)"
                           R"("summaries":[{"show":"sum"},{"name":"x","percent":200},{"name":"x"}]})");
        QCOMPARE(broken->design.groups.size(), std::size_t{1});
        QCOMPARE(broken->design.summaries.size(), std::size_t{1});
        QCOMPARE(broken->findings.size(), std::size_t{8});
    }
};

QTEST_APPLESS_MAIN(GroupingTest)
#include "grouping_test.moc"
