// SPDX-License-Identifier: MIT
#include "workbench/popovers/figure_popover.h"

#include <QVBoxLayout>

#include "grid/groups/figure_card.h"

namespace jollyrow {

FigurePopover::FigurePopover(QWidget* window, Grid& grid, int summary, quint32 node)
    : Popover(tr("How this figure was made"), window) {
    auto* card = new FigureCard(grid, summary, node, this);
    body()->addWidget(card);
    connect(card, &FigureCard::filled, this, &FigurePopover::fitHeight);
    connect(card, &FigureCard::left, this, [this] {
        close();
        Q_EMIT closed();
    });
}

}  // namespace jollyrow
