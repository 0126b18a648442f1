// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_grid_groups.cpp.
#include "grid/groups/group_control.h"

namespace jollyrow {

int GroupControl::lineHeight(int level, bool footer) const {
    constexpr int kAir = 8;
    const Grouping* grouping = groupingOf(context_.snapshot());
    const auto at = static_cast<std::size_t>(level);
    const GroupDesign* design = grouping && at < grouping->groups.size() ? &grouping->groups[at].design : nullptr;
    const int own = !design ? 0 : footer ? design->footerHeight : design->height;
    const GroupText* text = rows_.groupText();
    const int lines = !text ? 1 : footer ? text->footerLines() : text->groupLines();
    const int least = own > 0 ? own : painters_.rowHeight(context_.design().grid);
    return std::max(least, lines * painters_.cells().groups().lineHeight() + kAir);
}

bool GroupControl::hasOwnHeights() const {
    const GroupedLines* groups = rows_.groups();
    if (!groups) return false;
    const int record = painters_.rowHeight(context_.design().grid) * std::max(1, context_.plan().recordLines);
    for (int level = 0; level < groups->tree().levels(); ++level)
        for (const bool footer : {false, true})
            if (lineHeight(level, footer) != record) return true;
    return false;
}

void GroupControl::toggle(std::int64_t line) {
    const auto group = rows_.groupOn(line);
    if (!group || !hooks_.mayLeave()) return;
    const bool open = !rows_.groups()->isOpen(*group);
    // What closes while its line stays at the top is brought into sight.
    const auto sticky = body_.stickyLines();
    const bool stuck = std::any_of(sticky.begin(), sticky.end(), [&](const PinnedLine& s) { return s.line == line; });
    const std::uint64_t path = rows_.groups()->tree().nodes[*group].path;
    context_.session().groups().setOpen(*group, open);
    if (stuck && !open)
        if (const auto now = rows_.lineOfGroup(path)) scroller_.show({*now, cursor_.column()});
    hooks_.announceFocus();
}

bool GroupControl::isOnMark(std::int64_t line, QPoint position) const {
    const auto group = rows_.groupOn(line);
    if (!group) return false;
    const int level = rows_.groups()->tree().nodes[*group].level;
    return position.x() <= GroupPainter::chevronRect(hooks_.frame(), level, 0, 20).right() + 2;
}

std::optional<FigureHit> GroupControl::figureAt(QPoint position) const {
    if (!rows_.groupText() || !context_.snapshot().groups) return std::nullopt;
    const GroupPainter& painter = painters_.cells().groups();
    const GridFrame frame = hooks_.frame();
    for (const TotalRow& row : frame.totals) {
        if (position.y() < row.y || position.y() >= row.y + row.height) continue;
        const auto hit = painter.figureAt(frame, row, position);
        if (!hit) return std::nullopt;
        return FigureHit{hit->summary, nodeOf(row.scope), hit->rect};
    }
    const auto line = body_.lineAt(position.y());
    if (!line || position.y() < body_.top() || position.y() >= body_.bottom() || rows_.isRecord(*line) ||
        !rows_.has(*line))
        return std::nullopt;
    PinnedLine row{*line, body_.places().top(*line), body_.places().height(*line)};
    for (const PinnedLine& sticky : frame.sticky)
        if (sticky.line == *line) row = sticky;
    const auto hit = painter.figureAt(frame, row, position);
    if (!hit) return std::nullopt;
    return FigureHit{hit->summary, rows_.at(*line).group, hit->rect};
}

std::uint32_t GroupControl::nodeOf(TotalScope scope) const {
    const auto shown = static_cast<std::uint32_t>(context_.snapshot().groups->tree->nodes.size());
    return scope == TotalScope::Filtered ? shown : scope == TotalScope::All ? shown + 1 : shown + 2;
}

std::optional<FigureHit> GroupControl::figureToExplain(bool all) const {
    if (!rows_.groupText() || !context_.snapshot().groups) return std::nullopt;
    const GroupPainter& painter = painters_.cells().groups();
    const GridFrame frame = hooks_.frame();
    const auto near = [&](const std::vector<GroupPainter::Hit>& hits) -> std::optional<GroupPainter::Hit> {
        const int column = std::min(cursor_.column(), body_.columns().count() - 1);
        const int middle =
            column < 0 ? 0 : body_.columns().x(column, body_.scrollX()) + body_.columns().width(column) / 2;
        for (const GroupPainter::Hit& hit : hits)
            if (hit.rect.left() <= middle && middle <= hit.rect.right()) return hit;
        return hits.empty() ? std::nullopt : std::optional(hits.front());
    };
    const auto line = cursor_.current() ? std::optional(cursor_.current()->line) : std::nullopt;
    if (const auto group = line ? rows_.groupOn(*line) : std::nullopt) {
        PinnedLine row{*line, body_.places().top(*line), body_.places().height(*line)};
        for (const PinnedLine& sticky : frame.sticky)
            if (sticky.line == *line) row = sticky;
        const auto hit = near(painter.figuresOn(frame, row));
        if (hit) return FigureHit{hit->summary, *group, hit->rect};
    }
    const TotalRow* row = nullptr;
    for (const TotalRow& total : frame.totals) {
        const bool isSelected = total.scope == TotalScope::Selected && cursor_.selection().rows().count() > 1;
        if (all ? total.scope == TotalScope::All : total.scope == TotalScope::Filtered || isSelected)
            if (!row || isSelected) row = &total;
    }
    const auto hit = row ? near(painter.figuresOn(frame, *row)) : std::nullopt;
    if (!hit) return std::nullopt;
    return FigureHit{hit->summary, nodeOf(row->scope), hit->rect};
}

void GroupControl::goTo(std::optional<std::uint32_t> node, int column) {
    if (const auto line = node ? rows_.groups()->lineOf(*node) : std::nullopt)
        hooks_.choose({*line, column}, SelectHow::Replace);
}

bool GroupControl::key(const QKeyEvent& event) {
    const auto current = cursor_.current();
    if (!current || !rows_.groups()) return false;
    if (const auto group = rows_.groupOn(current->line)) return keyOnGroup(event, *group, *current);
    // From a record's first column the way to the left goes to its group.
    const bool plain = !(event.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::ShiftModifier));
    if (event.key() != Qt::Key_Left || !plain || current->column != 0 || !rows_.isRecord(current->line)) return false;
    goTo(rows_.at(current->line).group, 0);
    return true;
}

bool GroupControl::keyOnGroup(const QKeyEvent& event, std::uint32_t group, CellPlace current) {
    const GroupNode& node = rows_.groups()->tree().nodes[group];
    const bool open = rows_.groups()->isOpen(group);
    switch (event.key()) {
        case Qt::Key_Right:
        case Qt::Key_Plus:
            if (!open)
                toggle(current.line);
            else if (event.key() == Qt::Key_Right)
                hooks_.choose({current.line + 1, 0}, SelectHow::Replace);
            return true;
        case Qt::Key_Left:
        case Qt::Key_Minus:
            if (open)
                toggle(current.line);
            else if (event.key() == Qt::Key_Left && node.level > 0)
                goTo(node.parent, current.column);
            return true;
        case Qt::Key_Asterisk: context_.session().groups().setAllOpen(true); return true;
        case Qt::Key_Slash: context_.session().groups().setAllOpen(false); return true;
        case Qt::Key_Return:
        case Qt::Key_Enter: toggle(current.line); return true;
        default: return false;
    }
}

}  // namespace jollyrow
