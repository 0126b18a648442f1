// SPDX-License-Identifier: MIT
#include "grid/paint/edit_marks.h"

#include <QCoreApplication>
#include <QPainterPath>

namespace jollyrow {
namespace {

void drawRing(QPainter& painter, const QPointF& centre, const Tokens& t) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.hair, 2));
    painter.drawEllipse(centre, 5, 5);
    painter.setPen(QPen(t.teal, 2, Qt::SolidLine, Qt::RoundCap));
    painter.drawArc(QRectF(centre.x() - 5, centre.y() - 5, 10, 10), 30 * 16, 110 * 16);
}

void drawTriangle(QPainter& painter, const QPointF& centre, const Tokens& t) {
    QPainterPath triangle(centre + QPointF(0, -5.5));
    triangle.lineTo(centre + QPointF(6, 5));
    triangle.lineTo(centre + QPointF(-6, 5));
    triangle.closeSubpath();
    painter.setPen(QPen(t.buoy, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(t.buoyPale);
    painter.drawPath(triangle);
    painter.drawLine(centre + QPointF(0, -1.5), centre + QPointF(0, 1.2));
    painter.drawPoint(centre + QPointF(0, 3.1));
}

/// Two arrowheads that face a post.
void drawFacing(QPainter& painter, const QPointF& centre, const Tokens& t) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.buoy);
    for (const int way : {-1, 1}) {
        QPainterPath head(centre + QPointF(way * 2.2, 0));
        head.lineTo(centre + QPointF(way * 6.4, -4));
        head.lineTo(centre + QPointF(way * 6.4, 4));
        head.closeSubpath();
        painter.drawPath(head);
    }
    painter.drawRect(QRectF(centre.x() - 0.7, centre.y() - 5.5, 1.4, 11));
}

}  // namespace

void drawRecordMark(QPainter& painter, const QPointF& centre, const Tokens& t, CellMark mark) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.teal);
    switch (mark) {
        case CellMark::None:
        case CellMark::Saved: break;
        case CellMark::Draft: painter.drawEllipse(centre, 3.5, 3.5); break;
        case CellMark::New:
            painter.drawRect(QRectF(centre.x() - 4.5, centre.y() - 0.9, 9, 1.8));
            painter.drawRect(QRectF(centre.x() - 0.9, centre.y() - 4.5, 1.8, 9));
            break;
        case CellMark::Deleted:
            painter.setBrush(t.ink2);
            painter.drawRect(QRectF(centre.x() - 4.5, centre.y() - 0.9, 9, 1.8));
            break;
        case CellMark::Saving: drawRing(painter, centre, t); break;
        case CellMark::Conflict: drawFacing(painter, centre, t); break;
        case CellMark::Invalid:
        case CellMark::Refused: drawTriangle(painter, centre, t); break;
    }
    painter.restore();
}

void drawPennant(QPainter& painter, const QRect& cell, const Tokens& t, bool atRight) {
    constexpr double kLong = 10, kHigh = 4.8, kNotch = 3;
    const int way = atRight ? -1 : 1;
    const double x = atRight ? cell.right() + 1 - measure::kCellPadding : cell.left() + measure::kCellPadding;
    const double y = cell.top();
    QPainterPath flag(QPointF(x, y));
    flag.lineTo(x + way * kLong, y);
    flag.lineTo(x + way * (kLong - kNotch), y + kHigh / 2);
    flag.lineTo(x + way * kLong, y + kHigh);
    flag.lineTo(x, y + kHigh);
    flag.closeSubpath();
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.fillPath(flag, t.teal);
    painter.restore();
}

void drawFacingBrackets(QPainter& painter, const QRect& cell, const Tokens& t) {
    const QRectF box = QRectF(cell).adjusted(1.25, 1.75, -2.25, -2.75);
    constexpr double kArm = 12, kRadius = 2.75;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing, true);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(t.buoy, 1.5, Qt::SolidLine, Qt::RoundCap));
    const double arm = std::min(kArm, box.width() / 2 - 2);
    for (const int way : {1, -1}) {
        const double x = way > 0 ? box.left() : box.right();
        QPainterPath bracket(QPointF(x + way * arm, box.top()));
        bracket.lineTo(x + way * kRadius, box.top());
        bracket.quadTo(x, box.top(), x, box.top() + kRadius);
        bracket.lineTo(x, box.bottom() - kRadius);
        bracket.quadTo(x, box.bottom(), x + way * kRadius, box.bottom());
        bracket.lineTo(x + way * arm, box.bottom());
        painter.drawPath(bracket);
    }
    painter.restore();
}

QString words(CellMark mark) {
    const auto tr = [](const char* text) { return QCoreApplication::translate("EditMarks", text); };
    switch (mark) {
        case CellMark::None:
        case CellMark::Saved: return {};
        case CellMark::Draft: return tr("draft");
        case CellMark::New: return tr("new");
        case CellMark::Deleted: return tr("deleted");
        case CellMark::Saving: return tr("saving");
        case CellMark::Invalid: return tr("to put right");
        case CellMark::Conflict: return tr("in conflict");
        case CellMark::Refused: return tr("not saved");
    }
    return {};
}

}  // namespace jollyrow
