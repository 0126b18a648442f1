// SPDX-License-Identifier: MIT
#include "grid/input/gestures.h"

namespace jollyrow {

void Gestures::press(const QMouseEvent& event) {
    if (!editors_.mayLeave()) return;  // the cell is not left while what stands in it is wrong
    focus_.setFocus(std::nullopt);
    if (event.button() == Qt::LeftButton && !headings_.press(event)) body_.press(event);
}

void Gestures::doubleClick(const QMouseEvent& event) {
    if (event.button() == Qt::LeftButton && !headings_.doubleClick(event)) body_.doubleClick(event);
}

void Gestures::move(const QMouseEvent& event) {
    if (body_.isBusy()) return body_.move(event);
    if (headings_.move(event))
        body_.hover(std::nullopt);
    else
        body_.move(event);
}

void Gestures::leave() {
    body_.hover(std::nullopt);
    headings_.leave();
}

}  // namespace jollyrow
