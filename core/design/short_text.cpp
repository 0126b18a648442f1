// SPDX-License-Identifier: MIT
// Covered by tests/design/grouping_test.cpp.
#include "core/design/short_text.h"

namespace jollyrow {
namespace {
constexpr std::size_t kShortBytes = 200;
}

void appendShort(std::string& out, std::string_view text) {
    if (text.size() <= kShortBytes) return void(out += text);
    std::size_t end = kShortBytes;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) --end;
    out.append(text.substr(0, end));
    out += "…";
}

void shorten(std::string& text) {
    if (text.size() <= kShortBytes) return;
    std::string cut;
    appendShort(cut, text);
    text = std::move(cut);
}

}  // namespace jollyrow
