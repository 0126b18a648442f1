// SPDX-License-Identifier: MIT
#include "grid/editors/message_strip.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include "grid/paint/looks.h"

namespace jollyrow {
namespace {
constexpr int kTooth = 6;
}

MessageStrip::MessageStrip(QWidget* parent) : QWidget(parent), label_(new QLabel(this)), row_(new QHBoxLayout(this)) {
    setObjectName(QStringLiteral("messageStrip"));
    row_->setContentsMargins(12, kTooth + 4, 12, 5);
    row_->setSpacing(14);
    row_->addWidget(label_, 1);
    label_->setWordWrap(true);
    label_->setTextFormat(Qt::PlainText);
    hide();
}

QString MessageStrip::message() const { return label_->text(); }

void MessageStrip::focusFirst() {
    if (!links_.empty()) links_.front()->setFocus();
}

void MessageStrip::showUnder(const QRect& cell, const QRect& room, const QString& message,
                             const std::vector<Link>& links) {
    const Tokens& t = tokensAt(*this);
    QPalette colours = label_->palette();
    colours.setColor(QPalette::WindowText, t.buoyText);
    label_->setPalette(colours);
    label_->setText(message);
    for (QWidget* link : links_) {  // one of them may be at work just now
        link->hide();
        row_->removeWidget(link);
        link->deleteLater();
    }
    links_.clear();
    int linksWidth = 0;
    for (const Link& link : links) {
        auto* button = new QPushButton(link.text, this);
        button->setFlat(true);
        button->setCursor(Qt::PointingHandCursor);
        QFont underlined = font();
        underlined.setUnderline(true);
        underlined.setWeight(QFont::Medium);
        button->setFont(underlined);
        button->setStyleSheet(
            QStringLiteral(
                "QPushButton{border:none;background:transparent;padding:0;color:%1}QPushButton:focus{background:%2}")
                .arg(t.ink.name(), t.buoyPaleEdge.name()));
        connect(button, &QPushButton::clicked, this, [act = link.act] { act(); });
        row_->addWidget(button);
        links_.push_back(button);
        linksWidth += button->sizeHint().width() + row_->spacing();
    }
    const int wished = label_->fontMetrics().horizontalAdvance(message) + 4 + 24 + linksWidth;
    const int width = std::min(wished, room.width() - 8);
    const int textWidth = std::max(60, width - 24 - linksWidth);
    const int height =
        label_->heightForWidth(textWidth) + row_->contentsMargins().top() + row_->contentsMargins().bottom();
    const int x =
        std::clamp(cell.center().x() - width / 2, room.left() + 4, std::max(room.left() + 4, room.right() - width - 4));
    int y = cell.bottom() - 1;
    if (y + height > room.bottom()) y = std::max(room.top(), cell.top() - height);
    setGeometry(x, y, width, height);
    toothX_ = std::clamp(cell.center().x() - x, 14, std::max(14, width - 14));
    show();
    raise();
    update();
}

void MessageStrip::paintEvent(QPaintEvent*) {
    const Tokens& t = tokensAt(*this);
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    QPainterPath shape;
    shape.addRoundedRect(QRectF(rect()).adjusted(0.5, kTooth + 0.5, -0.5, -0.5), 4, 4);
    QPainterPath tooth(QPointF(toothX_ - 7, kTooth + 1));
    tooth.lineTo(toothX_, 0.5);
    tooth.lineTo(toothX_ + 7, kTooth + 1);
    tooth.closeSubpath();
    painter.setPen(QPen(t.buoyPaleEdge, 1));
    painter.setBrush(t.buoyPale);
    painter.drawPath(shape.united(tooth));
}

}  // namespace jollyrow
