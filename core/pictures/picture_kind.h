// SPDX-License-Identifier: MIT
#pragma once
// What a picture is by its first bytes, and how large, without decoding it. Values of a database are not trusted: sizes
// are known, and bounded, before any decoder sees them.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace jollyrow {

enum class PictureKind {
    Png,   ///< ISO/IEC 15948
    Jpeg,  ///< ISO/IEC 10918-1
    Svg,   ///< W3C Scalable Vector Graphics
};

/// "PNG", "JPEG", "SVG".
std::string_view name(PictureKind kind);
/// "image/png" and so on (RFC 2046, RFC 3302).
std::string_view mediaType(PictureKind kind);

/// By its first bytes, whatever a name says. nullopt for anything else. O(1).
std::optional<PictureKind> pictureKind(std::string_view bytes);

struct PictureSize {
    int width = 0, height = 0;  ///< pixels
    bool operator==(const PictureSize&) const = default;
};

inline constexpr std::size_t kMostPictureBytes = 32'000'000;
inline constexpr std::int64_t kMostPicturePixels = 30'000'000;

/// As the header of a PNG or JPEG says. Fails when it is none, is broken off, or is larger than is decoded here (the
/// bounds above). O(bytes) for a JPEG, whose size stands somewhere within. Requires: not an SVG, which has no pixels.
Result<PictureSize> pictureSize(std::string_view bytes);

}  // namespace jollyrow
