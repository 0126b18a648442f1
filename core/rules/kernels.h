// SPDX-License-Identifier: MIT
#pragma once
// The kernels: one operation over the vectors of a batch. Free functions; types are told apart once a batch, and the
// loops inside are plain. Each sets all of `out` but its kind. n is 1 when every operand is constant.

#include <cstddef>
#include <span>

#include "core/rules/program.h"
#include "core/rules/text_order.h"
#include "core/rules/vector.h"

namespace jollyrow {

using Operands = std::span<const Vector* const>;

// kernels_logic.cpp
void runAndOr(bool isAnd, Operands in, std::size_t n, Vector& out);
void runNot(const Vector& in, std::size_t n, Vector& out);
void runIsNull(const Vector& in, std::size_t n, Vector& out);
void runIs(bool wanted, const Vector& in, std::size_t n, Vector& out);
void runCase(Operands in, std::size_t n, Vector& out);
void runCoalesce(Operands in, std::size_t n, Vector& out);
// kernels_compare.cpp
void runComparison(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out);
void runIn(Operands in, std::size_t n, Vector& out);
void runExtreme(bool greatest, Operands in, std::size_t n, Vector& out);
// kernels_number.cpp
void runArithmetic(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out);
void runNegate(const Vector& in, std::size_t n, Vector& out);
void runRounding(Op op, Operands in, std::size_t n, Vector& out);
void runRealFunction(Op op, Operands in, std::size_t n, Vector& out);
// kernels_text.cpp
void runText(Op op, Operands in, std::size_t n, Vector& out);
// kernels_time.cpp
void runCalendar(Op op, const Vector& a, const Vector& b, const TimeZone& zone, std::size_t n, Vector& out);
void runExtract(DatePart part, const Vector& in, std::size_t n, Vector& out);
// kernels_function.cpp
void runExactFunction(Op op, Operands in, std::size_t n, Vector& out);
void runWholeFunction(Op op, Operands in, std::size_t n, Vector& out);
void runScaleFunction(Op op, const Vector& in, std::size_t n, Vector& out);
void runWidthBucket(Operands in, std::size_t n, Vector& out);
// kernels_moment.cpp
void runTruncateTime(DatePart part, const Vector& in, const TimeZone& zone, std::size_t n, Vector& out);
void runMakeMoment(Op op, Operands in, std::size_t n, Vector& out);
void runAge(const Vector& to, const Vector& from, std::size_t n, Vector& out);
// kernels_span.cpp
void runMakeInterval(Operands in, std::size_t n, Vector& out);
void runJustify(Op op, const Vector& in, std::size_t n, Vector& out);
void runEpochToInstant(const Vector& in, std::size_t n, Vector& out);
void runAtZone(Operands in, std::size_t n, Vector& out);
void runBits(Op op, Operands in, std::size_t n, Vector& out);
// kernels_pattern.cpp
void runPattern(Op op, Operands in, std::size_t n, Vector& out);
// kernels_written.cpp
void runWritten(Op op, Operands in, const TimeZone& zone, std::size_t n, Vector& out);
// kernels_cast.cpp
void runCast(const Instruction& cast, const Vector& in, const TimeZone& zone, std::size_t n, Vector& out);

/// One value of a vector, boxed. Requires: it is filled.
RuleValue boxed(const Vector& vector, std::size_t i);
/// Writes a boxed value (or its state) into place i; arrays must have been made.
void unbox(const RuleValue& value, Vector& out, std::size_t i);
/// Makes the arrays of a kind for values to come.
void makeRoom(Vector& out, RuleKind kind);
/// A vector of decimals as wide ones; `scratch` holds them when it was not.
const WideDecimal* widened(const Vector& vector, std::size_t n, std::vector<WideDecimal>& scratch);

/// The states of strict operations: the first operand's error, else the other's, else empty when one is empty.
void joinStates(Operands in, std::size_t n, Vector& out);

/// f(i, a, b) for each record, constants read once, so that the loop inside can be vectorised.
template <class A, class B, class F>
inline void zip(std::size_t n, const A* a, bool constantA, const B* b, bool constantB, F f) {
    if (constantA && !constantB) {
        const A value = a[0];
        for (std::size_t i = 0; i < n; ++i) f(i, value, b[i]);
    } else if (constantB && !constantA) {
        const B value = b[0];
        for (std::size_t i = 0; i < n; ++i) f(i, a[i], value);
    } else {
        for (std::size_t i = 0; i < n; ++i) f(i, a[i], b[i]);
    }
}

inline void setState(Vector& out, std::size_t n, std::size_t i, CellState state) {
    std::uint8_t* states = out.writableStates(n);
    if (states[i] == 0) states[i] = static_cast<std::uint8_t>(state);
}

}  // namespace jollyrow
