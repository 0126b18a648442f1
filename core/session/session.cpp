// SPDX-License-Identifier: MIT
// Loading, computing, enquiring and writing have a thread each. Each job gets immutable input and posts one product;
// what is outdated by then is dropped by its number. Covered by tests/session/session_test.cpp, also under
// ThreadSanitizer.
#include "core/session/session.h"

#include <algorithm>

#include "core/columns/room.h"
#include "core/columns/time_zone.h"
#include "core/rules/conversion.h"
#include "core/rules/query_parameters.h"
#include "core/session/schema_for.h"
#include "core/sources/objects/table_source.h"

namespace jollyrow {

namespace {

OpenGroups openAtFirst(const Design& design) {
    OpenGroups open;
    for (const GroupDesign& group : design.groups) open.levels.push_back(group.open);
    return open;
}

/// A way to the owner's thread that ends with the owner.
Post whileAlive(Post post, const std::shared_ptr<bool>& alive) {
    return [post = std::move(post), alive = std::weak_ptr<bool>(alive)](std::function<void()> call) {
        post([alive, call = std::move(call)] {
            if (alive.lock()) call();
        });
    };
}

}  // namespace

Session::Session(Post post, SessionListener listener)
    : listener_(std::move(listener)),
      post_(whileAlive(std::move(post), alive_)),
      saver_(std::make_shared<SaverDesk>(post_)),
      journal_(post_,
               [this](std::uint64_t serial, const RecordJournal::Answers& answers) { answered(serial, answers); }),
      drafts_(post_, draftHooks()),
      schemas_(post_,
               [this] {
                   if (listener_.onSchemas) listener_.onSchemas();
               }),
      loader_(post_, loaderHooks()),
      computer_(post_,
                [this](const std::shared_ptr<const KeyIndex>& keys, std::uint64_t generation) {
                    if (generation > rowsSince_) keys_ = keys;  // those of the records that were loaded last
                }),
      enquiries_(post_),
      rereader_(post_) {
    history_.setNoted([this](const EditStep& step) {
        if (listener_.onStep) listener_.onStep(step);
    });
    journal_.setConflictWords([this](const Conflict& conflict) { return wordsOf(conflict); });
    journal_.setPreparing([this](std::span<const SourceRow> rows) {
        syncDrafts();  // the records are kept before their keys are
        return drafts_.preparing(rows);
    });
}

void Session::syncDrafts() { draftNumber_ = drafts_.sync(*table_, edits()); }

Session::~Session() {
    schemas_.stop();
    loader_.stop();
    computer_.stop();
    enquiries_.stop();
    rereader_.stop();
    saver_->close();
    journal_.finish();
    drafts_.finish();
}

Loader::Hooks Session::loaderHooks() {
    Loader::Hooks hooks;
    hooks.onRecords = [this](std::shared_ptr<const Table> table, const LoadProgress& progress, std::uint64_t load,
                             bool) { take(std::move(table), progress, load); };
    hooks.onProgress = [this](const LoadProgress& progress) {
        if (listener_.onProgress) listener_.onProgress(progress);
    };
    hooks.onEnd = [this](const Result<void>& result) {
        journal_.loadEnded();
        if (listener_.onLoaded) listener_.onLoaded(result);
        tellLeftDrafts();
        if (!isLoading() && std::exchange(readsAgain_, false)) reload();
    };
    return hooks;
}

Result<void> Session::open(Design design, const std::string& sourcePath) {
    auto source = openSource(sourcePath);
    if (!source) return source.error();
    return openOn(std::move(*source), std::move(design), sourcePath, [sourcePath] { return openStore(sourcePath); });
}

Result<void> Session::open(Design design, std::shared_ptr<const Source> source, StoreOpener store,
                           const std::string& sourcePath) {
    return openOn(std::move(source), std::move(design), sourcePath, std::move(store));
}

Result<void> Session::open(Design design, std::shared_ptr<const Table> table) {
    return openOn(tableSource(std::move(table)), std::move(design), {}, []() -> Result<std::unique_ptr<Store>> {
        return Error{ErrorCode::ReadOnly, "A table in memory cannot be edited."};
    });
}

Result<void> Session::openOn(std::shared_ptr<const Source> source, Design design, const std::string& sourcePath,
                             StoreOpener store) {
    JOLLYROW_REQUIRE(owner_.isHere());
    auto late = std::make_shared<Loader::SchemaCame>();
    auto schema =
        schemas_.ask([source, design, registered = registered_](
                         const Cancel& cancel) { return schemaFor(*source, design, registered.get(), cancel); },
                     [late](const Result<TableSchema>& came) { (*late)(came); });
    if (schema && !*schema) {
        if (isLoading() && schema_.fields.empty()) awaitSchema();  // the present one's, whose place was taken
        return schema->error();
    }
    schemas_.forget(source);
    loader_.cancel();
    computer_.forget();
    source_ = std::move(source);
    design_ = std::move(design);
    sourcePath_ = sourcePath;
    state_ = {};
    state_.parameters = parametersOf(design_);
    state_.open = openAtFirst(design_);
    outOfPlace_.clear();
    journal_.setVersionField(design_.grid.version);
    openStore_ = store;
    journal_.begin(SaverDesk::before(saver_, std::move(store)));
    history_.clear();
    recorded_->clear();
    orderEdits_ = edits();
    keys_.reset();
    rowsSince_ = generation_;
    ++epoch_;
    digests_.clear();
    checks_.forget();
    leftWaiting_.clear();
    askedLater_.clear();
    tableLoad_ = 0;
    following_ = {};
    beginWith(schema ? std::move(**schema) : TableSchema{});
    beginDrafts();
    schema ? beginLoad(Loader::Parts::Shown) : void(*late = schemaAwaited());
    return {};
}

namespace {
/// They are planned with groups and figures, and shown as those were planned.
std::vector<StyleDesign> lineStylesOf(const Design& design) {
    std::vector<StyleDesign> styles;
    for (const StyleDesign& style : design.styles)
        if (style.lines != StyledLines::Records) styles.push_back(style);
    return styles;
}
}  // namespace

void Session::setDesign(Design design) {
    JOLLYROW_REQUIRE(owner_.isHere());
    if (design == design_) return;
    const bool parametersChanged = design.parameters != design_.parameters;
    const bool groupsChanged = design.groups != design_.groups || design.summaries != design_.summaries ||
                               design.grid.totalAll != design_.grid.totalAll ||
                               lineStylesOf(design) != lineStylesOf(design_);
    const bool levelsChanged = openAtFirst(design).levels != openAtFirst(design_).levels;
    design_ = std::move(design);
    journal_.setVersionField(design_.grid.version);
    if (parametersChanged) state_.parameters = parametersOf(design_);
    if (levelsChanged) state_.open.levels = openAtFirst(design_).levels;
    if (schema_.fields.empty()) {  // what it means is seen when the schema is there
        if (isLoading()) awaitSchema();
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
        plan->sort != plan_->sort || plan->filter != plan_->filter || plan->computed != plan_->computed ||
        !std::equal(plan->banners.begin(), plan->banners.end(), plan_->banners.begin(), plan_->banners.end(),
                    [](const PlannedBanner& a, const PlannedBanner& b) {
                        return a.design.where == b.design.where && a.design.heads == b.design.heads &&
                               sameMeaning(a.where, b.where);
                    }) ||
        computesAnew;
    const bool extentsChanged = plan->extents != plan_->extents;
    if (plan->computed != plan_->computed)  // what they were by other rules tells nothing
        recorded_->move([this](Edits::Place place) {
            return raw(place.second) < schema_.storedFields() ? std::optional(place) : std::nullopt;
        });
    plan_ = std::move(plan);
    findAllProblems();
    if (related || (missing && !isLoading())) beginLoad(table_->rows == 0 ? Loader::Parts::Shown : Loader::Parts::Kept);
    if (rowsChanged)
        recompute();
    else if (extentsChanged)
        recompute(Order::Kept);
}

void Session::setParameter(const std::string& name, const Value& value) {
    const auto known = std::find_if(design_.parameters.begin(), design_.parameters.end(),
                                    [&](const ParameterDesign& p) { return p.name == name; });
    if (known == design_.parameters.end()) return;
    const RuleValue boxed = ruleValue(value);
    const auto before = state_.parameters;
    if (isEmpty(value))
        state_.parameters.erase(name);
    else if (const auto fitted = convertedConstant(boxed, ruleKindOf(known->type), zoneOf(schema_)))
        state_.parameters.insert_or_assign(name, *fitted);
    if (state_.parameters == before) return;
    const auto asked = parametersIn(design_.source.query);
    if (std::find(asked.begin(), asked.end(), name) == asked.end()) return recompute();
    beginLoad(table_->rows == 0 ? Loader::Parts::Shown : Loader::Parts::Kept);
}

void Session::setBypassed(Stage stage, bool bypassed) {
    if (isBypassed(stage) == bypassed) return;
    bypassed ? void(state_.bypassed.insert(stage)) : void(state_.bypassed.erase(stage));
    recompute();
}

EvaluationInput Session::evaluationInput() const {
    return jollyrow::evaluationInput(snapshot_ ? snapshot_->table : table_, edits(), state_);
}

void Session::setOnly(std::shared_ptr<const RecordSet> only) {
    if (only == state_.only) return;
    state_.only = std::move(only);
    recompute();
}

void Session::reload() {
    if (!isLoading()) schema_.fields.empty() ? awaitSchema() : beginLoad(Loader::Parts::Kept);
}

void Session::beginLoad(Loader::Parts parts) {
    journal_.loadBegun();
    state_.now = zoneOf(schema_).localNow();
    loader_.begin(source_, loadRequest(design_, schema_, plan_->wanted, state_), parts);
}

void Session::take(std::shared_ptr<const Table> table, const LoadProgress& progress, std::uint64_t load) {
    state_.loadMilliseconds = progress.milliseconds;
    table = withSchema(*table, withComputedFields(table->schema, design_, registered_.get()));
    // Parts of one load number their rows alike; another load's rows are others, so the change-over waits for its
    // snapshot: rows and edits of two tables must never meet.
    // The table may have been altered since; the plan goes with its fields.
    if (table_->rows != 0 && tableLoad_ != load) {
        incoming_ = edits()->hasFates() && table_->spare != 0 ? withRoom(*table, table_->spare) : std::move(table);
    } else {
        table_ = std::move(table);
        tableLoad_ = load;
        keys_.reset();
        rowsSince_ = generation_;
        if (table_->schema.fields != schema_.fields) {
            schema_ = table_->schema;
            checks_.forget();
            plan_ = std::make_shared<const ViewPlan>(planOf(design_, schema_, nullptr, registered_.get()));
        }
    }
    recompute();
}

RowRef Session::refOf(SourceRow row) const {
    JOLLYROW_REQUIRE(owner_.isHere() && raw(row) < table_->rows);
    return {epoch_, row, table_->hasKeys() ? journal_.keyOf(*table_, row) : RecordKey{}, journal_.keyMoves()};
}

namespace {
/// False for spare rows that nobody inserted, and for records whose deletion was saved.
bool isRecord(const Table& table, const Edits& edits, SourceRow row) {
    const RecordFate* fate = edits.fate(row);
    if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved) return false;
    const bool isHere =
        fate && fate->change != RecordChange::Update;  // inserted here, by now deleted in a draft or not
    return raw(row) < (isHere ? table.rows : table.loaded());
}
}  // namespace

std::optional<SourceRow> Session::now(const RowRef& ref) const {
    if (ref.epoch == epoch_) return isRecord(*table_, *edits(), ref.row) ? std::optional(ref.row) : std::nullopt;
    return rowOf(journal_.keyNow(ref.key, ref.keyMoves));
}

std::optional<SourceRow> Session::rowOf(const RecordKey& key) const {
    // A draft has no key yet: what names it so would name any other, too.
    if (!table_->hasKeys() || std::any_of(key.begin(), key.end(), [](const Value& v) { return isEmpty(v); }))
        return std::nullopt;
    if (const auto edited = journal_.editedTo(*table_, key)) return edited;
    if (!keys_) keys_ = std::make_shared<const KeyIndex>(table_);
    const auto row = keys_->find(key);
    return row && isRecord(*table_, *edits(), *row) && journal_.keyOf(*table_, *row) == key ? row : std::nullopt;
}

void Session::recompute(Order order) {
    JOLLYROW_REQUIRE(owner_.isHere());
    if (incoming_ && incoming_->schema.fields == schema_.fields)
        incomingPlan_ = plan_;  // the design may have changed
    else if (incoming_)
        incomingPlan_ =
            std::make_shared<const ViewPlan>(planOf(design_, incoming_->schema, nullptr, registered_.get()));
    ViewState state = state_;
    if (incoming_) state.only.reset();  // its records are those of the older table
    RowlineInput input = viewInput(incoming_ ? *incomingPlan_ : *plan_, incoming_ ? incoming_ : table_, edits(), state);
    input.figuresOfAll = design_.grid.totalAll;
    input.draftsFirst = design_.grid.entryLine == EntryLinePlace::Top;
    if (order == Order::Anew || incoming_) {
        orderEdits_ = edits();
        outOfPlace_.clear();
    } else {
        input.orderEdits = orderEdits_;
    }
    input.generation = ++generation_;
    std::optional<ViewComputer::Reload> reload;
    if (incoming_) {
        const bool isWhole = snapshot_ && snapshot_->table->rows == table_->rows;
        reload = {table_, journal_.carriage(*table_), isWhole ? snapshot_->table : table_, plan_->recorded};
    }
    computer_.compute(std::move(input), std::move(reload), [this](const MadeView& made) { computed(made); });
}

/// A reload's rows take the place of the older ones: table, edits and everything that names a row, in one step.
void Session::changeOver(const MadeView& made) {
    insertsMayBeRead_ = insertsMayBeRead_ || journal_.isInserting();
    const auto over = journal_.changeOver(*table_, *incoming_, made.byKey, *made.keys);
    for (const std::string& lost : over.lost)
        if (listener_.onFailure) listener_.onFailure({ErrorCode::NotFound, lost});
    state_.only.reset();
    moveRecorded(made, over.moves);
    table_ = std::exchange(incoming_, nullptr);
    tableLoad_ = loader_.number();
    history_.moveRows(over.moves, schema_, table_->schema);
    drafts_.moveRows(over.moves);
    plan_ = std::exchange(incomingPlan_, nullptr);
    schema_ = table_->schema;
    orderEdits_ = edits();
    keys_ = made.keys;
    rowsSince_ = generation_;
    ++epoch_;
    digests_.clear();
    schemas_.forget(source_);
    checks_.forget();
    leftWaiting_.clear();
    // What hangs on a link that was saved meanwhile may have been read before.
    edits()->forEach([this](Edits::Place place, const CellEdit& edit) {
        if (edit.state == EditState::Saved) readRelatedAgain(place.first, {&place.second, 1});
    });
    if (listener_.onRowsMoved) listener_.onRowsMoved(over.moves);
}

/// Earlier values go with their records; what the reload changed joins them.
void Session::moveRecorded(const MadeView& made, const RowMoves& moves) {
    const auto now = [&](Edits::Place place) -> std::optional<Edits::Place> {
        const auto row = moves.now(place.first);
        const auto field = incoming_->schema.find(table_->schema.field(place.second).name);
        if (!row || !field || raw(*row) >= incoming_->rows) return std::nullopt;
        return Edits::Place(*row, *field);
    };
    recorded_->move(now);
    for (const RecordedChange& change : made.changes)
        if (const auto place = now(change.before)) recorded_->note(place->first, place->second, change.number);
}

void Session::computed(const MadeView& made) {
    if (!made.snapshot) {
        if (made.snapshot.error().code != ErrorCode::Cancelled && listener_.onFailure)
            listener_.onFailure(made.snapshot.error());
        if (loader_.isWhole()) loader_.end({});
        return;
    }
    auto snapshot = std::make_shared<Snapshot>(**made.snapshot);
    if (incoming_) changeOver(made);
    snapshot->epoch = epoch_;
    const bool isOther = !snapshot_ || snapshot_->table->rows != snapshot->table->rows;
    journal_.setEdits(withComputedOf(*snapshot));  // edits made meanwhile show at once
    if (isOther && !edits()->empty()) {            // records in new room, and those of a reload
        snapshot_ = snapshot;
        findAllProblems();
    }
    snapshot->edits = edits();
    if (snapshot->grouped && !(snapshot->grouped->open() == state_.open))
        snapshot->grouped = std::make_shared<const GroupedLines>(*snapshot->grouped, state_.open);
    show(std::move(snapshot));
    if (loader_.isWhole()) loader_.end({});
}

void Session::show(std::shared_ptr<Snapshot> snapshot) {
    if (!plan_->recorded.empty()) snapshot->recorded = recorded_;
    snapshot_ = std::move(snapshot);
    syncDrafts();
    if (listener_.onSnapshot) listener_.onSnapshot();
}

}  // namespace jollyrow
