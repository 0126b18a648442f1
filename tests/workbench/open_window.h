// SPDX-License-Identifier: MIT
#pragma once
// The workbench's window as each of its tests begins: settings of its own, light, 1280x800, on the screen.

#include <QStandardPaths>
#include <QtTest>

#include <memory>

#include "workbench/app/look.h"
#include "workbench/app/main_window.h"

namespace jollyrow::test {

inline void prepareWorkbench() {
    QStandardPaths::setTestModeEnabled(true);
    QCoreApplication::setApplicationName("jollyrow-test");
    applyLook(*qApp, Theme::Light);
}

/// Null when it did not come up.
inline std::unique_ptr<MainWindow> shownWindow() {
    auto window = std::make_unique<MainWindow>();
    window->resize(1280, 800);
    window->show();
    return QTest::qWaitForWindowExposed(window.get()) ? std::move(window) : nullptr;
}

}  // namespace jollyrow::test
