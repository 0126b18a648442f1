// SPDX-License-Identifier: MIT
// Bounds move only forward within a partition, so that each is found by going on from the last one. A bound of RANGE is
// a value, the record's own less or more the distance; records without a value are a frame of their own. Covered by
// tests/rules/window_oracle_test.cpp.
#include "core/rules/window_frames.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/columns/civil.h"

namespace jollyrow {
namespace {

/// Larger than every moment and number that is compared with it.
constexpr Int128 kFar = std::numeric_limits<Int128>::max();

/// The values ordered by as numbers, and what a distance makes of one.
class Scale {
  public:
    Scale(const FrameKey& key, const RuleValue& distance, bool isBack)
        : key_(key), isBack_(isBack != key.descending), distance_(distance) {
        const WindowColumn& values = *key.values;
        if (values.kind != RuleKind::Decimal) return;
        const auto* exact = std::get_if<WideDecimal>(&distance);
        int scale = 0;
        exacts_ = atOneScale(values, scale);
        const auto step = exact ? rescaledExactly(*exact, std::max(scale, int{exact->scale})) : std::nullopt;
        if (!step || !exacts_) return;
        step_ = step->mantissa;
        for (std::size_t row = 0; row < exacts_->size(); ++row) {
            const auto same = rescaledExactly(WideDecimal{(*exacts_)[row], scale}, step->scale);
            if (!same) {
                exacts_.reset();
                return;
            }
            (*exacts_)[row] = same->mantissa;
        }
    }

    bool isReal() const { return key_.values->kind == RuleKind::Real; }
    double real(std::uint32_t row) const { return key_.values->reals[row]; }
    double realBound(std::uint32_t row) const {
        const double step = std::get<double>(distance_);
        return isBack_ ? real(row) - step : real(row) + step;
    }

    Int128 number(std::uint32_t row) const {
        const WindowColumn& values = *key_.values;
        switch (values.kind) {
            case RuleKind::Decimal: return exacts_ ? (*exacts_)[row] : 0;
            case RuleKind::Date: return Int128{values.integers[row]} * kMicrosPerDay;
            case RuleKind::Interval: return lengthOf(values.intervals[row]);
            default: return values.integers[row];
        }
    }
    Int128 bound(std::uint32_t row) const {
        const Int128 value = number(row);
        Int128 step = step_;
        if (const auto* whole = std::get_if<std::int64_t>(&distance_)) step = *whole;
        if (const auto* span = std::get_if<Interval>(&distance_)) {
            const RuleKind kind = key_.values->kind;
            if (kind == RuleKind::Date || kind == RuleKind::Timestamp || kind == RuleKind::Instant)
                return moved(static_cast<std::int64_t>(value), *span, kind == RuleKind::Instant);
            step = kind == RuleKind::Time ? Int128{span->micros} : lengthOf(*span);
        }
        return isBack_ ? value - step : value + step;
    }

  private:
    static Int128 lengthOf(const Interval& span) {
        constexpr int kDays = 30;
        return (Int128{span.months} * kDays + span.days) * kMicrosPerDay + span.micros;
    }
    Int128 moved(std::int64_t micros, const Interval& span, bool isInstant) const {
        const auto step = isBack_ ? negated(span) : std::optional(span);
        if (!step) return isBack_ ? -kFar : kFar;
        const Interval calendar{step->months, step->days, 0};
        const std::int64_t local = isInstant ? key_.zone->toLocal(micros) : micros;
        auto day = addedToTimestamp(local, calendar);
        if (!day) return isBack_ ? -kFar : kFar;
        const std::int64_t at = isInstant ? key_.zone->toInstant(*day) : *day;
        return Int128{at} + step->micros;
    }

    const FrameKey& key_;
    bool isBack_;
    const RuleValue& distance_;
    std::optional<std::vector<Int128>> exacts_;
    Int128 step_ = 0;
};

class FrameMaker {
  public:
    FrameMaker(const WindowFrame& frame, const RuleValue* begin, const RuleValue* end, const FrameKey& key,
               const WindowOrder& order)
        : frame_(frame), begin_(begin), end_(end), key_(key), order_(order) {
        made_.of.resize(order.rows.size());
        made_.excluded = frame.excluded;
    }

    Frames run() {
        for (std::size_t g = 0; g + 1 < order_.groupBegin.size(); ++g) {
            bounds({order_.groupBegin[g], order_.groupBegin[g + 1]}, true);
            bounds({order_.groupBegin[g], order_.groupBegin[g + 1]}, false);
        }
        return std::move(made_);
    }

  private:
    void bounds(Places group, bool isBegin) {
        const FrameBound bound = isBegin ? frame_.begin : frame_.end;
        const RuleValue* distance = isBegin ? begin_ : end_;
        switch (bound) {
            case FrameBound::UnboundedPreceding: return fill(group, isBegin, group.begin);
            case FrameBound::UnboundedFollowing: return fill(group, isBegin, group.end);
            case FrameBound::CurrentRow:
                for (std::uint32_t p = group.begin; p < group.end; ++p) {
                    const bool isRow = frame_.unit == FrameUnit::Rows;
                    put(p, isBegin, isBegin ? (isRow ? p : order_.peerBegin[p]) : (isRow ? p + 1 : order_.peerEnd[p]));
                }
                return;
            default: break;
        }
        const bool isBack = bound == FrameBound::Preceding;
        if (frame_.unit == FrameUnit::Range) return byValue(group, isBegin, isBack, *distance);
        const std::int64_t count = std::get<std::int64_t>(*distance);
        if (frame_.unit == FrameUnit::Rows) return byRows(group, isBegin, isBack ? -count : count);
        byPeers(group, isBegin, isBack ? -count : count);
    }
    void put(std::uint32_t place, bool isBegin, std::uint32_t at) {
        (isBegin ? made_.of[place].begin : made_.of[place].end) = at;
    }
    void fill(Places group, bool isBegin, std::uint32_t at) {
        for (std::uint32_t p = group.begin; p < group.end; ++p) put(p, isBegin, at);
    }

    void byRows(Places group, bool isBegin, std::int64_t distance) {
        const auto size = static_cast<std::int64_t>(group.end - group.begin);
        distance = std::clamp(distance, -size - 1, size + 1);
        for (std::uint32_t p = group.begin; p < group.end; ++p) {
            const std::int64_t at = std::int64_t{p} - group.begin + distance + (isBegin ? 0 : 1);
            put(p, isBegin, group.begin + static_cast<std::uint32_t>(std::clamp<std::int64_t>(at, 0, size)));
        }
    }

    void byPeers(Places group, bool isBegin, std::int64_t distance) {
        std::vector<std::uint32_t> begins;  // of the groups of equal records
        for (std::uint32_t p = group.begin; p < group.end; p = order_.peerEnd[p]) begins.push_back(p);
        const auto count = static_cast<std::int64_t>(begins.size());
        begins.push_back(group.end);
        distance = std::clamp(distance, -count - 1, count + 1);
        for (std::int64_t k = 0; k < count; ++k) {
            const auto at = std::clamp<std::int64_t>(k + distance + (isBegin ? 0 : 1), 0, count);
            for (std::uint32_t p = begins[static_cast<std::size_t>(k)]; p < begins[static_cast<std::size_t>(k) + 1];
                 ++p)
                put(p, isBegin, begins[static_cast<std::size_t>(at)]);
        }
    }

    void byValue(Places group, bool isBegin, bool isBack, const RuleValue& distance) {
        const WindowColumn& values = *key_.values;
        const auto has = [&](std::uint32_t p) { return values.isFilled(order_.rows[p]); };
        Places filled = group;
        while (filled.begin < filled.end && !has(filled.begin)) ++filled.begin;
        while (filled.end > filled.begin && !has(filled.end - 1)) --filled.end;
        for (std::uint32_t p = group.begin; p < group.end; ++p)
            if (!has(p)) put(p, isBegin, isBegin ? order_.peerBegin[p] : order_.peerEnd[p]);
        const Scale scale(key_, distance, isBack);
        if (scale.isReal())
            walk(
                filled, isBegin, [&](std::uint32_t p) { return scale.real(order_.rows[p]); },
                [&](std::uint32_t p) { return scale.realBound(order_.rows[p]); });
        else
            walk(
                filled, isBegin, [&](std::uint32_t p) { return scale.number(order_.rows[p]); },
                [&](std::uint32_t p) { return scale.bound(order_.rows[p]); });
    }
    /// The first place whose value has reached the bound (of a begin), or has passed it (of an end).
    template <class Value, class Bound>
    void walk(Places filled, bool isBegin, const Value& value, const Bound& bound) {
        std::uint32_t at = filled.begin;
        for (std::uint32_t p = filled.begin; p < filled.end; ++p) {
            const auto limit = bound(p);
            const auto isBefore = [&](std::uint32_t place) {
                const auto v = value(place);
                if (key_.descending) return isBegin ? less(limit, v) : !less(v, limit);
                return isBegin ? less(v, limit) : !less(limit, v);
            };
            while (at < filled.end && isBefore(at)) ++at;
            put(p, isBegin, at);
        }
    }
    static bool less(Int128 a, Int128 b) { return a < b; }
    /// NaN is the largest, and equal to itself.
    static bool less(double a, double b) { return orderedBits(a) < orderedBits(b); }

    const WindowFrame& frame_;
    const RuleValue* begin_;
    const RuleValue* end_;
    const FrameKey& key_;
    const WindowOrder& order_;
    Frames made_;
};

bool isSize(const RuleValue& distance) {
    if (const auto* whole = std::get_if<std::int64_t>(&distance)) return *whole >= 0;
    if (const auto* exact = std::get_if<WideDecimal>(&distance)) return exact->mantissa >= 0;
    if (const auto* real = std::get_if<double>(&distance)) return *real >= 0;
    const auto* span = std::get_if<Interval>(&distance);
    return span && *span >= Interval{};
}

}  // namespace

std::uint32_t Frames::Runs::size() const {
    std::uint32_t all = 0;
    for (std::size_t i = 0; i < count; ++i) all += runs[i].end - runs[i].begin;
    return all;
}

Frames::Runs Frames::runsAt(std::uint32_t place, const WindowOrder& order) const {
    Runs made;
    const auto add = [&](std::uint32_t begin, std::uint32_t end) {
        if (begin < end) made.runs[made.count++] = {begin, end};
    };
    const Places frame = of[place];
    const Places peers{order.peerBegin[place], order.peerEnd[place]};
    switch (excluded) {
        case FrameExclusion::None: add(frame.begin, frame.end); break;
        case FrameExclusion::CurrentRow:
            add(frame.begin, std::min(frame.end, place));
            add(std::max(frame.begin, place + 1), frame.end);
            break;
        case FrameExclusion::Group:
        case FrameExclusion::Ties:
            add(frame.begin, std::min(frame.end, peers.begin));
            if (excluded == FrameExclusion::Ties) add(std::max(frame.begin, place), std::min(frame.end, place + 1));
            add(std::max(frame.begin, peers.end), frame.end);
            break;
    }
    return made;
}

std::optional<Frames> framesOf(const WindowFrame& frame, const RuleValue* beginDistance, const RuleValue* endDistance,
                               const FrameKey& key, const WindowOrder& order) {
    for (const RuleValue* distance : {beginDistance, endDistance})
        if (distance && !isSize(*distance)) return std::nullopt;
    return FrameMaker(frame, beginDistance, endDistance, key, order).run();
}

}  // namespace jollyrow
