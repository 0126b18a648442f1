// SPDX-License-Identifier: MIT
// Patterns -> ICU objects. ICU tells little about a wrong pattern, so the likely mistakes (a pattern of another type,
// words without quotes, an unknown field) are looked for first, and said with their place.
#include "core/formats/format_engine.h"

#include "core/columns/time_zone.h"

#include <fmt/format.h>
#include <unicode/dtptngen.h>
#include <unicode/gregocal.h>
#include <unicode/messagepattern.h>
#include <unicode/tznames.h>
#include <unicode/uloc.h>

#include <cfloat>

#include "core/base/near_name.h"

namespace jollyrow {
namespace {

using icu::UnicodeString;

// Fields of UTS #35 date patterns, as far as they mean something for a day and a time without a zone.
constexpr std::string_view kDayFields = "GyYuUrQqMLwWdDFgEec";
constexpr std::string_view kTimeFields = "abBhHkKmsSA";
constexpr std::string_view kZoneFields = "zZOvVXx";  // of instants only

Error wrong(std::string message, std::size_t offset, std::size_t length = 1) {
    return {ErrorCode::InvalidInput, std::move(message), TextRange{offset, length}};
}

bool isLetter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }

UnicodeString wide(std::string_view text) {
    return UnicodeString::fromUTF8(icu::StringPiece(text.data(), static_cast<std::int32_t>(text.size())));
}

/// Calls visit(offset, letter) for each letter outside quotes; the offset of an unclosed quote, else nothing.
template <class Visit>
std::optional<std::size_t> forEachField(std::string_view pattern, const Visit& visit) {
    std::optional<std::size_t> quote;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        if (pattern[i] == '\'')
            quote = quote ? std::nullopt : std::optional(i);
        else if (!quote && isLetter(pattern[i]))
            visit(i, pattern[i]);
    }
    return quote;
}

/// The automatic symbols: a thin space between thousands, a true minus.
icu::DecimalFormatSymbols symbolsFor(const std::string& locale, UErrorCode& status) {
    icu::DecimalFormatSymbols symbols(icuLocale(locale), status);
    if (locale.empty()) {
        symbols.setSymbol(icu::DecimalFormatSymbols::kGroupingSeparatorSymbol, UnicodeString(char16_t{0x2009}));
        symbols.setSymbol(icu::DecimalFormatSymbols::kMinusSignSymbol, UnicodeString(char16_t{0x2212}));
    }
    return symbols;
}

Result<void> checkNumberPattern(std::string_view pattern, Type type) {
    bool hasDigit = false, quoted = false, hasPoint = false;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        const char c = pattern[i];
        if (c == '\'') quoted = !quoted;
        if (quoted) continue;
        hasDigit = hasDigit || c == '0' || c == '#' || c == '@';
        if (c == ';') hasPoint = false;
        if (c == '.' && std::exchange(hasPoint, true)) return wrong("This is a second point.", i);
    }
    if (quoted) return wrong("The quote here is not closed.", pattern.rfind('\''));
    if (hasDigit) return {};
    return wrong(
        fmt::format("This is not a number pattern: it has no digit place, 0 or #. The column holds {}.", article(type)),
        0, pattern.size());
}

}  // namespace

bool isKnownLocale(const std::string& tag) {
    if (tag.empty()) return true;
    UErrorCode status = U_ZERO_ERROR;
    const icu::Locale found = icu::Locale::forLanguageTag(tag, status);
    return U_SUCCESS(status) && !found.isBogus() && *found.getISO3Language() != '\0';
}

icu::Locale icuLocale(const std::string& locale) {
    if (locale.empty()) return icu::Locale::getEnglish();
    UErrorCode status = U_ZERO_ERROR;
    const icu::Locale found = icu::Locale::forLanguageTag(locale, status);
    return U_FAILURE(status) || found.isBogus() ? icu::Locale::getEnglish() : found;
}

std::size_t byteOffset(std::string_view pattern, std::int32_t utf16) {
    std::int32_t units = 0;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        const auto c = static_cast<unsigned char>(pattern[i]);
        if ((c & 0xc0) == 0x80) continue;
        if (units >= utf16) return i;
        units += c >= 0xf0 ? 2 : 1;
    }
    return pattern.size();
}

Result<void> prepareNumber(Formatter::Engine& engine, const TextFormat& format) {
    UErrorCode status = U_ZERO_ERROR;
    const icu::Locale locale = icuLocale(format.locale);
    const icu::DecimalFormatSymbols symbols = symbolsFor(format.locale, status);
    std::string pattern = format.spec.pattern;
    UParseError where{};
    if (pattern.starts_with("::")) {
        const UnicodeString skeleton = wide(std::string_view(pattern).substr(2));
        engine.number =
            icu::number::NumberFormatter::forSkeleton(skeleton, where, status).symbols(symbols).locale(locale);
        UErrorCode probe = U_ZERO_ERROR;
        if (U_SUCCESS(status)) engine.number->formatDouble(-1234.5, probe);
        if (U_FAILURE(status) || U_FAILURE(probe))
            return wrong(
                "This number skeleton has a part that is not known. Parts look like .00, percent, "
                "currency/EUR, compact-short, unit/meter.",
                std::min(pattern.size() - 1,
                         2 + byteOffset(std::string_view(pattern).substr(2), std::max(0, where.offset))),
                std::max<std::size_t>(1, pattern.size() - 2));
        pattern = "#,##0.###############";
    } else if (pattern.empty()) {
        pattern = format.grouped ? "#,##0" : "0";
        if (format.type == Type::Decimal && format.scale > 0)
            pattern.append(".").append(static_cast<std::size_t>(format.scale), '0');
        if (format.type == Type::Real) pattern += ".################";
    } else if (auto checked = checkNumberPattern(pattern, format.type); !checked) {
        return checked;
    }
    engine.decimal =
        std::make_unique<icu::DecimalFormat>(wide(pattern), new icu::DecimalFormatSymbols(symbols), where, status);
    if (U_FAILURE(status))
        return wrong("This number pattern cannot be read from here on. It looks like #,##0.00 or 0.0%.",
                     std::min(byteOffset(pattern, std::max(0, where.offset)), pattern.size() - 1));
    engine.decimal->setParseIntegerOnly(false);
    engine.decimal->setLenient(false);
    if (!engine.number) {
        const icu::number::LocalizedNumberFormatter* made = engine.decimal->toNumberFormatter(status);
        if (!made || U_FAILURE(status)) return wrong("This number pattern cannot be used.", 0, pattern.size());
        engine.number = *made;
    }
    return {};
}

Result<void> prepareDate(Formatter::Engine& engine, const TextFormat& format) {
    UErrorCode status = U_ZERO_ERROR;
    const icu::Locale locale = icuLocale(format.locale);
    std::string pattern = format.spec.pattern;
    const bool isSkeleton = pattern.starts_with("::");
    if (pattern.empty()) {
        pattern = format.type == Type::Date ? "::yMMMd" : format.type == Type::Time ? "::jm" : "::yMMMdjm";
        if (format.locale.empty() || format.spec.style == FormatStyle::RelativeDays)
            pattern = format.type == Type::Date ? "d MMM y" : format.type == Type::Time ? "HH:mm" : "d MMM y HH:mm";
    } else {
        bool anyField = false;
        std::optional<Error> found;
        const auto open = forEachField(pattern, [&](std::size_t at, char c) {
            const bool day = kDayFields.find(c) != std::string_view::npos,
                       time = kTimeFields.find(c) != std::string_view::npos ||
                              (format.type == Type::Instant && kZoneFields.find(c) != std::string_view::npos);
            const bool skeletonOnly = isSkeleton && (c == 'j' || c == 'J' || c == 'C');
            anyField = anyField || day || time || skeletonOnly;
            if (found) return;
            if (!day && !time && !skeletonOnly)
                found = wrong(fmt::format("{} is not a date field here. Put words into 'quotes'.", c), at);
            else if (format.type == Type::Date && (time || skeletonOnly))
                found =
                    wrong(fmt::format("{} is a time of day, and this column holds {}.", c, article(format.type)), at);
            else if (format.type == Type::Time && day)
                found = wrong(fmt::format("{} is a part of a date, and this column holds {}.", c, article(format.type)),
                              at);
        });
        if (open) return wrong("The quote here is not closed.", *open);
        if (!anyField)
            return wrong(
                fmt::format("This is not a date pattern: it has no field such as d, MMM or y. The column holds {}.",
                            article(format.type)),
                0, pattern.size());
        if (found) return *found;
    }
    UnicodeString text = wide(pattern);
    if (pattern.starts_with("::")) {
        const std::unique_ptr<icu::DateTimePatternGenerator> generator(
            icu::DateTimePatternGenerator::createInstance(locale, status));
        if (U_SUCCESS(status)) text = generator->getBestPattern(wide(std::string_view(pattern).substr(2)), status);
    }
    engine.date = std::make_unique<icu::SimpleDateFormat>(text, locale, status);
    auto calendar = std::make_unique<icu::GregorianCalendar>(*zoneFor(format), locale, status);
    if (U_FAILURE(status))
        return wrong("This date pattern cannot be used.", 0, std::max<std::size_t>(1, format.spec.pattern.size()));
    calendar->setGregorianChange(-DBL_MAX, status);  // civil days are Gregorian all the way back
    engine.date->adoptCalendar(calendar.release());
    engine.date->setLenient(false);
    std::string used;
    text.toUTF8String(used);
    engine.dateHasYear = false;
    forEachField(used, [&](std::size_t, char c) { engine.dateHasYear = engine.dateHasYear || c == 'y' || c == 'u'; });
    if (format.spec.style == FormatStyle::RelativeDays)
        engine.relative = std::make_unique<icu::RelativeDateTimeFormatter>(locale, status);
    return U_SUCCESS(status) ? Result<void>() : wrong("This locale has no relative days.", 0, 1);
}

std::unique_ptr<icu::TimeZone> zoneFor(const TextFormat& format) {
    if (format.type != Type::Instant) return std::unique_ptr<icu::TimeZone>(icu::TimeZone::getGMT()->clone());
    const TimeZone* zone = TimeZone::named(format.zone);
    const std::string& name = zone ? zone->name() : TimeZone::machine().name();
    return std::unique_ptr<icu::TimeZone>(icu::TimeZone::createTimeZone(UnicodeString::fromUTF8(name)));
}

/// A name that the pattern shows without a type, and where it ends there.
using Untyped = std::vector<std::pair<UnicodeString, std::size_t>>;

/// {hours} reads as the column writes it also in the branches of {hours, plural, …}, for which ICU has the bare
/// number: there it is an argument of its own, marked behind its name. `added`: where marks come to stand.
void markUntyped(std::vector<MessageArgument>& arguments, const Untyped& untyped, std::string& pattern,
                 std::vector<std::size_t>& added) {
    for (auto at = untyped.rbegin(); at != untyped.rend(); ++at) {
        if (std::none_of(arguments.begin(), arguments.end(),
                         [&](const MessageArgument& a) { return a.typed && a.name == at->first; }))
            continue;
        pattern.insert(at->second, "\uA78F");
        for (std::size_t& mark : added) mark += 3;
        added.push_back(at->second);
    }
    std::vector<MessageArgument*> marked;
    for (MessageArgument& a : arguments)
        if (!a.typed && std::any_of(arguments.begin(), arguments.end(),
                                    [&](const MessageArgument& b) { return b.typed && b.name == a.name; }))
            marked.push_back(&a);
    for (MessageArgument* argument : marked) argument->name += static_cast<char16_t>(0xA78F);
}

/// ICU's argument names have no full stop, ours follow foreign keys: U+A78F, a letter, stands for it inside.
std::string withLettersForStops(const std::string& message) {
    std::string pattern;
    bool inName = false;
    for (const char c : message) {
        if (c == '{') inName = true;
        if (c == ',' || c == '}' || c == '\'') inName = false;
        inName&& c == '.' ? pattern += "\uA78F" : pattern += c;
    }
    return pattern;
}

std::string fieldNamed(const UnicodeString& inside) {
    std::string field;
    inside.toUTF8String(field);
    for (std::size_t at = field.find("\uA78F"); at != std::string::npos; at = field.find("\uA78F"))
        field.replace(at, 3, ".");
    return field;
}

std::string noField(const std::string& field, const TableSchema& schema) {
    std::vector<std::string> known;
    for (const FieldSchema& f : schema.fields) known.push_back(f.name);
    const auto near = nearestName(field, known);
    return fmt::format("There is no field {}.{}", field, near ? fmt::format(" Did you mean {}?", *near) : "");
}

/// Once for each name and way of writing it.
template <class Found>
void addArgument(std::vector<MessageArgument>& arguments, const UnicodeString& inside, const Found& found, bool typed,
                 const TableSchema& schema) {
    const bool isKnown = std::any_of(arguments.begin(), arguments.end(),
                                     [&](const MessageArgument& a) { return a.name == inside && a.typed == typed; });
    const FieldIndex shown = typed ? found.field : found.shown;
    if (isKnown) return;
    arguments.push_back({inside, found.field, shown,
                         defaultFormat(schema.field(shown), schema.field(shown).use == Use::LookUp), typed});
}

Result<void> prepareMessage(Formatter::Engine& engine, const TextFormat& format, const TableSchema& schema,
                            const Formatter::FindField& find) {
    std::string pattern = withLettersForStops(format.spec.pattern);
    std::vector<std::size_t> added;  // where marks were put into the pattern
    const auto original = [&](std::int32_t utf16) {
        std::size_t at = byteOffset(pattern, utf16), shift = 0;
        for (std::size_t i = pattern.find("\uA78F"); i < at; i = pattern.find("\uA78F", i + 3)) shift += 2;
        for (const std::size_t mark : added) shift += mark < at ? 1 : 0;
        return std::min(at - shift, format.spec.pattern.size());
    };
    UErrorCode status = U_ZERO_ERROR;
    UParseError where{};
    const icu::MessagePattern parts(wide(pattern), &where, status);
    if (U_FAILURE(status))
        return wrong(
            status == U_UNMATCHED_BRACES
                ? "A brace { is not closed."
                : "The message cannot be read from here on. Fields stand like {hours} or {hours, number, ::.0}.",
            std::min(original(std::max(0, where.offset)), std::max<std::size_t>(1, format.spec.pattern.size()) - 1));
    Untyped untyped;
    for (std::int32_t i = 0; i < parts.countParts(); ++i) {
        const icu::MessagePattern::Part& part = parts.getPart(i);
        if (part.getType() != UMSGPAT_PART_TYPE_ARG_START) continue;
        const icu::MessagePattern::Part& name = parts.getPart(i + 1);
        const std::size_t offset = original(name.getIndex());
        if (name.getType() == UMSGPAT_PART_TYPE_ARG_NUMBER)
            return wrong("Name a field here, not a number.", offset, static_cast<std::size_t>(name.getLength()));
        const UnicodeString inside = parts.getSubstring(name);
        const bool typed = part.getArgType() != UMSGPAT_ARG_TYPE_NONE;
        const std::string field = fieldNamed(inside);
        const auto found = find ? find(field) : std::nullopt;
        if (!found) return wrong(noField(field, schema), offset, field.size());
        addArgument(engine.arguments, inside, *found, typed, schema);
        if (!typed) untyped.emplace_back(inside, byteOffset(pattern, name.getIndex() + name.getLength()));
    }
    markUntyped(engine.arguments, untyped, pattern, added);
    engine.message = std::make_unique<icu::MessageFormat>(wide(pattern), icuLocale(format.locale), where, status);
    if (U_FAILURE(status))
        return wrong(
            "A format inside the message is not known. Types are number, date, time, plural, select.",
            std::min(original(std::max(0, where.offset)), std::max<std::size_t>(1, format.spec.pattern.size()) - 1));
    return {};
}

Result<void> prepareWords(Formatter::Engine& engine, const TextFormat& format) {
    const std::string& pattern = format.spec.pattern;
    const std::size_t cut = pattern.find(';');
    if (cut == std::string::npos || pattern.find(';', cut + 1) != std::string::npos)
        return wrong("Two words are wanted, for yes and no, with a semicolon between: paid;open.", 0,
                     std::max<std::size_t>(1, pattern.size()));
    engine.yes = pattern.substr(0, cut);
    engine.no = pattern.substr(cut + 1);
    if (engine.yes == engine.no) return wrong("Both words are the same.", cut);
    return {};
}

Result<void> prepareDuration(Formatter::Engine& engine, const TextFormat& format) {
    const std::string pattern = format.spec.pattern.empty() ? "h:mm" : format.spec.pattern;
    DurationPiece piece;
    piece.digits = 0;
    bool quoted = false;
    for (std::size_t i = 0; i < pattern.size(); ++i) {
        const char c = pattern[i];
        if (c == '\'') {
            quoted = !quoted;
            continue;
        }
        if (quoted || !isLetter(c)) {
            if (piece.seconds != 0) engine.pieces.push_back(std::exchange(piece, {"", 0, 0}));
            piece.literal += c;
            continue;
        }
        const std::int64_t seconds = c == 'd' ? 86400 : c == 'h' || c == 'H' ? 3600 : c == 'm' ? 60 : c == 's' ? 1 : 0;
        if (seconds == 0)
            return wrong(fmt::format("{} is not a part of a duration: d, h, m and s are. Put words into 'quotes'.", c),
                         i);
        if (piece.seconds != 0 && piece.seconds != seconds) engine.pieces.push_back(std::exchange(piece, {"", 0, 0}));
        if (piece.seconds == 0 && std::any_of(engine.pieces.begin(), engine.pieces.end(), [&](const DurationPiece& p) {
                return p.seconds != 0 && p.seconds <= seconds;
            }))
            return wrong("The parts of a duration go from large to small: h:mm:ss.", i);
        piece.seconds = seconds;
        ++piece.digits;
    }
    if (quoted) return wrong("The quote here is not closed.", pattern.rfind('\''));
    engine.pieces.push_back(piece);
    if (std::none_of(engine.pieces.begin(), engine.pieces.end(), [](const DurationPiece& p) { return p.seconds != 0; }))
        return wrong("This is not a duration pattern: it has none of d, h, m and s.", 0, pattern.size());
    return {};
}

}  // namespace jollyrow
