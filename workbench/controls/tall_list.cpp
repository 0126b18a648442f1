// SPDX-License-Identifier: MIT
#include "workbench/controls/tall_list.h"

#include <QEvent>
#include <QLayout>
#include <QScrollBar>

namespace jollyrow {

TallList::TallList(QWidget* content, QWidget* parent) : QScrollArea(parent) {
    setFrameShape(QFrame::NoFrame);
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::NoFocus);
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
    viewport()->setAutoFillBackground(false);
    setWidget(content);
    content->setAutoFillBackground(false);
}

QSize TallList::sizeHint() const {
    return widget() ? widget()->sizeHint().expandedTo(widget()->minimumSizeHint()) : QSize(0, 0);
}

void TallList::exchange(QWidget* content, QWidget* focused) {
    const int at = verticalScrollBar()->value();
    if (QWidget* old = takeWidget()) old->setParent(this);  // hidden, and gone once its handler has returned
    setWidget(content);
    content->setAutoFillBackground(false);
    content->show();
    if (content->layout()) content->layout()->activate();
    updateGeometry();
    verticalScrollBar()->setValue(at);
    if (focused) ensureWidgetVisible(focused, 0, 12);
}

bool TallList::eventFilter(QObject* watched, QEvent* event) {
    if (watched == widget() && event->type() == QEvent::LayoutRequest) updateGeometry();
    return QScrollArea::eventFilter(watched, event);
}

}  // namespace jollyrow
