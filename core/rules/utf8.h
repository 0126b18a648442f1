// SPDX-License-Identifier: MIT
#pragma once
// UTF-8 by code points (RFC 3629): checking, counting, stepping. Texts of a database may be broken: a byte that
// belongs to no code point counts as one.

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace jollyrow {

/// Offset of the first byte that is not valid UTF-8.
std::optional<std::size_t> firstBrokenUtf8(std::string_view text);
/// Bytes of the code point at `at`. Requires: at < text.size().
inline std::size_t codePointBytes(std::string_view text, std::size_t at) {
    std::size_t end = at + 1;
    const auto lead = static_cast<unsigned char>(text[at]);
    const std::size_t most = lead < 0xC0 ? 1 : lead < 0xE0 ? 2 : lead < 0xF0 ? 3 : 4;
    while (end < text.size() && end - at < most && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) ++end;
    return end - at;
}
/// Writes one behind a text. Requires: it is no surrogate and no larger than 10FFFF.
void appendUtf8(std::string& out, std::uint32_t codePoint);
/// Lower case by Unicode's simple mapping, as LOWER() has it.
std::string lowered(std::string_view text);
/// Upper case likewise, as UPPER() has it.
std::string uppered(std::string_view text);
std::size_t codePointCount(std::string_view text);
/// Byte offset of the n-th code point, text.size() when there are fewer.
std::size_t codePointOffset(std::string_view text, std::size_t n);

}  // namespace jollyrow
