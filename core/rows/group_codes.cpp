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

constexpr std::uint32_t kNoCode = ~std::uint32_t{0};
/// Whole numbers that lie within this of each other are numbered through a table.
constexpr std::uint64_t kMostSpan = std::uint64_t{1} << 22;

Error stopped() { return {ErrorCode::Cancelled, "Grouping was cancelled."}; }
Error tooMany(std::size_t most) {
    return {ErrorCode::Unsupported,
            fmt::format("This gives more than {} different values, which is no grouping; use ranges, parts of dates or "
                        "first letters.",
                        most)};
}

bool isPlainLoad(const Program& program) { return program.code.size() == 1 && program.code[0].op == Op::Load; }

bool isEdited(const Edits* edits, FieldIndex field) { return edits && edits->touches(field); }

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

/// A text column that is kept as a dictionary has its numbers already.
bool takeDictionary(const Program& program, const EvaluationInput& input, Codes& codes) {
    if (!isPlainLoad(program)) return false;
    const auto field = static_cast<FieldIndex>(program.code[0].index);
    const Column* column = input.table->column(field);
    const auto* dictionary = column ? std::get_if<TextDictionary>(&column->storage()) : nullptr;
    if (!dictionary || column->type() != Type::Text || column->misfitCount() != 0 || isEdited(input.edits.get(), field))
        return false;
    const std::size_t rows = input.table->rows, distinct = dictionary->distinct.size();
    const bool hasEmpties = column->emptyCount() != 0;
    if (hasEmpties) {
        codes.own.resize(rows);
        const std::uint32_t* __restrict stored = dictionary->codes.data();
        std::uint32_t* __restrict out = codes.own.data();
        const std::size_t threads = threadsFor(rows, kParallelFrom);
        inParallel(threads, [&](std::size_t t) {
            const auto none = static_cast<std::uint32_t>(distinct);
            for (std::size_t row = rows * t / threads; row < rows * (t + 1) / threads; ++row)
                out[row] = column->isEmpty(static_cast<SourceRow>(row)) ? none : stored[row];
        });
    } else {
        codes.lent = dictionary->codes;
    }
    codes.values.reserve(0, distinct + 1);
    for (std::size_t i = 0; i < distinct; ++i)
        codes.values.push({CellState::Filled, std::string(dictionary->distinct.at(i))});
    if (hasEmpties) codes.values.push({});
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
        codes.own.resize(rows);
        codes.values = CodedValues(type_);
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
        const bool fits = !some || (width < kMostSpan ? numberDirect(codes, width) : numberHashed(codes));
        if (!fits) return false;
        codes.rising = type_.kind == RuleKind::Real || type_.kind == RuleKind::Decimal ? 0 : codes.values.size();
        if (!hasStates_) return true;
        std::vector<std::uint32_t> ofState(16, kNoCode);
        for (std::size_t row = 0; row < bits_.size(); ++row) {
            if (states_[row] == 0) continue;
            std::uint32_t& code = ofState[states_[row]];
            if (code == kNoCode) {
                code = static_cast<std::uint32_t>(codes.values.size());
                codes.values.push({static_cast<CellState>(states_[row]), Empty{}});
            }
            codes.own[row] = code;
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
            codes.values.pushNumber(static_cast<std::int64_t>(least + i));
        }
        inRanges([&](std::size_t begin, std::size_t end) {
            for (std::size_t row = begin; row < end; ++row)
                if (!hasStates_ || states_[row] == 0) codes.own[row] = codeOf[bits_[row] - least];
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
            codes.own[row] = number;
        }
        std::sort(met.begin(), met.end());
        std::vector<std::uint32_t> codeOf(met.size());
        codes.values.reserve(met.size(), 0);
        for (std::size_t i = 0; i < met.size(); ++i) {
            codeOf[met[i].second] = static_cast<std::uint32_t>(i);
            codes.values.pushNumber(met[i].first);
        }
        inRanges([&](std::size_t begin, std::size_t end) {
            for (std::size_t row = begin; row < end; ++row)
                if (!hasStates_ || states_[row] == 0) codes.own[row] = codeOf[codes.own[row]];
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

/// Whole numbers, days and times of a column in which none is empty, when they lie close together: from the column's
/// own memory. False when they do not.
template <class T>
Result<bool> takeClose(const SharedSpan<T>& column, RuleType type, std::size_t most, Codes& codes) {
    const T* __restrict from = column.data();
    const std::size_t rows = column.size(), threads = threadsFor(rows, kParallelFrom);
    const auto inRanges = [&](const auto& work) {
        inParallel(threads, [&](std::size_t t) { work(t, rows * t / threads, rows * (t + 1) / threads); });
    };
    std::vector<std::pair<T, T>> ends(threads, {from[0], from[0]});
    inRanges([&](std::size_t t, std::size_t begin, std::size_t end) {
        T least = from[0], greatest = from[0];
        for (std::size_t row = begin; row < end; ++row) {
            least = std::min(least, from[row]);
            greatest = std::max(greatest, from[row]);
        }
        ends[t] = {least, greatest};
    });
    for (const auto& [least, greatest] : ends)
        ends[0] = {std::min(ends[0].first, least), std::max(ends[0].second, greatest)};
    const auto least = static_cast<std::uint64_t>(static_cast<std::int64_t>(ends[0].first));
    const std::uint64_t width = static_cast<std::uint64_t>(static_cast<std::int64_t>(ends[0].second)) - least;
    if (width >= kMostSpan || width / 4 > rows) return false;
    std::vector<std::vector<std::uint8_t>> there(threads, std::vector<std::uint8_t>(width + 1));
    inRanges([&](std::size_t t, std::size_t begin, std::size_t end) {
        std::uint8_t* __restrict seen = there[t].data();
        for (std::size_t row = begin; row < end; ++row) seen[static_cast<std::uint64_t>(from[row]) - least] = 1;
    });
    codes.values = CodedValues(type);
    std::vector<std::uint32_t> codeOf(width + 1);
    for (std::uint64_t i = 0; i <= width; ++i) {
        if (std::none_of(there.begin(), there.end(), [i](const auto& seen) { return seen[i] != 0; })) continue;
        if (codes.values.size() >= most) return tooMany(most);
        codeOf[i] = static_cast<std::uint32_t>(codes.values.size());
        codes.values.pushNumber(static_cast<std::int64_t>(least + i));
    }
    codes.rising = type.kind == RuleKind::Decimal ? 0 : codes.values.size();
    codes.own.resize(rows);
    const bool all = codes.values.size() == width + 1;
    inRanges([&](std::size_t, std::size_t begin, std::size_t end) {
        std::uint32_t* __restrict out = codes.own.data();
        const std::uint32_t* __restrict known = codeOf.data();
        const auto base = static_cast<std::uint32_t>(least);
        if (all)
            for (std::size_t row = begin; row < end; ++row) out[row] = static_cast<std::uint32_t>(from[row]) - base;
        else
            for (std::size_t row = begin; row < end; ++row)
                out[row] = known[static_cast<std::uint64_t>(from[row]) - least];
    });
    return true;
}

Result<bool> takeColumn(const Program& program, const EvaluationInput& input, std::size_t most, Codes& codes) {
    if (!isPlainLoad(program)) return false;
    const auto field = static_cast<FieldIndex>(program.code[0].index);
    const Column* column = input.table->column(field);
    if (!column || column->emptyCount() != 0 || column->size() != input.table->rows ||
        isEdited(input.edits.get(), field))
        return false;
    if (const auto* days = std::get_if<SharedSpan<std::int32_t>>(&column->storage()))
        return takeClose(*days, program.type(), most, codes);
    if (const auto* whole = std::get_if<SharedSpan<std::int64_t>>(&column->storage()))
        return takeClose(*whole, program.type(), most, codes);
    return false;
}

Result<Codes> namedCodes(const std::shared_ptr<const Program>& program, const EvaluationInput& input, std::size_t most,
                         const Cancel& cancel) {
    Codes codes;
    codes.own.resize(input.table->rows);
    std::unordered_map<std::string, std::uint32_t> names;
    std::vector<std::uint32_t> ofState(16, kNoCode);
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
                if (*code == kNoCode) *code = next;
                if (*code == next) {
                    fits = next < most;
                    codes.values.push(cellOf(v, i));
                }
                codes.own[begin + i] = *code;
            }
        });
    if (!done) return done.error();
    if (!fits) return tooMany(most);
    return codes;
}

int placeOf(CellState state, Empties empties) {
    if (isError(state)) return 3;
    if (state == CellState::Empty) return empties == Empties::First ? 0 : 2;
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
        if (codes.values.state(i) == CellState::Filled) return false;
        (placeOf(codes.values.state(i), term.empties) == 0 ? first : last).push_back(static_cast<std::uint32_t>(i));
    }
    std::sort(last.begin(), last.end(), [&](std::uint32_t a, std::uint32_t b) {
        const CellState x = codes.values.state(a), y = codes.values.state(b);
        const int placeX = placeOf(x, term.empties), placeY = placeOf(y, term.empties);
        return placeX != placeY ? placeX < placeY : x < y;
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
        Key key{placeOf(values[i].state, term.empties), static_cast<std::int64_t>(values[i].state),
                static_cast<std::uint32_t>(i)};
        if (values[i].state == CellState::Filled) {
            const RuleValue& value = values[i].value;
            if (const auto* whole = std::get_if<std::int64_t>(&value))
                key.value = *whole;
            else if (const auto* day = std::get_if<Date>(&value))
                key.value = day->days;
            else if (const auto* stamp = std::get_if<Timestamp>(&value))
                key.value = stamp->micros;
            else if (const auto* instant = std::get_if<Instant>(&value))
                key.value = instant->micros;
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
    if (input.table->rows == 0) return codes;
    if (takeDictionary(*program, input, codes)) {
        if (codes.values.size() > most + 1) return tooMany(most);
        return codes;
    }
    const RuleType type = program->type();
    const Column* loaded =
        isPlainLoad(*program) ? input.table->column(static_cast<FieldIndex>(program->code[0].index)) : nullptr;
    // Parts of dates are exact numbers that fit 64 bits, too.
    const bool narrow = type.kind == RuleKind::Decimal &&
                        (program->code.back().op == Op::Extract ||
                         (loaded && !loaded->isWide() &&
                          !isEdited(input.edits.get(), static_cast<FieldIndex>(program->code[0].index))));
    if (isIntegral(type.kind) || narrow) {
        const auto taken = takeColumn(*program, input, most, codes);
        if (!taken) return taken.error();
        if (*taken) return codes;
    }
    if (isIntegral(type.kind) || type.kind == RuleKind::Boolean || type.kind == RuleKind::Real || narrow)
        return BitCodes(type, input.table->rows, most).run(program, input, cancel);
    return namedCodes(program, input, most, cancel);
}

Result<Codes> patchedCodes(const Codes& codes, const std::shared_ptr<const Program>& program,
                           const EvaluationInput& input, std::span<const std::uint32_t> rows) {
    Codes patched = codes;
    if (patched.own.empty()) patched.own.assign(codes.byRow(), codes.byRow() + input.table->rows);
    patched.lent = {};
    for (const std::uint32_t row : rows) {
        const auto cell = evaluateOne(program, input, static_cast<SourceRow>(row));
        if (!cell) return cell.error();
        auto code = patched.values.find(*cell);
        if (!code) {
            code = static_cast<std::uint32_t>(patched.values.size());
            patched.values.push(*cell);
        }
        patched.own[row] = *code;
    }
    return patched;
}

Result<std::vector<std::uint32_t>> ranksOf(const Codes& codes, const SortTerm& term, const Column* column,
                                           RankCache* ranks, const Cancel& cancel) {
    std::vector<std::uint32_t> sorted;
    sorted.reserve(codes.values.size());
    const bool plain = term.values.empty() && !term.comparator;
    if (plain && takeRising(codes, term, sorted)) return ranksFrom(sorted);
    std::vector<EvaluatedCell> values;
    values.reserve(codes.values.size());
    for (std::size_t code = 0; code < codes.values.size(); ++code) values.push_back(codes.values.at(code));
    sorted.clear();
    if (plain && sortNumbers(values, term, sorted)) return ranksFrom(sorted);
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
        const int placeX = placeOf(x.state, term.empties), placeY = placeOf(y.state, term.empties);
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
