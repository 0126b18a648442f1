// SPDX-License-Identifier: MIT
#include "workbench/popovers/direction_words.h"

#include <QCoreApplication>

namespace jollyrow {

QStringList directionsFor(Type type) {
    const auto words = [](const char* up, const char* down) {
        return QStringList{QCoreApplication::translate("Directions", up),
                           QCoreApplication::translate("Directions", down)};
    };
    switch (type) {
        case Type::Text:
            return words(QT_TRANSLATE_NOOP("Directions", "A to Z"), QT_TRANSLATE_NOOP("Directions", "Z to A"));
        case Type::Boolean:
            return words(QT_TRANSLATE_NOOP("Directions", "no first"), QT_TRANSLATE_NOOP("Directions", "yes first"));
        case Type::Date:
        case Type::Time:
        case Type::Timestamp:
        case Type::Instant:
            return words(QT_TRANSLATE_NOOP("Directions", "earliest first"),
                         QT_TRANSLATE_NOOP("Directions", "latest first"));
        default:
            return words(QT_TRANSLATE_NOOP("Directions", "smallest first"),
                         QT_TRANSLATE_NOOP("Directions", "largest first"));
    }
}

}  // namespace jollyrow
