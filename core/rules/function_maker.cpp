// SPDX-License-Identifier: MIT
// Covered by tests/rules/rule_test.cpp, postgres_oracle_test.cpp and typed_oracle_test.cpp.
#include "core/rules/function_maker.h"

#include <fmt/format.h>

#include <algorithm>

namespace jollyrow {

Result<void> FunctionMaker::fitAll(std::vector<Ref>& refs, const std::array<RuleKind, 3>& kinds,
                                   std::string_view forWhat) {
    std::vector<RuleKind> wanted(refs.size(), kinds.back());
    std::copy_n(kinds.begin(), std::min(kinds.size(), wanted.size()), wanted.begin());
    return fitKinds(refs, wanted, forWhat);
}

Result<void> FunctionMaker::fitKinds(std::vector<Ref>& refs, const std::vector<RuleKind>& kinds,
                                     std::string_view forWhat) {
    for (std::size_t i = 0; i < refs.size(); ++i) {
        auto fit = fitted_(refs[i], kinds[i], forWhat);
        if (!fit) return fit.error();
        refs[i] = *fit;
    }
    return {};
}

Result<FunctionMaker::Ref> FunctionMaker::realOrExact(const FunctionShape& shape, std::vector<Ref> children,
                                                      TextRange range) {
    const auto is = [&](RuleKind wanted) {
        return std::any_of(children.begin(), children.end(), [&](Ref ref) { return kind(ref) == wanted; });
    };
    const bool isBased = shape.op == Op::Logarithm10 && children.size() == 2;  // of decimals alone
    const bool isExact = isBased || (is(RuleKind::Decimal) && !is(RuleKind::Real));
    const RuleKind common = isExact ? RuleKind::Decimal : RuleKind::Real;
    if (auto fit = fitKinds(children, std::vector<RuleKind>(children.size(), common), shape.name); !fit)
        return fit.error();
    return make(shape.op, {common, isExact ? RuleType::kVaries : 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::numbersOfOneKind(const FunctionShape& shape, std::vector<Ref> children,
                                                           TextRange range) {
    const bool counts = shape.op == Op::WidthBucket;
    RuleKind common = RuleKind::Integer;
    const std::size_t numbers = counts ? 3 : 2;
    for (std::size_t i = 0; i < numbers; ++i) {
        auto value = number(children[i], shape.name);
        if (!value) return value;
        common = std::max(common, kind(*value));
    }
    if (counts && common == RuleKind::Integer) common = RuleKind::Real;
    std::vector<RuleKind> kinds(children.size(), common);
    if (counts) kinds.back() = RuleKind::Integer;
    if (!counts && common == RuleKind::Real) kinds.assign(2, RuleKind::Decimal);  // which says what it takes
    if (auto fit = fitKinds(children, kinds, shape.name); !fit) return fit.error();
    const RuleKind gives = counts ? RuleKind::Integer : kinds[0];
    return make(shape.op, {gives, 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::truncatedTime(const FunctionShape& shape, std::vector<Ref> children,
                                                        TextRange range) {
    const Instruction& named = program_.code[children[0]];
    const auto* word = named.op == Op::Constant ? std::get_if<std::string>(&named.constant) : nullptr;
    const auto part = word ? truncationFromName(*word) : std::nullopt;
    if (!part)
        return fail(named.range,
                    "DATE_TRUNC is told by one of 'second', 'minute', 'hour', 'day', 'week', 'month', "
                    "'quarter', 'year', 'decade', 'century' and 'millennium' where to cut.");
    Ref value = children[1];
    if (kind(value) == RuleKind::Date || isPliable(value)) {
        auto moment = converted(value, {RuleKind::Instant, 0});
        if (!moment) return moment;
        value = *moment;
    }
    const RuleKind of = kind(value);
    if (of == RuleKind::Interval && *part == DatePart::Week)
        return fail(named.range, "A span of time has no weeks to cut at.");
    if (of != RuleKind::Timestamp && of != RuleKind::Instant && of != RuleKind::Interval)
        return fail(program_.code[value].range,
                    fmt::format("DATE_TRUNC takes a date or time; this is {}.", article(of)));
    Instruction instruction{shape.op, {of, 0}};
    instruction.operands = {value};
    instruction.part = *part;
    instruction.range = range;
    return add(std::move(instruction));
}

Result<FunctionMaker::Ref> FunctionMaker::age(const FunctionShape& shape, std::vector<Ref> children, TextRange range) {
    if (children.size() == 1) {
        auto today = make(Op::CurrentDate, {RuleKind::Date, 0}, {}, range);
        if (!today) return today;
        children.insert(children.begin(), *today);
    }
    for (Ref& child : children) {
        if (!isPliable(child) && !hasDay(kind(child)))
            return fail(program_.code[child].range,
                        fmt::format("AGE takes a date or time; this is {}.", article(kind(child))));
        auto moment = converted(child, {RuleKind::Timestamp, 0});  // instants by the zone's clocks
        if (!moment) return moment;
        child = *moment;
    }
    return make(shape.op, {RuleKind::Interval, 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::nullIf(const std::vector<Ref>& children, TextRange range) {
    using K = RuleKind;
    std::vector<Ref> both = children;
    if (auto common = unified(both, "they cannot be compared"); !common) return common.error();
    auto equal = make(Op::Equal, {K::Boolean, 0}, both, range);
    if (!equal) return equal;
    const Ref kept = kind(children[0]) == K::Null ? both[0] : children[0];
    auto empty = constant(Empty{}, range);
    if (!empty) return empty;
    auto nothing = converted(*empty, type(kept));
    if (!nothing) return nothing;
    return make(Op::Case, type(kept), {*equal, *nothing, kept}, range);
}

Result<FunctionMaker::Ref> FunctionMaker::concatenated(Op op, std::vector<Ref> children, TextRange range) {
    using K = RuleKind;
    for (Ref& child : children) {
        auto text = kind(child) == K::Boolean ? oneLetter(child) : converted(child, {K::Text, 0});
        if (!text) return text;
        child = *text;
    }
    return make(op, {K::Text, 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::builtIn(const FunctionShape& shape, std::vector<Ref> children,
                                                  TextRange range) {
    using K = RuleKind;
    if (shape.gives != K::Null) {
        if (auto fit = fitAll(children, shape.takes, shape.name); !fit) return fit.error();
        return make(shape.op, {shape.gives, shape.gives == K::Decimal ? RuleType::kVaries : 0}, std::move(children),
                    range);
    }
    switch (shape.op) {
        case Op::Coalesce:
        case Op::Greatest:
        case Op::Least: {
            auto common = unified(children, "they must be of one kind");
            if (!common) return common.error();
            const RuleType one = commonType(*common, children);
            return make(shape.op, one, std::move(children), range);
        }
        case Op::NullIf: return nullIf(children, range);
        case Op::Abs:
        case Op::Sign:
        case Op::Floor:
        case Op::Ceiling:
        case Op::Round:
        case Op::Truncate: return rounding(shape, std::move(children), range);
        case Op::SquareRoot:
        case Op::Power:
        case Op::Exponential:
        case Op::Logarithm:
        case Op::Logarithm10: return realOrExact(shape, std::move(children), range);
        case Op::WholeQuotient:
        case Op::WidthBucket: return numbersOfOneKind(shape, std::move(children), range);
        case Op::TruncateTime: return truncatedTime(shape, std::move(children), range);
        case Op::MakeTimestamp:
            if (auto fit = fitKinds(children, {K::Integer, K::Integer, K::Integer, K::Integer, K::Integer, K::Real},
                                    shape.name);
                !fit)
                return fit.error();
            return make(shape.op, {K::Timestamp, 0}, std::move(children), range);
        case Op::Age: return age(shape, std::move(children), range);
        case Op::ConcatWith:
        case Op::Concat: return concatenated(shape.op, std::move(children), range);
        default: return fail(range, "This cannot be understood.");
    }
}

Result<FunctionMaker::Ref> FunctionMaker::oneLetter(Ref truth) {
    const TextRange range = program_.code[truth].range;
    const auto letter = [&](const char* text) { return constant(std::string(text), range); };
    auto yes = letter("t"), no = letter("f"), none = constant(Empty{}, range);
    if (!yes || !no || !none) return yes;
    auto isFalse = make(Op::IsFalse, {RuleKind::Boolean, 0}, {truth}, range);
    if (!isFalse) return isFalse;
    return choice({truth, *yes, *isFalse, *no, *none}, range);
}

Result<FunctionMaker::Ref> FunctionMaker::rounding(const FunctionShape& shape, std::vector<Ref> children,
                                                   TextRange range) {
    auto value = number(children[0], shape.name);
    if (!value) return value;
    children[0] = *value;
    RuleType result = type(*value);
    const bool isWhole = result.kind == RuleKind::Integer;
    if (children.size() == 2) {
        if (result.kind == RuleKind::Real)
            return fail(program_.code[*value].range,
                        fmt::format("{} to so many decimals takes a decimal: CAST(… AS DECIMAL(p, s)).", shape.name));
        auto decimals = fitted_(children[1], RuleKind::Integer, shape.name);
        if (!decimals) return decimals;
        children[1] = *decimals;
        const Instruction& constant = program_.code[*decimals];
        const auto* known = constant.op == Op::Constant ? std::get_if<std::int64_t>(&constant.constant) : nullptr;
        if (!isWhole)
            result.scale = known ? static_cast<int>(std::clamp<std::int64_t>(*known, 0, WideDecimal::kMaxScale))
                                 : RuleType::kVaries;
    } else if (shape.op != Op::Abs && result.kind == RuleKind::Decimal) {
        result.scale = 0;
    }
    if (isWhole && children.size() == 1 && shape.op != Op::Abs && shape.op != Op::Sign) return children[0];
    return make(shape.op, result, std::move(children), range);
}

}  // namespace jollyrow
