// SPDX-License-Identifier: MIT
// Covered by tests/rows/group_test.cpp.
#include "core/rows/value_spread.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/rows/group_codes.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

constexpr double kMicros = 1e6;

double asDouble(const Vector& v, std::size_t i) {
    switch (v.kind) {
        case RuleKind::Real: return v.reals[v.at(i)];
        case RuleKind::Decimal: return toReal(v.decimal(i));
        case RuleKind::Time:
        case RuleKind::Timestamp: return static_cast<double>(v.integers[v.at(i)]) / kMicros;
        default: return static_cast<double>(v.integers[v.at(i)]);
    }
}

}  // namespace

Result<std::shared_ptr<const ValueSpread>> spreadOf(const std::shared_ptr<const Program>& program,
                                                    const EvaluationInput& records, std::size_t bins,
                                                    const Cancel& cancel) {
    auto spread = std::make_shared<ValueSpread>();
    spread->kind = program->type().kind;
    if (!isNumber(spread->kind) && !isIntegral(spread->kind))
        return Error{ErrorCode::Unsupported,
                     fmt::format("Ranges are made of numbers or days, not of {}.", article(spread->kind))};
    std::vector<double> values;
    auto done =
        forBatches(program, records, 1, cancel, [&](std::size_t, std::size_t, std::size_t count, const Vector& v) {
            for (std::size_t i = 0; i < count; ++i) {
                if (v.state(i) != CellState::Filled) {
                    ++spread->empties;
                    continue;
                }
                const double value = asDouble(v, i);
                if (std::isfinite(value)) values.push_back(value);
            }
        });
    if (!done) return done.error();
    spread->counted = static_cast<std::int64_t>(values.size());
    spread->bins.assign(bins, 0);
    if (values.empty()) return std::shared_ptr<const ValueSpread>(std::move(spread));
    const auto [least, greatest] = std::minmax_element(values.begin(), values.end());
    spread->least = *least;
    spread->greatest = *greatest;
    const double width = spread->greatest - spread->least;
    for (const double value : values) {
        const double share = width > 0 ? (value - spread->least) / width : 0;
        ++spread->bins[std::min(bins - 1, static_cast<std::size_t>(share * static_cast<double>(bins)))];
    }
    return std::shared_ptr<const ValueSpread>(std::move(spread));
}

std::vector<double> roundCuts(const ValueSpread& spread) {
    std::vector<double> cuts;
    const double width = spread.greatest - spread.least;
    if (!(width > 0)) return {spread.least};
    double step = std::pow(10.0, std::floor(std::log10(width / 3)));
    for (const double times : {5.0, 2.0})
        if (width / (step * times) >= 3) {
            step *= times;
            break;
        }
    if (spread.kind == RuleKind::Date || spread.kind == RuleKind::Integer) step = std::max(1.0, std::round(step));
    for (double at = std::ceil(spread.least / step + 1e-9) * step; at < spread.greatest && cuts.size() < 8; at += step)
        cuts.push_back(at == 0 ? 0.0 : at);
    return cuts;
}

std::string plainCut(double value, RuleKind kind) {
    switch (kind) {
        case RuleKind::Date: return textOfDate(static_cast<std::int32_t>(std::llround(value)));
        case RuleKind::Time: return textOfTime(std::llround(value) * 1'000'000);
        case RuleKind::Timestamp: return textOfTimestamp(std::llround(value) * 1'000'000);
        case RuleKind::Integer: return std::to_string(std::llround(value));
        default: break;
    }
    std::string text = fmt::format("{:.6f}", value);
    while (text.back() == '0') text.pop_back();
    if (text.back() == '.') text.pop_back();
    return text == "-0" ? "0" : text;
}

}  // namespace jollyrow
