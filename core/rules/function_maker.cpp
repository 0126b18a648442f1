// SPDX-License-Identifier: MIT
// Covered by tests/rules/rule_test.cpp, postgres_oracle_test.cpp and typed_oracle_test.cpp.
#include "core/rules/function_maker.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/rules/regex.h"

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

Result<FunctionMaker::Ref> FunctionMaker::extreme(const FunctionShape& shape, std::vector<Ref> children,
                                                  TextRange range) {
    const std::vector<std::string>* values = nullptr;
    for (const Ref child : children) {
        if (isCollated(child)) return fail(range, fmt::format("COLLATE does not reach into {}.", shape.name));
        if (!values) values = enumOf(child);
    }
    if (values) {
        const std::vector<std::string> order = *values;  // instructions that are made move it
        if (auto placed = makeOrdered(children, range); !placed) return placed.error();
        auto place = make(shape.op, {RuleKind::Integer, 0}, std::move(children), range);
        return place ? valueAt(order, *place) : place;
    }
    auto common = unified(children, "they must be of one kind");
    if (!common) return common.error();
    const RuleType one = commonType(*common, children);
    return make(shape.op, one, std::move(children), range);
}

Result<void> FunctionMaker::fillUp(std::vector<Ref>& children, const std::vector<RuleValue>& defaults, std::size_t from,
                                   std::string_view forWhat, TextRange range) {
    for (std::size_t i = 0; i < children.size(); ++i) {
        const RuleKind wanted = i < from ? RuleKind::Text : kindOf(defaults[i - from]);
        auto fit = fitted_(children[i], wanted, forWhat);
        if (!fit) return fit.error();
        children[i] = *fit;
    }
    while (children.size() < from + defaults.size()) {
        auto value = constant(defaults[children.size() - from], range);
        if (!value) return value.error();
        children.push_back(*value);
    }
    return {};
}

Result<FunctionMaker::Ref> FunctionMaker::matching(const FunctionShape& shape, std::vector<Ref> children,
                                                   TextRange range) {
    const std::int64_t one = 1, none = 0, unstated = kUnstated;
    const RuleValue flags = std::string();
    std::vector<RuleValue> defaults;
    RuleKind gives = RuleKind::Integer;
    if (shape.op == Op::MatchCount) defaults = {one, flags};                      // start, flags
    if (shape.op == Op::MatchPosition) defaults = {one, one, none, flags, none};  // start, which, end, flags, group
    if (shape.op == Op::MatchText || shape.op == Op::MatchReplace) gives = RuleKind::Text;
    if (shape.op == Op::MatchText) defaults = {one, one, flags, none};  // start, which, flags, group
    if (shape.op == Op::MatchReplace) {
        defaults = {one, unstated, flags};  // start, which (unstated: by flag g the first or all), flags
        if (children.size() == 4 && !isNumber(kind(children[3]))) {
            const Ref given = std::exchange(children[3], 0);
            for (const std::int64_t value : {one, unstated}) {
                auto filled = constant(value, range);
                if (!filled) return filled;
                (value == one ? children[3] : children.emplace_back()) = *filled;
            }
            children.push_back(given);
        }
    }
    const std::size_t texts = shape.op == Op::MatchReplace ? 3 : 2;
    if (auto filled = fillUp(children, defaults, texts, shape.name, range); !filled) return filled.error();
    return make(shape.op, {gives, 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::substring(const FunctionShape& shape, std::vector<Ref> children,
                                                    TextRange range) {
    const auto isPattern = [&](Ref ref) { return isText(ref) && !integerText(ref); };
    if (children.size() == 2 && isPattern(children[1])) {
        if (auto fit = fitKinds(children, {RuleKind::Text, RuleKind::Text}, shape.name); !fit) return fit.error();
        const std::vector<RuleValue> defaults{std::int64_t{1}, std::int64_t{1}, std::string(), kUnstated};
        if (auto filled = fillUp(children, defaults, 2, shape.name, range); !filled) return filled.error();
        return make(Op::MatchText, {RuleKind::Text, 0}, std::move(children), range);
    }
    if (auto fit = fitAll(children, {RuleKind::Text, RuleKind::Integer, RuleKind::Integer}, shape.name); !fit)
        return fit.error();
    return make(shape.op, {RuleKind::Text, 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::written(std::vector<Ref> children, TextRange range) {
    auto pattern = fitted_(children[1], RuleKind::Text, "TO_CHAR");
    if (!pattern) return pattern;
    children[1] = *pattern;
    const RuleKind of = kind(children[0]);
    Op op = Op::MomentToText;
    Result<Ref> value = children[0];
    if (isNumber(of)) {
        op = Op::NumberToText;
    } else if (of == RuleKind::Date) {
        value = converted(children[0], {RuleKind::Timestamp, 0});
    } else if (of == RuleKind::Time) {
        auto text = converted(children[0], {RuleKind::Text, 0});
        value = text ? make(Op::Cast, {RuleKind::Interval, 0}, {*text}, range) : text;
    } else if (of != RuleKind::Timestamp && of != RuleKind::Instant && of != RuleKind::Interval) {
        return fail(program_.code[children[0]].range,
                    fmt::format("TO_CHAR takes a number, a date or a time; this is {}.", article(of)));
    }
    if (!value) return value;
    children[0] = *value;
    return make(op, {RuleKind::Text, 0}, std::move(children), range);
}

Result<FunctionMaker::Ref> FunctionMaker::moment(const FunctionShape& shape, std::vector<Ref> children,
                                                 TextRange range) {
    using K = RuleKind;
    constexpr std::size_t kParts = 6;
    std::vector<RuleKind> kinds(kParts - 1, K::Integer);
    kinds.push_back(K::Real);
    if (children.size() > kParts) kinds.push_back(K::Text);
    if (auto fit = fitKinds(children, kinds, shape.name); !fit) return fit.error();
    const bool hasZone = children.size() > kParts;
    const Ref zone = children.back();
    children.resize(kParts);
    auto local = make(Op::MakeTimestamp, {K::Timestamp, 0}, std::move(children), range);
    if (!local || !shape.name.ends_with("TZ")) return local;
    return hasZone ? make(Op::AtZone, {K::Instant, 0}, {*local, zone}, range) : converted(*local, {K::Instant, 0});
}

Result<FunctionMaker::Ref> FunctionMaker::readMoment(std::vector<Ref> children, TextRange range) {
    const bool isSeconds = children.size() == 1;
    const std::vector<RuleKind> kinds(children.size(), isSeconds ? RuleKind::Real : RuleKind::Text);
    if (auto fit = fitKinds(children, kinds, "TO_TIMESTAMP"); !fit) return fit.error();
    return make(isSeconds ? Op::EpochToInstant : Op::TextToTimestamp, {RuleKind::Instant, 0}, std::move(children),
                range);
}

Result<FunctionMaker::Ref> FunctionMaker::builtIn(const FunctionShape& shape, std::vector<Ref> children,
                                                  TextRange range) {
    using K = RuleKind;
    const bool mapsCase = shape.op == Op::Upper || shape.op == Op::Lower || shape.op == Op::InitialCapitals;
    if (mapsCase && isCollated(children[0]))
        return fail(range, "Capitals and small letters are the same in every language here: leave COLLATE out.");
    if (shape.gives != K::Null) {
        if (auto fit = fitAll(children, shape.takes, shape.name); !fit) return fit.error();
        return make(shape.op, {shape.gives, shape.gives == K::Decimal ? RuleType::kVaries : 0}, std::move(children),
                    range);
    }
    switch (shape.op) {
        case Op::Greatest:
        case Op::Least: return extreme(shape, std::move(children), range);
        case Op::Substring: return substring(shape, std::move(children), range);
        case Op::MatchCount:
        case Op::MatchPosition:
        case Op::MatchText:
        case Op::MatchReplace: return matching(shape, std::move(children), range);
        case Op::NumberToText: return written(std::move(children), range);
        case Op::TextToTimestamp: return readMoment(std::move(children), range);
        case Op::MakeInterval: {
            const std::int64_t none = 0;
            if (auto filled = fillUp(children, {none, none, none, none, none, none, 0.0}, 0, shape.name, range);
                !filled)
                return filled.error();
            return make(shape.op, {K::Interval, 0}, std::move(children), range);
        }
        case Op::Format: {
            auto pattern = fitted_(children[0], K::Text, shape.name);
            if (!pattern) return pattern;
            children[0] = *pattern;
            return concatenated(shape.op, std::move(children), range);
        }
        case Op::Coalesce: {
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
        case Op::MakeTimestamp: return moment(shape, std::move(children), range);
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
