// SPDX-License-Identifier: MIT
#pragma once
// TimeZone: what the clocks of a place show at a point of time, and back. Names and rules are those of the IANA time
// zone database, as ICU carries it. Times are microseconds: an instant's since 1970-01-01 00:00 UTC, a local one's
// since 1970-01-01 00:00 on that place's clocks.

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace jollyrow {

/// Immutable; any thread may use it. There is one object a zone, which lives as long as the process.
class TimeZone final {
  public:
    /// "Europe/Berlin"; "" is the machine's own. Null when there is no such zone. O(1) after the first time.
    static const TimeZone* named(std::string_view name);
    static const TimeZone& machine();
    /// The names that people choose from, in alphabetical order; without the database's links and abbreviations.
    static const std::vector<std::string>& names();

    /// As the zone database has it; of the machine's zone its name there.
    const std::string& name() const { return name_; }
    std::int64_t toLocal(std::int64_t instant) const { return instant + offsetAt(instant); }
    /// A local time that the clocks skip is read by the offset before; one that they show twice by the offset after
    /// (as PostgreSQL does).
    std::int64_t toInstant(std::int64_t local) const;
    /// Microseconds that local time is ahead of UTC. O(log changes).
    std::int64_t offsetAt(std::int64_t instant) const;

    /// Date and time of now, in whole seconds: LOCALTIMESTAMP.
    std::int64_t localNow() const;
    /// Days since 1970-01-01: CURRENT_DATE.
    std::int32_t today() const;

  private:
    explicit TimeZone(std::string_view name);
    struct Change {
        std::int64_t from = 0;    ///< instant
        std::int64_t offset = 0;  ///< from then on
    };
    std::string name_;
    std::vector<Change> changes_;  ///< by time; the first holds from ever
};

struct TableSchema;
/// The zone of a schema; the machine's when it names none.
const TimeZone& zoneOf(const TableSchema& schema);

/// "2026-11-23T10:00:00Z", "2026-11-23 10:00:00.25+02:00", "+0200", "+02": whole text or nothing, and nothing without
/// an offset (ISO 8601; RFC 3339).
std::optional<std::int64_t> parseIsoInstant(std::string_view text);
/// UTC: "2026-11-23T10:00:00Z".
void appendIsoInstant(std::string& out, std::int64_t micros);
/// The zone's clocks and how far they are ahead: "2026-11-23T11:00:00+01:00". `shortest` leaves out minutes that are
/// none, and has a space for the T, as PostgreSQL writes texts.
void appendZonedInstant(std::string& out, std::int64_t micros, const TimeZone& zone, bool shortest = false);

}  // namespace jollyrow
