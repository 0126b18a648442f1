// SPDX-License-Identifier: MIT
// Groups on the grid: heights, lines that stay at the top, opening and closing, selecting, keys and menu, dropping
// records on a group, totals.
#include <QApplication>
#include <QKeyEvent>
#include <QToolTip>

#include "core/formats/text_format.h"
#include "grid/inside/grid_p.h"
#include "grid/paint/grouped.h"

namespace jollyrow {

namespace {
constexpr int kTotalsLine = 2;  // the strong line above the totals
constexpr int kTotalsAir = 12;
constexpr std::size_t kMostDropped = 1000;
}  // namespace

bool GridPrivate::isRecordLine(std::int64_t line) const {
    return lines && line >= 0 && line < lines->lineCount() &&
           lines->lineAt(static_cast<ViewLine>(line)).kind == LineKind::Record;
}

const GroupedLines* GridPrivate::groupedLines() const {
    return session->snapshot() ? session->snapshot()->grouped.get() : nullptr;
}

std::optional<std::uint32_t> GridPrivate::groupOnLine(std::int64_t line) const {
    if (!lines || !groupedLines() || line < 0 || line >= lines->lineCount()) return std::nullopt;
    const Line at = lines->lineAt(static_cast<ViewLine>(line));
    return at.kind == LineKind::Group ? std::optional(at.group) : std::nullopt;
}

int GridPrivate::groupLineHeight(int level, bool footer) const {
    const Grouping* grouping = groupingOf(*session->snapshot());
    const auto at = static_cast<std::size_t>(level);
    const int own = grouping && at < grouping->groups.size() ? grouping->groups[at].design.height : 0;
    const GroupText* text = lines ? lines->groupText() : nullptr;
    const int count = !text ? 1 : footer ? text->footerLines() : text->groupLines();
    return std::max(own > 0 && !footer ? own : rowHeight(), count * painter->groups().lineHeight() + 8);
}

/// Do lines of groups stand in other heights than records?
bool GridPrivate::hasOwnGroupHeights() const {
    const GroupedLines* grouped = groupedLines();
    if (!grouped) return false;
    for (int level = 0; level < grouped->tree().levels(); ++level)
        for (const bool footer : {false, true})
            if (groupLineHeight(level, footer) != recordHeight()) return true;
    return false;
}

std::vector<PinnedLine> GridPrivate::stickyLines() const {
    std::vector<PinnedLine> sticky;
    const GroupedLines* grouped = groupedLines();
    if (!grouped || !lines || !session->design().grid.stickyGroups || lines->lineCount() == 0) return sticky;
    const LinePlaces& at = places();
    int y = bodyTop();
    for (int level = 0; level < grouped->tree().levels(); ++level) {
        const auto line = at.lineAt(y);
        const auto group = line ? grouped->groupAround(*line, level) : std::nullopt;
        const auto own = group ? grouped->lineOf(*group) : std::nullopt;
        if (!own || *own >= *line) break;  // its line is in sight itself
        const int height = groupLineHeight(level, false);
        // The next group pushes it out.
        const int end = at.top(grouped->endOf(*group));
        sticky.push_back({*own, std::min(y, end - height), height});
        y = sticky.back().y + height;
    }
    return sticky;
}

/// How far lines of groups lie over the top of the body when this line stands there.
int GridPrivate::stickyDepth(std::int64_t line) const {
    const GroupedLines* grouped = groupedLines();
    if (!grouped || !session->design().grid.stickyGroups || line < 0 || line >= grouped->count()) return 0;
    const Line at = grouped->at(line);
    const int levels = grouped->tree().nodes[at.group].level + (at.kind == LineKind::Group ? 0 : 1);
    int depth = 0;
    for (int level = 0; level < levels; ++level) depth += groupLineHeight(level, false);
    return depth;
}

int GridPrivate::totalRowHeight() const {
    const GroupText* text = lines ? lines->groupText() : nullptr;
    return std::max(rowHeight() + 2, (text ? text->totalLines() : 1) * painter->groups().lineHeight() + kTotalsAir);
}

std::vector<TotalScope> GridPrivate::totalScopes() const {
    std::vector<TotalScope> scopes;
    const GroupText* text = lines ? lines->groupText() : nullptr;
    if (!text || !text->hasTotals()) return scopes;
    const GridDesign& design = session->design().grid;
    if (design.totalSelected) scopes.push_back(TotalScope::Selected);
    if (design.totalFiltered) scopes.push_back(TotalScope::Filtered);
    if (design.totalAll) scopes.push_back(TotalScope::All);
    return scopes;
}

int GridPrivate::totalsHeight() const {
    const auto rows = static_cast<int>(totalScopes().size());
    return rows == 0 ? 0 : rows * totalRowHeight() + kTotalsLine;
}

std::vector<TotalRow> GridPrivate::totalRows() const {
    std::vector<TotalRow> rows;
    int y = grid.viewport()->height() - totalsHeight() + kTotalsLine;
    const Snapshot& snapshot = *session->snapshot();
    const QString things = QString::fromStdString(session->schema().name);
    for (const TotalScope scope : totalScopes()) {
        TotalRow row;
        row.scope = scope;
        row.y = std::exchange(y, y + totalRowHeight());
        row.height = totalRowHeight();
        const bool filtered = snapshot.filter.rowsOut != snapshot.source.rowsOut;
        if (scope == TotalScope::Selected)
            row.caption = Grid::tr("%1 selected").arg(jollyrow::grouped(selection.rows().count()));
        else if (scope == TotalScope::Filtered && filtered)
            row.caption = Grid::tr("%1 of %2 %3")
                              .arg(jollyrow::grouped(snapshot.filter.rowsOut),
                                   jollyrow::grouped(snapshot.source.rowsOut), things);
        else
            row.caption = Grid::tr("All %1").arg(things);
        rows.push_back(std::move(row));
    }
    return rows;
}

/// Asks for the figures of the selected records when they are shown.
void GridPrivate::sumUpSelection() {
    const bool wanted = session->design().grid.totalSelected && lines && lines->groupText() &&
                        lines->groupText()->hasTotals() && selection.mode() != SelectionMode::Cells;
    if (!wanted) return;
    session->figuresOf(selection.rows().rows(session->snapshot()->table->rows),
                       [this](const Result<std::vector<EvaluatedCell>>& figures) {
                           if (!figures) return;
                           selectedFigures = *figures;
                           grid.viewport()->update();
                       });
}

/// The records that selecting a line selects.
void GridPrivate::rowsOnLine(std::int64_t line, const std::function<void(SourceRow)>& take) const {
    const Line at = lines->lineAt(static_cast<ViewLine>(line));
    if (at.kind == LineKind::Record) return take(at.row);
    if (at.kind != LineKind::Group || !groupedLines()) return;
    const GroupNode& node = groupedLines()->tree().nodes[at.group];
    const RowOrder& order = *groupedLines()->tree().order;
    for (std::int64_t n = node.first; n < node.first + node.count; ++n)
        take(static_cast<SourceRow>(order[static_cast<std::size_t>(n)]));
}

void GridPrivate::toggleGroup(std::int64_t line) {
    const auto group = groupOnLine(line);
    if (!group || (editor && !commitEdit())) return;
    const bool open = !groupedLines()->isOpen(*group);
    // What closes while its line stays at the top is brought into sight.
    const auto sticky = stickyLines();
    const bool stuck = std::any_of(sticky.begin(), sticky.end(), [&](const PinnedLine& s) { return s.line == line; });
    const std::uint64_t path = groupedLines()->tree().nodes[*group].path;
    session->setGroupOpen(*group, open);
    if (stuck && !open)
        if (const auto now = lineOfGroup(path))
            showPlace({*now, selection.current() ? selection.current()->column : 0});
    grid.announceFocus();
}

std::optional<std::int64_t> GridPrivate::lineOfGroup(std::uint64_t path) const {
    const GroupedLines* grouped = groupedLines();
    if (!grouped) return std::nullopt;
    const auto& nodes = grouped->tree().nodes;
    for (std::uint32_t n = 0; n < nodes.size(); ++n)
        if (nodes[n].path == path) return grouped->lineOf(n);
    return std::nullopt;
}

/// A click on a group's line: its mark opens and closes, the rest selects its records. True when it was one.
bool GridPrivate::pressGroup(QMouseEvent& event) {
    const auto line = lineAt(event.pos().y());
    if (!line || event.pos().y() < headerHeight() || event.pos().y() >= bodyBottom()) return false;
    const auto group = groupOnLine(*line);
    if (!group) return isFooterLine(*line);
    const GroupNode& node = groupedLines()->tree().nodes[*group];
    const QRect mark = GroupPainter::chevronRect(frame(), node.level, 0, 20);
    const CellPlace place{*line, selection.current() ? selection.current()->column : 0};
    if (event.pos().x() <= mark.right() + 2 && event.modifiers() == Qt::NoModifier) {
        if (selection.current()) choose(place, SelectHow::MoveOnly);
        toggleGroup(*line);
    } else if (columns.count() > 0) {
        const SelectHow how = event.modifiers() & Qt::ShiftModifier     ? SelectHow::Extend
                              : event.modifiers() & Qt::ControlModifier ? SelectHow::Toggle
                                                                        : SelectHow::Replace;
        choose(place, how);
        if (how == SelectHow::Replace) figurePressed = figureAt(event.pos());
    }
    return true;
}

bool GridPrivate::isFooterLine(std::int64_t line) const {
    return lines && groupedLines() && line >= 0 && line < lines->lineCount() &&
           lines->lineAt(static_cast<ViewLine>(line)).kind == LineKind::GroupFooter;
}

/// The figure under a point: of a group's line, a footer or the totals.
std::optional<GridPrivate::FigureHit> GridPrivate::figureAt(QPoint position) const {
    if (!lines || !lines->groupText() || !session->snapshot()->groups) return std::nullopt;
    const GridFrame f = frame();
    for (const TotalRow& row : f.totals) {
        if (position.y() < row.y || position.y() >= row.y + row.height) continue;
        const auto hit =
            row.scope == TotalScope::Filtered ? painter->groups().figureAt(f, row, position) : std::nullopt;
        if (!hit) return std::nullopt;
        return FigureHit{hit->summary, static_cast<std::uint32_t>(session->snapshot()->groups->tree->nodes.size()),
                         hit->rect};
    }
    const auto line = lineAt(position.y());
    if (!line || position.y() < bodyTop() || position.y() >= bodyBottom() || isRecordLine(*line) ||
        *line >= lines->lineCount())
        return std::nullopt;
    PinnedLine row{*line, places().top(*line), places().height(*line)};
    for (const PinnedLine& sticky : f.sticky)
        if (sticky.line == *line) row = sticky;
    const auto hit = painter->groups().figureAt(f, row, position);
    if (!hit) return std::nullopt;
    return FigureHit{hit->summary, lines->lineAt(static_cast<ViewLine>(*line)).group, hit->rect};
}

/// Keys on a group's line. True when one was taken.
bool GridPrivate::groupKey(QKeyEvent& event) {
    const auto current = selection.current();
    const auto group = current ? groupOnLine(current->line) : std::nullopt;
    if (!current || !groupedLines()) return false;
    const GroupTree& tree = groupedLines()->tree();
    const auto goUp = [&](std::optional<std::uint32_t> node) {
        if (const auto line = node ? groupedLines()->lineOf(*node) : std::nullopt)
            choose({*line, current->column}, SelectHow::Replace);
    };
    const bool plain = !(event.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::ShiftModifier));
    // From a record's first column the way to the left goes to its group.
    if (!group) {
        if (event.key() == Qt::Key_Left && plain && current->column == 0 && isRecordLine(current->line)) {
            goUp(lines->lineAt(static_cast<ViewLine>(current->line)).group);
            return true;
        }
        return false;
    }
    const GroupNode& node = tree.nodes[*group];
    const bool open = groupedLines()->isOpen(*group);
    switch (event.key()) {
        case Qt::Key_Right:
        case Qt::Key_Plus:
            if (!open)
                toggleGroup(current->line);
            else if (event.key() == Qt::Key_Right)
                choose({current->line + 1, 0}, SelectHow::Replace);
            return true;
        case Qt::Key_Left:
        case Qt::Key_Minus:
            if (open)
                toggleGroup(current->line);
            else if (event.key() == Qt::Key_Left && node.level > 0)
                goUp(node.parent);
            return true;
        case Qt::Key_Asterisk: session->setAllGroupsOpen(true); return true;
        case Qt::Key_Slash: session->setAllGroupsOpen(false); return true;
        case Qt::Key_Return:
        case Qt::Key_Enter: toggleGroup(current->line); return true;
        case Qt::Key_Tab:
        case Qt::Key_Backtab: return false;
        default: return false;
    }
}

void GridPrivate::openGroupMenu(std::int64_t line, const QPoint& global) {
    const auto group = groupOnLine(line);
    if (!group) return;
    const GroupNode& node = groupedLines()->tree().nodes[*group];
    const Grouping* grouping = groupingOf(*session->snapshot());
    auto* menu = new QMenu(&grid);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName(QStringLiteral("groupMenu"));
    const bool open = groupedLines()->isOpen(*group);
    menu->addAction(open ? Grid::tr("Close this group") : Grid::tr("Open this group"), &grid,
                    [this, line] { toggleGroup(line); });
    if (groupedLines()->tree().levels() > 1) {
        const int level = node.level;
        menu->addAction(Grid::tr("Open all of this level"), &grid,
                        [this, level] { session->setLevelOpen(level, true); });
        menu->addAction(Grid::tr("Close all of this level"), &grid,
                        [this, level] { session->setLevelOpen(level, false); });
    }
    menu->addAction(Grid::tr("Open all groups"), &grid, [this] { session->setAllGroupsOpen(true); });
    menu->addAction(Grid::tr("Close all groups"), &grid, [this] { session->setAllGroupsOpen(false); });
    menu->addSeparator();
    menu->addAction(Grid::tr("Select its records"), &grid, [this, line] { choose({line, 0}, SelectHow::Replace); });
    menu->addAction(Grid::tr("Copy"), &grid, [this] { copySelection(); });
    if (grouping && static_cast<std::size_t>(node.level) < grouping->groups.size()) {
        const PlannedGroup& planned = grouping->groups[static_cast<std::size_t>(node.level)];
        menu->addSeparator();
        menu->addAction(Grid::tr("Stop grouping by %1").arg(QString::fromStdString(planned.heading)), &grid,
                        [this, key = planned.design.key, heading = planned.heading] {
                            Design design = session->design();
                            std::erase_if(design.groups, [&](const GroupDesign& g) { return g.key == key; });
                            changeDesign(std::move(design),
                                         Grid::tr("Stop grouping by %1").arg(QString::fromStdString(heading)));
                        });
    }
    menu->popup(global);
}

void GridPrivate::fillGroupMenu(QMenu& menu, const std::string& field) {
    const auto index = session->schema().find(field);
    const Type type = index ? session->schema().field(*index).type : Type::Binary;
    const QString heading = headingOfField(session->design(), field);
    const auto& groups = session->design().groups;
    const bool grouped =
        std::any_of(groups.begin(), groups.end(), [&](const GroupDesign& g) { return g.key.field == field; });
    const std::vector<GroupBy> kinds = groupingsFor(type);
    const auto isLevel = [&groups, field](GroupBy by) {
        return std::any_of(groups.begin(), groups.end(),
                           [&](const GroupDesign& g) { return g.key.field == field && g.by == by; });
    };
    const auto group = [this, field, heading](GroupBy by) {
        Design design = session->design();
        const auto levels =
            std::erase_if(design.groups, [&](const GroupDesign& g) { return g.key.field == field && g.by == by; });
        if (levels > 0) return changeDesign(std::move(design), Grid::tr("Stop grouping by %1").arg(heading));
        GroupDesign made = newGroup(design, session->schema(), field);
        made.by = by;
        addGroup(design, std::move(made));
        changeDesign(std::move(design), Grid::tr("Group by %1").arg(heading));
    };
    if (kinds.size() == 1 && !grouped)
        menu.addAction(Grid::tr("Group by %1").arg(heading), &grid, [group, by = kinds.front()] { group(by); });
    if (kinds.size() > 1) {
        QMenu* by = menu.addMenu(Grid::tr("Group by %1").arg(heading));
        const auto levelAction = [&](GroupBy kind) {
            QAction* level =
                by->addAction(kind == GroupBy::EachValue ? Grid::tr("each value") : QString::fromStdString(words(kind)),
                              &grid, [group, kind] { group(kind); });
            level->setCheckable(true);
            level->setChecked(isLevel(kind));
        };
        for (const GroupBy kind : kinds)
            if (kind != GroupBy::Ranges || isLevel(kind))  // ranges want cut points, which the Group editor offers
                levelAction(kind);
    }
    if (grouped)
        menu.addAction(Grid::tr("Stop grouping by %1").arg(heading), &grid, [this, field, heading] {
            Design design = session->design();
            std::erase_if(design.groups, [&](const GroupDesign& g) { return g.key.field == field; });
            changeDesign(std::move(design), Grid::tr("Stop grouping by %1").arg(heading));
        });
    QMenu* figures = menu.addMenu(Grid::tr("Sum up"));
    const auto& summaries = session->design().summaries;
    for (const SummaryShow show : summariesFor(type)) {
        if (show == SummaryShow::WeightedMean || show == SummaryShow::Percentile) continue;
        const auto known = std::find_if(summaries.begin(), summaries.end(), [&](const SummaryDesign& s) {
            return s.column == field && s.show == show && s.of.empty();
        });
        QAction* action = figures->addAction(
            QString::fromStdString(words(show, type)), &grid,
            [this, field, show, heading, name = known == summaries.end() ? std::string() : known->name] {
                Design design = session->design();
                if (!name.empty()) {
                    removeSummary(design, name);
                    return changeDesign(std::move(design), Grid::tr("Do not sum up %1").arg(heading));
                }
                SummaryDesign made;
                made.column = field;
                made.show = show;
                made.name = newSummaryName(design, made);
                design.summaries.push_back(std::move(made));
                changeDesign(std::move(design), Grid::tr("Sum up %1").arg(heading));
            });
        action->setCheckable(true);
        action->setChecked(known != summaries.end());
    }
}

/// The group that records let go at this point would be dropped on.
std::optional<std::uint32_t> GridPrivate::dropGroupAt(QPoint position) const {
    const auto line = lineAt(position.y());
    if (!lines || !groupedLines() || !line || *line < 0 || *line >= lines->lineCount() || position.y() < bodyTop() ||
        position.y() >= bodyBottom())
        return std::nullopt;
    return lines->lineAt(static_cast<ViewLine>(*line)).group;
}

/// The selected records; one more than may be dropped when there are too many.
std::vector<SourceRow> GridPrivate::recordsDragged() const { return selection.rows().rows(kMostDropped + 1); }

/// What dropping records on a group would set, by field; or why it cannot be. Levels on which all of them stand in the
/// group already set nothing, so that computed ones do not forbid it.
Result<std::vector<std::pair<FieldIndex, Value>>> GridPrivate::valuesOfGroup(std::uint32_t node,
                                                                             const std::vector<SourceRow>& rows) const {
    std::vector<std::pair<FieldIndex, Value>> values;
    const Grouping* grouping = groupingOf(*session->snapshot());
    const GroupTree& tree = groupedLines()->tree();
    for (std::uint32_t n = node;; n = tree.nodes[n].parent) {
        const GroupNode& at = tree.nodes[n];
        const auto level = static_cast<std::size_t>(at.level);
        const auto isThere = [&](SourceRow row) { return tree.codes[level]->byRow()[raw(row)] == at.code; };
        if (std::all_of(rows.begin(), rows.end(), isThere)) {
            if (at.level == 0) break;
            continue;
        }
        const PlannedGroup& group = grouping->groups[level];
        const std::string heading = group.heading;
        const auto field = session->schema().find(group.design.key.field);
        std::optional<int> column;
        if (field && group.design.by == GroupBy::EachValue)
            column = columnOf(QString::fromStdString(group.design.key.field));
        if (!column || !canEdit(*column))
            return Error{ErrorCode::Unsupported,
                         Grid::tr("%1 cannot be set by dropping: it is %2.")
                             .arg(QString::fromStdString(heading),
                                  group.design.by != GroupBy::EachValue || !group.design.key.rule.empty()
                                      ? Grid::tr("computed for the groups")
                                      : Grid::tr("not editable here"))
                             .toStdString()};
        if (isError(tree.keyState(at)))
            return Error{ErrorCode::Unsupported, Grid::tr("This group has no value to set.").toStdString()};
        const FieldSchema& schema = session->schema().field(*field);
        if (tree.keyState(at) == CellState::Empty && schema.required)
            return Error{ErrorCode::Unsupported,
                         Grid::tr("%1 must not be empty.").arg(QString::fromStdString(heading)).toStdString()};
        // What the group's own records hold: of a look-up the key, not the label they are grouped by.
        const auto first = static_cast<SourceRow>((*tree.order)[static_cast<std::size_t>(at.first)]);
        values.emplace_back(*field, session->snapshot()->value(first, *field));
        if (at.level == 0) break;
    }
    return values;
}

void GridPrivate::dropRecordsOn(std::uint32_t node) {
    const std::vector<SourceRow> rows = recordsDragged();
    if (rows.empty()) return;
    const auto say = [this](const QString& message) {
        QToolTip::showText(QCursor::pos(), message, grid.viewport());
        Q_EMIT grid.failed(message);
    };
    if (rows.size() > kMostDropped) return say(Grid::tr("At most %1 records can be moved at once.").arg(kMostDropped));
    const auto values = valuesOfGroup(node, rows);
    if (!values) return say(QString::fromStdString(values.error().message));
    if (values->empty()) return;  // they stand there already
    Q_EMIT grid.editsBegun(Grid::tr("Move %n record(s)", nullptr, static_cast<int>(rows.size())));
    followed = rows.front();
    for (const SourceRow row : rows)
        for (const auto& [field, value] : *values) {
            const Value before = session->snapshot()->value(row, field);
            if (before == value) continue;
            const Record record(session->snapshot(), session->refOf(row), session->sharedPlan());
            session->edit(row, field, value);
            Q_EMIT grid.cellEdited(record, QString::fromStdString(session->schema().field(field).name), before, value);
        }
    Q_EMIT grid.editsEnded();
}

}  // namespace jollyrow
