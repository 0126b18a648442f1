// SPDX-License-Identifier: MIT
#include "grid/editors/editor.h"

#include <QApplication>
#include <QPainter>

#include "grid/paint/looks.h"

namespace jollyrow {

Editor::Editor(const EditorTask& task, QWidget* parent) : QFrame(parent), task_(task) {
    setObjectName(QStringLiteral("cellEditor"));
    setAccessibleName(task.heading);
    setAutoFillBackground(false);
}

void Editor::standAlone() {
    isAlone_ = true;
    connect(qApp, &QApplication::focusChanged, this, qOverload<>(&QWidget::update));
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
    const bool isIdle = isAlone_ && !refused_ && !isAncestorOf(QApplication::focusWidget());
    painter.setPen(isIdle ? QPen(t.entryEdge, 1) : QPen(refused_ ? t.buoy : t.teal, 2));
    painter.setBrush(refused_ ? t.buoyPale : t.paper);
    const qreal inset = isIdle ? 0.5 : 1;
    painter.drawRoundedRect(QRectF(rect()).adjusted(inset, inset, -inset, -inset), 3, 3);
}

}  // namespace jollyrow
