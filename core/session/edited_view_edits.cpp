// SPDX-License-Identifier: MIT
// Edits are shown at once; what follows from them is made again. Covered by tests/session/session_test.cpp and
// session_model_test.cpp.
#include <algorithm>
#include <cmath>

#include "core/session/edited_view.h"

namespace jollyrow {

/// The edits of now, with the computed cells of `made` where nothing was edited since it was begun.
std::shared_ptr<const Edits> EditedView::withComputedOf(const Snapshot& made) const {
    if (bound_.plan->computed.empty()) return bound_.edits();
    const std::size_t stored = made.table->schema.storedFields();
    std::vector<FieldIndex> fields;
    for (std::size_t i = 0; i < stored; ++i) fields.push_back(static_cast<FieldIndex>(i));
    const auto since = changedRecords(made.edits.get(), bound_.edits().get(), fields);
    auto next = std::make_shared<Edits>(*withoutComputedCells(*bound_.edits(), made.table->schema));
    if (made.edits)
        made.edits->forEach([&](Edits::Place place, const CellEdit& edit) {
            if (raw(place.second) >= stored) next->set(place.first, place.second, edit);
        });
    return withComputedCells(bound_.plan->computed,
                             jollyrow::evaluationInput(made.table, std::move(next), bound_.state), since);
}

void EditedView::setEdits(std::shared_ptr<const Edits> edits, std::span<const SourceRow> changed) {
    bound_.journal.setEdits(std::move(edits));
    // A table that has just got more room is shown a moment later; then these are made, too.
    const EvaluationInput input = bound_.evaluationInput();
    std::vector<std::uint32_t> records;
    std::vector<SourceRow> rows;
    for (const SourceRow row : changed) {
        if (raw(row) >= input.table->rows) continue;
        records.push_back(raw(row));
        rows.push_back(row);
    }
    if (!bound_.plan->computed.empty())
        bound_.journal.setEdits(withComputedCells(bound_.plan->computed, input, records));
    if (!rows.empty()) hooks_.edited(rows);
}

void EditedView::showEdits(Lines lines) {
    auto next = std::make_shared<Snapshot>(*bound_.snapshot);
    next->edits = bound_.edits();
    show(std::move(next));
    // Sums over all records, groups, figures and the ends of bars are made on the worker; nobody moves for it but to
    // another group.
    if (lines == Lines::Changed || !bound_.plan->grouping->empty() || !bound_.plan->extents.empty() ||
        !bound_.plan->banners.empty() ||
        std::any_of(bound_.plan->computed.begin(), bound_.plan->computed.end(),
                    [](const ComputedTerm& term) { return !term.program->windows.empty(); }))
        recompute(Order::Kept);
}

void EditedView::showElsewhere(std::span<const SourceRow> changed) {
    const bool isHeld = !outOfPlace_.empty();
    if (isHeld) outOfPlace_.insert(changed.begin(), changed.end());
    auto next = std::make_shared<Snapshot>(*bound_.snapshot);
    next->edits = bound_.edits();
    show(std::move(next));
    recompute(isHeld ? Order::Kept : Order::Anew);
}

void EditedView::standAsMade(SourceRow row, const RecordFate& fate) {
    RecordEdit isThere;
    isThere.setFate(fate);
    orderEdits_ = orderEdits_->withRecord(row, std::move(isThere));
}

void EditedView::forgetComputedBefore() {
    recorded_->move([this](Edits::Place place) {
        return raw(place.second) < bound_.schema.storedFields() ? std::optional(place) : std::nullopt;
    });
}

namespace {
bool reads(const std::vector<FieldIndex>& fields, const std::vector<FieldIndex>& changed) {
    return std::find_first_of(fields.begin(), fields.end(), changed.begin(), changed.end()) != fields.end();
}
}  // namespace

void EditedView::noteOutOfPlace(const std::map<SourceRow, std::set<FieldIndex>>& edited) {
    auto some = std::make_shared<Edits>();  // nothing else is read
    std::map<FieldIndex, std::vector<FieldIndex>> touchedBy;
    std::map<SourceRow, std::vector<FieldIndex>> touched;
    EvaluationInput input = bound_.evaluationInput();
    for (const auto& [row, fields] : edited) {
        if (raw(row) >= input.table->rows) continue;
        if (const RecordEdit* record = bound_.edits()->record(row)) some->setRecord(row, *record);
        for (const FieldIndex field : fields) {
            const auto known = touchedBy.try_emplace(field);
            if (known.second) known.first->second = fieldsTouched(bound_.plan->computed, field);
            touched[row].insert(touched[row].end(), known.first->second.begin(), known.first->second.end());
        }
    }
    for (const auto& [row, changed] : touched) {
        for (const SortTerm& term : bound_.plan->sort)
            if (!bound_.state.isBypassed(Stage::Sort) && reads(fieldsOf(term), changed)) outOfPlace_.insert(row);
        for (const PlannedBanner& banner : bound_.plan->banners)
            if (banner.design.heads && reads(banner.where->fields, changed)) outOfPlace_.insert(row);
    }
    input.edits = some;
    input.forFew = true;
    holdOutsideFilter(touched, input);
}

void EditedView::holdOutsideFilter(const std::map<SourceRow, std::vector<FieldIndex>>& touched,
                                   const EvaluationInput& input) {
    for (const FilterTerm& term : bound_.plan->filter) {
        const auto& used = term.program->parameters;
        const bool isLifted = bound_.state.isBypassed(Stage::Filter) ||
                              std::any_of(used.begin(), used.end(),
                                          [this](const auto& p) { return !bound_.state.parameters.contains(p.name); });
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

void EditedView::recording(std::span<const SourceRow> rows, bool takesBack, const std::function<void()>& edit) {
    if (bound_.plan->recorded.empty()) return edit();
    // The computed ones stand in the snapshot's table.
    const auto number = [&](SourceRow row, FieldIndex field) {
        const Table& shown = bound_.snapshot && bound_.snapshot->table->rows == bound_.table->rows
                                 ? *bound_.snapshot->table
                                 : *bound_.table;
        return numberIn(shown, bound_.edits().get(), row, field);
    };
    std::vector<double> before;
    for (const SourceRow row : rows)
        for (const FieldIndex field : bound_.plan->recorded) before.push_back(number(row, field));
    edit();
    std::size_t at = 0;
    for (const SourceRow row : rows)
        for (const FieldIndex field : bound_.plan->recorded) {
            const double was = before[at++], now = number(row, field);
            if (now == was || (std::isnan(now) && std::isnan(was))) continue;
            takesBack ? recorded_->takeBack(row, field, was, now) : recorded_->note(row, field, was);
        }
}

}  // namespace jollyrow
