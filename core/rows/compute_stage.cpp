// SPDX-License-Identifier: MIT
// Covered by tests/rows/computed_test.cpp.
#include "core/rows/compute_stage.h"

#include <algorithm>

#include "core/rows/computed_column.h"
#include "core/rows/sort_stage.h"

namespace jollyrow {
namespace {

/// More records than this are computed with the whole column.
constexpr std::size_t kMostCells = 1000;

/// The parameters a program uses, as far as they have values.
std::map<std::string, RuleValue> parametersUsed(const Program& program, const EvaluationInput& input) {
    std::map<std::string, RuleValue> used;
    for (const auto& parameter : program.parameters)
        if (const auto found = input.parameters.find(parameter.name); found != input.parameters.end())
            used.insert(*found);
    return used;
}

/// The edits of some records alone.
std::shared_ptr<const Edits> editsOf(const Edits& edits, std::span<const std::uint32_t> records) {
    if (records.size() == 1) return edits.of(static_cast<SourceRow>(records.front()));
    auto some = std::make_shared<Edits>();
    for (const std::uint32_t row : records)
        if (const RecordEdit* edited = edits.record(static_cast<SourceRow>(row)))
            some->setRecord(static_cast<SourceRow>(row), *edited);
    return some;
}

/// Sets the cells of one field in `edits`. O(records).
std::shared_ptr<const Edits> withCells(const ComputedTerm& term, EvaluationInput input,
                                       std::shared_ptr<const Edits> edits, std::span<const std::uint32_t> records) {
    input.edits = editsOf(*edits, records);  // nothing else is read, however much is edited
    input.forFew = true;
    const auto evaluation = Evaluation::prepare(term.program, input, Cancel());
    if (!evaluation) return edits;  // a column it reads is not there
    Runner runner(*evaluation);
    auto next = std::make_shared<Edits>(*edits);
    for (const std::uint32_t row : records) {
        const auto isEdited = [&](FieldIndex field) { return edits->find(static_cast<SourceRow>(row), field); };
        if (!isEdited(term.field) && std::none_of(term.program->fields.begin(), term.program->fields.end(), isEdited))
            continue;
        const EvaluatedCell cell = cellOf(runner.run(row, 1), 0);
        const std::string problem(isError(cell.state) ? words(cell.state) : "");
        const Value value = isError(cell.state) ? Value(Unfit{problem}) : plainValue(cell.value);
        next->set(static_cast<SourceRow>(row), term.field, {value, value, EditState::Saved, problem});
    }
    return next;
}

}  // namespace

std::shared_ptr<const Edits> withComputedCells(const std::vector<ComputedTerm>& terms, const EvaluationInput& input,
                                               std::span<const std::uint32_t> records) {
    std::shared_ptr<const Edits> edits = input.edits;
    for (const ComputedTerm& term : terms)
        if (term.program->windows.empty() && input.table->column(term.field))
            edits = withCells(term, input, std::move(edits), records);
    return edits;
}

std::shared_ptr<const Edits> withoutComputedCells(const Edits& edits, const TableSchema& schema) {
    const std::size_t stored = schema.storedFields();
    auto next = std::make_shared<Edits>();
    edits.forEachRecord([&](SourceRow row, const RecordEdit& record) {
        RecordEdit kept;
        kept.setFate(record.fate() ? std::optional(*record.fate()) : std::nullopt);
        kept.setProblems(record.problems());
        for (const auto& [field, edit] : record.cells())
            if (raw(field) < stored) kept.set(field, edit);
        if (!kept.isEmpty()) next->setRecord(row, std::move(kept));
    });
    return next;
}

std::vector<FieldIndex> fieldsTouched(const std::vector<ComputedTerm>& terms, FieldIndex field) {
    std::vector<FieldIndex> touched{field};
    for (const ComputedTerm& term : terms)
        if (std::find_first_of(term.program->fields.begin(), term.program->fields.end(), touched.begin(),
                               touched.end()) != term.program->fields.end())
            touched.push_back(term.field);
    return touched;
}

ComputeStage::Kept* ComputeStage::keptFor(const ComputedTerm& term, const EvaluationInput& input) {
    std::vector<std::uint64_t> columns;
    for (const FieldIndex field : term.program->fields)
        columns.push_back(input.table->column(field) ? input.table->column(field)->id() : 0);
    const auto parameters = parametersUsed(*term.program, input);
    const auto found = std::find_if(kept_.begin(), kept_.end(), [&](const Kept& k) {
        return k.term == term && k.columns == columns && k.parameters == parameters && k.today == input.today &&
               k.rows == input.table->rows && k.presence == presenceOf(*term.program, input);
    });
    if (found == kept_.end()) return nullptr;
    kept_.splice(kept_.begin(), kept_, found);
    return &kept_.front();
}

Result<ComputeStage::Product> ComputeStage::run(const std::vector<ComputedTerm>& terms, const EvaluationInput& given,
                                                const Cancel& cancel) {
    didWork_ = false;
    if (terms.empty()) return Product{given.table, given.edits};
    EvaluationInput input = given;
    auto table = std::make_shared<Table>(*given.table);
    table->columns.resize(table->schema.fields.size());
    for (const ComputedTerm& term : terms) table->columns[raw(term.field)] = nullptr;
    input.table = table;
    input.edits = withoutComputedCells(given.edits ? *given.edits : Edits(), table->schema);
    for (const ComputedTerm& term : terms) {
        if (Kept* kept = keptFor(term, input)) {
            const auto changed = changedRecords(kept->edits.get(), input.edits.get(), term.program->fields);
            if (changed.empty() || (changed.size() <= kMostCells && term.program->windows.empty())) {
                table->columns[raw(term.field)] = kept->column;
                if (!changed.empty()) input.edits = withCells(term, input, input.edits, changed);
                continue;
            }
            kept_.pop_front();
        }
        didWork_ = true;
        auto column = computedColumn(term.program, input, cancel, OnFailure::Say);
        if (!column) return column.error();
        table->columns[raw(term.field)] = *column;
        Kept made{term,        {},          parametersUsed(*term.program, input),
                  input.today, table->rows, presenceOf(*term.program, input),
                  input.edits, *column};
        for (const FieldIndex field : term.program->fields) made.columns.push_back(table->column(field)->id());
        kept_.push_front(std::move(made));
        if (kept_.size() > kMostKept) kept_.pop_back();
    }
    return Product{std::move(table), input.edits};
}

}  // namespace jollyrow
