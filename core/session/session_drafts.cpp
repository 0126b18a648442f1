// SPDX-License-Identifier: MIT
// What a session's user typed and did not save, kept from crashes; and taken up again. Covered by
// tests/session/drafts_test.cpp.
#include <algorithm>
#include <filesystem>

#include "core/base/source_address.h"
#include "core/session/session.h"

namespace jollyrow {

void Session::setDraftFolder(std::string folder) { draftFolder_ = std::move(folder); }

void Session::beginDrafts() {
    const bool isKept = schema_.writable && !schema_.fields.empty() && table_->schema.name == schema_.name;
    std::error_code failed;
    const std::string address = sourcePath_.empty() || isServerAddress(sourcePath_)
                                    ? sourcePath_
                                    : std::filesystem::weakly_canonical(sourcePath_, failed).string();
    drafts_.begin(isKept ? draftFolder_ : std::string(), address, schema_.name);
}

namespace {
/// Nobody else has written the cell: it holds what it held, or what was sent from here.
bool isOurs(const KeptCell& cell, const Value& stored) {
    return stored == cell.original || std::find(cell.sent.begin(), cell.sent.end(), stored) != cell.sent.end();
}
}  // namespace

DraftKeeper::Hooks Session::draftHooks() {
    DraftKeeper::Hooks hooks;
    hooks.onFailure = [this](const Error& error) {
        if (listener_.onFailure) listener_.onFailure(error);
    };
    hooks.onLeft = [this] { tellLeftDrafts(); };
    hooks.onKept = [this](std::uint64_t) {
        if (isKept() && listener_.onDraftsKept) listener_.onDraftsKept();
    };
    return hooks;
}

/// Told when all records are there, for only then can be said what has become of each.
void Session::tellLeftDrafts() {
    if (!table_->complete || isLoading() || drafts_.left().empty()) return;
    // The answer to a save may have come too late for its session.
    std::vector<std::string> stored;
    for (const LeftDraft& left : leftDrafts())
        if (left.state == LeftState::Stored) stored.push_back(left.record.id);
    drafts_.letGo(stored);
    syncDrafts();
    if (!drafts_.left().empty() && listener_.onDraftsLeft) listener_.onDraftsLeft();
}

std::vector<Session::LeftDraft> Session::leftDrafts() const {
    std::vector<LeftDraft> all;
    for (const KeptRecord& record : drafts_.left()) {
        LeftDraft left{record, std::nullopt, LeftState::Ready};
        if (record.change == RecordChange::Insert && !record.made.empty()) {
            left.row = rowOf(record.made);
            if (left.row && isMade(record, *left.row)) left.state = LeftState::Stored;
            left.row.reset();
        }
        if (record.change != RecordChange::Insert) {
            left.row = rowOf(record.key);
            if (!left.row)
                left.state = record.change == RecordChange::Delete ? LeftState::Stored : LeftState::Gone;
            else if (record.change == RecordChange::Update)
                left.state = stateOf(record, *left.row);
        }
        all.push_back(std::move(left));
    }
    return all;
}

/// The record with the key that a new one was about to get: is it that one? Somebody may have edited it since, or have
/// got the key first.
bool Session::isMade(const KeptRecord& record, SourceRow row) const {
    std::size_t equal = 0, known = 0;
    for (const KeptCell& cell : record.cells)
        if (const auto field = schema_.find(cell.field)) {
            ++known;
            equal += journal_.stored(*table_, row, *field) == cell.value ? 1 : 0;
        }
    return equal * 2 > known || known == 0;
}

/// What has become of the cells since they were typed.
Session::LeftState Session::stateOf(const KeptRecord& record, SourceRow row) const {
    bool isStored = true, isChanged = false;
    for (const KeptCell& cell : record.cells) {
        const auto field = schema_.find(cell.field);
        if (!field) continue;
        const Value stored = journal_.stored(*table_, row, *field);
        isStored = isStored && stored == cell.value;
        isChanged = isChanged || !(stored == cell.value || isOurs(cell, stored));
    }
    return isStored ? LeftState::Stored : isChanged ? LeftState::Changed : LeftState::Ready;
}

RecordEdit Session::takenUp(const LeftDraft& left, RecordEdit edit) const {
    for (const KeptCell& cell : left.record.cells) {
        const auto field = schema_.find(cell.field);
        if (!field) continue;
        const CellEdit* now = edit.find(*field);
        if (now && isUnsaved(now->state)) continue;  // what is typed now is newer
        CellEdit typed{cell.value, cell.original, EditState::Draft, {}, cell.label};
        const Value stored = left.row ? journal_.stored(*table_, *left.row, *field) : Value(Empty{});
        if (left.record.change == RecordChange::Update && stored == cell.value) continue;
        if (left.record.change == RecordChange::Update && isOurs(cell, stored)) {
            typed.original = stored;
        } else if (left.record.change == RecordChange::Update) {
            typed.state = EditState::Conflict;
            typed.theirs = std::make_shared<const Value>(stored);
            typed.message = "Somebody has changed this since.";
        }
        edit.set(*field, std::move(typed));
    }
    return edit;
}

std::size_t Session::takeUpDrafts() {
    std::vector<std::string> ids;
    std::vector<SourceRow> rows;
    auto next = std::make_shared<Edits>(*edits());
    std::vector<LeftDraft> news;
    for (const LeftDraft& left : leftDrafts()) {
        if (left.state == LeftState::Gone) continue;
        ids.push_back(left.record.id);
        if (left.record.change == RecordChange::Insert && left.state != LeftState::Stored) {
            news.push_back(left);
            continue;
        }
        if (left.state == LeftState::Stored) continue;
        const RecordEdit* known = next->record(*left.row);
        RecordEdit edit = takenUp(left, known ? *known : RecordEdit());
        if (left.record.change == RecordChange::Delete)
            edit.setFate(RecordFate{RecordChange::Delete, EditState::Draft, {}, {}, 0});
        next->setRecord(*left.row, std::move(edit));
        rows.push_back(*left.row);
    }
    setEdits(std::move(next), rows);
    for (const LeftDraft& left : news) {
        const auto row = insert();
        if (!row) {  // there is no room for it just now: it stays where it is kept
            std::erase(ids, left.record.id);
            continue;
        }
        setEdits(edits()->withRecord(*row, takenUp(left, *edits()->record(*row))), *row);
        rows.push_back(*row);
    }
    drafts_.letGo(ids);
    showEdits(Lines::Changed);
    return rows.size();
}

void Session::dropDrafts() {
    std::vector<std::string> ids;
    for (const KeptRecord& record : drafts_.left()) ids.push_back(record.id);
    drafts_.letGo(ids);
    syncDrafts();
}

}  // namespace jollyrow
