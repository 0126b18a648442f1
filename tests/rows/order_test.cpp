// SPDX-License-Identifier: MIT
// The vectorised sort against std::stable_sort with a plain comparator, over types, empties, ranges and numbers of
// keys, also where the keys do not fit 128 bits; text order by ICU's own comparison.
#include <QtTest>

#include <unicode/ucol.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <random>

#include "core/columns/column_builder.h"
#include "core/rows/row_order.h"
#include "core/rows/rowline.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

/// The slow, obvious order: compares boxed values.
int compared(const Column& column, std::uint32_t a, std::uint32_t b, Direction direction, Empties empties,
             UCollator* collator) {
    const auto left = static_cast<SourceRow>(a), right = static_cast<SourceRow>(b);
    const bool emptyA = column.isEmpty(left), emptyB = column.isEmpty(right);
    if (emptyA || emptyB) return emptyA == emptyB ? 0 : (emptyA == (empties == Empties::First) ? -1 : 1);
    int order = 0;
    if (column.type() == Type::Real) {
        const double x = column.real(left), y = column.real(right);
        order = std::isnan(x) || std::isnan(y) ? int(std::isnan(x)) - int(std::isnan(y)) : (x > y) - (x < y);
    } else if (column.type() == Type::Text) {
        UErrorCode status = U_ZERO_ERROR;
        const std::string_view x = column.text(left), y = column.text(right);
        order = ucol_strcollUTF8(collator, x.data(), static_cast<int32_t>(x.size()), y.data(),
                                 static_cast<int32_t>(y.size()), &status);
    } else {
        order = (column.integer(left) > column.integer(right)) - (column.integer(left) < column.integer(right));
    }
    return direction == Direction::Descending ? -order : order;
}

std::shared_ptr<const Column> randomColumn(int kind, std::size_t rows, std::mt19937_64& random) {
    const Type type = kind == 0   ? Type::Boolean
                      : kind <= 3 ? Type::Integer
                      : kind <= 5 ? Type::Real
                      : kind <= 7 ? Type::Text
                                  : Type::Date;
    ColumnBuilder builder(type, 0);
    ColumnChunk chunk;
    chunk.reset(type, 0, kind == 7);
    const unsigned emptyOneIn = static_cast<unsigned>(random() % 3 == 0 ? 0 : 3 + random() % 9);
    static const std::vector<std::string> kWords = {"Wren", "wren",  "Årsund", "Arsund", "Étoile", "zebra",
                                                    "",     "Zebra", "a b",    "a-b",    "ab",     "O'Due",
                                                    "øre",  "日本",  "B10",    "B2"};
    for (std::size_t i = 0; i < rows; ++i) {
        if (emptyOneIn != 0 && random() % emptyOneIn == 0) {
            chunk.addEmpty();
            continue;
        }
        switch (kind) {
            case 0: chunk.addInteger(static_cast<std::int64_t>(random() % 2)); break;
            case 1: chunk.addInteger(static_cast<std::int64_t>(random() % 7) - 3); break;
            case 2: chunk.addInteger(static_cast<std::int64_t>(random())); break;
            case 3: chunk.addInteger(random() % 2 ? INT64_MAX : INT64_MIN); break;
            case 4:
                chunk.addReal(std::ldexp(static_cast<double>(static_cast<std::int64_t>(random())),
                                         static_cast<int>(random() % 40) - 80));
                break;
            case 5:
                chunk.addReal(random() % 5 == 0   ? std::nan("")
                              : random() % 4 == 0 ? -0.0
                                                  : static_cast<double>(random() % 3) - 1.0);
                break;
            case 6: chunk.addText(kWords[random() % kWords.size()]); break;
            case 7: chunk.addText(kWords[random() % kWords.size()] + std::to_string(random() % 50)); break;
            default: chunk.addInteger(20000 + static_cast<std::int64_t>(random() % 90)); break;
        }
    }
    builder.append(chunk);
    return builder.share();
}

}  // namespace

class OrderTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void againstAStableSort_data() {
        QTest::addColumn<int>("keys");
        QTest::addColumn<int>("rows");
        for (const int keys : {1, 2, 3, 5, 9})
            for (const int rows : {0, 1, 2, 63, 1000, 4097})
                QTest::addRow("%d keys, %d rows", keys, rows) << keys << rows;
    }
    void againstAStableSort() {
        QFETCH(int, keys);
        QFETCH(int, rows);
        UErrorCode status = U_ZERO_ERROR;
        UCollator* collator = ucol_open("", &status);
        std::mt19937_64 random(static_cast<unsigned>(keys * 1000 + rows));
        for (int round = 0; round < 12; ++round) {
            std::vector<SortColumn> columns;
            for (int k = 0; k < keys; ++k)
                columns.push_back({randomColumn(static_cast<int>(random() % 9), static_cast<std::size_t>(rows), random),
                                   random() % 2 ? Direction::Descending : Direction::Ascending,
                                   random() % 2 ? Empties::First : Empties::Last});
            RowOrder expected(static_cast<std::size_t>(rows));
            std::iota(expected.begin(), expected.end(), 0U);
            std::stable_sort(expected.begin(), expected.end(), [&](std::uint32_t a, std::uint32_t b) {
                for (const SortColumn& key : columns)
                    if (const int order = compared(*key.column, a, b, key.direction, key.empties, collator); order != 0)
                        return order < 0;
                return false;
            });
            RankCache ranks;
            const auto order = sortRows(columns, static_cast<std::size_t>(rows), ranks, Cancel());
            QVERIFY(order.ok());
            QVERIFY2(**order == expected, qPrintable(QString("round %1").arg(round)));
        }
        ucol_close(collator);
    }

    void largeSortsOnSeveralThreads() {
        std::mt19937_64 random(12);
        const std::size_t rows = test::kSanitized ? 140'000 : 300'000;
        for (const int kind : {0, 1, 2, 4}) {  // few values: pivots fall together and buckets stay empty
            const std::vector<SortColumn> columns = {
                {randomColumn(kind, rows, random), Direction::Descending, Empties::First},
                {randomColumn(8, rows, random)}};
            RowOrder expected(rows);
            std::iota(expected.begin(), expected.end(), 0U);
            std::stable_sort(expected.begin(), expected.end(), [&](std::uint32_t a, std::uint32_t b) {
                for (const SortColumn& key : columns)
                    if (const int order = compared(*key.column, a, b, key.direction, key.empties, nullptr); order != 0)
                        return order < 0;
                return false;
            });
            RankCache ranks;
            QVERIFY(**sortRows(columns, rows, ranks, Cancel()) == expected);
        }
    }

    void cancelledSortSaysSo() {
        std::mt19937_64 random(3);
        const std::vector<SortColumn> columns = {{randomColumn(7, 20000, random)}};
        Cancel cancel;
        cancel.request();
        RankCache ranks;
        const auto order = sortRows(columns, 20000, ranks, cancel);
        QVERIFY(!order.ok());
        QCOMPARE(order.error().code, ErrorCode::Cancelled);
    }

    void rowlineSortsByEditedValuesAndKeepsItsOrder() {
        ColumnBuilder builder(Type::Integer, 0);
        ColumnChunk chunk;
        chunk.reset(Type::Integer, 0, false);
        for (const int v : {30, 10, 20}) chunk.addInteger(v);
        builder.append(chunk);
        auto table = std::make_shared<Table>();
        table->schema.name = "t";
        table->schema.fields.push_back({.name = "n",
                                        .declaredType = "INTEGER",
                                        .type = Type::Integer,
                                        .defaultSql = std::nullopt,
                                        .permitted = {}});
        table->columns = {builder.share()};
        table->rows = 3;
        Rowline rowline;
        RowlineInput input;
        input.table = table;
        input.edits = std::make_shared<Edits>();
        input.sort.emplace_back().field = FieldIndex{0};
        const auto first = rowline.run(input, Cancel());
        QCOMPARE(*(*first)->order, (RowOrder{1, 2, 0}));
        input.edits =
            Edits().with(SourceRow{1}, FieldIndex{0}, {std::int64_t{99}, std::int64_t{10}, EditState::Saved, {}});
        const auto second = rowline.run(input, Cancel());
        QCOMPARE(*(*second)->order, (RowOrder{2, 0, 1}));
        QCOMPARE((*second)->value(SourceRow{1}, FieldIndex{0}), Value(std::int64_t{99}));
        QCOMPARE((*rowline.run(input, Cancel()))->order.get(),
                 (*second)->order.get());  // unchanged input: the kept product
    }
};

QTEST_APPLESS_MAIN(OrderTest)
#include "order_test.moc"
