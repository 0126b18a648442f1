// SPDX-License-Identifier: MIT
// Idea: whole numbers, days, yes/no and doubles are 64 bits each; those of a narrow range are numbered through a table,
// the others through a hash. A text column that is a dictionary has its numbers already; other texts are hashed.
// Covered by tests/rows/group_test.cpp.
#include "core/rows/group_codes.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>
#include <unordered_map>

#include "core/base/page_allocator.h"
#include "core/rows/number_map.h"
#include "core/rules/conversion.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

constexpr std::uint32_t kNone = ~std::uint32_t{0};
constexpr std::size_t kParallelFrom = 65'536;
/// Whole numbers that lie within this of each other are numbered through a table.
constexpr std::uint64_t kMostDirect = std::uint64_t{1} << 22;

Error stopped() { return {ErrorCode::Cancelled, "Grouping was cancelled."}; }
Error tooMany(std::size_t most) {
    return {ErrorCode::Unsupported,
            fmt::format("This gives more than {} different values, which is no grouping; use ranges, parts of dates or "
                        "first letters.",
                        most)};
}

bool isPlainLoad(const Program& program) { return program.code.size() == 1 && program.code[0].op == Op::Load; }

bool isEdited(const Edits* edits, FieldIndex field) {
    return edits && std::any_of(edits->cells().begin(), edits->cells().end(),
                                [&](const auto& cell) { return cell.first.second == field; });
}

/// Bytes that are equal for equal texts and decimals.
void appendName(std::string& out, const Vector& v, std::size_t i) {
    if (v.kind == RuleKind::Text) {
        out += v.texts[v.at(i)];
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

/// One record's value as 64 bits.
std::uint64_t bitsOf(const Vector& v, std::size_t i) {
    const std::size_t at = v.at(i);
    if (v.kind == RuleKind::Boolean) return static_cast<std::uint64_t>(v.booleans[at]);
    if (v.kind != RuleKind::Real) return static_cast<std::uint64_t>(v.integers[at]);
    const double real = v.reals[at];
    if (std::isnan(real)) return std::bit_cast<std::uint64_t>(std::numeric_limits<double>::quiet_NaN());
    return std::bit_cast<std::uint64_t>(real == 0 ? 0.0 : real);
}

RuleValue fromBits(std::uint64_t bits, RuleType type) {
    const auto number = static_cast<std::int64_t>(bits);
    switch (type.kind) {
        case RuleKind::Boolean: return number != 0;
        case RuleKind::Real: return std::bit_cast<double>(bits);
        case RuleKind::Date: return Date{static_cast<std::int32_t>(number)};
        case RuleKind::Time: return Time{number};
        case RuleKind::Timestamp: return Timestamp{number};
        case RuleKind::Decimal: return WideDecimal{number, type.scale};
        default: return number;
    }
}

/// A text column that is kept as a dictionary has its numbers already.
bool takeDictionary(const Program& program, const EvaluationInput& input, Codes& codes) {
    if (!isPlainLoad(program)) return false;
    const auto field = static_cast<FieldIndex>(program.code[0].index);
    const Column* column = input.table->column(field);
    const auto* dictionary = column ? std::get_if<TextDictionary>(&column->storage()) : nullptr;
    if (!dictionary || column->type() != Type::Text || isEdited(input.edits.get(), field)) return false;
    const std::size_t rows = input.table->rows, distinct = dictionary->distinct.size();
    const std::uint32_t* __restrict stored = dictionary->codes.data();
    std::uint32_t* __restrict out = codes.byRow.data();
    const bool hasEmpties = column->emptyCount() != 0;
    const std::size_t threads = threadsFor(rows, kParallelFrom);
    inParallel(threads, [&](std::size_t t) {
        const std::size_t begin = rows * t / threads, end = rows * (t + 1) / threads;
        if (!hasEmpties) return void(std::copy(stored + begin, stored + end, out + begin));
        const auto none = static_cast<std::uint32_t>(distinct);
        for (std::size_t row = begin; row < end; ++row)
            out[row] = column->isEmpty(static_cast<SourceRow>(row)) ? none : stored[row];
    });
    codes.values.reserve(distinct + 1);
    for (std::size_t i = 0; i < distinct; ++i)
        codes.values.push_back({CellState::Filled, std::string(dictionary->distinct.at(i))});
    if (hasEmpties) codes.values.emplace_back();
    return true;
}

/// Values of 64 bits: all of them first, in parallel; then numbers for the different ones.
class BitCodes {
  public:
    BitCodes(RuleType type, std::size_t rows, std::size_t most) : type_(type), most_(most), bits_(rows) {}

    Result<Codes> run(const std::shared_ptr<const Program>& program, const EvaluationInput& input,
                      const Cancel& cancel) {
        const std::size_t rows = bits_.size(), threads = threadsFor(rows, kParallelFrom);
        std::vector<Seen> seen(threads);
        states_.assign(rows, 0);
        auto done = forBatches(program, input, threads, cancel,
                               [&](std::size_t thread, std::size_t begin, std::size_t count, const Vector& v) {
                                   take(seen[thread], begin, count, v);
                               });
        if (!done) return done.error();
        for (const Seen& part : seen) {
            least_ = std::min(least_, part.least);
            greatest_ = std::max(greatest_, part.greatest);
            hasStates_ = hasStates_ || part.hasStates;
        }
        Codes codes;
        codes.byRow.resize(rows);
        const bool fits = number(codes);
        if (!fits) return tooMany(most_);
        return codes;
    }

  private:
    struct Seen {
        std::int64_t least = std::numeric_limits<std::int64_t>::max();
        std::int64_t greatest = std::numeric_limits<std::int64_t>::min();
        bool hasStates = false;
    };
    void take(Seen& seen, std::size_t begin, std::size_t count, const Vector& v) {
        std::uint64_t* __restrict bits = bits_.data() + begin;
        std::uint8_t* __restrict states = states_.data() + begin;
        if (v.states)
            for (std::size_t i = 0; i < count; ++i) {
                states[i] = v.states[v.at(i)];
                seen.hasStates = seen.hasStates || states[i] != 0;
            }
        const bool plain = !v.constant && isIntegralOrDecimal(v.kind);
        if (plain && !v.states) {
            const std::int64_t* __restrict from = v.integers;
            std::int64_t least = seen.least, greatest = seen.greatest;
            for (std::size_t i = 0; i < count; ++i) {
                bits[i] = static_cast<std::uint64_t>(from[i]);
                least = std::min(least, from[i]);
                greatest = std::max(greatest, from[i]);
            }
            seen.least = least;
            seen.greatest = greatest;
            return;
        }
        for (std::size_t i = 0; i < count; ++i) {
            if (states[i] != 0) continue;
            bits[i] = bitsOf(v, i);
            seen.least = std::min(seen.least, static_cast<std::int64_t>(bits[i]));
            seen.greatest = std::max(seen.greatest, static_cast<std::int64_t>(bits[i]));
        }
    }
    static bool isIntegralOrDecimal(RuleKind kind) { return isIntegral(kind) || kind == RuleKind::Decimal; }

    /// False with too many different values. Numbers in rising order, so that they need no sort later.
    bool number(Codes& codes) const {
        const bool some = greatest_ >= least_;
        const std::uint64_t width =
            some ? static_cast<std::uint64_t>(greatest_) - static_cast<std::uint64_t>(least_) : 0;
        const bool fits = !some || (width < kMostDirect ? numberDirect(codes, width) : numberHashed(codes));
        if (!fits) return false;
        codes.rising = type_.kind == RuleKind::Real || type_.kind == RuleKind::Decimal ? 0 : codes.values.size();
        if (!hasStates_) return true;
        std::vector<std::uint32_t> ofState(16, kNone);
        for (std::size_t row = 0; row < bits_.size(); ++row) {
            if (states_[row] == 0) continue;
            std::uint32_t& code = ofState[states_[row]];
            if (code == kNone) {
                code = static_cast<std::uint32_t>(codes.values.size());
                codes.values.push_back({static_cast<CellState>(states_[row]), Empty{}});
            }
            codes.byRow[row] = code;
        }
        return true;
    }
    template <class Work>
    void inRanges(const Work& work) const {
        const std::size_t threads = threadsFor(bits_.size(), kParallelFrom);
        inParallel(threads, [&](std::size_t t) { work(bits_.size() * t / threads, bits_.size() * (t + 1) / threads); });
    }
    bool numberDirect(Codes& codes, std::uint64_t width) const {
        std::vector<std::atomic<std::uint8_t>> there(width + 1);
        const auto least = static_cast<std::uint64_t>(least_);
        inRanges([&](std::size_t begin, std::size_t end) {
            for (std::size_t row = begin; row < end; ++row)
                if (!hasStates_ || states_[row] == 0) there[bits_[row] - least].store(1, std::memory_order_relaxed);
        });
        std::vector<std::uint32_t> codeOf(width + 1);
        for (std::uint64_t i = 0; i <= width; ++i) {
            if (there[i].load(std::memory_order_relaxed) == 0) continue;
            if (codes.values.size() >= most_) return false;
            codeOf[i] = static_cast<std::uint32_t>(codes.values.size());
            codes.values.push_back({CellState::Filled, fromBits(least + i, type_)});
        }
        inRanges([&](std::size_t begin, std::size_t end) {
            for (std::size_t row = begin; row < end; ++row)
                if (!hasStates_ || states_[row] == 0) codes.byRow[row] = codeOf[bits_[row] - least];
        });
        return true;
    }
    bool numberHashed(Codes& codes) const {
        NumberMap numbers;
        std::vector<std::pair<std::int64_t, std::uint32_t>> met;  // value, number
        for (std::size_t row = 0; row < bits_.size(); ++row) {
            if (hasStates_ && states_[row] != 0) continue;
            const std::uint32_t number = numbers.of(bits_[row]);
            if (number == met.size()) {
                if (met.size() >= most_) return false;
                met.emplace_back(static_cast<std::int64_t>(bits_[row]), number);
            }
            codes.byRow[row] = number;
        }
        std::sort(met.begin(), met.end());
        std::vector<std::uint32_t> codeOf(met.size());
        codes.values.reserve(met.size());
        for (std::size_t i = 0; i < met.size(); ++i) {
            codeOf[met[i].second] = static_cast<std::uint32_t>(i);
            codes.values.push_back({CellState::Filled, fromBits(static_cast<std::uint64_t>(met[i].first), type_)});
        }
        inRanges([&](std::size_t begin, std::size_t end) {
            for (std::size_t row = begin; row < end; ++row)
                if (!hasStates_ || states_[row] == 0) codes.byRow[row] = codeOf[codes.byRow[row]];
        });
        return true;
    }

    RuleType type_;
    std::size_t most_;
    std::vector<std::uint64_t, PageAllocator<std::uint64_t>> bits_;
    std::vector<std::uint8_t> states_;
    std::int64_t least_ = std::numeric_limits<std::int64_t>::max();
    std::int64_t greatest_ = std::numeric_limits<std::int64_t>::min();
    bool hasStates_ = false;
};

Result<Codes> namedCodes(const std::shared_ptr<const Program>& program, const EvaluationInput& input, std::size_t most,
                         const Cancel& cancel) {
    Codes codes;
    codes.byRow.resize(input.table->rows);
    std::unordered_map<std::string, std::uint32_t> names;
    std::vector<std::uint32_t> ofState(16, kNone);
    std::string name;
    bool fits = true;
    auto done =
        forBatches(program, input, 1, cancel, [&](std::size_t, std::size_t begin, std::size_t count, const Vector& v) {
            for (std::size_t i = 0; i < count && fits; ++i) {
                const CellState state = v.state(i);
                const auto next = static_cast<std::uint32_t>(codes.values.size());
                std::uint32_t* code = &ofState[static_cast<std::size_t>(state)];
                if (state == CellState::Filled) {
                    name.clear();
                    appendName(name, v, i);
                    code = &names.try_emplace(name, next).first->second;
                }
                if (*code == kNone) *code = next;
                if (*code == next) {
                    fits = next < most;
                    codes.values.push_back(cellOf(v, i));
                }
                codes.byRow[begin + i] = *code;
            }
        });
    if (!done) return done.error();
    if (!fits) return tooMany(most);
    return codes;
}

int placeOf(const EvaluatedCell& cell, Empties empties) {
    if (isError(cell.state)) return 3;
    if (cell.state == CellState::Empty) return empties == Empties::First ? 0 : 2;
    return 1;
}

std::vector<std::uint32_t> ranksFrom(const std::vector<std::uint32_t>& sorted) {
    std::vector<std::uint32_t> ranks(sorted.size());
    for (std::size_t i = 0; i < sorted.size(); ++i) ranks[sorted[i]] = static_cast<std::uint32_t>(i);
    return ranks;
}

/// Values that rise already: those behind them (empties, failures, edited ones) are few.
bool takeRising(const Codes& codes, const SortTerm& term, std::vector<std::uint32_t>& sorted) {
    const std::size_t rising = codes.rising, all = codes.values.size();
    if (rising == 0) return false;
    std::vector<std::uint32_t> first, last;
    for (std::size_t i = rising; i < all; ++i) {
        if (codes.values[i].state == CellState::Filled) return false;
        (placeOf(codes.values[i], term.empties) == 0 ? first : last).push_back(static_cast<std::uint32_t>(i));
    }
    std::sort(last.begin(), last.end(), [&](std::uint32_t a, std::uint32_t b) {
        const EvaluatedCell &x = codes.values[a], &y = codes.values[b];
        const int placeX = placeOf(x, term.empties), placeY = placeOf(y, term.empties);
        return placeX != placeY ? placeX < placeY : x.state < y.state;
    });
    sorted = first;
    sorted.resize(first.size() + rising);
    const auto begin = sorted.begin() + static_cast<std::ptrdiff_t>(first.size());
    std::iota(begin, sorted.end(), 0);
    if (term.direction == Direction::Descending) std::reverse(begin, sorted.end());
    sorted.insert(sorted.end(), last.begin(), last.end());
    return true;
}

/// Whole numbers, days and times without a stated order: compared as numbers.
bool sortNumbers(const std::vector<EvaluatedCell>& values, const SortTerm& term, std::vector<std::uint32_t>& sorted) {
    struct Key {
        int place;
        std::int64_t value;
        std::uint32_t code;
    };
    std::vector<Key> keys;
    keys.reserve(values.size());
    const bool down = term.direction == Direction::Descending;
    for (std::size_t i = 0; i < values.size(); ++i) {
        Key key{placeOf(values[i], term.empties), static_cast<std::int64_t>(values[i].state),
                static_cast<std::uint32_t>(i)};
        if (values[i].state == CellState::Filled) {
            const RuleValue& value = values[i].value;
            if (const auto* whole = std::get_if<std::int64_t>(&value))
                key.value = *whole;
            else if (const auto* day = std::get_if<Date>(&value))
                key.value = day->days;
            else if (const auto* stamp = std::get_if<Timestamp>(&value))
                key.value = stamp->micros;
            else
                return false;
            if (down) key.value = ~key.value;
        }
        keys.push_back(key);
    }
    std::sort(keys.begin(), keys.end(), [](const Key& a, const Key& b) {
        return a.place != b.place ? a.place < b.place : a.value != b.value ? a.value < b.value : a.code < b.code;
    });
    for (const Key& key : keys) sorted.push_back(key.code);
    return true;
}

}  // namespace

std::shared_ptr<const Program> programOf(FieldIndex field, const TableSchema& schema) {
    auto program = std::make_shared<Program>();
    const FieldSchema& read = schema.field(field);
    Instruction load{Op::Load, {ruleKindOf(read.type), read.scale}};
    load.index = raw(field);
    program->code.push_back(std::move(load));
    program->fields.push_back(field);
    return program;
}

Result<Codes> codesOf(const std::shared_ptr<const Program>& program, const EvaluationInput& input, std::size_t most,
                      const Cancel& cancel) {
    Codes codes;
    codes.byRow.resize(input.table->rows);
    if (input.table->rows == 0) return codes;
    if (takeDictionary(*program, input, codes)) {
        if (codes.values.size() > most + 1) return tooMany(most);
        return codes;
    }
    const RuleType type = program->type();
    const bool narrow = type.kind == RuleKind::Decimal && isPlainLoad(*program) &&
                        !isEdited(input.edits.get(), static_cast<FieldIndex>(program->code[0].index));
    if (isIntegral(type.kind) || type.kind == RuleKind::Boolean || type.kind == RuleKind::Real || narrow)
        return BitCodes(type, input.table->rows, most).run(program, input, cancel);
    return namedCodes(program, input, most, cancel);
}

Result<Codes> patchedCodes(const Codes& codes, const std::shared_ptr<const Program>& program,
                           const EvaluationInput& input, std::span<const std::uint32_t> rows) {
    Codes patched = codes;
    for (const std::uint32_t row : rows) {
        const auto cell = evaluateOne(program, input, static_cast<SourceRow>(row));
        if (!cell) return cell.error();
        const auto same = [&](const EvaluatedCell& value) {
            if (value.state != cell->state || cell->state != CellState::Filled) return value.state == cell->state;
            const auto *text = std::get_if<std::string>(&value.value), *other = std::get_if<std::string>(&cell->value);
            if (text && other) return *text == *other;
            const auto *real = std::get_if<double>(&value.value), *wanted = std::get_if<double>(&cell->value);
            if (real && wanted) return *real == *wanted || (std::isnan(*real) && std::isnan(*wanted));
            return compareValues(value.value, cell->value) == 0;
        };
        const auto at = std::find_if(patched.values.begin(), patched.values.end(), same);
        patched.byRow[row] = static_cast<std::uint32_t>(at - patched.values.begin());
        if (at == patched.values.end()) patched.values.push_back(*cell);
    }
    return patched;
}

Result<std::vector<std::uint32_t>> ranksOf(const Codes& codes, const SortTerm& term, const Column* column,
                                           RankCache* ranks, const Cancel& cancel) {
    const std::vector<EvaluatedCell>& values = codes.values;
    std::vector<std::uint32_t> sorted;
    sorted.reserve(values.size());
    const bool plain = term.values.empty() && !term.comparator;
    if (plain && (takeRising(codes, term, sorted) || sortNumbers(values, term, sorted))) return ranksFrom(sorted);
    sorted.clear();
    sorted.resize(values.size());
    std::iota(sorted.begin(), sorted.end(), 0);

    std::vector<std::size_t> stated(values.size(), 0);
    for (std::size_t i = 0; i < values.size() && !term.values.empty(); ++i) {
        const std::string text = values[i].state == CellState::Filled ? textOf(values[i].value) : std::string();
        stated[i] =
            static_cast<std::size_t>(std::find(term.values.begin(), term.values.end(), text) - term.values.begin());
    }
    // A column's own dictionary is ranked by sort keys, once; other texts are compared one by one.
    std::shared_ptr<const TextRanks> known;
    const auto* dictionary = column ? std::get_if<TextDictionary>(&column->storage()) : nullptr;
    if (plain && ranks && dictionary && column->type() == Type::Text && dictionary->distinct.size() <= values.size()) {
        auto made = ranks->ranksOf(*column, term.text, cancel);
        if (!made) return made.error();
        known = std::move(*made);
    }
    const TextComparator texts(term.text);
    const int turned = term.direction == Direction::Descending ? -1 : 1;
    bool isStopped = false;
    const auto compare = [&](std::uint32_t a, std::uint32_t b) {
        const EvaluatedCell &x = values[a], &y = values[b];
        const int placeX = placeOf(x, term.empties), placeY = placeOf(y, term.empties);
        if (placeX != placeY) return placeX < placeY;
        if (x.state != CellState::Filled) return x.state < y.state;
        if (stated[a] != stated[b]) return turned > 0 ? stated[a] < stated[b] : stated[a] > stated[b];
        int order = 0;
        const auto* text = std::get_if<std::string>(&x.value);
        if (term.comparator)
            order = term.comparator->compare(plainValue(x.value), plainValue(y.value));
        else if (text && known && std::max(a, b) < known->ranks.size())
            order = known->ranks[a] < known->ranks[b] ? -1 : known->ranks[a] > known->ranks[b] ? 1 : 0;
        else if (text)
            order = texts.compare(*text, std::get<std::string>(y.value));
        if (order == 0) order = text ? text->compare(std::get<std::string>(y.value)) : compareValues(x.value, y.value);
        isStopped = isStopped || (values.size() > 10'000 && cancel.requested());
        return order * turned < 0;
    };
    std::sort(sorted.begin(), sorted.end(), compare);
    if (isStopped) return stopped();
    return ranksFrom(sorted);
}

}  // namespace jollyrow
