// SPDX-License-Identifier: MIT
#pragma once
// What an Evaluation holds ready; shared by evaluator.cpp, lifting.cpp and windows.cpp only.

#include <deque>
#include <string>
#include <vector>

#include "core/rules/evaluator.h"
#include "core/rules/window_column.h"

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

/// What an aggregate OVER (…) gives: values, and which of them each record has.
struct Evaluation::WindowResult {
    static constexpr std::uint32_t kNone = 0xFFFF'FFFF;
    WindowColumn values;
    std::vector<std::uint32_t> from;  ///< by record, kNone for an empty one; empty: each record has its own value
    bool isOne = false;               ///< all records have the first value
    bool allFilled = false;           ///< nothing is empty or failed
};

}  // namespace jollyrow
