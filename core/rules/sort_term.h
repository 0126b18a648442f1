// SPDX-License-Identifier: MIT
#pragma once
// SortTerm: one key to sort by, its names resolved: a field, or a rule's value; in its own order, a stated order of
// values, or an application's.

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/columns/sort_key.h"
#include "core/columns/value.h"
#include "core/rules/program.h"

namespace jollyrow {

/// Negative, zero, positive. Called from any thread; must be a strict weak order.
struct ValueComparator {
    std::string name;
    std::function<int(const Value&, const Value&)> compare;
};

struct SortTerm {
    std::optional<FieldIndex> field;         ///< either this
    std::shared_ptr<const Program> program;  ///< or this
    std::string rule = {};                   ///< the program's text, which names it
    Direction direction = Direction::Ascending;
    Empties empties = Empties::Last;
    TextOrder text = {};
    std::vector<std::string> values = {};  ///< stated order in plain form; others stand last
    std::shared_ptr<const ValueComparator> comparator = {};

    bool operator==(const SortTerm& other) const {
        return field == other.field && rule == other.rule && sameMeaning(program, other.program) &&
               direction == other.direction && empties == other.empties && text == other.text &&
               values == other.values && comparator == other.comparator;
    }
};

}  // namespace jollyrow
