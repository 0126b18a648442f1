// SPDX-License-Identifier: MIT
#pragma once
// Counts as the product writes them: thin spaces between thousands.

#include <QString>

namespace jollyrow {

inline QString grouped(qint64 number) {
    QString digits = QString::number(number);
    const qsizetype first = number < 0 ? 1 : 0;
    for (qsizetype at = digits.size() - 3; at > first; at -= 3) digits.insert(at, QChar(0x2009));
    return digits;
}

}  // namespace jollyrow
