// SPDX-License-Identifier: MIT
// Covered by tests/formats/entry_pattern_test.cpp.
#include "core/formats/entry_pattern.h"

#include <fmt/format.h>
#include <unicode/regex.h>

#include <algorithm>
#include <atomic>
#include <vector>

namespace jollyrow {

struct EntryPattern::Compiled {
    std::unique_ptr<icu::RegexPattern> regex;
    std::vector<UChar32>
        candidates;                ///< what is tried behind a text: the printable of ASCII, and what the pattern says
    std::atomic<int> tooLong = 0;  ///< texts that took too long: after some, the next are given less time
};

EntryPattern::EntryPattern(std::unique_ptr<Compiled> compiled) : compiled_(std::move(compiled)) {}
EntryPattern::~EntryPattern() = default;

Result<std::shared_ptr<const EntryPattern>> EntryPattern::make(const std::string& pattern) {
    constexpr std::size_t kLongest = 1000;
    if (pattern.size() > kLongest) return Error{ErrorCode::InvalidInput, "The pattern is longer than 1000 bytes."};
    const icu::UnicodeString text = icu::UnicodeString::fromUTF8(pattern);
    UErrorCode status = U_ZERO_ERROR;
    UParseError at{};
    auto compiled = std::make_unique<Compiled>();
    compiled->regex.reset(icu::RegexPattern::compile(text, at, status));
    if (U_FAILURE(status) || !compiled->regex)
        return Error{ErrorCode::InvalidInput,
                     fmt::format("The pattern \"{}\" is no regular expression: it goes wrong at character {} ({}).",
                                 pattern, std::max(at.offset, 0), u_errorName(status))};
    for (UChar32 c = 0x20; c < 0x7f; ++c) compiled->candidates.push_back(c);
    for (int i = 0; i < text.length(); i = text.moveIndex32(i, 1))
        if (const UChar32 c = text.char32At(i); c > 0x7f) compiled->candidates.push_back(c);
    return std::shared_ptr<const EntryPattern>(new EntryPattern(std::move(compiled)));
}

EntryPattern::Fit EntryPattern::fit(std::string_view text) const {
    constexpr int kOftenTooLong = 3;
    constexpr int kMostSteps = 50, kFewSteps = 1,
                  kMostStack = 1 << 20;  // steps of ICU's clock are some milliseconds at most
    const icu::UnicodeString input =
        icu::UnicodeString::fromUTF8(icu::StringPiece(text.data(), static_cast<std::int32_t>(text.size())));
    UErrorCode status = U_ZERO_ERROR;
    const std::unique_ptr<icu::RegexMatcher> matcher(compiled_->regex->matcher(input, status));
    if (!matcher || U_FAILURE(status)) return Fit::Unknown;
    // No column of such texts holds the window; what does fit is still told.
    matcher->setTimeLimit(compiled_->tooLong < kOftenTooLong ? kMostSteps : kFewSteps, status);
    matcher->setStackLimit(kMostStack, status);
    const bool matches = matcher->matches(status);
    if (U_FAILURE(status)) {
        ++compiled_->tooLong;
        return Fit::Unknown;
    }
    return matches ? Fit::Whole : matcher->hitEnd() ? Fit::Begun : Fit::None;
}

std::string EntryPattern::filledIn(std::string text) const {
    constexpr int kMostFilled = 32;
    for (int filled = 0; filled < kMostFilled && fit(text) == Fit::Begun; ++filled) {
        std::string only;
        for (const UChar32 c : compiled_->candidates) {
            std::string one;
            icu::UnicodeString(c).toUTF8String(one);
            const Fit with = fit(text + one);
            if (with == Fit::Unknown) return text;
            if (with == Fit::None || one == only) continue;
            if (!only.empty()) return text;
            only = std::move(one);
        }
        if (only.empty()) return text;
        text += only;
    }
    return text;
}

}  // namespace jollyrow
