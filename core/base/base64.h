// SPDX-License-Identifier: MIT
#pragma once
// Base64 (RFC 4648, 4), as data: URLs have it.

#include <optional>
#include <string>
#include <string_view>

namespace jollyrow {

/// The bytes that a text stands for; white space in it is passed over. nullopt when it is none. O(length).
inline std::optional<std::string> fromBase64(std::string_view text) {
    std::string out;
    out.reserve(text.size() / 4 * 3);
    unsigned bits = 0, held = 0, padding = 0;
    for (const char c : text) {
        if (c == ' ' || c == '\n' || c == '\r' || c == '\t') continue;
        if (c == '=') {
            ++padding;
            continue;
        }
        const int digit = c >= 'A' && c <= 'Z'   ? c - 'A'
                          : c >= 'a' && c <= 'z' ? c - 'a' + 26
                          : c >= '0' && c <= '9' ? c - '0' + 52
                          : c == '+'             ? 62
                          : c == '/'             ? 63
                                                 : -1;
        if (digit < 0 || padding > 0) return std::nullopt;
        bits = bits << 6 | static_cast<unsigned>(digit);
        held += 6;
        if (held < 8) continue;
        held -= 8;
        out += static_cast<char>(bits >> held & 0xff);
    }
    if (padding > 2 || held >= 6) return std::nullopt;
    return out;
}

/// O(length).
inline std::string toBase64(std::string_view bytes) {
    constexpr char kDigits[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string out;
    out.reserve((bytes.size() + 2) / 3 * 4);
    for (std::size_t i = 0; i < bytes.size(); i += 3) {
        unsigned three = 0;
        for (std::size_t k = 0; k < 3; ++k)
            three = three << 8 | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U);
        for (std::size_t k = 0; k < 4; ++k)
            out += i + k > bytes.size() ? '=' : kDigits[three >> (18 - 6 * k) & 63U];
    }
    return out;
}

}  // namespace jollyrow
