// SPDX-License-Identifier: MIT
#include "workbench/app/icons.h"

#include <QPainterPath>

#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {

void line(QPainter& p, std::initializer_list<QPointF> points) {
    const QList<QPointF> list(points);
    p.drawPolyline(list.constData(), static_cast<int>(list.size()));
}

void drawWord(QPainter& p, const QString& word, double size) {
    QFont font = p.font();
    font.setPixelSize(std::max(1, static_cast<int>(size)));
    font.setWeight(QFont::DemiBold);
    p.setFont(font);
    p.drawText(QRectF(-2, 0, 20, 16), Qt::AlignCenter, word);
}

void drawTurn(QPainter& p, bool back) {
    p.save();
    if (!back) {
        p.translate(16, 0);
        p.scale(-1, 1);
    }
    QPainterPath path(QPointF(3, 6));
    path.lineTo(9.5, 6);
    path.cubicTo(14, 6, 14, 13, 9.5, 13);
    path.lineTo(7, 13);
    p.drawPath(path);
    line(p, {{6, 3}, {3, 6}, {6, 9}});
    p.restore();
}

void drawEye(QPainter& p, bool open) {
    QPainterPath lid(QPointF(1.5, open ? 8.0 : 7.0));
    lid.quadTo(8, open ? 1.8 : 13.5, 14.5, open ? 8.0 : 7.0);
    if (open) {
        lid.quadTo(8, 14.2, 1.5, 8);
        p.drawPath(lid);
        p.setBrush(p.pen().color());
        p.drawEllipse(QPointF(8, 8), 1.7, 1.7);
        p.setBrush(Qt::NoBrush);
    } else {
        p.drawPath(lid);
        line(p, {{4, 9.6}, {3, 11.6}});
        line(p, {{8, 10.4}, {8, 12.6}});
        line(p, {{12, 9.6}, {13, 11.6}});
    }
}

void drawCalendar(QPainter& p) {
    p.drawRoundedRect(QRectF(2.5, 3.5, 11, 10), 1.8, 1.8);
    line(p, {{2.5, 6.8}, {13.5, 6.8}});
    line(p, {{5.5, 2}, {5.5, 4.6}});
    line(p, {{10.5, 2}, {10.5, 4.6}});
}

void drawPicture(QPainter& p) {
    p.drawRoundedRect(QRectF(1.5, 3, 13, 10), 1.8, 1.8);
    line(p, {{3, 11.5}, {6.5, 7.6}, {9, 10.2}, {10.6, 8.8}, {13, 11.5}});
    p.drawEllipse(QPointF(10.6, 5.9), 0.9, 0.9);
}

}  // namespace

void drawAppMark(QPainter& painter, const QRectF& box, bool dark) {
    const Tokens& t = tokens(dark ? Theme::Dark : Theme::Light);
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.translate(box.topLeft());
    painter.scale(box.width() / 20, box.height() / 20);
    painter.setPen(Qt::NoPen);
    for (int row = 0; row < 3; ++row)
        for (int block = 0; block < 2; ++block) {
            painter.setBrush(row == 1 && block == 0 ? t.brass : t.teal);
            const double shift = row == 1 ? 3.2 : 0;
            painter.drawRoundedRect(QRectF(0.4 + block * 8.4 + shift, 2.2 + row * 5.6, 7.4, 4.4), 1.4, 1.4);
        }
    painter.restore();
}

void drawIcon(QPainter& painter, Icon icon, const QRectF& box, const QColor& colour) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.translate(box.topLeft());
    painter.scale(box.width() / 16, box.height() / 16);
    painter.setPen(QPen(colour, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(Qt::NoBrush);
    QPainter& p = painter;
    switch (icon) {
        case Icon::AppMark: drawAppMark(p, QRectF(0, 0, 16, 16), colour.lightness() > 140); break;
        case Icon::Undo: drawTurn(p, true); break;
        case Icon::Redo: drawTurn(p, false); break;
        case Icon::Find:
            p.drawEllipse(QPointF(7, 7), 4.3, 4.3);
            line(p, {{10.3, 10.3}, {13.6, 13.6}});
            break;
        case Icon::Eye: drawEye(p, true); break;
        case Icon::EyeShut: drawEye(p, false); break;
        case Icon::Plus:
            line(p, {{8, 3}, {8, 13}});
            line(p, {{3, 8}, {13, 8}});
            break;
        case Icon::Cross:
            line(p, {{4.5, 4.5}, {11.5, 11.5}});
            line(p, {{11.5, 4.5}, {4.5, 11.5}});
            break;
        case Icon::ChevronDown: line(p, {{4, 6.2}, {8, 10.2}, {12, 6.2}}); break;
        case Icon::ChevronLeft: line(p, {{9.8, 4}, {5.8, 8}, {9.8, 12}}); break;
        case Icon::ChevronRight: line(p, {{6.2, 4}, {10.2, 8}, {6.2, 12}}); break;
        case Icon::Warning:
            line(p, {{8, 2.5}, {14.5, 13.5}, {1.5, 13.5}, {8, 2.5}});
            line(p, {{8, 6.5}, {8, 9.6}});
            p.drawPoint(QPointF(8, 11.5));
            break;
        case Icon::Tick: line(p, {{3, 8.6}, {6.4, 12}, {13, 4.4}}); break;
        case Icon::Table:
            p.drawRoundedRect(QRectF(2, 3, 12, 10), 1.6, 1.6);
            line(p, {{2, 6.5}, {14, 6.5}});
            line(p, {{2, 9.8}, {14, 9.8}});
            line(p, {{6.5, 6.5}, {6.5, 13}});
            break;
        case Icon::Server:
            p.drawRoundedRect(QRectF(2.5, 2.5, 11, 4.6), 1.4, 1.4);
            p.drawRoundedRect(QRectF(2.5, 9, 11, 4.6), 1.4, 1.4);
            line(p, {{5, 4.8}, {6.4, 4.8}});
            line(p, {{5, 11.3}, {6.4, 11.3}});
            break;
        case Icon::View:
            p.drawRoundedRect(QRectF(2, 4, 12, 8), 4, 4);
            p.drawEllipse(QPointF(8, 8), 1.8, 1.8);
            break;
        case Icon::File:
            line(p, {{9.5, 2}, {3.5, 2}, {3.5, 14}, {12.5, 14}, {12.5, 5}, {9.5, 2}, {9.5, 5}, {12.5, 5}});
            break;
        case Icon::Reload:
            p.drawArc(QRectF(3, 3, 10, 10), 50 * 16, 280 * 16);
            line(p, {{11.6, 1.6}, {11.4, 4.6}, {8.6, 4.3}});
            break;
        case Icon::ArrowUp:
            line(p, {{8, 13}, {8, 3}});
            line(p, {{4.5, 6.5}, {8, 3}, {11.5, 6.5}});
            break;
        case Icon::ArrowDown:
            line(p, {{8, 3}, {8, 13}});
            line(p, {{4.5, 9.5}, {8, 13}, {11.5, 9.5}});
            break;
        case Icon::TypeText: drawWord(p, QStringLiteral("Ab"), 11.5); break;
        case Icon::TypeInteger: drawWord(p, QStringLiteral("12"), 11.5); break;
        case Icon::TypeDecimal: drawWord(p, QStringLiteral(".00"), 11); break;
        case Icon::TypeDate: drawCalendar(p); break;
        case Icon::TypeTime:
            p.drawEllipse(QPointF(8, 8), 5.6, 5.6);
            line(p, {{8, 4.8}, {8, 8}, {10.4, 9.4}});
            break;
        case Icon::TypeCheck: line(p, {{3, 8.6}, {6.4, 12}, {13, 4.4}}); break;
        case Icon::TypePicture: drawPicture(p); break;
        case Icon::TypeList: line(p, {{1.5, 11}, {5, 6}, {8, 9}, {11, 4}, {14.5, 7}}); break;
        case Icon::TypeChoice:
            p.drawEllipse(QPointF(8, 8), 5, 5);
            p.setBrush(colour);
            p.drawPie(QRectF(3, 3, 10, 10), 90 * 16, 180 * 16);
            break;
        case Icon::TypeLink:
            p.drawRoundedRect(QRectF(1.5, 5.5, 7, 5), 2.5, 2.5);
            p.drawRoundedRect(QRectF(7.5, 5.5, 7, 5), 2.5, 2.5);
            break;
        case Icon::Grip:
            p.setPen(Qt::NoPen);
            p.setBrush(colour);
            for (int x : {0, 1})
                for (int y : {0, 1, 2}) p.drawEllipse(QPointF(6 + x * 4, 4 + y * 4), 1, 1);
            break;
        case Icon::Sun:
            p.drawEllipse(QPointF(8, 8), 3, 3);
            for (int i = 0; i < 8; ++i) {
                p.save();
                p.translate(8, 8);
                p.rotate(i * 45);
                p.drawLine(QPointF(0, -5.2), QPointF(0, -6.6));
                p.restore();
            }
            break;
        case Icon::Moon: {
            QPainterPath moon(QPointF(10.5, 2.5));
            moon.cubicTo(5, 2.5, 2.5, 7, 4.5, 10.5);
            moon.cubicTo(6.5, 14, 11.5, 14.5, 13.5, 10.5);
            moon.cubicTo(9, 11.5, 7, 6.5, 10.5, 2.5);
            p.drawPath(moon);
            break;
        }
    }
    painter.restore();
}

QIcon makeIcon(Icon icon, const QColor& colour, int sizePx) {
    QIcon out;
    for (const int scale : {1, 2}) {
        QPixmap pixmap(sizePx * scale, sizePx * scale);
        pixmap.fill(Qt::transparent);
        QPainter painter(&pixmap);
        drawIcon(painter, icon, QRectF(0, 0, sizePx * scale, sizePx * scale), colour);
        painter.end();
        pixmap.setDevicePixelRatio(scale);
        out.addPixmap(pixmap);
    }
    return out;
}

Icon iconFor(const FieldSchema& field) {
    if (field.use == Use::Choice) return Icon::TypeChoice;
    if (field.use == Use::LookUp) return Icon::TypeLink;
    switch (field.type) {
        case Type::Boolean: return Icon::TypeCheck;
        case Type::Integer: return Icon::TypeInteger;
        case Type::Decimal:
        case Type::Real: return Icon::TypeDecimal;
        case Type::Text: return Icon::TypeText;
        case Type::Date: return Icon::TypeDate;
        case Type::Time:
        case Type::Timestamp:
        case Type::Instant:
        case Type::Interval: return Icon::TypeTime;
        case Type::Binary: return Icon::TypePicture;
        case Type::NumberList: return Icon::TypeList;
    }
    return Icon::TypeText;
}

}  // namespace jollyrow
