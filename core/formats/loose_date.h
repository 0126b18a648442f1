// SPDX-License-Identifier: MIT
#pragma once
// Days as people type them in a hurry, for editors only: what is pasted, filtered or read from a file is not guessed
// at.

#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

namespace jollyrow {

/// "3" and "3." (of this month), "+2w", "-10d", "+1m", "+1y" (from today; a month's end stays one), "today",
/// "tomorrow", "yesterday", "mon", "friday" (the next one, today included); in English, whatever the case. nullopt for
/// anything else, and for a day that this month does not have.
std::optional<std::int32_t> looseDate(std::string_view typed, std::int32_t today);

/// For a day that there is not ("31 Feb 2027"): the last one before it, and the one that counting on gives. Empty for
/// what is no day of a month and for days that there are.
std::vector<std::int32_t> datesNear(std::string_view typed, std::int32_t today);

}  // namespace jollyrow
