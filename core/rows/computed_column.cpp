// SPDX-License-Identifier: MIT
#include "core/rows/computed_column.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/columns/civil.h"
#include "core/columns/column_builder.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

/// The largest scale, at most 18, at which every value fits 64 bits.
int sharedScale(const std::vector<WideDecimal>& values) {
    int scale = 0;
    Int128 largest = 0;  // whole part
    for (const WideDecimal& v : values) {
        scale = std::max(scale, v.scale);
        const Int128 whole = v.mantissa / widePower(v.scale);
        largest = std::max(largest, whole < 0 ? -whole : whole);
    }
    while (scale > 0 && largest >= widePower(WideDecimal::kMaxScale - scale)) --scale;
    return scale;
}

constexpr std::size_t kMostColumnBytes = std::size_t{1} << 30;

}  // namespace

void addValue(ColumnChunk& chunk, const Value& value) {
    struct Adder {
        ColumnChunk& chunk;
        void operator()(Empty) const { chunk.addEmpty(); }
        void operator()(bool v) const { chunk.addInteger(v ? 1 : 0); }
        void operator()(std::int64_t v) const { chunk.addInteger(v); }
        void operator()(Decimal v) const { (*this)(WideDecimal{v.mantissa, v.scale}); }
        void operator()(const WideDecimal& v) const {
            const auto fitted = rescaledExactly(v, chunk.scale);
            fitted ? chunk.addWide(fitted->mantissa) : chunk.addMisfit(toString(v));
        }
        void operator()(const Unread&) const { chunk.addEmpty(); }  // no rule has such a value
        void operator()(const Unfit& v) const { chunk.addMisfit(v.text, v.stored); }
        void operator()(double v) const { chunk.addReal(v); }
        void operator()(const std::string& v) const { chunk.addText(v); }
        void operator()(Date v) const { chunk.addInteger(v.days); }
        void operator()(Time v) const { chunk.addInteger(v.micros); }
        void operator()(Timestamp v) const { chunk.addInteger(v.micros); }
        void operator()(Instant v) const { chunk.addInteger(v.micros); }
        void operator()(const Bytes& v) const { chunk.addText(v.data); }
    };
    std::visit(Adder{chunk}, value);
}

namespace {

/// One value of a batch, which has one.
void addFilled(ColumnChunk& chunk, const Vector& v, std::size_t i, const RuleType& type) {
    const std::size_t at = v.at(i);
    switch (type.kind) {
        case RuleKind::Boolean: return chunk.addInteger(v.booleans[at]);
        case RuleKind::Real: return chunk.addReal(v.reals[at]);
        case RuleKind::Null:
        case RuleKind::Text: return chunk.addText(v.texts[at]);
        case RuleKind::Interval: {
            const Interval& span = v.intervals[at];
            return chunk.addWide((static_cast<Int128>(span.months) * 30 + span.days) * kMicrosPerDay + span.micros);
        }
        case RuleKind::Decimal: {
            if (!v.wide && v.scale == type.scale) return chunk.addInteger(v.integers[at]);
            const auto fitted = rounded(v.decimal(i), type.scale);
            return fitted ? chunk.addWide(fitted->mantissa) : chunk.addMisfit(toString(v.decimal(i)));
        }
        default: return chunk.addInteger(v.integers[at]);
    }
}

/// Decimals of several scales, at one that all of them fit.
std::shared_ptr<const Column> sharedScaleColumn(const std::vector<WideDecimal>& wides,
                                                const std::vector<CellState>& states, OnFailure onFailure) {
    const int scale = sharedScale(wides);
    ColumnBuilder decimals(Type::Decimal, scale);
    ColumnChunk chunk;
    chunk.reset(Type::Decimal, scale, false);
    for (std::size_t i = 0; i < wides.size(); ++i) {
        const auto fitted = states[i] == CellState::Filled ? rounded(wides[i], scale) : std::nullopt;
        if (fitted)
            chunk.addWide(fitted->mantissa);
        else if (states[i] == CellState::Filled)
            chunk.addMisfit(toString(wides[i]));
        else
            isError(states[i]) && onFailure == OnFailure::Say ? chunk.addMisfit(words(states[i])) : chunk.addEmpty();
    }
    decimals.append(chunk);
    return decimals.share();
}

}  // namespace

Result<std::shared_ptr<const Column>> computedColumn(const std::shared_ptr<const Program>& program,
                                                     const EvaluationInput& input, const Cancel& cancel,
                                                     OnFailure onFailure) {
    auto evaluation = Evaluation::prepare(program, input, cancel);
    if (!evaluation) return evaluation.error();
    Runner runner(*evaluation);
    const RuleType type = program->type();
    const std::size_t rows = input.table->rows;
    const bool isSpan = type.kind == RuleKind::Interval;
    const Type stored = isSpan ? Type::Decimal : columnTypeOf(type.kind);
    const bool varies = type.kind == RuleKind::Decimal && type.scale == RuleType::kVaries;
    std::vector<WideDecimal> wides;
    std::vector<CellState> states;
    ColumnBuilder builder(stored, varies ? 0 : type.scale);
    ColumnChunk chunk;
    for (std::size_t begin = 0; begin < rows; begin += kBatch) {
        if (cancel.requested()) return Error{ErrorCode::Cancelled, "Computing a column was cancelled."};
        const std::size_t count = std::min(kBatch, rows - begin);
        const Vector& v = runner.run(begin, count);
        if (varies) {
            for (std::size_t i = 0; i < count; ++i) {
                states.push_back(v.state(i));
                wides.push_back(states.back() == CellState::Filled ? v.decimal(i) : WideDecimal{});
            }
            continue;
        }
        chunk.reset(stored, type.kind == RuleKind::Decimal ? type.scale : 0, builder.prefersArena());
        for (std::size_t i = 0; i < count; ++i) {
            if (const CellState state = v.state(i); state != CellState::Filled) {
                isError(state) && onFailure == OnFailure::Say ? chunk.addMisfit(words(state)) : chunk.addEmpty();
                continue;
            }
            addFilled(chunk, v, i, type);
        }
        builder.append(chunk);
        if (builder.byteSize() > kMostColumnBytes)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("A computed column takes more than {} MB; let its rule make shorter texts.",
                                     kMostColumnBytes >> 20)};
    }
    if (!varies) return builder.share();
    return sharedScaleColumn(wides, states, onFailure);
}

}  // namespace jollyrow
