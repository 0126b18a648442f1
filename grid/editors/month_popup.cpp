// SPDX-License-Identifier: MIT
#include "grid/editors/month_popup.h"

#include <QKeyEvent>
#include <QLocale>
#include <QMouseEvent>
#include <QPainter>

#include "grid/paint/looks.h"

namespace jollyrow {
namespace {
constexpr int kCell = 28, kMargin = 10, kHead = 30, kNames = 20, kWeeks = 6;
}

MonthPopup::MonthPopup(QDate day, QWidget* parent)
    : QWidget(parent, Qt::Popup | Qt::FramelessWindowHint), day_(day.isValid() ? day : QDate::currentDate()) {
    setAttribute(Qt::WA_DeleteOnClose);
    setMouseTracking(true);
    setFixedSize(2 * kMargin + 7 * kCell, 2 * kMargin + kHead + kNames + kWeeks * kCell);
    setAccessibleName(tr("Calendar"));
}

/// The C locale has numbers for names; a calendar of numbers only cannot be read.
QLocale MonthPopup::names() const { return locale().language() == QLocale::C ? QLocale(QLocale::English) : locale(); }

QDate MonthPopup::firstShown() const {
    const QDate first(day_.year(), day_.month(), 1);
    return first.addDays(1 - first.dayOfWeek());
}

QRect MonthPopup::dayRect(int index) const {
    return {kMargin + index % 7 * kCell, kMargin + kHead + kNames + index / 7 * kCell, kCell, kCell};
}
QRect MonthPopup::turnRect(int direction) const {
    return {direction < 0 ? kMargin : width() - kMargin - kHead, kMargin - 2, kHead, kHead};
}

void MonthPopup::moveTo(QDate day) {
    if (!day.isValid()) return;
    day_ = day;
    update();
}

void MonthPopup::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void MonthPopup::paint(QPainter& painter) {
    const Tokens& t = tokensAt(*this);
    painter.fillRect(rect(), t.page);
    painter.setPen(t.popEdge);
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
    painter.setRenderHint(QPainter::Antialiasing);
    QFont bold = font();
    bold.setWeight(QFont::DemiBold);
    painter.setFont(bold);
    painter.setPen(t.ink);
    painter.drawText(QRect(kMargin, kMargin - 2, width() - 2 * kMargin, kHead), Qt::AlignCenter,
                     names().toString(day_, QStringLiteral("MMMM yyyy")));
    painter.setPen(QPen(t.ink2, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    for (const int direction : {-1, 1}) {
        const QPointF c = QRectF(turnRect(direction)).center();
        const QPointF chevron[] = {c + QPointF(-2.0 * direction, -4), c + QPointF(2.0 * direction, 0),
                                   c + QPointF(-2.0 * direction, 4)};
        painter.drawPolyline(chevron, 3);
    }
    painter.setFont(font());
    painter.setPen(t.ink2);
    for (int i = 0; i < 7; ++i)
        painter.drawText(QRect(kMargin + i * kCell, kMargin + kHead, kCell, kNames), Qt::AlignCenter,
                         names().dayName(i + 1, QLocale::NarrowFormat));
    for (int i = 0; i < 7 * kWeeks; ++i) {
        const QDate day = firstShown().addDays(i);
        const QRectF cell = QRectF(dayRect(i)).adjusted(1.5, 1.5, -1.5, -1.5);
        const bool isChosen = day == day_;
        if (isChosen || i == hovered_) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(isChosen ? t.teal : t.hoverRow);
            painter.drawRoundedRect(cell, 5, 5);
        }
        if (day == QDate::currentDate() && !isChosen) {
            painter.setPen(QPen(t.teal, 1.2));
            painter.setBrush(Qt::NoBrush);
            painter.drawRoundedRect(cell, 5, 5);
        }
        painter.setPen(isChosen ? t.onTeal : day.month() == day_.month() ? t.ink : t.ink2);
        painter.drawText(cell, Qt::AlignCenter, QString::number(day.day()));
    }
}

void MonthPopup::mousePressEvent(QMouseEvent* event) {
    if (!rect().contains(event->pos())) return QWidget::mousePressEvent(event);
    for (const int direction : {-1, 1})
        if (turnRect(direction).contains(event->pos())) return moveTo(day_.addMonths(direction));
    for (int i = 0; i < 7 * kWeeks; ++i) {
        if (!dayRect(i).contains(event->pos())) continue;
        Q_EMIT chosen(firstShown().addDays(i));
        close();
        return;
    }
}

void MonthPopup::mouseMoveEvent(QMouseEvent* event) {
    int now = -1;
    for (int i = 0; i < 7 * kWeeks; ++i)
        if (dayRect(i).contains(event->pos())) now = i;
    if (now == hovered_) return;
    hovered_ = now;
    update();
}

void MonthPopup::wheelEvent(QWheelEvent* event) { moveTo(day_.addMonths(event->angleDelta().y() > 0 ? -1 : 1)); }

void MonthPopup::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
        case Qt::Key_Left: return moveTo(day_.addDays(-1));
        case Qt::Key_Right: return moveTo(day_.addDays(1));
        case Qt::Key_Up: return moveTo(day_.addDays(-7));
        case Qt::Key_Down: return moveTo(day_.addDays(7));
        case Qt::Key_PageUp: return moveTo(day_.addMonths(-1));
        case Qt::Key_PageDown: return moveTo(day_.addMonths(1));
        case Qt::Key_Home: return moveTo(QDate::currentDate());
        case Qt::Key_Return:
        case Qt::Key_Enter:
            Q_EMIT chosen(day_);
            close();
            return;
        default: QWidget::keyPressEvent(event);
    }
}

}  // namespace jollyrow
