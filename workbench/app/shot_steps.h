// SPDX-License-Identifier: MIT
#pragma once
// What the makers of pictures share: waiting, clicking, and a window with what has popped up over it.

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QMouseEvent>
#include <QPainter>
#include <QThread>

#include <cstdio>

#include "core/rows/snapshot.h"
#include "grid/api/grid.h"

namespace jollyrow {

inline void settle(int milliseconds = 300) {
    QElapsedTimer timer;
    timer.start();
    while (timer.elapsed() < milliseconds) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        QThread::msleep(5);
    }
}

inline bool untilLoaded(Grid& grid) {
    for (int turn = 0; turn < 1000 && (!grid.snapshot() || !grid.snapshot()->table->complete); ++turn) settle(20);
    settle(250);
    return grid.snapshot() && grid.snapshot()->table->complete;
}

inline void click(Grid& grid, QPoint at, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    QWidget* viewport = grid.viewport();
    for (const QEvent::Type type : {QEvent::MouseButtonPress, QEvent::MouseButtonRelease}) {
        QMouseEvent event(type, at, viewport->mapToGlobal(at), Qt::LeftButton,
                          type == QEvent::MouseButtonPress ? Qt::LeftButton : Qt::NoButton, modifiers);
        QCoreApplication::sendEvent(viewport, &event);
    }
    settle(80);
}

/// Scrolls to the records due on a day, in the middle of all statuses; the line of the first of them.
inline std::int64_t showDay(Grid& grid, const QString& day) {
    for (std::int64_t line = 0; line < grid.lineCount(); ++line) {
        if (grid.recordAt(line).text("due_on") != day) continue;
        grid.selection().showLine(line + 10);
        settle(50);
        return line;
    }
    return 0;
}

/// A window with what has popped up over it.
inline QPixmap pictureOf(QWidget& window) {
    QPixmap picture = window.grab();
    if (QWidget* popup = QApplication::activePopupWidget()) {
        QPainter painter(&picture);
        painter.drawPixmap(window.mapFromGlobal(popup->pos()), popup->grab());
    }
    return picture;
}

/// Writes DIR/NAME.png and says so.
inline bool savePicture(const QPixmap& picture, const QDir& folder, const QString& name) {
    const QString path = folder.filePath(name + ".png");
    const bool done = picture.save(path, "PNG");
    std::printf("%s %s\n", done ? "wrote" : "could not write", path.toLocal8Bit().constData());
    return done;
}

}  // namespace jollyrow
