// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_pictures.cpp and tests/fuzz/picture_fuzz.cpp.
#include "grid/pictures/decode_picture.h"

#include <QBuffer>
#include <QImageReader>
#include <QPainter>
#include <QSvgRenderer>

#include <algorithm>

#include "core/pictures/safe_svg.h"

namespace jollyrow {
namespace {

Error damaged(PictureKind kind) {
    const std::string_view known = name(kind);
    return {ErrorCode::InvalidInput, "The " + std::string(known) + " breaks off or is damaged."};
}

QSize scaledTo(QSize natural, QSize box, bool fills) {
    QSize size = natural.scaled(box, fills ? Qt::KeepAspectRatioByExpanding : Qt::KeepAspectRatio);
    return size.expandedTo({1, 1});
}

/// What stands in the middle.
QImage cutTo(const QImage& image, QSize box) {
    const QSize size = image.size().boundedTo(box);
    if (size == image.size()) return image;
    return image.copy(QRect(QPoint((image.width() - size.width()) / 2, (image.height() - size.height()) / 2), size));
}

Result<DecodedPicture> drawn(const std::string& bytes, QSize box, bool fills) {
    auto safe = safeSvg(bytes);
    if (!safe) return safe.error();
    QSvgRenderer renderer;
    if (!renderer.load(QByteArray::fromRawData(safe->data(), static_cast<qsizetype>(safe->size()))))
        return damaged(PictureKind::Svg);
    const QRectF view = renderer.viewBoxF();
    QSizeF natural = renderer.defaultSize();
    if (natural.isEmpty()) natural = view.size();
    // Neither says how large it is.
    if (!(natural.width() >= 1) || !(natural.height() >= 1)) natural = QSizeF(box);
    const QSize whole = natural.boundedTo(QSizeF(60'000, 60'000)).toSize().expandedTo({1, 1});
    // Of a very long one no more than is seen is drawn.
    const QSize size = scaledTo(whole, box, fills);
    const QSize seen = size.boundedTo(box);
    QImage image(seen, QImage::Format_ARGB32_Premultiplied);
    if (image.isNull()) return damaged(PictureKind::Svg);
    image.fill(Qt::transparent);
    QPainter painter(&image);
    renderer.render(
        &painter,
        QRectF(QPointF((seen.width() - size.width()) / 2.0, (seen.height() - size.height()) / 2.0), QSizeF(size)));
    painter.end();
    return DecodedPicture{image, whole, PictureKind::Svg};
}

}  // namespace

Result<DecodedPicture> decodePicture(const std::string& bytes, QSize box, bool fills) {
    const auto kind = pictureKind(bytes);
    if (kind == PictureKind::Svg) return drawn(bytes, box, fills);
    const auto known = pictureSize(bytes);  // also says what is no picture at all
    if (!known) return known.error();
    QByteArray data = QByteArray::fromRawData(bytes.data(), static_cast<qsizetype>(bytes.size()));
    QBuffer buffer(&data);
    buffer.open(QIODevice::ReadOnly);
    QImageReader reader(&buffer, *kind == PictureKind::Png ? "png" : "jpeg");
    reader.setDecideFormatFromContent(false);
    reader.setAutoTransform(true);  // as the camera was held (Exif)
    QSize natural(known->width, known->height);
    const bool isTurned = reader.transformation() & QImageIOHandler::TransformationRotate90;
    const QSize upright = isTurned ? natural.transposed() : natural;
    const QSize size = scaledTo(upright, box, fills);
    const bool shrinks = size.width() < upright.width() && size.height() < upright.height();
    // Decoders leave out what is not seen: twice the size is enough to scale from.
    if (shrinks && *kind == PictureKind::Jpeg && size.width() * 2 < upright.width()) {
        const QSize twice = size * 2;
        reader.setScaledSize(isTurned ? twice.transposed() : twice);
    }
    QImage image = reader.read();
    if (image.isNull()) return damaged(*kind);
    if (shrinks || (fills && image.size() != size))
        image = image.scaled(size, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
    if (fills) image = cutTo(image, box);
    return DecodedPicture{image.convertToFormat(QImage::Format_ARGB32_Premultiplied), upright, *kind};
}

}  // namespace jollyrow
