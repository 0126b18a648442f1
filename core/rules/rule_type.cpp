// SPDX-License-Identifier: MIT
#include "core/rules/rule_type.h"

namespace jollyrow {

std::string_view name(RuleKind kind) {
    switch (kind) {
        case RuleKind::Null: return "null";
        case RuleKind::Boolean: return "boolean";
        case RuleKind::Integer: return "integer";
        case RuleKind::Decimal: return "decimal";
        case RuleKind::Real: return "double precision";
        case RuleKind::Text: return "text";
        case RuleKind::Date: return "date";
        case RuleKind::Time: return "time";
        case RuleKind::Timestamp: return "timestamp";
        case RuleKind::Instant: return "timestamp with time zone";
        case RuleKind::Interval: return "interval";
    }
    return {};
}

std::string_view article(RuleKind kind) {
    switch (kind) {
        case RuleKind::Null: return "an empty value";
        case RuleKind::Boolean: return "yes or no";
        case RuleKind::Integer: return "a whole number";
        case RuleKind::Decimal: return "an exact decimal";
        case RuleKind::Real: return "a number";
        case RuleKind::Text: return "a text";
        case RuleKind::Date: return "a date";
        case RuleKind::Time: return "a time";
        case RuleKind::Timestamp: return "a date and time";
        case RuleKind::Instant: return "a date and time with its zone";
        case RuleKind::Interval: return "a span of time";
    }
    return {};
}

RuleKind ruleKindOf(Type type) {
    switch (type) {
        case Type::Boolean: return RuleKind::Boolean;
        case Type::Integer: return RuleKind::Integer;
        case Type::Decimal: return RuleKind::Decimal;
        case Type::Real: return RuleKind::Real;
        case Type::Text: return RuleKind::Text;
        case Type::Date: return RuleKind::Date;
        case Type::Time: return RuleKind::Time;
        case Type::Timestamp: return RuleKind::Timestamp;
        case Type::Instant: return RuleKind::Instant;
        case Type::Interval: return RuleKind::Interval;
        case Type::Binary:
        case Type::NumberList: return RuleKind::Null;
    }
    return RuleKind::Null;
}

Type columnTypeOf(RuleKind kind) {
    switch (kind) {
        case RuleKind::Boolean: return Type::Boolean;
        case RuleKind::Integer: return Type::Integer;
        case RuleKind::Decimal: return Type::Decimal;
        case RuleKind::Real: return Type::Real;
        case RuleKind::Date: return Type::Date;
        case RuleKind::Time: return Type::Time;
        case RuleKind::Timestamp: return Type::Timestamp;
        case RuleKind::Instant: return Type::Instant;
        case RuleKind::Null:
        case RuleKind::Text:
        case RuleKind::Interval: return Type::Text;
    }
    return Type::Text;
}

RuleKind kindOf(const RuleValue& value) {
    constexpr RuleKind kKinds[] = {RuleKind::Null,      RuleKind::Boolean, RuleKind::Integer, RuleKind::Decimal,
                                   RuleKind::Real,      RuleKind::Text,    RuleKind::Date,    RuleKind::Time,
                                   RuleKind::Timestamp, RuleKind::Instant, RuleKind::Interval};
    return kKinds[value.index()];
}

RuleValue ruleValue(const Value& value) {
    struct Convert {
        RuleValue operator()(Empty) const { return Empty{}; }
        RuleValue operator()(bool v) const { return v; }
        RuleValue operator()(std::int64_t v) const { return v; }
        RuleValue operator()(const Decimal& v) const { return WideDecimal{v.mantissa, v.scale}; }
        RuleValue operator()(double v) const { return v; }
        RuleValue operator()(const std::string& v) const { return v; }
        RuleValue operator()(Date v) const { return v; }
        RuleValue operator()(Time v) const { return v; }
        RuleValue operator()(Timestamp v) const { return v; }
        RuleValue operator()(Instant v) const { return v; }
        RuleValue operator()(const Bytes&) const { return Empty{}; }
        RuleValue operator()(const WideDecimal& v) const { return v; }
        RuleValue operator()(const Unread&) const { return Empty{}; }
        RuleValue operator()(const Unfit&) const { return Empty{}; }
    };
    return std::visit(Convert{}, value);
}

Value plainValue(const RuleValue& value) {
    struct Convert {
        Value operator()(Empty) const { return Empty{}; }
        Value operator()(bool v) const { return v; }
        Value operator()(std::int64_t v) const { return v; }
        Value operator()(const WideDecimal& v) const { return narrowest(v); }
        Value operator()(double v) const { return v; }
        Value operator()(const std::string& v) const { return v; }
        Value operator()(Date v) const { return v; }
        Value operator()(Time v) const { return v; }
        Value operator()(Timestamp v) const { return v; }
        Value operator()(Instant v) const { return v; }
        Value operator()(const Interval& v) const { return toString(v); }
    };
    return std::visit(Convert{}, value);
}

std::string_view words(CellState state) {
    switch (state) {
        case CellState::Filled: return "";
        case CellState::Empty: return "empty";
        case CellState::DivisionByZero: return "division by zero";
        case CellState::TooLarge: return "the result is too large";
        case CellState::NotConvertible: return "the text is not a value of that type";
        case CellState::NoSuchDate: return "there is no such date or time";
        case CellState::NegativeLength: return "a length is negative";
        case CellState::NotDefined: return "not defined for this number";
        case CellState::BadPattern: return "the pattern or its escape character makes no sense";
        case CellState::TextTooLong: return "the text is longer than 16 MB, or the texts take too much memory together";
        case CellState::FunctionFailed: return "a function of the application failed";
        case CellState::PatternTooSlow: return "the pattern takes too long over this text";
        case CellState::Misfit: return "what is stored does not fit the column";
    }
    return {};
}

}  // namespace jollyrow
