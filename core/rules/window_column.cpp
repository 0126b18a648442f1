// SPDX-License-Identifier: MIT
// Covered by tests/rules/window_oracle_test.cpp.
#include "core/rules/window_column.h"

#include <algorithm>

namespace jollyrow {

void WindowColumn::resize(std::size_t n) {
    states.assign(n, static_cast<std::uint8_t>(CellState::Empty));
    switch (kind) {
        case RuleKind::Boolean: booleans.assign(n, 0); break;
        case RuleKind::Real: reals.assign(n, 0); break;
        case RuleKind::Null:
        case RuleKind::Text: texts.assign(n, {}); break;
        case RuleKind::Decimal:
            if (wide)
                wides.assign(n, {});
            else
                integers.assign(n, 0);
            break;
        case RuleKind::Interval: intervals.assign(n, {}); break;
        default: integers.assign(n, 0); break;
    }
}

void WindowColumn::append(CellState state) {
    states.push_back(static_cast<std::uint8_t>(state));
    switch (kind) {
        case RuleKind::Boolean: booleans.push_back(0); break;
        case RuleKind::Real: reals.push_back(0); break;
        case RuleKind::Null:
        case RuleKind::Text: texts.emplace_back(); break;
        case RuleKind::Decimal:
            if (wide)
                wides.emplace_back();
            else
                integers.push_back(0);
            break;
        case RuleKind::Interval: intervals.emplace_back(); break;
        default: integers.push_back(0); break;
    }
}

std::string_view WindowColumn::keep(std::string_view text) {
    if (kept.empty() || kept.back().capacity() - kept.back().size() < text.size()) {
        kept.emplace_back();
        kept.back().reserve(std::max(kTextBlock, text.size()));
    }
    std::string& block = kept.back();
    const std::size_t start = block.size();
    block.append(text);
    return std::string_view(block).substr(start);
}

void WindowColumn::put(std::size_t begin, const Vector& from, std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) states[begin + i] = static_cast<std::uint8_t>(from.state(i));
    const auto copy = [&](const auto* values, auto& into) {
        if (from.constant)
            std::fill_n(into.begin() + static_cast<std::ptrdiff_t>(begin), count, values[0]);
        else
            std::copy_n(values, count, into.begin() + static_cast<std::ptrdiff_t>(begin));
    };
    switch (kind) {
        case RuleKind::Boolean: return copy(from.booleans, booleans);
        case RuleKind::Real: return copy(from.reals, reals);
        case RuleKind::Interval: return copy(from.intervals, intervals);
        case RuleKind::Null: return;
        case RuleKind::Text: {
            std::string_view last, keptLast;
            for (std::size_t i = 0; i < count; ++i) {
                if (!isFilled(begin + i)) continue;
                const std::string_view text = from.texts[from.at(i)];
                if (keptLast.empty() || text != last) keptLast = keep(text);
                last = text;
                texts[begin + i] = keptLast;
            }
            return;
        }
        case RuleKind::Decimal:
            if (!wide && !from.wide && (scale < 0 || scale == from.scale)) {
                scale = from.scale;
                return copy(from.integers, integers);
            }
            widen();
            for (std::size_t i = 0; i < count; ++i)
                if (isFilled(begin + i)) wides[begin + i] = from.decimal(i);
            return;
        default: return copy(from.integers, integers);
    }
}

void WindowColumn::widen() {
    if (wide) return;
    wides.resize(integers.size());
    for (std::size_t i = 0; i < integers.size(); ++i) wides[i] = {integers[i], std::max(scale, 0)};
    wide = true;
    integers = {};
}

void WindowColumn::putExact(std::size_t at, const WideDecimal& value) {
    const auto narrow = wide || (scale >= 0 && scale != value.scale) ? std::nullopt : narrowed(value);
    if (narrow && narrow->scale == value.scale) {
        scale = value.scale;
        integers[at] = narrow->mantissa;
        return;
    }
    widen();
    wides[at] = value;
}

void WindowColumn::put(std::size_t at, const EvaluatedCell& cell) {
    setState(at, cell.state);
    if (cell.state != CellState::Filled) return;
    switch (kind) {
        case RuleKind::Boolean: booleans[at] = std::get<bool>(cell.value) ? 1 : 0; return;
        case RuleKind::Integer: integers[at] = std::get<std::int64_t>(cell.value); return;
        case RuleKind::Decimal: return putExact(at, std::get<WideDecimal>(cell.value));
        case RuleKind::Real: reals[at] = std::get<double>(cell.value); return;
        case RuleKind::Null: return;
        case RuleKind::Text: texts[at] = keep(std::get<std::string>(cell.value)); return;
        case RuleKind::Date: integers[at] = std::get<Date>(cell.value).days; return;
        case RuleKind::Time: integers[at] = std::get<Time>(cell.value).micros; return;
        case RuleKind::Timestamp: integers[at] = std::get<Timestamp>(cell.value).micros; return;
        case RuleKind::Instant: integers[at] = std::get<Instant>(cell.value).micros; return;
        case RuleKind::Interval: intervals[at] = std::get<Interval>(cell.value); return;
    }
}

void WindowColumn::copyTo(Vector& out, std::size_t i, std::size_t at) const {
    out.stateStore[i] = states[at];
    switch (kind) {
        case RuleKind::Boolean: out.booleanStore[i] = booleans[at]; return;
        case RuleKind::Real: out.realStore[i] = reals[at]; return;
        case RuleKind::Null:
        case RuleKind::Text: out.textStore[i] = texts[at]; return;
        case RuleKind::Decimal:
            if (wide)
                out.wideStore[i] = wides[at];
            else
                out.integerStore[i] = integers[at];
            return;
        case RuleKind::Interval: out.intervalStore[i] = intervals[at]; return;
        default: out.integerStore[i] = integers[at]; return;
    }
}

}  // namespace jollyrow
