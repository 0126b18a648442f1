// SPDX-License-Identifier: MIT
// Idea: each level gives every record a small number, the rank of its key among the distinct ones; the groups of a
// level are the distinct pairs of the group above and that rank, numbered in display order. Example: status, year ->
// (Done, 2024) is pair (0, 3). Sums are kept for the innermost groups and merged upwards; what needs all values
// (distinct, percentiles) looks at each group's stretch of the record order. Covered by tests/rows/group_test.cpp.
#include "core/rows/group_stage.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numeric>
#include <unordered_map>

#include "core/rows/summing.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr std::uint32_t kNone = ~std::uint32_t{0};
/// Pairs of group and rank are looked up in a plain array up to this many.
constexpr std::uint64_t kMostDirect = std::uint64_t{1} << 22;

/// 64-bit keys to dense numbers in order of appearance; open addressing.
class NumberMap {
  public:
    std::uint32_t of(std::uint64_t key) {
        if (2 * (size_ + 1) > slots_.size()) grow();
        for (std::size_t at = hash(key);; ++at) {
            Slot& slot = slots_[at & (slots_.size() - 1)];
            if (slot.number == kNone) {
                slot = {key, static_cast<std::uint32_t>(size_++)};
                return slot.number;
            }
            if (slot.key == key) return slot.number;
        }
    }
    std::size_t size() const { return size_; }

  private:
    struct Slot {
        std::uint64_t key = 0;
        std::uint32_t number = kNone;
    };
    static std::size_t hash(std::uint64_t key) {
        key *= 0x9E3779B97F4A7C15ULL;
        return static_cast<std::size_t>(key ^ (key >> 32));
    }
    void grow() {
        std::vector<Slot> old = std::move(slots_);
        slots_.assign(std::max<std::size_t>(64, old.size() * 2), {});
        for (const Slot& slot : old) {
            if (slot.number == kNone) continue;
            std::size_t at = hash(slot.key);
            while (slots_[at & (slots_.size() - 1)].number != kNone) ++at;
            slots_[at & (slots_.size() - 1)] = slot;
        }
    }
    std::vector<Slot> slots_;
    std::size_t size_ = 0;
};

/// What stands in each record, as a number for each distinct value.
struct Codes {
    std::vector<std::uint32_t> byRow;
    std::vector<EvaluatedCell> values;
};

std::shared_ptr<const Program> programOf(FieldIndex field, const TableSchema& schema) {
    auto program = std::make_shared<Program>();
    const FieldSchema& read = schema.field(field);
    Instruction load{Op::Load, {ruleKindOf(read.type), read.scale}};
    load.index = raw(field);
    program->code.push_back(std::move(load));
    program->fields.push_back(field);
    return program;
}

/// Bytes that are equal for equal values.
void appendName(std::string& out, const Vector& v, std::size_t i) {
    if (v.kind == RuleKind::Text) {
        out += v.texts[v.at(i)];
        return;
    }
    if (v.kind == RuleKind::Real) {
        const double real = v.reals[v.at(i)] == 0 ? 0.0 : v.reals[v.at(i)];
        const auto bits = std::bit_cast<std::uint64_t>(real);
        out.append(reinterpret_cast<const char*>(&bits), sizeof bits);
        return;
    }
    if (v.kind != RuleKind::Decimal) {
        out += textOf(boxed(v, i));
        return;
    }
    WideDecimal value = v.decimal(i);
    while (value.scale > 0 && value.mantissa % 10 == 0) {
        value.mantissa /= 10;
        --value.scale;
    }
    out += toString(value);
}

class Grouper {
  public:
    Grouper(const std::vector<SortTerm>& levels, const std::vector<SummaryTerm>& summaries, const RowOrder* order,
            const EvaluationInput& input, const Cancel& cancel)
        : levels_(levels), summaries_(summaries), given_(order), input_(input), cancel_(cancel) {}

    Result<std::shared_ptr<const GroupedRows>> run() {
        const std::size_t rows = input_.table->rows;
        nodeOf_.assign(rows, given_ ? kNone : 0);
        if (given_)
            for (const std::uint32_t row : *given_) nodeOf_[row] = 0;
        out_ = std::make_shared<GroupedRows>();
        out_->levelBegin.push_back(0);
        for (std::size_t k = 0; k < levels_.size(); ++k)
            if (auto done = addLevel(k); !done) return done.error();
        placeRecords();
        for (const SummaryTerm& term : summaries_) {
            auto done = needsAllValues(term) ? sumStretches(term) : sumUp(term);
            if (!done) return done.error();
        }
        return std::shared_ptr<const GroupedRows>(std::move(out_));
    }

  private:
    static bool needsAllValues(const SummaryTerm& term) {
        return term.kind >= SummaryKind::PercentileContinuous || term.kind == SummaryKind::CountDistinct;
    }
    Error stopped() const { return {ErrorCode::Cancelled, "Grouping was cancelled."}; }

    /// Calls visit(begin, count, vector) batch by batch.
    template <class Visit>
    Result<void> batches(const std::shared_ptr<const Program>& program, const Visit& visit) const {
        auto evaluation = Evaluation::prepare(program, input_, cancel_);
        if (!evaluation) return evaluation.error();
        Runner runner(*evaluation);
        for (std::size_t begin = 0; begin < input_.table->rows; begin += kBatch) {
            if (cancel_.requested()) return stopped();
            const std::size_t count = std::min(kBatch, input_.table->rows - begin);
            visit(begin, count, runner.run(begin, count));
        }
        return {};
    }

    Result<Codes> codesOf(const std::shared_ptr<const Program>& program) const {
        Codes codes;
        codes.byRow.assign(input_.table->rows, kNone);
        if (takeDictionary(*program, codes)) return codes;
        NumberMap numbers, failures;
        std::unordered_map<std::string, std::uint32_t> names;
        std::string name;
        std::vector<std::uint32_t> ofNumber, ofFailure;
        const auto codeFor = [&](std::vector<std::uint32_t>& known, std::uint32_t number, const Vector& v,
                                 std::size_t i) {
            if (number == known.size()) {
                known.push_back(static_cast<std::uint32_t>(codes.values.size()));
                codes.values.push_back(cellOf(v, i));
            }
            return known[number];
        };
        auto done = batches(program, [&](std::size_t begin, std::size_t count, const Vector& v) {
            const bool isNumber = isIntegral(v.kind) || v.kind == RuleKind::Boolean;
            for (std::size_t i = 0; i < count; ++i) {
                if (nodeOf_[begin + i] == kNone) continue;
                const CellState state = v.state(i);
                std::uint32_t code;
                if (state != CellState::Filled) {
                    code = codeFor(ofFailure, failures.of(static_cast<std::uint64_t>(state)), v, i);
                } else if (isNumber) {
                    const std::int64_t value = v.kind == RuleKind::Boolean ? v.booleans[v.at(i)] : v.integers[v.at(i)];
                    code = codeFor(ofNumber, numbers.of(static_cast<std::uint64_t>(value)), v, i);
                } else {
                    name.clear();
                    appendName(name, v, i);
                    const auto [at, isNew] = names.try_emplace(name, static_cast<std::uint32_t>(codes.values.size()));
                    if (isNew) codes.values.push_back(cellOf(v, i));
                    code = at->second;
                }
                codes.byRow[begin + i] = code;
            }
        });
        if (!done) return done.error();
        return codes;
    }

    /// A text column that is kept as a dictionary has its numbers already.
    bool takeDictionary(const Program& program, Codes& codes) const {
        if (program.code.size() != 1 || program.code[0].op != Op::Load) return false;
        const auto field = static_cast<FieldIndex>(program.code[0].index);
        const Column* column = input_.table->column(field);
        const auto* dictionary = column ? std::get_if<TextDictionary>(&column->storage()) : nullptr;
        if (!dictionary || column->type() != Type::Text) return false;
        if (input_.edits)
            for (const auto& [place, edit] : input_.edits->cells())
                if (place.second == field) return false;
        std::vector<std::uint32_t> known(dictionary->distinct.size() + 1, kNone);
        const std::uint32_t* stored = dictionary->codes.data();
        for (std::size_t row = 0; row < codes.byRow.size(); ++row) {
            if (nodeOf_[row] == kNone) continue;
            const bool empty = column->isEmpty(static_cast<SourceRow>(row));
            std::uint32_t& code = known[empty ? known.size() - 1 : stored[row]];
            if (code == kNone) {
                code = static_cast<std::uint32_t>(codes.values.size());
                codes.values.push_back(
                    empty ? EvaluatedCell{}
                          : EvaluatedCell{CellState::Filled, std::string(dictionary->distinct.at(stored[row]))});
            }
            codes.byRow[row] = code;
        }
        return true;
    }

    /// The values in the order of the term: rank by code.
    static std::vector<std::uint32_t> ranksOf(const std::vector<EvaluatedCell>& values, const SortTerm& term) {
        std::vector<std::size_t> stated(values.size(), 0);
        for (std::size_t i = 0; i < values.size() && !term.values.empty(); ++i) {
            const std::string text = values[i].state == CellState::Filled ? textOf(values[i].value) : std::string();
            stated[i] =
                static_cast<std::size_t>(std::find(term.values.begin(), term.values.end(), text) - term.values.begin());
        }
        const TextComparator texts(term.text);
        const int turned = term.direction == Direction::Descending ? -1 : 1;
        const auto place = [&](const EvaluatedCell& cell) {
            if (isError(cell.state)) return 3;
            if (cell.state == CellState::Empty) return term.empties == Empties::First ? 0 : 2;
            return 1;
        };
        const auto compare = [&](std::uint32_t a, std::uint32_t b) {
            const EvaluatedCell &x = values[a], &y = values[b];
            if (place(x) != place(y)) return place(x) < place(y);
            if (x.state != CellState::Filled) return x.state < y.state;
            if (stated[a] != stated[b]) return turned > 0 ? stated[a] < stated[b] : stated[a] > stated[b];
            int order;
            if (const auto* text = std::get_if<std::string>(&x.value)) {
                order = texts.compare(*text, std::get<std::string>(y.value));
                if (order == 0) order = text->compare(std::get<std::string>(y.value));
            } else {
                order = compareValues(x.value, y.value);
            }
            return order * turned < 0;
        };
        std::vector<std::uint32_t> codes(values.size()), ranks(values.size());
        std::iota(codes.begin(), codes.end(), 0);
        std::sort(codes.begin(), codes.end(), compare);
        for (std::size_t i = 0; i < codes.size(); ++i) ranks[codes[i]] = static_cast<std::uint32_t>(i);
        return ranks;
    }

    Result<void> addLevel(std::size_t k) {
        const SortTerm& term = levels_[k];
        auto codes = codesOf(term.program ? term.program : programOf(*term.field, input_.table->schema));
        if (!codes) return codes.error();
        const std::vector<std::uint32_t> ranks = ranksOf(codes->values, term);
        const std::uint32_t above = k == 0 ? 0 : out_->levelBegin[k - 1];
        const std::uint64_t parents = k == 0 ? 1 : out_->nodes.size() - above;
        const std::uint64_t width = std::max<std::uint64_t>(1, ranks.size());
        // Each record's pair of group above and rank, as a number in order of appearance.
        std::vector<std::uint64_t> pairs;
        const auto number = [&](auto&& find) {
            for (std::size_t row = 0; row < nodeOf_.size(); ++row) {
                std::uint32_t& node = nodeOf_[row];
                if (node == kNone) continue;
                const std::uint64_t pair = node * width + ranks[codes->byRow[row]];
                node = find(pair);
                if (node == pairs.size()) pairs.push_back(pair);
            }
        };
        if (parents * width <= kMostDirect) {
            std::vector<std::uint32_t> known(parents * width, kNone);
            number([&](std::uint64_t pair) {
                if (known[pair] == kNone) known[pair] = static_cast<std::uint32_t>(pairs.size());
                return known[pair];
            });
        } else {
            NumberMap known;
            number([&](std::uint64_t pair) { return known.of(pair); });
        }
        // In display order.
        std::vector<std::uint32_t> byOrder(pairs.size()), placeOf(pairs.size());
        std::iota(byOrder.begin(), byOrder.end(), 0);
        std::sort(byOrder.begin(), byOrder.end(),
                  [&](std::uint32_t a, std::uint32_t b) { return pairs[a] < pairs[b]; });
        std::vector<std::uint32_t> codeOf(ranks.size());
        for (std::size_t code = 0; code < ranks.size(); ++code) codeOf[ranks[code]] = static_cast<std::uint32_t>(code);
        const auto begin = static_cast<std::uint32_t>(out_->nodes.size());
        for (std::size_t i = 0; i < byOrder.size(); ++i) {
            placeOf[byOrder[i]] = static_cast<std::uint32_t>(i);
            const std::uint64_t pair = pairs[byOrder[i]];
            GroupNode node;
            node.level = static_cast<int>(k);
            node.parent = above + static_cast<std::uint32_t>(pair / width);
            node.key = codes->values[codeOf[pair % width]];
            if (k > 0) {
                GroupNode& parent = out_->nodes[node.parent];
                if (parent.endChild == 0) parent.firstChild = begin + static_cast<std::uint32_t>(i);
                parent.endChild = begin + static_cast<std::uint32_t>(i) + 1;
            }
            out_->nodes.push_back(std::move(node));
        }
        out_->levelBegin.back() = begin;
        out_->levelBegin.push_back(static_cast<std::uint32_t>(out_->nodes.size()));
        for (std::uint32_t& node : nodeOf_)
            if (node != kNone) node = placeOf[node];
        return {};
    }

    /// The records by innermost group, in the order they came.
    void placeRecords() {
        const std::size_t all = given_ ? given_->size() : nodeOf_.size();
        auto order = std::make_shared<RowOrder>(all);
        leaves_ = levels_.empty() ? 1 : out_->nodes.size() - leafBegin();
        std::vector<std::size_t> next(leaves_ + 1, 0);
        for (const std::uint32_t node : nodeOf_)
            if (node != kNone) ++next[node + 1];
        std::partial_sum(next.begin(), next.end(), next.begin());
        for (std::size_t leaf = 0; leaf < leaves_ && !levels_.empty(); ++leaf) {
            GroupNode& node = out_->nodes[leafBegin() + leaf];
            node.first = static_cast<std::int64_t>(next[leaf]);
            node.count = static_cast<std::int64_t>(next[leaf + 1] - next[leaf]);
        }
        for (std::size_t n = 0; n < all; ++n) {
            const std::uint32_t row = given_ ? (*given_)[n] : static_cast<std::uint32_t>(n);
            (*order)[next[nodeOf_[row]]++] = row;
        }
        out_->order = std::move(order);
        for (std::size_t n = leafBegin(); n-- > 0;) {
            GroupNode& node = out_->nodes[n];
            node.first = out_->nodes[node.firstChild].first;
            for (std::uint32_t child = node.firstChild; child < node.endChild; ++child)
                node.count += out_->nodes[child].count;
        }
    }
    std::size_t leafBegin() const { return levels_.empty() ? 0 : out_->levelBegin[levels_.size() - 1]; }

    /// Which records a FILTER lets pass; empty for all.
    Result<std::vector<bool>> passing(const SummaryTerm& term) const {
        std::vector<bool> passes;
        if (!term.filter) return passes;
        passes.assign(input_.table->rows, false);
        auto done = batches(term.filter, [&](std::size_t begin, std::size_t count, const Vector& v) {
            for (std::size_t i = 0; i < count; ++i)
                passes[begin + i] = v.state(i) == CellState::Filled && v.booleans[v.at(i)] != 0;
        });
        if (!done) return done.error();
        return passes;
    }

    Result<void> sumUp(const SummaryTerm& term) {
        auto passes = passing(term);
        if (!passes) return passes.error();
        std::vector<Summing> sums(out_->nodes.size() + 1);  // the last one is the total
        Summing* leaves = sums.data() + (levels_.empty() ? out_->nodes.size() : leafBegin());
        const auto counts = [&](std::size_t row) {
            return nodeOf_[row] != kNone && (passes->empty() || (*passes)[row]);
        };
        if (!term.argument) {
            for (std::size_t row = 0; row < nodeOf_.size(); ++row)
                if (counts(row)) ++leaves[nodeOf_[row]].count;
        } else {
            auto done = batches(term.argument, [&](std::size_t begin, std::size_t count, const Vector& v) {
                for (std::size_t i = 0; i < count; ++i)
                    if (counts(begin + i)) add(leaves[nodeOf_[begin + i]], term, v, i);
            });
            if (!done) return done;
        }
        for (std::size_t n = out_->nodes.size(); n-- > 0;) {
            const GroupNode& node = out_->nodes[n];
            merge(node.level == 0 ? sums.back() : sums[node.parent], term, sums[n]);
        }
        std::vector<EvaluatedCell>& cells = out_->summaries.emplace_back();
        for (std::size_t n = 0; n < out_->nodes.size(); ++n) cells.push_back(settled(sums[n], term));
        out_->totals.push_back(settled(sums.back(), term));
        return {};
    }

    /// COUNT(DISTINCT) and percentiles: each group's records side by side.
    Result<void> sumStretches(const SummaryTerm& term) {
        auto passes = passing(term);
        if (!passes) return passes.error();
        auto codes = codesOf(term.argument);
        if (!codes) return codes.error();
        const std::vector<std::uint32_t> ranks = ranksOf(codes->values, SortTerm{std::nullopt, nullptr});
        std::vector<const EvaluatedCell*> byRank(ranks.size());
        for (std::size_t code = 0; code < ranks.size(); ++code) byRank[ranks[code]] = &codes->values[code];
        std::vector<std::uint32_t> stretch;
        const auto cellFor = [&](std::int64_t first, std::int64_t count) -> EvaluatedCell {
            stretch.clear();
            for (std::int64_t n = first; n < first + count; ++n) {
                const std::uint32_t row = (*out_->order)[static_cast<std::size_t>(n)];
                if (!passes->empty() && !(*passes)[row]) continue;
                const EvaluatedCell& cell = codes->values[codes->byRow[row]];
                if (isError(cell.state)) return {cell.state, Empty{}};
                if (cell.state == CellState::Filled) stretch.push_back(ranks[codes->byRow[row]]);
            }
            return summaryOf(term, stretch, byRank);
        };
        std::vector<EvaluatedCell>& cells = out_->summaries.emplace_back();
        for (const GroupNode& node : out_->nodes) {
            if (cancel_.requested()) return stopped();
            cells.push_back(cellFor(node.first, node.count));
        }
        out_->totals.push_back(cellFor(0, static_cast<std::int64_t>(out_->order->size())));
        return {};
    }

    static EvaluatedCell summaryOf(const SummaryTerm& term, std::vector<std::uint32_t>& ranks,
                                   const std::vector<const EvaluatedCell*>& byRank) {
        std::sort(ranks.begin(), ranks.end());
        if (term.kind == SummaryKind::CountDistinct)
            return {CellState::Filled,
                    static_cast<std::int64_t>(std::unique(ranks.begin(), ranks.end()) - ranks.begin())};
        if (ranks.empty()) return {};
        const auto n = static_cast<double>(ranks.size());
        if (term.kind == SummaryKind::PercentileDiscrete) {
            const auto at = static_cast<std::size_t>(std::max(1.0, std::ceil(term.fraction * n))) - 1;
            return *byRank[ranks[at]];
        }
        const double place = term.fraction * (n - 1);
        const auto real = [&](double at) {
            const RuleValue& value = byRank[ranks[static_cast<std::size_t>(at)]]->value;
            const auto converted = convertedConstant(value, RuleKind::Real);
            return converted ? std::get<double>(*converted) : 0.0;
        };
        const double low = real(std::floor(place)), high = real(std::ceil(place));
        return {CellState::Filled, low + (place - std::floor(place)) * (high - low)};
    }

    const std::vector<SortTerm>& levels_;
    const std::vector<SummaryTerm>& summaries_;
    const RowOrder* given_;
    const EvaluationInput& input_;
    const Cancel& cancel_;
    std::vector<std::uint32_t> nodeOf_;  ///< by record: its group on the level just made, or kNone
    std::size_t leaves_ = 0;
    std::shared_ptr<GroupedRows> out_;
};

}  // namespace

Result<std::shared_ptr<const GroupedRows>> groupRows(const std::vector<SortTerm>& levels,
                                                     const std::vector<SummaryTerm>& summaries, const RowOrder* order,
                                                     const EvaluationInput& input, const Cancel& cancel) {
    return Grouper(levels, summaries, order, input, cancel).run();
}

}  // namespace jollyrow
