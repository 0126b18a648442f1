// SPDX-License-Identifier: MIT
// What is wrong with edited records: by rules, by the application's functions, by what the store has already.
// Covered by tests/session/records_test.cpp and record_checks_test.cpp.
#include <algorithm>

#include "core/session/session.h"

namespace jollyrow {

void Session::findProblems(std::span<const SourceRow> rows) {
    auto problems = problemsOf(plan_->checks, evaluationInput(), rows);
    for (std::size_t i = 0; i < rows.size(); ++i) addFound(rows[i], problems[i]);
    std::shared_ptr<Edits> next;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const RecordEdit* record = edits()->record(rows[i]);
        if (!record || record->problems() == problems[i]) continue;
        RecordEdit checked = *record;
        checked.setProblems(problems[i]);
        if (!next) next = std::make_shared<Edits>(*edits());
        next->setRecord(rows[i], std::move(checked));
    }
    if (next) journal_.setEdits(std::move(next));
    askPresence();
}

/// What is wrong with a record besides rules.
void Session::addFound(SourceRow row, std::vector<RecordProblem>& problems) {
    const RecordEdit* record = edits()->record(row);
    if (!record || (checks_.empty() && !source_)) return;
    const RecordChecks::Record edited{
        row, *record, schema_,
        [this, row](FieldIndex field) {
            const CellEdit* edit = edits()->find(row, field);
            const Column* column = edit ? nullptr : table_->column(field);
            return edit ? edit->value : column ? column->value(row) : Value(Empty{});
        },
        [this](FieldIndex field) { return design_.headingOf(schema_.field(field).name); }};
    checks_.addJudged(edited, problems);
    // Where each cell is saved at once, the database itself tells sooner.
    const bool isAskedAnyway = design_.grid.saving == Saving::EachCell && record->change() != RecordChange::Insert;
    if (!source_ || isAskedAnyway) return;
    checks_.addPresence(
        edited,
        [&] {
            return RecordRequest{
                schema_, journal_.keyOf(*table_, row), table_->rowIds != nullptr, table_->keyFields, {}};
        },
        problems);
}

void Session::askPresence() {
    auto open = checks_.open();
    if (open.empty()) return;
    std::vector<PresenceRequest> requests;
    for (const RecordChecks::Question& question : open) requests.push_back(question.request);
    enquiries_.ask(
        Enquiries::Kind::Presence,
        [requests = std::move(requests), source = source_](const Cancel& cancel) {
            return source->arePresent(requests, cancel);
        },
        [this, open = std::move(open)](const Result<std::vector<bool>>& answers) {
            // A source that cannot tell now says it when the record is saved.
            std::vector<SourceRow> rows;
            for (std::size_t i = 0; answers && i < std::min(open.size(), answers->size()); ++i)
                if (checks_.take(open[i], (*answers)[i])) rows.push_back(open[i].row);
            if (rows.empty()) return;
            findProblems(rows);
            showEdits();
        });
}

/// A check has answered: what it says of the record is shown, and one that waited for it is saved as designed.
void Session::checkAnswered(SourceRow row) {
    const RecordEdit* record = edits()->record(row);
    if (!record) return;
    const bool waited = std::any_of(record->problems().begin(), record->problems().end(),
                                    [](const RecordProblem& problem) { return problem.isWaiting; });
    findProblems({&row, 1});
    if (waited && leftWaiting_.erase(row) != 0) leave(row);
    if (waited) saveAsDesigned({row});
    showEdits();
}

void Session::setRecordChecks(std::vector<RecordCheck> checks) {
    JOLLYROW_REQUIRE(owner_.isHere());
    checks_.set(std::move(checks));
    findAllProblems();
    if (snapshot_) showEdits();
}

std::vector<std::optional<RecordProblem>> Session::problemsWith(const std::vector<CellWrite>& cells) const {
    std::vector<std::optional<RecordProblem>> all(cells.size());
    EvaluationInput input = evaluationInput();
    if (plan_->checks.empty() && checks_.empty()) return all;
    auto some = std::make_shared<Edits>();
    std::vector<SourceRow> rows;
    std::vector<std::uint32_t> records;
    std::map<SourceRow, std::size_t> places;
    for (const CellWrite& cell : cells) {
        if (raw(cell.row) >= input.table->rows) continue;
        if (places.try_emplace(cell.row, rows.size()).second) {
            rows.push_back(cell.row);
            records.push_back(raw(cell.row));
            if (const RecordEdit* record = edits()->record(cell.row)) some->setRecord(cell.row, *record);
        }
        some->set(cell.row, cell.field,
                  {cell.value, journal_.stored(*table_, cell.row, cell.field), EditState::Draft, {}, {}});
    }
    input.edits = some;
    if (!plan_->computed.empty()) input.edits = withComputedCells(plan_->computed, input, records);
    auto problems = problemsOf(plan_->checks, input, rows);
    for (std::size_t i = 0; i < rows.size() && !checks_.empty(); ++i) {
        const auto read = [&](FieldIndex field) {
            const CellEdit* edit = input.edits->find(rows[i], field);
            const Column* column = edit ? nullptr : table_->column(field);
            return edit ? edit->value : column ? column->value(rows[i]) : Value(Empty{});
        };
        checks_.addJudgedAtOnce({rows[i], *input.edits->record(rows[i]), schema_, read}, problems[i]);
    }
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const auto place = places.find(cells[i].row);
        if (place == places.end()) continue;
        for (const RecordProblem& problem : problems[place->second])
            if (!all[i] &&
                std::find(problem.fields.begin(), problem.fields.end(), cells[i].field) != problem.fields.end())
                all[i] = problem;
    }
    return all;
}

/// The checks, or the fields that they read, are others now.
void Session::findAllProblems() {
    std::vector<SourceRow> rows;
    // With other fields it is done when they are there.
    const bool isMeant = snapshot_ && snapshot_->table->schema.fields == schema_.fields;
    const std::size_t shown = isMeant ? snapshot_->table->rows : 0;
    edits()->forEachRecord([&](SourceRow row, const RecordEdit&) {
        if (raw(row) < shown) rows.push_back(row);
    });
    if (!rows.empty()) findProblems(rows);
}

}  // namespace jollyrow
