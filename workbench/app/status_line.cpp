// SPDX-License-Identifier: MIT
#include "workbench/app/status_line.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QProgressBar>
#include <QTimer>
#include <QToolButton>

#include "workbench/app/icons.h"
#include "workbench/app/look.h"

namespace jollyrow {

StatusLine::StatusLine(QWidget* parent)
    : QWidget(parent),
      findings_(new QToolButton(this)),
      unsaved_(new QLabel(this)),
      said_(new QLabel(this)),
      selection_(new QLabel(this)),
      memory_(new QLabel(this)),
      progressText_(new QLabel(this)),
      progress_(new QProgressBar(this)),
      cancel_(new QToolButton(this)),
      saidTimer_(new QTimer(this)) {
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(10, 0, 14, 0);
    layout->setSpacing(14);
    findings_->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    findings_->setStyleSheet(QStringLiteral("QToolButton{padding:0 4px;border:none}"));
    progress_->setFixedWidth(scaled(120));
    progress_->setTextVisible(false);
    cancel_->setText(tr("Cancel"));
    cancel_->setStyleSheet(QStringLiteral("QToolButton{padding:0 4px;border:none;text-decoration:underline}"));
    for (QWidget* widget :
         std::initializer_list<QWidget*>{findings_, unsaved_, said_, progressText_, progress_, cancel_})
        layout->addWidget(widget);
    layout->addStretch();
    layout->addWidget(selection_);
    layout->addWidget(memory_);
    for (QLabel* label : {unsaved_, said_, selection_, memory_, progressText_}) {
        label->setFont(sized(11));
        label->setForegroundRole(QPalette::PlaceholderText);
        label->setTextFormat(Qt::PlainText);
    }
    findings_->setFont(sized(11));
    cancel_->setFont(sized(11));
    setFixedHeight(std::max(24, QFontMetrics(sized(11)).height() + 8));
    saidTimer_->setSingleShot(true);
    connect(saidTimer_, &QTimer::timeout, said_, &QLabel::clear);
    connect(findings_, &QToolButton::clicked, this, &StatusLine::findingsClicked);
    connect(cancel_, &QToolButton::clicked, this, &StatusLine::cancelClicked);
    setFindings(0);
    setUnsaved(0);
    endProgress();
}

void StatusLine::setFindings(int count) {
    findings_->setText(count == 0 ? tr("0 findings") : count == 1 ? tr("1 finding") : tr("%1 findings").arg(count));
    findings_->setIcon(makeIcon(count == 0 ? Icon::Tick : Icon::Warning, count == 0 ? look().teal : look().buoy, 13));
}

void StatusLine::setUnsaved(std::size_t edits) {
    unsaved_->setVisible(edits != 0);
    unsaved_->setText(edits == 1 ? tr("1 edit not saved") : tr("%1 edits not saved").arg(edits));
}

void StatusLine::setSelection(const QString& text) { selection_->setText(text); }
void StatusLine::setMemory(const QString& text) { memory_->setText(text); }

void StatusLine::setProgress(const QString& text, double share) {
    progressText_->setText(text);
    progress_->setRange(0, share < 0 ? 0 : 1000);
    if (share >= 0) progress_->setValue(static_cast<int>(share * 1000));
    for (QWidget* widget : std::initializer_list<QWidget*>{progressText_, progress_, cancel_}) widget->show();
}

void StatusLine::endProgress() {
    for (QWidget* widget : std::initializer_list<QWidget*>{progressText_, progress_, cancel_}) widget->hide();
}

void StatusLine::say(const QString& text, bool isError) {
    QPalette colours = palette();
    colours.setColor(QPalette::PlaceholderText, isError ? look().buoyText : look().ink2);
    said_->setPalette(colours);
    said_->setText(text);
    saidTimer_->start(isError ? 12000 : 5000);
}

void StatusLine::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look().page);
    painter.fillRect(0, 0, width(), 1, look().hair);
}

}  // namespace jollyrow
