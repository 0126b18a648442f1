// SPDX-License-Identifier: MIT
// Aggregates and ranks over all records, computed before the rest of a rule. Records are put into groups by their
// partition (a hash of the values), then summed up or sorted. Decimals are summed exactly. Covered by
// tests/rules/postgres_oracle_test.cpp.
#include <algorithm>
#include <numeric>
#include <unordered_map>

#include "core/columns/room.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluation_parts.h"
#include "core/rules/kernels.h"

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
        auto result = std::make_unique<Evaluation::WindowResult>();
        if (!group(result->groupOf)) return Error{ErrorCode::Cancelled, "Stopped."};
        const bool done = spec_.aggregate >= Aggregate::RowNumber ? rank(*result) : sumUp(*result);
        if (!done) return Error{ErrorCode::Cancelled, "Stopped."};
        return result;
    }

  private:
    /// Calls visit(row, vector, i) for each record; false when cancelled.
    template <class Visit>
    bool each(std::uint32_t instruction, const Visit& visit) {
        Runner runner(evaluation_, instruction, nullptr);
        for (std::size_t begin = 0; begin < rows_; begin += kBatch) {
            if (cancel_.requested()) return false;
            const std::size_t count = std::min(kBatch, rows_ - begin);
            const Vector& values = runner.runOrder(begin, count);
            for (std::size_t i = 0; i < count; ++i) visit(begin + i, values, i);
        }
        return true;
    }

    /// Gives each record the number of its group, refining by one partition key after the other.
    bool group(std::vector<std::uint32_t>& groupOf) {
        groups_ = 1;
        for (const std::uint32_t key : spec_.partition) {
            if (groupOf.empty()) groupOf.assign(rows_, 0);
            std::unordered_map<std::string, std::uint32_t> byText;
            std::unordered_map<std::uint64_t, std::uint32_t> byNumber;
            std::string name;
            const bool done = each(key, [&](std::size_t row, const Vector& v, std::size_t i) {
                const CellState state = v.state(i);
                const std::uint32_t outer = groupOf[row];
                if (isIntegral(v.kind) && spec_.partition.size() == 1 && state == CellState::Filled) {
                    groupOf[row] = byNumber
                                       .try_emplace(static_cast<std::uint64_t>(v.integers[v.at(i)]),
                                                    static_cast<std::uint32_t>(byNumber.size() + byText.size()))
                                       .first->second;
                    return;
                }
                name.assign(reinterpret_cast<const char*>(&outer), sizeof outer);
                name += static_cast<char>(state);
                if (state == CellState::Filled) {
                    if (v.kind == RuleKind::Text)
                        name += v.texts[v.at(i)];
                    else if (v.kind == RuleKind::Decimal)
                        appendDecimal(name, v.decimal(i));
                    else
                        name += textOf(boxed(v, i));
                }
                groupOf[row] =
                    byText.try_emplace(name, static_cast<std::uint32_t>(byNumber.size() + byText.size())).first->second;
            });
            if (!done) return false;
            groups_ = byText.size() + byNumber.size();
        }
        return true;
    }
    /// 1.5 and 1.50 are one value.
    static void appendDecimal(std::string& name, WideDecimal v) {
        while (v.scale > 0 && v.mantissa % 10 == 0) {
            v.mantissa /= 10;
            --v.scale;
        }
        name += toString(v);
    }

    struct Sum {
        std::int64_t count = 0;
        WideDecimal exact{};
        double real = 0, carry = 0;
        RuleValue extreme = Empty{};
        CellState failed = CellState::Filled;
        std::unique_ptr<AggregateState> external = nullptr;
    };

    bool sumUp(Evaluation::WindowResult& result) {
        std::vector<Sum> sums(groups_);
        const auto groupAt = [&](std::size_t row) { return result.groupOf.empty() ? 0 : result.groupOf[row]; };
        if (!spec_.argument) {
            for (std::size_t row = 0; row < rows_; ++row) sums[groupAt(row)].count += counts(row) ? 1 : 0;
        } else if (!each(*spec_.argument, [&](std::size_t row, const Vector& v, std::size_t i) {
                       if (counts(row)) add(sums[groupAt(row)], v, i);
                   })) {
            return false;
        }
        for (const Sum& sum : sums) result.groups.push_back(settled(sum));
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

    /// Empties (and errors) count as largest, as in PostgreSQL.
    static int compareCells(const EvaluatedCell& a, const EvaluatedCell& b) {
        const bool x = a.state == CellState::Filled, y = b.state == CellState::Filled;
        if (!x || !y) return static_cast<int>(!x) - static_cast<int>(!y);
        return compareValues(a.value, b.value);
    }

    bool rank(Evaluation::WindowResult& result) {
        std::vector<std::vector<EvaluatedCell>> keys;
        for (const std::uint32_t key : spec_.order) {
            std::vector<EvaluatedCell> cells(rows_);
            if (!each(key, [&](std::size_t row, const Vector& v, std::size_t i) { cells[row] = cellOf(v, i); }))
                return false;
            keys.push_back(std::move(cells));
        }
        const auto compareRows = [&](std::uint32_t a, std::uint32_t b) {
            for (std::size_t k = 0; k < keys.size(); ++k) {
                const int order = compareCells(keys[k][a], keys[k][b]);
                if (order != 0) return spec_.descending[k] ? -order : order;
            }
            return 0;
        };
        std::vector<std::uint32_t> order(rows_);
        std::iota(order.begin(), order.end(), 0);
        if (!absent_.empty()) std::erase_if(order, [this](std::uint32_t row) { return absent_[row]; });
        std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
            if (!result.groupOf.empty() && result.groupOf[a] != result.groupOf[b])
                return result.groupOf[a] < result.groupOf[b];
            return compareRows(a, b) < 0;
        });
        std::vector<std::int64_t> ranks(rows_), sizes(groups_);
        const auto groupAt = [&](std::uint32_t row) { return result.groupOf.empty() ? 0 : result.groupOf[row]; };
        std::int64_t number = 0, shared = 0;
        std::optional<std::uint32_t> last;  // that counts, in this group
        for (std::size_t i = 0; i < order.size(); ++i) {
            const std::uint32_t row = order[i];
            if (i == 0 || groupAt(row) != groupAt(order[i - 1])) {
                number = 0;
                last.reset();
            }
            const bool ties = last && spec_.aggregate != Aggregate::RowNumber && compareRows(*last, row) == 0;
            if (!counts(row)) {  // it has the place that it would have, and takes none
                ranks[row] = ties ? shared : number + 1;
                continue;
            }
            ++number;
            if (!ties) shared = number;
            ranks[row] = shared;
            ++sizes[groupAt(row)];
            last = row;
        }
        if (spec_.aggregate != Aggregate::PercentRank) {
            result.ranks = std::move(ranks);
            return true;
        }
        result.percents.resize(rows_);
        for (std::size_t row = 0; row < rows_; ++row) {
            const std::int64_t size = sizes[result.groupOf.empty() ? 0 : result.groupOf[row]];
            result.percents[row] =
                size < 2 ? 0 : std::min(1.0, static_cast<double>(ranks[row] - 1) / static_cast<double>(size - 1));
        }
        return true;
    }

    const Evaluation& evaluation_;
    const WindowSpec& spec_;
    const Cancel& cancel_;
    std::size_t rows_;
    std::size_t groups_ = 1;
    bool counts(std::size_t row) const { return leaving_.empty() || !leaving_[row]; }
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
