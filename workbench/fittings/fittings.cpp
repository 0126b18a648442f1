// SPDX-License-Identifier: MIT
#include "workbench/fittings/fittings.h"

#include <QStackedWidget>
#include <QVBoxLayout>

#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/fittings/column_fittings.h"
#include "workbench/fittings/grid_fittings.h"
#include "workbench/fittings/tier_fittings.h"

namespace jollyrow {

Fittings::Fittings(QWidget* parent)
    : QWidget(parent),
      title_(new QLabel(this)),
      subtitle_(new QLabel(this)),
      pages_(new QStackedWidget(this)),
      column_(new ColumnFittings(this)),
      tier_(new TierFittings(this)),
      grid_(new GridFittings(this)) {
    setAccessibleName(tr("Fittings"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    auto* head = new QWidget(this);
    auto* headLayout = new QVBoxLayout(head);
    headLayout->setContentsMargins(14, 9, 14, 9);
    headLayout->setSpacing(1);
    title_->setFont(sized(14, QFont::DemiBold));
    title_->setTextFormat(Qt::PlainText);
    subtitle_->setForegroundRole(QPalette::PlaceholderText);
    subtitle_->setFont(sized(11));
    headLayout->addWidget(title_);
    headLayout->addWidget(subtitle_);
    layout->addWidget(head);
    layout->addWidget(pages_, 1);
    pages_->addWidget(scrollingPage(column_, this));
    pages_->addWidget(scrollingPage(tier_, this));
    pages_->addWidget(scrollingPage(grid_, this));
    connect(column_, &ColumnFittings::changed, this, &Fittings::changed);
    connect(column_, &ColumnFittings::ruleWanted, this, &Fittings::ruleWanted);
    connect(column_, &ColumnFittings::composeWanted, this, &Fittings::composeWanted);
    connect(tier_, &TierFittings::changed, this, &Fittings::changed);
    connect(grid_, &GridFittings::changed, this, &Fittings::changed);
    connect(grid_, &GridFittings::stylesWanted, this, &Fittings::stylesWanted);
    connect(grid_, &GridFittings::bannersWanted, this, &Fittings::bannersWanted);
    connect(grid_, &GridFittings::checksWanted, this, &Fittings::checksWanted);
    connect(grid_, &GridFittings::triggerWanted, this, &Fittings::triggerWanted);
    connect(grid_, &GridFittings::looksWanted, this, &Fittings::looksWanted);
}

void Fittings::setContent(const FittingsContent& content) {
    const Design& design = content.design;
    if (content.tier && design.findTier(content.tier->toStdString())) {
        const auto under = fieldsUnder(design, content.tier->toStdString());
        title_->setText(headingOfTier(design, content.tier->toStdString()));
        subtitle_->setText(under.size() == 1 ? tr("a heading over one column")
                                             : tr("a heading over %1 columns").arg(under.size()));
        pages_->setCurrentIndex(1);
        return tier_->setContent(content);
    }
    if (content.fields.empty()) {
        title_->setText(tr("Whole grid"));
        subtitle_->setText(tr("no column selected"));
        pages_->setCurrentIndex(2);
        return grid_->setContent(content);
    }
    if (content.fields.size() == 1) {
        const QString& field = content.fields.front();
        const auto index = content.schema.find(field.toStdString());
        const QString kind =
            index ? QString::fromUtf8(article(content.schema.field(*index).type).data(),
                                      static_cast<qsizetype>(article(content.schema.field(*index).type).size()))
                  : tr("not in the table");
        title_->setText(headingOfField(design, field.toStdString()));
        const ColumnDesign* column = design.column(field.toStdString());
        const QString place = column && !column->rule.empty()
                                  ? tr("computed, %1").arg(field)
                                  : QStringLiteral("%1.%2").arg(QString::fromStdString(content.schema.name), field);
        subtitle_->setText(QStringLiteral("%1, %2").arg(place, kind));
    } else {
        QStringList names;
        for (const QString& field : content.fields) names << headingOfField(design, field.toStdString());
        title_->setText(tr("%1 columns").arg(content.fields.size()));
        subtitle_->setText(fontMetrics().elidedText(names.join(QStringLiteral(", ")), Qt::ElideRight, 226));
    }
    pages_->setCurrentIndex(0);
    column_->setContent(content);
}

}  // namespace jollyrow
