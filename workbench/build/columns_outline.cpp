// SPDX-License-Identifier: MIT
#include "workbench/build/columns_outline.h"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include "core/design/plan.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {
constexpr int kMostLinkDepth = 4;
int titleHeight() { return scaled(34); }
int rowHeight() { return scaled(24); }
int eyePx() { return scaled(16); }
int leftEdge() { return scaled(14); }
int indentPx() { return scaled(13); }
}  // namespace

ColumnsOutline::ColumnsOutline(QWidget* parent) : QAbstractScrollArea(parent) {
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Columns"));
    viewport()->setMouseTracking(true);
}

void ColumnsOutline::setContent(const Design& design, const TableSchema& schema, SchemaOf schemaOf) {
    design_ = design;
    schema_ = schema;
    schemaOf_ = std::move(schemaOf);
    build();
}

bool ColumnsOutline::addTiers(const std::vector<std::string>& path, std::size_t firstNew) {
    bool isClosed = false;
    for (std::size_t i = 0; i < path.size(); ++i) {
        const QString name = QString::fromStdString(path[i]);
        if (i >= firstNew && !isClosed) {
            const auto fields = fieldsUnder(design_, path[i]);
            const bool anyShown = std::any_of(fields.begin(), fields.end(),
                                              [&](const std::string& f) { return design_.column(f)->shown; });
            rows_.push_back({.kind = Kind::Tier,
                             .id = name,
                             .text = headingOfTier(design_, path[i]),
                             .note = design_.findTier(path[i])->folded ? tr("folded") : QString(),
                             .indent = static_cast<int>(i),
                             .shown = anyShown,
                             .isOpen = !closedTiers_.contains(name),
                             .height = rowHeight()});
        }
        isClosed = isClosed || closedTiers_.contains(name);
    }
    return isClosed;
}

QString ColumnsOutline::noteOf(const ColumnDesign& column, bool isPinned) const {
    if (!schema_.find(column.field)) return column.rule.empty() ? tr("missing") : tr("wrong rule");
    if (column.hiddenFromUsers) return tr("kept");
    QString note;
    for (std::size_t k = 0; k < design_.sort.size(); ++k)
        if (design_.sort[k].field == column.field) note = tr("sort %1").arg(k + 1);
    for (std::size_t k = 0; k < design_.groups.size(); ++k)
        if (design_.groups[k].key.field == column.field) note = tr("group %1").arg(k + 1);
    if (isPinned && note.isEmpty()) note = tr("pinned");
    return !column.rule.empty() && note.isEmpty() ? tr("rule") : note;
}

void ColumnsOutline::addColumns() {
    const auto takesPlace = [](const ColumnDesign& column) {
        return column.shown && !column.hiddenFromUsers && column.under.empty();
    };
    const auto places =
        static_cast<std::size_t>(std::count_if(design_.columns.begin(), design_.columns.end(), takesPlace));
    std::size_t place = 0;
    std::vector<std::string> open;
    for (const ColumnDesign& column : design_.columns) {
        const std::vector<std::string> path = tierPath(design_, column.tier);
        std::size_t same = 0;
        while (same < path.size() && same < open.size() && path[same] == open[same]) ++same;
        const bool isClosed = addTiers(path, same);
        open = path;
        const std::size_t at = place;
        place += takesPlace(column) ? 1 : 0;
        if (isClosed) continue;
        const auto field = schema_.find(column.field);
        const bool isPinned = takesPlace(column) && (at < static_cast<std::size_t>(design_.grid.pinned) ||
                                                     at + static_cast<std::size_t>(design_.grid.pinnedRight) >= places);
        rows_.push_back({.kind = Kind::Column,
                         .id = QString::fromStdString(column.field),
                         .text = QString::fromStdString(column.heading),
                         .note = noteOf(column, isPinned),
                         .icon = static_cast<int>(field ? iconFor(schema_.field(*field)) : Icon::Warning),
                         .indent = static_cast<int>(path.size()),
                         .shown = column.shown && !column.hiddenFromUsers,
                         .isBeneath = !column.under.empty(),
                         .height = rowHeight()});
    }
}

void ColumnsOutline::build() {
    rows_.clear();
    const auto shown = std::count_if(design_.columns.begin(), design_.columns.end(),
                                     [](const ColumnDesign& c) { return c.shown && !c.hiddenFromUsers; });
    rows_.push_back({.kind = Kind::Title,
                     .id = {},
                     .text = tr("Columns"),
                     .note = tr("%1 of %2").arg(shown).arg(design_.columns.size()),
                     .height = titleHeight()});
    addColumns();
    rows_.push_back({.kind = Kind::Add,
                     .id = {},
                     .text = tr("Computed column…"),
                     .note = {},
                     .icon = static_cast<int>(Icon::Plus),
                     .height = rowHeight()});
    std::size_t unused = 0;
    for (const FieldSchema& field : schema_.fields) unused += field.join == 0 && !design_.column(field.name) ? 1 : 0;
    const bool hasLinks = std::any_of(schema_.foreignKeys.begin(), schema_.foreignKeys.end(),
                                      [](const ForeignKey& k) { return k.fields.size() == 1; });
    if (unused > 0 || hasLinks) {
        rows_.push_back({.kind = Kind::UnusedTitle,
                         .id = {},
                         .text = tr("Not in the grid"),
                         .note = tr("%1 fields").arg(unused),
                         .height = titleHeight()});
        addUnused(schema_, {}, 0);
    }
    int y = 0;
    for (Row& row : rows_) {
        if (row.kind == Kind::UnusedTitle) y += 8;
        row.y = y;
        y += row.height;
    }
    relayout();
}

/// Fields that the grid does not use yet, then the foreign keys that lead on to other tables.
void ColumnsOutline::addUnused(const TableSchema& schema, const std::string& path, int indent) {
    for (const FieldSchema& field : schema.fields) {
        const std::string name = path + field.name;
        if (field.join != 0 || design_.column(name)) continue;
        rows_.push_back({.kind = Kind::Unused,
                         .id = QString::fromStdString(name),
                         .text = QString::fromStdString(field.name),
                         .note = {},
                         .icon = static_cast<int>(iconFor(field)),
                         .indent = indent,
                         .shown = false,
                         .height = rowHeight()});
    }
    if (indent >= kMostLinkDepth) return;
    for (const ForeignKey& key : schema.foreignKeys) {
        if (key.fields.size() != 1) continue;
        const QString id = QString::fromStdString(path + key.fields.front());
        const bool isOpen = openLinks_.contains(id);
        rows_.push_back({.kind = Kind::Link,
                         .id = id,
                         .text = QString::fromStdString(key.fields.front()) + QStringLiteral(" →"),
                         .note = QString::fromStdString(key.table),
                         .icon = static_cast<int>(Icon::TypeLink),
                         .indent = indent,
                         .isOpen = isOpen,
                         .height = rowHeight()});
        if (!isOpen || !schemaOf_) continue;
        if (const auto target = schemaOf_(key.table)) addUnused(*target, path + key.fields.front() + ".", indent + 1);
    }
}

void ColumnsOutline::setSelected(const std::vector<QString>& fields, const std::optional<QString>& tier) {
    selected_ = fields;
    selectedTier_ = tier;
    const QRect row = tier ? tierRowRect(*tier) : fields.empty() ? QRect() : rowRect(fields.back());
    if (!row.isEmpty() && row.bottom() > viewport()->height())
        verticalScrollBar()->setValue(verticalScrollBar()->value() + row.bottom() - viewport()->height() + 4);
    if (!row.isEmpty() && row.top() < 0) verticalScrollBar()->setValue(verticalScrollBar()->value() + row.top() - 4);
    viewport()->update();
}

void ColumnsOutline::relayout() {
    const int content = rows_.empty() ? 0 : rows_.back().y + rows_.back().height + 8;
    verticalScrollBar()->setRange(0, std::max(0, content - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(rowHeight());
    viewport()->update();
}

QRect ColumnsOutline::rectOf(const Row& row) const {
    return {0, row.y - verticalScrollBar()->value(), viewport()->width(), row.height};
}
QRect ColumnsOutline::eyeOf(const Row& row) const {
    return QRect(viewport()->width() - eyePx() - 10, rectOf(row).center().y() - eyePx() / 2 + 1, eyePx(), eyePx());
}

int ColumnsOutline::rowOf(Kind kind, const QString& id) const {
    for (std::size_t i = 0; i < rows_.size(); ++i)
        if (rows_[i].kind == kind && rows_[i].id == id) return static_cast<int>(i);
    return -1;
}

QRect ColumnsOutline::rowRect(const QString& field) const {
    for (const Kind kind : {Kind::Column, Kind::Unused})
        if (const int row = rowOf(kind, field); row >= 0) return rectOf(rows_[static_cast<std::size_t>(row)]);
    if (!field.endsWith(QStringLiteral(" →"))) return {};
    const int row = rowOf(Kind::Link, field.chopped(2));
    return row >= 0 ? rectOf(rows_[static_cast<std::size_t>(row)]) : QRect();
}

QRect ColumnsOutline::tierRowRect(const QString& name) const {
    const int row = rowOf(Kind::Tier, name);
    return row >= 0 ? rectOf(rows_[static_cast<std::size_t>(row)]) : QRect();
}

QRect ColumnsOutline::addRowRect() const {
    const int row = rowOf(Kind::Add, {});
    return row >= 0 ? rectOf(rows_[static_cast<std::size_t>(row)]) : QRect();
}

QRect ColumnsOutline::eyeRect(const QString& field) const {
    const int row = rowOf(Kind::Column, field);
    return row >= 0 ? eyeOf(rows_[static_cast<std::size_t>(row)]) : QRect();
}

int ColumnsOutline::rowAt(QPoint position) const {
    for (std::size_t i = 0; i < rows_.size(); ++i)
        if (rectOf(rows_[i]).contains(position)) return static_cast<int>(i);
    return -1;
}

bool ColumnsOutline::isSelected(const Row& row) const {
    if (row.kind == Kind::Tier) return selectedTier_ == row.id;
    return row.kind == Kind::Column && !selectedTier_ &&
           std::find(selected_.begin(), selected_.end(), row.id) != selected_.end();
}

void ColumnsOutline::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), t.panel);
    for (std::size_t i = 0; i < rows_.size(); ++i)
        if (rectOf(rows_[i]).intersects(viewport()->rect()))
            paintRow(painter, rows_[i], static_cast<int>(i) == hovered_);
    if (!dragging_ || !drop_) return;
    if (drop_->intoRow >= 0) {
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(t.brass, 1.5));
        painter.drawRoundedRect(QRectF(rectOf(rows_[static_cast<std::size_t>(drop_->intoRow)])).adjusted(6, 1, -6, -1),
                                4, 4);
    } else {
        const int left = leftEdge() + drop_->indent * indentPx();
        painter.fillRect(left, drop_->markY - 1, viewport()->width() - left - 8, 2, t.brass);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.brass);
        painter.drawEllipse(QPointF(left, drop_->markY), 3, 3);
    }
}

void ColumnsOutline::paintTitle(QPainter& painter, const Row& row) {
    const Tokens& t = look();
    const QRect rect = rectOf(row);
    if (row.kind == Kind::UnusedTitle) painter.fillRect(0, rect.top() - 4, rect.width(), 1, t.hair);
    painter.setFont(sized(12, QFont::DemiBold));
    painter.setPen(t.ink);
    painter.drawText(rect.adjusted(leftEdge(), 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, row.text);
    const int used = QFontMetrics(painter.font()).horizontalAdvance(row.text);
    painter.setFont(sized(12));
    painter.setPen(t.ink2);
    painter.drawText(rect.adjusted(leftEdge() + used + 8, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, row.note);
}

void ColumnsOutline::paintRow(QPainter& painter, const Row& row, bool hovered) {
    if (row.kind == Kind::Title || row.kind == Kind::UnusedTitle) return paintTitle(painter, row);
    const Tokens& t = look();
    const QRect rect = rectOf(row);
    if (isSelected(row)) {
        painter.fillRect(rect, t.brassPale);
        painter.fillRect(0, rect.top(), 3, rect.height(), t.brass);
    } else if (hovered) {
        painter.fillRect(rect, t.panel2);
    }
    const bool quiet = row.kind == Kind::Unused || row.kind == Kind::Link || row.kind == Kind::Add || !row.shown;
    const int indent = leftEdge() + row.indent * indentPx() + (row.isBeneath ? 8 : 0);
    const bool hasChevron = row.kind == Kind::Tier || row.kind == Kind::Link;
    if (hasChevron)
        drawIcon(painter, row.isOpen ? Icon::ChevronDown : Icon::ChevronRight,
                 QRectF(indent - 1, rect.center().y() - scaled(5), scaled(11), scaled(11)), t.ink3);
    else if (row.isBeneath) {
        painter.setPen(QPen(t.ink3, 1.2));
        painter.drawLine(indent - 6, rect.top() + 4, indent - 6, rect.center().y() + 1);
        painter.drawLine(indent - 6, rect.center().y() + 1, indent - 1, rect.center().y() + 1);
    }
    int left = indent + scaled(hasChevron ? 14 : 2);
    if (row.kind != Kind::Tier) {
        drawIcon(painter, static_cast<Icon>(row.icon),
                 QRectF(left, rect.center().y() - scaled(7), scaled(15), scaled(15)), quiet ? t.ink3 : t.ink2);
        left += scaled(23);
    }
    const QFont font = sized(12, row.kind == Kind::Tier     ? QFont::DemiBold
                                 : row.kind == Kind::Column ? QFont::Medium
                                                            : QFont::Normal);
    int right = viewport()->width() - 12;
    const bool showEye = row.kind == Kind::Column || (row.kind == Kind::Tier && hovered);
    const bool showPlus = row.kind == Kind::Unused && hovered;
    if (showEye) drawIcon(painter, row.shown ? Icon::Eye : Icon::EyeShut, eyeOf(row), t.ink3);
    if (showPlus) drawIcon(painter, Icon::Plus, QRectF(eyeOf(row)).adjusted(1, 1, -1, -1), t.tealText);
    if (showEye || showPlus) right = eyeOf(row).left() - 7;
    int noteWidth = 0;
    if (!row.note.isEmpty()) {
        painter.setFont(sized(11));
        painter.setPen(row.note.startsWith(tr("sort"))                             ? t.brassText
                       : row.note == tr("missing") || row.note == tr("wrong rule") ? t.buoyText
                                                                                   : t.ink2);
        noteWidth = QFontMetrics(painter.font()).horizontalAdvance(row.note) + 8;
        painter.drawText(QRect(right - noteWidth, rect.top(), noteWidth, rect.height()),
                         Qt::AlignRight | Qt::AlignVCenter, row.note);
    }
    painter.setFont(font);
    painter.setPen(quiet ? t.ink2 : t.ink);
    const QRect place(left, rect.top(), right - noteWidth - left - 4, rect.height());
    painter.drawText(place, Qt::AlignLeft | Qt::AlignVCenter,
                     QFontMetrics(font).elidedText(row.text, Qt::ElideRight, place.width()));
}

void ColumnsOutline::resizeEvent(QResizeEvent*) { relayout(); }

namespace {
/// Takes it out, or puts it in where it was not there.
template <class Set, class Key>
void turnOver(Set& set, const Key& key) {
    if (!set.erase(key)) set.insert(key);
}
}  // namespace

/// What a press does at once; false where it selects.
bool ColumnsOutline::actAt(const Row& row, const QPoint& at) {
    const bool onEye = eyeOf(row).adjusted(-6, -5, 8, 5).contains(at);
    const bool onChevron = at.x() < leftEdge() + row.indent * indentPx() + 13;
    switch (row.kind) {
        case Kind::Title:
        case Kind::UnusedTitle: return true;
        case Kind::Unused: Q_EMIT added(row.id); return true;
        case Kind::Add: Q_EMIT computedWanted(); return true;
        case Kind::Link: turnOver(openLinks_, row.id); break;
        case Kind::Tier:
            if (onEye) return Q_EMIT tierShownToggled(row.id, !row.shown), true;
            if (!onChevron) return false;
            turnOver(closedTiers_, row.id);
            break;
        case Kind::Column:
            if (onEye) Q_EMIT shownToggled(row.id);
            return onEye;
    }
    build();
    return true;
}

void ColumnsOutline::mousePressEvent(QMouseEvent* event) {
    const int at = rowAt(event->pos());
    if (at < 0 || event->button() != Qt::LeftButton) return;
    const Row row = rows_[static_cast<std::size_t>(at)];
    if (actAt(row, event->pos())) return;
    pressed_ = at;
    pressedAt_ = event->pos();
    if (row.kind == Kind::Tier)
        Q_EMIT tierSelected(row.id);
    else if (!isSelected(row) || selected_.size() == 1 || event->modifiers() != Qt::NoModifier)
        Q_EMIT selected(row.id, event->modifiers());
}

std::string ColumnsOutline::firstUnder(const std::string& tier) const {
    const auto fields = fieldsUnder(design_, tier);
    return fields.empty() ? std::string() : fields.front();
}

/// The column behind a field and what stands beneath it, while it is in the tier.
std::string ColumnsOutline::behind(const std::string& field, const std::string& tier) const {
    auto at = std::find_if(design_.columns.begin(), design_.columns.end(),
                           [&](const ColumnDesign& c) { return c.field == field; });
    if (at == design_.columns.end()) return {};
    for (++at; at != design_.columns.end() && !at->under.empty();) ++at;
    if (at == design_.columns.end()) return {};
    const auto path = tierPath(design_, at->tier);
    return tier.empty() || std::find(path.begin(), path.end(), tier) != path.end() ? at->field : std::string();
}

std::optional<ColumnsOutline::Drop> ColumnsOutline::dropAt(QPoint position) const {
    int at = rowAt(QPoint(10, position.y()));
    while (at >= 0 && rows_[static_cast<std::size_t>(at)].kind != Kind::Tier &&
           rows_[static_cast<std::size_t>(at)].kind != Kind::Column)
        --at;
    if (at <= 0) return std::nullopt;
    const Row& row = rows_[static_cast<std::size_t>(at)];
    const QRect rect = rectOf(row);
    const bool below = position.y() > rect.center().y();
    if (row.kind == Kind::Tier) {
        const std::string name = row.id.toStdString();
        if (position.y() < rect.top() + rect.height() / 3)
            return Drop{{design_.findTier(name)->parent, firstUnder(name)}, rect.top(), row.indent, -1};
        return Drop{{name, firstUnder(name)}, 0, 0, at};
    }
    const ColumnDesign& column = *design_.column(row.id.toStdString());
    const std::string top = column.under.empty() ? column.field : column.under;
    if (!below) return Drop{{column.tier, top}, rect.top(), row.indent, -1};
    // Far to the left below the last column of a tier means out of the tier.
    std::string tier = column.tier;
    int indent = row.indent;
    while (!tier.empty() && behind(top, tier).empty() && position.x() < leftEdge() + indent * indentPx() - 4) {
        tier = design_.findTier(tier)->parent;
        --indent;
    }
    return Drop{{tier, behind(top, tier)}, rect.bottom() + 1, indent, -1};
}

void ColumnsOutline::mouseMoveEvent(QMouseEvent* event) {
    if (pressed_ >= 0 && !dragging_ &&
        (event->pos() - pressedAt_).manhattanLength() >= QApplication::startDragDistance())
        dragging_ = true;
    if (dragging_) {
        drop_ = dropAt(event->pos());
        viewport()->setCursor(Qt::ClosedHandCursor);
        viewport()->update();
        return;
    }
    const int at = rowAt(event->pos());
    if (at == hovered_) return;
    hovered_ = at;
    const bool acts = at >= 0 && rows_[static_cast<std::size_t>(at)].kind != Kind::Title &&
                      rows_[static_cast<std::size_t>(at)].kind != Kind::UnusedTitle;
    viewport()->setCursor(acts ? Qt::PointingHandCursor : Qt::ArrowCursor);
    viewport()->update();
}

void ColumnsOutline::sendMove(int at, const Landing& to) {
    const Row& row = rows_[static_cast<std::size_t>(at)];
    if (row.kind == Kind::Tier) return Q_EMIT tierMoved(row.id, to);
    std::vector<std::string> fields;
    for (const ColumnDesign& column : design_.columns) {
        const QString field = QString::fromStdString(column.field);
        const bool goes = isSelected(row) && selected_.size() > 1
                              ? std::find(selected_.begin(), selected_.end(), field) != selected_.end()
                              : field == row.id;
        if (goes) fields.push_back(column.field);
    }
    Q_EMIT moved(fields, to);
}

void ColumnsOutline::mouseReleaseEvent(QMouseEvent* event) {
    const int from = std::exchange(pressed_, -1);
    viewport()->setCursor(Qt::ArrowCursor);
    if (!std::exchange(dragging_, false)) {
        // A click on one of several selected ones leaves that one.
        if (from >= 0 && from < static_cast<int>(rows_.size()) &&
            rows_[static_cast<std::size_t>(from)].kind == Kind::Column && selected_.size() > 1 &&
            event->modifiers() == Qt::NoModifier)
            Q_EMIT selected(rows_[static_cast<std::size_t>(from)].id, Qt::NoModifier);
        return;
    }
    const auto to = std::exchange(drop_, std::nullopt);
    viewport()->update();
    if (to && from >= 0 && from < static_cast<int>(rows_.size())) sendMove(from, to->to);
}

void ColumnsOutline::moveByKey(int step) {
    const int at = selectedTier_       ? rowOf(Kind::Tier, *selectedTier_)
                   : selected_.empty() ? -1
                                       : rowOf(Kind::Column, selected_.back());
    if (at < 0) return;
    // As a drop above the row before, or below the row after, its own.
    int to = at + step;
    const Row& own = rows_[static_cast<std::size_t>(at)];
    const auto isInside = [&](int index) {
        return own.kind == Kind::Tier && index > at && index < static_cast<int>(rows_.size()) &&
               rows_[static_cast<std::size_t>(index)].indent > own.indent &&
               (rows_[static_cast<std::size_t>(index)].kind == Kind::Column ||
                rows_[static_cast<std::size_t>(index)].kind == Kind::Tier);
    };
    while (step > 0 && isInside(to)) ++to;
    if (to <= 0 || to >= static_cast<int>(rows_.size())) return;
    const Row& other = rows_[static_cast<std::size_t>(to)];
    if (other.kind != Kind::Column && other.kind != Kind::Tier) return;
    if (other.kind == Kind::Tier && step > 0)
        return sendMove(at, {other.id.toStdString(), firstUnder(other.id.toStdString())});
    if (other.kind == Kind::Tier) {
        const std::string name = other.id.toStdString();
        return sendMove(at, {design_.findTier(name)->parent, firstUnder(name)});
    }
    const ColumnDesign& column = *design_.column(other.id.toStdString());
    const std::string top = column.under.empty() ? column.field : column.under;
    sendMove(at, {column.tier, step < 0 ? top : behind(top, column.tier)});
}

/// The column or tier next to the row at `at`; with Shift columns are added to what is selected.
void ColumnsOutline::selectNext(int at, int step, bool adds) {
    for (at += step; at > 0 && at < static_cast<int>(rows_.size()); at += step) {
        const Row& row = rows_[static_cast<std::size_t>(at)];
        if (row.kind == Kind::Column) return Q_EMIT selected(row.id, adds ? Qt::ControlModifier : Qt::NoModifier);
        if (row.kind == Kind::Tier && !adds) return Q_EMIT tierSelected(row.id);
    }
}

bool ColumnsOutline::key(const QKeyEvent& key) {
    const int at = selectedTier_       ? rowOf(Kind::Tier, *selectedTier_)
                   : selected_.empty() ? 0
                                       : rowOf(Kind::Column, selected_.back());
    const int step = key.key() == Qt::Key_Up ? -1 : key.key() == Qt::Key_Down ? 1 : 0;
    if (step != 0 && (key.modifiers() & Qt::AltModifier)) {
        moveByKey(step);
    } else if (step != 0) {
        selectNext(at, step, key.modifiers() & Qt::ShiftModifier);
    } else if (key.key() == Qt::Key_Delete && !selected_.empty() && !selectedTier_) {
        std::vector<std::string> fields;
        for (const QString& field : selected_) fields.push_back(field.toStdString());
        Q_EMIT removed(fields);
    } else if (at > 0 && key.key() == Qt::Key_Space) {
        const Row& row = rows_[static_cast<std::size_t>(at)];
        row.kind == Kind::Column ? Q_EMIT shownToggled(row.id) : Q_EMIT tierShownToggled(row.id, !row.shown);
    } else if (selectedTier_ && (key.key() == Qt::Key_Left || key.key() == Qt::Key_Right)) {
        key.key() == Qt::Key_Left ? void(closedTiers_.insert(*selectedTier_))
                                  : void(closedTiers_.erase(*selectedTier_));
        build();
    } else {
        return false;
    }
    return true;
}

void ColumnsOutline::keyPressEvent(QKeyEvent* event) {
    if (!key(*event)) QAbstractScrollArea::keyPressEvent(event);
}

bool ColumnsOutline::viewportEvent(QEvent* event) {
    if (event->type() == QEvent::Leave && hovered_ >= 0) {
        hovered_ = -1;
        viewport()->update();
    }
    return QAbstractScrollArea::viewportEvent(event);
}

void ColumnsOutline::scrollContentsBy(int, int) { viewport()->update(); }

}  // namespace jollyrow
