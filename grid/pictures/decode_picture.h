// SPDX-License-Identifier: MIT
#pragma once
// decodePicture: bytes that nobody vouches for become a picture of the size in which it is seen, or words for why not.
// Sizes are bounded before anything is decoded, SVG is cleaned first (core/pictures). Any thread.

#include <QImage>
#include <QSize>

#include <string>

#include "core/base/result.h"
#include "core/pictures/picture_kind.h"

namespace jollyrow {

struct DecodedPicture {
    QImage image;   ///< premultiplied ARGB, no larger than asked for
    QSize natural;  ///< pixels of the picture itself; of an SVG those that it says
    PictureKind kind = PictureKind::Png;
};

/// Fitted into `box`, or filling it and cut evenly at its edges. One to be fitted that is smaller than the box stays as
/// large as it is, unless it is an SVG. Requires: a box of at least 1 x 1 and at most 4096 x 4096 pixels.
Result<DecodedPicture> decodePicture(const std::string& bytes, QSize box, bool fills);

}  // namespace jollyrow
