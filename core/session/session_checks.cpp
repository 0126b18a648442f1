// SPDX-License-Identifier: MIT
// Covered by tests/session/records_test.cpp and record_checks_test.cpp.
#include "core/session/session_checks.h"

#include <algorithm>
#include <utility>

namespace jollyrow {

SessionChecks::SessionChecks(BoundRecords& bound, EditedView& view, Enquiries& enquiries, Hooks hooks)
    : bound_(bound), view_(view), enquiries_(enquiries), hooks_(std::move(hooks)) {}

void SessionChecks::forgetRows() {
    checks_.forget();
    left_.clear();
}

namespace {
/// What was saved, here or elsewhere, keeps the rules or the database would not have it.
bool isToLookAt(const RecordEdit* record) {
    if (!record) return false;
    const auto& cells = record->cells();
    return !record->problems().empty() || (record->fate() && isUnsaved(record->fate()->state)) ||
           std::any_of(cells.begin(), cells.end(),
                       [](const RecordEdit::Cell& cell) { return isUnsaved(cell.second.state); });
}
}  // namespace

void SessionChecks::find(std::span<const SourceRow> edited) {
    std::vector<SourceRow> rows;
    for (const SourceRow row : edited)
        if (isToLookAt(bound_.edits()->record(row))) rows.push_back(row);
    auto problems = problemsOf(bound_.plan->checks, bound_.evaluationInput(), rows);
    for (std::size_t i = 0; i < rows.size(); ++i) addFound(rows[i], problems[i]);
    std::shared_ptr<Edits> next;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const RecordEdit* record = bound_.edits()->record(rows[i]);
        if (!record || record->problems() == problems[i]) continue;
        RecordEdit checked = *record;
        checked.setProblems(problems[i]);
        if (!next) next = std::make_shared<Edits>(*bound_.edits());
        next->setRecord(rows[i], std::move(checked));
    }
    if (next) bound_.journal.setEdits(std::move(next));
    askPresence();
}

/// What is wrong with a record besides rules.
void SessionChecks::addFound(SourceRow row, std::vector<RecordProblem>& problems) {
    const RecordEdit* record = bound_.edits()->record(row);
    if (!record || (checks_.empty() && !bound_.source)) return;
    const RecordChecks::Record edited{
        row, *record, bound_.schema, [this, row](FieldIndex field) { return bound_.shown(row, field); },
        [this](FieldIndex field) { return bound_.design.headingOf(bound_.schema.field(field).name); }};
    checks_.addJudged(edited, problems);
    // Where each cell is saved at once, the database itself tells sooner.
    const bool isAskedAnyway =
        bound_.design.grid.saving == Saving::EachCell && record->change() != RecordChange::Insert;
    if (!bound_.source || isAskedAnyway) return;
    checks_.addPresence(
        edited, [&] { return bound_.request(row); }, problems);
}

void SessionChecks::askPresence() {
    auto open = checks_.open();
    if (open.empty()) return;
    std::vector<PresenceRequest> requests;
    for (const RecordChecks::Question& question : open) requests.push_back(question.request);
    enquiries_.ask(
        Enquiries::Kind::Presence,
        [requests = std::move(requests), source = bound_.source](const Cancel& cancel) {
            return source->arePresent(requests, cancel);
        },
        [this, open = std::move(open)](const Result<std::vector<bool>>& answers) {
            // A source that cannot tell now says it when the record is saved.
            std::vector<SourceRow> rows;
            for (std::size_t i = 0; answers && i < std::min(open.size(), answers->size()); ++i)
                if (checks_.take(open[i], (*answers)[i])) rows.push_back(open[i].row);
            if (rows.empty()) return;
            find(rows);
            view_.showEdits();
        });
}

/// A check has answered: what it says of the record is shown, and one that waited for it is saved as designed.
void SessionChecks::answered(SourceRow row) {
    const RecordEdit* record = bound_.edits()->record(row);
    if (!record) return;
    const bool waited = std::any_of(record->problems().begin(), record->problems().end(),
                                    [](const RecordProblem& problem) { return problem.isWaiting; });
    find({&row, 1});
    if (waited && left_.erase(row) != 0) hooks_.left(row);
    if (waited) hooks_.answered(row);
    view_.showEdits();
}

void SessionChecks::set(std::vector<RecordCheck> checks) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    checks_.set(std::move(checks));
    findAll();
    if (bound_.snapshot) view_.showEdits();
}

std::vector<std::optional<RecordProblem>> SessionChecks::problemsWith(const std::vector<CellWrite>& cells) const {
    std::vector<std::optional<RecordProblem>> all(cells.size());
    EvaluationInput input = bound_.evaluationInput();
    if (bound_.plan->checks.empty() && checks_.empty()) return all;
    auto some = std::make_shared<Edits>();
    std::vector<SourceRow> rows;
    std::vector<std::uint32_t> records;
    std::map<SourceRow, std::size_t> places;
    for (const CellWrite& cell : cells) {
        if (raw(cell.row) >= input.table->rows) continue;
        if (places.try_emplace(cell.row, rows.size()).second) {
            rows.push_back(cell.row);
            records.push_back(raw(cell.row));
            if (const RecordEdit* record = bound_.edits()->record(cell.row)) some->setRecord(cell.row, *record);
        }
        some->set(cell.row, cell.field,
                  {cell.value, bound_.journal.stored(*bound_.table, cell.row, cell.field), EditState::Draft, {}, {}});
    }
    input.edits = some;
    if (!bound_.plan->computed.empty()) input.edits = withComputedCells(bound_.plan->computed, input, records);
    auto problems = problemsOf(bound_.plan->checks, input, rows);
    for (std::size_t i = 0; i < rows.size() && !checks_.empty(); ++i) {
        const auto read = [&](FieldIndex field) {
            const CellEdit* edit = input.edits->find(rows[i], field);
            const Column* column = edit ? nullptr : bound_.table->column(field);
            return edit ? edit->value : column ? column->value(rows[i]) : Value(Empty{});
        };
        checks_.addJudgedAtOnce({rows[i], *input.edits->record(rows[i]), bound_.schema, read}, problems[i]);
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

void SessionChecks::findAll() {
    std::vector<SourceRow> rows;
    // With other fields it is done when they are there.
    const bool isMeant = bound_.snapshot && bound_.snapshot->table->schema.fields == bound_.schema.fields;
    const std::size_t shown = isMeant ? bound_.snapshot->table->rows : 0;
    bound_.edits()->forEachRecord([&](SourceRow row, const RecordEdit&) {
        if (raw(row) < shown) rows.push_back(row);
    });
    if (!rows.empty()) find(rows);
}

}  // namespace jollyrow
