// SPDX-License-Identifier: MIT
#include "workbench/popovers/source_popover.h"

#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {

SourcePopover::SourcePopover(QWidget* window, const QString& databasePath, const SourceDesign& bound,
                             const std::vector<TableSummary>& tables)
    : Popover(tr("Source"), window), query_(new QLineEdit(this)), problem_(new QLabel(this)) {
    auto* file = new QLabel(databasePath, this);
    file->setForegroundRole(QPalette::PlaceholderText);
    file->setText(file->fontMetrics().elidedText(databasePath, Qt::ElideMiddle, 420));
    file->setToolTip(databasePath);
    body()->addWidget(file);
    addTables(bound, tables);
    addQuery(bound);
    auto* foot = new QHBoxLayout;
    auto* reload = new QPushButton(makeIcon(Icon::Reload, look().tealText), tr("Read all records again"), this);
    reload->setFlat(true);
    foot->addWidget(reload);
    foot->addStretch();
    body()->addLayout(foot);
    connect(reload, &QPushButton::clicked, this, &SourcePopover::reloadChosen);
}

void SourcePopover::addTables(const SourceDesign& bound, const std::vector<TableSummary>& tables) {
    auto* list = new QGridLayout;
    list->setHorizontalSpacing(10);
    list->setVerticalSpacing(4);
    int row = 0;
    constexpr int kMost = 12;
    for (const TableSummary& table : tables) {
        if (row == kMost) break;
        const bool isBound = bound.query.empty() && bound.table == table.name;
        auto* choose =
            new QPushButton(makeIcon(table.isView ? Icon::View : Icon::Table, isBound ? look().brassText : look().ink2),
                            QString::fromStdString(table.name), this);
        choose->setStyleSheet(QStringLiteral("text-align:left;%1")
                                  .arg(isBound ? QStringLiteral("background:%1;border-color:%2")
                                                     .arg(look().brassPale.name(), look().brass.name())
                                               : QString()));
        connect(choose, &QPushButton::clicked, this,
                [this, name = QString::fromStdString(table.name)] { Q_EMIT tableChosen(name); });
        list->addWidget(choose, row, 0);
        auto* note = new QLabel(isBound           ? tr("bound now")
                                : table.isView    ? tr("a view")
                                : table.aboutRows ? tr("about %1 rows").arg(grouped(*table.aboutRows))
                                                  : QString(),
                                this);
        note->setForegroundRole(QPalette::PlaceholderText);
        list->addWidget(note, row++, 1);
    }
    list->setColumnStretch(0, 1);
    body()->addLayout(list);
}

void SourcePopover::addQuery(const SourceDesign& bound) {
    auto* own = new QHBoxLayout;
    query_->setPlaceholderText(tr("or a SELECT of your own"));
    query_->setText(QString::fromStdString(bound.query));
    query_->setAccessibleName(tr("SELECT"));
    auto* bind = new QPushButton(tr("Bind"), this);
    own->addWidget(query_, 1);
    own->addWidget(bind);
    body()->addLayout(own);
    problem_->setWordWrap(true);
    problem_->setStyleSheet(QStringLiteral("color:%1").arg(look().buoyText.name()));
    problem_->hide();
    body()->addWidget(problem_);
    const auto choose = [this] {
        if (!query_->text().trimmed().isEmpty()) Q_EMIT queryChosen(query_->text().trimmed());
    };
    connect(bind, &QPushButton::clicked, this, choose);
    connect(query_, &QLineEdit::returnPressed, this, choose);
}

void SourcePopover::showProblem(const QString& message) {
    problem_->setText(message);
    problem_->show();
    fitHeight();
}

}  // namespace jollyrow
