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
    std::string same;
    for (std::size_t i = 0; i < records.size(); ++i) {
        for (std::size_t c = 0; c < plan.columns.size(); ++c) {
            CellText cell;
            readCell(snapshot, records[i].row, plan.columns[c], cell);
            const bool isTruth = plan.columns[c].format.type == Type::Boolean && !cell.isEmpty && cell.text.empty();
            texts[c] = isTruth ? (cell.isChecked ? "yes" : "no") : cell.isEmpty ? std::string() : cell.text;
        }
        const std::string field = fmt::format("record{}", i + 1);
        addColumn(out, *table, field, records[i].name.empty() ? fmt::format("{}", i + 1) : records[i].name, texts);
        if (i > 0) same += fmt::format("{}record1 IS NOT DISTINCT FROM {}", same.empty() ? "" : " AND ", field);
    }
    if (!same.empty()) {
        StyleDesign differs;
        differs.name = "They differ";
        differs.where = fmt::format("NOT ({})", same);
        differs.background = "brass";
        out.design.styles.push_back(std::move(differs));
    }
    out.table = std::move(table);
    return out;
}

}  // namespace jollyrow
