// SPDX-License-Identifier: MIT
#include "workbench/popovers/findings_popover.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "workbench/app/icons.h"
#include "workbench/app/look.h"

namespace jollyrow {

FindingsPopover::FindingsPopover(QWidget* window, const std::vector<Finding>& findings)
    : Popover(findings.empty() ? tr("Nothing found") : tr("Findings"), window) {
    if (findings.empty()) body()->addWidget(new QLabel(tr("The design fits the database."), this));
    auto* list = new QWidget(this);
    auto* rows = new QVBoxLayout(list);
    rows->setContentsMargins(0, 0, 8, 0);
    rows->setSpacing(10);
    for (const Finding& finding : findings) {
        auto* row = new QHBoxLayout;
        row->setSpacing(10);
        auto* mark = new QLabel(list);
        const bool grave = finding.severity == Severity::Problem;
        mark->setPixmap(makeIcon(Icon::Warning,
                                 grave                                ? look().buoy
                                 : finding.severity == Severity::Note ? look().ink3
                                                                      : look().brass,
                                 16)
                            .pixmap(16, 16));
        mark->setAlignment(Qt::AlignTop);
        mark->setAccessibleName(QString::fromUtf8(name(finding.severity).data()));
        auto* text = new QLabel(QString::fromStdString(finding.message), list);
        text->setWordWrap(true);
        text->setTextFormat(Qt::PlainText);
        text->setToolTip(QString::fromStdString(finding.where));
        row->addWidget(mark);
        row->addWidget(text, 1);
        if (finding.mending != Mending::None) {
            auto* button = new QPushButton(QString::fromStdString(mendingWords(finding)), list);
            button->setObjectName(QStringLiteral("mend"));
            row->addWidget(button, 0, Qt::AlignTop);
            connect(button, &QPushButton::clicked, this, [this, finding, button] {
                button->setEnabled(false);
                button->setText(tr("Done"));
                Q_EMIT mendWanted(finding);
            });
        }
        rows->addLayout(row);
    }
    rows->addStretch();
    auto* area = new QScrollArea(this);
    area->setFrameShape(QFrame::NoFrame);
    area->setWidgetResizable(true);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setWidget(list);
    list->setAutoFillBackground(false);
    area->viewport()->setAutoFillBackground(false);
    area->setFixedHeight(findings.empty() ? 1 : std::min(320, 62 * static_cast<int>(findings.size()) + 6));
    body()->addWidget(area);
}

void FindingsPopover::openOver(int bottomY) {
    openUnder(QRect(8, bottomY - 120, 60, 1), 520);
    move(x(), bottomY - height() + 8);
}

}  // namespace jollyrow
