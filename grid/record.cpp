// SPDX-License-Identifier: MIT
#include "grid/record.h"

#include "core/design/cell_text.h"
#include "core/formats/text_format.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

Record::Record(std::shared_ptr<const Snapshot> snapshot, SourceRow row, std::shared_ptr<const ViewPlan> plan)
    : snapshot_(std::move(snapshot)), row_(row), plan_(std::move(plan)) {}

Value Record::value(std::string_view field) const {
    if (!snapshot_) return Empty{};
    const auto index = snapshot_->table->schema.find(field);
    return index ? snapshot_->value(row_, *index) : Value(Empty{});
}

QString Record::text(std::string_view field) const {
    if (!snapshot_) return {};
    const auto index = snapshot_->table->schema.find(field);
    if (!index) return {};
    if (plan_)
        for (const PlannedColumn& column : plan_->columns)
            if (column.design.field == field && raw(column.field) < snapshot_->table->columns.size()) {
                CellText cell;
                readCell(*snapshot_, row_, column, cell);
                return QString::fromStdString(cell.text);
            }
    const FieldSchema& schema = snapshot_->table->schema.field(*index);
    std::string out;
    appendDisplay(out, snapshot_->value(row_, *index), defaultFormat(schema, schema.use == Use::LookUp));
    return QString::fromStdString(out);
}

QString Record::plain(std::string_view field) const {
    std::string out;
    appendPlain(out, value(field));
    return QString::fromStdString(out);
}

RecordKey Record::key() const {
    return snapshot_ && snapshot_->table->hasKeys() ? snapshot_->table->key(row_) : RecordKey{};
}

}  // namespace jollyrow
