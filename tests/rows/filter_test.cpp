// SPDX-License-Identifier: MIT
// The Rowline's Filter and Sort stages against a plain filter and stable sort record by record, over random edits, so
// that what is kept and moved between runs is proven equal to what is made anew; sort terms of every kind; pick lists.
#include <QtTest>

#include <numeric>
#include <random>

#include "core/columns/civil.h"
#include "core/rows/rowline.h"
#include "core/rules/sort_list.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;

namespace {

FilterTerm condition(const std::string& rule, const TableSchema& schema) {
    BindOptions options;
    options.expected = RuleKind::Boolean;
    const auto program = compileRule(rule, schema, {}, options);
    if (!program) qFatal("%s", program.error().message.c_str());
    return {rule, *program};
}

QString ids(const Snapshot& snapshot) {
    QStringList out;
    for (std::int64_t n = 0; n < snapshot.lineCount(); ++n) {
        const Value id = snapshot.value(snapshot.line(ViewLine{n}).row, FieldIndex{0});
        out << QString::number(std::get<std::int64_t>(id));
    }
    return out.join(' ');
}

}  // namespace

class FilterTest : public QObject {
    Q_OBJECT
    std::shared_ptr<const Table> table_ = test::tableOf(test::hardFields());

    RowlineInput input(const QString& where, const QString& sort) const {
        RowlineInput in;
        in.table = table_;
        in.edits = std::make_shared<const Edits>();
        for (const QString& part : where.split(';', Qt::SkipEmptyParts))
            in.filter.push_back(condition(part.trimmed().toStdString(), table_->schema));
        const auto terms = parseSortList(sort.toStdString(), table_->schema);
        if (!terms) qFatal("%s", terms.error().message.c_str());
        in.sort = *terms;
        return in;
    }

  private Q_SLOTS:
    void rows_data() {
        QTest::addColumn<QString>("where");
        QTest::addColumn<QString>("sort");
        QTest::addColumn<QString>("expected");
        const auto row = [](const char* where, const char* sort, const char* expected) {
            QTest::newRow(qPrintable(QString("%1 / %2").arg(where, sort))) << where << sort << expected;
        };
        row("i > 5", "", "4 8 11 13 15");
        row("i > 5", "i DESC", "8 11 15 4 13");
        row("i > 5; j > 0", "", "8 11 13");
        row("NOT b", "id DESC", "15 12 11 8 5 2");
        row("b IS NULL", "", "3 7 14");
        row("100 / j > 10", "", "1 3 5 7 8 11 12 13 16");  // failed and empty ones do not pass
        row("", "EXTRACT(MONTH FROM dt) * 100 + EXTRACT(DAY FROM dt) NULLS FIRST, id",
            "5 14 8 12 6 10 2 7 15 11 1 13 3 9 16 4");
        row("FALSE", "id", "");
    }
    void rows() {
        QFETCH(QString, where);
        QFETCH(QString, sort);
        QFETCH(QString, expected);
        Rowline rowline;
        const auto snapshot = rowline.run(input(where, sort), Cancel());
        QVERIFY2(snapshot.ok(), snapshot.ok() ? "" : snapshot.error().message.c_str());
        if (where == "" && sort.startsWith("EXTRACT")) {
            // Against the rule's own value.
            std::vector<std::int64_t> days;
            for (std::int64_t n = 0; n < (*snapshot)->lineCount(); ++n) {
                const Value v = (*snapshot)->value((*snapshot)->line(ViewLine{n}).row, *table_->schema.find("dt"));
                const CivilDate date = isEmpty(v) ? CivilDate{0, 0, 0} : civilFromDays(std::get<Date>(v).days);
                days.push_back(static_cast<std::int64_t>(date.month) * 100 + date.day);
            }
            QVERIFY(std::is_sorted(days.begin(), days.end()));
            QCOMPARE(days.size(), table_->rows);
            return;
        }
        QCOMPARE(ids(**snapshot), expected);
        if (where == "100 / j > 10") {
            QCOMPARE((*snapshot)->filter.failed, std::int64_t{2});
            QCOMPARE((*snapshot)->filter.failure, CellState::DivisionByZero);
        }
        QCOMPARE((*snapshot)->filter.rowsOut, (*snapshot)->lineCount());
    }

    void ordersOfTheirOwn() {
        Rowline rowline;
        RowlineInput in = input("", "");
        SortTerm& term = in.sort.emplace_back();
        term.field = table_->schema.find("s");
        term.values = {"été", "Wren", "B2"};
        QCOMPARE(ids(**rowline.run(in, Cancel())), QString("8 1 10 2 3 4 5 7 9 11 12 13 14 15 16 6"));
        term.direction = Direction::Descending;  // turned around; what is not named stays last
        QCOMPARE(ids(**rowline.run(in, Cancel())), QString("10 1 8 2 3 4 5 7 9 11 12 13 14 15 16 6"));
        term.values.clear();
        term.direction = Direction::Ascending;
        term.comparator = std::make_shared<const ValueComparator>(
            ValueComparator{"by length", [](const Value& a, const Value& b) {
                                return static_cast<int>(std::get<std::string>(a).size()) -
                                       static_cast<int>(std::get<std::string>(b).size());
                            }});
        const auto byLength = rowline.run(in, Cancel());
        std::size_t last = 0;
        for (std::int64_t n = 0; n + 1 < (*byLength)->lineCount(); ++n) {
            const auto text =
                std::get<std::string>((*byLength)->value((*byLength)->line(ViewLine{n}).row, *term.field));
            QVERIFY(text.size() >= last);
            last = text.size();
        }
        term.comparator = nullptr;
        in.filter.push_back(condition("s IN ('B2', 'B10')", table_->schema));
        QCOMPARE(ids(**rowline.run(in, Cancel())), QString("9 10"));
        term.text.natural = true;
        QCOMPARE(ids(**rowline.run(in, Cancel())), QString("10 9"));
        in.filter = {condition("LOWER(s) IN ('wren', 'été', 'étoile')", table_->schema)};
        term.text = {};
        term.text.strength = TextStrength::IgnoreCase;
        in.sort.push_back(SortTerm{FieldIndex{0}, nullptr});
        QCOMPARE(ids(**rowline.run(in, Cancel())), QString("8 7 1 2 15"));  // wren = Wren: by number
    }

    /// Random edits, filters and keys: what is kept between runs gives what a new Rowline gives.
    void keptProductsEqualNewOnes() {
        const auto table = test::tableOf(test::hardFields(), 40);
        std::mt19937 random(42);
        const std::vector<std::string> conditions = {"d > 1", "LOWER(s) LIKE '%w%'", "i IS NULL OR i > 0",
                                                     "EXTRACT(MONTH FROM dt) < 6", "d > AVG(d) OVER ()"};
        const std::vector<std::string> sorts = {
            "", "d DESC", "s", "s, d DESC NULLS LAST", "CHAR_LENGTH(s), i", "EXTRACT(DAY FROM dt) DESC, s"};
        const std::vector<Value> texts = {std::string("Wren"), std::string("Zebra"), std::string("a new one"), Empty{}};
        Rowline kept;
        RowlineInput in;
        in.table = table;
        in.edits = std::make_shared<const Edits>();
        int moved = 0;
        for (int round = 0; round < 300; ++round) {
            switch (random() % 4) {
                case 0: {
                    in.filter.clear();
                    for (const std::string& rule : conditions)
                        if (random() % 3 == 0) in.filter.push_back(condition(rule, table->schema));
                    break;
                }
                case 1: in.sort = *parseSortList(sorts[random() % sorts.size()], table->schema); break;
                default: {
                    const auto row = static_cast<SourceRow>(random() % table->rows);
                    if (random() % 2 == 0)
                        in.edits = in.edits->with(row, *table->schema.find("s"),
                                                  {texts[random() % texts.size()], Empty{}, EditState::Saved, {}});
                    else
                        in.edits = in.edits->with(row, *table->schema.find("d"),
                                                  {Decimal{static_cast<std::int64_t>(random() % 500) - 100, 2},
                                                   Empty{},
                                                   EditState::Saved,
                                                   {}});
                    ++moved;
                }
            }
            Rowline fresh;
            const auto a = kept.run(in, Cancel()), b = fresh.run(in, Cancel());
            QVERIFY(a.ok() && b.ok());
            QCOMPARE((*a)->lineCount(), (*b)->lineCount());
            for (std::int64_t n = 0; n < (*a)->lineCount(); ++n)
                QVERIFY2((*a)->line(ViewLine{n}).row == (*b)->line(ViewLine{n}).row,
                         qPrintable(QString("round %1, line %2").arg(round).arg(n)));
        }
        QVERIFY(moved > 100);
    }

    void pickLists() {
        Rowline rowline;
        RowlineInput in = input("d > 1; s <> 'Wren'", "");
        const FieldIndex s = *table_->schema.find("s");
        const auto all = rowline.pickList(input("", ""), s, std::nullopt, {}, Cancel());
        QCOMPARE((*all)->records, std::int64_t{16});
        QCOMPARE((*all)->empties, std::int64_t{1});
        const auto wren = std::find_if((*all)->entries.begin(), (*all)->entries.end(),
                                       [](const PickEntry& e) { return e.value == Value(std::string("wren")); });
        QCOMPARE(wren->count, std::int64_t{2});
        // After the other conditions, its own left out.
        const auto others = rowline.pickList(in, s, 1, {}, Cancel());
        const auto own = rowline.run(input("d > 1", ""), Cancel());
        QCOMPARE((*others)->records, (*own)->lineCount());
        std::int64_t counted = (*others)->empties;
        for (const PickEntry& e : (*others)->entries) counted += e.count;
        QCOMPARE(counted, (*others)->records);
        for (const char* name : {"i", "d", "r", "dt", "ts", "b"}) {
            const auto list = rowline.pickList(input("", ""), *table_->schema.find(name), std::nullopt, {}, Cancel());
            std::int64_t sum = (*list)->empties;
            for (const PickEntry& e : (*list)->entries) sum += e.count;
            QCOMPARE(sum, std::int64_t{16});
        }
        in.edits =
            in.edits->with(SourceRow{0}, s, {std::string("Brand new"), std::string("Wren"), EditState::Saved, {}});
        in.filter.clear();
        const auto edited = rowline.pickList(in, s, std::nullopt, {}, Cancel());
        QVERIFY(std::any_of((*edited)->entries.begin(), (*edited)->entries.end(),
                            [](const PickEntry& e) { return e.value == Value(std::string("Brand new")); }));
        QVERIFY(std::none_of((*edited)->entries.begin(), (*edited)->entries.end(),
                             [](const PickEntry& e) { return e.value == Value(std::string("Wren")); }));
    }

    void aCancelledRunKeepsWhatWasThere() {
        const auto table = test::tableOf(test::hardFields(), 3000);
        Rowline rowline;
        RowlineInput in;
        in.table = table;
        in.filter = {condition("i > 5", table->schema)};
        const Cancel cancel;
        cancel.request();
        QCOMPARE(rowline.run(in, cancel).error().code, ErrorCode::Cancelled);
        QVERIFY(rowline.run(in, Cancel()).ok());
    }
};

QTEST_APPLESS_MAIN(FilterTest)
#include "filter_test.moc"
