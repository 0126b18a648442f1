// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_cursor.cpp.
#include "grid/select/cursor.h"

namespace jollyrow {

namespace {
constexpr std::int64_t kJump = 1000;  // lines that a first choice counts as, for the way back
}  // namespace

Cursor::Moved Cursor::choose(CellPlace place, SelectHow how, const std::string& field, Way way) {
    const auto before = current();
    const std::int64_t selectedBefore = selection_.rows().count();
    followed_.reset();
    selection_.select(place, how, [this](std::int64_t line, const std::function<void(SourceRow)>& take) {
        rows_.forEachRow(line, take);
    });
    Moved moved;
    moved.otherRecord = !before || before->line != place.line;
    if (moved.otherRecord && way == Way::Onwards && rows_.isRecord(place.line))
        visited_.note(rows_.rowAt(place.line), before ? place.line - before->line : kJump);
    noteCurrent(field);
    moved.otherSelection = selectedBefore != selection_.rows().count();
    return moved;
}

void Cursor::noteCurrent(const std::string& field) {
    row_.reset();
    group_.reset();
    if (!current()) return;
    if (const auto group = rows_.groupOn(current()->line)) group_ = rows_.groups()->tree().nodes[*group].path;
    if (!rows_.isRecord(current()->line)) return;
    row_ = rows_.rowAt(current()->line);
    field_ = field;
}

void Cursor::selectAll(const Snapshot& snapshot, int columns) {
    selection_.selectAll(rows_.count(), columns, [&](const std::function<void(SourceRow)>& take) {
        for (std::int64_t place = 0; place < snapshot.recordCount(); ++place) take(snapshot.record(place));
    });
}

void Cursor::clear() {
    selection_.clear();
    visited_.clear();
    row_.reset();
    group_.reset();
    followed_.reset();
}

bool Cursor::moveRows(const RowMoves& moves) {
    const auto now = [&moves](SourceRow row) { return moves.now(row); };
    if (row_) row_ = now(*row_);
    if (followed_) followed_ = now(*followed_);
    const std::int64_t selected = selection_.rows().count();
    selection_.moveRows(now);
    visited_.moveRows(now);
    return selected != selection_.rows().count();
}

bool Cursor::dropGone(const Edits& edits) {
    const std::int64_t selected = selection_.rows().count();
    if (selected == 0) return false;
    for (const SourceRow row : edits.gone()) selection_.drop(row);
    return selected != selection_.rows().count();
}

Cursor::Arrival Cursor::arrived(const Snapshot& snapshot, bool isLoading) {
    if (!current()) return Arrival::Stays;
    if (row_) return rows_.rowAt(current()->line) == *row_ ? Arrival::Stays : followRecord(snapshot);
    if (!group_) return Arrival::Stays;
    const auto line = rows_.lineOfGroup(*group_);
    if (line || !snapshot.groups || !isLoading) selection_.moveCurrentTo(line);
    return Arrival::Stays;
}

Cursor::Arrival Cursor::followRecord(const Snapshot& snapshot) {
    const auto shown = snapshot.lineOf(*row_);
    auto line = shown ? std::optional(raw(*shown)) : std::nullopt;
    const bool isFollowed = followed_ == row_;
    if (!line && isFollowed && snapshot.grouped && snapshot.placeOf(*row_)) return Arrival::WantsGroups;
    if (!line && snapshot.grouped) {
        line = lineOfClosedGroup(snapshot);
        if (line) row_.reset();
    }
    selection_.moveCurrentTo(line);
    if (!line || !(isFollowed || !row_)) return Arrival::Stays;
    followed_.reset();
    return Arrival::Moved;
}

/// Its group was closed: the group's line takes the record's place.
std::optional<std::int64_t> Cursor::lineOfClosedGroup(const Snapshot& snapshot) {
    const auto place = snapshot.placeOf(*row_);
    if (!place) return std::nullopt;
    const GroupTree& tree = snapshot.grouped->tree();
    for (int level = tree.levels() - 1; level >= 0; --level) {
        const std::uint32_t node = tree.nodeAt(level, *place);
        if (const auto line = snapshot.grouped->lineOf(node)) {
            group_ = tree.nodes[node].path;
            return line;
        }
    }
    return std::nullopt;
}

void Cursor::fit(std::optional<int> column, std::int64_t lines, int columns) {
    if (current() && column) selection_.moveCurrentToColumn(*column);
    selection_.clampTo(lines, columns);
}

}  // namespace jollyrow
