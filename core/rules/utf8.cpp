// SPDX-License-Identifier: MIT
#include "core/rules/utf8.h"

#include <unicode/utf8.h>

#include <algorithm>
#include <cstdint>

namespace jollyrow {

std::optional<std::size_t> firstBrokenUtf8(std::string_view text) {
    const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
    const auto length = static_cast<std::int64_t>(text.size());
    for (std::int64_t at = 0; at < length;) {
        if (bytes[at] < 0x80) {
            ++at;
            continue;
        }
        const std::int64_t start = at;
        UChar32 c = 0;
        U8_NEXT(bytes, at, length, c);
        if (c < 0) return static_cast<std::size_t>(start);
    }
    return std::nullopt;
}

std::size_t codePointCount(std::string_view text) {
    const bool ascii =
        std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
    if (ascii) return text.size();
    std::size_t count = 0;
    for (std::size_t at = 0; at < text.size(); at += codePointBytes(text, at)) ++count;
    return count;
}

std::size_t codePointOffset(std::string_view text, std::size_t n) {
    std::size_t at = 0;
    for (; n > 0 && at < text.size(); --n) at += codePointBytes(text, at);
    return at;
}

void appendUtf8(std::string& out, std::uint32_t codePoint) {
    char bytes[U8_MAX_LENGTH];
    std::int32_t count = 0;
    U8_APPEND_UNSAFE(bytes, count, codePoint);
    out.append(bytes, static_cast<std::size_t>(count));
}

}  // namespace jollyrow
