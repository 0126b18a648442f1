// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_form.cpp.
#include "grid/api/form.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/rows/snapshot.h"
#include "core/session/session.h"
#include "grid/api/filter_words.h"
#include "grid/api/grid.h"
#include "grid/api/load_line.h"
#include "grid/api/parameter_bar.h"
#include "grid/groups/figure_card.h"
#include "grid/paint/grouped.h"
#include "grid/paint/looks.h"

namespace jollyrow {

Form::Form(QWidget* parent)
    : QWidget(parent),
      head_(new QWidget(this)),
      title_(new QLabel(head_)),
      count_(new QLabel(head_)),
      find_(new QPushButton(tr("Find"), head_)),
      foot_(new QLabel(this)),
      grid_(new Grid(this)) {
    auto* head = new QHBoxLayout(head_);
    head->setContentsMargins(12, 10, 10, 8);
    head->setSpacing(12);
    QFont large = font();
    large.setPixelSize(qRound(QFontInfo(font()).pixelSize() * 1.4));
    large.setWeight(QFont::DemiBold);
    title_->setFont(large);
    for (QLabel* label : {title_, count_, foot_}) label->setTextFormat(Qt::PlainText);
    find_->setToolTip(tr("Find records by what they show (Ctrl+F)"));
    connect(find_, &QPushButton::clicked, this, [this] { grid_->openFind(); });
    head->addWidget(title_);
    head->addWidget(count_);
    head->addStretch(1);
    head->addWidget(find_);
    foot_->setContentsMargins(12, 5, 12, 6);
    foot_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);  // a long text makes no window wider
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    layout->addWidget(head_);
    layout->addWidget(new ParameterBar(*grid_, this));
    layout->addWidget(new FilterWords(*grid_, this));
    layout->addWidget(grid_, 1);
    layout->addWidget(new LoadLine(*grid_, this));
    layout->addWidget(foot_);
    setFocusProxy(grid_);
    connect(grid_, &Grid::figureClicked, this,
            [this](int summary, quint32 node, const QRect& where) { FigureCard::popUp(*grid_, summary, node, where); });
    connect(grid_, &Grid::snapshotChanged, this, &Form::refresh);
    connect(grid_, &Grid::loadEnded, this, &Form::refresh);
    connect(grid_, &Grid::selectionFigured, this, &Form::refresh);
    refresh();
}

Result<void> Form::open(const QString& designPath, const QString& databasePath) {
    auto opened = grid_->open(designPath, databasePath);
    refresh();
    return opened;
}

Result<void> Form::open(const Design& design, const QString& databasePath) {
    auto opened = grid_->open(design, databasePath);
    refresh();
    return opened;
}

void Form::setHeadShown(bool shown) { head_->setVisible(shown); }

void Form::refresh() {
    const auto& snapshot = grid_->snapshot();
    title_->setText(QString::fromStdString(grid_->design().title));
    title_->setVisible(!title_->text().isEmpty());
    // A part of the records is never told as if it were all.
    const bool isWhole = snapshot && snapshot->table->complete;
    const qint64 records = snapshot ? snapshot->recordCount() : 0;
    count_->setText(!snapshot ? QString()
                    : isWhole ? tr("%1 records").arg(grouped(records))
                              : tr("%1 records so far").arg(grouped(records)));
    // Else the words above the grid say it.
    count_->setVisible(grid_->design().filter.empty());
    QPalette quiet = palette();
    quiet.setColor(QPalette::WindowText, tokensAt(*this).ink2);
    count_->setPalette(quiet);
    foot_->setPalette(quiet);
    foot_->setText(grid_->selection().figures());
    foot_->setVisible(!foot_->text().isEmpty());
}

void Form::paintEvent(QPaintEvent*) { QPainter(this).fillRect(rect(), tokensAt(*this).page); }

}  // namespace jollyrow
