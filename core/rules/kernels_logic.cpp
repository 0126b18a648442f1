// SPDX-License-Identifier: MIT
// Three-valued logic and choice. AND and OR look at their left side first: what settles the result there (FALSE AND …)
// also settles it against an error at the right, as evaluating from left to right does; CASE and COALESCE likewise
// ignore errors in what is not chosen. Covered by tests/rules/postgres_oracle_test.cpp.
#include <array>

#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr std::uint8_t kFilled = 0, kEmpty = 1;

/// 0 false, 1 true, 2 empty, 3.. errors (CellState + 1).
std::uint8_t truthOf(const Vector& v, std::size_t i) {
    const std::uint8_t state = v.states ? v.states[v.at(i)] : kFilled;
    return state == kFilled ? static_cast<std::uint8_t>(v.booleans[v.at(i)] != 0)
                            : static_cast<std::uint8_t>(state + 1);
}

/// Copies the values of `from` into `out` where choose(i).
template <class Choose>
void copyWhere(const Vector& from, std::size_t n, Vector& out, std::uint8_t* states, const Choose& choose) {
    const auto copy = [&](const auto* values, auto* to) {
        if (from.constant) {
            const auto value = values[0];
            for (std::size_t i = 0; i < n; ++i) to[i] = choose(i) ? value : to[i];
        } else {
            for (std::size_t i = 0; i < n; ++i) to[i] = choose(i) ? values[i] : to[i];
        }
    };
    switch (out.kind) {
        case RuleKind::Boolean: copy(from.booleans, out.booleanStore.data()); break;
        case RuleKind::Real: copy(from.reals, out.realStore.data()); break;
        case RuleKind::Text:
        case RuleKind::Null: copy(from.texts, out.textStore.data()); break;
        case RuleKind::Interval: copy(from.intervals, out.intervalStore.data()); break;
        case RuleKind::Decimal:
            if (out.wide) {
                for (std::size_t i = 0; i < n; ++i)
                    if (choose(i) && from.state(i) == CellState::Filled) out.wideStore[i] = from.decimal(i);
            } else if (!from.wide) {  // a wide one that is not filled has nothing to copy
                copy(from.integers, out.integerStore.data());
            }
            break;
        case RuleKind::Integer:
        case RuleKind::Date:
        case RuleKind::Time:
        case RuleKind::Timestamp:
        case RuleKind::Instant: copy(from.integers, out.integerStore.data()); break;
    }
    if (from.states) {
        for (std::size_t i = 0; i < n; ++i) states[i] = choose(i) ? from.states[from.at(i)] : states[i];
    } else {
        for (std::size_t i = 0; i < n; ++i) states[i] = choose(i) ? kFilled : states[i];
    }
}

/// Arrays for the chosen values; wide decimals when the candidates' scales differ.
void prepareChoice(std::span<const Vector* const> values, Vector& out) {
    out.wide = false;
    if (out.kind == RuleKind::Decimal) {
        bool first = true;
        for (const Vector* v : values) {
            if (v->constant && v->state(0) != CellState::Filled) continue;
            out.wide = out.wide || v->wide || (!first && v->scale != out.scale);
            out.scale = v->scale;
            first = false;
        }
    }
    const bool wide = out.wide;
    makeRoom(out, out.kind);
    out.wide = wide;
    if (wide) out.makeWides();
    out.makeStates();
}

}  // namespace

/// AND is settled by false, OR by true. Pointers of their own, since bytes may alias anything and nothing would be
/// vectorised.
template <bool isAnd>
static void joinBytes(std::size_t n, const std::int8_t* __restrict a, const std::uint8_t* __restrict sa,
                      const std::int8_t* __restrict b, const std::uint8_t* __restrict sb,
                      std::int8_t* __restrict result, std::uint8_t* __restrict states) {
    constexpr std::uint8_t kTurn = isAnd ? 1 : 0;
    for (std::size_t i = 0; i < n; ++i) {
        const auto fa = static_cast<std::uint8_t>(sa[i] ^ 1), fb = static_cast<std::uint8_t>(sb[i] ^ 1);
        const auto va = static_cast<std::uint8_t>(a[i] ^ kTurn), vb = static_cast<std::uint8_t>(b[i] ^ kTurn);
        const auto settled = static_cast<std::uint8_t>((fa & va) | (fb & vb));
        states[i] = static_cast<std::uint8_t>((settled ^ 1) & ((fa & fb) ^ 1));
        result[i] = static_cast<std::int8_t>(isAnd ? (settled ^ 1) & (fa & fb) : settled);
    }
}

void runAndOr(bool isAnd, Operands in, std::size_t n, Vector& out) {
    const Vector &a = *in[0], &b = *in[1];
    std::int8_t* result = out.makeBooleans();
    out.states = nullptr;
    if (!a.states && !b.states) {
        if (isAnd)
            zip(n, a.booleans, a.constant, b.booleans, b.constant,
                [&](std::size_t i, std::int8_t x, std::int8_t y) { result[i] = x & y; });
        else
            zip(n, a.booleans, a.constant, b.booleans, b.constant,
                [&](std::size_t i, std::int8_t x, std::int8_t y) { result[i] = x | y; });
        return;
    }
    std::uint8_t* states = out.makeStates();
    if (!a.constant && !b.constant) {
        // Without errors plain arithmetic on bytes does: what settles the result, else empty when a side is.
        static constexpr std::uint8_t kNoStates[kBatch] = {};
        const std::uint8_t* sa = a.states ? a.states : kNoStates;
        const std::uint8_t* sb = b.states ? b.states : kNoStates;
        std::uint8_t worst = 0;
        for (std::size_t i = 0; i < n; ++i) worst |= static_cast<std::uint8_t>(sa[i] | sb[i]);
        if (worst <= kEmpty) {
            if (isAnd)
                joinBytes<true>(n, a.booleans, sa, b.booleans, sb, result, states);
            else
                joinBytes<false>(n, a.booleans, sa, b.booleans, sb, result, states);
            return;
        }
    }
    const std::uint8_t settles = isAnd ? 0 : 1;
    for (std::size_t i = 0; i < n; ++i) {
        const std::uint8_t x = truthOf(a, i), y = truthOf(b, i);
        std::uint8_t r;
        if (x == settles || x > 2)
            r = x;
        else if (y == settles || y > 2)
            r = y;
        else if (x == 2 || y == 2)
            r = 2;
        else
            r = static_cast<std::uint8_t>(1 - settles);
        result[i] = r == 1 ? 1 : 0;
        states[i] = r < 2 ? kFilled : static_cast<std::uint8_t>(r - 1);
    }
}

void runNot(const Vector& in, std::size_t n, Vector& out) {
    std::int8_t* result = out.makeBooleans();
    out.states = nullptr;
    joinStates(std::array{&in}, n, out);
    for (std::size_t i = 0; i < n; ++i) result[i] = static_cast<std::int8_t>(in.booleans[i] ^ 1);
}

void runIsNull(const Vector& in, std::size_t n, Vector& out) {
    std::int8_t* result = out.makeBooleans();
    out.states = nullptr;
    if (!in.states) {
        for (std::size_t i = 0; i < n; ++i) result[i] = 0;
        return;
    }
    std::uint8_t* states = out.makeStates();
    for (std::size_t i = 0; i < n; ++i) {
        result[i] = in.states[i] == kEmpty ? 1 : 0;
        // A misfit is not known as a value, and it is known to be there.
        const bool isKnown = in.states[i] <= kEmpty || in.states[i] == static_cast<std::uint8_t>(CellState::Misfit);
        states[i] = isKnown ? kFilled : in.states[i];
    }
}

void runIs(bool wanted, const Vector& in, std::size_t n, Vector& out) {
    std::int8_t* result = out.makeBooleans();
    out.states = nullptr;
    std::uint8_t* states = in.states ? out.makeStates() : nullptr;
    for (std::size_t i = 0; i < n; ++i) {
        const std::uint8_t truth = truthOf(in, i);
        result[i] = truth == (wanted ? 1 : 0) ? 1 : 0;
        if (states) states[i] = truth > 2 ? static_cast<std::uint8_t>(truth - 1) : kFilled;
    }
}

void runCase(Operands in, std::size_t n, Vector& out) {
    const std::size_t branches = in.size() / 2;
    std::vector<const Vector*> values;
    for (std::size_t k = 0; k < branches; ++k) values.push_back(in[2 * k + 1]);
    values.push_back(in.back());
    prepareChoice(values, out);
    std::uint8_t* states = out.stateStore.data();
    copyWhere(*values.back(), n, out, states, [](std::size_t) { return true; });
    bool mayBeUnfilled = values.back()->states != nullptr;
    for (std::size_t k = branches; k-- > 0;) {
        const Vector& condition = *in[2 * k];
        mayBeUnfilled = mayBeUnfilled || condition.states || values[k]->states;
        if (!condition.states && !condition.constant) {
            const std::int8_t* truths = condition.booleans;
            copyWhere(*values[k], n, out, states, [truths](std::size_t i) { return truths[i] != 0; });
            continue;
        }
        // True and filled as bytes, once, so that the copies are plain loops.
        std::int8_t taken[kBatch];
        bool anyError = false;
        for (std::size_t i = 0; i < n; ++i) {
            const std::uint8_t truth = truthOf(condition, i);
            taken[i] = truth == 1 ? 1 : 0;
            anyError |= truth > 2;
        }
        const std::int8_t* truths = taken;
        copyWhere(*values[k], n, out, states, [truths](std::size_t i) { return truths[i] != 0; });
        for (std::size_t i = 0; anyError && i < n; ++i)
            if (const std::uint8_t truth = truthOf(condition, i); truth > 2)
                states[i] = static_cast<std::uint8_t>(truth - 1);
    }
    out.states = mayBeUnfilled ? states : nullptr;
}

void runCoalesce(Operands in, std::size_t n, Vector& out) {
    prepareChoice(in, out);
    std::uint8_t* states = out.stateStore.data();
    copyWhere(*in.back(), n, out, states, [](std::size_t) { return true; });
    for (std::size_t k = in.size() - 1; k-- > 0;) {
        const Vector& value = *in[k];
        copyWhere(value, n, out, states, [&value](std::size_t i) { return value.state(i) != CellState::Empty; });
    }
    out.states = states;
}

void joinStates(Operands in, std::size_t n, Vector& out) {
    out.states = nullptr;
    std::size_t withStates = 0;
    for (const Vector* v : in) withStates += v->states ? 1 : 0;
    if (withStates == 0) return;
    std::uint8_t* states = out.makeStates();
    for (std::size_t i = 0; i < n; ++i) states[i] = kFilled;
    for (const Vector* v : in) {
        if (!v->states) continue;
        if (v->constant) {
            const std::uint8_t s = v->states[0];
            for (std::size_t i = 0; i < n; ++i)
                states[i] = states[i] > kEmpty ? states[i] : s > kEmpty ? s : states[i] | s;
        } else {
            for (std::size_t i = 0; i < n; ++i) {
                const std::uint8_t s = v->states[i];
                states[i] = states[i] > kEmpty ? states[i] : s > kEmpty ? s : states[i] | s;
            }
        }
    }
}

const WideDecimal* widened(const Vector& vector, std::size_t n, std::vector<WideDecimal>& scratch) {
    if (vector.wide) return vector.wides;
    if (scratch.size() < n) scratch.resize(n);
    const std::size_t count = vector.constant ? 1 : n;
    for (std::size_t i = 0; i < count; ++i) scratch[i] = {vector.integers[i], vector.scale};
    return scratch.data();
}

void makeRoom(Vector& out, RuleKind kind) {
    out.kind = kind;
    out.wide = false;
    out.states = nullptr;
    switch (kind) {
        case RuleKind::Boolean: out.makeBooleans(); return;
        case RuleKind::Real: out.makeReals(); return;
        case RuleKind::Null:
        case RuleKind::Text: out.makeTexts(); return;
        case RuleKind::Interval: out.makeIntervals(); return;
        case RuleKind::Decimal:
        case RuleKind::Integer:
        case RuleKind::Date:
        case RuleKind::Time:
        case RuleKind::Timestamp:
        case RuleKind::Instant: out.makeIntegers(); return;
    }
}

RuleValue boxed(const Vector& v, std::size_t i) {
    const std::size_t at = v.at(i);
    switch (v.kind) {
        case RuleKind::Null: return Empty{};
        case RuleKind::Boolean: return v.booleans[at] != 0;
        case RuleKind::Integer: return v.integers[at];
        case RuleKind::Decimal: return v.decimal(i);
        case RuleKind::Real: return v.reals[at];
        case RuleKind::Text: return std::string(v.texts[at]);
        case RuleKind::Date: return Date{static_cast<std::int32_t>(v.integers[at])};
        case RuleKind::Time: return Time{v.integers[at]};
        case RuleKind::Timestamp: return Timestamp{v.integers[at]};
        case RuleKind::Instant: return Instant{v.integers[at]};
        case RuleKind::Interval: return v.intervals[at];
    }
    return Empty{};
}

void unbox(const RuleValue& value, Vector& out, std::size_t i) {
    struct Write {
        Vector& out;
        std::size_t i;
        void operator()(Empty) const { out.stateStore[i] = kEmpty; }
        void operator()(bool v) const { out.booleanStore[i] = v ? 1 : 0; }
        void operator()(std::int64_t v) const { out.integerStore[i] = v; }
        void operator()(const WideDecimal& v) const { out.wideStore[i] = v; }
        void operator()(double v) const { out.realStore[i] = v; }
        void operator()(const std::string& v) const { out.textStore[i] = out.keep(v); }
        void operator()(Date v) const { out.integerStore[i] = v.days; }
        void operator()(Time v) const { out.integerStore[i] = v.micros; }
        void operator()(Timestamp v) const { out.integerStore[i] = v.micros; }
        void operator()(Instant v) const { out.integerStore[i] = v.micros; }
        void operator()(const Interval& v) const { out.intervalStore[i] = v; }
    };
    std::visit(Write{out, i}, value);
}

}  // namespace jollyrow
