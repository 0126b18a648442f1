// SPDX-License-Identifier: MIT
#include "grid/api/record.h"

#include "core/design/cell_text.h"
#include "core/formats/text_format.h"
#include "core/rows/snapshot.h"

namespace jollyrow {

Record::Record(std::shared_ptr<const Snapshot> snapshot, RowRef ref, std::shared_ptr<const ViewPlan> plan)
    : snapshot_(std::move(snapshot)), ref_(std::move(ref)), plan_(std::move(plan)) {}

Value Record::value(std::string_view field) const {
    if (!snapshot_) return Empty{};
    const auto index = snapshot_->table->schema.find(field);
    return index ? snapshot_->value(ref_.row, *index) : Value(Empty{});
}

QString Record::text(std::string_view field) const {
    if (!snapshot_) return {};
    const auto index = snapshot_->table->schema.find(field);
    if (!index) return {};
    if (plan_)
        for (const PlannedColumn& column : plan_->columns)
            if (column.design.field == field && raw(column.field) < snapshot_->table->columns.size()) {
                CellText cell;
                readCell(*snapshot_, ref_.row, column, cell);
                return QString::fromStdString(cell.text);
            }
    const FieldSchema& schema = snapshot_->table->schema.field(*index);
    std::string out;
    appendDisplay(out, snapshot_->value(ref_.row, *index), defaultFormat(schema, schema.use == Use::LookUp));
    return QString::fromStdString(out);
}

QString Record::plain(std::string_view field) const {
    std::string out;
    appendPlain(out, value(field));
    return QString::fromStdString(out);
}

RecordKey Record::key() const { return ref_.key; }

}  // namespace jollyrow
