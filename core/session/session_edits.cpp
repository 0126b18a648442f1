// SPDX-License-Identifier: MIT
// A session's edits: shown at once, saved behind, what follows from them made again.
// Covered by tests/session/session_test.cpp and session_model_test.cpp.
#include "core/editing/taken_back.h"
#include "core/session/session.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>

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

void Session::setEdits(std::shared_ptr<const Edits> edits, std::span<const SourceRow> changed) {
    journal_.setEdits(std::move(edits));
    // A table that has just got more room is shown a moment later; then these are made, too.
    const EvaluationInput input = evaluationInput();
    std::vector<std::uint32_t> records;
    std::vector<SourceRow> rows;
    for (const SourceRow row : changed) {
        if (raw(row) >= input.table->rows) continue;
        records.push_back(raw(row));
        rows.push_back(row);
    }
    if (!plan_->computed.empty()) journal_.setEdits(withComputedCells(plan_->computed, input, records));
    if (!rows.empty()) findProblems(rows);
}

void Session::showEdits(Lines lines) {
    auto next = std::make_shared<Snapshot>(*snapshot_);
    next->edits = edits();
    show(std::move(next));
    // Sums over all records, groups, figures and the ends of bars are made on the worker; nobody moves for it but to
    // another group.
    if (lines == Lines::Changed || !plan_->grouping->empty() || !plan_->extents.empty() || !plan_->banners.empty() ||
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

/// Notes records that edits of these fields move out of the sort order or the filter.
void Session::noteOutOfPlace(const std::map<SourceRow, std::set<FieldIndex>>& edited) {
    auto some = std::make_shared<Edits>();  // nothing else is read
    std::map<FieldIndex, std::vector<FieldIndex>> touchedBy;
    std::map<SourceRow, std::vector<FieldIndex>> touched;
    EvaluationInput input = evaluationInput();
    for (const auto& [row, fields] : edited) {
        if (raw(row) >= input.table->rows) continue;
        if (const RecordEdit* record = edits()->record(row)) some->setRecord(row, *record);
        for (const FieldIndex field : fields) {
            const auto known = touchedBy.try_emplace(field);
            if (known.second) known.first->second = fieldsTouched(plan_->computed, field);
            touched[row].insert(touched[row].end(), known.first->second.begin(), known.first->second.end());
        }
    }
    const auto reads = [](const std::vector<FieldIndex>& fields, const std::vector<FieldIndex>& changed) {
        return std::find_first_of(fields.begin(), fields.end(), changed.begin(), changed.end()) != fields.end();
    };
    for (const auto& [row, changed] : touched) {
        for (const SortTerm& term : plan_->sort)
            if (!isBypassed(Stage::Sort) && reads(fieldsOf(term), changed)) outOfPlace_.insert(row);
        for (const PlannedBanner& banner : plan_->banners)
            if (banner.design.heads && reads(banner.where->fields, changed)) outOfPlace_.insert(row);
    }
    input.edits = some;
    input.forFew = true;
    for (const FilterTerm& term : plan_->filter) {
        const auto& used = term.program->parameters;
        const bool isLifted = isBypassed(Stage::Filter) || std::any_of(used.begin(), used.end(), [this](const auto& p) {
                                  return !state_.parameters.contains(p.name);
                              });
        std::unique_ptr<Runner> runner;
        for (const auto& [row, changed] : touched) {
            if (isLifted || !reads(term.program->fields, changed)) continue;
            if (!term.program->windows.empty()) {  // one that sums up all records is taken to leave it out
                outOfPlace_.insert(row);
                continue;
            }
            if (!runner) {
                auto evaluation = Evaluation::prepare(term.program, input, Cancel());
                if (!evaluation) break;
                runner = std::make_unique<Runner>(*evaluation);
            }
            const EvaluatedCell cell = cellOf(runner->run(raw(row), 1), 0);
            if (!(cell.state == CellState::Filled && cell.value == RuleValue(true))) outOfPlace_.insert(row);
        }
    }
}

/// False when it is what the cell shows already, or the record is being deleted.
bool Session::take(const CellWrite& cell, Edits& next) {
    const auto [row, field, value, label] = cell;
    if (const RecordFate* fate = next.fate(row); fate && fate->change == RecordChange::Delete) return false;
    if (raw(row) >= table_->loaded() && !next.fate(row)) return false;  // no record
    const CellEdit* existing = next.find(row, field);
    const Column* column = table_->column(field);
    const Value shown = existing ? existing->value : column ? column->value(row) : Value(Empty{});
    const bool isSettled =
        !existing || (existing->state != EditState::Refused && existing->state != EditState::Conflict);
    if (shown == value && isSettled) return false;
    if (!existing && column && column->misfit(row) && isEmpty(value)) return false;
    CellEdit typed{value, {}, EditState::Draft, {}, label};
    typed.original = existing ? existing->state == EditState::Saved ? existing->value : existing->original : shown;
    if (existing) typed.sent = existing->sent;
    if (existing && existing->state == EditState::Conflict) {  // typed over, it is still to be decided
        typed.state = EditState::Conflict;
        typed.theirs = existing->theirs;
        typed.message = existing->message;
    }
    if (auto* unread = std::get_if<Unread>(&typed.original))
        if (const auto known = digests_.find({row, field}); known != digests_.end()) unread->digest = known->second;
    next.set(row, field, std::move(typed));
    return true;
}

template <class Edit>
void Session::recording(std::span<const SourceRow> rows, bool takesBack, const Edit& edit) {
    if (plan_->recorded.empty()) return edit();
    // The computed ones stand in the snapshot's table.
    const auto number = [&](SourceRow row, FieldIndex field) {
        const Table& shown = snapshot_ && snapshot_->table->rows == table_->rows ? *snapshot_->table : *table_;
        return numberIn(shown, edits().get(), row, field);
    };
    std::vector<double> before;
    for (const SourceRow row : rows)
        for (const FieldIndex field : plan_->recorded) before.push_back(number(row, field));
    edit();
    std::size_t at = 0;
    for (const SourceRow row : rows)
        for (const FieldIndex field : plan_->recorded) {
            const double was = before[at++], now = number(row, field);
            if (now == was || (std::isnan(now) && std::isnan(was))) continue;
            takesBack ? recorded_->takeBack(row, field, was, now) : recorded_->note(row, field, was);
        }
}

void Session::edit(SourceRow row, FieldIndex field, Value value, std::string label) {
    edit({{row, field, std::move(value), std::move(label)}});
}

void Session::edit(const std::vector<CellWrite>& cells) {
    JOLLYROW_REQUIRE(owner_.isHere());
    auto next = std::make_shared<Edits>(*edits());
    std::map<SourceRow, std::set<FieldIndex>> taken;
    EditStep step;
    for (const CellWrite& cell : cells) {
        const CellEdit* before = next->find(cell.row, cell.field);
        const Column* column = table_->column(cell.field);
        EditStep::Cell undone{cell.row,
                              cell.field,
                              before   ? before->value
                              : column ? column->value(cell.row)
                                       : Value(Empty{}),
                              cell.value,
                              before ? before->label : std::string(),
                              cell.label,
                              !before && !journal_.isStored(cell.row)};
        if (!take(cell, *next)) continue;
        taken[cell.row].insert(cell.field);
        step.cells.push_back(std::move(undone));
    }
    if (taken.empty()) return;
    std::vector<SourceRow> rows;
    for (const auto& [row, fields] : taken) rows.push_back(row);
    recording(rows, false, [&] { setEdits(std::move(next), rows); });
    noteOutOfPlace(taken);
    history_.note(std::move(step));
    saveAsDesigned(rows);
    showEdits();
}

void Session::retry(SourceRow row, FieldIndex field) {
    const CellEdit* existing = edits()->find(row, field);
    if (!existing || (existing->state != EditState::Refused && existing->state != EditState::Conflict)) return;
    if (existing->state == EditState::Conflict && existing->theirs) return resolve(row, {});
    CellEdit again = *existing;
    again.state = EditState::Draft;
    setEdits(edits()->with(row, field, std::move(again)), row);
    save({row});
}

void Session::putBack(SourceRow row, FieldIndex field) {
    const CellEdit* existing = edits()->find(row, field);
    if (!existing || existing->state == EditState::Saved || existing->state == EditState::Saving) return;
    if (isLostElsewhere(*edits()->record(row))) return revert(row);
    const Column* column = table_->column(field);
    const Value stored = existing->theirs ? *existing->theirs : existing->original;
    const bool asLoaded = column && column->value(row) == stored;
    const bool isNew = !journal_.isStored(row);
    recording({&row, 1}, true, [&] {
        if (auto left = onItsWayStill(*existing))
            setEdits(edits()->with(row, field, std::move(*left)), row);
        else if (asLoaded || isNew)
            setEdits(edits()->without(row, field), row);
        else
            setEdits(edits()->with(row, field, {stored, stored, EditState::Saved, {}, {}}), row);
    });
    showEdits();
}

/// By the heading of its column, and the value as that shows it; keys of look-ups tell nobody anything.
std::string Session::wordsOf(const Conflict& conflict) const {
    if (conflict.isGone()) return words(conflict, schema_);
    const Conflict::Field& first = conflict.fields.front();
    const std::string heading = design_.headingOf(schema_.field(first.field).name);
    for (const PlannedColumn& column : plan_->columns) {
        if (column.field != first.field || column.formatter->isMessage()) continue;
        if (std::holds_alternative<Unfit>(first.stored) || std::holds_alternative<Unread>(first.stored)) break;
        if (column.label) return fmt::format("Somebody changed {} meanwhile.", heading);
        std::string shown;
        column.formatter->append(shown, first.stored);
        return fmt::format("Somebody changed {} to {} meanwhile.", heading, shown.empty() ? "empty" : shown);
    }
    TableSchema named = schema_;
    named.fields[raw(first.field)].name = heading;
    return words(conflict, named);
}

void Session::answered(std::uint64_t serial, const RecordJournal::Answers& answers) {
    const auto taken = journal_.take(serial, answers, *table_);
    askLater();
    if (taken.empty()) return;
    std::vector<SourceRow> rows;
    bool linesChanged = false, isStored = false;
    for (const auto& answer : taken) {
        rows.push_back(answer.row);
        linesChanged = linesChanged || (answer.isStored && answer.change != RecordChange::Update);
        isStored = isStored || answer.isStored;
        if (answer.isStored && answer.change == RecordChange::Insert) {
            outOfPlace_.insert(answer.row);
            history_.given(answer.row, answer.given);
        }
        if (answer.isStored && answer.change == RecordChange::Delete) {
            outOfPlace_.erase(answer.row);
            history_.noteGone({&answer.row, 1});
        }
    }
    if (isStored) checks_.doubt(schema_.name);
    readDoubledAgain(taken);
    setEdits(edits(), rows);
    showEdits(linesChanged ? Lines::Changed : Lines::Same);
    for (const auto& answer : taken)
        if (answer.isStored && answer.change != RecordChange::Delete) readRelatedAgain(answer.row, answer.fields);
    if (isStored && design_.grid.resortAtOnce && orderIsStale()) resort();
    const auto shown = edits();  // a listener may edit again
    for (const auto& answer : taken) {
        for (const FieldIndex field : answer.fields)
            if (const CellEdit* edit = shown->find(answer.row, field); edit && listener_.onEditAnswered)
                listener_.onEditAnswered(answer.row, field, *edit);
        if (listener_.onRecordAnswered) listener_.onRecordAnswered(answer);
    }
}

/// A record that was inserted here, and that the table has, too: read while the store had it and its answer was still
/// on its way. Reading again makes them one.
void Session::readDoubledAgain(const std::vector<RecordJournal::Answered>& answers) {
    if (!insertsMayBeRead_) return;
    insertsMayBeRead_ = journal_.isInserting();
    for (const auto& answer : answers)
        if (answer.isStored && answer.change == RecordChange::Insert && keys_ &&
            keys_->find(journal_.keyOf(*table_, answer.row)))
            readsAgain_ = true;
    if (!isLoading() && std::exchange(readsAgain_, false)) reload();
}

/// After a foreign key was saved, the record's related fields are other ones.
void Session::readRelatedAgain(SourceRow row, std::span<const FieldIndex> changed) {
    std::vector<bool> touched(schema_.joins.size() + 1, false);
    RecordRequest request;
    const auto isChanged = [&](const std::string& name) {
        return std::any_of(changed.begin(), changed.end(),
                           [&](FieldIndex field) { return schema_.field(field).name == name; });
    };
    for (std::size_t n = 1; n < touched.size(); ++n) {
        const Join& join = schema_.joins[n - 1];
        touched[n] = join.parent != 0 ? touched[static_cast<std::size_t>(join.parent)]
                                      : std::any_of(join.fields.begin(), join.fields.end(), isChanged);
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
