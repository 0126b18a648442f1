// SPDX-License-Identifier: MIT
// Covered by tests/design/field_names_test.cpp.
#include "core/formats/message_names.h"

#include <unicode/messagepattern.h>
#include <unicode/unistr.h>

#include <algorithm>
#include <cctype>

namespace jollyrow {
namespace {

/// ICU's names have no full stop: a letter stands for each within braces, in the same place.
constexpr char16_t kStop = 0xA78F;

icu::UnicodeString withLetters(const icu::UnicodeString& pattern) {
    icu::UnicodeString out = pattern;
    bool inName = false;
    for (std::int32_t i = 0; i < out.length(); ++i) {
        const char16_t c = out[i];
        if (c == u'{') inName = true;
        if (c == u',' || c == u'}' || c == u'\'') inName = false;
        if (inName && c == u'.') out.setCharAt(i, kStop);
    }
    return out;
}

}  // namespace

std::string withNamesRenamed(const std::string& pattern,
                             const std::function<std::string(const std::string& name)>& renamed) {
    icu::UnicodeString text = icu::UnicodeString::fromUTF8(pattern);
    UErrorCode status = U_ZERO_ERROR;
    const icu::MessagePattern parts(withLetters(text), nullptr, status);
    if (U_FAILURE(status)) return pattern;
    // From the last one on, so that the places of those before stay.
    for (std::int32_t i = parts.countParts(); i-- > 0;) {
        const icu::MessagePattern::Part& part = parts.getPart(i);
        if (part.getType() != UMSGPAT_PART_TYPE_ARG_NAME) continue;
        std::string name;
        text.tempSubString(part.getIndex(), part.getLength()).toUTF8String(name);
        const std::string now = renamed(name);
        if (now != name) text.replace(part.getIndex(), part.getLength(), icu::UnicodeString::fromUTF8(now));
    }
    std::string out;
    return text.toUTF8String(out);
}

bool canStandInBraces(const std::string& name) {
    return !name.empty() && std::all_of(name.begin(), name.end(), [](unsigned char c) {
        return c >= 0x80 || std::isalnum(c) != 0 || c == '_' || c == '.';
    });
}

}  // namespace jollyrow
