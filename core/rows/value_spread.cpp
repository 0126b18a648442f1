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
        case RuleKind::Timestamp:
        case RuleKind::Instant: return static_cast<double>(v.integers[v.at(i)]) / kMicros;
        default: return static_cast<double>(v.integers[v.at(i)]);
    }
}

/// The value that a share of them lies below. Reorders the values. O(values).
double quantile(std::vector<double>& values, double share) {
    const auto at = values.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1));
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

/// Few values far off would leave one bin for all others: the window leaves out the outermost hundredth then.
void chooseWindow(ValueSpread& spread, std::vector<double>& values) {
    constexpr std::size_t kEnough = 100;
    spread.from = spread.least;
    spread.to = spread.greatest;
    for (const double share : {0.2, 0.4, 0.6, 0.8}) spread.fifths.push_back(quantile(values, share));
    if (values.size() < kEnough) return;
    const double low = quantile(values, 0.01), high = quantile(values, 0.99), width = high - low;
    if (!(width > 0)) return;
    if (low - spread.least > width / 2) spread.from = low;
    if (spread.greatest - high > width / 2) spread.to = high;
}

/// The nearest of 1, 2 and 5 times a power of ten, by ratio.
double roundNear(double value) {
    if (value == 0) return 0;
    const double size = std::abs(value), power = std::pow(10.0, std::floor(std::log10(size)));
    double best = power;
    for (const double times : {2.0, 5.0, 10.0})
        if (std::abs(std::log(times * power / size)) < std::abs(std::log(best / size))) best = times * power;
    return std::copysign(best, value);
}

/// The largest share of the values that lies between two neighbouring cuts, as far as the bins tell.
double largestShare(const ValueSpread& spread, const std::vector<double>& cuts) {
    std::vector<std::int64_t> in(cuts.size() + 1);
    const double width = (spread.to - spread.from) / static_cast<double>(spread.bins.size());
    for (std::size_t i = 0; i < spread.bins.size(); ++i) {
        const double middle = spread.from + (static_cast<double>(i) + 0.5) * width;
        in[static_cast<std::size_t>(std::upper_bound(cuts.begin(), cuts.end(), middle) - cuts.begin())] +=
            spread.bins[i];
    }
    in.front() += spread.below;
    in.back() += spread.above;
    return static_cast<double>(*std::max_element(in.begin(), in.end())) /
           static_cast<double>(std::max<std::int64_t>(1, spread.counted));
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
    chooseWindow(*spread, values);
    const double width = spread->to - spread->from;
    for (const double value : values) {
        if (value < spread->from || value > spread->to) {
            ++(value < spread->from ? spread->below : spread->above);
            continue;
        }
        const double share = width > 0 ? (value - spread->from) / width : 0;
        ++spread->bins[std::min(bins - 1, static_cast<std::size_t>(share * static_cast<double>(bins)))];
    }
    return std::shared_ptr<const ValueSpread>(std::move(spread));
}

std::vector<double> roundCuts(const ValueSpread& spread) {
    std::vector<double> cuts;
    const double width = spread.to - spread.from;
    if (!(width > 0)) return {spread.from};
    double step = std::pow(10.0, std::floor(std::log10(width / 3)));
    for (const double times : {5.0, 2.0})
        if (width / (step * times) >= 3) {
            step *= times;
            break;
        }
    if (spread.kind == RuleKind::Date || spread.kind == RuleKind::Integer) step = std::max(1.0, std::round(step));
    for (double at = std::ceil(spread.from / step + 1e-9) * step; at < spread.to && cuts.size() < 8; at += step)
        cuts.push_back(at == 0 ? 0.0 : at);
    constexpr double kMost = 0.6;
    if (!isNumber(spread.kind) || largestShare(spread, cuts) <= kMost) return cuts;
    std::vector<double> near;
    for (const double fifth : spread.fifths) {
        const double round = spread.kind == RuleKind::Integer ? std::round(roundNear(fifth)) : roundNear(fifth);
        if (round > spread.least && round < spread.greatest && (near.empty() || round > near.back()))
            near.push_back(round);
    }
    return near.empty() || largestShare(spread, near) >= largestShare(spread, cuts) ? cuts : near;
}

std::string plainCut(double value, RuleKind kind) {
    switch (kind) {
        case RuleKind::Date: return textOfDate(static_cast<std::int32_t>(std::llround(value)));
        case RuleKind::Time: return textOfTime(std::llround(value) * 1'000'000);
        case RuleKind::Timestamp: return textOfTimestamp(std::llround(value) * 1'000'000);
        case RuleKind::Instant: return textOf(Instant{std::llround(value) * 1'000'000});
        case RuleKind::Integer: return std::to_string(std::llround(value));
        default: break;
    }
    std::string text = fmt::format("{:.6f}", value);
    while (text.back() == '0') text.pop_back();
    if (text.back() == '.') text.pop_back();
    return text == "-0" ? "0" : text;
}

}  // namespace jollyrow
