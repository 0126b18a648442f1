// SPDX-License-Identifier: MIT
// Comparisons. Numbers, dates and equality of texts are plain loops; order of texts asks ICU (root collation, ties by
// bytes). NaN is equal to itself and above every number, as in PostgreSQL. IN builds a set when its list is constant
// and long. Covered by tests/rules/postgres_oracle_test.cpp.
#include <unicode/ucol.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <memory>

#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr std::size_t kSetFrom = 6;  // items of a list from which a set is faster

struct CloseCollator {
    void operator()(UCollator* collator) const { ucol_close(collator); }
};

UCollator* collator() {
    thread_local const std::unique_ptr<UCollator, CloseCollator> instance = [] {
        UErrorCode status = U_ZERO_ERROR;
        return std::unique_ptr<UCollator, CloseCollator>(ucol_open("", &status));
    }();
    return instance.get();
}

int compareReals(double a, double b) {
    if (std::isnan(a) || std::isnan(b)) return static_cast<int>(std::isnan(a)) - static_cast<int>(std::isnan(b));
    return a < b ? -1 : a > b ? 1 : 0;
}

template <class T, class Compare>
void compareWith(const Vector& a, const T* left, const Vector& b, const T* right, std::size_t n, std::int8_t* out,
                 const Compare& compare) {
    zip(n, left, a.constant, right, b.constant,
        [&](std::size_t i, const T& x, const T& y) { out[i] = compare(x, y) ? 1 : 0; });
}

template <class T>
void compareOrdered(Op op, const Vector& a, const T* left, const Vector& b, const T* right, std::size_t n,
                    std::int8_t* out) {
    switch (op) {
        case Op::Equal: return compareWith(a, left, b, right, n, out, [](const T& x, const T& y) { return x == y; });
        case Op::NotEqual:
            return compareWith(a, left, b, right, n, out, [](const T& x, const T& y) { return !(x == y); });
        case Op::Less: return compareWith(a, left, b, right, n, out, [](const T& x, const T& y) { return x < y; });
        case Op::LessEqual:
            return compareWith(a, left, b, right, n, out, [](const T& x, const T& y) { return x <= y; });
        case Op::Greater: return compareWith(a, left, b, right, n, out, [](const T& x, const T& y) { return x > y; });
        default: return compareWith(a, left, b, right, n, out, [](const T& x, const T& y) { return x >= y; });
    }
}

bool holds(Op op, int order) {
    switch (op) {
        case Op::Equal: return order == 0;
        case Op::NotEqual: return order != 0;
        case Op::Less: return order < 0;
        case Op::LessEqual: return order <= 0;
        case Op::Greater: return order > 0;
        default: return order >= 0;
    }
}

/// Where a value is not filled its slot may hold anything: texts are then not looked at.
void compareTextVectors(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    std::int8_t* result = out.booleanStore.data();
    const bool equality = op == Op::Equal || op == Op::NotEqual;
    for (std::size_t i = 0; i < n; ++i) {
        if (out.states && out.states[i] != 0) {
            result[i] = 0;
            continue;
        }
        const std::string_view x = a.texts[a.at(i)], y = b.texts[b.at(i)];
        result[i] = equality ? ((x == y) == (op == Op::Equal)) : holds(op, compareTexts(x, y));
    }
}

int compareAt(const Vector& a, std::size_t i, const Vector& b, std::size_t j) {
    switch (a.kind) {
        case RuleKind::Boolean: return a.booleans[a.at(i)] - b.booleans[b.at(j)];
        case RuleKind::Real: return compareReals(a.reals[a.at(i)], b.reals[b.at(j)]);
        case RuleKind::Text:
        case RuleKind::Null: return compareTexts(a.texts[a.at(i)], b.texts[b.at(j)]);
        case RuleKind::Decimal: {
            const auto order = a.decimal(i) <=> b.decimal(j);
            return order < 0 ? -1 : order > 0 ? 1 : 0;
        }
        case RuleKind::Interval: {
            const auto order = a.intervals[a.at(i)] <=> b.intervals[b.at(j)];
            return order < 0 ? -1 : order > 0 ? 1 : 0;
        }
        default: {
            const std::int64_t x = a.integers[a.at(i)], y = b.integers[b.at(j)];
            return x < y ? -1 : x > y ? 1 : 0;
        }
    }
}

bool equalAt(const Vector& a, std::size_t i, const Vector& b, std::size_t j) {
    if (a.kind == RuleKind::Text) return a.texts[a.at(i)] == b.texts[b.at(j)];
    return compareAt(a, i, b, j) == 0;
}

void runDistinct(const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    std::int8_t* result = out.makeBooleans();
    out.states = nullptr;
    for (std::size_t i = 0; i < n; ++i) {
        const CellState x = a.state(i), y = b.state(i);
        if (isError(x) || isError(y)) {
            result[i] = 0;
            setState(out, n, i, isError(x) ? x : y);
        } else if (x == CellState::Empty || y == CellState::Empty) {
            result[i] = x != y ? 1 : 0;
        } else {
            result[i] = equalAt(a, i, b, i) ? 0 : 1;
        }
    }
}

bool prepareSet(Operands in, Vector& out) {
    if (out.prepared) return !out.integerSet.empty() || !out.textSet.empty();
    out.prepared = true;
    if (in.size() < kSetFrom) return false;
    const bool integers = isIntegral(in[0]->kind), texts = in[0]->kind == RuleKind::Text;
    if (!integers && !texts) return false;
    for (const Vector* item : in.subspan(1))
        if (!item->constant || item->states) return false;
    for (const Vector* item : in.subspan(1)) {
        if (integers)
            out.integerSet.insert(item->integers[0]);
        else
            out.textSet.insert(item->texts[0]);
    }
    return true;
}

}  // namespace

int compareTexts(std::string_view a, std::string_view b) {
    if (UCollator* const order = collator()) {
        UErrorCode status = U_ZERO_ERROR;
        const UCollationResult result =
            ucol_strcollUTF8(order, a.data(), static_cast<std::int32_t>(std::min<std::size_t>(a.size(), 1 << 30)),
                             b.data(), static_cast<std::int32_t>(std::min<std::size_t>(b.size(), 1 << 30)), &status);
        if (result != UCOL_EQUAL && U_SUCCESS(status)) return result == UCOL_LESS ? -1 : 1;
    }
    const int order = a.compare(b);
    return order < 0 ? -1 : order > 0 ? 1 : 0;
}

void runComparison(Op op, const Vector& a, const Vector& b, std::size_t n, Vector& out) {
    if (op == Op::Distinct) return runDistinct(a, b, n, out);
    std::int8_t* result = out.makeBooleans();
    joinStates(std::array{&a, &b}, n, out);
    switch (a.kind) {
        case RuleKind::Boolean: return compareOrdered(op, a, a.booleans, b, b.booleans, n, result);
        case RuleKind::Real: {
            // The plain operators are right unless there is a NaN; -0 equals 0 either way.
            bool anyNan = false;
            for (std::size_t i = 0; i < (a.constant ? 1 : n); ++i) anyNan |= a.reals[i] != a.reals[i];
            for (std::size_t i = 0; i < (b.constant ? 1 : n); ++i) anyNan |= b.reals[i] != b.reals[i];
            if (!anyNan) return compareOrdered(op, a, a.reals, b, b.reals, n, result);
            for (std::size_t i = 0; i < n; ++i) result[i] = holds(op, compareReals(a.reals[a.at(i)], b.reals[b.at(i)]));
            return;
        }
        case RuleKind::Text:
        case RuleKind::Null: return compareTextVectors(op, a, b, n, out);
        case RuleKind::Decimal:
            if (!a.wide && !b.wide && a.scale == b.scale)
                return compareOrdered(op, a, a.integers, b, b.integers, n, result);
            if (!a.wide && !b.wide) {
                // Brought to one scale when that fits 64 bits, as it nearly always does.
                thread_local std::vector<std::int64_t> scaled(kBatch);
                const Vector& coarse = a.scale < b.scale ? a : b;
                const int up = std::abs(a.scale - b.scale);
                const std::size_t count = coarse.constant ? 1 : n;
                std::uint64_t all = 0;
                for (std::size_t i = 0; i < count; ++i)
                    all |= static_cast<std::uint64_t>(coarse.integers[i] ^ (coarse.integers[i] >> 63));
                const auto power = static_cast<std::uint64_t>(up <= Decimal::kMaxScale ? powerOfTen(up) : 0);
                if (power != 0 && std::bit_width(all) + std::bit_width(power) <= 63) {
                    for (std::size_t i = 0; i < count; ++i)
                        scaled[i] = coarse.integers[i] * static_cast<std::int64_t>(power);
                    return &coarse == &a ? compareOrdered(op, a, scaled.data(), b, b.integers, n, result)
                                         : compareOrdered(op, a, a.integers, b, scaled.data(), n, result);
                }
            }
            for (std::size_t i = 0; i < n; ++i) result[i] = holds(op, compareAt(a, i, b, i));
            return;
        case RuleKind::Interval:
            for (std::size_t i = 0; i < n; ++i) result[i] = holds(op, compareAt(a, i, b, i));
            return;
        case RuleKind::Integer:
        case RuleKind::Date:
        case RuleKind::Time:
        case RuleKind::Timestamp:
        case RuleKind::Instant: return compareOrdered(op, a, a.integers, b, b.integers, n, result);
    }
}

void runIn(Operands in, std::size_t n, Vector& out) {
    const Vector& value = *in[0];
    std::int8_t* result = out.makeBooleans();
    if (prepareSet(in, out)) {
        joinStates(in.first(1), n, out);
        for (std::size_t i = 0; i < n; ++i) {
            if (out.states && out.states[i] != 0)
                result[i] = 0;
            else
                result[i] = value.kind == RuleKind::Text ? out.textSet.contains(value.texts[i])
                                                         : out.integerSet.contains(value.integers[i]);
        }
        return;
    }
    // OR over the items from left to right: the first that is true or fails decides.
    out.states = nullptr;
    std::vector<std::uint8_t> truth(n, 0);  // 0 false, 1 true, 2 empty, else state + 1
    for (const Vector* item : in.subspan(1)) {
        for (std::size_t i = 0; i < n; ++i) {
            if (truth[i] == 1 || truth[i] > 2) continue;
            const CellState x = value.state(i), y = item->state(i);
            if (isError(x) || isError(y))
                truth[i] = static_cast<std::uint8_t>(static_cast<int>(isError(x) ? x : y) + 1);
            else if (x == CellState::Empty || y == CellState::Empty)
                truth[i] = 2;
            else if (equalAt(value, i, *item, i))
                truth[i] = 1;
        }
    }
    bool anyState = false;
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = truth[i] == 1 ? 1 : 0;
        anyState |= truth[i] > 1;
    }
    if (!anyState) return;
    std::uint8_t* states = out.makeStates();
    for (std::size_t i = 0; i < n; ++i) states[i] = truth[i] > 1 ? static_cast<std::uint8_t>(truth[i] - 1) : 0;
}

void runExtreme(bool greatest, Operands in, std::size_t n, Vector& out) {
    makeRoom(out, in[0]->kind);
    if (out.kind == RuleKind::Decimal) {
        out.wide = true;
        out.makeWides();
    }
    std::uint8_t* states = out.makeStates();
    for (std::size_t i = 0; i < n; ++i) {
        const Vector* best = nullptr;
        std::uint8_t failed = 0;
        for (const Vector* v : in) {
            const CellState state = v->state(i);
            if (isError(state)) {
                failed = static_cast<std::uint8_t>(state);
                break;
            }
            if (state == CellState::Empty) continue;
            if (!best || (greatest ? compareAt(*v, i, *best, i) > 0 : compareAt(*v, i, *best, i) < 0)) best = v;
        }
        states[i] = failed != 0 ? failed : best ? 0 : 1;
        if (failed == 0 && best) {
            if (out.kind == RuleKind::Text)
                out.textStore[i] = best->texts[best->at(i)];
            else
                unbox(boxed(*best, i), out, i);
        }
    }
}

}  // namespace jollyrow
