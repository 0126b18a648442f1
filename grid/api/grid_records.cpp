// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_records.cpp and tst_extending.cpp.
#include "grid/api/grid_records.h"

#include "core/columns/room.h"
#include "core/formats/text_format.h"
#include "grid/api/grid.h"
#include "grid/inside/bound_order.h"
#include "grid/inside/grid_private.h"

namespace jollyrow {

namespace {
std::optional<SourceRow> rowNow(const Session& session, const Record& record) {
    return record.isValid() ? session.now(record.ref()) : std::nullopt;
}
}  // namespace

bool GridRecords::setValue(const Record& record, const QString& field, const Value& value) {
    const auto index = d_->context.session().schema().find(field.toStdString());
    const auto row = rowNow(d_->context.session(), record);
    if (!index || !row || !isOfType(value, d_->context.session().schema().field(*index).type)) return false;
    d_->context.session().records().edit(*row, *index, value);
    return true;
}

Result<Record> GridRecords::insert(const std::map<QString, Value>& values) {
    Session& session = d_->context.session();
    std::vector<std::pair<FieldIndex, Value>> given;
    for (const auto& [name, value] : values) {
        const auto field = session.schema().find(name.toStdString());
        if (!field || !isOfType(value, session.schema().field(*field).type))
            return Error{ErrorCode::InvalidInput,
                         (field ? Grid::tr("The value for %1 is not of its type.") : Grid::tr("There is no field %1."))
                             .arg(name)
                             .toStdString()};
        given.emplace_back(*field, value);
    }
    const auto row = session.records().insert(given);
    if (!row) return row.error();
    return d_->context.record(*row);
}

Result<Record> GridRecords::duplicate(const Record& record) {
    const auto row = rowNow(d_->context.session(), record);
    if (!row) return Error{ErrorCode::NotFound, Grid::tr("The record is no longer there.").toStdString()};
    const auto made = d_->context.session().records().duplicate(*row);
    if (!made) return made.error();
    return d_->context.record(*made);
}

bool GridRecords::remove(const std::vector<Record>& records) {
    std::vector<SourceRow> rows;
    for (const Record& record : records)
        if (const auto row = rowNow(d_->context.session(), record)) rows.push_back(*row);
    if (!rows.empty()) d_->context.session().records().remove(rows);
    return !rows.empty();
}

void GridRecords::forEach(const std::function<bool(const Record&)>& visit) const {
    forEachBound(d_->context.snapshot(), [&](SourceRow row) { return visit(d_->context.record(row)); });
}

void GridRecords::forEachShown(const std::function<bool(const Record&)>& visit) const {
    const std::shared_ptr<const Snapshot> snapshot = d_->context.session().snapshot();
    for (std::int64_t i = 0; i < snapshot->recordCount(); ++i)
        if (!visit(d_->context.record(snapshot->record(i)))) return;
}

Record GridRecords::find(const RecordKey& key) const {
    const auto row = d_->context.session().rowOf(key);
    return row ? d_->context.record(*row) : Record();
}

void GridRecords::resort() { d_->context.session().view().resort(); }

namespace {
std::vector<std::string> plainKeyOf(const Record& record) {
    std::vector<std::string> key;
    if (!record.isValid()) return key;
    for (const Value& value : record.key()) appendPlain(key.emplace_back(), value);
    return key;
}
}  // namespace

bool GridRecords::pin(const Record& record, PinnedRecord::Edge edge) {
    const std::vector<std::string> key = plainKeyOf(record);
    if (key.empty()) return false;
    d_->grid.changeDesign([&](Design& design) {
        std::erase_if(design.grid.pinnedRecords, [&](const PinnedRecord& r) { return r.key == key; });
        design.grid.pinnedRecords.push_back({key, edge});
    });
    return true;
}

void GridRecords::unpin(const Record& record) {
    d_->grid.changeDesign([key = plainKeyOf(record)](Design& design) {
        std::erase_if(design.grid.pinnedRecords, [&](const PinnedRecord& r) { return r.key == key; });
    });
}

bool GridRecords::isPinned(const Record& record) const {
    const std::vector<std::string> key = plainKeyOf(record);
    const auto& pinned = d_->context.design().grid.pinnedRecords;
    return std::any_of(pinned.begin(), pinned.end(), [&](const PinnedRecord& r) { return r.key == key; });
}

bool GridRecords::begin() { return d_->records.insert(); }

bool GridRecords::editCurrentCell() { return d_->editors.begin({}); }

std::size_t GridRecords::unsaved() const { return d_->context.session().records().unsaved(); }

std::vector<RecordChanges> GridRecords::changes() const { return changesOf(d_->context); }

int GridRecords::save(const Record& record) {
    const auto row = rowNow(d_->context.session(), record);
    return row ? static_cast<int>(d_->context.session().records().save({*row})) : 0;
}

int GridRecords::saveAll() {
    if (!d_->editors.mayLeave()) return 0;
    return static_cast<int>(d_->context.session().records().saveAll());
}

Result<int> GridRecords::saveTogether(const std::vector<Grid*>& grids) {
    std::vector<SessionRecords*> sessions;
    for (Grid* grid : grids)
        if (!grid->records().d_->editors.mayLeave())
            return Error{ErrorCode::InvalidInput, "What is being typed is to be put right first. Nothing was saved."};
    for (Grid* grid : grids) sessions.push_back(&grid->session().records());
    const auto saved = SessionRecords::saveTogether(sessions);
    if (!saved) return saved.error();
    return static_cast<int>(*saved);
}

void GridRecords::revert(const Record& record) {
    if (const auto row = rowNow(d_->context.session(), record)) d_->context.session().records().revert(*row);
    d_->editors.showRefusal();
}

void GridRecords::revertAll() {
    d_->editors.end();
    d_->context.session().records().revertAll();
}

bool GridRecords::undo() { return d_->records.undo(false); }

bool GridRecords::redo() { return d_->records.undo(true); }

bool GridRecords::canUndo() const { return d_->context.session().steps().history().canUndo(); }

bool GridRecords::canRedo() const { return d_->context.session().steps().history().canRedo(); }

void GridRecords::setDraftFolder(const QString& folder) {
    d_->opened.stateFolder = folder.toStdString();
    d_->context.session().drafts().setFolder(d_->opened.stateFolder);
}

int GridRecords::takeUpDrafts() { return static_cast<int>(d_->context.session().drafts().takeUp()); }

void GridRecords::dropDrafts() { d_->context.session().drafts().drop(); }

}  // namespace jollyrow
