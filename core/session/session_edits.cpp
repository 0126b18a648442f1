// SPDX-License-Identifier: MIT
// A session's edits: shown at once, saved behind, what follows from them made again.
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/session/session.h"

namespace jollyrow {

/// The edits of now, with the computed cells of `made` where nothing was edited since it was begun.
std::shared_ptr<const Edits> Session::withComputedOf(const Snapshot& made) const {
    if (plan_->computed.empty()) return edits();
    const std::size_t stored = made.table->schema.storedFields();
    std::vector<FieldIndex> fields;
    for (std::size_t i = 0; i < stored; ++i) fields.push_back(static_cast<FieldIndex>(i));
    const auto since = changedRecords(made.edits.get(), edits().get(), fields);
    auto next = std::make_shared<Edits>(*withoutComputedCells(*edits(), made.table->schema));
    if (made.edits)
        made.edits->forEach([&](Edits::Place place, const CellEdit& edit) {
            if (raw(place.second) >= stored) next->set(place.first, place.second, edit);
        });
    return withComputedCells(plan_->computed, jollyrow::evaluationInput(made.table, std::move(next), state_), since);
}

void Session::setEdits(std::shared_ptr<const Edits> edits, SourceRow changed) {
    journal_.setEdits(std::move(edits));
    if (plan_->computed.empty()) return;
    const std::uint32_t record[] = {raw(changed)};
    journal_.setEdits(withComputedCells(plan_->computed, evaluationInput(), record));
}

void Session::showEdits() {
    auto next = std::make_shared<Snapshot>(*snapshot_);
    next->edits = edits();
    show(std::move(next));
    // Sums over all records, groups, figures and the ends of bars are made on the worker; nobody moves for it but to
    // another group.
    if (!plan_->grouping->empty() || !plan_->extents.empty() || !plan_->banners.empty() ||
        std::any_of(plan_->computed.begin(), plan_->computed.end(),
                    [](const ComputedTerm& term) { return !term.program->windows.empty(); }))
        recompute(Order::Kept);
}

std::function<Result<Value>()> Session::bytesReader(SourceRow row, FieldIndex field) const {
    const CellEdit* edit = edits()->find(row, field);
    const Column* column = table_->column(field);
    Value known = edit ? edit->value : column ? column->value(row) : Value(Empty{});
    if (!std::holds_alternative<Unread>(known)) return [known = std::move(known)]() -> Result<Value> { return known; };
    RecordRequest request{schema_, journal_.keyOf(*table_, row), table_->rowIds != nullptr, table_->keyFields, {field}};
    return [request = std::move(request), source = source_]() -> Result<Value> {
        auto values = source->valuesOf(request);
        if (!values) return values.error();
        return std::move(values->front());
    };
}

void Session::noteRead(std::uint32_t epoch, SourceRow row, FieldIndex field, std::uint64_t digest) {
    if (epoch == epoch_) digests_[{row, field}] = digest;
}

void Session::resort() { recompute(); }

/// Would a condition leave this record out? One that sums up all records is taken to.
bool Session::leavesOut(const FilterTerm& term, const EvaluationInput& input, SourceRow row) const {
    for (const auto& used : term.program->parameters)
        if (!state_.parameters.contains(used.name)) return false;
    if (!term.program->windows.empty()) return true;
    const auto cell = evaluateOne(term.program, input, row);
    return cell && !(cell->state == CellState::Filled && cell->value == RuleValue(true));
}

/// Notes a record that an edit of this field moves out of the sort order or the filter.
void Session::noteOutOfPlace(SourceRow row, FieldIndex field, const Edits& edited) {
    const std::vector<FieldIndex> touched = fieldsTouched(plan_->computed, field);
    const auto reads = [&touched](const std::vector<FieldIndex>& fields) {
        return std::find_first_of(fields.begin(), fields.end(), touched.begin(), touched.end()) != fields.end();
    };
    for (const SortTerm& term : plan_->sort)
        if (!isBypassed(Stage::Sort) && reads(fieldsOf(term))) outOfPlace_.insert(row);
    for (const PlannedBanner& banner : plan_->banners)
        if (banner.design.heads && reads(banner.where->fields)) outOfPlace_.insert(row);
    EvaluationInput input = evaluationInput();
    input.edits = edited.of(row);  // nothing else is read
    const std::uint32_t record[] = {raw(row)};
    input.edits = withComputedCells(plan_->computed, input, record);
    for (const FilterTerm& term : plan_->filter)
        if (!isBypassed(Stage::Filter) && reads(term.program->fields) && leavesOut(term, input, row))
            outOfPlace_.insert(row);
}

/// False when it is what the cell shows already.
bool Session::take(const CellWrite& cell) {
    const auto [row, field, value, label] = cell;
    const CellEdit* existing = edits()->find(row, field);
    const Column* column = table_->column(field);
    const Value shown = existing ? existing->value : column ? column->value(row) : Value(Empty{});
    if (shown == value && (!existing || existing->state != EditState::Refused)) return false;
    if (!existing && column && column->misfit(row) && isEmpty(value)) return false;
    Value before = journal_.stored(*table_, row, field);
    if (auto* unread = std::get_if<Unread>(&before))
        if (const auto known = digests_.find({row, field}); known != digests_.end()) unread->digest = known->second;
    auto next = edits()->with(row, field, {value, std::move(before), EditState::Saving, {}, label});
    noteOutOfPlace(row, field, *next);
    setEdits(std::move(next), row);
    return true;
}

void Session::edit(SourceRow row, FieldIndex field, Value value, std::string label) {
    edit({{row, field, std::move(value), std::move(label)}});
}

void Session::edit(const std::vector<CellWrite>& cells) {
    JOLLYROW_REQUIRE(owner_.isHere());
    std::vector<Edits::Place> taken;
    for (const CellWrite& cell : cells)
        if (take(cell)) taken.emplace_back(cell.row, cell.field);
    if (taken.empty()) return;
    showEdits();
    for (const Edits::Place& place : taken) journal_.save(*table_, schema_, place);
}

void Session::retry(SourceRow row, FieldIndex field) {
    const CellEdit* existing = edits()->find(row, field);
    if (!existing || existing->state != EditState::Refused) return;
    CellEdit again = *existing;
    again.state = EditState::Saving;
    again.message.clear();
    setEdits(edits()->with(row, field, std::move(again)), row);
    showEdits();
    journal_.save(*table_, schema_, {row, field});
}

void Session::putBack(SourceRow row, FieldIndex field) {
    const CellEdit* existing = edits()->find(row, field);
    if (!existing || existing->state != EditState::Refused) return;
    const Column* column = table_->column(field);
    if (column && column->value(row) == existing->original)
        setEdits(edits()->without(row, field), row);
    else
        setEdits(edits()->with(row, field, {existing->original, existing->original, EditState::Saved, {}, {}}), row);
    showEdits();
}

void Session::answered(std::uint64_t serial, const Result<StoredRecord>& answer) {
    const auto taken = journal_.take(serial, answer, *table_);
    if (!taken) return;
    const auto [row, field] = taken->place;
    setEdits(edits()->with(row, field, taken->edit), row);
    showEdits();
    if (!taken->isNewest) return;
    if (answer) readRelatedAgain(row, field);
    if (answer && design_.grid.resortAtOnce && orderIsStale()) resort();
    if (listener_.onEditAnswered) listener_.onEditAnswered(row, field, taken->edit);
}

/// After a foreign key was saved, the record's related fields are other ones.
void Session::readRelatedAgain(SourceRow row, FieldIndex changed) {
    std::vector<bool> touched(schema_.joins.size() + 1, false);
    RecordRequest request;
    for (std::size_t n = 1; n < touched.size(); ++n) {
        const Join& join = schema_.joins[n - 1];
        touched[n] = join.parent != 0 ? touched[static_cast<std::size_t>(join.parent)]
                                      : std::find(join.fields.begin(), join.fields.end(),
                                                  schema_.field(changed).name) != join.fields.end();
    }
    for (std::size_t i = 0; i < schema_.fields.size(); ++i)
        if (touched[static_cast<std::size_t>(schema_.fields[i].join)])
            request.fields.push_back(static_cast<FieldIndex>(i));
    if (request.fields.empty() || !table_->hasKeys()) return;
    request.schema = schema_;
    request.key = journal_.keyOf(*table_, row);
    request.keyIsRowId = table_->rowIds != nullptr;
    request.keyFields = table_->keyFields;
    enquiries_.ask([request, source = source_] { return source->valuesOf(request); },
                   [this, fields = request.fields, row, table = table_](const Result<std::vector<Value>>& values) {
                       if (!values || table != table_) return;
                       auto next = edits();
                       for (std::size_t i = 0; i < fields.size(); ++i)
                           next = next->with(row, fields[i], {(*values)[i], (*values)[i], EditState::Saved, {}});
                       setEdits(std::move(next), row);
                       showEdits();
                   });
}

}  // namespace jollyrow
