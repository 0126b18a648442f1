// SPDX-License-Identifier: MIT
#include "workbench/app/settings.h"

#include <QFileInfo>
#include <QSettings>

#include "core/base/source_address.h"

namespace jollyrow {
namespace {
constexpr int kMostRecent = 8;
}

Settings Settings::load() {
    const QSettings store;
    Settings settings;
    if (store.value("version", 0).toInt() != kVersion) return settings;
    settings.recent = store.value("recent").toStringList().mid(0, kMostRecent);
    settings.theme = store.value("theme").toString() == QLatin1String("dark") ? Theme::Dark : Theme::Light;
    settings.geometry = store.value("geometry").toByteArray();
    settings.panels = store.value("panels").toByteArray();
    return settings;
}

void Settings::save() const {
    QSettings store;
    store.setValue("version", kVersion);
    store.setValue("recent", recent);
    store.setValue("theme", theme == Theme::Dark ? "dark" : "light");
    store.setValue("geometry", geometry);
    store.setValue("panels", panels);
}

void Settings::noteRecent(const QString& path) {
    const QString absolute = isServerAddress(path.toStdString()) ? path : QFileInfo(path).absoluteFilePath();
    recent.removeAll(absolute);
    recent.prepend(absolute);
    recent = recent.mid(0, kMostRecent);
}

}  // namespace jollyrow
