// SPDX-License-Identifier: MIT
#pragma once
// What is left of a cell's edit when what was typed last is taken back.

#include <algorithm>
#include <optional>

#include "core/columns/edits.h"

namespace jollyrow {

/// A value that was handed to the store before, and has no answer yet: it stays on its way, and its answer is still to
/// be heard. Nullopt when there is none: the edit can go.
inline std::optional<CellEdit> onItsWayStill(const CellEdit& edit) {
    if (!edit.sent || edit.sent->empty()) return std::nullopt;
    CellEdit left = edit;
    left.value = edit.sent->back();
    left.state = EditState::Saving;
    left.theirs = nullptr;
    left.message.clear();
    left.label.clear();
    return left;
}

/// Somebody else has deleted the record while it was typed into.
inline bool isLostElsewhere(const RecordEdit& record) {
    return std::any_of(record.cells().begin(), record.cells().end(), [](const RecordEdit::Cell& cell) {
        return cell.second.state == EditState::Conflict && !cell.second.theirs;
    });
}

}  // namespace jollyrow
