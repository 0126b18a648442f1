// SPDX-License-Identifier: MIT
#pragma once
// Cells of ours beside PostgreSQL's texts, and the hard records as a table there.

#include <cmath>
#include <cstdlib>
#include <optional>
#include <string>

#include "core/rules/conversion.h"
#include "core/rules/evaluator.h"
#include "tests/rules/postgres_server.h"
#include "tests/rules/rule_records.h"

namespace jollyrow::test {

inline bool near(double a, double b) { return a == b || std::abs(a - b) <= 1e-13 * std::max(std::abs(a), std::abs(b)); }

inline std::string described(const EvaluatedCell& cell) {
    if (isError(cell.state)) return "error: " + std::string(words(cell.state));
    return cell.state == CellState::Empty ? "(empty)" : textOf(cell.value);
}

inline bool agrees(const EvaluatedCell& ours, bool theyFailed, const std::optional<std::string>& theirs) {
    if (isError(ours.state)) return theyFailed;
    if (theyFailed) return false;
    if (ours.state == CellState::Empty || !theirs) return ours.state == CellState::Empty && !theirs;
    if (const auto* yes = std::get_if<bool>(&ours.value)) return *theirs == (*yes ? "t" : "f");
    if (const auto* real = std::get_if<double>(&ours.value)) return near(*real, std::strtod(theirs->c_str(), nullptr));
    // Written on the clocks of the connection's zone, with their offset.
    if (const auto* instant = std::get_if<Instant>(&ours.value)) return parseIsoInstant(*theirs) == instant->micros;
    return textOf(ours.value) == *theirs;
}

/// Makes the table `records` with the fields' values, several times over. Empty, or what went wrong.
inline std::string fillRecords(PostgresServer& server, const std::vector<RecordField>& fields, int repeated = 1) {
    std::string columns;
    for (const auto& field : fields) columns += (columns.empty() ? "" : ", ") + field.name + " " + field.sqlType;
    if (const auto made = server.query("CREATE TABLE records (" + columns + ")"); !made.ok) return made.error;
    for (std::size_t n = 0; n < fields[0].values.size() * static_cast<std::size_t>(repeated); ++n) {
        std::string marks;
        std::vector<std::optional<std::string>> values;
        for (std::size_t k = 0; k < fields.size(); ++k) {
            marks += fmt::format("{}${}", k == 0 ? "" : ", ", k + 1);
            values.push_back(fields[k].values[n % fields[k].values.size()]);
        }
        const auto inserted = server.query("INSERT INTO records VALUES (" + marks + ")", values);
        if (!inserted.ok) return inserted.error;
    }
    return {};
}

}  // namespace jollyrow::test
