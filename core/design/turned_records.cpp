// SPDX-License-Identifier: MIT
// Covered by tests/design/turned_records_test.cpp.
#include "core/design/turned_records.h"

#include <fmt/format.h>

#include "core/columns/column_builder.h"
#include "core/design/cell_text.h"

namespace jollyrow {
namespace {

void addColumn(SummaryTable& out, Table& table, const std::string& field, const std::string& heading,
               const std::vector<std::string>& texts) {
    FieldSchema schema;
    schema.name = field;
    schema.type = Type::Text;
    ColumnChunk chunk;
    chunk.reset(Type::Text, 0, false);
    for (const std::string& text : texts) text.empty() ? chunk.addEmpty() : chunk.addText(text);
    ColumnBuilder builder(Type::Text, 0);
    builder.append(chunk);
    table.columns.push_back(builder.share());
    table.schema.fields.push_back(std::move(schema));
    ColumnDesign column;
    column.field = field;
    column.heading = heading;
    column.width.mode = WidthMode::Fit;
    column.width.maximum = 280;
    out.design.columns.push_back(std::move(column));
}

/// NaN is what it is.
bool isSame(const Value& a, const Value& b) { return a == b || (a != a && b != b); }

/// A field beside those that are shown, and the style that reads it.
void addDiffering(SummaryTable& out, Table& table, const std::vector<bool>& differs) {
    FieldSchema schema;
    schema.name = kDiffers;
    schema.type = Type::Boolean;
    ColumnChunk chunk;
    chunk.reset(Type::Boolean, 0, false);
    for (const bool is : differs) chunk.addInteger(is ? 1 : 0);
    ColumnBuilder builder(Type::Boolean, 0);
    builder.append(chunk);
    table.columns.push_back(builder.share());
    table.schema.fields.push_back(std::move(schema));
    StyleDesign style;
    style.name = "They differ";
    style.where = kDiffers;
    style.background = "brass";
    out.design.styles.push_back(std::move(style));
}

}  // namespace

Result<SummaryTable> turnedRecords(const Snapshot& snapshot, const ViewPlan& plan, const Design& design,
                                   std::span<const NamedRecord> records) {
    if (records.empty() || plan.columns.empty())
        return Error{ErrorCode::InvalidInput, "There are no records to stand side by side."};
    if (records.size() >= kMostTableColumns)
        return Error{ErrorCode::Unsupported, fmt::format("{} records are too many to stand side by side; {} are the "
                                                         "most.",
                                                         records.size(), kMostTableColumns - 1)};
    SummaryTable out;
    auto table = std::make_shared<Table>();
    table->schema.name = "side by side";
    table->schema.writable = false;
    table->schema.whyNotWritable = "Records side by side are edited where they come from.";
    table->rows = plan.columns.size();
    out.design.title = design.title.empty() ? "Side by side" : design.title + ", side by side";
    out.design.locale = design.locale;
    out.design.source = {"sqlite", "", table->schema.name, ""};
    out.design.grid.pinned = 1;
    out.design.grid.lastFills = true;
    out.design.grid.look = design.grid.look;
    out.design.looks = design.looks;
    out.design.grid.selection = SelectionMode::Cells;
    std::vector<std::string> texts;
    for (const PlannedColumn& column : plan.columns)
        texts.push_back(column.design.heading.empty() ? column.design.field : column.design.heading);
    addColumn(out, *table, "column", "Column", texts);
    std::vector<bool> differs(plan.columns.size(), false);
    std::vector<std::string> first;
    for (std::size_t i = 0; i < records.size(); ++i) {
        for (std::size_t c = 0; c < plan.columns.size(); ++c) {
            CellText cell;
            readCell(snapshot, records[i].row, plan.columns[c], cell);
            const bool isTruth = plan.columns[c].format.type == Type::Boolean && !cell.isEmpty && cell.text.empty();
            texts[c] = isTruth ? (cell.isChecked ? "yes" : "no") : cell.isEmpty ? std::string() : cell.text;
            const FieldIndex field = plan.columns[c].field;
            if (i > 0 && (texts[c] != first[c] ||
                          !isSame(snapshot.value(records[i].row, field), snapshot.value(records[0].row, field))))
                differs[c] = true;
        }
        if (i == 0) first = texts;
        addColumn(out, *table, fmt::format("record{}", i + 1),
                  records[i].name.empty() ? fmt::format("{}", i + 1) : records[i].name, texts);
    }
    addDiffering(out, *table, differs);
    out.table = std::move(table);
    return out;
}

}  // namespace jollyrow
