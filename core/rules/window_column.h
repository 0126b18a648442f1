// SPDX-License-Identifier: MIT
#pragma once
// WindowColumn: the values of an instruction for many records at once, of one kind, with the state of each.

#include <algorithm>
#include <cstdint>
#include <deque>
#include <string>
#include <string_view>
#include <vector>

#include "core/rules/evaluator.h"
#include "core/rules/vector.h"

namespace jollyrow {

struct WindowColumn {
    RuleKind kind = RuleKind::Null;
    bool wide = false;  ///< decimals stand in `wides`, each with its own scale; else in `integers` at `scale`
    int scale = -1;     ///< of narrow decimals; -1 while there are none
    std::vector<std::int64_t> integers;  ///< Integer, narrow Decimal, Date, Time, Timestamp, Instant
    std::vector<double> reals;
    std::vector<std::int8_t> booleans;
    std::vector<std::string_view> texts;  ///< into `kept`
    std::vector<WideDecimal> wides;
    std::vector<Interval> intervals;
    std::vector<std::uint8_t> states;  ///< CellState of each
    std::deque<std::string> kept;

    WindowColumn() = default;
    explicit WindowColumn(RuleKind of) : kind(of) {}
    /// The texts lie in blocks that move with it.
    WindowColumn(WindowColumn&&) noexcept = default;
    WindowColumn& operator=(WindowColumn&&) noexcept = default;

    std::size_t size() const { return states.size(); }
    CellState state(std::size_t i) const { return static_cast<CellState>(states[i]); }
    bool isFilled(std::size_t i) const { return states[i] == 0; }
    /// Makes room for n values, all empty.
    void resize(std::size_t n);
    /// One more place, without a value.
    void append(CellState state);
    /// Writes the values of a batch from place `begin` on. Requires: room for them, and the same kind.
    void put(std::size_t begin, const Vector& from, std::size_t count);
    /// Requires: the value is of this kind, or there is none.
    void put(std::size_t at, const EvaluatedCell& cell);
    WideDecimal decimal(std::size_t at) const { return wide ? wides[at] : WideDecimal{integers[at], std::max(scale, 0)}; }
    /// Decimals of 128 bits from now on.
    void widen();
    /// Requires: it is a decimal or a whole number's column.
    void putExact(std::size_t at, const WideDecimal& value);
    void setState(std::size_t at, CellState state) { states[at] = static_cast<std::uint8_t>(state); }
    /// Value `at` into place i of a vector with room for its kind.
    void copyTo(Vector& out, std::size_t i, std::size_t at) const;
    std::string_view keep(std::string_view text);
};

}  // namespace jollyrow
