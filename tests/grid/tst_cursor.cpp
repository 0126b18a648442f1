// SPDX-License-Identifier: MIT
// The current cell and the selection through sorts, filters and reloads, against a plain set of keys: whatever stands
// on the lines, the same records are current and selected, or they are gone.
#include <QtTest>

#include <numeric>
#include <random>
#include <set>

#include "core/columns/column_builder.h"
#include "core/design/make_design.h"
#include "grid/select/cursor.h"

using namespace jollyrow;

namespace {

/// A table of whole numbers, of which some are shown in some order; lines and plan for a cursor.
class Yard {
  public:
    explicit Yard(unsigned seed) : random_(seed) {
        load(60);
        show();
    }
    /// The records that there are, by key; each load brings others on other rows.
    void load(int count) {
        keys_.clear();
        for (int key = 0; key < 100; ++key) keys_.push_back(key);
        std::shuffle(keys_.begin(), keys_.end(), random_);
        keys_.resize(static_cast<std::size_t>(count));
        auto table = std::make_shared<Table>();
        FieldSchema field;
        field.name = "number";
        field.type = Type::Integer;
        ColumnBuilder builder(field);
        ColumnChunk chunk;
        chunk.reset(field.type, 0, false);
        for (const int key : keys_) chunk.addInteger(key);
        builder.append(chunk);
        table->schema.name = "jobs";
        table->schema.fields = {field};
        table->columns = {builder.share()};
        table->rows = keys_.size();
        table_ = table;
        plan_ = std::make_shared<ViewPlan>(planOf(designFor(table->schema, {}), table->schema));
    }
    /// Some of them, in some order.
    void show() {
        auto order = std::make_shared<RowOrder>();
        for (std::uint32_t row = 0; row < keys_.size(); ++row)
            if (random_() % 5 != 0) order->push_back(row);
        std::shuffle(order->begin(), order->end(), random_);
        snapshot = std::make_shared<Snapshot>();
        snapshot->table = table_;
        snapshot->edits = std::make_shared<Edits>();
        snapshot->order = order;
        rows.show(std::make_unique<SnapshotRows>(snapshot, plan_), plan_.get());
    }
    /// Where the rows of `before` are now.
    RowMoves movesFrom(const std::vector<int>& before) const {
        auto byKey = std::make_shared<std::vector<std::uint32_t>>();
        for (const int key : before) {
            const auto at = std::find(keys_.begin(), keys_.end(), key);
            byKey->push_back(at == keys_.end() ? raw(kNoRow) : static_cast<std::uint32_t>(at - keys_.begin()));
        }
        return {byKey, {}};
    }
    int keyOf(SourceRow row) const { return keys_[raw(row)]; }
    const std::vector<int>& keys() const { return keys_; }
    bool isShown(int key) const {
        const auto at = std::find(keys_.begin(), keys_.end(), key);
        return at != keys_.end() && snapshot->lineOf(static_cast<SourceRow>(at - keys_.begin()));
    }
    std::shared_ptr<Snapshot> snapshot;
    ShownRows rows;

  private:
    std::mt19937 random_;
    std::vector<int> keys_;  ///< by row
    std::shared_ptr<const Table> table_;
    std::shared_ptr<const ViewPlan> plan_;
};

std::set<int> selectedKeys(const Yard& yard, const Cursor& cursor) {
    std::set<int> keys;
    for (const SourceRow row : cursor.selection().rows().rows(1000)) keys.insert(yard.keyOf(row));
    return keys;
}

}  // namespace

class CursorTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void recordsAreFollowed() {
        int followed = 0, lost = 0;
        for (unsigned seed = 0; seed < 300; ++seed) {
            std::mt19937 random(seed + 7);
            Yard yard(seed);
            Cursor cursor(yard.rows);
            std::set<int> selected;
            std::optional<int> current;
            for (int turn = 0; turn < 40; ++turn) {
                const auto line = static_cast<std::int64_t>(random() % static_cast<unsigned>(yard.rows.count()));
                const int key = yard.keyOf(yard.rows.rowAt(line));
                switch (random() % 5) {
                    case 0:
                        cursor.choose({line, 0}, SelectHow::Replace, "number");
                        selected = {key};
                        current = key;
                        break;
                    case 1:
                        cursor.choose({line, 0}, SelectHow::Toggle, "number");
                        if (!selected.erase(key)) selected.insert(key);
                        current = key;
                        break;
                    case 2:
                        cursor.choose({line, 0}, SelectHow::MoveOnly, "number");
                        current = key;
                        break;
                    case 3:
                        yard.show();
                        cursor.arrived(*yard.snapshot, false);
                        if (current && !yard.isShown(*current)) current.reset();
                        break;
                    default: {
                        const std::vector<int> before = yard.keys();
                        yard.load(30 + static_cast<int>(random() % 60));
                        const bool fewer = cursor.moveRows(yard.movesFrom(before));
                        const std::size_t had = selected.size();
                        std::erase_if(selected, [&](int k) {
                            return std::find(yard.keys().begin(), yard.keys().end(), k) == yard.keys().end();
                        });
                        QCOMPARE(fewer, selected.size() != had);
                        yard.show();
                        const bool wasCurrent = cursor.row().has_value();
                        cursor.arrived(*yard.snapshot, false);
                        cursor.fit(0, yard.rows.count(), 1);
                        if (wasCurrent && current && !yard.isShown(*current)) current.reset();
                        // A record that is gone leaves the cell to the one that stands in its place now.
                        if (!wasCurrent && cursor.current() && yard.rows.isRecord(cursor.current()->line)) {
                            ++lost;
                            cursor.noteCurrent("number");
                            current = yard.keyOf(yard.rows.rowAt(cursor.current()->line));
                        }
                        break;
                    }
                }
                QCOMPARE(selectedKeys(yard, cursor), selected);
                QCOMPARE(cursor.current().has_value(), current.has_value());
                if (!current) continue;
                ++followed;
                QCOMPARE(yard.keyOf(yard.rows.rowAt(cursor.current()->line)), *current);
                QCOMPARE(yard.keyOf(*cursor.row()), *current);
            }
        }
        QVERIFY2(followed > 5000 && lost > 50, qPrintable(QString("%1 %2").arg(followed).arg(lost)));
    }

    void anEditedRecordIsShownWhereItWent() {
        Yard yard(3);
        Cursor cursor(yard.rows);
        cursor.choose({0, 0}, SelectHow::Replace, "number");
        const int key = yard.keyOf(*cursor.row());
        cursor.follow(*cursor.row());
        int moved = 0;
        for (int turn = 0; turn < 50; ++turn) {
            const std::int64_t before = cursor.current()->line;
            do yard.show();
            while (!yard.isShown(key));
            const auto arrival = cursor.arrived(*yard.snapshot, false);
            QCOMPARE(yard.keyOf(yard.rows.rowAt(cursor.current()->line)), key);
            if (arrival == Cursor::Arrival::Moved) {
                ++moved;
                QVERIFY(cursor.current()->line != before);
                QVERIFY(!cursor.followed());  // once
                cursor.follow(*cursor.row());
            }
        }
        QVERIFY(moved > 30);
    }

    void theWayBackIsWalkedAndNotLengthened() {
        Yard yard(5);
        Cursor cursor(yard.rows);
        const std::vector<std::int64_t> way = {3, 20, 9, 31};
        std::vector<SourceRow> rows;
        for (const std::int64_t line : way) {
            cursor.choose({line, 0}, SelectHow::Replace, "number");
            rows.push_back(*cursor.row());
        }
        for (std::size_t i = way.size() - 1; i-- > 0;) {
            QCOMPARE(cursor.visited(false), std::optional(rows[i]));
            cursor.choose({way[i], 0}, SelectHow::Replace, "number", Cursor::Way::Revisit);
        }
        QVERIFY(!cursor.visited(false));
        for (std::size_t i = 1; i < way.size(); ++i) QCOMPARE(cursor.visited(true), std::optional(rows[i]));
        QVERIFY(!cursor.visited(true));
    }

    void allThatAreShownAreSelectedAndNoOthers() {
        Yard yard(8);
        Cursor cursor(yard.rows);
        cursor.selectAll(*yard.snapshot, 1);
        QCOMPARE(cursor.selection().rows().count(), yard.snapshot->recordCount());
        for (std::uint32_t row = 0; row < yard.keys().size(); ++row)
            QCOMPARE(cursor.selection().isRowSelected(static_cast<SourceRow>(row)),
                     yard.snapshot->lineOf(static_cast<SourceRow>(row)).has_value());
    }

    void nothingIsAskedOfLinesThatAreNotThere() {
        const ShownRows none;
        QCOMPARE(none.count(), std::int64_t{0});
        for (const std::int64_t line : {-1, 0, 5}) {
            QVERIFY(!none.isRecord(line) && !none.isFooter(line) && !none.groupOn(line) && !none.has(line));
            QCOMPARE(none.rowAt(line), kNoRow);
        }
        Yard yard(1);
        for (const std::int64_t line : {std::int64_t{-1}, yard.rows.count(), std::int64_t{1} << 40}) {
            QVERIFY(!yard.rows.isRecord(line));
            QCOMPARE(yard.rows.rowAt(line), kNoRow);
        }
    }
};

QTEST_MAIN(CursorTest)
#include "tst_cursor.moc"
