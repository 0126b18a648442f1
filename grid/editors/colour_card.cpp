// SPDX-License-Identifier: MIT
#include "grid/editors/colour_card.h"

#include <QKeyEvent>
#include <QPainter>

#include <algorithm>
#include <array>

#include "grid/paint/looks.h"

namespace jollyrow {
namespace {

constexpr int kTile = 24, kGap = 4, kInset = 10;

/// Greys, then eight hues, each from pale to deep: HSL at fixed steps of lightness.
std::vector<QColor> colours() {
    constexpr std::array<int, ColourCard::kAcross - 1> kHues = {4, 28, 45, 95, 165, 200, 225, 285};
    constexpr std::array<double, ColourCard::kDown> kLight = {0.90, 0.74, 0.57, 0.42, 0.27};
    std::vector<QColor> all;
    for (const double light : kLight) {
        all.push_back(QColor::fromHslF(0, 0, static_cast<float>(light)));
        for (const int hue : kHues)
            all.push_back(QColor::fromHslF(static_cast<float>(hue) / 360.0F, 0.55F, static_cast<float>(light)));
    }
    return all;
}

int distance(const QColor& a, const QColor& b) {
    const int red = a.red() - b.red(), green = a.green() - b.green(), blue = a.blue() - b.blue();
    return red * red + green * green + blue * blue;
}

}  // namespace

ColourCard::ColourCard(const QColor& present, QWidget* parent)
    : QWidget(parent, Qt::Popup | Qt::FramelessWindowHint), colours_(colours()) {
    setAttribute(Qt::WA_DeleteOnClose);
    setAccessibleName(tr("Colours"));
    setMouseTracking(true);
    setFixedSize(kAcross * (kTile + kGap) - kGap + 2 * kInset, kDown * (kTile + kGap) - kGap + 2 * kInset);
    if (present.isValid())
        at_ = static_cast<int>(std::min_element(colours_.begin(), colours_.end(),
                                                [&](const QColor& a, const QColor& b) {
                                                    return distance(a, present) < distance(b, present);
                                                }) -
                               colours_.begin());
}

QRect ColourCard::tileRect(int index) const {
    return {kInset + index % kAcross * (kTile + kGap), kInset + index / kAcross * (kTile + kGap), kTile, kTile};
}

int ColourCard::tileAt(const QPoint& place) const {
    for (int i = 0; i < static_cast<int>(colours_.size()); ++i)
        if (tileRect(i).adjusted(-kGap / 2, -kGap / 2, kGap / 2, kGap / 2).contains(place)) return i;
    return -1;
}

void ColourCard::paintEvent(QPaintEvent*) {
    const Tokens& t = tokensAt(*parentWidget());
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), t.paper);
    painter.setPen(t.hair);
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
    for (int i = 0; i < static_cast<int>(colours_.size()); ++i) {
        const QRectF tile = QRectF(tileRect(i)).adjusted(0.5, 0.5, -0.5, -0.5);
        painter.setPen(QPen(t.entryEdge, 1));
        painter.setBrush(colours_[static_cast<std::size_t>(i)]);
        painter.drawRoundedRect(tile, 4, 4);
        if (i != at_) continue;
        painter.setPen(QPen(t.ink, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRoundedRect(tile.adjusted(-2, -2, 2, 2), 5, 5);
    }
}

void ColourCard::choose(int index) {
    if (index < 0) return;
    const QColor colour = colours_[static_cast<std::size_t>(index)];
    close();
    Q_EMIT chosen(colour);
}

void ColourCard::mousePressEvent(QMouseEvent* event) {
    if (!rect().contains(event->pos())) return close(), void();
    choose(tileAt(event->pos()));
}

void ColourCard::mouseMoveEvent(QMouseEvent* event) {
    const int tile = tileAt(event->pos());
    if (tile < 0 || tile == at_) return;
    at_ = tile;
    update();
}

void ColourCard::keyPressEvent(QKeyEvent* event) {
    int next = at_;
    switch (event->key()) {
        case Qt::Key_Left: --next; break;
        case Qt::Key_Right: ++next; break;
        case Qt::Key_Up: next -= kAcross; break;
        case Qt::Key_Down: next += kAcross; break;
        case Qt::Key_Return:
        case Qt::Key_Enter:
        case Qt::Key_Space: return choose(at_);
        case Qt::Key_Escape: close(); return;
        default: return QWidget::keyPressEvent(event);
    }
    if (next < 0 || next >= static_cast<int>(colours_.size())) return;
    at_ = next;
    update();
}

}  // namespace jollyrow
