// SPDX-License-Identifier: MIT
// Covered by tests/rows/cell_figures_test.cpp.
#include "core/rows/cell_figures.h"

#include <cmath>
#include <optional>
#include <unordered_set>

#include "core/columns/wide_decimal.h"

namespace jollyrow {
namespace {

/// Where a day or moment stands on its own line; nullopt for other values.
std::optional<std::int64_t> momentOf(const Value& value) {
    if (const auto* date = std::get_if<Date>(&value)) return date->days;
    if (const auto* time = std::get_if<Time>(&value)) return time->micros;
    if (const auto* moment = std::get_if<Timestamp>(&value)) return moment->micros;
    if (const auto* instant = std::get_if<Instant>(&value)) return instant->micros;
    return std::nullopt;
}

/// Exact numbers, whole ones among them.
std::optional<WideDecimal> exactNumberOf(const Value& value) {
    if (const auto* whole = std::get_if<std::int64_t>(&value)) return WideDecimal(*whole, 0);
    return exactOf(value);
}

class Adder {
  public:
    void add(const Value& value) {
        ++figures_.cells;
        if (isEmpty(value)) return;
        ++figures_.filled;
        if (const auto exact = exactNumberOf(value)) return addExact(*exact, value);
        if (const auto* real = std::get_if<double>(&value); real && std::isfinite(*real)) return addReal(*real, value);
        const auto moment = momentOf(value);
        if (!moment || (type_ && *type_ != value.index())) mixed_ = true;
        if (!moment) return;
        type_ = value.index();
        if (isEmpty(leastMoment_) || *moment < *momentOf(leastMoment_)) leastMoment_ = value;
        if (isEmpty(largestMoment_) || *moment > *momentOf(largestMoment_)) largestMoment_ = value;
    }

    CellFigures done() {
        CellFigures out = figures_;
        if (out.numbers == 0) {
            if (!mixed_) {
                out.least = leastMoment_;
                out.largest = largestMoment_;
            }
            return out;
        }
        out.least = least_;
        out.largest = largest_;
        if (reals_ == 0) {
            if (!exact_) return out;
            out.sum = narrowest(*exact_);
            if (const auto mean = divided(*exact_, WideDecimal(out.numbers, 0))) out.mean = meanOf(*mean);
        } else if (exact_) {
            const double sum = real_ + lost_ + toReal(*exact_);
            out.sum = sum;
            out.mean = sum / static_cast<double>(out.numbers);
        }
        return out;
    }

  private:
    /// With the decimals of the numbers, two where whole ones need them.
    Value meanOf(const WideDecimal& mean) const {
        const auto near = rounded(mean, std::max(scale_, 2));
        WideDecimal shown = unpadded(near.value_or(mean));
        if (shown.scale < scale_) shown = rescaledExactly(shown, scale_).value_or(shown);
        return narrowest(shown);
    }
    void addExact(const WideDecimal& number, const Value& value) {
        ++figures_.numbers;
        scale_ = std::max(scale_, number.scale);
        if (exact_) exact_ = added(*exact_, number);
        bound(toReal(number), value);
    }
    /// Neumaier's compensated sum: the order of the cells does not matter to the digits shown.
    void addReal(double number, const Value& value) {
        ++figures_.numbers;
        ++reals_;
        const double next = real_ + number;
        lost_ += std::abs(real_) >= std::abs(number) ? (real_ - next) + number : (number - next) + real_;
        real_ = next;
        bound(number, value);
    }
    /// Of two that are one double, the exact ones decide.
    static bool isLess(const Value& a, double aReal, const Value& b, double bReal) {
        if (aReal != bReal) return aReal < bReal;
        const auto x = exactNumberOf(a), y = exactNumberOf(b);
        return x && y && *x < *y;
    }
    void bound(double number, const Value& value) {
        if (isEmpty(least_) || isLess(value, number, least_, leastReal_)) {
            least_ = value;
            leastReal_ = number;
        }
        if (isEmpty(largest_) || isLess(largest_, largestReal_, value, number)) {
            largest_ = value;
            largestReal_ = number;
        }
    }

    CellFigures figures_;
    std::optional<WideDecimal> exact_ = WideDecimal(0, 0);
    double real_ = 0, lost_ = 0, leastReal_ = 0, largestReal_ = 0;
    std::int64_t reals_ = 0;
    std::int32_t scale_ = 0;
    Value least_, largest_, leastMoment_, largestMoment_;
    std::optional<std::size_t> type_;
    bool mixed_ = false;
};

}  // namespace

Result<CellFigures> figuresOfCells(const Snapshot& snapshot, std::span<const CellBlock> blocks, const Cancel& cancel) {
    constexpr std::size_t kAskEvery = 4096;
    Adder adder;
    std::unordered_set<std::uint64_t> seen;
    std::size_t count = 0;
    for (const CellBlock& block : blocks)
        for (const SourceRow row : block.rows) {
            if (++count % kAskEvery == 0 && cancel.requested()) return Error{ErrorCode::Cancelled, "Stopped."};
            for (const FieldIndex field : block.fields) {
                const std::uint64_t place = (std::uint64_t{raw(row)} << 32) | raw(field);
                if (blocks.size() > 1 && !seen.insert(place).second) continue;
                adder.add(snapshot.value(row, field));
            }
        }
    return adder.done();
}

}  // namespace jollyrow
