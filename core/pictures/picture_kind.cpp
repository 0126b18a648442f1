// SPDX-License-Identifier: MIT
// Covered by tests/pictures/picture_test.cpp.
#include "core/pictures/picture_kind.h"

#include <fmt/format.h>

namespace jollyrow {
namespace {

constexpr std::string_view kPng = "\x89PNG\r\n\x1a\n";
constexpr std::string_view kJpeg = "\xff\xd8\xff";

std::uint32_t bigEndian(std::string_view bytes, std::size_t at, std::size_t count) {
    std::uint32_t value = 0;
    for (std::size_t i = 0; i < count; ++i) value = value << 8 | static_cast<unsigned char>(bytes[at + i]);
    return value;
}

bool isSvg(std::string_view bytes) {
    constexpr std::size_t kLookedAt = 4096;
    bytes = bytes.substr(0, kLookedAt);
    if (bytes.starts_with("\xef\xbb\xbf")) bytes.remove_prefix(3);
    const std::size_t first = bytes.find_first_not_of(" \t\r\n");
    if (first == std::string_view::npos || bytes[first] != '<') return false;
    // Behind a declaration and comments the root stands first, perhaps with a prefix.
    for (std::size_t at = first; at != std::string_view::npos; at = bytes.find('<', at + 1)) {
        const std::string_view rest = bytes.substr(at + 1);
        if (rest.starts_with("!--")) {
            at = bytes.find("-->", at);
            if (at == std::string_view::npos) return false;
            continue;
        }
        if (rest.starts_with('?') || rest.starts_with('!')) continue;
        std::string_view name = rest.substr(0, rest.find_first_of(" \t\r\n/>"));
        if (const std::size_t colon = name.find(':'); colon != std::string_view::npos) name.remove_prefix(colon + 1);
        return name == "svg";
    }
    return false;
}

Error broken(std::string_view kind) {
    return {ErrorCode::InvalidInput, fmt::format("The {} breaks off or is damaged.", kind)};
}

Result<PictureSize> bounded(std::uint32_t width, std::uint32_t height, std::string_view kind) {
    if (width == 0 || height == 0) return broken(kind);
    if (width > 60'000 || height > 60'000 || std::int64_t{width} * height > kMostPicturePixels)
        return Error{ErrorCode::Refused,
                     fmt::format("The {} has {} × {} pixels; more than {} million are not shown. Make it smaller.",
                                 kind, width, height, kMostPicturePixels / 1'000'000)};
    return PictureSize{static_cast<int>(width), static_cast<int>(height)};
}

Result<PictureSize> pngSize(std::string_view bytes) {
    // Signature, then the chunk IHDR: its length, its name, width, height.
    if (bytes.size() < 33 || bytes.substr(12, 4) != "IHDR") return broken("PNG");
    return bounded(bigEndian(bytes, 16, 4), bigEndian(bytes, 20, 4), "PNG");
}

Result<PictureSize> jpegSize(std::string_view bytes) {
    std::size_t at = 2;
    while (at + 4 <= bytes.size() && static_cast<unsigned char>(bytes[at]) == 0xff) {
        const auto marker = static_cast<unsigned char>(bytes[at + 1]);
        if (marker == 0xff) {  // fill bytes may stand before a marker
            ++at;
            continue;
        }
        const bool isAlone = marker == 0x01 || (marker >= 0xd0 && marker <= 0xd8);
        if (isAlone) {
            at += 2;
            continue;
        }
        const std::size_t length = bigEndian(bytes, at + 2, 2);
        // Start of frame, of any process: not the tables DHT, JPG, DAC among those numbers.
        const bool isFrame = marker >= 0xc0 && marker <= 0xcf && marker != 0xc4 && marker != 0xc8 && marker != 0xcc;
        if (isFrame) {
            if (length < 8 || at + 9 > bytes.size()) break;
            return bounded(bigEndian(bytes, at + 7, 2), bigEndian(bytes, at + 5, 2), "JPEG");
        }
        if (marker == 0xda || marker == 0xd9 || length < 2) break;  // pixels without a frame before them
        at += 2 + length;
    }
    return broken("JPEG");
}

}  // namespace

std::string_view name(PictureKind kind) {
    return kind == PictureKind::Png ? "PNG" : kind == PictureKind::Jpeg ? "JPEG" : "SVG";
}

std::string_view mediaType(PictureKind kind) {
    return kind == PictureKind::Png ? "image/png" : kind == PictureKind::Jpeg ? "image/jpeg" : "image/svg+xml";
}

std::optional<PictureKind> pictureKind(std::string_view bytes) {
    if (bytes.starts_with(kPng)) return PictureKind::Png;
    if (bytes.starts_with(kJpeg)) return PictureKind::Jpeg;
    if (isSvg(bytes)) return PictureKind::Svg;
    return std::nullopt;
}

Result<PictureSize> pictureSize(std::string_view bytes) {
    if (bytes.size() > kMostPictureBytes)
        return Error{ErrorCode::Refused,
                     fmt::format("The picture is {:.0f} MB long; more than {} MB are not shown. Make it smaller.",
                                 static_cast<double>(bytes.size()) / 1e6, kMostPictureBytes / 1'000'000)};
    const auto kind = pictureKind(bytes);
    if (kind == PictureKind::Png) return pngSize(bytes);
    if (kind == PictureKind::Jpeg) return jpegSize(bytes);
    return Error{ErrorCode::InvalidInput, "This is no picture: it is neither PNG, JPEG nor SVG."};
}

}  // namespace jollyrow
