// SPDX-License-Identifier: MIT
// Aggregates, values and places over all records, computed before the rest of a rule. Sums of whole partitions are made
// in one pass without an order; everything else goes by the order of the records (window_order.h) and their frames
// (window_frames.h). Decimals are summed exactly. Covered by tests/rules/postgres_oracle_test.cpp and
// window_oracle_test.cpp.
#include <algorithm>
#include <numeric>
#include <optional>

#include "core/columns/room.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluation_parts.h"
#include "core/rules/kernels.h"
#include "core/rules/window_frames.h"
#include "core/rules/window_order.h"
#include "core/rules/window_sums.h"

namespace jollyrow {

class WindowMaker final {
  public:
    WindowMaker(const Evaluation& evaluation, const WindowSpec& spec, const Cancel& cancel)
        : evaluation_(evaluation), spec_(spec), cancel_(cancel), rows_(evaluation.rows()) {
        for (const std::uint32_t row : absentRows(*evaluation.input_.table, evaluation.input_.edits.get())) {
            absent_.resize(rows_);
            absent_[row] = true;
        }
        // A record that is to be deleted is there, and counts no more.
        leaving_ = absent_;
        if (const Edits* edits = evaluation.input_.edits.get())
            for (const std::uint32_t row : edits->leaving()) {
                if (row >= rows_) continue;
                leaving_.resize(rows_);
                leaving_[row] = true;
            }
    }

    Result<std::unique_ptr<Evaluation::WindowResult>> run() {
        result_ = std::make_unique<Evaluation::WindowResult>();
        result_->values = WindowColumn(spec_.type.kind);
        bool done = readPartitions();
        if (done) done = sumsWholePartitions() ? sumUp() : byOrder();
        if (!done) return Error{ErrorCode::Cancelled, "Stopped."};
        return std::move(result_);
    }

  private:
    using Column = WindowColumn;
    static constexpr std::uint32_t kNone = Evaluation::WindowResult::kNone;

    /// Calls visit(row, vector, i) for each record; false when cancelled.
    template <class Visit>
    bool each(std::uint32_t instruction, const Visit& visit) {
        return batches(instruction, [&](std::size_t begin, const Vector& values, std::size_t count) {
            for (std::size_t i = 0; i < count; ++i) visit(begin + i, values, i);
        });
    }
    template <class Visit>
    bool batches(std::uint32_t instruction, const Visit& visit) {
        Runner runner(evaluation_, instruction, nullptr);
        for (std::size_t begin = 0; begin < rows_; begin += kBatch) {
            if (cancel_.requested()) return false;
            const std::size_t count = std::min(kBatch, rows_ - begin);
            visit(begin, runner.runOrder(begin, count), count);
        }
        return true;
    }
    /// All values of an instruction, from `from` on in a column that has room for them.
    bool read(std::uint32_t instruction, Column& into, std::size_t from = 0) {
        return batches(instruction, [&](std::size_t begin, const Vector& values, std::size_t count) {
            into.put(from + begin, values, count);
        });
    }
    std::optional<Column> column(std::uint32_t instruction) {
        Column made(evaluation_.program_->code[instruction].type.kind);
        made.resize(rows_);
        return read(instruction, made) ? std::optional(std::move(made)) : std::nullopt;
    }
    bool readCodes(const std::vector<std::uint32_t>& instructions, std::vector<WindowCodes>& codes, bool isOrder) {
        for (std::size_t k = 0; k < instructions.size(); ++k) {
            const auto values = column(instructions[k]);
            if (!values) return false;
            const CodeOrder order{isOrder, isOrder && spec_.descending[k], isOrder && spec_.emptiesFirst[k]};
            codes.push_back(codesOf(*values, order));
        }
        return true;
    }

    bool readPartitions() {
        std::vector<WindowCodes> codes;
        if (!readCodes(spec_.partition, codes, false)) return false;
        if (!codes.empty()) groupOf_ = partitionsOf(codes, rows_, groups_);
        return true;
    }
    std::uint32_t groupAt(std::size_t row) const { return groupOf_.empty() ? 0 : groupOf_[row]; }
    bool counts(std::size_t row) const { return leaving_.empty() || !leaving_[row]; }

    // ---- sums of whole partitions
    bool isWholePartition() const {
        const bool isOpen =
            spec_.frame.begin == FrameBound::UnboundedPreceding && spec_.frame.end == FrameBound::UnboundedFollowing;
        const bool isUnordered = spec_.order.empty() && spec_.distances.empty();
        return (isOpen || isUnordered) && spec_.frame.excluded == FrameExclusion::None;
    }
    bool sumsWholePartitions() const {
        return isWholePartition() && (spec_.aggregate <= Aggregate::Maximum || spec_.aggregate == Aggregate::External);
    }

    struct Sum {
        std::int64_t count = 0;
        WideDecimal exact{};
        double real = 0, carry = 0;
        RuleValue extreme = Empty{};
        CellState failed = CellState::Filled;
        std::unique_ptr<AggregateState> external = nullptr;
    };

    bool sumUp() {
        std::vector<Sum> sums(groups_);
        if (spec_.arguments.empty()) {
            for (std::size_t row = 0; row < rows_; ++row) sums[groupAt(row)].count += counts(row) ? 1 : 0;
        } else if (!each(spec_.arguments[0], [&](std::size_t row, const Vector& v, std::size_t i) {
                       if (counts(row)) add(sums[groupAt(row)], v, i);
                   })) {
            return false;
        }
        result_->values.resize(groups_);
        for (std::size_t g = 0; g < groups_; ++g) result_->values.put(g, settled(sums[g]));
        result_->isOne = groupOf_.empty();
        result_->from = std::move(groupOf_);
        return true;
    }

    void add(Sum& sum, const Vector& v, std::size_t i) {
        const CellState state = v.state(i);
        if (isError(state) && state != CellState::Misfit && sum.failed == CellState::Filled) sum.failed = state;
        if (state != CellState::Filled) return;
        ++sum.count;
        if (spec_.external) {
            if (!sum.external) sum.external = spec_.external->begin();
            sum.external->add(boxed(v, i));
        } else if (spec_.aggregate == Aggregate::Sum || spec_.aggregate == Aggregate::Average) {
            if (v.kind == RuleKind::Real) {
                // Neumaier's compensated sum.
                const double x = v.reals[v.at(i)], t = sum.real + x;
                sum.carry += std::abs(sum.real) >= std::abs(x) ? (sum.real - t) + x : (x - t) + sum.real;
                sum.real = t;
            } else if (const auto next =
                           added(sum.exact,
                                 v.kind == RuleKind::Integer ? WideDecimal{v.integers[v.at(i)], 0} : v.decimal(i))) {
                sum.exact = *next;
            } else {
                sum.failed = CellState::TooLarge;
            }
        } else if (spec_.aggregate == Aggregate::Minimum || spec_.aggregate == Aggregate::Maximum) {
            RuleValue value = boxed(v, i);
            if (std::holds_alternative<Empty>(sum.extreme)) {
                sum.extreme = std::move(value);
                return;
            }
            const int order = compareValues(value, sum.extreme);
            if (spec_.aggregate == Aggregate::Minimum ? order < 0 : order > 0) sum.extreme = std::move(value);
        }
    }

    EvaluatedCell settled(const Sum& sum) const {
        if (sum.failed != CellState::Filled) return {sum.failed, Empty{}};
        if (spec_.aggregate == Aggregate::Count) return {CellState::Filled, sum.count};
        if (sum.count == 0) return {};
        if (spec_.external) {
            auto value = sum.external->finish();
            if (value && std::holds_alternative<Empty>(*value)) return {};
            if (!value || kindOf(*value) != spec_.external->result) return {CellState::FunctionFailed, Empty{}};
            return {CellState::Filled, std::move(*value)};
        }
        const bool real = spec_.type.kind == RuleKind::Real;
        if (spec_.aggregate == Aggregate::Sum && spec_.type.kind == RuleKind::Integer) {
            const auto whole = toInteger(sum.exact);
            return whole ? EvaluatedCell{CellState::Filled, *whole} : EvaluatedCell{CellState::TooLarge, Empty{}};
        }
        if (spec_.aggregate == Aggregate::Sum)
            return {CellState::Filled, real ? RuleValue(sum.real + sum.carry) : RuleValue(sum.exact)};
        if (spec_.aggregate == Aggregate::Average) {
            if (real) return {CellState::Filled, (sum.real + sum.carry) / static_cast<double>(sum.count)};
            const auto average = divided(sum.exact, {sum.count, 0});
            return average ? EvaluatedCell{CellState::Filled, *average} : EvaluatedCell{CellState::TooLarge, Empty{}};
        }
        return {CellState::Filled, sum.extreme};
    }

    // ---- by order
    bool byOrder() {
        std::vector<std::uint32_t> counting;
        for (std::uint32_t row = 0; row < rows_; ++row)
            if (counts(row)) counting.push_back(row);
        std::vector<WindowCodes> codes;
        if (!readCodes(spec_.order, codes, true)) return false;
        const std::vector<std::uint32_t> one(groupOf_.empty() ? rows_ : 0, 0);
        const std::vector<std::uint32_t>& groups = groupOf_.empty() ? one : groupOf_;
        if (!orderRecords(groups, groups_, codes, counting, cancel_, order_)) return false;
        if (!readsFrame(spec_.aggregate)) {
            if (spec_.aggregate == Aggregate::Lag || spec_.aggregate == Aggregate::Lead) return beside();
            return spec_.aggregate == Aggregate::Tile ? tile() : rank(groups, codes);
        }
        return byFrame();
    }

    std::optional<RuleValue> distance(std::size_t which) {
        Runner runner(evaluation_, spec_.distances[which], nullptr);
        if (rows_ == 0) return RuleValue(Empty{});
        const Vector& value = runner.runOrder(0, 1);
        return value.state(0) == CellState::Filled ? boxed(value, 0) : RuleValue(Empty{});
    }

    bool byFrame() {
        std::optional<RuleValue> begin, end;
        if (hasDistance(spec_.frame.begin)) begin = distance(0);
        if (hasDistance(spec_.frame.end)) end = distance(spec_.distances.size() - 1);
        std::optional<Column> key;
        FrameKey by;
        if (spec_.frame.unit == FrameUnit::Range && !spec_.distances.empty()) {
            key = column(spec_.order[0]);
            if (!key) return false;
            by = {&*key, spec_.descending[0], evaluation_.program_->zone};
        }
        const auto frames = framesOf(spec_.frame, begin ? &*begin : nullptr, end ? &*end : nullptr, by, order_);
        if (!frames) return fail();
        std::vector<Column> arguments;
        for (const std::uint32_t argument : spec_.arguments) {
            auto values = column(argument);
            if (!values) return false;
            arguments.push_back(std::move(*values));
        }
        if (!isSum(spec_.aggregate)) return valueOfFrame(*frames, arguments);
        if (spec_.aggregate == Aggregate::Minimum || spec_.aggregate == Aggregate::Maximum) {
            const auto rows = extremesOf(spec_.aggregate == Aggregate::Minimum, arguments[0], *frames, order_);
            spread(rows);
            result_->values = std::move(arguments[0]);
            return true;
        }
        Column& sums = result_->values;
        sums.resize(rows_);
        const auto argument = [&](std::size_t k) { return k < arguments.size() ? &arguments[k] : nullptr; };
        return sumFrames(spec_, argument(0), argument(1), *frames, order_, cancel_, sums);
    }
    /// A distance that is none: every record says so.
    bool fail() {
        result_->isOne = true;
        result_->values.resize(1);
        result_->values.setState(0, CellState::NotDefined);
        return true;
    }
    /// By place a record whose value is meant, as what each record reads.
    void spread(const std::vector<std::uint32_t>& ofPlace) {
        result_->from.assign(rows_, kNone);
        for (std::size_t p = 0; p < ofPlace.size(); ++p) result_->from[order_.rows[p]] = ofPlace[p];
    }

    bool valueOfFrame(const Frames& frames, std::vector<Column>& arguments) {
        std::vector<std::uint32_t> of(order_.rows.size(), kNone);
        std::vector<bool> isWrong(order_.rows.size());
        for (std::uint32_t p = 0; p < of.size(); ++p) {
            const Frames::Runs runs = frames.runsAt(p, order_);
            const std::int64_t all = runs.size();
            std::int64_t which = spec_.aggregate == Aggregate::Last ? all : 1;
            if (spec_.aggregate == Aggregate::Nth) {
                const std::uint32_t row = order_.rows[p];
                if (!arguments[1].isFilled(row)) continue;
                which = arguments[1].integers[row];
                isWrong[p] = which < 1;
            }
            if (which < 1 || which > all) continue;
            for (const Places& run : runs) {
                const std::int64_t size = run.end - run.begin;
                if (which <= size) {
                    of[p] = order_.rows[run.begin + static_cast<std::uint32_t>(which - 1)];
                    break;
                }
                which -= size;
            }
        }
        spread(of);
        result_->values = std::move(arguments[0]);
        markWrong(isWrong);
        return true;
    }
    /// The records at these places say that their number makes no sense.
    void markWrong(const std::vector<bool>& isWrong) {
        if (std::find(isWrong.begin(), isWrong.end(), true) == isWrong.end()) return;
        // One more value, behind the others, that is this failure.
        const auto at = static_cast<std::uint32_t>(result_->values.size());
        result_->values.append(CellState::NotDefined);
        for (std::size_t p = 0; p < isWrong.size(); ++p)
            if (isWrong[p]) result_->from[order_.rows[p]] = at;
    }

    /// LAG and LEAD: the default, where there is one, stands behind the values.
    bool beside() {
        Column values(spec_.type.kind);
        const bool hasDefault = spec_.arguments.size() > 2;
        values.resize(hasDefault ? 2 * rows_ : rows_);
        if (!read(spec_.arguments[0], values)) return false;
        if (hasDefault && !read(spec_.arguments[2], values, rows_)) return false;
        std::optional<Column> offsets;
        if (spec_.arguments.size() > 1) {
            offsets = column(spec_.arguments[1]);
            if (!offsets) return false;
        }
        std::vector<std::uint32_t> of(order_.rows.size(), kNone);
        const bool isBack = spec_.aggregate == Aggregate::Lag;
        for (std::size_t g = 0; g + 1 < order_.groupBegin.size(); ++g) {
            const std::int64_t begin = order_.groupBegin[g], end = order_.groupBegin[g + 1];
            for (std::int64_t p = begin; p < end; ++p) {
                const std::uint32_t row = order_.rows[static_cast<std::size_t>(p)];
                if (offsets && !offsets->isFilled(row)) continue;
                const std::int64_t size = end - begin;
                const std::int64_t by = std::clamp(offsets ? offsets->integers[row] : 1, -size, size);
                const std::int64_t at = isBack ? p - by : p + by;
                if (at >= begin && at < end)
                    of[static_cast<std::size_t>(p)] = order_.rows[static_cast<std::size_t>(at)];
                else if (hasDefault)
                    of[static_cast<std::size_t>(p)] = static_cast<std::uint32_t>(rows_ + row);
            }
        }
        spread(of);
        result_->values = std::move(values);
        return true;
    }

    bool tile() {
        const auto parts = column(spec_.arguments[0]);
        if (!parts) return false;
        Column& values = result_->values;
        values.resize(rows_);
        for (std::size_t g = 0; g + 1 < order_.groupBegin.size(); ++g) {
            const std::int64_t begin = order_.groupBegin[g], size = order_.groupBegin[g + 1] - begin;
            const std::uint32_t first = order_.rows[static_cast<std::size_t>(begin)];
            const CellState state =
                !parts->isFilled(first) || parts->integers[first] > 0 ? parts->state(first) : CellState::NotDefined;
            const std::int64_t count = state == CellState::Filled ? parts->integers[first] : 1;
            // The first `longer` parts have one record more.
            const std::int64_t each = size / count, longer = size % count;
            for (std::int64_t i = 0; i < size; ++i) {
                const std::uint32_t row = order_.rows[static_cast<std::size_t>(begin + i)];
                const std::int64_t inLonger = longer * (each + 1);
                values.integers[row] =
                    i < inLonger ? i / (each + 1) + 1 : longer + (i - inLonger) / std::max<std::int64_t>(each, 1) + 1;
                values.setState(row, state);
            }
        }
        return true;
    }

    bool rank(const std::vector<std::uint32_t>& groups, const std::vector<WindowCodes>& codes) {
        Column& values = result_->values;
        values.resize(rows_);
        result_->allFilled = true;
        std::fill(values.states.begin(), values.states.end(), std::uint8_t{0});
        for (std::size_t g = 0; g + 1 < order_.groupBegin.size(); ++g) {
            const std::uint32_t begin = order_.groupBegin[g], end = order_.groupBegin[g + 1];
            std::int64_t dense = 0;
            for (std::uint32_t p = begin; p < end; ++p) {
                if (order_.peerBegin[p] == p) ++dense;
                putRank(order_.rows[p], {begin, end}, p, order_.peerBegin[p], order_.peerEnd[p], dense);
            }
        }
        // A record that is to be deleted has the place that it would have, and takes none.
        for (std::uint32_t row = 0; row < rows_; ++row)
            if (!counts(row) && (absent_.empty() || !absent_[row])) placeLeaving(row, groups, codes);
        return true;
    }
    void putRank(std::uint32_t row, Places group, std::uint32_t place, std::uint32_t peerBegin, std::uint32_t peerEnd,
                 std::int64_t dense) {
        Column& values = result_->values;
        const std::uint32_t size = group.end - group.begin;
        switch (spec_.aggregate) {
            case Aggregate::RowNumber: values.integers[row] = place - group.begin + 1; return;
            case Aggregate::Rank: values.integers[row] = peerBegin - group.begin + 1; return;
            case Aggregate::DenseRank: values.integers[row] = dense; return;
            case Aggregate::PercentRank:
                values.reals[row] = size < 2 ? 0 : std::min(1.0, double{peerBegin - group.begin + 0.0} / (size - 1));
                return;
            default:
                values.reals[row] = size == 0 ? 1 : std::min(1.0, double{peerEnd - group.begin + 0.0} / size);
                return;
        }
    }
    void placeLeaving(std::uint32_t row, const std::vector<std::uint32_t>& groups,
                      const std::vector<WindowCodes>& codes) {
        const auto compare = [&](std::uint32_t other) {
            if (groups[other] != groups[row]) return groups[other] < groups[row] ? -1 : 1;
            for (const WindowCodes& key : codes)
                if (key.codes[other] != key.codes[row]) return key.codes[other] < key.codes[row] ? -1 : 1;
            return 0;
        };
        const auto& rows = order_.rows;
        const auto first =
            std::partition_point(rows.begin(), rows.end(), [&](std::uint32_t r) { return compare(r) < 0; });
        const auto last = std::partition_point(first, rows.end(), [&](std::uint32_t r) { return compare(r) <= 0; });
        // Among its equals it stands by its number.
        const auto own = std::partition_point(first, last, [&](std::uint32_t r) { return r < row; });
        const auto placeOf = [&](auto at) { return static_cast<std::uint32_t>(at - rows.begin()); };
        // Its partition is that of a neighbour; there may be none left in it.
        const std::uint32_t at = placeOf(first);
        Places group{at, at};
        for (const std::uint32_t beside : {at, at == 0 ? at : at - 1}) {
            if (beside >= rows.size() || groups[rows[beside]] != groups[row]) continue;
            const std::uint32_t g = order_.groupAt(beside);
            group = {order_.groupBegin[g], order_.groupBegin[g + 1]};
            break;
        }
        std::int64_t dense = 1;
        if (spec_.aggregate == Aggregate::DenseRank && first != last)
            dense = result_->values.integers[rows[at]];
        else if (spec_.aggregate == Aggregate::DenseRank && at > group.begin)
            dense = result_->values.integers[rows[at - 1]] + 1;
        putRank(row, group, placeOf(own), placeOf(first), placeOf(last), dense);
    }

    const Evaluation& evaluation_;
    const WindowSpec& spec_;
    const Cancel& cancel_;
    std::size_t rows_;
    std::vector<std::uint32_t> groupOf_;  ///< by record; empty: all are in one
    std::uint32_t groups_ = 1;
    WindowOrder order_;
    std::unique_ptr<Evaluation::WindowResult> result_;
    std::vector<bool> absent_;   ///< rows that are no records; empty when all are
    std::vector<bool> leaving_;  ///< and those that are to be none
};

std::uint64_t presenceOf(const Program& program, const EvaluationInput& input) {
    if (program.windows.empty()) return 0;
    std::uint64_t hash = 0;
    const auto add = [&](std::uint64_t number) { hash = (hash ^ number) * 0x9E37'79B9'7F4A'7C15ULL; };
    for (const std::uint32_t row : absentRows(*input.table, input.edits.get())) add(std::uint64_t{row} + 1);
    if (input.edits)
        for (const std::uint32_t row : input.edits->leaving()) add((std::uint64_t{row} + 1) << 32);
    return hash;
}

Result<void> Evaluation::makeWindows(const Cancel& cancel) {
    for (const WindowSpec& spec : program_->windows) {
        auto made = WindowMaker(*this, spec, cancel).run();
        if (!made) return made.error();
        windows_.push_back(std::move(*made));
    }
    return {};
}

}  // namespace jollyrow
