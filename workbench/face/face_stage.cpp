// SPDX-License-Identifier: MIT
#include "workbench/face/face_stage.h"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

#include "workbench/app/look.h"

namespace jollyrow {
namespace {

constexpr int kMargin = 12, kBrackets = 34;
constexpr double kEdge = 0.26;  ///< of a part's height or width: beyond it, another line or place

}  // namespace

FaceStage::FaceStage(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName(tr("The cell, three times its size"));
    setAccessibleDescription(tr("Arrow keys choose a part, with Alt they move it, Delete takes it out."));
}

void FaceStage::present(CellDrawing* drawing, QSize cell, const FacePart& root, const FacePath& selected) {
    drawing_ = drawing;
    cell_ = cell;
    root_ = root;
    selected_ = selected;
    rects_ = drawing_ ? drawing_->parts(cellRect()) : std::vector<QRectF>();
    updateGeometry();
    update();
}

QSize FaceStage::sizeHint() const {
    return {std::max(360, cell_.width() * kScale + 2 * kMargin), cell_.height() * kScale + 2 * kMargin + kBrackets};
}

QPoint FaceStage::origin() const { return {std::max(kMargin, (width() - cell_.width() * kScale) / 2), kMargin}; }

QRectF FaceStage::fromCell(const QRectF& rect) const {
    return QRectF(rect.topLeft() * kScale + origin(), rect.size() * kScale);
}

std::optional<std::size_t> FaceStage::planned(const FacePath& path) const {
    const auto& face = drawing_ ? drawing_->column().face : nullptr;
    for (std::size_t i = 0; face && i < face->parts.size() && i < rects_.size(); ++i)
        if (face->parts[i].path == path && !rects_[i].isNull()) return i;
    return std::nullopt;
}

QRect FaceStage::rectOf(const FacePath& path) const {
    const auto part = planned(path);
    return part ? fromCell(rects_[*part]).toAlignedRect() : QRect();
}

std::optional<FacePath> FaceStage::pathAt(QPoint position) const {
    if (!drawing_) return std::nullopt;
    const auto part = drawing_->partAt(cellRect(), toCell(position));
    return part ? std::optional(drawing_->column().face->parts[*part].path) : std::nullopt;
}

/// Beside a part: near its upper or lower edge on a line of its own, else before or after it.
FaceLanding FaceStage::beside(const FacePath& path, const QRectF& rect, QPointF at) const {
    const double down = rect.height() > 0 ? (at.y() - rect.top()) / rect.height() : 0.5;
    const double across = rect.width() > 0 ? (at.x() - rect.left()) / rect.width() : 0.5;
    const FacePart* parent = path.empty() ? nullptr : partAt(root_, FacePath(path.begin(), path.end() - 1));
    if (parent && parent->kind == FacePartKind::Column) {
        if (across < kEdge / 2) return {path, FaceSide::Before};
        if (across > 1 - kEdge / 2) return {path, FaceSide::After};
        return {path, down < 0.5 ? FaceSide::Above : FaceSide::Below};
    }
    if (down < kEdge && across > 0.1 && across < 0.9) return {path, FaceSide::Above};
    if (down > 1 - kEdge && across > 0.1 && across < 0.9) return {path, FaceSide::Below};
    return {path, across < 0.5 ? FaceSide::Before : FaceSide::After};
}

std::optional<FaceLanding> FaceStage::landingAt(QPoint position) const {
    const QRect stage(origin() - QPoint(kMargin, kMargin), cell_ * kScale + QSize(2 * kMargin, 2 * kMargin));
    if (!stage.contains(position) || !drawing_ || !drawing_->column().face) return std::nullopt;
    const QPointF at = toCell(position);
    const auto& parts = drawing_->column().face->parts;
    std::optional<std::size_t> nearest;
    double least = 1e9;
    for (std::size_t i = 0; i < rects_.size(); ++i) {
        if (rects_[i].isNull() || holdsParts(parts[i].design.kind)) continue;
        const QRectF& rect = rects_[i];
        const double dx = std::max({rect.left() - at.x(), at.x() - rect.right(), 0.0});
        const double dy = std::max({rect.top() - at.y(), at.y() - rect.bottom(), 0.0});
        if (const double far = dx * dx + dy * dy; far < least) {
            least = far;
            nearest = i;
        }
    }
    if (!nearest) return FaceLanding{{}, FaceSide::After};
    return beside(parts[*nearest].path, rects_[*nearest], at);
}

void FaceStage::dragOver(std::optional<QPoint> at) {
    landing_ = at ? landingAt(*at) : std::nullopt;
    draggedTo_ = at;
    update();
}

void FaceStage::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(t.hair, 1));
    painter.setBrush(t.panel);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    if (!drawing_) return;
    const QRectF cell = fromCell(cellRect());
    painter.setPen(QPen(t.strongEdge, 1));
    painter.setBrush(t.paper);
    painter.drawRect(cell.adjusted(-0.5, -0.5, 0.5, 0.5));
    painter.save();
    painter.translate(origin());
    painter.scale(kScale, kScale);
    drawing_->paint(painter, cellRect(), t);
    painter.restore();
    paintOutlines(painter);
    paintBrackets(painter);
    paintLanding(painter);
}

void FaceStage::paintOutlines(QPainter& painter) {
    const Tokens& t = look();
    const auto& face = drawing_->column().face;
    const bool isOver = underMouse() || draggedTo_;
    painter.setBrush(Qt::NoBrush);
    for (std::size_t i = 0; face && i < rects_.size(); ++i) {
        if (rects_[i].isNull() || holdsParts(face->parts[i].design.kind) || !isOver) continue;
        QColor edge = t.brass;
        edge.setAlphaF(hovered_ == face->parts[i].path ? 0.8F : 0.4F);
        painter.setPen(QPen(edge, 1));
        painter.drawRoundedRect(fromCell(rects_[i]).adjusted(-2.5, 0.5, 2.5, -0.5), 4, 4);
    }
    if (const auto chosen = planned(selected_)) {
        painter.setPen(QPen(t.brass, 2));
        painter.drawRoundedRect(fromCell(rects_[*chosen]).adjusted(-4, 1, 4, -1), 4, 4);
    }
}

/// Beneath the cell the parts of the first level, by what they are and how wide.
void FaceStage::paintBrackets(QPainter& painter) {
    const Tokens& t = look();
    const auto& face = drawing_->column().face;
    if (!face || rects_.empty()) return;
    const bool isRow = face->parts.front().design.kind == FacePartKind::Row;
    const double y = fromCell(cellRect()).bottom() + 8;
    painter.setFont(sized(11));
    const QFontMetrics metrics(painter.font());
    for (std::size_t i = isRow ? 1 : 0; i < rects_.size(); i = isRow ? face->parts[i].end : rects_.size()) {
        if (rects_[i].isNull() || rects_[i].width() < 1) continue;
        const QRectF rect = fromCell(rects_[i]);
        const FacePath& path = face->parts[i].path;
        const bool isChosen =
            selected_.size() >= path.size() && std::equal(path.begin(), path.end(), selected_.begin());
        painter.setPen(QPen(isChosen ? t.brass : t.ink3, isChosen ? 1.6 : 1));
        const double left = rect.left() + 1, right = rect.right() - 1;
        const QPointF bracket[] = {{left, y - 4}, {left, y}, {right, y}, {right, y - 4}};
        painter.drawPolyline(bracket, 4);
        const QString words = tr("%1 px").arg(qRound(rects_[i].width()));
        painter.setPen(isChosen ? t.brassText : t.ink2);
        if (metrics.horizontalAdvance(words) <= rect.width() + 8)
            painter.drawText(QRectF(rect.left() - 20, y + 2, rect.width() + 40, 18), Qt::AlignCenter, words);
    }
}

void FaceStage::paintLanding(QPainter& painter) {
    if (!landing_) return;
    const Tokens& t = look();
    const auto part = planned(landing_->at);
    const QRectF rect = fromCell(part ? rects_[*part] : QRectF(cellRect()));
    QRectF mark;
    switch (landing_->side) {
        case FaceSide::Before: mark = QRectF(rect.left() - 8, rect.top(), 3, rect.height()); break;
        case FaceSide::After: mark = QRectF(rect.right() + 5, rect.top(), 3, rect.height()); break;
        case FaceSide::Above: mark = QRectF(rect.left(), rect.top() - 1, rect.width(), 3); break;
        case FaceSide::Below: mark = QRectF(rect.left(), rect.bottom() - 2, rect.width(), 3); break;
    }
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.brass);
    painter.drawRoundedRect(mark, 1.5, 1.5);
    for (const QPointF& end : {mark.width() > mark.height() ? QPointF(mark.left(), mark.center().y())
                                                            : QPointF(mark.center().x(), mark.top()),
                               mark.width() > mark.height() ? QPointF(mark.right(), mark.center().y())
                                                            : QPointF(mark.center().x(), mark.bottom())})
        painter.drawEllipse(end, 4, 4);
}

void FaceStage::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    setFocus();
    if (const auto path = pathAt(event->pos())) {
        pressedAt_ = event->pos();
        Q_EMIT selected(*path);
    }
}

void FaceStage::mouseMoveEvent(QMouseEvent* event) {
    if (pressedAt_ &&
        (draggedTo_ || (event->pos() - *pressedAt_).manhattanLength() >= QApplication::startDragDistance()))
        return dragOver(event->pos());
    hovered_ = pathAt(event->pos());
    setCursor(hovered_ ? Qt::OpenHandCursor : Qt::ArrowCursor);
    update();
}

void FaceStage::mouseReleaseEvent(QMouseEvent*) {
    const auto landing = std::exchange(landing_, std::nullopt);
    const bool dragged = std::exchange(draggedTo_, std::nullopt).has_value();
    pressedAt_.reset();
    update();
    if (dragged && landing) Q_EMIT moved(selected_, *landing);
}

void FaceStage::leaveEvent(QEvent*) {
    hovered_.reset();
    update();
}

/// The part that a key leads to from the selected one: up and down the tree, left and right beside; nullopt for other
/// keys.
std::optional<FacePath> FaceStage::pathBy(int key) const {
    FacePath path = selected_;
    if (key == Qt::Key_Up && !path.empty())
        path.pop_back();
    else if (key == Qt::Key_Down && partAt(root_, path) && !partAt(root_, path)->parts.empty())
        path.push_back(0);
    else if (key == Qt::Key_Left && !path.empty() && path.back() > 0)
        --path.back();
    else if (key == Qt::Key_Right && !path.empty())
        ++path.back();
    else
        return std::nullopt;
    return path;
}

void FaceStage::keyPressEvent(QKeyEvent* event) {
    const bool isLeft = event->key() == Qt::Key_Left, isRight = event->key() == Qt::Key_Right;
    if (event->key() == Qt::Key_Escape && draggedTo_) {
        draggedTo_.reset();
        landing_.reset();
        pressedAt_.reset();
        return update();
    }
    if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) return Q_EMIT removeWanted();
    if ((isLeft || isRight) && event->modifiers() == Qt::AltModifier) return Q_EMIT shifted(isLeft ? -1 : 1);
    const auto path = pathBy(event->key());
    if (!path) return QWidget::keyPressEvent(event);
    if (partAt(root_, *path)) Q_EMIT selected(*path);
}

}  // namespace jollyrow
