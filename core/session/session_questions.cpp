// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp.
#include "core/session/session_questions.h"

#include <utility>

#include "core/formats/text_format.h"

namespace jollyrow {

using Ask = Enquiries::Kind;

void SessionQuestions::pickList(FieldIndex field, std::optional<std::size_t> leftOut,
                                Done<std::shared_ptr<const PickList>> done) {
    view_.pickList(field, leftOut, std::move(done));
}

void SessionQuestions::find(FindQuery query, Done<std::shared_ptr<const RecordSet>> done) {
    enquiries_.ask(
        Ask::Find,
        [query = std::move(query), snapshot = bound_.snapshot, plan = bound_.plan](const Cancel& cancel) {
            return findRecords(query, *snapshot, *plan, cancel);
        },
        std::move(done));
}

template <class Work, class Answer>
void SessionQuestions::ask(Enquiries::Kind kind, Answers answers, Work work, Done<Answer> done) {
    if (answers == Answers::Latest) return enquiries_.ask(kind, std::move(work), std::move(done));
    enquiries_.ask(std::move(work), std::move(done));
}

void SessionQuestions::figuresOf(std::vector<SourceRow> rows, Done<std::vector<EvaluatedCell>> done, Answers answers) {
    auto order = std::make_shared<RowOrder>();
    const std::vector<SourceRow> taken = std::move(rows);
    for (const SourceRow row : taken) order->push_back(raw(row));
    std::vector<SummarySpec> summaries;
    const Grouping* grouping = groupingOf(*bound_.snapshot);
    if (grouping && bound_.snapshot->groups && !bound_.snapshot->groups->figures.empty()) {
        for (const PlannedSummary& summary : grouping->summaries) summaries.push_back(summary.spec);
        for (const PlannedLineStyle& style : grouping->styles)
            if (style.having) summaries.push_back(*style.having);
    }
    ask(
        Ask::Figures, answers,
        [summaries = std::move(summaries), order = std::move(order),
         input = bound_.evaluationInput()](const Cancel& cancel) -> Result<std::vector<EvaluatedCell>> {
            const auto made = groupRows({}, summaries, order, input, cancel);
            if (!made) return made.error();
            std::vector<EvaluatedCell> figures;
            for (std::size_t i = 0; i < summaries.size(); ++i) figures.push_back((*made)->total(i));
            return figures;
        },
        std::move(done));
}

void SessionQuestions::spread(const std::string& field, const std::string& rule, std::size_t bins,
                              const Done<std::shared_ptr<const ValueSpread>>& done) {
    std::shared_ptr<const Program> program;
    if (!rule.empty()) {
        auto compiled = compileRule(rule, bound_.schema, vocabularyOf(bound_.design, bound_.registered.get()));
        if (!compiled) return done(compiled.error());
        program = std::move(*compiled);
    } else if (const auto index = bound_.schema.find(field)) {
        program = programOf(*index, bound_.schema);
    } else {
        return done(Error{ErrorCode::NotFound, "There is no such column."});
    }
    enquiries_.ask(
        [program, bins, input = bound_.evaluationInput()] { return spreadOf(program, input, bins, Cancel()); }, done);
}

void SessionQuestions::summaryTable(const SummaryTableWanted& wanted, Done<SummaryTable> done, Answers answers) {
    const Grouping* known = groupingOf(*bound_.snapshot);
    Grouping grouping;
    if (known && bound_.snapshot->groups) grouping = *known;
    ask(
        Ask::SummaryTable, answers,
        [wanted, grouping = std::move(grouping), design = bound_.design, order = bound_.snapshot->order,
         input = bound_.evaluationInput()](const Cancel& cancel) {
            return jollyrow::summaryTable(grouping, design, order, input, wanted, cancel);
        },
        std::move(done));
}

/// Null when there is no such figure.
const SummaryRule* SessionQuestions::ruleOf(std::size_t summary) const {
    const Grouping* grouping = groupingOf(*bound_.snapshot);
    const bool isThere = grouping && bound_.snapshot->groups && summary < grouping->summaries.size() &&
                         summary < bound_.snapshot->groups->figures.size();
    return isThere ? &grouping->summaries[summary].spec.rule : nullptr;
}

void SessionQuestions::originOf(std::size_t summary, const std::vector<SourceRow>& rows, Done<FigureOrigin> done) {
    const SummaryRule* rule = ruleOf(summary);
    if (!rule) return;
    RowOrder order;
    for (const SourceRow row : rows) order.push_back(raw(row));
    enquiries_.ask(
        Ask::Origin,
        [rule = *rule, order = std::move(order), input = bound_.evaluationInput()](const Cancel& cancel) {
            return jollyrow::originOf(rule, order, input, cancel);
        },
        std::move(done));
}

void SessionQuestions::originOf(std::size_t summary, std::uint32_t node, Done<FigureOrigin> done) {
    const SummaryRule* rule = ruleOf(summary);
    if (!rule) return;
    enquiries_.ask(
        Ask::Origin,
        [rule = *rule, tree = bound_.snapshot->groups->tree, node, input = bound_.evaluationInput()](
            const Cancel& cancel) { return jollyrow::originOf(rule, *tree, node, input, cancel); },
        std::move(done));
}

void SessionQuestions::figuresOfCells(std::vector<CellBlock> blocks, Done<CellFigures> done) {
    enquiries_.ask(
        Ask::Cells,
        [blocks = std::move(blocks), snapshot = bound_.snapshot](const Cancel& cancel) {
            return jollyrow::figuresOfCells(*snapshot, blocks, cancel);
        },
        std::move(done));
}

void SessionQuestions::dependentsOf(const std::vector<SourceRow>& rows, Done<std::vector<Dependents>> done) {
    std::vector<RecordRequest> records;
    for (const SourceRow row : rows) {
        if (!bound_.journal.isStored(row) || !bound_.table->hasKeys()) continue;
        records.push_back(bound_.request(row));
    }
    enquiries_.ask(
        Enquiries::Kind::Dependents,
        [records = std::move(records), source = bound_.source](const Cancel& cancel) {
            return source->dependentsOf(records, cancel);
        },
        std::move(done));
}

namespace {
Error pointsNowhere() { return {ErrorCode::Unsupported, "This column points to no other table."}; }
}  // namespace

/// The other table's records that a field points to, and what stands for them; nullopt when it points to none.
std::optional<LookUpRequest> SessionQuestions::linkedBy(FieldIndex field) const {
    const std::string& name = bound_.schema.field(field).name;
    const auto link = bound_.source ? foreignKeyOf(bound_.schema, name) : std::nullopt;
    if (!link) return std::nullopt;
    const ColumnDesign* column = bound_.design.column(name);
    const ForeignKey& key = bound_.schema.foreignKeys[*link];
    LookUpRequest request;
    request.table = key.table;
    request.keyField = key.targetFields.front();
    request.labelField = column && !column->label.empty() ? column->label : key.label;
    return request;
}

void SessionQuestions::lookUp(FieldIndex field, std::string contains, Done<std::vector<LookUpEntry>> done) {
    auto request = linkedBy(field);
    if (!request) return done(pointsNowhere());
    request->contains = std::move(contains);
    enquiries_.ask(
        Ask::LookUp,
        [request = std::move(*request), source = bound_.source](const Cancel& cancel) {
            return source->lookUp(request, cancel);
        },
        std::move(done));
}

void SessionQuestions::linkedCalled(FieldIndex field, std::vector<std::string> names, Done<NamedRecords> done) {
    auto request = linkedBy(field);
    if (!request) return done(pointsNowhere());
    request->called = std::move(names);
    enquiries_.ask(
        [request = std::move(*request), source = bound_.source]() -> Result<NamedRecords> {
            auto entries = source->lookUp(request, {});
            if (!entries) return entries.error();
            return NamedRecords(std::move(*entries));
        },
        std::move(done));
}

namespace {

/// A new record of a look-up's table: what names it is given, the rest is the database's.
Result<LookUpEntry> madeLinked(const Source& source, const StoreOpener& open, const LookUpRequest& link,
                               const std::string& label) {
    auto schema = source.schema({link.table, ""});
    if (!schema) return schema.error();
    const auto named = schema->find(link.labelField), key = schema->find(link.keyField);
    if (!named || !key) return Error{ErrorCode::NotFound, "The other table is not as it was. Read the records again."};
    auto value = parseTyped(label, schema->field(*named));
    if (!value) return value.error();
    RecordWrite write;
    write.change = RecordChange::Insert;
    for (int rank = 1; rank <= static_cast<int>(schema->fields.size()); ++rank)
        for (std::size_t i = 0; i < schema->fields.size(); ++i)
            if (schema->fields[i].primaryKeyRank == rank) write.keyFields.push_back(static_cast<FieldIndex>(i));
    write.keyIsRowId = write.keyFields.empty();
    write.changes = {{*named, {}, std::move(*value)}};
    write.readBack = {*key};
    write.schema = std::move(*schema);
    auto store = open();
    if (!store) return store.error();
    auto made = writeOne(**store, write);
    if (!made) return made.error();
    return LookUpEntry{made->readBack.front(), label};
}

}  // namespace

void SessionQuestions::addLinked(FieldIndex field, std::string label, Done<LookUpEntry> done) {
    auto request = bound_.openStore ? linkedBy(field) : std::nullopt;
    if (!request) return done(pointsNowhere());
    enquiries_.ask([request = *request, label = std::move(label), source = bound_.source,
                    open = bound_.openStore] { return madeLinked(*source, open, request, label); },
                   [this, table = request->table, done = std::move(done)](const Result<LookUpEntry>& made) {
                       if (made) checks_.doubt(table);
                       if (made) checks_.askPresence();
                       done(made);
                   });
}

}  // namespace jollyrow
