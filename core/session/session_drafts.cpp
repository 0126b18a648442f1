// SPDX-License-Identifier: MIT
// Covered by tests/session/drafts_test.cpp.
#include "core/session/session_drafts.h"

#include <algorithm>
#include <filesystem>
#include <memory>

#include "core/base/source_address.h"

namespace jollyrow {

SessionDrafts::SessionDrafts(BoundRecords& bound, RecordFinder& finder, EditedView& view, const RecordLoading& loading,
                             SessionRecords& records)
    : bound_(bound), finder_(finder), view_(view), loading_(loading), records_(records), keeper_(bound.post, hooks()) {
    bound_.journal.setPreparing([this](std::span<const SourceRow> rows) {
        sync();  // the records are kept before their keys are
        return keeper_.preparing(rows);
    });
}

void SessionDrafts::begin() {
    const bool isKept =
        bound_.schema.writable && !bound_.schema.fields.empty() && bound_.table->schema.name == bound_.schema.name;
    std::error_code failed;
    const std::string address = bound_.sourcePath.empty() || isServerAddress(bound_.sourcePath)
                                    ? bound_.sourcePath
                                    : std::filesystem::weakly_canonical(bound_.sourcePath, failed).string();
    keeper_.begin(isKept ? folder_ : std::string(), address, bound_.schema.name);
}

namespace {
/// Nobody else has written the cell: it holds what it held, or what was sent from here.
bool isOurs(const KeptCell& cell, const Value& stored) {
    return stored == cell.original || std::find(cell.sent.begin(), cell.sent.end(), stored) != cell.sent.end();
}
}  // namespace

DraftKeeper::Hooks SessionDrafts::hooks() {
    DraftKeeper::Hooks hooks;
    hooks.onFailure = [this](const Error& error) { bound_.fail(error); };
    hooks.onLeft = [this] { tellLeft(); };
    hooks.onKept = [this](std::uint64_t) {
        if (isKept() && bound_.listener.onDraftsKept) bound_.listener.onDraftsKept();
    };
    return hooks;
}

void SessionDrafts::tellLeft() {
    if (!bound_.table->complete || loading_.isLoading() || keeper_.left().empty()) return;
    // The answer to a save may have come too late for its session.
    std::vector<std::string> stored;
    for (const LeftDraft& draft : left())
        if (draft.state == LeftState::Stored) stored.push_back(draft.record.id);
    keeper_.letGo(stored);
    sync();
    if (!keeper_.left().empty() && bound_.listener.onDraftsLeft) bound_.listener.onDraftsLeft();
}

std::vector<LeftDraft> SessionDrafts::left() const {
    std::vector<LeftDraft> all;
    for (const KeptRecord& record : keeper_.left()) {
        LeftDraft left{record, std::nullopt, LeftState::Ready};
        if (record.change == RecordChange::Insert && !record.made.empty()) {
            left.row = finder_.rowOf(record.made);
            if (left.row && isMade(record, *left.row)) left.state = LeftState::Stored;
            left.row.reset();
        }
        if (record.change != RecordChange::Insert) {
            left.row = finder_.rowOf(record.key);
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
bool SessionDrafts::isMade(const KeptRecord& record, SourceRow row) const {
    std::size_t equal = 0, known = 0;
    for (const KeptCell& cell : record.cells)
        if (const auto field = bound_.schema.find(cell.field)) {
            ++known;
            equal += bound_.journal.stored(*bound_.table, row, *field) == cell.value ? 1 : 0;
        }
    return equal * 2 > known || known == 0;
}

/// What has become of the cells since they were typed.
LeftState SessionDrafts::stateOf(const KeptRecord& record, SourceRow row) const {
    bool isStored = true, isChanged = false;
    for (const KeptCell& cell : record.cells) {
        const auto field = bound_.schema.find(cell.field);
        if (!field) continue;
        const Value stored = bound_.journal.stored(*bound_.table, row, *field);
        isStored = isStored && stored == cell.value;
        isChanged = isChanged || !(stored == cell.value || isOurs(cell, stored));
    }
    return isStored ? LeftState::Stored : isChanged ? LeftState::Changed : LeftState::Ready;
}

RecordEdit SessionDrafts::takenUp(const LeftDraft& left, RecordEdit edit) const {
    for (const KeptCell& cell : left.record.cells) {
        const auto field = bound_.schema.find(cell.field);
        if (!field) continue;
        const CellEdit* now = edit.find(*field);
        if (now && isUnsaved(now->state)) continue;  // what is typed now is newer
        CellEdit typed{cell.value, cell.original, EditState::Draft, {}, cell.label};
        const Value stored = left.row ? bound_.journal.stored(*bound_.table, *left.row, *field) : Value(Empty{});
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

std::size_t SessionDrafts::takeUp() {
    std::vector<std::string> ids;
    std::vector<SourceRow> rows;
    auto next = std::make_shared<Edits>(*bound_.edits());
    std::vector<LeftDraft> news;
    for (const LeftDraft& draft : left()) {
        if (draft.state == LeftState::Gone) continue;
        ids.push_back(draft.record.id);
        if (draft.state == LeftState::Stored) continue;
        if (draft.record.change == RecordChange::Insert) {
            news.push_back(draft);
            continue;
        }
        const RecordEdit* known = next->record(*draft.row);
        RecordEdit edit = takenUp(draft, known ? *known : RecordEdit());
        if (draft.record.change == RecordChange::Delete)
            edit.setFate(RecordFate{RecordChange::Delete, EditState::Draft, {}, {}, 0});
        next->setRecord(*draft.row, std::move(edit));
        rows.push_back(*draft.row);
    }
    view_.setEdits(std::move(next), rows);
    takeUpNew(news, ids, rows);
    keeper_.letGo(ids);
    view_.showEdits(EditedView::Lines::Changed);
    return rows.size();
}

void SessionDrafts::takeUpNew(const std::vector<LeftDraft>& news, std::vector<std::string>& ids,
                              std::vector<SourceRow>& rows) {
    for (const LeftDraft& draft : news) {
        const auto row = records_.insert();
        if (!row) {  // there is no room for it just now: it stays where it is kept
            std::erase(ids, draft.record.id);
            continue;
        }
        view_.setEdits(bound_.edits()->withRecord(*row, takenUp(draft, *bound_.edits()->record(*row))), *row);
        rows.push_back(*row);
    }
}

void SessionDrafts::drop() {
    std::vector<std::string> ids;
    for (const KeptRecord& record : keeper_.left()) ids.push_back(record.id);
    keeper_.letGo(ids);
    sync();
}

}  // namespace jollyrow
