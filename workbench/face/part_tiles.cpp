// SPDX-License-Identifier: MIT
#include "workbench/face/part_tiles.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include "grid/faces/parts/mark_part.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {

constexpr int kTileWidth = 44, kTileHeight = 44, kPictureHeight = 26;

struct Kind {
    FacePartKind kind;
    const char* words;
};
constexpr Kind kKinds[] = {
    {FacePartKind::Field, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "field")},
    {FacePartKind::Text, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "text")},
    {FacePartKind::Mark, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "mark")},
    {FacePartKind::Bar, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "bar")},
    {FacePartKind::Trend, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "trend")},
    {FacePartKind::Rating, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "rating")},
    {FacePartKind::Picture, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "picture")},
    {FacePartKind::Swatch, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "colour")},
    {FacePartKind::Link, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "link")},
    {FacePartKind::Button, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "button")},
    {FacePartKind::Spacer, QT_TRANSLATE_NOOP("jollyrow::PartTiles", "room")},
};

void drawKind(QPainter& painter, FacePartKind kind, const QRectF& box, const Tokens& t) {
    const QPointF c = box.center();
    painter.setFont(sized(12));
    switch (kind) {
        case FacePartKind::Field:
            painter.setPen(t.ink);
            return painter.drawText(box, Qt::AlignCenter, QStringLiteral("9.4"));
        case FacePartKind::Text:
            painter.setPen(t.ink);
            return painter.drawText(box, Qt::AlignCenter, QStringLiteral("a {b}"));
        case FacePartKind::Mark:
            drawMark(painter, MarkShape::Tick, c - QPointF(8, 0), 12, t.teal, t.page);
            return drawMark(painter, MarkShape::Diamond, c + QPointF(8, 0), 12, t.buoy, t.page);
        case FacePartKind::Bar:
            painter.fillRect(QRectF(c.x() - 16, c.y() - 5, 21, 4), t.blue);
            return painter.fillRect(QRectF(c.x() - 16, c.y() + 2, 31, 4), t.blue);
        case FacePartKind::Trend: {
            QPainterPath line(c + QPointF(-15, 5));
            line.cubicTo(c + QPointF(-7, 6), c + QPointF(-5, -8), c + QPointF(1, -4));
            line.cubicTo(c + QPointF(6, 0), c + QPointF(8, 4), c + QPointF(14, -3));
            painter.setPen(QPen(t.blue, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawPath(line);
            painter.setPen(Qt::NoPen);
            painter.setBrush(t.blue);
            return painter.drawEllipse(c + QPointF(14, -3), 2.2, 2.2);
        }
        case FacePartKind::Rating:
            for (int i = -1; i <= 1; ++i) {
                const QPointF at = c + QPointF(i * 11, 0);
                painter.setPen(QPen(i < 1 ? t.brass : t.strongEdge, 1.2));
                painter.setBrush(i < 1 ? QBrush(t.brass) : QBrush(Qt::NoBrush));
                painter.drawPolygon(QPolygonF{at + QPointF(0, -4.5), at + QPointF(4.5, 0), at + QPointF(0, 4.5),
                                              at + QPointF(-4.5, 0)});
            }
            return;
        case FacePartKind::Picture: {
            const QRectF frame(c.x() - 14, c.y() - 9, 28, 18);
            painter.setPen(QPen(t.ink3, 1.2));
            painter.setBrush(t.bluePale);
            painter.drawRoundedRect(frame, 2.5, 2.5);
            painter.setPen(Qt::NoPen);
            painter.setBrush(t.teal);
            painter.drawPolygon(QPolygonF{c + QPointF(-11, 7), c + QPointF(-4, -3), c + QPointF(0, 3),
                                          c + QPointF(4, -1), c + QPointF(11, 7)});
            painter.setBrush(t.brass);
            return painter.drawEllipse(c + QPointF(7, -4), 2.4, 2.4);
        }
        case FacePartKind::Swatch:
            painter.setPen(QPen(t.strongEdge, 1));
            painter.setBrush(t.brass);
            return painter.drawRoundedRect(QRectF(c.x() - 7, c.y() - 7, 14, 14), 3, 3);
        case FacePartKind::Link: {
            QFont font = sized(12);
            font.setUnderline(true);
            painter.setFont(font);
            painter.setPen(t.tealText);
            return painter.drawText(box, Qt::AlignCenter, QStringLiteral("Ida"));
        }
        case FacePartKind::Button:
            painter.setPen(QPen(t.strongEdge, 1));
            painter.setBrush(t.panel);
            painter.drawRoundedRect(QRectF(c.x() - 15, c.y() - 8, 30, 16), 4, 4);
            painter.setPen(t.ink);
            painter.setFont(sized(10));
            return painter.drawText(box, Qt::AlignCenter, QStringLiteral("Call"));
        case FacePartKind::Spacer:
            painter.setPen(QPen(t.ink3, 1));
            painter.drawLine(c + QPointF(-12, -6), c + QPointF(-12, 6));
            painter.drawLine(c + QPointF(12, -6), c + QPointF(12, 6));
            painter.setPen(QPen(t.ink3, 1, Qt::DotLine));
            return painter.drawLine(c + QPointF(-9, 0), c + QPointF(9, 0));
        case FacePartKind::Row:
        case FacePartKind::Column:
        case FacePartKind::Stack: return;
    }
}

class Tile final : public QToolButton {
  public:
    Tile(FacePartKind kind, const QString& words, QWidget* parent) : QToolButton(parent), kind_(kind), words_(words) {
        setFixedSize(kTileWidth, kTileHeight);
        setAccessibleName(words);
        setToolTip(tr("Drag it into the cell; a click puts it behind the chosen part."));
        setCursor(Qt::OpenHandCursor);
        setObjectName(QStringLiteral("part-%1").arg(static_cast<int>(kind)));
    }
    FacePartKind kind() const { return kind_; }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Tokens& t = look();
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const QRectF box(0.5, 0.5, width() - 1, kPictureHeight);
        painter.setPen(QPen(hasFocus() || underMouse() ? t.teal : t.hair, 1));
        painter.setBrush(t.paper);
        painter.drawRoundedRect(box, 4, 4);
        drawKind(painter, kind_, box, t);
        painter.setFont(sized(11));
        painter.setPen(t.ink2);
        painter.drawText(QRectF(0, kPictureHeight + 1, width(), height() - kPictureHeight - 1), Qt::AlignCenter,
                         words_);
    }

  private:
    FacePartKind kind_;
    QString words_;
};

}  // namespace

PartTiles::PartTiles(QWidget* parent) : QWidget(parent) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(5);
    for (const Kind& kind : kKinds) {
        auto* tile = new Tile(kind.kind, tr(kind.words), this);
        tile->installEventFilter(this);
        connect(tile, &QToolButton::clicked, this, [this, k = kind.kind] { Q_EMIT chosen(k); });
        row->addWidget(tile);
    }
    row->addStretch();
}

QToolButton* PartTiles::tile(FacePartKind kind) const {
    return findChild<QToolButton*>(QStringLiteral("part-%1").arg(static_cast<int>(kind)));
}

/// A tile is dragged, and let go; false where the tile itself is to see the event.
bool PartTiles::mouse(QToolButton& tile, FacePartKind kind, const QMouseEvent& event) {
    if (event.type() == QEvent::MouseButtonPress) {
        isPressed_ = true;
        isDragged_ = false;
        pressedAt_ = event.pos();
    } else if (event.type() == QEvent::MouseMove && isPressed_) {
        isDragged_ = isDragged_ || (event.pos() - pressedAt_).manhattanLength() >= QApplication::startDragDistance();
        if (isDragged_) Q_EMIT dragged(kind, event.globalPosition().toPoint());
        return isDragged_;
    } else if (event.type() == QEvent::MouseButtonRelease && std::exchange(isPressed_, false) && isDragged_) {
        tile.setDown(false);
        Q_EMIT dropped(kind, event.globalPosition().toPoint());
        Q_EMIT dragEnded();
        return true;
    }
    return false;
}

bool PartTiles::eventFilter(QObject* watched, QEvent* event) {
    auto* tile = dynamic_cast<Tile*>(watched);
    const QEvent::Type type = event->type();
    const bool isMouse =
        type == QEvent::MouseButtonPress || type == QEvent::MouseMove || type == QEvent::MouseButtonRelease;
    if (tile && isMouse && mouse(*tile, tile->kind(), *static_cast<QMouseEvent*>(event))) return true;
    return QWidget::eventFilter(watched, event);
}

}  // namespace jollyrow
