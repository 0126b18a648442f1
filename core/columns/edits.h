// SPDX-License-Identifier: MIT
#pragma once
// Edits: values that differ from the frozen Table: typed and not yet saved, refused, or saved since it was loaded.
// An immutable overlay; with() makes the next one, so a snapshot keeps the edits it was made with.

#include <map>
#include <memory>
#include <string>
#include <utility>

#include "core/base/indexes.h"
#include "core/columns/value.h"

namespace jollyrow {

enum class EditState {
    Saving,   ///< handed to the store, no answer yet
    Saved,    ///< the store said yes; the table still holds the older value
    Refused,  ///< the store said no; the value is kept and the message says why
};

struct CellEdit {
    Value value;     ///< what the cell shows
    Value original;  ///< what the store holds, as far as is known
    EditState state = EditState::Saving;
    std::string message;
    std::string label = {};  ///< of a look-up: what stands for the record that the value points to
};

class Edits final {
  public:
    using Place = std::pair<SourceRow, FieldIndex>;

    /// nullptr when the table's own value stands. O(log edits).
    const CellEdit* find(SourceRow row, FieldIndex field) const {
        if (cells_.empty()) return nullptr;
        const auto at = cells_.find({row, field});
        return at == cells_.end() ? nullptr : &at->second;
    }
    bool empty() const { return cells_.empty(); }
    const std::map<Place, CellEdit>& cells() const { return cells_; }
    std::size_t count(EditState state) const {
        std::size_t n = 0;
        for (const auto& [place, edit] : cells_) n += edit.state == state ? 1 : 0;
        return n;
    }
    /// A copy with one cell set; O(edits).
    std::shared_ptr<const Edits> with(SourceRow row, FieldIndex field, CellEdit edit) const {
        auto next = std::make_shared<Edits>(*this);
        next->cells_.insert_or_assign({row, field}, std::move(edit));
        return next;
    }
    /// Sets one cell of edits that nobody else holds yet.
    void set(SourceRow row, FieldIndex field, CellEdit edit) { cells_.insert_or_assign({row, field}, std::move(edit)); }
    std::shared_ptr<const Edits> without(SourceRow row, FieldIndex field) const {
        auto next = std::make_shared<Edits>(*this);
        next->cells_.erase({row, field});
        return next;
    }

  private:
    std::map<Place, CellEdit> cells_;
};

}  // namespace jollyrow
