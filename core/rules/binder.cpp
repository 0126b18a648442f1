// SPDX-License-Identifier: MIT
// One pass over the syntax nodes in order: each becomes an instruction over the instructions of its children, with
// conversions put in between where kinds differ (whole numbers to decimals to doubles, dates to timestamps; a quoted
// text beside another kind is read as that kind). Calls of rule functions are bound in place, their arguments being
// instructions already. Example: `due_on > '2026-01-01'` -> %0 = LOAD due_on, %1 = CONSTANT DATE '2026-01-01', %2 = >.
// Covered by tests/rules/rule_test.cpp.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "core/base/near_name.h"
#include "core/rules/conversion.h"
#include "core/rules/program.h"
#include "core/rules/type_reader.h"
#include "core/rules/window_instructions.h"

namespace jollyrow {
namespace {

constexpr int kMostExpansions = 8;

class Binder final : private WindowInstructions {
  public:
    Binder(const TableSchema& schema, const RuleVocabulary& vocabulary, const BindOptions& options)
        : WindowInstructions(schema, vocabulary), options_(options) {}

    Result<std::shared_ptr<const Program>> run(const Syntax& syntax) {
        auto root = bindTree(syntax, nullptr);
        if (!root) return root.error();
        if (options_.expected) {
            auto fitted = fitted_(*root, *options_.expected);
            if (!fitted) return fitted.error();
            root = *fitted;
        }
        if (options_.isSortKey) {
            root = orderedBy(*root);
            if (!root) return root.error();
        }
        dropUnused(program_, *root);
        return std::make_shared<const Program>(std::move(program_));
    }

  private:
    // ---- the tree
    Result<Ref> bindTree(const Syntax& syntax, const Scope* scope) {
        const Scope* outer = std::exchange(scope_, scope);
        std::vector<Ref> refs(syntax.nodes.size());
        Result<Ref> last = Ref{0};
        for (std::size_t i = 0; i < syntax.nodes.size(); ++i) {
            std::vector<Ref> children;
            for (const std::uint32_t child : syntax.nodes[i].children) children.push_back(refs[child]);
            last = bind(syntax.nodes[i], std::move(children));
            if (!last) break;
            refs[i] = *last;
        }
        scope_ = outer;
        return last;
    }

    Result<Ref> bind(const SyntaxNode& node, std::vector<Ref> children) {
        switch (node.kind) {
            case SyntaxKind::Literal: return constant(node.literal, node.range);
            case SyntaxKind::Column: return column(node);
            case SyntaxKind::Parameter: return parameter(node);
            case SyntaxKind::Operation: return operation(node.op, std::move(children), node.range);
            case SyntaxKind::Call: return call(node, std::move(children));
            case SyntaxKind::Extract: return extract(node, children[0]);
            case SyntaxKind::Cast: return cast(node, children[0]);
            case SyntaxKind::Window: return window(node, children);
            case SyntaxKind::Collate: return collate(node.text, children[0], node.range);
        }
        return fail(node.range, "This cannot be understood.");
    }

    Result<Ref> column(const SyntaxNode& node) {
        if (scope_) {
            for (std::size_t i = 0; i < scope_->function->arguments.size(); ++i)
                if (sameName(scope_->function->arguments[i], node.text)) return scope_->arguments[i];
        }
        const auto field = findField(schema_, node.text, node.quoted);
        if (!field) return unknownColumn(node);
        const FieldSchema& found = schema_.field(*field);
        if (ruleKindOf(found.type) == RuleKind::Null)
            return fail(node.range,
                        fmt::format("{} holds {}, which rules do not read.", node.text, article(found.type)));
        if (std::find(program_.fields.begin(), program_.fields.end(), *field) == program_.fields.end())
            program_.fields.push_back(*field);
        // Spans are kept as texts; lifting reads each distinct one once.
        const bool isSpan = found.type == Type::Interval;
        Instruction instruction{Op::Load, {isSpan ? RuleKind::Text : ruleKindOf(found.type), found.scale}};
        instruction.index = raw(*field);
        instruction.range = node.range;
        auto loaded = add(std::move(instruction));
        return loaded && isSpan ? make(Op::Cast, {RuleKind::Interval, 0}, {*loaded}, node.range) : loaded;
    }
    Error unknownColumn(const SyntaxNode& node) const {
        std::vector<std::string> names;
        for (const FieldSchema& field : schema_.fields) names.push_back(field.name);
        const auto near = nearestName(node.text, names);
        Error error = fail(node.range, fmt::format("There is no column {} in {}.{}", node.text, schema_.name,
                                                   near ? fmt::format(" Did you mean {}?", *near) : ""));
        error.code = ErrorCode::NotFound;
        return error;
    }

    Result<Ref> parameter(const SyntaxNode& node) {
        for (const auto& known : vocabulary_.parameters) {
            if (!sameName(known.name, node.text)) continue;
            auto at = std::find_if(program_.parameters.begin(), program_.parameters.end(),
                                   [&](const auto& p) { return p.name == known.name; });
            if (at == program_.parameters.end()) at = program_.parameters.insert(at, known);
            Instruction instruction{Op::Parameter, {known.kind, RuleType::kVaries}};
            instruction.index = static_cast<std::uint32_t>(at - program_.parameters.begin());
            instruction.range = node.range;
            return add(std::move(instruction));
        }
        std::vector<std::string> names;
        for (const auto& known : vocabulary_.parameters) names.push_back(known.name);
        const auto near = nearestName(node.text, names);
        return fail(node.range, fmt::format("There is no parameter :{}.{}", node.text,
                                            near ? fmt::format(" Did you mean :{}?", *near) : ""));
    }

    Result<Ref> conditions(Op op, std::vector<Ref> children, TextRange range) {
        for (Ref& child : children) {
            auto fit = fitted_(child, RuleKind::Boolean, name(op));
            if (!fit) return fit;
            child = *fit;
        }
        return make(op, {RuleKind::Boolean, 0}, std::move(children), range);
    }

    Result<Ref> operation(Op op, std::vector<Ref> children, TextRange range) {
        switch (op) {
            case Op::And:
            case Op::Or:
            case Op::Not:
            case Op::IsTrue:
            case Op::IsFalse: return conditions(op, std::move(children), range);
            case Op::IsNull: return make(op, {RuleKind::Boolean, 0}, std::move(children), range);
            case Op::Less:
            case Op::LessEqual:
            case Op::Greater:
            case Op::GreaterEqual:
                if (auto placed = makeOrdered(children, range); !placed) return placed.error();
                [[fallthrough]];
            case Op::Equal:
            case Op::NotEqual:
            case Op::Distinct:
            case Op::In: {
                auto common = unified(children, "they cannot be compared");
                if (!common) return common.error();
                return make(op, {RuleKind::Boolean, 0}, std::move(children), range);
            }
            case Op::Case: return choice(std::move(children), range);
            case Op::Add:
            case Op::Subtract:
            case Op::Multiply:
            case Op::Divide:
            case Op::Modulo: return arithmetic(op, children[0], children[1], range);
            case Op::Negate: {
                if (kind(children[0]) == RuleKind::Interval) return make(op, type(children[0]), children, range);
                auto value = number(children[0], "The sign -");
                if (!value) return value;
                return make(op, type(*value), {*value}, range);
            }
            case Op::Concatenate: return concatenation(std::move(children), range);
            case Op::Like:
            case Op::SimilarTo: return ofKind(op, RuleKind::Text, RuleKind::Boolean, std::move(children), range);
            case Op::Matches:
                if (children.size() == 2) {
                    auto flags = constant(std::string(), range);
                    if (!flags) return flags;
                    children.push_back(*flags);
                }
                return ofKind(op, RuleKind::Text, RuleKind::Boolean, std::move(children), range);
            case Op::BitAnd:
            case Op::BitOr:
            case Op::BitExclusiveOr:
            case Op::BitNot:
            case Op::ShiftLeft:
            case Op::ShiftRight: return ofKind(op, RuleKind::Integer, RuleKind::Integer, std::move(children), range);
            case Op::AtZone: return atZone(std::move(children), range);
            case Op::CurrentDate: return make(op, {RuleKind::Date, 0}, {}, range);
            case Op::CurrentTimestamp: return make(op, {RuleKind::Timestamp, 0}, {}, range);
            default: return fail(range, "This cannot be understood.");
        }
    }

    Result<Ref> ofKind(Op op, RuleKind takes, RuleKind gives, std::vector<Ref> children, TextRange range) {
        for (Ref& child : children) {
            auto fit = fitted_(child, takes, op == Op::Matches ? "A regular expression" : name(op));
            if (!fit) return fit;
            child = *fit;
        }
        return make(op, {gives, 0}, std::move(children), range);
    }

    /// A clock's time in that zone as an instant; an instant as what the zone's clocks show. The zone is a name, or how
    /// far its clocks are ahead of UTC.
    Result<Ref> atZone(std::vector<Ref> children, TextRange range) {
        const bool isOffset = kind(children[1]) == RuleKind::Interval;
        auto zone = fitted_(children[1], isOffset ? RuleKind::Interval : RuleKind::Text, "AT TIME ZONE");
        if (!zone) return zone;
        Ref value = children[0];
        if (isPliable(value) || kind(value) == RuleKind::Date) {
            auto instant = converted(value, {RuleKind::Instant, 0});
            if (!instant) return instant;
            value = *instant;
        }
        const RuleKind of = kind(value);
        if (of != RuleKind::Timestamp && of != RuleKind::Instant)
            return fail(program_.code[value].range,
                        fmt::format("AT TIME ZONE takes a date and time; this is {}.", article(of)));
        const Instruction& named = program_.code[*zone];
        const auto* known = named.op == Op::Constant ? std::get_if<std::string>(&named.constant) : nullptr;
        if (known && (known->empty() || !TimeZone::named(*known)))
            return fail(named.range,
                        fmt::format("There is no time zone '{}'. 'Europe/Berlin' and 'UTC' are, and INTERVAL "
                                    "'2 hours' is a zone that is so far ahead of UTC.",
                                    *known));
        const RuleKind gives = of == RuleKind::Timestamp ? RuleKind::Instant : RuleKind::Timestamp;
        return make(Op::AtZone, {gives, 0}, {value, *zone}, range);
    }

    /// As ISO/IEC 9075-2, 8.14: ends stand in any order, one may be missing, a point overlaps what it lies in.
    Result<Ref> overlaps(const SyntaxNode& node, std::vector<Ref> children) {
        static const RuleFunction kOverlaps{
            "OVERLAPS",
            {"a", "b", "c", "d"},
            "CASE WHEN LEAST(a, b) > LEAST(c, d) THEN CASE WHEN c IS NULL OR d IS NULL THEN NULL WHEN LEAST(a, b) < "
            "GREATEST(c, d) THEN TRUE WHEN a IS NULL OR b IS NULL THEN NULL ELSE FALSE END WHEN LEAST(a, b) < LEAST(c, "
            "d) THEN CASE WHEN a IS NULL OR b IS NULL THEN NULL WHEN LEAST(c, d) < GREATEST(a, b) THEN TRUE WHEN c IS "
            "NULL OR d IS NULL THEN NULL ELSE FALSE END WHEN a IS NULL OR b IS NULL OR c IS NULL OR d IS NULL THEN "
            "NULL ELSE TRUE END"};
        for (const std::size_t from : {std::size_t{0}, std::size_t{2}}) {
            if (kind(children[from + 1]) != RuleKind::Interval) continue;
            auto to = arithmetic(Op::Add, children[from], children[from + 1], node.range);
            if (!to) return to;
            children[from + 1] = *to;
        }
        auto common = unified(children, "they are ends of spans of time");
        if (!common) return common.error();
        if (!hasDay(*common) && *common != RuleKind::Time && *common != RuleKind::Null)
            return fail(node.range, fmt::format("OVERLAPS takes dates and times; these are {}.", article(*common)));
        return expand(kOverlaps, node, std::move(children));
    }

    Result<Ref> concatenation(std::vector<Ref> children, TextRange range) {
        if (!isText(children[0]) && !isText(children[1]) && kind(children[0]) != RuleKind::Null &&
            kind(children[1]) != RuleKind::Null)
            return fail(range, fmt::format("|| joins texts; these are {} and {}.", article(kind(children[0])),
                                           article(kind(children[1]))));
        for (Ref& child : children) {
            auto text = converted(child, {RuleKind::Text, 0});
            if (!text) return text;
            child = *text;
        }
        return make(Op::Concatenate, {RuleKind::Text, 0}, std::move(children), range);
    }

    Result<Ref> arithmetic(Op op, Ref left, Ref right, TextRange range) {
        if (kind(left) >= RuleKind::Date || kind(right) >= RuleKind::Date) return calendar(op, left, right, range);
        std::vector<Ref> both{left, right};
        for (Ref& side : both) {
            const RuleKind beside = kind(both[&side == &both[0] ? 1 : 0]);
            if (isPliable(side) && kind(side) == RuleKind::Null && isNumber(beside)) continue;
            // A quoted number is of the kind it stands beside, as in comparisons.
            if (isPliable(side) && isText(side) && isNumber(beside)) {
                auto taken = converted(side, {beside, RuleType::kVaries});
                if (!taken) return taken;
                side = *taken;
                continue;
            }
            auto value = number(side, name(op));
            if (!value) return value;
            side = *value;
        }
        auto common = unified(both, "they do not add up");
        if (!common) return common.error();
        if (op == Op::Modulo && *common == RuleKind::Real)
            return fail(range, "MOD takes whole numbers or decimals; CAST(… AS DECIMAL(p, s)) makes one.");
        RuleType result{*common, 0};
        if (*common == RuleKind::Decimal) {
            const int a = type(both[0]).scale, b = type(both[1]).scale;
            const bool varies = a == RuleType::kVaries || b == RuleType::kVaries || op == Op::Divide;
            result.scale = varies ? RuleType::kVaries : op == Op::Multiply ? a + b : std::max(a, b);
        }
        return make(op, result, std::move(both), range);
    }

    /// Arithmetic with dates, times and spans.
    Result<Ref> calendar(Op op, Ref left, Ref right, TextRange range) {
        const auto adapt = [&](Ref& ref, RuleKind other) -> Result<void> {
            if (!isPliable(ref)) return {};
            const RuleKind wanted = op == Op::Subtract && other != RuleKind::Interval ? other : RuleKind::Interval;
            auto done = converted(ref, {wanted, 0});
            if (!done) return done.error();
            ref = *done;
            return {};
        };
        if (auto done = adapt(left, kind(right)); !done) return done.error();
        if (auto done = adapt(right, kind(left)); !done) return done.error();
        using K = RuleKind;
        // Days counted in whole numbers, as EXTRACT gives them. (PostgreSQL wants the CAST written.)
        for (Ref* days : {&left, &right}) {
            const Ref other = days == &left ? right : left;
            if (kind(*days) != K::Decimal || type(*days).scale != 0 || kind(other) != K::Date) continue;
            auto whole = make(Op::Cast, {K::Integer, 0}, {*days}, program_.code[*days].range);
            if (!whole) return whole;
            *days = *whole;
        }
        const K a = kind(left), b = kind(right);
        const auto is = [&](K x, K y) { return a == x && b == y; };
        const K moment = a == K::Instant || b == K::Instant ? K::Instant : K::Timestamp;
        const auto toMoment = [&](Ref ref) { return converted(ref, {moment, 0}); };
        if (op == Op::Add || op == Op::Subtract) {
            if (is(K::Date, K::Integer)) return make(op, {K::Date, 0}, {left, right}, range);
            if (is(K::Integer, K::Date) && op == Op::Add) return make(op, {K::Date, 0}, {right, left}, range);
            if (is(K::Date, K::Date) && op == Op::Subtract) return make(op, {K::Integer, 0}, {left, right}, range);
            if (b == K::Interval && hasDay(a)) {
                auto start = toMoment(left);
                if (!start) return start;
                return make(op, {moment, 0}, {*start, right}, range);
            }
            if (a == K::Interval && hasDay(b) && op == Op::Add) {
                auto start = toMoment(right);
                if (!start) return start;
                return make(op, {moment, 0}, {*start, left}, range);
            }
            if (hasDay(a) && hasDay(b) && op == Op::Subtract) {
                auto from = toMoment(left);
                if (!from) return from;
                auto to = toMoment(right);
                if (!to) return to;
                return make(op, {K::Interval, 0}, {*from, *to}, range);
            }
            if (is(K::Time, K::Interval)) return make(op, {K::Time, 0}, {left, right}, range);
            if (is(K::Interval, K::Time) && op == Op::Add) return make(op, {K::Time, 0}, {right, left}, range);
            if (is(K::Time, K::Time) && op == Op::Subtract) return make(op, {K::Interval, 0}, {left, right}, range);
            if (is(K::Date, K::Time) && op == Op::Add) return make(op, {K::Timestamp, 0}, {left, right}, range);
            if (is(K::Interval, K::Interval)) return make(op, {K::Interval, 0}, {left, right}, range);
        }
        if (op == Op::Multiply && is(K::Interval, K::Integer)) return make(op, {K::Interval, 0}, {left, right}, range);
        if (op == Op::Multiply && is(K::Integer, K::Interval)) return make(op, {K::Interval, 0}, {right, left}, range);
        if ((op == Op::Multiply || op == Op::Divide) && a == K::Interval && isNumber(b)) {
            auto factor = converted(right, {K::Real, 0});
            return factor ? make(op, {K::Interval, 0}, {left, *factor}, range) : factor;
        }
        if (op == Op::Multiply && isNumber(a) && b == K::Interval) {
            auto factor = converted(left, {K::Real, 0});
            return factor ? make(op, {K::Interval, 0}, {right, *factor}, range) : factor;
        }
        return fail(range, fmt::format("{} does not work between {} and {}.", name(op), article(a), article(b)));
    }

    Result<Ref> extract(const SyntaxNode& node, Ref value) {
        const DatePart part = *datePartFromName(node.text);
        const RuleKind k = kind(value);
        const bool isEpoch = part == DatePart::Epoch;
        const bool ofDay = part < DatePart::Hour && !isEpoch;
        if (k == RuleKind::Null) return fail(node.range, "EXTRACT takes a date or time.");
        if (k == RuleKind::Instant && !isEpoch) {
            auto local = converted(value, {RuleKind::Timestamp, 0});
            return local ? extract(node, *local) : local;
        }
        if (!hasDay(k) && k != RuleKind::Time && k != RuleKind::Interval)
            return fail(program_.code[value].range,
                        fmt::format("EXTRACT takes a date or time; this is {}.", article(k)));
        const bool ofInterval = part <= DatePart::Month || part == DatePart::Day || !ofDay;
        if ((k == RuleKind::Date && !ofDay && !isEpoch) || (k == RuleKind::Time && ofDay) ||
            (k == RuleKind::Interval && !ofInterval))
            return fail(node.range, fmt::format("{} has no {}.", capital(article(k)), name(part)));
        const RuleType result =  // numeric, so that a third of it is one
            RuleType{RuleKind::Decimal, isEpoch && k == RuleKind::Date ? 0 : decimalsOf(part)};
        Instruction instruction{Op::Extract, result};
        instruction.operands = {value};
        instruction.part = part;
        instruction.range = node.range;
        return add(std::move(instruction));
    }

    Result<Ref> cast(const SyntaxNode& node, Ref value) {
        const NamedType* named = namedType(node.text);
        if (!named)
            return fail(node.range, fmt::format("{} is no type here. BOOLEAN, INTEGER, SMALLINT, DECIMAL(p, s), DOUBLE "
                                                "PRECISION, REAL, VARCHAR(n), CHAR(n), TEXT, DATE, TIME, TIMESTAMP, "
                                                "TIMESTAMP WITH TIME ZONE and INTERVAL are.",
                                                node.text));
        if ((node.precision >= 0 && named->numbers == 0) || (node.scale >= 0 && named->numbers < 2))
            return fail(node.range, fmt::format("{} takes no such numbers in brackets.", node.text));
        const RuleKind from = kind(value), to = named->kind;
        if (!canConvert(from, to))
            return fail(node.range, fmt::format("{} cannot be converted to {}.", capital(article(from)), article(to)));
        if (node.quoted && named->bits == 0 && to != RuleKind::Text && node.precision < 0)
            return converted(value, {to, RuleType::kVaries});  // a literal, wrong at once
        Instruction instruction{Op::Cast, {to, 0}};
        instruction.bits = named->bits;
        if (to == RuleKind::Decimal) {
            if (node.precision == 0 || node.precision > 38 || node.scale > std::max(0, node.precision))
                return fail(node.range, "A decimal has 1 to 38 digits, and no more of them behind the point.");
            instruction.precision = node.precision;
            instruction.type.scale = node.precision >= 0         ? std::max(0, node.scale)
                                     : from == RuleKind::Integer ? 0
                                     : from == RuleKind::Decimal ? type(value).scale
                                                                 : RuleType::kVaries;
        }
        if (to == RuleKind::Text && node.precision == 0) return fail(node.range, "A text has at least one character.");
        if (to == RuleKind::Text)
            instruction.precision = named->blankPadded ? std::max(1, node.precision) : node.precision;
        if (from == to && instruction.precision < 0 && instruction.bits == 0) return value;
        instruction.operands = {value};
        instruction.range = node.range;
        auto made = add(std::move(instruction));
        return made && named->blankPadded ? make(Op::TrimTrailing, {RuleKind::Text, 0}, {*made}, node.range) : made;
    }

    // ---- calls
    Result<Ref> call(const SyntaxNode& node, std::vector<Ref> children) {
        for (const RuleFunction& function : vocabulary_.functions)
            if (sameName(function.name, node.text)) return expand(function, node, std::move(children));
        for (const auto& external : vocabulary_.externals)
            if (sameName(external->name, node.text)) return externalCall(external, node, std::move(children));
        if (node.text == "OVERLAPS" && children.size() == 4) return overlaps(node, std::move(children));
        const FunctionShape* shape = findFunction(node.text);
        if (!shape) {
            if (const auto aggregate = aggregateFromName(node.text))
                return fail(node.range, fmt::format("{} looks at many records: write {} to use it for one.", node.text,
                                                    formOf(*aggregate)));
            std::vector<std::string> names;
            for (const FunctionShape& known : FunctionList{}) names.emplace_back(known.name);
            for (const RuleFunction& function : vocabulary_.functions) names.push_back(function.name);
            for (const auto& external : vocabulary_.externals) names.push_back(external->name);
            const auto near = nearestName(node.text, names);
            return fail(node.range, fmt::format("There is no function {}.{}", node.text,
                                                near ? fmt::format(" Did you mean {}?", *near) : ""));
        }
        const int count = static_cast<int>(children.size());
        if (count < shape->least || count > shape->most)
            return fail(node.range, fmt::format("{} is written {}.", shape->name, shape->form));
        if (shape->op == Op::Modulo) return arithmetic(Op::Modulo, children[0], children[1], node.range);
        return builtIn(*shape, std::move(children), node.range);
    }

    Result<Ref> expand(const RuleFunction& function, const SyntaxNode& node, std::vector<Ref> children) {
        if (children.size() != function.arguments.size())
            return fail(node.range, fmt::format("{} takes {} argument{}.", function.name, function.arguments.size(),
                                                function.arguments.size() == 1 ? "" : "s"));
        if (++expansions_ > kMostExpansions) {
            --expansions_;
            return fail(node.range,
                        fmt::format("{} calls itself, or rules call one another too deeply.", function.name));
        }
        const auto syntax = parseRule(function.rule, options_.limits);
        const Scope inner{&function, std::move(children), place(node.range)};
        Result<Ref> bound = syntax ? bindTree(*syntax, &inner)
                                   : Result<Ref>(fail(node.range, fmt::format("The rule of {} is wrong: {}",
                                                                              function.name, syntax.error().message)));
        --expansions_;
        return bound;
    }

    Result<Ref> externalCall(const std::shared_ptr<const ExternalFunction>& external, const SyntaxNode& node,
                             std::vector<Ref> children) {
        if (children.size() != external->arguments.size())
            return fail(node.range, fmt::format("{} takes {} argument{}.", external->name, external->arguments.size(),
                                                external->arguments.size() == 1 ? "" : "s"));
        for (std::size_t i = 0; i < children.size(); ++i) {
            auto fit = fitted_(children[i], external->arguments[i], external->name);
            if (!fit) return fit;
            children[i] = *fit;
        }
        Instruction instruction{Op::External, {external->result, RuleType::kVaries}};
        if (external->result != RuleKind::Decimal) instruction.type.scale = 0;
        instruction.operands = std::move(children);
        instruction.index = static_cast<std::uint32_t>(program_.externals.size());
        instruction.range = node.range;
        program_.externals.push_back(external);
        return add(std::move(instruction));
    }

    const BindOptions& options_;
    int expansions_ = 0;
};

}  // namespace

std::optional<FieldIndex> findField(const TableSchema& schema, std::string_view name, bool quoted) {
    if (const auto exact = schema.find(name)) return exact;
    if (quoted) return std::nullopt;
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        if (sameName(schema.fields[i].name, name)) return static_cast<FieldIndex>(i);
    return std::nullopt;
}

Result<std::shared_ptr<const Program>> bindRule(const Syntax& syntax, const TableSchema& schema,
                                                const RuleVocabulary& vocabulary, const BindOptions& options) {
    return Binder(schema, vocabulary, options).run(syntax);
}

Result<std::shared_ptr<const Program>> compileRule(std::string_view text, const TableSchema& schema,
                                                   const RuleVocabulary& vocabulary, const BindOptions& options) {
    const auto syntax = parseRule(text, options.limits);
    if (!syntax) return syntax.error();
    return bindRule(*syntax, schema, vocabulary, options);
}

}  // namespace jollyrow
