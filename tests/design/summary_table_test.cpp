// SPDX-License-Identifier: MIT
// The summary table: rows of groups, one level across with a total of its own, turned around, refused when too wide,
// and the way through a database of its own and back.
#include <QtTest>

#include <map>

#include "core/columns/column_builder.h"
#include "core/design/plan.h"
#include "core/design/summary_table.h"
#include "core/formats/text_format.h"
#include "core/sources/objects/table_source.h"

using namespace jollyrow;

class SummaryTableTest : public QObject {
    Q_OBJECT
    static constexpr int kRows = 300;
    std::shared_ptr<Table> table_ = std::make_shared<Table>();
    std::vector<std::string> status_, dock_;
    std::vector<std::int64_t> hours_;

    void add(const char* name, Type type, int scale, ColumnChunk& chunk) {
        FieldSchema field;
        field.name = name;
        field.type = type;
        field.scale = scale;
        table_->schema.fields.push_back(field);
        ColumnBuilder builder(type, scale);
        builder.append(chunk);
        table_->columns.push_back(builder.share());
    }
    Design design() const {
        Design made;
        GroupDesign status, dock;
        status.key.field = "status";
        dock.key.field = "dock";
        made.groups = {status, dock};
        SummaryDesign count, sum;
        count.name = "n";
        count.column = "status";
        count.show = SummaryShow::Count;
        sum.name = "h";
        sum.column = "hours";
        made.summaries = {count, sum};
        return made;
    }
    Result<SummaryTable> make(const Design& from, const SummaryTableWanted& wanted) const {
        const ViewPlan plan = planOf(from, table_->schema);
        EvaluationInput records;
        records.table = table_;
        return summaryTable(*plan.grouping, from, nullptr, records, wanted, Cancel());
    }
    static std::string text(const Table& table, std::size_t row, std::size_t column) {
        std::string out;
        appendPlain(out, table.columns[column]->value(static_cast<SourceRow>(row)));
        return out;
    }
    /// Hundredths of hours of the records that fit; "" = any.
    std::int64_t sumOf(const std::string& status, const std::string& dock) const {
        std::int64_t sum = 0;
        for (std::size_t i = 0; i < kRows; ++i)
            if ((status.empty() || status_[i] == status) && (dock.empty() || dock_[i] == dock)) sum += hours_[i];
        return sum;
    }
    static std::string decimal(std::int64_t hundredths) {
        std::string out;
        appendPlain(out, Value(Decimal{hundredths, 2}));
        return out;
    }

  private Q_SLOTS:
    void initTestCase() {
        table_->schema.name = "jobs";
        table_->rows = kRows;
        ColumnChunk status, dock, hours;
        status.reset(Type::Text, 0, false);
        dock.reset(Type::Text, 0, false);
        hours.reset(Type::Decimal, 2, false);
        for (int i = 0; i < kRows; ++i) {
            status_.push_back(i % 3 == 0 ? "Booked" : i % 3 == 1 ? "Done" : "In hand");
            // Not every pair is there.
            dock_.push_back(i % 3 == 1 ? "B dock" : i % 7 < 3 ? "A dock" : "Shed 2");
            hours_.push_back(i * 37 % 1000);
            status.addText(status_.back());
            dock.addText(dock_.back());
            hours.addInteger(hours_.back());
        }
        add("status", Type::Text, 0, status);
        add("dock", Type::Text, 0, dock);
        add("hours", Type::Decimal, 2, hours);
    }

    void aRowForEachInnermostGroup() {
        const auto made = make(design(), {});
        QVERIFY2(made.ok(), made ? "" : made.error().message.c_str());
        const Table& table = *made->table;
        QCOMPARE(table.rows, std::size_t{5});
        QCOMPARE(made->design.columns.size(), std::size_t{4});
        QCOMPARE(made->design.columns[3].heading, std::string("Sum of Hours"));
        for (std::size_t row = 0; row < table.rows; ++row)
            QCOMPARE(text(table, row, 3), decimal(sumOf(text(table, row, 0), text(table, row, 1))));
        QVERIFY(planOf(made->design, table.schema).findings.empty());
    }

    void oneLevelAcross_data() {
        QTest::addColumn<int>("across");
        QTest::newRow("outer") << 0;
        QTest::newRow("inner") << 1;
    }
    void oneLevelAcross() {
        QFETCH(int, across);
        const auto made = make(design(), {{static_cast<std::size_t>(across)}, false});
        QVERIFY2(made.ok(), made ? "" : made.error().message.c_str());
        const Table& table = *made->table;
        const Design& shown = made->design;
        QCOMPARE(table.rows, std::size_t{3});
        QCOMPARE(shown.tiers.size(), std::size_t{4});  // three groups and all
        QCOMPARE(shown.tiers.back().heading, std::string("All"));
        for (std::size_t row = 0; row < table.rows; ++row)
            for (std::size_t c = 2; c < shown.columns.size(); c += 2) {
                const TierDesign* tier = shown.findTier(shown.columns[c].tier);
                QVERIFY(tier && shown.columns[c].heading == "Sum of Hours");
                const std::string key = text(table, row, 0), other = tier->heading == "All" ? "" : tier->heading;
                const std::int64_t sum = across == 0 ? sumOf(other, key) : sumOf(key, other);
                // A pair that is nowhere has no figure rather than a nought.
                QCOMPARE(text(table, row, c), sum == 0 ? std::string() : decimal(sum));
            }
        QVERIFY(planOf(shown, table.schema).findings.empty());
    }

    /// Within each other: a tier for each group of the outer one, in it a tier for each of the inner one that it has.
    void severalLevelsAcross_data() {
        QTest::addColumn<bool>("turnedOrder");
        QTest::newRow("as they are grouped") << false;
        QTest::newRow("the inner one outside") << true;
    }
    void severalLevelsAcross() {
        QFETCH(bool, turnedOrder);
        using Levels = std::vector<std::size_t>;
        const auto made = make(design(), {turnedOrder ? Levels{1, 0} : Levels{0, 1}, false});
        QVERIFY2(made.ok(), made ? "" : made.error().message.c_str());
        const Table& table = *made->table;
        const Design& shown = made->design;
        QCOMPARE(table.rows, std::size_t{1});
        QCOMPARE(shown.columns.size(), std::size_t{12});  // two figures of five pairs that there are, and of all
        QCOMPARE(shown.tiers.size(), std::size_t{3 + 5 + 1});
        for (std::size_t c = 1; c < shown.columns.size(); c += 2) {
            const TierDesign* inner = shown.findTier(shown.columns[c].tier);
            QVERIFY(inner);
            const TierDesign* outer = inner->parent.empty() ? nullptr : shown.findTier(inner->parent);
            QCOMPARE(outer == nullptr, inner->heading == "All");
            const std::string a = outer ? outer->heading : "", b = outer ? inner->heading : "";
            QCOMPARE(text(table, 0, c), decimal(turnedOrder ? sumOf(b, a) : sumOf(a, b)));
        }
        QVERIFY(planOf(shown, table.schema).findings.empty());
        // With one figure the inner groups are the columns themselves.
        Design one = design();
        one.summaries.erase(one.summaries.begin());
        const auto narrow = make(one, {{0, 1}, false});
        QVERIFY(narrow.ok());
        QCOMPARE(narrow->design.columns.size(), std::size_t{6});
        QCOMPARE(narrow->design.tiers.size(), std::size_t{3});
        QVERIFY(narrow->design.columns.back().tier.empty());
        QVERIFY(!make(design(), {{0, 7}, false}).ok());
    }

    void theDesignSaysWhatStandsAcross() {
        Design from = design();
        const auto wanted = [&] { return summaryTableOf(*planOf(from, table_->schema).grouping, from); };
        QVERIFY(wanted().across.empty() && !wanted().turned);
        from.groups[1].across = true;
        from.grid.turnedSummary = true;
        QVERIFY(wanted().across == std::vector<std::size_t>{1} && wanted().turned);
        // A level that cannot be had is none of the table's.
        GroupDesign lost;
        lost.key.field = "nowhere";
        lost.across = true;
        from.groups.insert(from.groups.begin(), lost);
        QVERIFY(wanted().across == std::vector<std::size_t>{1});
    }

    void turnedAround() {
        const auto made = make(design(), {{}, true});
        QVERIFY2(made.ok(), made ? "" : made.error().message.c_str());
        QCOMPARE(made->table->rows, std::size_t{2});
        QCOMPARE(made->design.columns.size(), std::size_t{6});
        QCOMPARE(made->design.columns[1].heading, std::string("Booked · A dock"));
        QCOMPARE(text(*made->table, 1, 0), std::string("Sum of Hours"));
        QCOMPARE(text(*made->table, 1, 1), decimal(sumOf("Booked", "A dock")));
    }

    void whatCannotBeIsSaid() {
        Design nothing = design();
        nothing.summaries.clear();
        QVERIFY(!make(nothing, {}).ok());
        QVERIFY(!make(design(), {{7}, false}).ok());
        Design wide = design();
        wide.groups[1].key.field = "hours";
        const auto refused = make(wide, {{1}, false});
        QVERIFY(!refused.ok());
        QVERIFY(QString::fromStdString(refused.error().message).contains("200 are the most"));
    }

    void itGoesIntoADatabaseAndBack() {
        const auto made = make(design(), {{1}, false});
        QTemporaryDir folder;
        const std::string path = folder.filePath("summary.db").toStdString();
        QVERIFY(writeTable(*made->table, path).ok());
        const auto source = openSource(path);
        QVERIFY(source.ok());
        LoadRequest request;
        request.binding.table = "summary";
        const auto read = (*source)->load(request, Cancel());
        QVERIFY2(read.ok(), read ? "" : read.error().message.c_str());
        QCOMPARE((*read)->rows, made->table->rows);
        for (std::size_t row = 0; row < made->table->rows; ++row)
            for (std::size_t c = 0; c < made->table->columns.size(); ++c)
                QCOMPARE(text(**read, row, c), text(*made->table, row, c));
        QVERIFY(planOf(made->design, (*read)->schema).findings.empty());
        QVERIFY(!writeTable(*made->table, folder.filePath("no/such/folder.db").toStdString()).ok());
    }
};

QTEST_APPLESS_MAIN(SummaryTableTest)
#include "summary_table_test.moc"
