// SPDX-License-Identifier: MIT
// Three threads: one loads, one runs the Rowline, one writes. Each job gets immutable input and posts one product;
// what is outdated by then is dropped by its number (load, generation, serial of the cell).
// Covered by tests/session/session_test.cpp, also under ThreadSanitizer.
#include "core/session/session.h"

#include <fmt/format.h>

#include <chrono>

#include "core/columns/time_zone.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/rules/query_parameters.h"
#include "core/rules/syntax.h"
#include "core/session/schema_for.h"
#include "core/session/session_threads.h"
#include "core/sources/objects/table_source.h"

namespace jollyrow {

namespace {
OpenGroups openAtFirst(const Design& design) {
    OpenGroups open;
    for (const GroupDesign& group : design.groups) open.levels.push_back(group.open);
    return open;
}
}  // namespace

std::shared_ptr<const KeyIndex> TableKeys::of(const std::shared_ptr<const Table>& table) {
    for (const auto& index : known_)
        if (index->table()->rows == table->rows && index->table()->rowsIdentity() == table->rowsIdentity())
            return index;
    known_.push_back(std::make_shared<const KeyIndex>(table));
    if (known_.size() > 2) known_.erase(known_.begin());
    return known_.back();
}

std::shared_ptr<const std::vector<std::uint32_t>> TableKeys::moves(const std::shared_ptr<const KeyIndex>& from,
                                                                   const std::shared_ptr<const KeyIndex>& to) {
    if (!moves_ || from != from_ || to != to_)
        moves_ = std::make_shared<const std::vector<std::uint32_t>>(movesBetween(*from, *to));
    from_ = from;
    to_ = to;
    return moves_;
}

Session::Session(Post post, SessionListener listener)
    : listener_(std::move(listener)), threads_(std::make_unique<Threads>()) {
    post_ = [post = std::move(post), alive = std::weak_ptr<bool>(alive_)](std::function<void()> call) {
        post([alive, call = std::move(call)] {
            if (alive.lock()) call();
        });
    };
}

Session::~Session() {
    cancelLoad_.request();
    cancelCompute_.request();
    cancelPick_.request();
    cancelFind_.request();
    cancelLookUp_.request();
    cancelFigures_.request();
    cancelOrigin_.request();
    cancelTable_.request();
    // All stop before `threads_` is touched: a job that runs to its end reads it.
    threads_->load.stop();
    threads_->compute.stop();
    threads_->look.stop();
    threads_->store.finish();
}

Result<void> Session::open(Design design, const std::string& sourcePath) {
    auto source = openSource(sourcePath);
    if (!source) return source.error();
    return openOn(std::move(*source), std::move(design), sourcePath, [sourcePath] { return openStore(sourcePath); });
}

Result<void> Session::open(Design design, std::shared_ptr<const Source> source, StoreOpener store) {
    return openOn(std::move(source), std::move(design), {}, std::move(store));
}

Result<void> Session::open(Design design, std::shared_ptr<const Table> table) {
    return openOn(tableSource(std::move(table)), std::move(design), {}, []() -> Result<std::unique_ptr<Store>> {
        return Error{ErrorCode::ReadOnly, "A table in memory cannot be edited."};
    });
}

Result<void> Session::openOn(std::shared_ptr<const Source> source, Design design, const std::string& sourcePath,
                             StoreOpener store) {
    auto schema = schemaFor(*source, design, Patience::None, registered_.get());
    const bool isLocked = !schema && schema.error().code == ErrorCode::Locked;
    if (!schema && !isLocked) return schema.error();
    cancelLoad();
    cancelCompute_.request();
    source_ = std::move(source);
    design_ = std::move(design);
    sourcePath_ = sourcePath;
    parameters_ = parametersOf(design_);
    bypassed_.clear();
    only_.reset();
    open_ = openAtFirst(design_);
    outOfPlace_.clear();
    edits_ = orderEdits_ = std::make_shared<Edits>();
    serials_.clear();
    inFlight_.clear();
    savedMeanwhile_.clear();
    keyMoves_.clear();
    keys_.reset();
    ++epoch_;
    tableLoad_ = 0;
    threads_->saves = std::make_shared<SaveQueue>(std::move(store));
    beginWith(isLocked ? TableSchema{} : std::move(*schema));
    isLocked ? awaitSchema() : beginLoad(true);
    return {};
}

void Session::setDesign(Design design) {
    if (design == design_) return;
    const bool parametersChanged = design.parameters != design_.parameters;
    const bool groupsChanged = design.groups != design_.groups || design.summaries != design_.summaries ||
                               design.grid.totalAll != design_.grid.totalAll;
    const bool levelsChanged = openAtFirst(design).levels != openAtFirst(design_).levels;
    design_ = std::move(design);
    if (parametersChanged) parameters_ = parametersOf(design_);
    if (levelsChanged) open_.levels = openAtFirst(design_).levels;
    if (schema_.fields.empty()) {  // what it means is seen when the schema is there
        if (loading_) awaitSchema();
        return;
    }
    planAgain(parametersChanged || groupsChanged);
}

void Session::planAgain(bool computesAnew, std::optional<TableSchema> read) {
    const bool related = takeFields(std::move(read));
    auto plan = std::make_shared<ViewPlan>(planOf(design_, schema_, plan_.get(), registered_.get()));
    bool missing = false;
    for (std::size_t i = 0; i < schema_.storedFields(); ++i)
        missing = missing || (plan->wanted[i] && !table_->columns[i] && table_->rows != 0);
    const bool rowsChanged =
        plan->sort != plan_->sort || plan->filter != plan_->filter || plan->computed != plan_->computed || computesAnew;
    plan_ = std::move(plan);
    if (related && loading_) cancelLoad_.request();
    if (related || (missing && !loading_)) beginLoad(table_->rows == 0);
    if (rowsChanged) recompute();
}

void Session::setParameter(const std::string& name, const Value& value) {
    const auto known = std::find_if(design_.parameters.begin(), design_.parameters.end(),
                                    [&](const ParameterDesign& p) { return p.name == name; });
    if (known == design_.parameters.end()) return;
    const RuleValue boxed = ruleValue(value);
    const auto before = parameters_;
    if (isEmpty(value))
        parameters_.erase(name);
    else if (const auto fitted = convertedConstant(boxed, ruleKindOf(known->type), zoneOf(schema_)))
        parameters_.insert_or_assign(name, *fitted);
    if (parameters_ == before) return;
    const auto asked = parametersIn(design_.source.query);
    if (std::find(asked.begin(), asked.end(), name) == asked.end()) return recompute();
    if (loading_) cancelLoad_.request();
    beginLoad(table_->rows == 0);
}

void Session::setBypassed(Stage stage, bool bypassed) {
    if (isBypassed(stage) == bypassed) return;
    bypassed ? void(bypassed_.insert(stage)) : void(bypassed_.erase(stage));
    recompute();
}

EvaluationInput Session::evaluationInput() const {
    EvaluationInput input;
    input.table = snapshot_ ? snapshot_->table : table_;
    input.edits = edits_;
    input.parameters = parameters_;
    input.today = zoneOf(schema_).today();
    input.now = now_;
    return input;
}

/// The conditions and keys of a plan as far as they can be had now: a column that is still to come filters and sorts
/// when it is there; an empty parameter restricts nothing.
RowlineInput Session::rowlineInput(std::shared_ptr<const Table> table, std::shared_ptr<const Edits> edits,
                                   const ViewPlan& plan) {
    std::vector<bool> there;
    for (std::size_t i = 0; i < table->columns.size(); ++i) there.push_back(table->columns[i] != nullptr);
    const auto loaded = [&](const std::vector<FieldIndex>& fields) {
        return std::all_of(fields.begin(), fields.end(),
                           [&](FieldIndex f) { return raw(f) < there.size() && there[raw(f)]; });
    };
    RowlineInput input;
    for (const ComputedTerm& term : plan.computed) {
        if (raw(term.field) >= there.size() || !loaded(term.program->fields)) continue;
        there[raw(term.field)] = true;
        input.computed.push_back(term);
    }
    for (const FilterTerm& term : plan.filter) {
        const auto& used = term.program->parameters;
        const bool bound =
            std::all_of(used.begin(), used.end(), [&](const auto& p) { return parameters_.contains(p.name); });
        if (!isBypassed(Stage::Filter) && bound && loaded(term.program->fields)) input.filter.push_back(term);
    }
    for (const SortTerm& term : plan.sort)
        if (!isBypassed(Stage::Sort) && loaded(fieldsOf(term))) input.sort.push_back(term);
    const Grouping& grouping = *plan.grouping;
    bool levels = !isBypassed(Stage::Group), figures = !isBypassed(Stage::Summaries);
    for (const PlannedGroup& group : grouping.groups) levels = levels && loaded(fieldsOf(group.term.key));
    for (const PlannedSummary& summary : grouping.summaries) figures = figures && loaded(fieldsOf(summary.spec.rule));
    for (const PlannedGroup& group : grouping.groups) {
        if (!levels) break;
        input.groups.push_back(group.term);
        if (!figures) input.groups.back().orderBy.reset();
        input.footers.push_back(group.design.footer);
    }
    for (const PlannedSummary& summary : grouping.summaries)
        if (figures) input.summaries.push_back(summary.spec);
    input.figuresOfAll = design_.grid.totalAll;
    input.open = open_;
    input.grouping = plan.grouping;
    if (only_ && table == table_) input.only = only_;
    input.table = std::move(table);
    input.edits = std::move(edits);
    input.parameters = parameters_;
    input.today = zoneOf(schema_).today();
    input.now = now_;
    input.loadMilliseconds = loadMilliseconds_;
    return input;
}

void Session::find(FindQuery query, std::function<void(const Result<std::shared_ptr<const RecordSet>>&)> done) {
    cancelFind_.request();
    cancelFind_ = Cancel();
    threads_->look.run([this, query = std::move(query), snapshot = snapshot_, plan = plan_, cancel = cancelFind_,
                        number = ++findNumber_, done = std::move(done)] {
        if (cancel.requested()) return;
        auto found = findRecords(query, *snapshot, *plan, cancel);
        post_([this, number, found = std::move(found), done] {
            if (number == findNumber_) done(found);
        });
    });
}

void Session::setOnly(std::shared_ptr<const RecordSet> only) {
    if (only == only_) return;
    only_ = std::move(only);
    recompute();
}

void Session::pickList(FieldIndex field, std::optional<std::size_t> leftOut,
                       std::function<void(const Result<std::shared_ptr<const PickList>>&)> done) {
    RowlineInput input = rowlineInput(table_, edits_, *plan_);
    // The part of the design as an index into the terms that are there.
    std::optional<std::size_t> term;
    if (leftOut && *leftOut < design_.filter.size())
        for (std::size_t i = 0; i < input.filter.size(); ++i)
            if (input.filter[i].rule == design_.filter[*leftOut].rule) term = i;
    TextOrder order;
    order.locale = design_.locale;
    cancelPick_.request();
    cancelPick_ = Cancel();
    threads_->compute.run([this, input = std::move(input), field, term, order, cancel = cancelPick_,
                           number = ++pickNumber_, done = std::move(done)] {
        if (cancel.requested()) return;
        auto list = threads_->rowline.pickList(input, field, term, order, cancel);
        post_([this, number, list = std::move(list), done] {
            if (number == pickNumber_) done(list);
        });
    });
}

void Session::cancelLoad() { cancelLoad_.request(); }

void Session::reload() {
    if (!loading_) schema_.fields.empty() ? awaitSchema() : beginLoad(false);
}

void Session::beginLoad(bool showParts) {
    cancelLoad_ = Cancel();
    loading_ = true;
    progress_ = {};
    savedMeanwhile_.clear();
    now_ = zoneOf(schema_).localNow();
    LoadRequest request;
    request.binding = binding();
    request.wanted.assign(plan_->wanted.begin(),
                          plan_->wanted.begin() + static_cast<std::ptrdiff_t>(schema_.storedFields()));
    for (const std::string& name : parametersIn(design_.source.query))
        if (const auto given = parameters_.find(name); given != parameters_.end())
            request.parameters.emplace(name, plainValue(given->second));
    const std::uint64_t number = ++loadNumber_;
    request.onPart = [this, number, showParts](std::shared_ptr<const Table> part, const LoadProgress& progress) {
        post_([this, number, showParts, part = std::move(part), progress] {
            if (number != loadNumber_ || !loading_) return;
            if (showParts) take(part, progress, number);
            progress_ = progress;
            if (listener_.onProgress) listener_.onProgress(progress);
        });
    };
    threads_->load.run([this, number, request = std::move(request), source = source_, cancel = cancelLoad_] {
        const auto begun = std::chrono::steady_clock::now();
        auto loaded = source->load(request, cancel);
        const double milliseconds =
            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
        post_([this, number, loaded = std::move(loaded), milliseconds] {
            if (number != loadNumber_) return;
            if (!loaded) return endLoad(loaded.error());
            const auto rows = static_cast<std::int64_t>((*loaded)->rows);
            progress_ = {rows, rows, milliseconds};
            loadIsWhole_ = true;
            take(*loaded, progress_, number);
        });
    });
}

void Session::endLoad(const Result<void>& result) {
    loading_ = loadIsWhole_ = false;
    if (listener_.onLoaded) listener_.onLoaded(result);
}

void Session::take(std::shared_ptr<const Table> table, const LoadProgress& progress, std::uint64_t load) {
    loadMilliseconds_ = progress.milliseconds;
    table = withSchema(*table, withComputedFields(table->schema, design_, registered_.get()));
    // Parts of one load number their rows alike; another load's rows are others, so the change-over waits for its
    // snapshot: rows and edits of two tables must never meet.
    // The table may have been altered since; the plan goes with its fields.
    if (table_->rows != 0 && tableLoad_ != load) {
        incoming_ = std::move(table);
    } else {
        table_ = std::move(table);
        tableLoad_ = load;
        keys_.reset();
        if (table_->schema.fields != schema_.fields) {
            schema_ = table_->schema;
            plan_ = std::make_shared<const ViewPlan>(planOf(design_, schema_, nullptr, registered_.get()));
        }
    }
    recompute();
}

RowRef Session::refOf(SourceRow row) const {
    return {epoch_, row, table_->hasKeys() ? storedKey(*table_, *edits_, row) : RecordKey{}, keyMoves_.size()};
}

std::optional<SourceRow> Session::now(const RowRef& ref) const {
    if (ref.epoch == epoch_) return raw(ref.row) < table_->rows ? std::optional(ref.row) : std::nullopt;
    RecordKey key = ref.key;
    for (std::size_t i = ref.keyMoves; i < keyMoves_.size(); ++i)
        if (keyMoves_[i].first == key) key = keyMoves_[i].second;
    return rowOf(key);
}

std::optional<SourceRow> Session::rowOf(const RecordKey& key) const {
    if (!table_->hasKeys()) return std::nullopt;
    for (const FieldIndex field : table_->rowIds ? std::vector<FieldIndex>{} : table_->keyFields)
        if (edits_->touches(field))
            for (const auto& [place, edit] : edits_->cells())
                if (place.second == field && storedKey(*table_, *edits_, place.first) == key) return place.first;
    if (!keys_ || keys_->table()->rows != table_->rows) keys_ = std::make_shared<const KeyIndex>(table_);
    const auto row = keys_->find(key);
    return row && storedKey(*table_, *edits_, *row) == key ? row : std::nullopt;
}

void Session::recompute(Order order) {
    cancelCompute_.request();
    cancelCompute_ = Cancel();
    if (incoming_ && incoming_->schema.fields == schema_.fields)
        incomingPlan_ = plan_;  // the design may have changed
    else if (incoming_)
        incomingPlan_ =
            std::make_shared<const ViewPlan>(planOf(design_, incoming_->schema, nullptr, registered_.get()));
    RowlineInput input = rowlineInput(incoming_ ? incoming_ : table_, edits_, *(incoming_ ? incomingPlan_ : plan_));
    if (order == Order::Anew || incoming_) {
        orderEdits_ = edits_;
        outOfPlace_.clear();
    } else {
        input.orderEdits = orderEdits_;
    }
    input.generation = ++generation_;
    threads_->compute.run([this, input, cancel = cancelCompute_, before = incoming_ ? table_ : nullptr,
                           meanwhile = savedMeanwhile_, onTheirWay = keysOnTheirWay()]() mutable {
        if (cancel.requested()) return;
        MadeView made;
        if (before) {
            made.keys = threads_->keys.of(input.table);
            made.byKey = threads_->keys.moves(threads_->keys.of(before), made.keys);
            const RowMoves moves = movesOf(made.byKey, *before, *input.edits, onTheirWay, *made.keys);
            input.edits = carried(*input.edits, *before, *input.table, moves, meanwhile).edits;
        }
        made.snapshot = threads_->rowline.run(input, cancel);
        post_([this, made, generation = input.generation] {
            if (generation == generation_) computed(made);  // else a newer one is on its way
        });
        // For finding records by their key; nobody waits for it.
        if (!before && input.table->complete && input.table->hasKeys())
            post_([this, keys = threads_->keys.of(input.table)] {
                if (keys->table()->rowsIdentity() == table_->rowsIdentity()) keys_ = keys;
            });
    });
}

/// A reload's rows take the place of the older ones: table, edits and everything that names a row, in one step.
void Session::changeOver(const MadeView& made) {
    const RowMoves moves = movesOf(made.byKey, *table_, *edits_, keysOnTheirWay(), *made.keys);
    CarriedEdits over = carried(*edits_, *table_, *incoming_, moves, savedMeanwhile_);
    tellLost(over.lost);
    std::map<Edits::Place, std::uint64_t> serials;
    std::map<std::uint64_t, OnItsWay> inFlight;
    for (const auto& [place, serial] : serials_)
        if (const auto at = over.places.find(place); at != over.places.end()) serials.emplace(at->second, serial);
    for (const auto& [serial, save] : inFlight_)
        if (const auto at = over.places.find(save.place); at != over.places.end())
            inFlight.emplace(serial, OnItsWay{at->second, save.value});
    serials_ = std::move(serials);
    inFlight_ = std::move(inFlight);
    savedMeanwhile_.clear();
    edits_ = std::move(over.edits);
    only_.reset();  // its records are those of the older table
    table_ = std::exchange(incoming_, nullptr);
    tableLoad_ = loadNumber_;
    plan_ = std::exchange(incomingPlan_, nullptr);
    schema_ = table_->schema;
    orderEdits_ = edits_;
    keys_ = made.keys;
    ++epoch_;
    // What hangs on a link that was saved meanwhile may have been read before.
    const auto kept = edits_;
    for (const auto& [place, edit] : kept->cells())
        if (edit.state == EditState::Saved) readRelatedAgain(place.first, place.second);
    if (listener_.onRowsMoved) listener_.onRowsMoved(moves);
}

void Session::tellLost(const std::vector<Edits::Place>& lost) {
    for (const auto& [row, field] : lost) {
        std::string typed;
        appendDisplay(typed, edits_->find(row, field)->value, {.zone = schema_.zone});
        if (listener_.onFailure)
            listener_.onFailure(
                {ErrorCode::NotFound, fmt::format("\"{}\", typed into {} and refused, lost its place: the record is no "
                                                  "longer there.",
                                                  typed, schema_.field(field).name)});
    }
}

void Session::computed(const MadeView& made) {
    if (!made.snapshot) {
        if (made.snapshot.error().code != ErrorCode::Cancelled && listener_.onFailure)
            listener_.onFailure(made.snapshot.error());
        if (loadIsWhole_) endLoad({});
        return;
    }
    auto snapshot = std::make_shared<Snapshot>(**made.snapshot);
    if (incoming_) changeOver(made);
    snapshot->epoch = epoch_;
    snapshot->edits = edits_ = withComputedOf(*snapshot);  // edits made meanwhile show at once
    if (snapshot->grouped && !(snapshot->grouped->open() == open_))
        snapshot->grouped = std::make_shared<const GroupedLines>(*snapshot->grouped, open_);
    show(std::move(snapshot));
    if (loadIsWhole_) endLoad({});
}

void Session::show(std::shared_ptr<const Snapshot> snapshot) {
    snapshot_ = std::move(snapshot);
    if (listener_.onSnapshot) listener_.onSnapshot();
}

/// The edits of now, with the computed cells of `made` where nothing was edited since it was begun.
std::shared_ptr<const Edits> Session::withComputedOf(const Snapshot& made) const {
    if (plan_->computed.empty()) return edits_;
    const std::size_t stored = made.table->schema.storedFields();
    std::vector<FieldIndex> fields;
    for (std::size_t i = 0; i < stored; ++i) fields.push_back(static_cast<FieldIndex>(i));
    const auto since = changedRecords(made.edits.get(), edits_.get(), fields);
    auto next = std::make_shared<Edits>(*withoutComputedCells(*edits_, made.table->schema));
    if (made.edits)
        made.edits->forEach([&](Edits::Place place, const CellEdit& edit) {
            if (raw(place.second) >= stored) next->set(place.first, place.second, edit);
        });
    EvaluationInput input = evaluationInput();
    input.table = made.table;
    input.edits = std::move(next);
    return withComputedCells(plan_->computed, input, since);
}

void Session::setEdits(std::shared_ptr<const Edits> edits, SourceRow changed) {
    edits_ = std::move(edits);
    if (!plan_->computed.empty()) {
        EvaluationInput input = evaluationInput();
        const std::uint32_t record[] = {raw(changed)};
        edits_ = withComputedCells(plan_->computed, input, record);
    }
    auto next = std::make_shared<Snapshot>(*snapshot_);
    next->edits = edits_;
    show(std::move(next));
    // Sums over all records, groups and figures are made on the worker; nobody moves for it but to another group.
    if (!plan_->grouping->empty() ||
        std::any_of(plan_->computed.begin(), plan_->computed.end(),
                    [](const ComputedTerm& term) { return !term.program->windows.empty(); }))
        recompute(Order::Kept);
}

void Session::resort() { recompute(); }

Value Session::stored(SourceRow row, FieldIndex field) const {
    if (const CellEdit* edit = edits_->find(row, field))
        return edit->state == EditState::Saved ? edit->value : edit->original;
    const Column* column = table_->column(field);
    return column ? column->value(row) : Value(Empty{});
}

/// Would a condition leave this record out? One that sums up all records is taken to.
bool Session::leavesOut(const FilterTerm& term, const EvaluationInput& input, SourceRow row) const {
    for (const auto& used : term.program->parameters)
        if (!parameters_.contains(used.name)) return false;
    if (!term.program->windows.empty()) return true;
    const auto cell = evaluateOne(term.program, input, row);
    return cell && !(cell->state == CellState::Filled && cell->value == RuleValue(true));
}

void Session::edit(SourceRow row, FieldIndex field, Value value, std::string label) {
    const CellEdit* existing = edits_->find(row, field);
    if (snapshot_->value(row, field) == value && (!existing || existing->state != EditState::Refused)) return;
    const Column* column = table_->column(field);
    if (!existing && column && column->misfit(row) && isEmpty(value)) return;
    const std::vector<FieldIndex> touched = fieldsTouched(plan_->computed, field);
    const auto reads = [&touched](const std::vector<FieldIndex>& fields) {
        return std::find_first_of(fields.begin(), fields.end(), touched.begin(), touched.end()) != fields.end();
    };
    CellEdit edit{std::move(value), stored(row, field), EditState::Saving, {}, std::move(label)};
    for (const SortTerm& term : plan_->sort)
        if (!isBypassed(Stage::Sort) && reads(fieldsOf(term))) outOfPlace_.insert(row);
    EvaluationInput edited = evaluationInput();
    edited.edits = edits_->with(row, field, edit)->of(row);
    const std::uint32_t record[] = {raw(row)};
    edited.edits = withComputedCells(plan_->computed, edited, record);
    for (const FilterTerm& term : plan_->filter)
        if (!isBypassed(Stage::Filter) && reads(term.program->fields) && leavesOut(term, edited, row))
            outOfPlace_.insert(row);
    setEdits(edits_->with(row, field, std::move(edit)), row);
    send(row, field);
}

void Session::retry(SourceRow row, FieldIndex field) {
    const CellEdit* existing = edits_->find(row, field);
    if (!existing || existing->state != EditState::Refused) return;
    CellEdit again = *existing;
    again.state = EditState::Saving;
    again.message.clear();
    setEdits(edits_->with(row, field, std::move(again)), row);
    send(row, field);
}

void Session::putBack(SourceRow row, FieldIndex field) {
    const CellEdit* existing = edits_->find(row, field);
    if (!existing || existing->state != EditState::Refused) return;
    const Column* column = table_->column(field);
    if (column && column->value(row) == existing->original)
        setEdits(edits_->without(row, field), row);
    else
        setEdits(edits_->with(row, field, {existing->original, existing->original, EditState::Saved, {}, {}}), row);
}

void Session::send(SourceRow row, FieldIndex field) {
    Save save;
    save.serial = nextSerial_++;
    const Edits::Place place{row, field};
    if (const auto earlier = serials_.find(place); earlier != serials_.end()) save.after = earlier->second;
    for (std::size_t k = 0; k < table_->keyFields.size() && !table_->rowIds; ++k)
        if (const auto part = serials_.find({row, table_->keyFields[k]}); part != serials_.end())
            save.keyAfter.emplace_back(k, part->second);
    serials_[place] = save.serial;
    const CellEdit* edit = edits_->find(row, field);
    inFlight_.emplace(save.serial, OnItsWay{place, edit->value});
    if (!table_->hasKeys()) {
        answered(save.serial, Error{ErrorCode::Unsupported,
                                    "These records have no key, so a change cannot be saved to one of them."});
        return;
    }
    save.request = {schema_,
                    storedKey(*table_, *edits_, row),
                    table_->rowIds != nullptr,
                    table_->keyFields,
                    {{field, edit->original, edit->value}}};
    threads_->store.run([this, saves = threads_->saves, save = std::move(save)] {
        const std::uint64_t serial = save.serial;
        auto answer = saves->write(save);
        post_([this, serial, answer = std::move(answer)] { answered(serial, answer); });
    });
}

KeysOnTheirWay Session::keysOnTheirWay() const {
    KeysOnTheirWay all;
    const auto isKey = [this](const Edits::Place& place) {
        return std::find(table_->keyFields.begin(), table_->keyFields.end(), place.second) != table_->keyFields.end();
    };
    for (const auto& [serial, save] : inFlight_)
        if (isKey(save.place)) all[save.place].push_back(save.value);
    // What a key was in between, too: the load may have read it then.
    for (const auto& [place, values] : savedMeanwhile_)
        if (isKey(place)) all[place].insert(all[place].end(), values.begin(), values.end());
    return all;
}

/// A load under way may have read the cell before; a key that was saved names its record from now on.
void Session::noteSaved(const Edits::Place& place, const CellEdit& before, const Value& stored) {
    if (loading_) savedMeanwhile_[place].push_back(before.original);
    const auto& keys = table_->keyFields;
    const auto part = std::find(keys.begin(), keys.end(), place.second);
    if (table_->rowIds || part == keys.end()) return;
    const RecordKey old = storedKey(*table_, *edits_, place.first);
    RecordKey moved = old;
    moved[static_cast<std::size_t>(part - keys.begin())] = stored;
    keyMoves_.emplace_back(old, moved);
}

void Session::answered(std::uint64_t serial, const Result<WriteAnswer>& answer) {
    // The cell may have moved with a reload, or been typed into again.
    const auto at = inFlight_.find(serial);
    if (at == inFlight_.end()) return;
    const auto place = at->second.place;
    inFlight_.erase(at);
    const auto [row, field] = place;
    const CellEdit* edit = edits_->find(row, field);
    if (!edit) return;
    if (answer) noteSaved(place, *edit, answer->stored.front());
    CellEdit next = *edit;
    const auto newest = serials_.find(place);
    const bool isNewest = newest != serials_.end() && newest->second == serial;
    if (isNewest) serials_.erase(newest);
    if (answer) next.original = answer->stored.front();
    if (isNewest) {
        if (answer) next.value = next.original;
        next.state = answer ? EditState::Saved : EditState::Refused;
        next.message = answer ? std::string() : answer.error().message;
    }
    setEdits(edits_->with(row, field, next), row);
    if (!isNewest) return;
    if (answer) readRelatedAgain(row, field);
    if (answer && design_.grid.resortAtOnce && orderIsStale()) resort();
    if (listener_.onEditAnswered) listener_.onEditAnswered(row, field, next);
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
    request.key = storedKey(*table_, *edits_, row);
    request.keyIsRowId = table_->rowIds != nullptr;
    request.keyFields = table_->keyFields;
    threads_->look.run([this, request, source = source_, row, table = table_] {
        auto values = source->valuesOf(request);
        post_([this, request, values = std::move(values), row, table] {
            if (!values || table != table_) return;
            auto edits = edits_;
            for (std::size_t i = 0; i < request.fields.size(); ++i)
                edits = edits->with(row, request.fields[i], {(*values)[i], (*values)[i], EditState::Saved, {}});
            setEdits(std::move(edits), row);
        });
    });
}

void Session::lookUp(FieldIndex field, std::string contains,
                     std::function<void(const Result<std::vector<LookUpEntry>>&)> done) {
    const auto link = foreignKeyOf(schema_, schema_.field(field).name);
    if (!link || !source_) return done(Error{ErrorCode::Unsupported, "This column points to no other table."});
    const ColumnDesign* column = design_.column(schema_.field(field).name);
    const ForeignKey& key = schema_.foreignKeys[*link];
    LookUpRequest request;
    request.table = key.table;
    request.keyField = key.targetFields.front();
    request.labelField = column && !column->label.empty() ? column->label : key.label;
    request.contains = std::move(contains);
    cancelLookUp_.request();
    cancelLookUp_ = Cancel();
    threads_->look.run(
        [this, request, source = source_, cancel = cancelLookUp_, number = ++lookUpNumber_, done = std::move(done)] {
            if (cancel.requested()) return;
            auto found = source->lookUp(request, cancel);
            post_([this, number, found = std::move(found), done] {
                if (number == lookUpNumber_) done(found);
            });
        });
}

std::size_t Session::unsavedEdits() const {
    return edits_->count(EditState::Saving) + edits_->count(EditState::Refused);
}

}  // namespace jollyrow
