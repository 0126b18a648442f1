// SPDX-License-Identifier: MIT
#pragma once
// Pictures made byte by byte, for tests: headers that say what they like.

#include <cstdint>
#include <string>

namespace jollyrow::test {

inline std::string bigEndian(std::uint32_t value, int bytes) {
    std::string out;
    for (int i = bytes - 1; i >= 0; --i) out += static_cast<char>(value >> (8 * i) & 0xff);
    return out;
}

/// A PNG's signature and IHDR chunk; nothing behind them.
inline std::string pngHeader(std::uint32_t width, std::uint32_t height) {
    return "\x89PNG\r\n\x1a\n" + bigEndian(13, 4) + "IHDR" + bigEndian(width, 4) + bigEndian(height, 4) +
           std::string("\x08\x02\x00\x00\x00", 5) + bigEndian(0, 4);
}

/// A JPEG up to its frame header, behind `before` more segments of 200 bytes and some fill bytes.
inline std::string jpegHeader(std::uint32_t width, std::uint32_t height, int before = 1, char frame = '\xc0') {
    std::string out = "\xff\xd8";
    for (int i = 0; i < before; ++i) out += "\xff\xff\xe1" + bigEndian(202, 2) + std::string(200, '\xff');
    return out + "\xff" + frame + bigEndian(17, 2) + "\x08" + bigEndian(height, 2) + bigEndian(width, 2) +
           std::string("\x03\x01\x22\x00\x02\x11\x01\x03\x11\x01", 10);
}

}  // namespace jollyrow::test
