// SPDX-License-Identifier: MIT
// Room for records in a table: of every type, with empties and misfits; what is no record, and where one can go.
#include <QtTest>

#include "core/columns/column_builder.h"
#include "core/columns/key_index.h"
#include "core/columns/room.h"

using namespace jollyrow;

namespace {

std::shared_ptr<const Column> columnOf(Type type, const std::function<void(ColumnChunk&, std::size_t)>& add,
                                       std::size_t rows) {
    ColumnBuilder builder(type, type == Type::Decimal ? 2 : 0);
    ColumnChunk chunk;
    chunk.reset(type, type == Type::Decimal ? 2 : 0, builder.prefersArena());
    for (std::size_t i = 0; i < rows; ++i) add(chunk, i);
    builder.append(chunk);
    return builder.share();
}

std::shared_ptr<Table> tableOf(std::size_t rows) {
    auto table = std::make_shared<Table>();
    table->rows = rows;
    const auto add = [&](const char* name, Type type, auto value) {
        FieldSchema field;
        field.name = name;
        field.type = type;
        table->schema.fields.push_back(field);
        table->columns.push_back(columnOf(type, value, rows));
    };
    add("id", Type::Integer, [](ColumnChunk& c, std::size_t i) { c.addInteger(static_cast<std::int64_t>(i) * 3); });
    add("work", Type::Text,
        [](ColumnChunk& c, std::size_t i) { i % 5 == 0 ? c.addEmpty() : c.addText("w" + std::to_string(i % 7)); });
    add("price", Type::Decimal,
        [](ColumnChunk& c, std::size_t i) { c.addWide((Int128{1} << 90) + static_cast<int>(i)); });
    add("rate", Type::Real, [](ColumnChunk& c, std::size_t i) { c.addReal(static_cast<double>(i) / 3); });
    add("due", Type::Date, [](ColumnChunk& c, std::size_t i) {
        i % 4 == 0 ? c.addMisfit("soon") : c.addInteger(static_cast<std::int64_t>(i));
    });
    table->keyFields = {FieldIndex{0}};
    return table;
}

}  // namespace

class RoomTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void theValuesStayAndTheRoomIsEmpty() {
        for (const std::size_t rows :
             {std::size_t{0}, std::size_t{1}, std::size_t{63}, std::size_t{64}, std::size_t{40'000}}) {
            const auto table = tableOf(rows);
            const auto roomy = withRoom(*table, 70);
            QCOMPARE(roomy->rows, rows + 70);
            QCOMPARE(roomy->loaded(), rows);
            for (std::size_t f = 0; f < table->columns.size(); ++f)
                for (std::size_t i = 0; i < rows + 70; i += i < rows && rows > 1000 ? 97 : 1) {
                    const auto row = static_cast<SourceRow>(i);
                    const Column &before = *table->columns[f], &after = *roomy->columns[f];
                    if (i >= rows) {
                        QVERIFY(after.isEmpty(row) && !after.misfit(row));
                        continue;
                    }
                    QCOMPARE(after.value(row), before.value(row));
                    QCOMPARE(after.misfit(row).has_value(), before.misfit(row).has_value());
                }
            QCOMPARE(withRoom(*roomy, 5)->spare, std::size_t{75});
        }
    }

    /// Wide tables get less room: reading one of 2000 columns once took half a gigabyte for records that nobody made.
    void roomIsBoundedByItsValues() {
        QCOMPARE(roomFor(0), std::size_t{16'384});
        for (const std::size_t columns : {1U, 20U, 61U, 62U, 500U, 2000U, 15'625U, 15'626U, 100'000U}) {
            QVERIFY(roomFor(columns) >= 64 && roomFor(columns) <= 16'384);
            QVERIFY(roomFor(columns) == 64 || roomFor(columns) * columns <= 1'000'000);
        }
        QCOMPARE(withRoom(*tableOf(3))->spare, std::size_t{16'384});
    }

    void whatIsNoRecordIsKnown() {
        const auto roomy = withRoom(*tableOf(10), 4);
        QCOMPARE(absentRows(*roomy, nullptr), (std::vector<std::uint32_t>{10, 11, 12, 13}));
        Edits edits;
        const auto set = [&](std::uint32_t row, RecordChange change, EditState state) {
            RecordEdit record;
            record.setFate(RecordFate{change, state, {}, {}, 0});
            edits.setRecord(SourceRow{row}, std::move(record));
        };
        set(11, RecordChange::Insert, EditState::Draft);
        set(12, RecordChange::Insert, EditState::Saved);
        set(3, RecordChange::Delete, EditState::Draft);  // still there, to be seen
        set(5, RecordChange::Delete, EditState::Saved);
        QCOMPARE(absentRows(*roomy, &edits), (std::vector<std::uint32_t>{5, 10, 13}));
        QCOMPARE(freeRow(*roomy, edits), std::optional(SourceRow{10}));
        QCOMPARE(edits.count(EditState::Draft), std::size_t{2});
        QCOMPARE(edits.unsaved(), std::size_t{2});
        set(10, RecordChange::Insert, EditState::Draft);
        set(13, RecordChange::Insert, EditState::Draft);
        QVERIFY(!freeRow(*roomy, edits));
        edits.setRecord(SourceRow{13}, {});
        QCOMPARE(edits.unsaved(), std::size_t{3});
    }

    void keysAreFoundBesideRoom() {
        const auto roomy = withRoom(*tableOf(500), 100);
        const KeyIndex index(roomy);
        for (std::int64_t i = 0; i < 500; ++i)
            QCOMPARE(index.find({Value(i * 3)}), std::optional(static_cast<SourceRow>(i)));
        QVERIFY(!index.find({Value(std::int64_t{1})}));
        QVERIFY(!index.find({Value(Empty{})}));
        const KeyIndex other(tableOf(400));
        const auto moves = movesBetween(index, other);
        QCOMPARE(moves.size(), std::size_t{600});
        QCOMPARE(moves[399], 399U);
        for (std::size_t i = 400; i < 600; ++i) QCOMPARE(moves[i], raw(kNoRow));
    }
};

QTEST_GUILESS_MAIN(RoomTest)
#include "room_test.moc"
