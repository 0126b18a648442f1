// SPDX-License-Identifier: MIT
#include "workbench/fittings/fitting_section.h"

#include <QPainter>
#include <QScrollArea>

#include "workbench/app/look.h"

namespace jollyrow {

Section::Section(const QString& title, QWidget* parent)
    : QWidget(parent), body_(new QVBoxLayout(this)), note_(new QLabel(this)) {
    body_->setContentsMargins(14, 8, 12, 9);
    body_->setSpacing(6);
    auto* label = new QLabel(title, this);
    label->setFont(sized(11, QFont::Medium));
    label->setForegroundRole(QPalette::PlaceholderText);
    note_->setFont(sized(11));
    note_->setForegroundRole(QPalette::PlaceholderText);
    auto* head = new QHBoxLayout;
    head->addWidget(label, 1);
    head->addWidget(note_);
    body_->addLayout(head);
}

QHBoxLayout* Section::row() {
    auto* row = new QHBoxLayout;
    row->setSpacing(7);
    body_->addLayout(row);
    return row;
}

void Section::setNote(const QString& note) { note_->setText(note); }

void Section::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(0, 0, width(), 1, look().hair);
}

QLabel* quietLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setForegroundRole(QPalette::PlaceholderText);
    return label;
}

QLabel* problemLabel(QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setObjectName(QStringLiteral("problem"));
    label->setWordWrap(true);
    QPalette red = label->palette();
    red.setColor(QPalette::WindowText, look().buoyText);
    label->setPalette(red);
    label->hide();
    return label;
}

QSpinBox* pixelsBox(int least, int most, QWidget* parent) {
    auto* box = new QSpinBox(parent);
    box->setRange(least, most);
    box->setSuffix(QObject::tr(" px"));
    box->setFixedWidth(scaled(74));
    box->setAlignment(Qt::AlignRight);
    box->setKeyboardTracking(false);
    return box;
}

QLineEdit* smallEntry(const QString& accessibleName, int widthPx, QWidget* parent) {
    auto* entry = new QLineEdit(parent);
    entry->setAccessibleName(accessibleName);
    if (widthPx > 0) entry->setFixedWidth(scaled(widthPx));
    return entry;
}

void fillEntry(QLineEdit* entry, const QString& text) {
    if (entry->text() != text) entry->setText(text);
}

QWidget* scrollingPage(QWidget* content, QWidget* parent) {
    auto* area = new QScrollArea(parent);
    area->setFrameShape(QFrame::NoFrame);
    area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area->setWidgetResizable(true);
    area->setWidget(content);
    area->viewport()->setAutoFillBackground(false);
    content->setAutoFillBackground(false);
    return area;
}

}  // namespace jollyrow
