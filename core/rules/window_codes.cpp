// SPDX-License-Identifier: MIT
// Where values lie within 64 bits their code is how far they lie from the smallest; others are numbered in their
// order. Covered by tests/rules/window_oracle_test.cpp.
#include "core/rules/window_codes.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <functional>
#include <limits>
#include <map>
#include <string>
#include <unordered_map>

#include "core/rules/collation_key.h"

namespace jollyrow {
namespace {

constexpr std::uint64_t kSign = std::uint64_t{1} << 63;

/// Codes from numbers that have the order: their distance from the smallest (or to the largest).
class Spread {
  public:
    Spread(const WindowColumn& values, const CodeOrder& order) : values_(values), order_(order) {}

    template <class Bits>
    std::optional<WindowCodes> run(const Bits& bitsOf) {
        std::uint64_t least = std::numeric_limits<std::uint64_t>::max(), most = 0;
        const std::size_t n = values_.size();
        for (std::size_t i = 0; i < n; ++i) {
            if (!values_.isFilled(i)) continue;
            const std::uint64_t bits = bitsOf(i);
            least = std::min(least, bits);
            most = std::max(most, bits);
        }
        WindowCodes made;
        made.codes.resize(n);
        if (least > most) least = most = 0;  // all are empty
        if (most - least > std::numeric_limits<std::uint64_t>::max() - 2) return std::nullopt;
        const std::uint64_t range = most - least, empty = order_.emptiesFirst ? 0 : range + 2;
        for (std::size_t i = 0; i < n; ++i) {
            if (!values_.isFilled(i)) {
                made.codes[i] = empty;
                continue;
            }
            const std::uint64_t bits = bitsOf(i);
            made.codes[i] = 1 + (order_.descending ? most - bits : bits - least);
        }
        made.most = range + 2;
        return made;
    }
    /// Numbers for values that are given their place by a sort of the different ones.
    WindowCodes places(const std::vector<std::uint32_t>& place) {
        return *run([&](std::size_t i) { return std::uint64_t{place[i]}; });
    }

  private:
    const WindowColumn& values_;
    const CodeOrder& order_;
};

/// Numbers of texts: in their order, or as they come.
std::vector<std::uint32_t> placesOfTexts(const WindowColumn& values, bool isOrdered) {
    std::unordered_map<std::string_view, std::uint32_t> numbers;
    std::vector<std::string_view> distinct;
    std::vector<std::uint32_t> place(values.size());
    std::string_view last;
    std::uint32_t lastNumber = 0;
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (!values.isFilled(i)) continue;
        const std::string_view text = values.texts[i];
        const bool isSame = !distinct.empty() && text.data() == last.data() && text.size() == last.size();
        if (!isSame) {
            const auto [at, isNew] = numbers.try_emplace(text, static_cast<std::uint32_t>(distinct.size()));
            if (isNew) distinct.push_back(text);
            lastNumber = at->second;
            last = text;
        }
        place[i] = lastNumber;
    }
    if (!isOrdered) return place;
    const CollationKeys keys("und-x-icu");
    std::vector<std::pair<std::string, std::uint32_t>> sorted;
    sorted.reserve(distinct.size());
    for (std::uint32_t d = 0; d < distinct.size(); ++d) sorted.emplace_back(keys.of(distinct[d]), d);
    std::sort(sorted.begin(), sorted.end());
    std::vector<std::uint32_t> rank(distinct.size());
    for (std::uint32_t r = 0; r < sorted.size(); ++r) rank[sorted[r].second] = r;
    for (std::uint32_t& p : place) p = rank.empty() ? 0 : rank[p];
    return place;
}

template <class Less>
std::vector<std::uint32_t> placesBySorting(const WindowColumn& values, const Less& less) {
    std::vector<std::uint32_t> rows;
    for (std::uint32_t i = 0; i < values.size(); ++i)
        if (values.isFilled(i)) rows.push_back(i);
    std::sort(rows.begin(), rows.end(), less);
    std::vector<std::uint32_t> place(values.size());
    std::uint32_t next = 0;
    for (std::size_t k = 0; k < rows.size(); ++k) {
        if (k > 0 && less(rows[k - 1], rows[k])) ++next;
        place[rows[k]] = next;
    }
    return place;
}

WindowCodes codesOfDecimals(const WindowColumn& values, Spread& spread) {
    if (!values.wide)
        if (auto made =
                spread.run([&](std::size_t i) { return static_cast<std::uint64_t>(values.integers[i]) ^ kSign; }))
            return std::move(*made);
    int scale = 0;
    const auto same = atOneScale(values, scale);
    constexpr Int128 kMost = std::numeric_limits<std::int64_t>::max();
    const bool isNarrow =
        same && std::all_of(same->begin(), same->end(), [](Int128 v) { return v >= -kMost && v <= kMost; });
    if (isNarrow)
        if (auto made = spread.run([&](std::size_t i) {
                return static_cast<std::uint64_t>(static_cast<std::int64_t>((*same)[i])) ^ kSign;
            }))
            return std::move(*made);
    return spread.places(placesBySorting(
        values, [&](std::uint32_t a, std::uint32_t b) { return values.decimal(a) < values.decimal(b); }));
}

}  // namespace

std::uint64_t orderedBits(double value) {
    if (std::isnan(value)) return std::numeric_limits<std::uint64_t>::max();
    const auto bits = std::bit_cast<std::uint64_t>(value == 0 ? 0.0 : value);
    return (bits & kSign) != 0 ? ~bits : bits | kSign;
}

std::optional<std::vector<Int128>> atOneScale(const WindowColumn& values, int& scale) {
    std::vector<Int128> made(values.size());
    if (values.kind != RuleKind::Decimal || !values.wide) {
        scale = values.kind == RuleKind::Decimal ? std::max(values.scale, 0) : 0;
        std::copy(values.integers.begin(), values.integers.end(), made.begin());
        return made;
    }
    scale = 0;
    for (std::size_t i = 0; i < values.size(); ++i)
        if (values.isFilled(i)) scale = std::max(scale, int{values.wides[i].scale});
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (!values.isFilled(i)) continue;
        const WideDecimal& value = values.wides[i];
        if (value.scale == scale) {
            made[i] = value.mantissa;
            continue;
        }
        const auto same = rescaledExactly(value, scale);
        if (!same) return std::nullopt;
        made[i] = same->mantissa;
    }
    return made;
}

WindowCodes codesOf(const WindowColumn& values, const CodeOrder& order) {
    Spread spread(values, order);
    switch (values.kind) {
        case RuleKind::Null:
        case RuleKind::Text: return spread.places(placesOfTexts(values, order.isOrdered));
        case RuleKind::Boolean:
            return *spread.run([&](std::size_t i) { return std::uint64_t{values.booleans[i] != 0}; });
        case RuleKind::Decimal: return codesOfDecimals(values, spread);
        case RuleKind::Real:
            if (auto made = spread.run([&](std::size_t i) { return orderedBits(values.reals[i]); }))
                return std::move(*made);
            return spread.places(placesBySorting(values, [&](std::uint32_t a, std::uint32_t b) {
                return orderedBits(values.reals[a]) < orderedBits(values.reals[b]);
            }));
        case RuleKind::Interval:
            return spread.places(placesBySorting(
                values, [&](std::uint32_t a, std::uint32_t b) { return values.intervals[a] < values.intervals[b]; }));
        default: break;
    }
    const auto bitsOf = [&](std::size_t i) { return static_cast<std::uint64_t>(values.integers[i]) ^ kSign; };
    if (auto made = spread.run(bitsOf)) return std::move(*made);
    return spread.places(placesBySorting(
        values, [&](std::uint32_t a, std::uint32_t b) { return values.integers[a] < values.integers[b]; }));
}

}  // namespace jollyrow
