// SPDX-License-Identifier: MIT
#include "grid/editors/editor.h"

#include <QPainter>

#include "grid/paint/looks.h"

namespace jollyrow {

Editor::Editor(const EditorTask& task, QWidget* parent) : QFrame(parent), task_(task) {
    setObjectName(QStringLiteral("cellEditor"));
    setAccessibleName(task.heading);
    setAutoFillBackground(false);
}

void Editor::setRefused(bool refused) {
    if (refused == refused_) return;
    refused_ = refused;
    update();
}

void Editor::paintEvent(QPaintEvent*) {
    const Tokens& t = tokensAt(*this);
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(refused_ ? t.buoy : t.teal, 2));
    painter.setBrush(refused_ ? t.buoyPale : t.paper);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 3, 3);
}

}  // namespace jollyrow
