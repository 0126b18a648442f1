// SPDX-License-Identifier: MIT
// A batch is kBatch records: its vectors stay in the cache while instruction after instruction runs over them. Columns
// of 64-bit values are lent, others widened; edits not yet in the table are written over what was loaded. Instructions
// that depend on one dictionary column alone were computed for each distinct text beforehand (lifting.cpp) and are
// gathered by code. Covered by tests/rules/rule_test.cpp and postgres_oracle_test.cpp.
#include "core/rules/evaluator.h"

#include <algorithm>
#include <array>
#include <cassert>
#include <cstring>

#include "core/rules/evaluation_parts.h"
#include "core/rules/kernels.h"

namespace jollyrow {
namespace {

/// Empty bits of [begin, begin + count) as states; null when none is empty.
void loadStates(std::span<const std::uint64_t> validity, std::size_t begin, std::size_t count, Vector& out) {
    out.states = nullptr;
    if (validity.empty()) return;
    bool all = true;
    for (std::size_t i = begin; i < begin + count && all; ++i) {
        if ((i & 63) == 0 && i + 64 <= begin + count && validity[i >> 6] == ~std::uint64_t{0}) {
            i += 63;
            continue;
        }
        all = ((validity[i >> 6] >> (i & 63)) & 1) != 0;
    }
    if (all) return;
    std::uint8_t* states = out.makeStates();
    std::size_t i = 0;
    // Eight bits become eight bytes at once: each byte keeps the bit that is its own, and says whether it is there.
    for (; (begin & 7) == 0 && i + 8 <= count; i += 8) {
        const std::size_t row = begin + i;
        const std::uint64_t empties = ~validity[row >> 6] >> (row & 63) & 0xFF;
        const std::uint64_t own = empties * 0x0101010101010101ULL & 0x8040201008040201ULL;
        const std::uint64_t bytes = ((own + 0x7F7F7F7F7F7F7F7FULL) >> 7) & 0x0101010101010101ULL;
        std::memcpy(states + i, &bytes, sizeof bytes);
    }
    for (; i < count; ++i) {
        const std::size_t row = begin + i;
        states[i] = static_cast<std::uint8_t>(((validity[row >> 6] >> (row & 63)) & 1) ^ 1);
    }
}

template <class T>
void widen(const T* from, std::size_t count, std::int64_t* to) {
    for (std::size_t i = 0; i < count; ++i) to[i] = std::int64_t{from[i]};
}

struct LoadBatch {
    Vector& out;
    std::size_t begin, count;
    bool isBoolean;
    void operator()(const SharedSpan<std::int8_t>& s) const {
        if (isBoolean)
            out.booleans = s.data() + begin;
        else
            widen(s.data() + begin, count, out.makeIntegers());
    }
    void operator()(const SharedSpan<std::int32_t>& s) const { integers(s.data() + begin); }
    void operator()(const SharedSpan<std::int64_t>& s) const {
        if (isBoolean)
            integers(s.data() + begin);
        else
            out.integers = s.data() + begin;
    }
    template <class T>
    void integers(const T* from) const {
        if (!isBoolean) return widen(from, count, out.makeIntegers());
        std::int8_t* to = out.makeBooleans();
        for (std::size_t i = 0; i < count; ++i) to[i] = from[i] != 0 ? 1 : 0;
    }
    void operator()(const SharedSpan<double>& s) const { out.reals = s.data() + begin; }
    void operator()(const SharedSpan<Int128>& s) const {
        out.wide = true;
        WideDecimal* to = out.makeWides();
        for (std::size_t i = 0; i < count; ++i) to[i] = {s[begin + i], out.scale};
    }
    void operator()(const TextDictionary& d) const {
        std::string_view* to = out.makeTexts();
        for (std::size_t i = 0; i < count; ++i)
            to[i] = d.distinct.size() == 0 ? std::string_view() : d.distinct.at(d.codes[begin + i]);
    }
    void operator()(const TextArena& a) const {
        std::string_view* to = out.makeTexts();
        for (std::size_t i = 0; i < count; ++i) to[i] = a.at(begin + i);
    }
};

}  // namespace

Runner::Runner(std::shared_ptr<const Evaluation> evaluation)
    : keep_(std::move(evaluation)),
      evaluation_(*keep_),
      target_(static_cast<std::uint32_t>(keep_->program_->code.size() - 1)),
      domain_(nullptr),
      order_(evaluation_.orderFor(target_)),
      vectors_(evaluation_.program_->code.size()) {}

Runner::Runner(const Evaluation& evaluation, std::uint32_t target, const Domain* domain)
    : evaluation_(evaluation),
      target_(target),
      domain_(domain),
      order_(evaluation.orderFor(target)),
      vectors_(evaluation.program_->code.size()) {}

Runner::~Runner() = default;

const Vector& Runner::run(std::size_t begin, std::size_t count) { return runOrder(begin, count); }

const Vector& Runner::runOrder(std::size_t begin, std::size_t count) {
    for (const std::uint32_t at : order_) execute(at, begin, count);
    return vectors_[target_];
}

void Runner::execute(std::uint32_t at, std::size_t begin, std::size_t count) {
    const Instruction& code = evaluation_.program_->code[at];
    Vector& out = vectors_[at];
    if (out.constant && out.kind == code.type.kind) return;  // made with the first batch
    out.kind = code.type.kind;
    if (!domain_) {
        if (const auto& lift = evaluation_.lifts_.empty() ? nullptr : evaluation_.lifts_[at].get(); lift)
            return gather(*lift, begin, count, out);
    }
    switch (code.op) {
        case Op::Constant: return constant(code.constant, code.type.kind, out);
        case Op::Load:
            if (domain_) return loadDomain(begin, count, out);
            return load(code, begin, count, out);
        case Op::Parameter: {
            const auto* given = evaluation_.input_.given;
            const auto& parameters = evaluation_.input_.parameters;
            if (given)
                if (const auto cells = given->find(evaluation_.program_->parameters[code.index].name);
                    cells != given->end())
                    return give(*cells->second, begin, count, out);
            const auto found = parameters.find(evaluation_.program_->parameters[code.index].name);
            return constant(found == parameters.end() ? RuleValue(Empty{}) : found->second, code.type.kind, out);
        }
        case Op::CurrentDate: return constant(Date{evaluation_.input_.today}, code.type.kind, out);
        case Op::CurrentTimestamp: return constant(Timestamp{evaluation_.input_.now}, code.type.kind, out);
        case Op::Window: return loadWindow(code, begin, count, out);
        default: break;
    }
    bool allConstant = true;
    for (const std::uint32_t ref : code.operands) allConstant = allConstant && vectors_[ref].constant;
    // A function of the application may give another value each time.
    out.constant = allConstant && (code.op != Op::External || evaluation_.program_->externals[code.index]->isPure);
    compute(code, out.constant ? 1 : count, out);
}

void Runner::compute(const Instruction& code, std::size_t n, Vector& out) {
    std::array<const Vector*, 8> few{};
    std::vector<const Vector*> many;
    const std::size_t arity = code.operands.size();
    const Vector** in = few.data();
    if (arity > few.size()) {
        many.resize(arity);
        in = many.data();
    }
    for (std::size_t k = 0; k < arity; ++k) in[k] = &vectors_[code.operands[k]];
    const Operands all(in, arity);
    switch (code.op) {
        case Op::And:
        case Op::Or: return runAndOr(code.op == Op::And, all, n, out);
        case Op::Not: return runNot(*in[0], n, out);
        case Op::IsNull: return runIsNull(*in[0], n, out);
        case Op::IsTrue:
        case Op::IsFalse: return runIs(code.op == Op::IsTrue, *in[0], n, out);
        case Op::Equal:
        case Op::NotEqual:
        case Op::Less:
        case Op::LessEqual:
        case Op::Greater:
        case Op::GreaterEqual:
        case Op::Distinct: return runComparison(code.op, *in[0], *in[1], n, out);
        case Op::In: return runIn(all, n, out);
        case Op::Case: return runCase(all, n, out);
        case Op::Coalesce: return runCoalesce(all, n, out);
        case Op::Greatest:
        case Op::Least: return runExtreme(code.op == Op::Greatest, all, n, out);
        case Op::Add:
        case Op::Subtract:
        case Op::Multiply:
        case Op::Divide:
        case Op::Modulo:
            if (in[0]->kind >= RuleKind::Date || in[1]->kind >= RuleKind::Date)
                return runCalendar(code.op, *in[0], *in[1], *evaluation_.program_->zone, n, out);
            return runArithmetic(code.op, *in[0], *in[1], n, out);
        case Op::Negate: return runNegate(*in[0], n, out);
        case Op::Abs:
        case Op::Sign:
        case Op::Floor:
        case Op::Ceiling:
        case Op::Round:
        case Op::Truncate: return runRounding(code.op, all, n, out);
        case Op::SquareRoot:
        case Op::Power:
        case Op::Exponential:
        case Op::Logarithm:
        case Op::Logarithm10:
            if (code.type.kind == RuleKind::Decimal) return runExactFunction(code.op, all, n, out);
            return runRealFunction(code.op, all, n, out);
        case Op::CubeRoot:
        case Op::Degrees:
        case Op::Radians:
        case Op::Sine:
        case Op::Cosine:
        case Op::Tangent:
        case Op::Cotangent:
        case Op::ArcSine:
        case Op::ArcCosine:
        case Op::ArcTangent:
        case Op::ArcTangent2: return runRealFunction(code.op, all, n, out);
        case Op::WholeQuotient:
            if (code.type.kind == RuleKind::Decimal) return runExactFunction(code.op, all, n, out);
            return runWholeFunction(code.op, all, n, out);
        case Op::CommonDivisor:
        case Op::CommonMultiple: return runWholeFunction(code.op, all, n, out);
        case Op::ScaleOf:
        case Op::LeastScale:
        case Op::TrimScale: return runScaleFunction(code.op, *in[0], n, out);
        case Op::WidthBucket: return runWidthBucket(all, n, out);
        case Op::TruncateTime: return runTruncateTime(code.part, *in[0], *evaluation_.program_->zone, n, out);
        case Op::MakeDate:
        case Op::MakeTime:
        case Op::MakeTimestamp: return runMakeMoment(code.op, all, n, out);
        case Op::MakeInterval: return runMakeInterval(all, n, out);
        case Op::JustifyHours:
        case Op::JustifyDays:
        case Op::JustifyInterval: return runJustify(code.op, *in[0], n, out);
        case Op::EpochToInstant: return runEpochToInstant(*in[0], n, out);
        case Op::AtZone: return runAtZone(all, n, out);
        case Op::BitAnd:
        case Op::BitOr:
        case Op::BitExclusiveOr:
        case Op::BitNot:
        case Op::ShiftLeft:
        case Op::ShiftRight: return runBits(code.op, all, n, out);
        case Op::Matches:
        case Op::SimilarTo:
        case Op::MatchCount:
        case Op::MatchPosition:
        case Op::MatchText:
        case Op::MatchReplace: return runPattern(code.op, all, n, out);
        case Op::Format:
        case Op::NumberToText:
        case Op::MomentToText:
        case Op::TextToNumber:
        case Op::TextToDate:
        case Op::TextToTimestamp: return runWritten(code.op, all, *evaluation_.program_->zone, n, out);
        case Op::Age: return runAge(*in[0], *in[1], n, out);
        case Op::Extract: return runExtract(code.part, *in[0], n, out);
        case Op::Cast: return runCast(code, *in[0], *evaluation_.program_->zone, n, out);
        case Op::External: return runExternal(code, n, out);
        default: return runText(code.op, all, n, out);
    }
}

void Runner::give(const std::vector<EvaluatedCell>& cells, std::size_t begin, std::size_t count, Vector& out) {
    const RuleKind kind = out.kind;
    makeRoom(out, kind);
    if (kind == RuleKind::Decimal) {
        out.wide = true;
        out.makeWides();
    }
    std::uint8_t* states = out.makeStates();
    for (std::size_t i = 0; i < count; ++i) {
        const EvaluatedCell& cell = cells[begin + i];
        states[i] = static_cast<std::uint8_t>(cell.state);
        if (cell.state != CellState::Filled) continue;
        if (const auto* text = std::get_if<std::string>(&cell.value))
            out.textStore[i] = *text;
        else
            unbox(cell.value, out, i);
    }
}

void Runner::constant(const RuleValue& value, RuleKind kind, Vector& out) {
    makeRoom(out, kind);
    out.constant = true;
    if (std::holds_alternative<Empty>(value)) {
        out.makeStates()[0] = static_cast<std::uint8_t>(CellState::Empty);
        if (kind == RuleKind::Text || kind == RuleKind::Null) out.textStore[0] = {};
        return;
    }
    if (kind == RuleKind::Decimal) {
        const auto& wide = std::get<WideDecimal>(value);
        if (const auto narrow = narrowed(wide); narrow && narrow->scale == wide.scale) {
            out.integerStore[0] = narrow->mantissa;
            out.scale = narrow->scale;
            return;
        }
        out.wide = true;
        out.makeWides();
    }
    unbox(value, out, 0);
}

void Runner::load(const Instruction& code, std::size_t begin, std::size_t count, Vector& out) {
    const Column& column = *evaluation_.input_.table->columns[code.index];
    loadStates(column.validity(), begin, count, out);
    out.wide = false;
    out.scale = column.scale();
    const bool isBoolean = code.type.kind == RuleKind::Boolean;
    std::visit(LoadBatch{out, begin, count, isBoolean}, column.storage());
    for (const Misfit& odd : column.misfits(begin, count))
        out.writableStates(count)[odd.row - begin] = static_cast<std::uint8_t>(CellState::Misfit);
    if (!evaluation_.edited_.empty()) patchEdits(code.index, begin, count, out);
}

namespace {

/// The decimals of a batch in 128 bits, each with its scale: one of them does not fit the column's 64.
void widenDecimals(Vector& out, std::size_t count) {
    if (out.wide) return;
    const std::int64_t* narrow = out.integers;
    WideDecimal* wide = out.makeWides();
    for (std::size_t i = 0; i < count; ++i) wide[i] = {narrow[i], out.scale};
    out.wide = true;
}

/// Writes an exact number over the i-th one.
void patchDecimal(Vector& out, std::size_t i, std::size_t count, const WideDecimal& value) {
    const auto fitted = out.wide ? std::nullopt : rescaledExactly(value, out.scale);
    if (fitted && fitted->mantissa == static_cast<std::int64_t>(fitted->mantissa)) {
        out.integerStore[i] = static_cast<std::int64_t>(fitted->mantissa);
        return;
    }
    widenDecimals(out, count);
    out.wideStore[i] = value;
}

}  // namespace

void Runner::patchEdits(std::uint32_t field, std::size_t begin, std::size_t count, Vector& out) {
    const Evaluation::EditedField* edits = evaluation_.editsOf(field);
    if (!edits) return;
    auto at = std::lower_bound(edits->cells.begin(), edits->cells.end(), begin,
                               [](const auto& cell, std::size_t row) { return cell.first < row; });
    if (at == edits->cells.end() || at->first >= begin + count) return;
    // The lent array becomes the vector's own.
    const auto own = [count](auto& store, const auto*& pointer) {
        if (pointer == store.data()) return;
        if (store.size() < kBatch) store.resize(kBatch);
        std::copy(pointer, pointer + count, store.begin());
        pointer = store.data();
    };
    if (isIntegral(out.kind) || (out.kind == RuleKind::Decimal && !out.wide)) own(out.integerStore, out.integers);
    if (out.kind == RuleKind::Real) own(out.realStore, out.reals);
    if (out.kind == RuleKind::Boolean) own(out.booleanStore, out.booleans);
    std::uint8_t* states = out.writableStates(count);
    for (; at != edits->cells.end() && at->first < begin + count; ++at) {
        const std::size_t i = at->first - begin;
        const RuleValue value = ruleValue(*at->second);
        states[i] = 0;
        if (std::holds_alternative<Unfit>(*at->second) ||
            (kindOf(value) != out.kind && kindOf(value) != RuleKind::Null))
            states[i] = static_cast<std::uint8_t>(CellState::Misfit);
        else if (const auto* decimal = std::get_if<WideDecimal>(&value))
            patchDecimal(out, i, count, *decimal);
        else if (const auto* text = std::get_if<std::string>(at->second))
            out.textStore[i] = *text;
        else
            unbox(value, out, i);
    }
}

void Runner::loadDomain(std::size_t begin, std::size_t count, Vector& out) {
    std::string_view* texts = out.makeTexts();
    out.states = nullptr;
    const std::size_t distinct = domain_->distinct();
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t at = begin + i;
        texts[i] = {};
        if (at < distinct) {
            texts[i] = domain_->dictionary->distinct.at(at);
            continue;
        }
        const Value* edited = at == distinct ? nullptr : domain_->edits->cells[at - distinct - 1].second;
        if (const auto* text = edited ? std::get_if<std::string>(edited) : nullptr)
            texts[i] = *text;
        else
            out.writableStates(count)[i] = static_cast<std::uint8_t>(CellState::Empty);
    }
}

void Runner::gather(const Evaluation::Lift& lift, std::size_t begin, std::size_t count, Vector& out) {
    std::array<std::uint32_t, kBatch> codes;
    const std::uint32_t* stored = lift.domain.dictionary->codes.data() + begin;
    const Column& column = *lift.domain.column;
    std::copy(stored, stored + count, codes.begin());
    const auto empty = static_cast<std::uint32_t>(lift.domain.distinct());
    if (const auto validity = column.validity(); !validity.empty())
        for (std::size_t i = 0; i < count; ++i) {
            const std::size_t row = begin + i;
            codes[i] = ((validity[row >> 6] >> (row & 63)) & 1) != 0 ? codes[i] : empty;
        }
    if (const auto* edits = lift.domain.edits) {
        auto at = std::lower_bound(edits->cells.begin(), edits->cells.end(), begin,
                                   [](const auto& cell, std::size_t row) { return cell.first < row; });
        for (; at != edits->cells.end() && at->first < begin + count; ++at)
            codes[at->first - begin] = empty + 1 + static_cast<std::uint32_t>(at - edits->cells.begin());
    }
    makeRoom(out, lift.kind);
    out.scale = lift.scale;
    const auto pick = [&](const auto& values, auto& store) {
        const auto* __restrict from = values.data();
        auto* __restrict to = store.data();
        for (std::size_t i = 0; i < count; ++i) to[i] = from[codes[i]];
    };
    switch (lift.kind) {
        case RuleKind::Boolean: pick(lift.booleans, out.booleanStore); break;
        case RuleKind::Real: pick(lift.reals, out.realStore); break;
        case RuleKind::Null:
        case RuleKind::Text: pick(lift.texts, out.textStore); break;
        case RuleKind::Interval: pick(lift.intervals, out.intervalStore); break;
        case RuleKind::Decimal:
            if (lift.wide) {
                out.wide = true;
                out.makeWides();
                pick(lift.wides, out.wideStore);
                break;
            }
            [[fallthrough]];
        default: pick(lift.integers, out.integerStore); break;
    }
    if (lift.allFilled) return;
    std::uint8_t* __restrict states = out.makeStates();
    const std::uint8_t* __restrict known = lift.states.data();
    for (std::size_t i = 0; i < count; ++i) states[i] = known[codes[i]];
}

void Runner::loadWindow(const Instruction& code, std::size_t begin, std::size_t count, Vector& out) {
    const Evaluation::WindowResult& window = *evaluation_.windows_[code.index];
    const WindowColumn& values = window.values;
    out.constant = window.isOne;
    const bool isOwn = window.from.empty() && !window.isOne;
    const bool isNarrow = isIntegral(values.kind) || (values.kind == RuleKind::Decimal && !values.wide);
    out.wide = values.wide;
    out.scale = std::max(values.scale, 0);
    if (isOwn && isNarrow) {
        out.integers = values.integers.data() + begin;
        out.states = window.allFilled ? nullptr : values.states.data() + begin;
        return;
    }
    if (isOwn && values.kind == RuleKind::Real) {
        out.reals = values.reals.data() + begin;
        out.states = window.allFilled ? nullptr : values.states.data() + begin;
        return;
    }
    makeRoom(out, code.type.kind);
    out.wide = values.wide;
    out.scale = std::max(values.scale, 0);
    if (values.wide) out.makeWides();
    std::uint8_t* states = out.makeStates();
    if (window.isOne) return values.copyTo(out, 0, 0);
    for (std::size_t i = 0; i < count; ++i) {
        const std::size_t at = window.from.empty() ? begin + i : window.from[begin + i];
        if (at == Evaluation::WindowResult::kNone) {
            states[i] = static_cast<std::uint8_t>(CellState::Empty);
            if (code.type.kind == RuleKind::Text) out.textStore[i] = {};
        } else {
            values.copyTo(out, i, at);
        }
    }
}

void Runner::runExternal(const Instruction& code, std::size_t n, Vector& out) {
    const ExternalFunction& function = *evaluation_.program_->externals[code.index];
    out.forget();
    makeRoom(out, code.type.kind);
    if (code.type.kind == RuleKind::Decimal) {
        out.wide = true;
        out.makeWides();
    }
    std::uint8_t* states = out.makeStates();
    std::vector<RuleValue> arguments(code.operands.size());
    for (std::size_t i = 0; i < n; ++i) {
        states[i] = 0;
        bool anyEmpty = false;
        for (std::size_t k = 0; k < arguments.size(); ++k) {
            const Vector& in = vectors_[code.operands[k]];
            const CellState state = in.state(i);
            if (isError(state) && !isError(static_cast<CellState>(states[i])))
                states[i] = static_cast<std::uint8_t>(state);
            anyEmpty = anyEmpty || state == CellState::Empty;
            arguments[k] = state == CellState::Filled ? boxed(in, i) : RuleValue(Empty{});
        }
        if (states[i] != 0) continue;
        if (anyEmpty && !function.takesEmpties) {
            states[i] = static_cast<std::uint8_t>(CellState::Empty);
            continue;
        }
        const auto value = function.call(arguments);
        if (value && std::holds_alternative<Empty>(*value))
            states[i] = static_cast<std::uint8_t>(CellState::Empty);
        else if (!value || kindOf(*value) != code.type.kind)
            states[i] = static_cast<std::uint8_t>(CellState::FunctionFailed);
        else
            unbox(*value, out, i);
    }
}

EvaluatedCell cellOf(const Vector& vector, std::size_t i) {
    const CellState state = vector.state(i);
    return {state, state == CellState::Filled ? boxed(vector, i) : RuleValue(Empty{})};
}

Result<EvaluatedCell> evaluateOne(const std::shared_ptr<const Program>& program, const EvaluationInput& input,
                                  SourceRow row) {
    EvaluationInput few = input;
    few.forFew = true;
    auto evaluation = Evaluation::prepare(program, few, Cancel());
    if (!evaluation) return evaluation.error();
    Runner runner(*evaluation);
    return cellOf(runner.run(raw(row), 1), 0);
}

}  // namespace jollyrow
