// SPDX-License-Identifier: MIT
// Figures of chosen cells, against a plain model: exact sums, each cell once, numbers and moments apart.
#include <QtTest>

#include <random>
#include <set>

#include "core/columns/column_builder.h"
#include "core/columns/wide_decimal.h"
#include "core/rows/cell_figures.h"

using namespace jollyrow;

namespace {

constexpr std::size_t kRows = 400;

/// whole numbers, money, doubles, days, texts; every fifth empty, some that fit no type.
std::shared_ptr<const Table> tableOf(unsigned seed) {
    auto table = std::make_shared<Table>();
    std::mt19937 dice(seed);
    const std::pair<const char*, Type> fields[] = {
        {"i", Type::Integer}, {"d", Type::Decimal}, {"r", Type::Real}, {"t", Type::Date}, {"s", Type::Text}};
    for (const auto& [name, type] : fields) {
        FieldSchema field;
        field.name = name;
        field.type = type;
        field.scale = type == Type::Decimal ? 2 : 0;
        ColumnBuilder builder(field);
        ColumnChunk chunk;
        chunk.reset(type, field.scale, builder.prefersArena());
        for (std::size_t i = 0; i < kRows; ++i) {
            const auto number = static_cast<std::int64_t>(dice() % 2'000'000) - 1'000'000;
            if (dice() % 5 == 0)
                chunk.addEmpty();
            else if (type != Type::Text && dice() % 11 == 0)
                chunk.addMisfit("soon");
            else if (type == Type::Real)
                chunk.addReal(static_cast<double>(number) / 16.0);
            else if (type == Type::Text)
                chunk.addText("w");
            else
                chunk.addInteger(number);
        }
        builder.append(chunk);
        table->schema.fields.push_back(field);
        table->columns.push_back(builder.share());
    }
    table->rows = kRows;
    return table;
}

std::optional<WideDecimal> exactNumberOf(const Value& value) {
    if (const auto* whole = std::get_if<std::int64_t>(&value)) return WideDecimal(*whole, 0);
    return exactOf(value);
}

Snapshot snapshotOf(std::shared_ptr<const Table> table) {
    Snapshot snapshot;
    snapshot.table = std::move(table);
    snapshot.edits = std::make_shared<Edits>();
    return snapshot;
}

}  // namespace

class CellFiguresTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void randomBlocksAgreeWithAPlainModel() {
        std::mt19937 dice(3);
        for (unsigned seed = 1; seed <= 60; ++seed) {
            const Snapshot snapshot = snapshotOf(tableOf(seed));
            std::vector<CellBlock> blocks(1 + dice() % 3);
            std::set<std::pair<std::uint32_t, std::uint32_t>> cells;
            for (CellBlock& block : blocks) {
                const std::uint32_t from = dice() % kRows, to = std::min<std::uint32_t>(kRows, from + dice() % 200);
                for (std::uint32_t row = from; row < to; ++row) block.rows.push_back(SourceRow{row});
                for (std::uint32_t field = 0; field < 5; ++field)
                    if (dice() % 2 == 0) block.fields.push_back(FieldIndex{field});
                for (const SourceRow row : block.rows)
                    for (const FieldIndex field : block.fields) cells.emplace(raw(row), raw(field));
            }
            std::int64_t filled = 0, numbers = 0, reals = 0, others = 0;
            WideDecimal exact(0, 0);
            double real = 0, least = 1e300, largest = -1e300;
            std::optional<std::int64_t> first, last;
            for (const auto& [row, field] : cells) {
                const Value value = snapshot.value(SourceRow{row}, FieldIndex{field});
                if (isEmpty(value)) continue;
                ++filled;
                double number = 0;
                if (const auto* r = std::get_if<double>(&value)) {
                    number = *r;
                    real += *r;
                    ++reals;
                } else if (const auto wide = exactNumberOf(value)) {
                    number = toReal(*wide);
                    exact = *added(exact, *wide);
                } else {
                    if (const auto* day = std::get_if<Date>(&value)) {
                        first = std::min<std::int64_t>(first.value_or(day->days), day->days);
                        last = std::max<std::int64_t>(last.value_or(day->days), day->days);
                    } else {
                        ++others;
                    }
                    continue;
                }
                ++numbers;
                least = std::min(least, number);
                largest = std::max(largest, number);
            }
            const auto found = figuresOfCells(snapshot, blocks, Cancel());
            QVERIFY(found.ok());
            QCOMPARE(found->cells, static_cast<std::int64_t>(cells.size()));
            QCOMPARE(found->filled, filled);
            QCOMPARE(found->numbers, numbers);
            if (numbers == 0) {
                QVERIFY(isEmpty(found->sum) && isEmpty(found->mean));
                if (first && others == 0) {
                    QCOMPARE(found->least, Value(Date{static_cast<std::int32_t>(*first)}));
                    QCOMPARE(found->largest, Value(Date{static_cast<std::int32_t>(*last)}));
                } else {
                    QVERIFY(isEmpty(found->least));
                }
                continue;
            }
            if (reals == 0)
                QVERIFY(*exactNumberOf(found->sum) == exact);
            else
                QVERIFY(std::abs(std::get<double>(found->sum) - (real + toReal(exact))) < 1e-6);
            const auto asReal = [](const Value& value) {
                const auto* number = std::get_if<double>(&value);
                return number ? *number : toReal(*exactNumberOf(value));
            };
            QCOMPARE(asReal(found->least), least);
            QCOMPARE(asReal(found->largest), largest);
            QVERIFY(std::abs(asReal(found->mean) - (real + toReal(exact)) / static_cast<double>(numbers)) < 0.01);
        }
    }

    void sumsAreExactAndBounded() {
        auto table = std::make_shared<Table>();
        FieldSchema field;
        field.name = "n";
        field.type = Type::Integer;
        ColumnBuilder builder(field);
        ColumnChunk chunk;
        chunk.reset(field.type, 0, builder.prefersArena());
        for (int i = 0; i < 3; ++i) chunk.addInteger(std::numeric_limits<std::int64_t>::max());
        builder.append(chunk);
        table->schema.fields = {field};
        table->columns = {builder.share()};
        table->rows = 3;
        const Snapshot snapshot = snapshotOf(table);
        const CellBlock all{{SourceRow{0}, SourceRow{1}, SourceRow{2}}, {FieldIndex{0}}};
        const auto found = figuresOfCells(snapshot, std::span(&all, 1), Cancel());
        QVERIFY(found.ok());
        QCOMPARE(toString(*exactNumberOf(found->sum)), std::string("27670116110564327421"));  // past 64 bits
        QVERIFY(*exactNumberOf(found->mean) == WideDecimal(std::numeric_limits<std::int64_t>::max(), 0));
    }

    void aStopIsHeard() {
        const Snapshot snapshot = snapshotOf(tableOf(1));
        CellBlock block{{}, {FieldIndex{0}}};
        for (int i = 0; i < 10'000; ++i)
            block.rows.push_back(static_cast<SourceRow>(static_cast<std::size_t>(i) % kRows));
        Cancel cancel;
        cancel.request();
        QCOMPARE(figuresOfCells(snapshot, std::span(&block, 1), cancel).error().code, ErrorCode::Cancelled);
    }
};

QTEST_GUILESS_MAIN(CellFiguresTest)
#include "cell_figures_test.moc"
