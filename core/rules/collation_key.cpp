// SPDX-License-Identifier: MIT
// A key is written in digits, three a byte: digits have their order in every language (letters do not: Danish takes
// "aa" for one), so that such texts are ordered as the bytes are. Covered by tests/rules/typed_oracle_test.cpp and
// sort_list_test.cpp.
#include "core/rules/collation_key.h"

#include <unicode/coll.h>
#include <unicode/locid.h>
#include <unicode/unistr.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <vector>

namespace jollyrow {
namespace {

constexpr std::string_view kIcu = "-x-icu";

bool isByCodePoints(std::string_view name) { return name == "C" || name == "POSIX" || name == "ucs_basic"; }

/// Three digits a byte.
void appendOctal(std::string& out, std::string_view bytes) {
    for (const char c : bytes) {
        const auto byte = static_cast<std::uint8_t>(c);
        for (const int shift : {6, 3, 0}) out += static_cast<char>('0' + ((byte >> shift) & 7));
    }
}

icu::Locale localeOf(std::string_view name) {
    name.remove_suffix(kIcu.size());
    UErrorCode status = U_ZERO_ERROR;
    icu::Locale locale = icu::Locale::forLanguageTag({name.data(), static_cast<std::int32_t>(name.size())}, status);
    return U_SUCCESS(status) ? locale : icu::Locale::getRoot();
}

}  // namespace

bool isKnownCollation(std::string_view name) {
    if (isByCodePoints(name)) return true;
    if (!name.ends_with(kIcu)) return false;
    if (name == "und-x-icu") return true;
    const icu::Locale wanted = localeOf(name);
    std::int32_t count = 0;
    const icu::Locale* known = icu::Locale::getAvailableLocales(count);
    return std::any_of(known, known + count, [&](const icu::Locale& locale) { return locale == wanted; });
}

struct CollationKeys::Collator {
    std::unique_ptr<icu::Collator> icu;
};

CollationKeys::CollationKeys(std::string_view name) {
    if (isByCodePoints(name)) return;
    UErrorCode status = U_ZERO_ERROR;
    std::unique_ptr<icu::Collator> made(icu::Collator::createInstance(localeOf(name), status));
    if (U_SUCCESS(status)) collator_ = std::make_unique<Collator>(Collator{std::move(made)});
}
CollationKeys::~CollationKeys() = default;

std::string CollationKeys::of(std::string_view text) const {
    std::string key;
    if (collator_) {
        const auto wide = icu::UnicodeString::fromUTF8({text.data(), static_cast<std::int32_t>(text.size())});
        std::vector<std::uint8_t> bytes(text.size() * 4 + 32);
        auto length = collator_->icu->getSortKey(wide, bytes.data(), static_cast<std::int32_t>(bytes.size()));
        if (static_cast<std::size_t>(length) > bytes.size()) {
            bytes.resize(static_cast<std::size_t>(length));
            length = collator_->icu->getSortKey(wide, bytes.data(), length);
        }
        appendOctal(key, {reinterpret_cast<const char*>(bytes.data()), static_cast<std::size_t>(length)});
    }
    appendOctal(key, text);
    return key;
}

}  // namespace jollyrow
