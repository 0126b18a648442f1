// SPDX-License-Identifier: MIT
// Covered by tests/columns/date_pattern_test.cpp and tests/sources/moments_test.cpp.
#include "core/columns/read_as.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <utility>

#include "core/columns/date_pattern.h"
#include "core/columns/schema.h"

namespace jollyrow {
namespace {

constexpr std::array<std::pair<StoredForm, std::string_view>, 6> kNames = {{{StoredForm::Own, ""},
                                                                            {StoredForm::Pattern, "pattern"},
                                                                            {StoredForm::Seconds, "seconds"},
                                                                            {StoredForm::Milliseconds, "milliseconds"},
                                                                            {StoredForm::Number, "number"},
                                                                            {StoredForm::Words, "words"}}};
/// Decimals of a number read from texts, unless its values have more.
constexpr int kOpenScale = 6;

Error refused(std::string message) { return {ErrorCode::InvalidInput, std::move(message)}; }

/// The first word of a text, cut off with the space behind it.
std::string_view takeWord(std::string_view& text) {
    const std::size_t end = std::min(text.find(' '), text.size());
    const std::string_view word = text.substr(0, end);
    text.remove_prefix(std::min(end + 1, text.size()));
    return word;
}

Type typeOf(PatternKind kind) {
    switch (kind) {
        case PatternKind::Date: return Type::Date;
        case PatternKind::Time: return Type::Time;
        case PatternKind::Timestamp: return Type::Timestamp;
        case PatternKind::Instant: return Type::Instant;
    }
    return Type::Text;
}

}  // namespace

std::string_view name(StoredForm form) { return kNames[static_cast<std::size_t>(form)].second; }

std::optional<StoredForm> storedFormFromName(std::string_view text) {
    for (const auto& [form, known] : kNames)
        if (known == text) return form;
    return std::nullopt;
}

Result<void> checkReadAs(const ReadAs& how) {
    switch (how.form) {
        case StoredForm::Own:
        case StoredForm::Seconds:
        case StoredForm::Milliseconds: return {};
        case StoredForm::Pattern: {
            const auto kind = checkDatePattern(how.pattern);
            return kind ? Result<void>() : kind.error();
        }
        case StoredForm::Number:
            if (how.pattern == "." || how.pattern == ",") return {};
            return refused(fmt::format("\"{}\" is no decimal sign: a point or a comma is.", how.pattern));
        case StoredForm::Words:
            if (!how.yes.empty() && !how.no.empty() && how.yes != how.no) return {};
            return refused("Yes and no need two words that differ.");
    }
    return {};
}

Result<void> readFieldAs(FieldSchema& field, const ReadAs& how) {
    if (auto checked = checkReadAs(how); !checked) return checked;
    if (how.form != StoredForm::Own && field.type == Type::Binary)
        return refused(fmt::format("{} holds binary data, which is read as nothing else.", field.name));
    field.stored = how;
    field.style = {};
    if (how.form == StoredForm::Own) return {};
    field.openScale = how.form == StoredForm::Number;
    field.scale = field.openScale ? kOpenScale : 0;
    field.precision = field.maxLength = 0;
    field.use = Use::Plain;  // keys of other tables are looked up as they stand there
    field.permitted.clear();
    field.ordered = false;
    switch (how.form) {
        case StoredForm::Own: break;
        case StoredForm::Pattern: field.type = typeOf(*checkDatePattern(how.pattern)); break;
        case StoredForm::Seconds:
        case StoredForm::Milliseconds: field.type = Type::Instant; break;
        case StoredForm::Number: field.type = Type::Decimal; break;
        case StoredForm::Words: field.type = Type::Boolean; break;
    }
    return {};
}

Result<ReadAs> readAsFromText(std::string_view text) {
    std::string_view rest = text;
    const std::string_view form = takeWord(rest);
    ReadAs how;
    if (form == "date") {
        how = {StoredForm::Pattern, std::string(rest), {}, {}};
    } else if ((form == "seconds" || form == "milliseconds") && rest.empty()) {
        how.form = *storedFormFromName(form);
    } else if (form == "number") {
        how = {StoredForm::Number, rest.empty() ? "." : std::string(rest), {}, {}};
    } else if (form == "words") {
        how.form = StoredForm::Words;
        how.yes = takeWord(rest);
        how.no = rest;
    } else {
        return refused(
            fmt::format("\"{}\" says no form: date PATTERN, seconds, milliseconds, number, number , or words "
                        "YES NO do.",
                        text));
    }
    if (auto checked = checkReadAs(how); !checked) return checked.error();
    return how;
}

std::string toText(const ReadAs& how) {
    switch (how.form) {
        case StoredForm::Own: return {};
        case StoredForm::Pattern: return "date " + how.pattern;
        case StoredForm::Number: return how.pattern == "." ? "number" : "number " + how.pattern;
        case StoredForm::Words: return fmt::format("words {} {}", how.yes, how.no);
        case StoredForm::Seconds:
        case StoredForm::Milliseconds: return std::string(name(how.form));
    }
    return {};
}

std::optional<std::string> plainNumber(std::string_view text, std::string_view decimalSign) {
    const char sign = decimalSign == "," ? ',' : '.', group = sign == ',' ? '.' : ',';
    std::string out;
    std::size_t grouped = 0;  // digits since the last group mark; 0 before the first
    bool anyGroup = false, fraction = false;
    for (const char c : text) {
        const bool isMark = c == group || c == ' ';
        if (isMark || c == sign) {
            // Groups are of three digits behind the first: "12.34" by "," is none.
            const std::size_t digits = grouped - (!anyGroup && grouped > 0 && (out[0] == '-' || out[0] == '+') ? 1 : 0);
            if (fraction || (anyGroup ? digits != 3 : digits == 0 || (isMark && digits > 3))) return std::nullopt;
            if (isMark) anyGroup = true;
            grouped = 0;
            fraction = c == sign;
            if (fraction) out += '.';
            if (fraction) anyGroup = false;
        } else {
            out += c;
            if (!fraction) ++grouped;
        }
    }
    if (anyGroup && grouped != 3) return std::nullopt;
    return out;
}

}  // namespace jollyrow
