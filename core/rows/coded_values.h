// SPDX-License-Identifier: MIT
#pragma once
// CodedValues: the distinct values of a key by their codes. Whole numbers, days, times, doubles and narrow decimals
// stay 64 bits each until one is asked for; others, empties and failures are boxed.

#include <cstdint>
#include <optional>
#include <vector>

#include "core/rules/evaluator.h"

namespace jollyrow {

/// A value of a kind that fits, from the bits that numberOf() gives.
RuleValue valueOfBits(std::int64_t bits, RuleType type);

class CodedValues final {
  public:
    CodedValues() = default;
    explicit CodedValues(RuleType type) : type_(type) {}

    std::size_t size() const { return numbers_.size() + boxed_.size(); }
    /// Requires: code < size(). O(1).
    EvaluatedCell at(std::size_t code) const {
        if (code >= numbers_.size()) return boxed_[code - numbers_.size()];
        return {CellState::Filled, valueOfBits(numbers_[code], type_)};
    }
    CellState state(std::size_t code) const {
        return code < numbers_.size() ? CellState::Filled : boxed_[code - numbers_.size()].state;
    }
    /// The first codes, none for kinds that have no numbers.
    const std::vector<std::int64_t>& numbers() const { return numbers_; }
    RuleType type() const { return type_; }
    /// The code of a value, compared as values are (1.5 is 1.50); nullopt when there is none like it. O(size()).
    std::optional<std::uint32_t> find(const EvaluatedCell& value) const;

    /// Requires: nothing boxed yet.
    void pushNumber(std::int64_t bits) { numbers_.push_back(bits); }
    void push(EvaluatedCell cell) { boxed_.push_back(std::move(cell)); }
    void reserve(std::size_t numbers, std::size_t boxed) {
        numbers_.reserve(numbers);
        boxed_.reserve(boxed);
    }

  private:
    RuleType type_{RuleKind::Null, 0};  ///< of `numbers_`
    std::vector<std::int64_t> numbers_;
    std::vector<EvaluatedCell> boxed_;
};

}  // namespace jollyrow
