// SPDX-License-Identifier: MIT
#include "workbench/popovers/summary_table_popover.h"

#include <QCheckBox>
#include <QDir>
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
#include "workbench/app/look.h"
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
    row->addWidget(quietLabel(tr("side by side"), this));
    addLevels(*row);
    row->addSpacing(12);
    auto* turned = new CheckBox(tr("Rows as columns"), this);
    turned->setObjectName(QStringLiteral("turned"));
    turned->setChecked(grid.design().grid.turnedSummary);
    connect(turned, &QCheckBox::toggled, this, [this](bool on) {
        Q_EMIT changed([on](Design& design) { design.grid.turnedSummary = on; }, tr("Turn the summary table"));
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
    table_->setFixedHeight(scaled(kMostHeight));
    table_->setAccessibleName(tr("Summary table"));
    body()->addWidget(table_);
    facts_ = quietLabel({}, this);
    body()->addWidget(facts_);
    connect(&grid, &Grid::snapshotChanged, this, [this] { make(); });
    make();
}

/// Which levels of groups stand side by side: none, one, or several within each other.
void SummaryTablePopover::addLevels(QHBoxLayout& row) {
    const Design& design = grid_.design();
    for (std::size_t i = 0; i < design.groups.size(); ++i) {
        const SortDesign& key = design.groups[i].key;
        const QString heading = !key.title.empty()  ? QString::fromStdString(key.title)
                                : key.field.empty() ? tr("Level %1").arg(i + 1)
                                                    : QString::fromStdString(design.headingOf(key.field));
        auto* box = new CheckBox(heading, this);
        box->setObjectName(QStringLiteral("across%1").arg(i));
        box->setChecked(design.groups[i].across);
        connect(box, &QCheckBox::toggled, this, [this, i, heading](bool on) {
            Q_EMIT changed(
                [i, on](Design& d) {
                    if (i < d.groups.size()) d.groups[i].across = on;
                },
                on ? tr("Put %1 side by side").arg(heading) : tr("Put %1 below each other").arg(heading));
            make();
        });
        row.addWidget(box);
    }
}

void SummaryTablePopover::make() {
    const Grouping* grouping = groupingOf(*grid_.snapshot());
    grid_.session().questions().summaryTable(
        grouping ? summaryTableOf(*grouping, grid_.design()) : SummaryTableWanted{},
        [target = QPointer<SummaryTablePopover>(this)](const Result<SummaryTable>& made) {
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
