// SPDX-License-Identifier: MIT
#include "demo/vessel_picture.h"

#include <QBuffer>
#include <QImage>
#include <QPainter>
#include <QPainterPath>

#include <array>

namespace jollyrow::demo {
namespace {

constexpr int kWidth = 96, kHeight = 72;
constexpr std::array<QRgb, 5> kHulls = {0xff1e7f78, 0xffb3402a, 0xff34506b, 0xff6d4f33, 0xfff2eee4};
constexpr std::array<QRgb, 4> kSails = {0xfff7f1e3, 0xffc98a4b, 0xffd9d2c3, 0xffa8503a};

void drawWater(QPainter& painter) {
    // Bands, for a small PNG.
    constexpr std::array<QRgb, 4> kSky = {0xffd7e5ea, 0xffe0e8e7, 0xffe9ebe3, 0xfff3ede0};
    for (int band = 0; band < 4; ++band) painter.fillRect(0, band * 13, kWidth, 13, QColor(kSky[band]));
    painter.fillRect(0, 49, kWidth, kHeight - 49, QColor(0x8fb9c4));
    painter.setPen(QPen(QColor(0xb9d6dc), 1.4));
    for (int y = 56; y < kHeight; y += 6) painter.drawLine(8 + y % 12, y, 84 - y % 18, y);
}

void drawHull(QPainter& painter, QColor colour) {
    QPainterPath hull(QPointF(16, 47));
    hull.lineTo(82, 45);
    hull.cubicTo(78, 56, 72, 60, 66, 60);
    hull.lineTo(28, 60);
    hull.cubicTo(22, 58, 18, 54, 16, 47);
    painter.setPen(QPen(colour.darker(140), 1.2));
    painter.setBrush(colour);
    painter.drawPath(hull);
}

void drawSails(QPainter& painter, QColor colour, bool gaff) {
    painter.setPen(QPen(QColor(0x4a3b2c), 2));
    painter.drawLine(QPointF(46, 46), QPointF(46, 10));
    QPainterPath main(QPointF(49, 43));
    main.lineTo(76, 41);
    main.lineTo(gaff ? QPointF(66, 12) : QPointF(49, 12));
    main.lineTo(49, gaff ? 20 : 12);
    main.closeSubpath();
    QPainterPath jib(QPointF(43, 43));
    jib.lineTo(22, 44);
    jib.lineTo(43, 16);
    jib.closeSubpath();
    painter.setPen(QPen(colour.darker(130), 1));
    painter.setBrush(colour);
    painter.drawPath(main);
    painter.drawPath(jib);
}

void drawCabin(QPainter& painter, QColor colour) {
    painter.setPen(QPen(colour.darker(130), 1));
    painter.setBrush(colour);
    painter.drawRoundedRect(QRectF(38, 32, 26, 14), 2, 2);
    painter.setBrush(QColor(0x5d7f8c));
    painter.drawRect(QRectF(43, 35, 6, 5));
    painter.drawRect(QRectF(53, 35, 6, 5));
    painter.setPen(QPen(QColor(0x4a3b2c), 2));
    painter.drawLine(QPointF(51, 32), QPointF(51, 20));
}

}  // namespace

std::string vesselPicture(int n) {
    const QColor hull = QColor::fromRgb(kHulls[static_cast<std::size_t>(n) % kHulls.size()]);
    const QColor sail = QColor::fromRgb(kSails[static_cast<std::size_t>(n / 5) % kSails.size()]);
    QImage image(kWidth, kHeight, QImage::Format_RGB32);
    QPainter painter(&image);
    painter.setRenderHint(QPainter::Antialiasing);
    drawWater(painter);
    switch (n / 20) {
        case 0: drawSails(painter, sail, false); break;
        case 1: drawSails(painter, sail, true); break;
        default: drawCabin(painter, sail); break;
    }
    drawHull(painter, hull);
    painter.end();
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    image.convertToFormat(QImage::Format_RGB888).save(&buffer, "PNG", 10);
    return bytes.toStdString();
}

}  // namespace jollyrow::demo
