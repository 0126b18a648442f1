// SPDX-License-Identifier: MIT
#pragma once
// What panels beside a grid share: a card with a head and a foot, a heading over a bracket, their buttons.

#include <QPainter>
#include <QString>
#include <QWidget>

#include "grid/paint/tokens.h"

namespace jollyrow {

/// `headEnd`: where the content begins.
inline void paintSidePanel(QPainter& painter, const QRect& rect, int headEnd, int footHeight, const Tokens& t) {
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF card = QRectF(rect).adjusted(0.5, 0.5, -0.5, -0.5);
    painter.setPen(QPen(t.hair, 1));
    painter.setBrush(t.paper);
    painter.drawRoundedRect(card, 6, 6);
    const QRectF foot(card.left() + 0.5, card.bottom() - footHeight, card.width() - 1, footHeight - 0.5);
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.panel);
    painter.drawRoundedRect(foot, 5, 5);
    painter.fillRect(QRectF(foot.left(), foot.top(), foot.width(), 8), t.panel);
    painter.fillRect(QRectF(foot.left(), foot.top(), foot.width(), 1), t.hair);
    painter.fillRect(QRectF(card.left(), headEnd - 1, card.width(), 1), t.hair);
}

inline QString panelButtonSheet(const Tokens& t, bool isMain) {
    return QStringLiteral(
               "QPushButton{border:1px solid %1;border-radius:5px;background:%2;color:%3;padding:6px "
               "13px;font-weight:%4}QPushButton:focus{border:2px solid %5;padding:5px 12px}"
               "QPushButton:disabled{color:%6;background:%7;border-color:%8}")
        .arg((isMain ? t.teal : t.popEdge).name(), (isMain ? t.teal : t.paper).name(),
             (isMain ? t.onTeal : t.ink).name(), isMain ? QStringLiteral("600") : QStringLiteral("500"),
             (isMain ? t.ink : t.teal).name(), t.ink3.name(), t.panel.name(), t.hair.name());
}

/// Words over a bracket, as headings of columns have it; a count at the right.
class BracketLine final : public QWidget {
  public:
    BracketLine(QString words, QString count, const Tokens& look, QWidget* parent)
        : QWidget(parent), words_(std::move(words)), count_(std::move(count)), look_(look) {
        setFixedHeight(32);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        QFont strong = font();
        strong.setWeight(QFont::DemiBold);
        painter.setFont(strong);
        painter.setPen(look_.ink);
        const QRect line(0, 4, width(), 18);
        painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, words_);
        painter.setFont(font());
        painter.setPen(look_.ink2);
        painter.drawText(line, Qt::AlignRight | Qt::AlignVCenter, count_);
        painter.setPen(QPen(look_.ink3, 1));
        painter.drawLine(0, 25, width() - 1, 25);
        for (const int x : {0, width() - 1}) painter.drawLine(x, 25, x, 29);
    }

  private:
    QString words_, count_;
    const Tokens& look_;
};

}  // namespace jollyrow
