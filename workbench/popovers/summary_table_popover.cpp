// SPDX-License-Identifier: MIT
#include "workbench/popovers/summary_table_popover.h"

#include <QComboBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "core/sources/objects/table_source.h"
#include "grid/api/grid.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {

namespace {
constexpr int kMostHeight = 430;
}

SummaryTablePopover::SummaryTablePopover(QWidget* window, Grid& grid)
    : Popover(tr("Summary table"), window), grid_(grid), table_(new Grid(this)), problem_(problemLabel(this)) {
    auto* row = new QHBoxLayout;
    row->setSpacing(10);
    row->addWidget(quietLabel(tr("across"), this));
    auto* across = new PickBox(this);
    across->setObjectName(QStringLiteral("across"));
    across->setAccessibleName(tr("Which groups stand side by side"));
    across->setMinimumWidth(160);
    across->addItem(tr("nothing"));
    if (const Grouping* grouping = groupingOf(*grid.snapshot()))
        for (const PlannedGroup& group : grouping->groups) across->addItem(QString::fromStdString(group.heading));
    connect(across, &QComboBox::activated, this, [this](int index) {
        wanted_.across = index > 0 ? std::optional(static_cast<std::size_t>(index - 1)) : std::nullopt;
        make();
    });
    row->addWidget(across);
    auto* turned = new CheckBox(tr("Rows as columns"), this);
    turned->setObjectName(QStringLiteral("turned"));
    connect(turned, &QCheckBox::toggled, this, [this](bool on) {
        wanted_.turned = on;
        make();
    });
    row->addWidget(turned);
    row->addStretch(1);
    auto* design = new QPushButton(tr("Make a design of it…"), this);
    design->setObjectName(QStringLiteral("design"));
    design->setToolTip(tr("The table goes into a database of its own, with a design to go on from"));
    connect(design, &QPushButton::clicked, this, &SummaryTablePopover::designWanted);
    row->addWidget(design);
    body()->addLayout(row);
    body()->addWidget(problem_);
    table_->setFixedHeight(kMostHeight);
    table_->setAccessibleName(tr("Summary table"));
    body()->addWidget(table_);
    facts_ = quietLabel({}, this);
    body()->addWidget(facts_);
    connect(&grid, &Grid::snapshotChanged, this, [this] { make(); });
    make();
}

void SummaryTablePopover::make() {
    grid_.session().questions().summaryTable(
        wanted_, [target = QPointer<SummaryTablePopover>(this)](const Result<SummaryTable>& made) {
            if (!target) return;
            target->problem_->setText(made ? QString() : QString::fromStdString(made.error().message));
            target->problem_->setVisible(!made);
            if (!made) return target->fitHeight();
            target->made_ = *made;
            if (auto opened = target->table_->open(made->design, made->table); !opened)
                target->problem_->setText(QString::fromStdString(opened.error().message));
            // No higher than its rows.
            const int rows = static_cast<int>(std::min<std::size_t>(made->table->rows, 100));
            const int tiers = target->table_->session().plan().tierLevels;
            target->table_->setFixedHeight(std::clamp(60 + 24 * tiers + 27 * rows, 150, kMostHeight));
            target->fitHeight();
            target->facts_->setText(tr("%1 rows, %2 columns")
                                        .arg(grouped(static_cast<std::int64_t>(made->table->rows)))
                                        .arg(made->design.columns.size()));
        });
}

Result<void> SummaryTablePopover::writeTo(const QString& designPath) const {
    if (!made_.table) return Error{ErrorCode::NotFound, tr("There is no table yet.").toStdString()};
    const QFileInfo file(designPath);
    const QString database = file.dir().filePath(file.completeBaseName() + QStringLiteral(".db"));
    if (auto written = writeTable(*made_.table, database.toStdString()); !written) return written;
    Design design = made_.design;
    design.source.path = (file.completeBaseName() + QStringLiteral(".db")).toStdString();
    return writeDesignFile(designPath.toStdString(), design);
}

}  // namespace jollyrow
