// SPDX-License-Identifier: MIT
#pragma once
// What an Evaluation holds ready; shared by evaluator.cpp, lifting.cpp and windows.cpp only.

#include <deque>
#include <string>
#include <vector>

#include "core/rules/evaluator.h"

namespace jollyrow {

/// The distinct texts of a dictionary column as if they were records: first the texts by code, then "empty", then the
/// edited cells of the column.
struct Runner::Domain {
    std::uint32_t field = 0;
    const Column* column = nullptr;
    const TextDictionary* dictionary = nullptr;
    const Evaluation::EditedField* edits = nullptr;
    std::size_t distinct() const { return dictionary->distinct.size(); }
    std::size_t size() const { return distinct() + 1 + (edits ? edits->cells.size() : 0); }
};

/// Results of an instruction for each value of a domain.
struct Evaluation::Lift {
    Runner::Domain domain;
    RuleKind kind = RuleKind::Null;
    bool wide = false;
    int scale = 0;
    std::vector<std::int64_t> integers;
    std::vector<double> reals;
    std::vector<std::int8_t> booleans;
    std::vector<std::string_view> texts;
    std::deque<std::string> keptTexts;
    std::vector<WideDecimal> wides;
    std::vector<Interval> intervals;
    std::vector<std::uint8_t> states;
    bool allFilled = true;
};

/// Either one value a record (ranks) or one a group, with the group of each record (none: one group for all).
struct Evaluation::WindowResult {
    std::vector<std::int64_t> ranks;
    std::vector<double> percents;
    std::vector<std::uint32_t> groupOf;
    std::vector<EvaluatedCell> groups;
};

}  // namespace jollyrow
