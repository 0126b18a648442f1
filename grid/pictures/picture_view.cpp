// SPDX-License-Identifier: MIT
#include "grid/pictures/picture_view.h"

#include <QPainter>
#include <QScreen>
#include <QVBoxLayout>

#include "grid/api/grid.h"

namespace jollyrow {
namespace {
constexpr int kCaption = 20;
}

PictureView::PictureView(PictureShelf& shelf, QWidget* parent)
    : QWidget(parent), shelf_(shelf), look_(tokens(Theme::Light)) {
    setMinimumWidth(kWidth);
    setFixedHeight(kHeight + kCaption);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void PictureView::show(SourceRow row, FieldIndex field) {
    place_ = {row, field};
    update();
}

void PictureView::showNone() {
    place_.reset();
    update();
}

ShownPicture PictureView::now() const {
    const qreal ratio = devicePixelRatioF();
    return shelf_.shown(
        {place_->first, place_->second, (QSizeF(std::max(width(), kWidth), kHeight) * ratio).toSize(), false});
}

QString PictureView::caption() const {
    if (!place_) return Grid::tr("No picture");
    const ShownPicture picture = now();
    if (picture.state == ShownPicture::State::Failed) return QString::fromStdString(picture.why);
    if (picture.natural.isEmpty()) return Grid::tr("Being read…");
    const std::string_view kind = name(picture.kind);
    return Grid::tr("%1, %2 × %3, %4 kB")
        .arg(QString::fromUtf8(kind.data(), static_cast<qsizetype>(kind.size())))
        .arg(picture.natural.width())
        .arg(picture.natural.height())
        .arg(static_cast<double>(picture.bytes) / 1000, 0, 'f', 1);
}

void PictureView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const QRectF room(0, 0, width(), kHeight);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(look_.panel);
    painter.drawRoundedRect(room, 4, 4);
    if (place_) {
        const ShownPicture picture = now();
        if (picture.state == ShownPicture::State::There) {
            QRectF at(QPointF(), QSizeF(picture.image.size()) / devicePixelRatioF());
            at.moveCenter(room.center());
            at.moveTopLeft({std::round(at.left()), std::round(at.top())});
            painter.drawImage(at, picture.image);
        }
    }
    painter.setPen(look_.ink2);
    painter.drawText(QRectF(0, kHeight + 2, width(), kCaption - 2), Qt::AlignCenter,
                     painter.fontMetrics().elidedText(caption(), Qt::ElideRight, width()));
}

PictureCard::PictureCard(PictureShelf& shelf, QWidget* parent)
    : QWidget(parent, Qt::ToolTip | Qt::FramelessWindowHint),
      view_(new PictureView(shelf, this)),
      look_(tokens(Theme::Light)) {
    setObjectName(QStringLiteral("pictureCard"));
    setAttribute(Qt::WA_ShowWithoutActivating);
    setAttribute(Qt::WA_TransparentForMouseEvents);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 8, 8, 4);
    layout->addWidget(view_);
}

void PictureCard::showBeside(const QRect& cell, SourceRow row, FieldIndex field, const Tokens& look) {
    look_ = look;
    view_->setLook(look);
    view_->show(row, field);
    adjustSize();
    const QRect screen = parentWidget()->screen()->availableGeometry();
    QPoint at(cell.right() + 8, cell.top() - height() / 3);
    if (at.x() + width() > screen.right()) at.setX(cell.left() - 8 - width());
    at.setX(std::max(at.x(), screen.left()));
    at.setY(std::clamp(at.y(), screen.top(), std::max(screen.top(), screen.bottom() - height())));
    move(at);
    QWidget::show();
}

void PictureCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look_.paper);
    painter.setPen(look_.popEdge);
    painter.drawRect(rect().adjusted(0, 0, -1, -1));
}

}  // namespace jollyrow
