// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_form.cpp.
#include "grid/api/load_line.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTimer>

#include <algorithm>

#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/paint/grouped.h"
#include "grid/paint/looks.h"

namespace jollyrow {
namespace {
constexpr int kSoonMs = 250;  // what is read at once flashes no line
constexpr int kBarPx = 3;
}  // namespace

QString progressWords(const LoadProgress& progress) {
    if (progress.total) return LoadLine::tr("%1 of %2").arg(grouped(progress.rows), grouped(*progress.total));
    // A guess that has turned out too small is none.
    if (progress.about && *progress.about >= progress.rows)
        return LoadLine::tr("%1 of about %2").arg(grouped(progress.rows), grouped(*progress.about));
    return grouped(progress.rows);
}

double progressShare(const LoadProgress& progress) {
    const auto all = progress.total ? progress.total : progress.about;
    if (!all || *all <= 0 || progress.rows > *all) return -1;
    const double share = static_cast<double>(progress.rows) / static_cast<double>(*all);
    return progress.total ? share : std::min(share, 0.99);
}

LoadLine::LoadLine(Grid& grid, QWidget* parent)
    : QWidget(parent), grid_(&grid), words_(new QLabel(this)), button_(new QPushButton(this)), soon_(new QTimer(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 6, 8, 5);
    row->setSpacing(10);
    words_->setTextFormat(Qt::PlainText);
    words_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    button_->setFlat(true);
    button_->setObjectName(QStringLiteral("loadButton"));
    row->addWidget(words_, 1);
    row->addWidget(button_);
    soon_->setSingleShot(true);
    soon_->setInterval(kSoonMs);
    connect(button_, &QPushButton::clicked, this, &LoadLine::press);
    connect(soon_, &QTimer::timeout, this, &LoadLine::refresh);
    connect(&grid, &Grid::loadProgressed, this, [this] {
        if (isVisibleTo(parentWidget()))
            refresh();
        else if (!soon_->isActive())
            soon_->start();
    });
    connect(&grid, &Grid::loadEnded, this, &LoadLine::refresh);
    hide();
}

void LoadLine::setOnlyStopped(bool only) {
    onlyStopped_ = only;
    refresh();
}

QString LoadLine::words() const { return isVisibleTo(parentWidget()) ? words_->text() : QString(); }

void LoadLine::refresh() {
    if (!grid_) return hide();
    if (!grid_->isLoading()) soon_->stop();  // the next one has a moment of its own
    const LoadProgress progress = grid_->session().progress();
    const bool isLoading = grid_->isLoading(), isPartial = grid_->session().isPartial();
    if ((!isLoading || onlyStopped_) && !isPartial) return hide();
    const Tokens& t = tokensAt(*this);
    QPalette colours = palette();
    colours.setColor(QPalette::WindowText, isLoading ? t.ink2 : t.brassText);
    words_->setPalette(colours);
    share_ = isLoading ? progressShare(progress) : -1;
    if (isLoading && progress.rows == 0) {
        words_->setText(tr("Reading the records…"));
    } else if (isLoading) {
        QString text = tr("Reading: %1 records").arg(progressWords(progress));
        if (share_ >= 0) text += tr("   ·   %1 %").arg(static_cast<int>(share_ * 100));
        if (progress.milliseconds > 0)
            text += tr("   ·   %1 a second").arg(grouped(static_cast<qint64>(progress.rowsPerSecond())));
        words_->setText(text);
    } else {
        words_->setText(tr("Reading was stopped at %1 records: what is counted and summed up here is of these alone.")
                            .arg(progressWords(progress)));
    }
    words_->setToolTip(words_->text());
    button_->setText(isLoading ? tr("Stop") : tr("Read all of them"));
    button_->setToolTip(isLoading ? tr("What has been read stays in sight") : tr("Reads from the first record on"));
    show();
    update();
}

void LoadLine::press() {
    if (!grid_) return;
    grid_->isLoading() ? grid_->cancelLoad() : grid_->reload();
    refresh();
}

void LoadLine::paintEvent(QPaintEvent*) {
    const Tokens& t = tokensAt(*this);
    const bool isStopped = grid_ && !grid_->isLoading();
    QPainter painter(this);
    painter.fillRect(rect(), isStopped ? t.brassPale : t.page);
    painter.fillRect(0, 0, width(), share_ >= 0 ? kBarPx : 1, isStopped ? t.ribbonEdge : t.hair);
    if (share_ >= 0) painter.fillRect(0, 0, static_cast<int>(width() * share_), kBarPx, t.teal);
}

}  // namespace jollyrow
