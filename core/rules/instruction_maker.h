// SPDX-License-Identifier: MIT
#pragma once
// What the binder makes instructions with: kinds are met with conversions put in between (whole numbers to decimals to
// doubles, dates to timestamps; a quoted text beside another kind is read as that kind).

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "core/rules/conversion.h"
#include "core/rules/program.h"

namespace jollyrow {

/// What names mean inside a rule function.
struct Scope {
    const RuleFunction* function = nullptr;
    std::vector<std::uint32_t> arguments;
    TextRange callRange;  ///< errors inside point to the call
};

class InstructionMaker {
  protected:
    using Ref = std::uint32_t;  ///< the number of an instruction
    static constexpr std::size_t kMostInstructions = 60000;

    explicit InstructionMaker(const TimeZone& zone) { program_.zone = &zone; }

    // ---- instructions
    const RuleType& type(Ref ref) const { return program_.code[ref].type; }
    RuleKind kind(Ref ref) const { return program_.code[ref].type.kind; }
    Result<Ref> add(Instruction instruction) {
        if (program_.code.size() >= kMostInstructions)
            return Error{ErrorCode::InvalidInput, "This rule is too large.", place(instruction.range)};
        program_.code.push_back(std::move(instruction));
        return static_cast<Ref>(program_.code.size() - 1);
    }
    Result<Ref> make(Op op, RuleType result, std::vector<Ref> operands, TextRange range) {
        Instruction instruction{op, result};
        instruction.operands = std::move(operands);
        instruction.range = range;
        return add(std::move(instruction));
    }
    Result<Ref> constant(const RuleValue& value, TextRange range) {
        Instruction instruction{Op::Constant, {kindOf(value), 0}};
        if (const auto* decimal = std::get_if<WideDecimal>(&value)) instruction.type.scale = decimal->scale;
        instruction.constant = value;
        instruction.range = range;
        return add(std::move(instruction));
    }
    TextRange place(TextRange range) const { return scope_ ? scope_->callRange : range; }
    Error fail(TextRange range, std::string message) const {
        return {ErrorCode::InvalidInput,
                scope_ ? fmt::format("In {}: {}", scope_->function->name, message) : std::move(message), place(range)};
    }
    bool isText(Ref ref) const { return kind(ref) == RuleKind::Text; }
    /// A quoted whole number.
    bool integerText(Ref ref) const {
        const auto* text = program_.code[ref].op == Op::Constant
                               ? std::get_if<std::string>(&program_.code[ref].constant)
                               : nullptr;
        return text && integerFromText(*text).has_value();
    }
    /// A quoted text or NULL, which takes the kind it stands beside.
    bool isPliable(Ref ref) const {
        return kind(ref) == RuleKind::Null || (program_.code[ref].op == Op::Constant && isText(ref));
    }

    Result<Ref> converted(Ref ref, RuleType to) {
        if (kind(ref) == to.kind) return ref;
        const Instruction& from = program_.code[ref];
        if (from.op == Op::Constant) {
            auto value = convertedConstant(from.constant, to.kind, *program_.zone);
            if (!value)
                return fail(from.range, fmt::format("'{}' is not {}.",
                                                    std::holds_alternative<std::string>(from.constant)
                                                        ? std::get<std::string>(from.constant)
                                                        : "This",
                                                    article(to.kind)));
            Instruction constant{Op::Constant, to};
            if (const auto* decimal = std::get_if<WideDecimal>(&*value)) constant.type.scale = decimal->scale;
            constant.constant = std::move(*value);
            constant.range = from.range;
            return add(std::move(constant));
        }
        if (to.kind == RuleKind::Decimal && kind(ref) == RuleKind::Integer) to.scale = 0;
        return make(Op::Cast, to, {ref}, from.range);
    }

    /// For an operand that must be of one kind: pliable ones and smaller numbers become it.
    Result<Ref> fitted_(Ref ref, RuleKind wanted, std::string_view forWhat = {}) {
        const RuleKind have = kind(ref);
        if (have == wanted) return ref;
        const bool widens = (isNumber(wanted) && isNumber(have) && wanted > have) ||
                            (wanted == RuleKind::Timestamp && have == RuleKind::Date) ||
                            (wanted == RuleKind::Instant && hasDay(have));
        if (isPliable(ref) || widens) return converted(ref, {wanted, RuleType::kVaries});
        return fail(program_.code[ref].range,
                    forWhat.empty()
                        ? fmt::format("{} is expected here; this is {}.", capital(article(wanted)), article(have))
                        : fmt::format("{} takes {}; this is {}.", forWhat, article(wanted), article(have)));
    }
    static std::string capital(std::string_view text) {
        std::string out(text);
        if (!out.empty()) out[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(out[0])));
        return out;
    }

    Result<Ref> number(Ref ref, std::string_view forWhat) {
        if (isNumber(kind(ref))) return ref;
        if (isPliable(ref)) return fitted_(ref, RuleKind::Decimal, forWhat);
        return fail(program_.code[ref].range,
                    fmt::format("{} takes a number; this is {}.", forWhat, article(kind(ref))));
    }

    /// Brings all to one kind.
    Result<RuleKind> unified(std::vector<Ref>& refs, std::string_view doing) {
        std::optional<RuleKind> common;
        std::optional<Ref> example;
        bool anyText = false;
        for (const Ref ref : refs) {
            if (isPliable(ref)) {
                anyText = anyText || isText(ref);
                continue;
            }
            const RuleKind k = kind(ref);
            if (!common) {
                common = k;
                example = ref;
            } else if ((isNumber(*common) && isNumber(k)) || (hasDay(*common) && hasDay(k))) {
                common = std::max(*common, k);
            } else if (*common != k) {
                return fail(program_.code[ref].range,
                            fmt::format("This is {} and the other side is {}: {}. CAST(… AS …) converts.", article(k),
                                        article(*common), doing));
            }
        }
        if (!common) common = anyText ? RuleKind::Text : RuleKind::Null;
        for (Ref& ref : refs) {
            auto done = converted(ref, {*common, RuleType::kVaries});
            if (!done) return done.error();
            ref = *done;
        }
        return *common;
    }
    RuleType commonType(RuleKind kind, const std::vector<Ref>& refs) const {
        RuleType out{kind, 0};
        if (kind != RuleKind::Decimal) return out;
        bool first = true;
        for (const Ref ref : refs) {
            const Instruction& from = program_.code[ref];
            if (from.op == Op::Constant && std::holds_alternative<Empty>(from.constant)) continue;
            if (first)
                out.scale = from.type.scale;
            else if (out.scale != from.type.scale)
                out.scale = RuleType::kVaries;
            first = false;
        }
        return out;
    }

    /// Conditions and values by turns, the value otherwise last.
    Result<Ref> choice(std::vector<Ref> children, TextRange range) {
        std::vector<Ref> values;
        for (std::size_t i = 1; i < children.size(); i += 2) values.push_back(children[i]);
        values.push_back(children.back());
        auto common = unified(values, "the values of a CASE must be of one kind");
        if (!common) return common.error();
        for (std::size_t i = 0; i + 1 < children.size(); i += 2) {
            auto condition = fitted_(children[i], RuleKind::Boolean, "WHEN");
            if (!condition) return condition;
            children[i] = *condition;
            children[i + 1] = values[i / 2];
        }
        children.back() = values.back();
        return make(Op::Case, commonType(*common, values), std::move(children), range);
    }

    Program program_;
    const Scope* scope_ = nullptr;
};

}  // namespace jollyrow
