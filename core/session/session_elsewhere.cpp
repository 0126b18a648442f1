// SPDX-License-Identifier: MIT
// Covered by tests/sources/objects_test.cpp and tests/session/follow_test.cpp.
#include "core/session/session_elsewhere.h"

#include <algorithm>
#include <memory>

#include "core/session/rows_by_key.h"

namespace jollyrow {
namespace {

/// Past so many edits reading all again costs less than carrying them along.
constexpr std::size_t kMostElsewhere = 100'000;
/// Changes that are shown in one turn: some milliseconds.
constexpr std::size_t kMostAtOnce = 150;

}  // namespace

SessionElsewhere::SessionElsewhere(BoundRecords& bound, RecordFinder& finder, EditedView& view, RecordLoading& loading)
    : bound_(bound), finder_(finder), view_(view), loading_(loading), rereader_(bound.post) {}

void SessionElsewhere::forget() {
    askedLater_.clear();
    following_ = {};
}

void SessionElsewhere::askLater() {
    ++following_.answers;
    for (auto& [key, later] : std::exchange(askedLater_, {})) later(key);
}

/// The record of a key, unless its deletion was saved.
std::optional<SourceRow> SessionElsewhere::shownRow(const RecordKey& key, const RowsByKey& known,
                                                    const Edits& edits) const {
    const auto row = known.find(key);
    const RecordFate* fate = row ? edits.fate(*row) : nullptr;
    const bool isGone = fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved;
    return isGone ? std::nullopt : row;
}

/// False when there is no room for it: the next load has it.
bool SessionElsewhere::addRecord(const ElsewhereChange& change, Edits& next, std::size_t& free,
                                 std::vector<SourceRow>& changed) {
    while (free < bound_.table->rows && next.record(static_cast<SourceRow>(free))) ++free;
    if (free >= bound_.table->rows) view_.takeRoom();
    if (free >= bound_.table->rows || next.unsaved() + changed.size() > kMostElsewhere) return false;
    const auto place = static_cast<SourceRow>(free++);
    bound_.journal.addElsewhere(place, change, next);
    changed.push_back(place);
    return true;
}

// NOLINTNEXTLINE(performance-unnecessary-value-param): handed over, as callbacks are; each record that waits keeps it.
bool SessionElsewhere::take(std::span<const ElsewhereChange> changes, std::function<void(const RecordKey&)> later) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    if (!canTake()) return false;
    const std::shared_ptr<const Table> table = bound_.table;  // a roomier one may take its place
    RowsByKey known(*table, bound_.journal, finder_.index());
    return takeAll(changes, later, known);
}

/// Else all is read anew.
bool SessionElsewhere::canTake() const {
    return bound_.table->hasKeys() && bound_.table->complete && bound_.snapshot && bound_.tableLoad != 0;
}

/// `known` gets those that are added.
bool SessionElsewhere::takeAll(std::span<const ElsewhereChange> changes,
                               const std::function<void(const RecordKey&)>& later, RowsByKey& known) {
    bool isAllShown = true;
    auto next = std::make_shared<Edits>(*bound_.edits());
    std::vector<SourceRow> changed;
    std::size_t free = bound_.table->loaded();
    for (const ElsewhereChange& change : changes) {
        const auto row = shownRow(change.key, known, *next);
        // A record that is being inserted here may be this one, whether it was read meanwhile or not.
        const bool isInserting = bound_.journal.isInserting();
        if (isInserting && later) askedLater_.emplace_back(change.key, later);
        if (row) {
            if (bound_.journal.noteElsewhere(*bound_.table, *row, change, *next))
                changed.push_back(*row);
            else if (later)
                askedLater_.emplace_back(change.key, later);
        } else if (!isInserting && !change.isGone) {
            if (addRecord(change, *next, free, changed))
                known.add(change.key, changed.back());
            else
                isAllShown = false;
        }
    }
    if (changed.empty()) return isAllShown;
    view_.setEdits(std::move(next), changed);
    view_.showElsewhere(changed);
    return isAllShown;
}

void SessionElsewhere::look() {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    if (following_.isAsking || following_.isImpossible || loading_.isLoading() || bound_.incoming || !bound_.snapshot ||
        bound_.tableLoad == 0 || !bound_.table->hasKeys() || bound_.schema.isView)
        return;
    following_.isAsking = true;
    // An answer to a save comes behind that of a look which was asked for before it.
    const auto show = [this, epoch = bound_.epoch, source = bound_.source](const Result<SeenElsewhere>& seen) {
        if (source != bound_.source) return;
        following_.isAsking = false;
        if (!seen) return failed(seen.error());
        following_.failure.clear();
        following_.compares = following_.compares || seen->isSomething;
        showNext(std::make_shared<const std::vector<ElsewhereChange>>(seen->changes), 0, {epoch, following_.answers});
    };
    bound_.journal.look(*bound_.table, show);
}

/// Some of them from `first` on; the rest in the turns behind, so that the window answers in between.
void SessionElsewhere::showNext(const std::shared_ptr<const std::vector<ElsewhereChange>>& changes, std::size_t first,
                                ReadAt at) {
    const std::span<const ElsewhereChange> left = std::span(*changes).subspan(first);
    // What was told while records are read, of an older table, or before a save of ours was answered, may be among them
    // or not.
    const bool isShowable = at == now() && !loading_.isLoading();
    following_.isAsking = false;
    if (isShowable) show(left.first(std::min(left.size(), kMostAtOnce)));
    if (isShowable && left.size() > kMostAtOnce) {
        following_.isAsking = true;
        bound_.post([this, changes, next = first + kMostAtOnce, at, source = bound_.source] {
            if (source == bound_.source) showNext(changes, next, at);
        });
        return;
    }
    following_.compares = following_.compares || (!isShowable && !left.empty());
    if (following_.compares && !loading_.isLoading()) compare();
}

void SessionElsewhere::failed(const Error& error) {
    following_.isImpossible = error.code == ErrorCode::Unsupported;
    if (error.code == ErrorCode::Locked || error.message == following_.failure) return;  // said once
    following_.failure = error.message;
    bound_.fail({error.code, "What others save is not shown. " + error.message});
}

void SessionElsewhere::compare() {
    following_.compares = false;
    following_.isAsking = true;
    rereader_.compare(
        bound_.source, loadRequest(bound_.design, bound_.schema, bound_.plan->wanted, bound_.state), bound_.table,
        finder_.known(),
        [this, at = now(), source = bound_.source](const Result<std::optional<Rereader::Difference>>& found) {
            if (source == bound_.source) compared(found, at == now() && !loading_.isLoading());
        });
}

/// `isMeant`: it is still these records that were compared, and no save of ours was answered meanwhile.
void SessionElsewhere::compared(const Result<std::optional<Rereader::Difference>>& found, bool isMeant) {
    following_.isAsking = false;
    following_.compares = following_.compares || !found || !isMeant;  // what was told is still to be seen
    if (!found) return failed(found.error());
    if (!isMeant) return;
    if (!*found) return loading_.reload();
    showNext(std::make_shared<const std::vector<ElsewhereChange>>(withEdited((**found).changes, *(**found).after)), 0,
             now());
}

/// Records with edits, also saved ones, stand elsewhere than in the table as it was loaded: they are told as they are.
std::vector<ElsewhereChange> SessionElsewhere::withEdited(std::vector<ElsewhereChange> changes,
                                                          const KeyIndex& after) const {
    const RowsByKey known(*bound_.table, bound_.journal, finder_.index());
    std::erase_if(changes, [&](const ElsewhereChange& change) {
        const auto row = known.find(change.key);
        return row && bound_.edits()->record(*row);
    });
    const Table& now = *after.table();
    bound_.edits()->forEachRecord([&](SourceRow row, const RecordEdit& record) {
        if (record.cells().empty() && !record.fate()) return;
        ElsewhereChange change{bound_.journal.keyOf(*bound_.table, row)};
        const auto there = after.find(change.key);
        change.isGone = !there;
        if (change.isGone && !bound_.journal.isStored(row)) return;  // a draft of a new record
        for (std::size_t i = 0; there && i < bound_.table->schema.storedFields(); ++i)
            if (const Column* column = now.column(static_cast<FieldIndex>(i)))
                change.values.emplace_back(static_cast<FieldIndex>(i), column->value(*there));
        changes.push_back(std::move(change));
    });
    return changes;
}

/// What is known, e.g. as it was saved here, is no news.
std::vector<ElsewhereChange> SessionElsewhere::newsAmong(std::span<const ElsewhereChange> changes,
                                                         const RowsByKey& known) const {
    std::vector<ElsewhereChange> news;
    for (const ElsewhereChange& change : changes) {
        const auto row = shownRow(change.key, known, *bound_.edits());
        if (!row && change.isGone) continue;
        ElsewhereChange one = change;
        if (row && !change.isGone)
            std::erase_if(one.values, [&](const auto& cell) {
                return bound_.journal.stored(*bound_.table, *row, cell.first) == cell.second;
            });
        if (change.isGone || !row || !one.values.empty()) news.push_back(std::move(one));
    }
    return news;
}

void SessionElsewhere::show(std::span<const ElsewhereChange> changes) {
    if (changes.empty()) return;
    // Made once for all that follows: it looks at every edit.
    const std::shared_ptr<const Table> table = bound_.table;
    RowsByKey known(*table, bound_.journal, finder_.index());
    const std::vector<ElsewhereChange> news = newsAmong(changes, known);
    if (news.empty()) return;
    if (!canTake()) return loading_.reload();
    // Of a record that is being saved here it is not known which was first: all are compared again behind it.
    const bool isShown = takeAll(news, [this](const RecordKey&) { following_.compares = true; }, known);
    if (!isShown) return loading_.reload();
    std::vector<SourceRow> rows;
    for (const ElsewhereChange& change : news)
        if (const auto row = change.isGone ? std::nullopt : known.find(change.key)) rows.push_back(*row);
    if (bound_.listener.onElsewhere) bound_.listener.onElsewhere(rows, news.size());
}

}  // namespace jollyrow
