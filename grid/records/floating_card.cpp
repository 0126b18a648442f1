// SPDX-License-Identifier: MIT
#include "grid/records/floating_card.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "grid/paint/card.h"
#include "grid/paint/fonts.h"

namespace jollyrow {
namespace {
constexpr int kShadow = 10, kInside = 18, kFootHeight = 52;
}

FloatingCard::FloatingCard(const QString& heading, const Tokens& look, QWidget* parent)
    : QFrame(parent), look_(look), body_(new QVBoxLayout), foot_(new QHBoxLayout) {
    setAttribute(Qt::WA_DeleteOnClose);
    setAccessibleName(heading);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(kShadow, kShadow, kShadow, kShadow);
    layout->setSpacing(0);
    body_->setContentsMargins(kInside, 14, kInside, 14);
    body_->setSpacing(8);
    auto* title = new QLabel(heading, this);
    title->setTextFormat(Qt::PlainText);
    title->setWordWrap(true);
    title->setFont(scaledFont(font(), 1.12));
    body_->addWidget(title);
    layout->addLayout(body_, 1);
    auto* footBox = new QWidget(this);
    footBox->setFixedHeight(kFootHeight);
    foot_->setContentsMargins(kInside, 0, kInside, 0);
    foot_->setSpacing(10);
    footBox->setLayout(foot_);
    layout->addWidget(footBox);
}

QPushButton* FloatingCard::addButton(const QString& words, Weight weight) {
    auto* button = new QPushButton(words, this);
    button->setCursor(Qt::PointingHandCursor);
    const bool isMain = weight == Weight::Main;
    button->setDefault(isMain);
    button->setStyleSheet(
        QStringLiteral("QPushButton{border:1px solid %1;border-radius:5px;background:%2;color:%3;padding:6px "
                       "14px;font-weight:%4}QPushButton:focus{border:2px solid %5;padding:5px "
                       "13px}QPushButton:disabled{color:%6}")
            .arg((isMain ? look_.teal : look_.popEdge).name(), (isMain ? look_.teal : look_.paper).name(),
                 (isMain ? look_.onTeal : look_.ink).name(), isMain ? QStringLiteral("600") : QStringLiteral("500"),
                 (isMain ? look_.ink : look_.teal).name(), look_.ink3.name()));
    foot_->addWidget(button);
    return button;
}

void FloatingCard::addStretch() { foot_->addStretch(1); }

QLabel* FloatingCard::quietLabel(const QString& words) {
    auto* label = new QLabel(words, this);
    label->setTextFormat(Qt::PlainText);
    QPalette quiet = label->palette();
    quiet.setColor(QPalette::WindowText, look_.ink2);
    label->setPalette(quiet);
    return label;
}

void FloatingCard::openAt(const QRect& anchor) {
    const QRect room = parentWidget()->rect();
    adjustSize();
    const int width = std::min(sizeHint().width(), room.width());
    const int height = std::min(hasHeightForWidth() ? heightForWidth(width) : sizeHint().height(), room.height());
    int y = anchor.bottom() - kShadow + 6;
    if (y + height > room.bottom() && anchor.top() - height + kShadow > 0) y = anchor.top() - height + kShadow - 4;
    y = std::clamp(y, 0, std::max(0, room.bottom() - height));
    setGeometry(std::clamp(anchor.left() - kShadow, 0, std::max(0, room.right() - width)), y, width, height);
    show();
    raise();
    setFocus();
}

void FloatingCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const QRectF card = QRectF(rect()).adjusted(kShadow + 0.5, kShadow + 0.5, -kShadow - 0.5, -kShadow - 0.5);
    paintCard(painter, card, kShadow, look_);
    QRectF foot = card.adjusted(1, 0, -1, -1);
    foot.setTop(card.bottom() - kFootHeight);
    painter.setPen(Qt::NoPen);
    painter.setBrush(look_.panel);
    painter.drawRoundedRect(foot, 5, 5);
    painter.fillRect(QRectF(foot.left(), foot.top(), foot.width(), 8), look_.panel);
    painter.fillRect(QRectF(foot.left(), foot.top(), foot.width(), 1), look_.hair);
}

void FloatingCard::keyPressEvent(QKeyEvent* event) {
    if (event->key() != Qt::Key_Escape) return QFrame::keyPressEvent(event);
    close();
}

void FloatingCard::closeEvent(QCloseEvent* event) {
    QFrame::closeEvent(event);
    Q_EMIT closed();
}

}  // namespace jollyrow
