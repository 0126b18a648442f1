// SPDX-License-Identifier: MIT
#include "grid/select/selection.h"

#include <algorithm>
#include <bit>

namespace jollyrow {

void RowSet::add(SourceRow row) {
    const std::size_t word = raw(row) / 64;
    if (word >= bits_.size()) bits_.resize(word + 1, 0);
    const std::uint64_t bit = std::uint64_t{1} << (raw(row) % 64);
    count_ += (bits_[word] & bit) == 0 ? 1 : 0;
    bits_[word] |= bit;
}

void RowSet::remove(SourceRow row) {
    if (!contains(row)) return;
    bits_[raw(row) / 64] &= ~(std::uint64_t{1} << (raw(row) % 64));
    --count_;
}

void RowSet::clear() {
    bits_.clear();
    count_ = 0;
}

bool RowSet::contains(SourceRow row) const {
    const std::size_t word = raw(row) / 64;
    return word < bits_.size() && ((bits_[word] >> (raw(row) % 64)) & 1) != 0;
}

std::vector<SourceRow> RowSet::rows(std::size_t most) const {
    std::vector<SourceRow> out;
    for (std::size_t word = 0; word < bits_.size() && out.size() < most; ++word)
        for (std::uint64_t left = bits_[word]; left != 0 && out.size() < most; left &= left - 1)
            out.push_back(static_cast<SourceRow>(word * 64 + static_cast<std::size_t>(std::countr_zero(left))));
    return out;
}

void Selection::setMode(SelectionMode mode) {
    if (mode == mode_) return;
    mode_ = mode;
    rows_.clear();
    kept_.clear();
    blocks_.clear();
    anchor_ = current_;
}

Selection::Block Selection::between(CellPlace a, CellPlace b) const {
    if (mode_ == SelectionMode::Columns)
        return {0, lines_, std::min(a.column, b.column), std::max(a.column, b.column) + 1};
    return {std::min(a.line, b.line), std::max(a.line, b.line) + 1, std::min(a.column, b.column),
            std::max(a.column, b.column) + 1};
}

void Selection::select(CellPlace place, SelectHow how, const RowsAt& rowsAt) {
    if (how == SelectHow::Extend && (!anchor_ || mode_ == SelectionMode::OneRow)) how = SelectHow::Replace;
    if (how == SelectHow::Toggle && mode_ == SelectionMode::OneRow) how = SelectHow::Replace;
    current_ = place;
    lines_ = std::max(lines_, place.line + 1);
    if (how == SelectHow::MoveOnly || mode_ == SelectionMode::None) return;
    if (isOfCells()) {
        if (how == SelectHow::Replace) blocks_.clear();
        if (how == SelectHow::Extend && !blocks_.empty()) blocks_.pop_back();
        if (how != SelectHow::Extend) anchor_ = place;
        blocks_.push_back(between(*anchor_, place));
        return;
    }
    const auto add = [&](SourceRow row) { rows_.add(row); };
    switch (how) {
        case SelectHow::Replace:
            rows_.clear();
            rowsAt(place.line, add);
            kept_.clear();
            anchor_ = place;
            break;
        case SelectHow::Toggle: {
            bool all = true;
            rowsAt(place.line, [&](SourceRow row) { all = all && rows_.contains(row); });
            if (all)
                rowsAt(place.line, [&](SourceRow row) { rows_.remove(row); });
            else
                rowsAt(place.line, add);
            kept_ = rows_;
            anchor_ = place;
            break;
        }
        case SelectHow::Extend: {
            rows_ = kept_;
            const Block range = between(*anchor_, place);
            for (std::int64_t line = range.firstLine; line < range.endLine; ++line) rowsAt(line, add);
            break;
        }
        case SelectHow::MoveOnly: break;
    }
}

void Selection::selectAll(std::int64_t lines, int columns,
                          const std::function<void(const std::function<void(SourceRow)>&)>& records) {
    if (mode_ == SelectionMode::OneRow || mode_ == SelectionMode::None) return;
    if (isOfCells()) {
        blocks_.assign(1, {0, lines, 0, columns});
    } else {
        rows_.clear();
        records([this](SourceRow row) { rows_.add(row); });
    }
    kept_ = rows_;
}

void Selection::clear() {
    rows_.clear();
    kept_.clear();
    blocks_.clear();
    current_.reset();
    anchor_.reset();
}

void Selection::moveCurrentTo(std::optional<std::int64_t> line) {
    if (!line || !current_) {
        current_.reset();
        anchor_.reset();
        if (mode_ != SelectionMode::Columns) blocks_.clear();
        return;
    }
    current_->line = *line;
    anchor_ = current_;
    if (!blocks_.empty() && mode_ != SelectionMode::Columns) blocks_.assign(1, between(*current_, *current_));
}

void Selection::clampTo(std::int64_t lines, int columns) {
    if (lines == 0 || columns == 0) {
        current_.reset();
        anchor_.reset();
        blocks_.clear();
        return;
    }
    const auto hold = [&](std::optional<CellPlace>& place) {
        if (!place) return;
        place->line = std::clamp<std::int64_t>(place->line, 0, lines - 1);
        place->column = std::clamp(place->column, 0, columns - 1);
    };
    hold(current_);
    hold(anchor_);
    lines_ = lines;
    if (mode_ == SelectionMode::Columns)  // whole ones, whatever lines there are now
        for (Block& block : blocks_) block.endLine = lines;
    std::erase_if(blocks_, [&](const Block& b) { return b.endLine > lines || b.endColumn > columns; });
}

void Selection::moveRows(const std::function<std::optional<SourceRow>(SourceRow)>& now) {
    for (RowSet* set : {&rows_, &kept_}) {
        RowSet moved;
        set->forEach([&](SourceRow row) {
            if (const auto to = now(row)) moved.add(*to);
        });
        *set = std::move(moved);
    }
    // Blocks are of lines, on which other records stand now.
    if (mode_ == SelectionMode::Columns) return;
    blocks_.clear();
    if (mode_ == SelectionMode::Cells && current_) blocks_.assign(1, between(*current_, *current_));
}

bool Selection::isCellSelected(CellPlace place) const {
    return std::any_of(blocks_.begin(), blocks_.end(), [&](const Block& b) {
        return place.line >= b.firstLine && place.line < b.endLine && place.column >= b.firstColumn &&
               place.column < b.endColumn;
    });
}

}  // namespace jollyrow
