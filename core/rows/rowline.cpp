// SPDX-License-Identifier: MIT
// Filter and Sort commute, so both work on all records: conditions give sets, keys give one order, and the lines are
// the records of that order that are in the sets. A keystroke in a filter then costs its condition and one pass over
// the kept order; a changed key costs the sort. Covered by tests/rows/filter_test.cpp and order_test.cpp.
#include "core/rows/rowline.h"

#include <algorithm>
#include <bit>
#include <chrono>
#include <iterator>

#include "core/base/out_of_memory.h"
#include "core/columns/room.h"
#include "core/rows/sections.h"

namespace jollyrow {
namespace {

double millisecondsSince(std::chrono::steady_clock::time_point begun) {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
}

}  // namespace

EvaluationInput Rowline::evaluationInput(const RowlineInput& input) {
    EvaluationInput out;
    out.table = input.table;
    out.edits = input.edits;
    out.parameters = input.parameters;
    out.today = input.today;
    out.now = input.now;
    out.folds = &folds_;
    return out;
}

Result<std::shared_ptr<const RecordSet>> Rowline::setFor(const FilterTerm& term, const RowlineInput& input,
                                                         const Cancel& cancel) {
    std::vector<std::uint64_t> columns;
    for (const FieldIndex field : term.program->fields)
        columns.push_back(input.table->column(field) ? input.table->column(field)->id() : 0);
    std::map<std::string, RuleValue> parameters;
    for (const auto& parameter : term.program->parameters)
        if (const auto found = input.parameters.find(parameter.name); found != input.parameters.end())
            parameters.insert(*found);
    const std::uint64_t presence = presenceOf(*term.program, evaluationInput(input));
    const auto kept = std::find_if(sets_.begin(), sets_.end(), [&](const KeptSet& k) {
        return k.term == term && k.columns == columns && k.parameters == parameters && k.today == input.today &&
               k.rows == input.table->rows && k.presence == presence;
    });
    if (kept != sets_.end()) {
        const auto changed = changedRecords(kept->edits.get(), input.edits.get(), term.program->fields);
        if (!changed.empty() && (changed.size() > 1000 || !term.program->windows.empty())) {
            sets_.erase(kept);
        } else {
            if (!changed.empty()) {
                filterDidWork_ = true;
                auto again = rowsWhereAgain(*kept->set, changed, term.program, evaluationInput(input));
                if (!again) return again.error();
                kept->set = std::move(*again);
            }
            kept->edits = input.edits;
            sets_.splice(sets_.begin(), sets_, kept);
            return sets_.front().set;
        }
    }
    filterDidWork_ = true;
    auto made = rowsWhere(term.program, evaluationInput(input), cancel);
    if (!made) return made.error();
    sets_.push_front({term, std::move(columns), std::move(parameters), input.today, input.table->rows, presence,
                      input.edits, *made});
    if (sets_.size() > kKeptSets) sets_.pop_back();
    return made;
}

Result<std::vector<std::shared_ptr<const RecordSet>>> Rowline::setsFor(const RowlineInput& input,
                                                                       std::optional<std::size_t> leftOut,
                                                                       const Cancel& cancel) {
    std::vector<std::shared_ptr<const RecordSet>> sets;
    for (std::size_t i = 0; i < input.filter.size(); ++i) {
        if (leftOut == i) continue;
        auto set = setFor(input.filter[i], input, cancel);
        if (!set) return set.error();
        sets.push_back(std::move(*set));
    }
    if (input.only && input.only->rows == input.table->rows) sets.push_back(input.only);
    if (input.present) sets.push_back(input.present);
    return sets;
}

/// Records are inserted and deleted by their edits: the table has spare rows, and keeps what is deleted.
void Rowline::markPresent(RowlineInput& input, const Edits* orderEdits) {
    input.drafts.clear();
    input.present = nullptr;
    std::vector<std::uint32_t> absent = absentRows(*input.table, input.edits.get());
    if (orderEdits && orderEdits->hasFates())
        orderEdits->forEachRecord([&](SourceRow row, const RecordEdit& record) {
            const RecordFate* fate = record.fate();
            if (raw(row) >= input.table->loaded() && raw(row) < input.table->rows && fate &&
                fate->change == RecordChange::Insert && fate->state != EditState::Saved &&
                !std::binary_search(absent.begin(), absent.end(), raw(row)))
                input.drafts.push_back(raw(row));
        });
    if (absent.empty()) return;
    if (!present_ || present_->rows != input.table->rows || absent != absent_) {
        present_ = allBut(absent, input.table->rows);
        absent_ = std::move(absent);
    }
    input.present = present_;
}

/// The records of the set in their order, drafts before or behind them.
std::shared_ptr<const RowOrder> Rowline::orderOf(const RowlineInput& input, const std::shared_ptr<const RecordSet>& set,
                                                 const RowOrder* order) {
    if (input.drafts.empty()) return chosen(order, *set);
    auto lines = std::make_shared<RowOrder>(*chosen(order, *without(*set, input.drafts)));
    lines->insert(input.draftsFirst ? lines->begin() : lines->end(), input.drafts.begin(), input.drafts.end());
    return lines;
}

namespace {
/// Where a row stands; the end when it does not. In blocks, whose comparisons the compiler makes wide.
std::ptrdiff_t lineOf(const RowOrder& order, std::uint32_t row) {
    constexpr std::size_t kBlock = 256;
    std::size_t at = 0;
    for (; at + kBlock <= order.size(); at += kBlock) {
        std::uint32_t found = 0;
        for (std::size_t i = 0; i < kBlock; ++i) found |= order[at + i] == row ? 1U : 0U;
        if (found != 0) break;
    }
    return std::find(order.begin() + static_cast<std::ptrdiff_t>(at), order.end(), row) - order.begin();
}
}  // namespace

/// A few records have come before or behind the others, or have gone: the lines follow, and groups are told which.
bool Rowline::follow(const RowlineInput& input, const std::shared_ptr<const RecordSet>& set) {
    constexpr std::size_t kMostFollowed = 16;
    if (!set || !shownSet_ || shownSet_->bits.size() != set->bits.size() || shownDraftsFirst_ != input.draftsFirst)
        return false;
    auto change = std::make_shared<OrderChange>();
    change->before = shown_;
    change->joinedFirst = input.draftsFirst;
    for (std::size_t word = 0; word < set->bits.size(); ++word)
        for (std::uint64_t left = set->bits[word] ^ shownSet_->bits[word]; left != 0; left &= left - 1) {
            const auto row = static_cast<std::uint32_t>(word * 64 + static_cast<std::size_t>(std::countr_zero(left)));
            (set->contains(row) ? change->joined : change->left).push_back(row);
            if (change->joined.size() + change->left.size() > kMostFollowed) return false;
        }
    // The drafts that were there stay in their places, new ones stand behind them: rows rise.
    std::vector<std::uint32_t> drafts = shownDrafts_;
    std::erase_if(drafts, [&](std::uint32_t row) { return !set->contains(row); });
    drafts.insert(drafts.end(), change->joined.begin(), change->joined.end());
    if (drafts != input.drafts ||
        (input.draftsFirst && !change->joined.empty() && drafts.size() > change->joined.size()))
        return false;
    auto lines = std::make_shared<RowOrder>();
    lines->reserve(shown_->size() + change->joined.size());
    if (input.draftsFirst) lines->insert(lines->end(), change->joined.begin(), change->joined.end());
    std::vector<std::ptrdiff_t> places;
    for (const std::uint32_t row : change->left) places.push_back(lineOf(*shown_, row));
    std::sort(places.begin(), places.end());
    auto kept = shown_->begin();
    for (const std::ptrdiff_t place : places) {
        if (shown_->begin() + place == shown_->end()) continue;
        lines->insert(lines->end(), kept, shown_->begin() + place);
        kept = shown_->begin() + place + 1;
    }
    lines->insert(lines->end(), kept, shown_->end());
    if (!input.draftsFirst) lines->insert(lines->end(), change->joined.begin(), change->joined.end());
    if (change->joinedFirst) std::reverse(change->joined.begin(), change->joined.end());  // each before the last one
    shown_ = std::move(lines);
    shownChange_ = std::move(change);
    return true;
}

Result<RowlineInput> Rowline::computed(const RowlineInput& given, const Cancel& cancel) {
    RowlineInput input = given;
    markPresent(input, given.orderEdits ? given.orderEdits.get() : given.edits.get());
    if (input.computed.empty()) return input;
    const auto begun = std::chrono::steady_clock::now();
    auto made = compute_.run(input.computed, evaluationInput(input), cancel);
    if (!made) return made.error();
    if (compute_.didWork()) reports_.compute.milliseconds = millisecondsSince(begun);
    RowlineInput out = std::move(input);
    out.computed.clear();
    out.table = std::move(made->table);
    out.edits = std::move(made->edits);
    return out;
}

Result<std::shared_ptr<const RecordSet>> Rowline::rowsWithout(const RowlineInput& given,
                                                              std::optional<std::size_t> leftOut,
                                                              const Cancel& cancel) {
    auto input = computed(given, cancel);
    if (!input) return input.error();
    auto sets = setsFor(*input, leftOut, cancel);
    if (!sets) return sets.error();
    return intersection(*sets, input->table->rows);
}

Result<std::shared_ptr<const PickList>> Rowline::pickList(const RowlineInput& given, FieldIndex field,
                                                          std::optional<std::size_t> leftOut, const TextOrder& order,
                                                          const Cancel& cancel) {
    auto whole = computed(given, cancel);
    if (!whole) return whole.error();
    const RowlineInput& input = *whole;
    const Column* column = input.table->column(field);
    if (!column) return Error{ErrorCode::NotFound, "This column is not loaded yet."};
    const bool all =
        !input.only && !input.present && (input.filter.empty() || (input.filter.size() == 1 && leftOut == 0));
    std::shared_ptr<const RecordSet> set;
    if (!all) {
        auto rows = rowsWithout(input, leftOut, cancel);
        if (!rows) return rows.error();
        set = std::move(*rows);
    }
    return pickListOf(*column, field, input.edits.get(), set.get(), order, sort_.ranks(), cancel);
}

Result<std::shared_ptr<const Snapshot>> Rowline::run(const RowlineInput& given, const Cancel& cancel) {
    return withinMemory("Computing what is shown", [&] { return made(given, cancel); });
}

/// Null where nothing is left out.
Result<std::shared_ptr<const RecordSet>> Rowline::filteredSet(const RowlineInput& input,
                                                              const std::shared_ptr<const RecordSet>& heads,
                                                              StageReport& report, const Cancel& cancel) {
    const auto rows = static_cast<std::int64_t>(input.table->rows);
    const std::int64_t records = input.present ? static_cast<std::int64_t>(input.present->count) : rows;
    report = {records, records, 0};
    if (input.filter.empty() && !input.present && !(input.only && input.only->rows == input.table->rows))
        return std::shared_ptr<const RecordSet>();
    const auto begun = std::chrono::steady_clock::now();
    filterDidWork_ = false;
    auto sets = setsFor(input, std::nullopt, cancel);
    if (!sets) return sets.error();
    // The very same sets as last time give the very same lines.
    std::shared_ptr<const RecordSet> set = sets->size() == 1 ? sets->front() : intersection(*sets, input.table->rows);
    if (!input.drafts.empty() && sets->size() > 1) set = with(*set, input.drafts);
    if (heads) {
        if (withHeadsFrom_ != set || shownHeads_ != heads || !withHeads_) withHeads_ = withHeads(*set, *heads);
        withHeadsFrom_ = std::exchange(set, withHeads_);
    }
    if (sets->size() > 1 && shownSet_ && shownSet_->bits == set->bits) set = shownSet_;
    report.rowsOut = static_cast<std::int64_t>(set->count);
    report.failed = static_cast<std::int64_t>(set->failed);
    report.firstFailed = set->firstFailed;
    report.failure = set->failure;
    if (filterDidWork_) reports_.filter.milliseconds = millisecondsSince(begun);
    report.milliseconds = reports_.filter.milliseconds;
    return set;
}

Result<std::shared_ptr<const Snapshot>> Rowline::made(const RowlineInput& given, const Cancel& cancel) {
    auto whole = computed(given, cancel);
    if (!whole) return whole.error();
    const RowlineInput& input = *whole;
    RowlineInput ordering = input;
    if (given.orderEdits) ordering.edits = given.orderEdits;
    auto snapshot = std::make_shared<Snapshot>();
    snapshot->generation = input.generation;
    snapshot->table = input.table;
    snapshot->edits = input.edits;
    const auto rows = static_cast<std::int64_t>(input.present ? input.present->count : input.table->rows);
    snapshot->source = {rows, rows, input.loadMilliseconds};
    if (!given.computed.empty()) snapshot->source.computing = reports_.compute.milliseconds;

    auto heads = headsFor(ordering, cancel);
    if (!heads) return heads.error();
    auto filtered = filteredSet(ordering, *heads, snapshot->filter, cancel);
    if (!filtered) return filtered.error();
    const std::shared_ptr<const RecordSet> set = std::move(*filtered);
    const std::int64_t left = snapshot->filter.rowsOut;
    snapshot->sort = snapshot->group = snapshot->summaries = {left, left, 0};

    const auto begun = std::chrono::steady_clock::now();
    std::shared_ptr<const RowOrder> order;
    bool sorted = false;
    if (!input.sort.empty()) {
        auto made = sort_.run(input.sort, evaluationInput(ordering), cancel);
        if (!made) return made.error();
        order = std::move(*made);
        sorted = sort_.didWork();
    }
    snapshot->order = shownOrder(input, set, order, *heads);
    if (auto done = addBanners(input, *snapshot, cancel); !done) return done.error();
    if (!input.sort.empty()) {
        if (sorted) reports_.sort.milliseconds = millisecondsSince(begun);
        snapshot->sort.milliseconds = reports_.sort.milliseconds;
    }
    if (auto done = addGroups(input, *snapshot, cancel); !done) return done.error();
    snapshot->situation = {input.parameters, input.today, input.now};
    for (const ExtentTerm& term : input.extents)
        snapshot->extents.emplace_back(
            term, extents_.of(term, snapshot->table, snapshot->edits, set ? snapshot->order : nullptr, cancel));
    if (cancel.requested() && !input.extents.empty()) return Error{ErrorCode::Cancelled, "Stopped."};
    return std::shared_ptr<const Snapshot>(std::move(snapshot));
}

/// The records of `set` (null: all) in `order`, in the sections of `heads` where there are any; as last time where
/// nothing of that is another.
std::shared_ptr<const RowOrder> Rowline::shownOrder(const RowlineInput& input,
                                                    const std::shared_ptr<const RecordSet>& set,
                                                    const std::shared_ptr<const RowOrder>& order,
                                                    const std::shared_ptr<const RecordSet>& heads) {
    const bool isSectioned = order && heads;
    if (!set && !isSectioned) return order;
    if (shown_ && shownSet_ == set && shownFrom_ == order && shownHeads_ == heads && shownDrafts_ == input.drafts &&
        shownDraftsFirst_ == input.draftsFirst)
        return shown_;
    const bool isSame = !isSectioned && shownFrom_ == order && !shownHeads_ && shown_;
    shownChange_ = nullptr;
    if (!isSame || !follow(input, set)) shown_ = set ? orderOf(input, set, order.get()) : order;
    shownDrafts_ = input.drafts;
    shownDraftsFirst_ = input.draftsFirst;
    if (isSectioned) shown_ = bySection(*shown_, *heads);
    shownSet_ = set;
    shownFrom_ = order;
    shownHeads_ = heads;
    return shown_;
}

Result<std::shared_ptr<const RecordSet>> Rowline::headsFor(const RowlineInput& input, const Cancel& cancel) {
    std::vector<std::shared_ptr<const RecordSet>> sets;
    for (const BannerTerm& term : input.banners) {
        if (!term.heads) continue;
        auto set = setFor(term.where, input, cancel);
        if (!set) return set.error();
        sets.push_back(std::move(*set));
    }
    if (sets.empty()) return std::shared_ptr<const RecordSet>();
    if (sets != headSets_ || !heads_ || heads_->rows != input.table->rows) {
        headSets_ = std::move(sets);
        heads_ = unionOf(headSets_, input.table->rows);
    }
    return heads_;
}

Result<void> Rowline::addBanners(const RowlineInput& input, Snapshot& snapshot, const Cancel& cancel) {
    for (const BannerTerm& term : input.banners) {
        auto set = setFor(term.where, input, cancel);
        if (!set) return set.error();
        snapshot.banners.push_back({term.where.rule, std::move(*set)});
    }
    return {};
}

/// Groups and figures. What cannot be grouped is shown without, and says why.
Result<void> Rowline::addGroups(const RowlineInput& input, Snapshot& snapshot, const Cancel& cancel) {
    if (input.groups.empty() && input.summaries.empty()) return {};
    const EvaluationInput records = evaluationInput(input);
    auto made =
        group_.run({input.groups, input.summaries, snapshot.order, shownChange_}, records, sort_.ranks(), cancel);
    if (!made && made.error().code == ErrorCode::Unsupported) {
        snapshot.groupProblem = made.error().message;
        made = group_.run({{}, input.summaries, snapshot.order, shownChange_}, records, sort_.ranks(), cancel);
    }
    if (!made) return made.error();
    snapshot.grouping = input.grouping;
    snapshot.groups = *made;
    const GroupTree& tree = *(*made)->tree;
    if (tree.levels() > 0) {
        snapshot.order = tree.order;
        snapshot.grouped = std::make_shared<const GroupedLines>((*made)->tree, input.open, input.footers);
        if (group_.groupMilliseconds() > 0) reports_.group.milliseconds = group_.groupMilliseconds();
        snapshot.group.milliseconds = reports_.group.milliseconds;
        snapshot.group.groups = static_cast<std::int64_t>(tree.nodes.size());
        for (const GroupNode& node : tree.nodes) {
            if (node.level > 0) break;
            const CellState state = snapshot.groups->tree->keyState(node);
            if (!isError(state)) continue;
            snapshot.group.failed += node.count;
            snapshot.group.failure = state;
            snapshot.group.firstFailed = static_cast<SourceRow>((*tree.order)[static_cast<std::size_t>(node.first)]);
        }
    }
    if (input.summaries.empty()) return {};
    if (group_.sumMilliseconds() > 0) reports_.summaries.milliseconds = group_.sumMilliseconds();
    snapshot.summaries.milliseconds = reports_.summaries.milliseconds;
    if (!input.figuresOfAll) return {};
    auto all = all_.run({{}, input.summaries, input.present ? chosen(nullptr, *input.present) : nullptr}, records,
                        sort_.ranks(), cancel);
    if (!all) return all.error();
    for (std::size_t i = 0; i < input.summaries.size(); ++i) snapshot.figuresOfAll.push_back((*all)->total(i));
    return {};
}

}  // namespace jollyrow
