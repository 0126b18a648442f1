// SPDX-License-Identifier: MIT
// What is asked of a session beside its view: groups opened and closed, finding, figures, tables, look-ups.
// Covered by tests/session/session_test.cpp.
#include "core/formats/text_format.h"
#include "core/session/session.h"

namespace jollyrow {

void Session::showOpen(OpenGroups open) {
    if (open == state_.open) return;
    state_.open = std::move(open);
    if (!snapshot_ || !snapshot_->grouped) return;
    auto next = std::make_shared<Snapshot>(*snapshot_);
    next->grouped = std::make_shared<const GroupedLines>(*snapshot_->grouped, state_.open);
    show(std::move(next));
}

void Session::setGroupOpen(std::uint32_t node, bool open) {
    if (!snapshot_->grouped || node >= snapshot_->grouped->tree().nodes.size()) return;
    OpenGroups next = state_.open;
    next.setOpen(snapshot_->grouped->tree().nodes[node], open);
    showOpen(std::move(next));
}

void Session::setLevelOpen(int level, bool open) {
    if (level < 0 || !snapshot_->grouped || level >= snapshot_->grouped->tree().levels()) return;
    const GroupTree& tree = snapshot_->grouped->tree();
    OpenGroups next = state_.open;
    const auto at = static_cast<std::size_t>(level);
    for (std::uint32_t n = tree.levelBegin[at]; !next.others.empty() && n < tree.levelBegin[at + 1]; ++n)
        next.others.erase(tree.nodes[n].path);
    if (next.levels.size() <= at) next.levels.resize(at + 1, true);
    next.levels[at] = open;
    showOpen(std::move(next));
}

void Session::setAllGroupsOpen(bool open) {
    OpenGroups next;
    next.levels.assign(plan_->grouping->groups.size(), open);
    showOpen(std::move(next));
}

bool Session::openGroupsAround(SourceRow row) {
    const auto place = snapshot_->placeOf(row);
    if (!place) return false;
    if (!snapshot_->grouped) return true;
    const GroupTree& tree = snapshot_->grouped->tree();
    OpenGroups next = state_.open;
    for (int level = 0; level < tree.levels(); ++level) next.setOpen(tree.nodes[tree.nodeAt(level, *place)], true);
    showOpen(std::move(next));
    return true;
}

using Ask = Enquiries::Kind;

void Session::find(FindQuery query, std::function<void(const Result<std::shared_ptr<const RecordSet>>&)> done) {
    enquiries_.ask(
        Ask::Find,
        [query = std::move(query), snapshot = snapshot_, plan = plan_](const Cancel& cancel) {
            return findRecords(query, *snapshot, *plan, cancel);
        },
        std::move(done));
}

void Session::pickList(FieldIndex field, std::optional<std::size_t> leftOut,
                       std::function<void(const Result<std::shared_ptr<const PickList>>&)> done) {
    RowlineInput input = viewInput(*plan_, table_, edits(), state_);
    input.figuresOfAll = design_.grid.totalAll;
    // The part of the design as an index into the terms that are there.
    std::optional<std::size_t> term;
    if (leftOut && *leftOut < design_.filter.size())
        for (std::size_t i = 0; i < input.filter.size(); ++i)
            if (input.filter[i].rule == design_.filter[*leftOut].rule) term = i;
    TextOrder order;
    order.locale = design_.locale;
    computer_.pickList(std::move(input), field, term, std::move(order), std::move(done));
}

void Session::figuresOf(std::vector<SourceRow> rows,
                        std::function<void(const Result<std::vector<EvaluatedCell>>&)> done) {
    auto order = std::make_shared<RowOrder>();
    const std::vector<SourceRow> taken = std::move(rows);
    for (const SourceRow row : taken) order->push_back(raw(row));
    std::vector<SummarySpec> summaries;
    const Grouping* grouping = groupingOf(*snapshot_);
    if (grouping && snapshot_->groups && !snapshot_->groups->figures.empty()) {
        for (const PlannedSummary& summary : grouping->summaries) summaries.push_back(summary.spec);
        for (const PlannedLineStyle& style : grouping->styles)
            if (style.having) summaries.push_back(*style.having);
    }
    enquiries_.ask(
        Ask::Figures,
        [summaries = std::move(summaries), order = std::move(order),
         input = evaluationInput()](const Cancel& cancel) -> Result<std::vector<EvaluatedCell>> {
            const auto made = groupRows({}, summaries, order, input, cancel);
            if (!made) return made.error();
            std::vector<EvaluatedCell> figures;
            for (std::size_t i = 0; i < summaries.size(); ++i) figures.push_back((*made)->total(i));
            return figures;
        },
        std::move(done));
}

void Session::spread(const std::string& field, const std::string& rule, std::size_t bins,
                     std::function<void(const Result<std::shared_ptr<const ValueSpread>>&)> done) {
    std::shared_ptr<const Program> program;
    if (!rule.empty()) {
        auto compiled = compileRule(rule, schema_, vocabularyOf(design_, registered_.get()));
        if (!compiled) return done(compiled.error());
        program = std::move(*compiled);
    } else if (const auto index = schema_.find(field)) {
        program = programOf(*index, schema_);
    } else {
        return done(Error{ErrorCode::NotFound, "There is no such column."});
    }
    enquiries_.ask([program, bins, input = evaluationInput()] { return spreadOf(program, input, bins, Cancel()); },
                   std::move(done));
}

void Session::summaryTable(const SummaryTableWanted& wanted, std::function<void(const Result<SummaryTable>&)> done) {
    const Grouping* known = groupingOf(*snapshot_);
    Grouping grouping;
    if (known && snapshot_->groups) grouping = *known;
    enquiries_.ask(
        Ask::SummaryTable,
        [wanted, grouping = std::move(grouping), design = design_, order = snapshot_->order, input = evaluationInput()](
            const Cancel& cancel) { return jollyrow::summaryTable(grouping, design, order, input, wanted, cancel); },
        std::move(done));
}

void Session::originOf(std::size_t summary, std::uint32_t node, std::function<void(const Result<FigureOrigin>&)> done) {
    const Grouping* grouping = groupingOf(*snapshot_);
    if (!grouping || !snapshot_->groups || summary >= grouping->summaries.size() ||
        summary >= snapshot_->groups->figures.size())
        return;
    enquiries_.ask(
        Ask::Origin,
        [rule = grouping->summaries[summary].spec.rule, tree = snapshot_->groups->tree, node,
         input = evaluationInput()](const Cancel& cancel) {
            return jollyrow::originOf(rule, *tree, node, input, cancel);
        },
        std::move(done));
}

void Session::figuresOfCells(std::vector<CellBlock> blocks, std::function<void(const Result<CellFigures>&)> done) {
    enquiries_.ask(
        Ask::Cells,
        [blocks = std::move(blocks), snapshot = snapshot_](const Cancel& cancel) {
            return jollyrow::figuresOfCells(*snapshot, blocks, cancel);
        },
        std::move(done));
}

namespace {

/// The other table's records that a field points to, and what stands for them; nullopt when it points to none.
std::optional<LookUpRequest> linkedBy(const TableSchema& schema, const Design& design, FieldIndex field) {
    const auto link = foreignKeyOf(schema, schema.field(field).name);
    if (!link) return std::nullopt;
    const ColumnDesign* column = design.column(schema.field(field).name);
    const ForeignKey& key = schema.foreignKeys[*link];
    LookUpRequest request;
    request.table = key.table;
    request.keyField = key.targetFields.front();
    request.labelField = column && !column->label.empty() ? column->label : key.label;
    return request;
}

Error pointsNowhere() { return {ErrorCode::Unsupported, "This column points to no other table."}; }

}  // namespace

void Session::lookUp(FieldIndex field, std::string contains,
                     std::function<void(const Result<std::vector<LookUpEntry>>&)> done) {
    auto request = source_ ? linkedBy(schema_, design_, field) : std::nullopt;
    if (!request) return done(pointsNowhere());
    request->contains = std::move(contains);
    enquiries_.ask(
        Ask::LookUp,
        [request = std::move(*request), source = source_](const Cancel& cancel) {
            return source->lookUp(request, cancel);
        },
        std::move(done));
}

void Session::linkedCalled(FieldIndex field, std::vector<std::string> names,
                           std::function<void(const Result<NamedRecords>&)> done) {
    auto request = source_ ? linkedBy(schema_, design_, field) : std::nullopt;
    if (!request) return done(pointsNowhere());
    request->called = std::move(names);
    enquiries_.ask(
        [request = std::move(*request), source = source_]() -> Result<NamedRecords> {
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

void Session::addLinked(FieldIndex field, std::string label, std::function<void(const Result<LookUpEntry>&)> done) {
    auto request = source_ && openStore_ ? linkedBy(schema_, design_, field) : std::nullopt;
    if (!request) return done(pointsNowhere());
    enquiries_.ask([request = *request, label = std::move(label), source = source_,
                    open = openStore_] { return madeLinked(*source, open, request, label); },
                   [this, table = request->table, done = std::move(done)](const Result<LookUpEntry>& made) {
                       if (made) checks_.doubt(table);
                       if (made) askPresence();
                       done(made);
                   });
}

}  // namespace jollyrow
