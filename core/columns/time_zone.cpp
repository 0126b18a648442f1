// SPDX-License-Identifier: MIT
// Idea: a zone's changes are written down once, from 1800 to 2200, and looked up by bisection: asking ICU for each of a
// million instants takes ten times as long. Before and after, the first and the last offset hold (the last rule's
// summer time is left out past 2200, as it is a guess). Covered by tests/columns/time_zone_test.cpp.
#include "core/columns/time_zone.h"

#include <unicode/basictz.h>
#include <unicode/strenum.h>
#include <unicode/timezone.h>
#include <unicode/tztrans.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <map>
#include <memory>
#include <mutex>

#include "core/columns/civil.h"
#include "core/columns/schema.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kMicrosPerMilli = 1000;
constexpr std::int64_t kMicrosPerMinute = 60'000'000;

std::unique_ptr<icu::TimeZone> zoneOf(std::string_view name) {
    if (name.empty()) return std::unique_ptr<icu::TimeZone>(icu::TimeZone::createDefault());
    std::unique_ptr<icu::TimeZone> zone(icu::TimeZone::createTimeZone(
        icu::UnicodeString::fromUTF8(icu::StringPiece(name.data(), static_cast<std::int32_t>(name.size())))));
    // ICU answers an unknown name with a zone of its own, and reads "GMT+2" as a zone that no database has.
    icu::UnicodeString id;
    std::string known;
    zone->getID(id).toUTF8String(known);
    UErrorCode status = U_ZERO_ERROR;
    icu::UnicodeString canonical;
    UBool isSystem = false;
    icu::TimeZone::getCanonicalID(id, canonical, isSystem, status);
    return known == name && U_SUCCESS(status) && isSystem ? std::move(zone) : nullptr;
}

std::int64_t offsetOf(const icu::TimeZone& zone, double millis) {
    std::int32_t raw = 0, saving = 0;
    UErrorCode status = U_ZERO_ERROR;
    zone.getOffset(millis, false, raw, saving, status);
    return (static_cast<std::int64_t>(raw) + saving) * kMicrosPerMilli;
}

std::int64_t floorDays(std::int64_t micros) { return micros / kMicrosPerDay - (micros % kMicrosPerDay < 0 ? 1 : 0); }

std::int64_t now() {
    return std::chrono::duration_cast<std::chrono::seconds>(std::chrono::system_clock::now().time_since_epoch())
               .count() *
           1'000'000;
}

std::optional<int> twoDigits(std::string_view text) {
    if (text.size() != 2 || text[0] < '0' || text[0] > '9' || text[1] < '0' || text[1] > '9') return std::nullopt;
    return (text[0] - '0') * 10 + text[1] - '0';
}

/// "Z", "+02:00", "-0330", "+02" at the end of a text; cuts it off.
std::optional<std::int64_t> takeOffset(std::string_view& text) {
    if (text.ends_with('Z') || text.ends_with('z')) {
        text.remove_suffix(1);
        return 0;
    }
    constexpr std::size_t kDate = 10;  // the day has dashes of its own
    const std::size_t sign = text.find_last_of("+-");
    if (sign == std::string_view::npos || sign <= kDate) return std::nullopt;
    std::string_view digits = text.substr(sign + 1);
    const auto hours = twoDigits(digits.substr(0, 2));
    digits.remove_prefix(std::min<std::size_t>(2, digits.size()));
    if (digits.starts_with(':')) digits.remove_prefix(1);
    const auto minutes = digits.empty() && text.back() != ':' ? std::optional(0) : twoDigits(digits);
    if (!hours || !minutes || *hours > 15 || *minutes > 59) return std::nullopt;
    const std::int64_t size = (*hours * 60 + *minutes) * kMicrosPerMinute;
    const bool behind = text[sign] == '-';
    text = text.substr(0, sign);
    return behind ? -size : size;
}

}  // namespace

TimeZone::TimeZone(std::string_view name) {
    const auto zone = zoneOf(name);
    icu::UnicodeString id;
    zone->getID(id).toUTF8String(name_);
    const auto millisOf = [](int year) {
        return static_cast<double>(*daysFromCivil({year, 1, 1})) * static_cast<double>(kMicrosPerDay / kMicrosPerMilli);
    };
    constexpr int kFirstYear = 1800, kLastYear = 2200;
    const double end = millisOf(kLastYear);
    double at = millisOf(kFirstYear);
    changes_.push_back({INT64_MIN, offsetOf(*zone, at)});
    const auto* rules = dynamic_cast<const icu::BasicTimeZone*>(zone.get());
    icu::TimeZoneTransition change;
    while (rules && rules->getNextTransition(at, false, change) && change.getTime() < end) {
        at = change.getTime();
        const std::int64_t offset = offsetOf(*zone, at);
        if (offset != changes_.back().offset)
            changes_.push_back({static_cast<std::int64_t>(at) * kMicrosPerMilli, offset});
    }
}

const TimeZone* TimeZone::named(std::string_view name) {
    static std::mutex mutex;
    static std::map<std::string, std::unique_ptr<const TimeZone>, std::less<>> zones;  // guarded by mutex
    const std::lock_guard lock(mutex);
    if (const auto known = zones.find(name); known != zones.end()) return known->second.get();
    if (!zoneOf(name)) return nullptr;
    return zones.emplace(std::string(name), std::unique_ptr<const TimeZone>(new TimeZone(name))).first->second.get();
}

const TimeZone& TimeZone::machine() {
    static const TimeZone* const zone = named({});
    return *zone;
}

const std::vector<std::string>& TimeZone::names() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> names;
        UErrorCode status = U_ZERO_ERROR;
        const std::unique_ptr<icu::StringEnumeration> ids(
            icu::TimeZone::createTimeZoneIDEnumeration(UCAL_ZONE_TYPE_CANONICAL, nullptr, nullptr, status));
        while (const icu::UnicodeString* id = U_SUCCESS(status) ? ids->snext(status) : nullptr) {
            std::string name;
            id->toUTF8String(name);
            if (name == "Etc/UTC" ||
                (name.find('/') != std::string::npos && !name.starts_with("Etc/") && !name.starts_with("SystemV/")))
                names.push_back(std::move(name));
        }
        std::sort(names.begin(), names.end());
        return names;
    }();
    return all;
}

std::int64_t TimeZone::offsetAt(std::int64_t instant) const {
    const auto next = std::upper_bound(changes_.begin() + 1, changes_.end(), instant,
                                       [](std::int64_t at, const Change& change) { return at < change.from; });
    return std::prev(next)->offset;
}

std::int64_t TimeZone::toInstant(std::int64_t local) const {
    constexpr std::int64_t kFar = 2 * kMicrosPerDay;  // no offset is as large
    const std::int64_t before = offsetAt(local - kFar), after = offsetAt(local + kFar);
    if (before == after && offsetAt(local - before) == before) return local - before;
    // Both readings: does one agree with itself?
    std::int64_t earlier = before, later = after;
    for (auto at = std::upper_bound(changes_.begin() + 1, changes_.end(), local - kFar,
                                    [](std::int64_t t, const Change&change) { return t < change.from; });
         at != changes_.end() && at->from <= local + kFar; ++at) {
        earlier = std::prev(at)->offset;
        later = at->offset;
        // In the local time of either offset, where is the change?
        if (local < at->from + std::min(earlier, later)) return local - earlier;
        if (local < at->from + std::max(earlier, later)) return local - (later > earlier ? earlier : later);
    }
    return local - later;
}

std::int64_t TimeZone::localNow() const { return toLocal(now()); }

std::int32_t TimeZone::today() const { return static_cast<std::int32_t>(floorDays(localNow())); }

const TimeZone& zoneOf(const TableSchema& schema) {
    const TimeZone* zone = TimeZone::named(schema.zone);
    return zone ? *zone : TimeZone::machine();
}

std::optional<std::int64_t> parseIsoInstant(std::string_view text) {
    const auto offset = takeOffset(text);
    const bool hasTime = text.size() > 10;
    const auto local = offset && hasTime ? parseIsoTimestamp(text) : std::nullopt;
    return local ? std::optional(*local - *offset) : std::nullopt;
}

void appendIsoInstant(std::string& out, std::int64_t micros) {
    appendIsoTimestamp(out, micros);
    out += 'Z';
}

void appendZonedInstant(std::string& out, std::int64_t micros, const TimeZone& zone, bool shortest) {
    const std::size_t start = out.size();
    std::int64_t offset = zone.offsetAt(micros);
    if (!shortest) offset -= offset % kMicrosPerMinute;  // ISO 8601 has no seconds there; old local times had
    appendIsoTimestamp(out, micros + offset);
    if (shortest) out[out.find('T', start)] = ' ';
    out += offset < 0 ? '-' : '+';
    const std::int64_t seconds = std::abs(offset) / 1'000'000;
    const auto pair = [&out](std::int64_t number) {
        out += static_cast<char>('0' + number / 10);
        out += static_cast<char>('0' + number % 10);
    };
    pair(seconds / 3600);
    if (const std::int64_t minutes = seconds / 60 % 60; minutes != 0 || !shortest) {
        out += ':';
        pair(minutes);
    }
    if (const std::int64_t rest = seconds % 60; rest != 0 && shortest) {
        out += ':';
        pair(rest);
    }
}

}  // namespace jollyrow
