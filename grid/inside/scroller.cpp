// SPDX-License-Identifier: MIT
#include "grid/inside/scroller.h"

#include <QScrollBar>

#include <cmath>

namespace jollyrow {

void Scroller::told(bool isMoved, Way way) {
    if (!isMoved) return;
    syncBars();
    moved_(way);
    context_.update();
}

void Scroller::show(CellPlace place) {
    const int x = body_.scrollX();
    const bool isMoved = body_.show(place);
    told(isMoved, body_.scrollX() != x ? Way::Across : Way::Down);
}

void Scroller::followBars() {
    if (syncing_) return;
    setX(context_.grid().horizontalScrollBar()->value());
    setY(body_.scroll().fromBar(context_.grid().verticalScrollBar()->value()));
}

void Scroller::syncBars() {
    syncing_ = true;
    const ColumnLayout& columns = body_.columns();
    QScrollBar* across = context_.grid().horizontalScrollBar();
    across->setRange(0, columns.maxScroll());
    across->setPageStep(std::max(1, columns.rightStart() - columns.pinnedEnd()));
    across->setSingleStep(20);
    across->setValue(body_.scrollX());
    QScrollBar* down = context_.grid().verticalScrollBar();
    down->setRange(0, body_.scroll().barMaximum());
    down->setPageStep(body_.scroll().barPage());
    down->setSingleStep(body_.hasOwnHeights() ? LinePlaces::kUnits : body_.recordHeight());
    down->setValue(body_.scroll().toBar(body_.scrollY()));
    syncing_ = false;
}

void Scroller::wheel(QWheelEvent& event) {
    // Touchpads tell pixels, wheels eighths of a degree: three lines a notch.
    const QPointF pixels = !event.pixelDelta().isNull()
                               ? QPointF(event.pixelDelta())
                               : QPointF(event.angleDelta()) / 120.0 * 3 * body_.recordHeight();
    const bool sideways = std::abs(pixels.x()) > std::abs(pixels.y()) || event.modifiers() == Qt::ShiftModifier;
    const double delta = (pixels.x() != 0 && sideways ? pixels.x() : pixels.y()) + wheelRest_;
    const double whole = std::trunc(delta);
    wheelRest_ = delta - whole;
    sideways ? setX(body_.scrollX() - static_cast<int>(whole)) : byPixels(-static_cast<std::int64_t>(whole));
    event.accept();
}

}  // namespace jollyrow
