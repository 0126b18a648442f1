// SPDX-License-Identifier: MIT
#include "grid/groups/record_drop.h"

#include <QToolTip>

#include "grid/paint/grouped.h"

namespace jollyrow {
namespace {
constexpr std::size_t kMostDropped = 1000;
}  // namespace

std::optional<std::uint32_t> RecordDrop::groupAt(QPoint position) const {
    const auto line = body_.lineAt(position.y());
    if (!rows_.groups() || !line || !rows_.has(*line) || position.y() < body_.top() || position.y() >= body_.bottom())
        return std::nullopt;
    return rows_.at(*line).group;
}

/// The selected records; one more than may be dropped when there are too many.
std::vector<SourceRow> RecordDrop::records() const { return cursor_.selection().rows().rows(kMostDropped + 1); }

bool RecordDrop::holdOver(QPoint position) {
    over_ = groupAt(position);
    return over_ && valuesOf(*over_, records());
}

/// The value that makes a record one of this level's group; or why it cannot be set.
Result<std::pair<FieldIndex, Value>> RecordDrop::valueOfLevel(const GroupNode& node) const {
    const GroupTree& tree = rows_.groups()->tree();
    const PlannedGroup& group = groupingOf(context_.snapshot())->groups[static_cast<std::size_t>(node.level)];
    const QString heading = QString::fromStdString(group.heading);
    const auto no = [](const QString& why) { return Error{ErrorCode::Unsupported, why.toStdString()}; };
    const bool eachValue = group.design.by == GroupBy::EachValue;
    const auto field = context_.schema().find(group.design.key.field);
    const auto column =
        field && eachValue ? context_.columnOf(QString::fromStdString(group.design.key.field)) : std::nullopt;
    if (!column || !context_.canEdit(*column))
        return no(Grid::tr("%1 cannot be set by dropping: it is %2.")
                      .arg(heading, !eachValue || !group.design.key.rule.empty() ? Grid::tr("computed for the groups")
                                                                                 : Grid::tr("not editable here")));
    if (isError(tree.keyState(node))) return no(Grid::tr("This group has no value to set."));
    if (tree.keyState(node) == CellState::Empty && context_.schema().field(*field).required)
        return no(Grid::tr("%1 must not be empty.").arg(heading));
    // What the group's own records hold: of a look-up the key, not the label they are grouped by.
    const auto first = static_cast<SourceRow>((*tree.order)[static_cast<std::size_t>(node.first)]);
    return std::pair(*field, context_.snapshot().value(first, *field));
}

/// What dropping records on a group would set, by field; or why it cannot be. Levels on which all of them stand in the
/// group already set nothing, so that computed ones do not forbid it.
Result<RecordDrop::Values> RecordDrop::valuesOf(std::uint32_t node, const std::vector<SourceRow>& records) const {
    Values values;
    const GroupTree& tree = rows_.groups()->tree();
    for (std::uint32_t n = node;; n = tree.nodes[n].parent) {
        const GroupNode& at = tree.nodes[n];
        const auto level = static_cast<std::size_t>(at.level);
        const bool areThere = std::all_of(records.begin(), records.end(), [&](SourceRow row) {
            return tree.codes[level]->byRow()[raw(row)] == at.code;
        });
        if (!areThere) {
            auto value = valueOfLevel(at);
            if (!value) return value.error();
            values.push_back(std::move(*value));
        }
        if (at.level == 0) return values;
    }
}

void RecordDrop::say(const QString& message) const {
    QToolTip::showText(QCursor::pos(), message, &context_.viewport());
    context_.say(message);
}

bool RecordDrop::moveBy(int step) {
    const auto current = cursor_.current();
    if (!rows_.groups() || !current || !rows_.isRecord(current->line)) return false;
    const GroupTree& tree = rows_.groups()->tree();
    const std::size_t row = raw(rows_.rowAt(current->line));
    if (row >= tree.leafOf.size() || tree.leafOf[row] >= tree.leaves()) return true;
    const std::int64_t leaf = static_cast<std::int64_t>(tree.leafOf[row]) + step;
    if (leaf < 0 || leaf >= static_cast<std::int64_t>(tree.leaves())) {
        say(step < 0 ? Grid::tr("This is the first group.") : Grid::tr("This is the last group."));
        return true;
    }
    over_ = static_cast<std::uint32_t>(static_cast<std::int64_t>(tree.leafBegin()) + leaf);
    drop();
    return true;
}

void RecordDrop::drop() {
    const auto node = std::exchange(over_, std::nullopt);
    const std::vector<SourceRow> dropped = records();
    if (!node || dropped.empty()) return;
    if (dropped.size() > kMostDropped)
        return say(Grid::tr("At most %1 records can be moved at once.").arg(kMostDropped));
    const auto values = valuesOf(*node, dropped);
    if (!values) return say(QString::fromStdString(values.error().message));
    if (values->empty()) return;  // they stand there already
    const QString label = dropped.size() == 1
                              ? Grid::tr("Move a record")
                              : Grid::tr("Move %1 records").arg(grouped(static_cast<qint64>(dropped.size())));
    Q_EMIT context_.grid().editsBegun(label);
    context_.session().steps().begin(label.toStdString());
    std::vector<CellWrite> cells;
    for (const SourceRow row : dropped)
        for (const auto& [field, value] : *values) cells.push_back({row, field, value});
    write_(std::move(cells));
    context_.session().steps().end();
    Q_EMIT context_.grid().editsEnded();
}

}  // namespace jollyrow
