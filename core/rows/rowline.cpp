// SPDX-License-Identifier: MIT
#include "core/rows/rowline.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "core/columns/column_builder.h"

namespace jollyrow {
namespace {

void addValue(ColumnChunk& chunk, const Value& value) {
    struct Adder {
        ColumnChunk& chunk;
        void operator()(Empty) const { chunk.addEmpty(); }
        void operator()(bool v) const { chunk.addInteger(v ? 1 : 0); }
        void operator()(std::int64_t v) const { chunk.addInteger(v); }
        void operator()(Decimal v) const {
            const auto fitted = rescaledExactly(v, chunk.scale);
            fitted ? chunk.addInteger(fitted->mantissa) : chunk.addMisfit(toString(v));
        }
        void operator()(double v) const { chunk.addReal(v); }
        void operator()(const std::string& v) const { chunk.addText(v); }
        void operator()(Date v) const { chunk.addInteger(v.days); }
        void operator()(Time v) const { chunk.addInteger(v.micros); }
        void operator()(Timestamp v) const { chunk.addInteger(v.micros); }
        void operator()(const Bytes& v) const { chunk.addText(v.data); }
    };
    std::visit(Adder{chunk}, value);
}

bool touches(const Edits* edits, FieldIndex field) {
    if (!edits) return false;
    return std::any_of(edits->cells().begin(), edits->cells().end(),
                       [field](const auto& cell) { return cell.first.second == field; });
}

}  // namespace

std::shared_ptr<const Column> Rowline::edited(const Table& table, const Edits* edits, FieldIndex field) {
    const auto& column = table.columns[raw(field)];
    if (!touches(edits, field)) return column;
    constexpr std::size_t kChunk = 16384;
    ColumnBuilder builder(column->type(), column->scale());
    builder.reserve(column->size());
    ColumnChunk chunk;
    for (std::size_t start = 0; start < column->size(); start += kChunk) {
        chunk.reset(column->type(), column->scale(), builder.prefersArena());
        for (std::size_t i = start; i < std::min(start + kChunk, column->size()); ++i) {
            const auto row = static_cast<SourceRow>(i);
            const CellEdit* edit = edits->find(row, field);
            addValue(chunk, edit ? edit->value : column->value(row));
        }
        builder.append(chunk);
    }
    return builder.share();
}

Result<std::shared_ptr<const Snapshot>> Rowline::run(const RowlineInput& input, const Cancel& cancel) {
    auto snapshot = std::make_shared<Snapshot>();
    snapshot->generation = input.generation;
    snapshot->table = input.table;
    snapshot->edits = input.edits;
    const auto rows = static_cast<std::int64_t>(input.table->rows);
    snapshot->source = {rows, rows, input.loadMilliseconds};
    snapshot->filter = snapshot->sort = snapshot->group = snapshot->summaries = {rows, rows, 0};
    if (input.sort.empty()) return std::shared_ptr<const Snapshot>(std::move(snapshot));

    std::vector<std::uint64_t> ids;
    bool editsMatter = false;
    for (const SortKey& key : input.sort) {
        const Column* column = input.table->column(key.field);
        const FieldSchema& field = input.table->schema.field(key.field);
        if (!column || field.type == Type::Binary || field.type == Type::NumberList)
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} holds {}, which has no order.", field.name, article(field.type))};
        ids.push_back(column->id());
        editsMatter = editsMatter || touches(input.edits.get(), key.field);
    }
    const bool sameEdits = !editsMatter || keptEdits_ == input.edits;
    if (keptOrder_ && keptSort_ == input.sort && keptColumns_ == ids && sameEdits && keptRows_ == input.table->rows) {
        snapshot->order = keptOrder_;
        snapshot->sort = keptReport_;
        return std::shared_ptr<const Snapshot>(std::move(snapshot));
    }
    const auto begun = std::chrono::steady_clock::now();
    std::vector<SortColumn> columns;
    for (const SortKey& key : input.sort)
        columns.push_back({edited(*input.table, input.edits.get(), key.field), key.direction, key.empties});
    auto order = sortRows(columns, input.table->rows, ranks_, cancel);
    if (!order) return order.error();
    snapshot->order = *order;
    snapshot->sort.milliseconds =
        std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
    keptSort_ = input.sort;
    keptColumns_ = std::move(ids);
    keptEdits_ = editsMatter ? input.edits : nullptr;
    keptRows_ = input.table->rows;
    keptOrder_ = *order;
    keptReport_ = snapshot->sort;
    return std::shared_ptr<const Snapshot>(std::move(snapshot));
}

}  // namespace jollyrow
