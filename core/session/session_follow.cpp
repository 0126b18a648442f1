// SPDX-License-Identifier: MIT
// What others save of the records that a session shows: looked for when the owner says so, by the store, which knows
// its own saves from others'. Where it says only that there is something, the records are read beside and compared.
// Covered by tests/session/follow_test.cpp.
#include "core/session/rows_by_key.h"
#include "core/session/session.h"

namespace jollyrow {

void Session::lookElsewhere() {
    JOLLYROW_REQUIRE(owner_.isHere());
    if (following_.isAsking || following_.isImpossible || isLoading() || incoming_ || !snapshot_ || tableLoad_ == 0 ||
        !table_->hasKeys() || schema_.isView)
        return;
    following_.isAsking = true;
    journal_.look(*table_, [this, epoch = epoch_, source = source_](const Result<SeenElsewhere>& seen) {
        if (source != source_) return;
        following_.isAsking = false;
        if (!seen) return lookFailed(seen.error());
        following_.failure.clear();
        // What was told while records are read, or of an older table, may be among them or not.
        const bool isShowable = epoch == epoch_ && !isLoading();
        following_.compares = following_.compares || seen->isSomething || (!isShowable && !seen->changes.empty());
        if (isShowable) showElsewhere(seen->changes);
        if (following_.compares && !isLoading()) compareElsewhere();
    });
}

void Session::lookFailed(const Error& error) {
    following_.isImpossible = error.code == ErrorCode::Unsupported;
    if (error.code == ErrorCode::Locked || error.message == following_.failure) return;  // said once
    following_.failure = error.message;
    if (listener_.onFailure) listener_.onFailure({error.code, "What others save is not shown. " + error.message});
}

void Session::compareElsewhere() {
    following_.compares = false;
    following_.isAsking = true;
    rereader_.compare(
        source_, loadRequest(design_, schema_, plan_->wanted, state_), table_, keys_,
        [this, epoch = epoch_, source = source_](const Result<std::optional<Rereader::Difference>>& found) {
            if (source != source_) return;
            following_.isAsking = false;
            following_.compares = following_.compares || !found;  // what was told is still to be seen
            if (!found) return lookFailed(found.error());
            if (epoch != epoch_ || isLoading()) {
                following_.compares = true;
            } else if (*found) {
                showElsewhere(withEdited((**found).changes, *(**found).after));
            } else {
                reload();
            }
        });
}

/// Records with edits, also saved ones, stand elsewhere than in the table as it was loaded: they are told as they are.
std::vector<ElsewhereChange> Session::withEdited(std::vector<ElsewhereChange> changes, const KeyIndex& after) const {
    if (!keys_) keys_ = std::make_shared<const KeyIndex>(table_);
    const RowsByKey known(*table_, journal_, *keys_);
    std::erase_if(changes, [&](const ElsewhereChange& change) {
        const auto row = known.find(change.key);
        return row && edits()->record(*row);
    });
    const Table& now = *after.table();
    edits()->forEachRecord([&](SourceRow row, const RecordEdit& record) {
        if (record.cells().empty() && !record.fate()) return;
        ElsewhereChange change{journal_.keyOf(*table_, row)};
        const auto there = after.find(change.key);
        change.isGone = !there;
        if (change.isGone && !journal_.isStored(row)) return;  // a draft of a new record
        for (std::size_t i = 0; there && i < table_->schema.storedFields(); ++i)
            if (const Column* column = now.column(static_cast<FieldIndex>(i)))
                change.values.emplace_back(static_cast<FieldIndex>(i), column->value(*there));
        changes.push_back(std::move(change));
    });
    return changes;
}

/// What is known, e.g. as it was saved here, is no news.
std::vector<ElsewhereChange> Session::newsAmong(std::span<const ElsewhereChange> changes) const {
    std::vector<ElsewhereChange> news;
    if (!keys_) keys_ = std::make_shared<const KeyIndex>(table_);
    const RowsByKey known(*table_, journal_, *keys_);
    for (const ElsewhereChange& change : changes) {
        auto row = known.find(change.key);
        const RecordFate* fate = row ? edits()->fate(*row) : nullptr;
        if (fate && fate->change == RecordChange::Delete && fate->state == EditState::Saved) row.reset();
        if (!row && change.isGone) continue;
        ElsewhereChange one = change;
        if (row && !change.isGone)
            std::erase_if(one.values,
                          [&](const auto& cell) { return journal_.stored(*table_, *row, cell.first) == cell.second; });
        if (change.isGone || !row || !one.values.empty()) news.push_back(std::move(one));
    }
    return news;
}

void Session::showElsewhere(std::span<const ElsewhereChange> changes) {
    const std::vector<ElsewhereChange> news = newsAmong(changes);
    if (news.empty()) return;
    // Of a record that is being saved here it is not known which was first: all are compared again behind it.
    const bool isShown = takeElsewhere(news, [this](const RecordKey&) { following_.compares = true; });
    if (!isShown) return reload();
    std::vector<SourceRow> rows;
    const RowsByKey known(*table_, journal_, *keys_);
    for (const ElsewhereChange& change : news)
        if (const auto row = change.isGone ? std::nullopt : known.find(change.key)) rows.push_back(*row);
    if (listener_.onElsewhere) listener_.onElsewhere(rows, news.size());
}

}  // namespace jollyrow
