// SPDX-License-Identifier: MIT
#pragma once
// What the workbench remembers between runs. All keys stand in settings.cpp.

#include <QByteArray>
#include <QStringList>

#include "grid/paint/tokens.h"

namespace jollyrow {

struct Settings {
    static constexpr int kVersion = 1;
    QStringList recent;  ///< designs and databases, newest first
    Theme theme = Theme::Light;
    QByteArray geometry;
    QByteArray panels;  ///< widths of the panels of the Build screen

    static Settings load();
    void save() const;
    /// Puts a file first among the recent ones.
    void noteRecent(const QString& path);
};

}  // namespace jollyrow
