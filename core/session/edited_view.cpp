// SPDX-License-Identifier: MIT
// What is outdated by the time it is made is dropped by its number. Covered by tests/session/session_test.cpp and
// session_model_test.cpp, also under ThreadSanitizer.
#include "core/session/edited_view.h"

#include <algorithm>
#include <cmath>

#include "core/columns/room.h"
#include "core/session/schema_for.h"

namespace jollyrow {

EditedView::EditedView(BoundRecords& bound, RecordFinder& finder, Hooks hooks)
    : bound_(bound),
      finder_(finder),
      hooks_(std::move(hooks)),
      computer_(bound.post, [this](const std::shared_ptr<const KeyIndex>& keys, std::uint64_t generation) {
          if (generation > rowsSince_) finder_.take(keys);  // those of the records that were loaded last
      }) {}

void EditedView::forget() {
    computer_.forget();
    outOfPlace_.clear();
    recorded_->clear();
    orderEdits_ = bound_.edits();
    finder_.forget();
    rowsSince_ = generation_;
    ++bound_.epoch;
    bound_.tableLoad = 0;
}

void EditedView::begin() {
    auto empty = std::make_shared<Table>();
    empty->schema = bound_.schema;
    empty->columns.resize(bound_.schema.fields.size());
    empty->complete = false;
    bound_.table = empty;
    bound_.incoming.reset();
    incomingPlan_.reset();
    auto snapshot = std::make_shared<Snapshot>();
    snapshot->generation = ++generation_;
    snapshot->epoch = bound_.epoch;
    snapshot->table = bound_.table;
    snapshot->edits = bound_.edits();
    show(std::move(snapshot));
}

void EditedView::take(std::shared_ptr<const Table> table, std::uint64_t load) {
    table = withSchema(*table, withComputedFields(table->schema, bound_.design, bound_.registered.get()));
    // Parts of one load number their rows alike; another load's rows are others, so the change-over waits for its
    // snapshot: rows and edits of two tables must never meet.
    // The table may have been altered since; the plan goes with its fields.
    if (bound_.table->rows != 0 && bound_.tableLoad != load) {
        const std::size_t room = bound_.edits()->hasFates() ? bound_.table->spare : 0;
        bound_.incoming = room != 0 ? withRoom(*table, room) : std::move(table);
        incomingLoad_ = load;
    } else {
        bound_.table = std::move(table);
        bound_.tableLoad = load;
        finder_.forget();
        rowsSince_ = generation_;
        if (bound_.table->schema.fields != bound_.schema.fields) {
            bound_.schema = bound_.table->schema;
            hooks_.fieldsChanged();
            bound_.plan = std::make_shared<const ViewPlan>(
                planOf(bound_.design, bound_.schema, nullptr, bound_.registered.get()));
        }
    }
    recompute();
}

namespace {
bool sameStored(const TableSchema& one, const TableSchema& other) {
    const auto stored = static_cast<std::ptrdiff_t>(one.storedFields());
    return one.storedFields() == other.storedFields() &&
           std::equal(one.fields.begin(), one.fields.begin() + stored, other.fields.begin());
}
}  // namespace

void EditedView::refit(TableSchema schema) {
    const std::function<std::shared_ptr<const Table>(const Table&)> fitted = [&](const Table& from) {
        auto table = std::make_shared<Table>(from);
        table->schema = schema;
        table->columns.assign(schema.fields.size(), nullptr);
        for (std::size_t i = 0; i < schema.fields.size(); ++i)
            if (const auto known = from.schema.find(schema.fields[i].name);
                known && from.schema.field(*known) == schema.fields[i])
                table->columns[i] = from.columns[raw(*known)];
        if (from.roomy) table->roomy = fitted(*from.roomy);
        return table;
    };
    bound_.table = fitted(*bound_.table);
    auto snapshot = std::make_shared<Snapshot>(*bound_.snapshot);
    snapshot->table = fitted(*bound_.snapshot->table);
    bound_.journal.setEdits(withoutComputedCells(*bound_.edits(), bound_.schema));
    recorded_->move([&](Edits::Place place) -> std::optional<Edits::Place> {
        const FieldSchema& field = bound_.schema.field(place.second);
        const auto known = schema.find(field.name);
        if (!known || !(schema.field(*known) == field)) return std::nullopt;
        return Edits::Place(place.first, *known);
    });
    orderEdits_ = bound_.edits();
    snapshot->edits = bound_.edits();
    bound_.snapshot = std::move(snapshot);
    // What a reload has brought goes on with the new list; where it lacks fields, another load has begun for them. The
    // view that is being computed of it has the older list and must not come.
    if (bound_.incoming)
        bound_.incoming = sameStored(bound_.incoming->schema, schema) ? withSchema(*bound_.incoming, schema) : nullptr;
    incomingPlan_.reset();
    computer_.forget();
    bound_.schema = std::move(schema);
    hooks_.fieldsChanged();
}

void EditedView::makeRoom() {
    if (!freeRow(*bound_.table, *bound_.edits())) bound_.table = withRoom(*bound_.table);  // the loaded keys stay
    // A reload's rows that came while nothing was new here have no room yet.
    if (bound_.incoming && bound_.incoming->spare < bound_.table->spare)
        bound_.incoming = withRoom(*bound_.incoming, bound_.table->spare);
}

void EditedView::takeRoom() {
    if (bound_.table->spare != 0 || !bound_.table->roomy) return;
    bound_.table = bound_.table->roomy;
    if (bound_.incoming && bound_.incoming->spare < bound_.table->spare)
        bound_.incoming = withRoom(*bound_.incoming, bound_.table->spare);
}

void EditedView::recompute(Order order) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    if (bound_.incoming && bound_.incoming->schema.fields == bound_.schema.fields)
        incomingPlan_ = bound_.plan;  // the design may have changed
    else if (bound_.incoming)
        incomingPlan_ = std::make_shared<const ViewPlan>(
            planOf(bound_.design, bound_.incoming->schema, nullptr, bound_.registered.get()));
    ViewState state = bound_.state;
    if (bound_.incoming) state.only.reset();  // its records are those of the older table
    RowlineInput input = viewInput(bound_.incoming ? *incomingPlan_ : *bound_.plan,
                                   bound_.incoming ? bound_.incoming : bound_.table, bound_.edits(), state);
    input.figuresOfAll = bound_.design.grid.totalAll;
    input.draftsFirst = bound_.design.grid.entryLine == EntryLinePlace::Top;
    if (order == Order::Anew || bound_.incoming) {
        orderEdits_ = bound_.edits();
        outOfPlace_.clear();
    } else {
        input.orderEdits = orderEdits_;
    }
    input.generation = ++generation_;
    std::optional<ViewComputer::Reload> reload;
    if (bound_.incoming) {
        const bool isWhole = bound_.snapshot && bound_.snapshot->table->rows == bound_.table->rows;
        reload = {bound_.table, bound_.journal.carriage(*bound_.table), isWhole ? bound_.snapshot->table : bound_.table,
                  bound_.plan->recorded};
    }
    computer_.compute(std::move(input), std::move(reload), [this](const MadeView& made) { computed(made); });
}

/// A reload's rows take the place of the older ones: table, edits and everything that names a row, in one step.
void EditedView::changeOver(const MadeView& made) {
    hooks_.moving();
    const auto over = bound_.journal.changeOver(*bound_.table, *bound_.incoming, made.byKey, *made.keys);
    for (const std::string& lost : over.lost) bound_.fail({ErrorCode::NotFound, lost});
    bound_.state.only.reset();
    moveRecorded(made, over.moves);
    bound_.table = std::exchange(bound_.incoming, nullptr);
    bound_.tableLoad = incomingLoad_;
    const TableSchema before = std::exchange(bound_.schema, bound_.table->schema);
    bound_.journal.nameLost(bound_.history.moveRows(over.moves, before, bound_.schema));
    bound_.plan = std::exchange(incomingPlan_, nullptr);
    orderEdits_ = bound_.edits();
    finder_.take(made.keys);
    rowsSince_ = generation_;
    ++bound_.epoch;
    hooks_.moved(over.moves);
    if (bound_.listener.onRowsMoved) bound_.listener.onRowsMoved(over.moves);
}

/// Earlier values go with their records; what the reload changed joins them.
void EditedView::moveRecorded(const MadeView& made, const RowMoves& moves) {
    const auto now = [&](Edits::Place place) -> std::optional<Edits::Place> {
        const auto row = moves.now(place.first);
        const auto field = bound_.incoming->schema.find(bound_.table->schema.field(place.second).name);
        if (!row || !field || raw(*row) >= bound_.incoming->rows) return std::nullopt;
        return Edits::Place(*row, *field);
    };
    recorded_->move(now);
    for (const RecordedChange& change : made.changes)
        if (const auto place = now(change.before)) recorded_->note(place->first, place->second, change.number);
}

void EditedView::computed(const MadeView& made) {
    if (!made.snapshot) {
        if (made.snapshot.error().code != ErrorCode::Cancelled) bound_.fail(made.snapshot.error());
        return hooks_.computed();
    }
    auto snapshot = std::make_shared<Snapshot>(**made.snapshot);
    if (bound_.incoming) changeOver(made);
    snapshot->epoch = bound_.epoch;
    const bool isOther = !bound_.snapshot || bound_.snapshot->table->rows != snapshot->table->rows;
    bound_.journal.setEdits(withComputedOf(*snapshot));  // edits made meanwhile show at once
    if (isOther && !bound_.edits()->empty()) {           // records in new room, and those of a reload
        bound_.snapshot = snapshot;
        hooks_.recordsChanged();
    }
    snapshot->edits = bound_.edits();
    if (snapshot->grouped && !(snapshot->grouped->open() == bound_.state.open))
        snapshot->grouped = std::make_shared<const GroupedLines>(*snapshot->grouped, bound_.state.open);
    show(std::move(snapshot));
    hooks_.computed();
}

void EditedView::show(std::shared_ptr<Snapshot> snapshot) {
    if (!bound_.plan->recorded.empty()) snapshot->recorded = recorded_;
    bound_.snapshot = std::move(snapshot);
    hooks_.showing();
    if (bound_.listener.onSnapshot) bound_.listener.onSnapshot();
}

void EditedView::pickList(FieldIndex field, std::optional<std::size_t> leftOut, ViewComputer::PickDone done) {
    RowlineInput input = viewInput(*bound_.plan, bound_.table, bound_.edits(), bound_.state);
    input.figuresOfAll = bound_.design.grid.totalAll;
    // The part of the design as an index into the terms that are there.
    std::optional<std::size_t> term;
    if (leftOut && *leftOut < bound_.design.filter.size())
        for (std::size_t i = 0; i < input.filter.size(); ++i)
            if (input.filter[i].rule == bound_.design.filter[*leftOut].rule) term = i;
    TextOrder order;
    order.locale = bound_.design.locale;
    computer_.pickList(std::move(input), field, term, std::move(order), std::move(done));
}

}  // namespace jollyrow
