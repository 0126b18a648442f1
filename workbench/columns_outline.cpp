// SPDX-License-Identifier: MIT
#include "workbench/columns_outline.h"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include "workbench/icons.h"
#include "workbench/look.h"

namespace jollyrow {
namespace {
constexpr int kTitleHeight = 34, kRowHeight = 24, kEyePx = 16, kLeft = 14;
}

ColumnsOutline::ColumnsOutline(QWidget* parent) : QAbstractScrollArea(parent) {
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName(tr("Columns"));
    viewport()->setMouseTracking(true);
}

void ColumnsOutline::setContent(const Design& design, const TableSchema& schema) {
    rows_.clear();
    std::size_t shown = 0;
    for (const ColumnDesign& column : design.columns) shown += column.shown ? 1 : 0;
    rows_.push_back({Kind::Title,
                     {},
                     tr("Columns"),
                     tr("%1 of %2").arg(shown).arg(design.columns.size()),
                     0,
                     true,
                     0,
                     kTitleHeight});
    std::size_t position = 0;
    for (const ColumnDesign& column : design.columns) {
        const auto field = schema.find(column.field);
        QString note;
        for (std::size_t k = 0; k < design.sort.size(); ++k)
            if (design.sort[k].field == column.field) note = tr("sort %1").arg(k + 1);
        if (column.shown && position++ < static_cast<std::size_t>(design.grid.pinned) && note.isEmpty())
            note = tr("pinned");
        if (!field) note = tr("missing");
        rows_.push_back({Kind::Column, QString::fromStdString(column.field), QString::fromStdString(column.heading),
                         note, static_cast<int>(field ? iconFor(schema.field(*field)) : Icon::Warning), column.shown, 0,
                         kRowHeight});
    }
    std::vector<const FieldSchema*> unused;
    for (const FieldSchema& field : schema.fields)
        if (!design.column(field.name)) unused.push_back(&field);
    if (!unused.empty()) {
        rows_.push_back({Kind::UnusedTitle,
                         {},
                         tr("Not in the grid"),
                         tr("%1 fields").arg(unused.size()),
                         0,
                         true,
                         0,
                         kTitleHeight});
        for (const FieldSchema* field : unused)
            rows_.push_back({Kind::Unused,
                             QString::fromStdString(field->name),
                             QString::fromStdString(field->name),
                             {},
                             static_cast<int>(iconFor(*field)),
                             false,
                             0,
                             kRowHeight});
    }
    int y = 0;
    for (Row& row : rows_) {
        if (row.kind == Kind::UnusedTitle) y += 8;
        row.y = y;
        y += row.height;
    }
    relayout();
}

void ColumnsOutline::setSelected(const std::optional<QString>& field) {
    selected_ = field;
    if (field) {
        const QRect row = rowRect(*field);
        if (!row.isEmpty() && row.bottom() > viewport()->height())
            verticalScrollBar()->setValue(verticalScrollBar()->value() + row.bottom() - viewport()->height() + 4);
        if (!row.isEmpty() && row.top() < 0)
            verticalScrollBar()->setValue(verticalScrollBar()->value() + row.top() - 4);
    }
    viewport()->update();
}

void ColumnsOutline::relayout() {
    const int content = rows_.empty() ? 0 : rows_.back().y + rows_.back().height + 8;
    verticalScrollBar()->setRange(0, std::max(0, content - viewport()->height()));
    verticalScrollBar()->setPageStep(viewport()->height());
    verticalScrollBar()->setSingleStep(kRowHeight);
    viewport()->update();
}

QRect ColumnsOutline::rectOf(const Row& row) const {
    return {0, row.y - verticalScrollBar()->value(), viewport()->width(), row.height};
}
QRect ColumnsOutline::eyeOf(const Row& row) const {
    return QRect(viewport()->width() - kEyePx - 10, rectOf(row).center().y() - kEyePx / 2 + 1, kEyePx, kEyePx);
}

QRect ColumnsOutline::rowRect(const QString& field) const {
    for (const Row& row : rows_)
        if (row.field == field && !field.isEmpty()) return rectOf(row);
    return {};
}

QRect ColumnsOutline::eyeRect(const QString& field) const {
    for (const Row& row : rows_)
        if (row.field == field && !field.isEmpty()) return eyeOf(row);
    return {};
}

int ColumnsOutline::rowAt(QPoint position) const {
    for (std::size_t i = 0; i < rows_.size(); ++i)
        if (rectOf(rows_[i]).contains(position)) return static_cast<int>(i);
    return -1;
}

void ColumnsOutline::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), t.panel);
    for (std::size_t i = 0; i < rows_.size(); ++i)
        if (rectOf(rows_[i]).intersects(viewport()->rect()))
            paintRow(painter, rows_[i], static_cast<int>(i) == hovered_);
    if (dragging_ && landing_ >= 0) {
        const int y = landing_ < static_cast<int>(rows_.size())
                          ? rectOf(rows_[static_cast<std::size_t>(landing_)]).top()
                          : rectOf(rows_.back()).bottom();
        painter.fillRect(8, y - 1, viewport()->width() - 16, 2, t.brass);
    }
}

void ColumnsOutline::paintRow(QPainter& painter, const Row& row, bool hovered) {
    const Tokens& t = look();
    const QRect rect = rectOf(row);
    if (row.kind == Kind::Title || row.kind == Kind::UnusedTitle) {
        if (row.kind == Kind::UnusedTitle) painter.fillRect(0, rect.top() - 4, rect.width(), 1, t.hair);
        painter.setFont(sized(12, QFont::DemiBold));
        painter.setPen(t.ink);
        painter.drawText(rect.adjusted(kLeft, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, row.text);
        const int used = QFontMetrics(painter.font()).horizontalAdvance(row.text);
        painter.setFont(sized(12));
        painter.setPen(t.ink2);
        painter.drawText(rect.adjusted(kLeft + used + 8, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, row.note);
        return;
    }
    const bool isSelected = selected_ && *selected_ == row.field && row.kind == Kind::Column;
    if (isSelected) {
        painter.fillRect(rect, t.brassPale);
        painter.fillRect(0, rect.top(), 3, rect.height(), t.brass);
    } else if (hovered) {
        painter.fillRect(rect, t.panel2);
    }
    const bool quiet = row.kind == Kind::Unused || !row.shown;
    drawIcon(painter, static_cast<Icon>(row.icon), QRectF(kLeft + 2, rect.center().y() - 7, 15, 15),
             quiet ? t.ink3 : t.ink2);
    painter.setFont(sized(12, row.kind == Kind::Column ? QFont::Medium : QFont::Normal));
    painter.setPen(quiet ? t.ink2 : t.ink);
    int right = viewport()->width() - 12;
    const bool showEye = row.kind == Kind::Column;
    const bool showPlus = row.kind == Kind::Unused && hovered;
    if (showEye) drawIcon(painter, row.shown ? Icon::Eye : Icon::EyeShut, eyeOf(row), t.ink3);
    if (showPlus) drawIcon(painter, Icon::Plus, QRectF(eyeOf(row)).adjusted(1, 1, -1, -1), t.tealText);
    if (showEye || showPlus) right = eyeOf(row).left() - 7;
    int noteWidth = 0;
    const QFont textFont = painter.font();
    if (!row.note.isEmpty()) {
        painter.setFont(sized(11));
        painter.setPen(row.note.startsWith(tr("sort")) ? t.brassText : row.note == tr("missing") ? t.buoyText : t.ink2);
        noteWidth = QFontMetrics(painter.font()).horizontalAdvance(row.note) + 8;
        painter.drawText(QRect(right - noteWidth, rect.top(), noteWidth, rect.height()),
                         Qt::AlignRight | Qt::AlignVCenter, row.note);
        painter.setFont(textFont);
        painter.setPen(quiet ? t.ink2 : t.ink);
    }
    const int left = kLeft + 27;
    const QRect place(left, rect.top(), right - noteWidth - left - 4, rect.height());
    painter.drawText(place, Qt::AlignLeft | Qt::AlignVCenter,
                     QFontMetrics(textFont).elidedText(row.text, Qt::ElideRight, place.width()));
    if (hasFocus() && isSelected) {
        painter.setPen(QPen(t.teal, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect.adjusted(3, 0, -1, -1));
    }
}

void ColumnsOutline::resizeEvent(QResizeEvent*) { relayout(); }

void ColumnsOutline::mousePressEvent(QMouseEvent* event) {
    const int at = rowAt(event->pos());
    if (at < 0 || event->button() != Qt::LeftButton) return;
    const Row row = rows_[static_cast<std::size_t>(at)];
    if (row.kind == Kind::Column && eyeOf(row).adjusted(-6, -5, 8, 5).contains(event->pos())) {
        Q_EMIT shownToggled(row.field);
        return;
    }
    if (row.kind == Kind::Unused) {
        Q_EMIT added(row.field);
        return;
    }
    if (row.kind != Kind::Column) return;
    pressed_ = at;
    pressedAt_ = event->pos();
    Q_EMIT selected(row.field);
}

void ColumnsOutline::mouseMoveEvent(QMouseEvent* event) {
    if (pressed_ >= 0 && !dragging_ &&
        (event->pos() - pressedAt_).manhattanLength() >= QApplication::startDragDistance())
        dragging_ = true;
    if (dragging_) {
        landing_ = -1;
        for (std::size_t i = 0; i < rows_.size(); ++i) {
            if (rows_[i].kind != Kind::Column) continue;
            const QRect rect = rectOf(rows_[i]);
            if (event->pos().y() < rect.center().y() && landing_ < 0) landing_ = static_cast<int>(i);
        }
        if (landing_ < 0)
            for (std::size_t i = 0; i < rows_.size(); ++i)
                if (rows_[i].kind == Kind::Column) landing_ = static_cast<int>(i) + 1;
        viewport()->setCursor(Qt::ClosedHandCursor);
        viewport()->update();
        return;
    }
    const int at = rowAt(event->pos());
    if (at == hovered_) return;
    hovered_ = at;
    const bool acts = at >= 0 && (rows_[static_cast<std::size_t>(at)].kind == Kind::Column ||
                                  rows_[static_cast<std::size_t>(at)].kind == Kind::Unused);
    viewport()->setCursor(acts ? Qt::PointingHandCursor : Qt::ArrowCursor);
    viewport()->update();
}

void ColumnsOutline::mouseReleaseEvent(QMouseEvent*) {
    const int from = std::exchange(pressed_, -1);
    viewport()->setCursor(Qt::ArrowCursor);
    if (!std::exchange(dragging_, false)) return;
    const int to = std::exchange(landing_, -1);
    viewport()->update();
    if (to < 0 || to == from || to == from + 1) return;
    const bool toEnd = to >= static_cast<int>(rows_.size()) || rows_[static_cast<std::size_t>(to)].kind != Kind::Column;
    Q_EMIT moved(rows_[static_cast<std::size_t>(from)].field,
                 toEnd ? QString() : rows_[static_cast<std::size_t>(to)].field);
}

void ColumnsOutline::keyPressEvent(QKeyEvent* event) {
    std::vector<QString> fields;
    std::ptrdiff_t at = -1;
    for (const Row& row : rows_) {
        if (row.kind != Kind::Column) continue;
        if (selected_ && row.field == *selected_) at = static_cast<std::ptrdiff_t>(fields.size());
        fields.push_back(row.field);
    }
    const auto count = static_cast<std::ptrdiff_t>(fields.size());
    if (count == 0) return QAbstractScrollArea::keyPressEvent(event);
    const int step = event->key() == Qt::Key_Up ? -1 : event->key() == Qt::Key_Down ? 1 : 0;
    if (step != 0 && (event->modifiers() & Qt::AltModifier) && at >= 0) {
        const std::ptrdiff_t to = at + (step > 0 ? 2 : -1);
        if (to >= 0 && to <= count)
            Q_EMIT moved(fields[static_cast<std::size_t>(at)],
                         to < count ? fields[static_cast<std::size_t>(to)] : QString());
    } else if (step != 0) {
        Q_EMIT selected(fields[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(at + step, 0, count - 1))]);
    } else if (event->key() == Qt::Key_Space && at >= 0) {
        Q_EMIT shownToggled(fields[static_cast<std::size_t>(at)]);
    } else {
        QAbstractScrollArea::keyPressEvent(event);
    }
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
