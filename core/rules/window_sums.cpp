// SPDX-License-Identifier: MIT
// Exact sums are differences of running ones, in 128 bits that no sum of these values passes; where one could, records
// are added one by one. Doubles are never subtracted again: a tree of partial sums gives any run of them. Covered by
// tests/rules/window_oracle_test.cpp.
#include "core/rules/window_sums.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include "core/columns/decimal_functions.h"
#include "core/rules/merge_tree.h"

namespace jollyrow {
namespace {

bool isVariance(Aggregate of) { return of >= Aggregate::Variance && of <= Aggregate::DeviationPopulation; }
bool isRoot(Aggregate of) { return of == Aggregate::Deviation || of == Aggregate::DeviationPopulation; }
bool isPopulation(Aggregate of) { return of == Aggregate::VariancePopulation || of == Aggregate::DeviationPopulation; }

/// How many of the records before a place are what `counts` says.
template <class Counts>
std::vector<std::uint32_t> runningCounts(const WindowOrder& order, const Counts& counts) {
    std::vector<std::uint32_t> made(order.rows.size() + 1, 0);
    for (std::size_t p = 0; p < order.rows.size(); ++p) made[p + 1] = made[p] + (counts(order.rows[p]) ? 1 : 0);
    return made;
}
template <class Sums>
auto between(const Sums& running, const Frames::Runs& runs) {
    typename Sums::value_type all{};
    for (const Places& run : runs) all += running[run.end] - running[run.begin];
    return all;
}

/// Where a frame holds a failure its figure is that failure; misfits count for nothing.
class Failures {
  public:
    Failures(const WindowColumn* values, const WindowOrder& order) : values_(values), order_(order) {
        if (!values) return;
        const auto fails = [&](std::uint32_t row) { return isError(values->state(row)) && !isMisfit(row); };
        for (std::uint32_t p = 0; p < order.rows.size(); ++p)
            if (fails(order.rows[p])) places_.push_back(p);
    }
    bool isNone() const { return places_.empty(); }
    CellState in(const Frames::Runs& runs) const {
        if (places_.empty()) return CellState::Filled;
        for (const Places& run : runs) {
            const auto first = std::lower_bound(places_.begin(), places_.end(), run.begin);
            if (first != places_.end() && *first < run.end) return values_->state(order_.rows[*first]);
        }
        return CellState::Filled;
    }

  private:
    bool isMisfit(std::uint32_t row) const { return values_->state(row) == CellState::Misfit; }
    const WindowColumn* values_;
    const WindowOrder& order_;
    std::vector<std::uint32_t> places_;
};

struct ExactSum {
    Int128 sum = 0, squares = 0;
    ExactSum& operator+=(const ExactSum& other) {
        sum += other.sum;
        squares += other.squares;
        return *this;
    }
    friend ExactSum operator-(const ExactSum& a, const ExactSum& b) { return {a.sum - b.sum, a.squares - b.squares}; }
};

/// Doubles added in two parts, the second what the first has lost (Knuth's TwoSum).
struct RealSum {
    double high = 0, low = 0;
    void add(double x) {
        const double t = high + x, back = t - high;
        const double lost = (high - (t - back)) + (x - back);
        high = t;
        if (std::isfinite(t)) low += lost;
    }
    void merge(const RealSum& other) {
        add(other.high);
        low += other.low;
    }
    double value() const { return std::isfinite(high) ? high + low : high; }
};

/// Mean and squared deviations (Chan, Golub and LeVeque's merge of Welford's method).
struct RealSpread {
    double count = 0, mean = 0, squares = 0;
    void merge(const RealSpread& other) {
        if (other.count == 0) return;
        if (count == 0) {
            *this = other;
            return;
        }
        const double all = count + other.count, apart = other.mean - mean;
        mean += apart * other.count / all;
        squares += other.squares + apart * apart * count * other.count / all;
        count = all;
    }
};

class FrameSums {
  public:
    FrameSums(const WindowSpec& spec, const WindowColumn* first, const WindowColumn* second, const Frames& frames,
              const WindowOrder& order, const Cancel& cancel, WindowColumn& out)
        : spec_(spec),
          first_(first),
          second_(second),
          frames_(frames),
          order_(order),
          cancel_(cancel),
          out_(out),
          failures_(first, order) {}

    bool run() {
        counts_ = runningCounts(order_, [&](std::uint32_t row) { return !first_ || first_->isFilled(row); });
        switch (spec_.aggregate) {
            case Aggregate::Count:
                return each([&](std::uint32_t row, const Frames::Runs&, std::uint32_t count) {
                    out_.integers[row] = count;
                    out_.setState(row, CellState::Filled);
                });
            case Aggregate::Every:
            case Aggregate::AnyOf: return truths();
            case Aggregate::Joined: return joined();
            default: break;
        }
        if (first_->kind != RuleKind::Real) return exact();
        return isVariance(spec_.aggregate) ? spreads() : reals();
    }

  private:
    /// Calls f(record, runs, how many values) for each frame that fails nowhere.
    template <class F>
    bool each(const F& f) {
        constexpr std::size_t kPause = 1 << 16;
        const bool isPlain = frames_.excluded == FrameExclusion::None && failures_.isNone();
        for (std::uint32_t place = 0; place < order_.rows.size(); ++place) {
            if (place % kPause == 0 && cancel_.requested()) return false;
            const std::uint32_t row = order_.rows[place];
            if (isPlain) {
                const Places frame = frames_.of[place];
                const bool isEmpty = frame.begin >= frame.end;
                const Frames::Runs runs{{Places{frame.begin, frame.end}}, isEmpty ? std::size_t{0} : std::size_t{1}};
                f(row, runs, isEmpty ? 0 : counts_[frame.end] - counts_[frame.begin]);
                continue;
            }
            const Frames::Runs runs = frames_.runsAt(place, order_);
            const CellState failed = failures_.in(runs);
            if (failed != CellState::Filled)
                out_.setState(row, failed);
            else
                f(row, runs, between(counts_, runs));
        }
        return true;
    }

    bool truths() {
        const bool wanted = spec_.aggregate == Aggregate::AnyOf;
        const auto hits = runningCounts(
            order_, [&](std::uint32_t row) { return first_->isFilled(row) && (first_->booleans[row] != 0) == wanted; });
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            if (count == 0) return;
            out_.booleans[row] = (between(hits, runs) != 0) == wanted ? 1 : 0;
            out_.setState(row, CellState::Filled);
        });
    }

    /// Values of 64 bits whose sums fit them, too: the usual ones.
    std::optional<bool> narrowSums() {
        if (isVariance(spec_.aggregate) || first_->wide) return std::nullopt;
        const std::vector<std::int64_t>& values = first_->integers;
        std::int64_t most = 1;
        for (const std::uint32_t row : order_.rows)
            if (first_->isFilled(row))
                most = std::max(most, values[row] < 0 ? -std::max(values[row], -kFar) : values[row]);
        if (most > kFar / static_cast<std::int64_t>(order_.rows.size() + 1)) return std::nullopt;
        std::vector<std::int64_t> running(order_.rows.size() + 1, 0);
        for (std::size_t p = 0; p < order_.rows.size(); ++p) {
            const std::uint32_t row = order_.rows[p];
            running[p + 1] = running[p] + (first_->isFilled(row) ? values[row] : 0);
        }
        const int scale = std::max(first_->scale, 0);
        const bool isSum = spec_.aggregate == Aggregate::Sum;
        if (isSum && out_.kind == RuleKind::Decimal) out_.scale = scale;
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            const std::int64_t sum = between(running, runs);
            if (!isSum) return settle(row, count, {sum, scale}, {0, 0});
            out_.integers[row] = sum;
            if (count != 0) out_.setState(row, CellState::Filled);
        });
    }
    static constexpr std::int64_t kFar = std::int64_t{1} << 62;

    bool exact() {
        if (const auto done = narrowSums()) return *done;
        int scale = 0;
        const auto values = atOneScale(*first_, scale);
        Int128 most = 1;
        if (values)
            for (const Int128 value : *values) most = std::max(most, value < 0 ? -value : value);
        // Can no sum, or no sum of squares, pass 126 bits?
        constexpr Int128 kMost = Int128{1} << 126;
        const Int128 room = kMost / static_cast<Int128>(order_.rows.size() + 1);
        const bool hasSquares = isVariance(spec_.aggregate);
        if (!values || most > room || (hasSquares && most > room / most)) return slowExact();
        std::vector<ExactSum> running(order_.rows.size() + 1);
        for (std::size_t p = 0; p < order_.rows.size(); ++p) {
            running[p + 1] = running[p];
            const std::uint32_t row = order_.rows[p];
            if (!first_->isFilled(row)) continue;
            const Int128 value = (*values)[row];
            running[p + 1] += {value, hasSquares ? value * value : 0};
        }
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            const ExactSum sum = between(running, runs);
            settle(row, count, {sum.sum, scale}, {sum.squares, 2 * scale});
        });
    }
    bool slowExact() {
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            std::optional<WideDecimal> sum = WideDecimal{0, 0}, squares = sum;
            for (const Places& run : runs)
                for (std::uint32_t p = run.begin; p < run.end && sum && squares; ++p) {
                    const std::uint32_t other = order_.rows[p];
                    if (!first_->isFilled(other)) continue;
                    const WideDecimal value = first_->decimal(other);
                    sum = added(*sum, value);
                    const auto square = isVariance(spec_.aggregate) ? multiplied(value, value) : std::nullopt;
                    if (isVariance(spec_.aggregate)) squares = square ? added(*squares, *square) : std::nullopt;
                }
            if (sum && squares)
                settle(row, count, *sum, *squares);
            else
                out_.setState(row, CellState::TooLarge);
        });
    }
    void settle(std::uint32_t row, std::uint32_t count, const WideDecimal& sum, const WideDecimal& squares) {
        if (count == 0) return;
        out_.setState(row, CellState::Filled);
        std::optional<WideDecimal> value = sum;
        if (spec_.aggregate == Aggregate::Average) value = divided(sum, {count, 0});
        if (isVariance(spec_.aggregate)) {
            if (!isPopulation(spec_.aggregate) && count < 2) return out_.setState(row, CellState::Empty);
            value = varianceOf(count, sum, squares, isPopulation(spec_.aggregate), isRoot(spec_.aggregate));
        }
        if (out_.kind != RuleKind::Integer) {
            // 38 digits, as everywhere.
            const auto fits = value ? added(*value, {0, 0}) : std::nullopt;
            return fits ? out_.putExact(row, *fits) : out_.setState(row, CellState::TooLarge);
        }
        const auto whole = value ? toInteger(*value) : std::nullopt;
        if (whole)
            out_.integers[row] = *whole;
        else
            out_.setState(row, CellState::TooLarge);
    }

    bool reals() {
        std::vector<RealSum> values(order_.rows.size());
        for (std::size_t p = 0; p < values.size(); ++p)
            if (first_->isFilled(order_.rows[p])) values[p].high = first_->reals[order_.rows[p]];
        const auto put = [&](std::uint32_t row, std::uint32_t count, const RealSum& sum) {
            if (count == 0) return;
            out_.reals[row] = spec_.aggregate == Aggregate::Average ? sum.value() / count : sum.value();
            out_.setState(row, CellState::Filled);
        };
        if (isRunning()) {
            RealSum sum;
            Places done;
            return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
                const Places frame = runs.count == 0 ? Places{} : runs.runs[0];
                if (frame.begin != done.begin || frame.end < done.end) {
                    sum = {};
                    done = {frame.begin, frame.begin};
                }
                for (; done.end < frame.end; ++done.end) sum.merge(values[done.end]);
                put(row, count, sum);
            });
        }
        const MergeTree<RealSum> tree(std::move(values));
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            RealSum sum;
            for (const Places& run : runs) tree.collect(run.begin, run.end, sum);
            put(row, count, sum);
        });
    }
    bool isRunning() const {
        return spec_.frame.begin == FrameBound::UnboundedPreceding && spec_.frame.excluded == FrameExclusion::None;
    }

    bool spreads() {
        std::vector<RealSpread> values(order_.rows.size());
        for (std::size_t p = 0; p < values.size(); ++p)
            if (first_->isFilled(order_.rows[p])) values[p] = {1, first_->reals[order_.rows[p]], 0};
        const MergeTree<RealSpread> tree(std::move(values));
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            const std::uint32_t divisor = isPopulation(spec_.aggregate) ? count : count - 1;
            if (count == 0 || divisor == 0) return;
            RealSpread all;
            for (const Places& run : runs) tree.collect(run.begin, run.end, all);
            const double variance = all.squares / divisor;
            out_.reals[row] = isRoot(spec_.aggregate) ? std::sqrt(variance) : variance;
            out_.setState(row, CellState::Filled);
        });
    }

    /// All texts together may take so much.
    static constexpr std::size_t kMostJoined = kMostBatchBytes;
    bool joined() {
        std::size_t taken = 0;
        return each([&](std::uint32_t row, const Frames::Runs& runs, std::uint32_t count) {
            if (count == 0) return;
            std::string all;
            bool isFirst = true;
            for (const Places& run : runs)
                for (std::uint32_t p = run.begin; p < run.end && all.size() <= kMostTextBytes; ++p) {
                    const std::uint32_t other = order_.rows[p];
                    if (!first_->isFilled(other)) continue;
                    if (!isFirst && second_->isFilled(other)) all += second_->texts[other];
                    all += first_->texts[other];
                    isFirst = false;
                }
            taken += all.size();
            if (all.size() > kMostTextBytes || taken > kMostJoined) return out_.setState(row, CellState::TextTooLong);
            out_.texts[row] = out_.keep(all);
            out_.setState(row, CellState::Filled);
        });
    }

    const WindowSpec& spec_;
    const WindowColumn* first_;
    const WindowColumn* second_;
    const Frames& frames_;
    const WindowOrder& order_;
    const Cancel& cancel_;
    WindowColumn& out_;
    std::vector<std::uint32_t> counts_;
    Failures failures_;
};

struct Extreme {
    std::uint64_t code = std::numeric_limits<std::uint64_t>::max();
    std::uint32_t row = kNoRecord;
    void merge(const Extreme& other) {
        if (other.row != kNoRecord && other.code < code) *this = other;
    }
};

}  // namespace

bool sumFrames(const WindowSpec& spec, const WindowColumn* first, const WindowColumn* second, const Frames& frames,
               const WindowOrder& order, const Cancel& cancel, WindowColumn& out) {
    return FrameSums(spec, first, second, frames, order, cancel, out).run();
}

/// The extreme of each frame where bounds move only forward: of the values in a frame those are kept that no later one
/// is better than, the best in front. O(records).
static bool slideExtremes(const std::vector<Extreme>& values, const Frames& frames, const WindowOrder& order,
                          std::vector<std::uint32_t>& made) {
    std::vector<std::uint32_t> kept(values.size());
    for (std::size_t g = 0; g + 1 < order.groupBegin.size(); ++g) {
        std::size_t front = 0, back = 0;
        std::uint32_t taken = order.groupBegin[g], begin = taken;
        for (std::uint32_t place = order.groupBegin[g]; place < order.groupBegin[g + 1]; ++place) {
            const Places frame = frames.of[place];
            if (frame.begin < begin || (frame.end < taken && frame.begin < frame.end)) return false;
            begin = frame.begin;
            for (; taken < frame.end; ++taken) {
                if (values[taken].row == kNoRecord) continue;
                while (back > front && values[kept[back - 1]].code > values[taken].code) --back;
                kept[back++] = taken;
            }
            while (front < back && kept[front] < begin) ++front;
            made[place] = front < back && frame.begin < frame.end ? values[kept[front]].row : kNoRecord;
        }
    }
    return true;
}

std::vector<std::uint32_t> extremesOf(bool smallest, const WindowColumn& values, const Frames& frames,
                                      const WindowOrder& order) {
    const WindowCodes codes = codesOf(values, {true, !smallest, false});
    std::vector<Extreme> extremes(order.rows.size());
    for (std::size_t p = 0; p < extremes.size(); ++p)
        if (values.isFilled(order.rows[p])) extremes[p] = {codes.codes[order.rows[p]], order.rows[p]};
    std::vector<std::uint32_t> made(order.rows.size(), kNoRecord);
    if (frames.excluded == FrameExclusion::None && slideExtremes(extremes, frames, order, made)) return made;
    const MergeTree<Extreme> tree(std::move(extremes));
    for (std::uint32_t place = 0; place < made.size(); ++place) {
        Extreme best;
        for (const Places& run : frames.runsAt(place, order)) tree.collect(run.begin, run.end, best);
        made[place] = best.row;
    }
    return made;
}

}  // namespace jollyrow
