// SPDX-License-Identifier: MIT
// Rule to condition: the tree is walked from the root; AND and OR chains become groups, NOT over an OR group becomes
// "none", and each leaf is compared with the forms below; what is like none of them keeps its text. Example:
// `status <> 'Done' AND LOWER(work) LIKE '%hull%'` -> all of: status is not Done, work contains hull.
// Covered by tests/design/condition_test.cpp: rule -> condition -> rule means the same.
#include "core/design/condition.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "core/design/operators.h"
#include "core/design/plan.h"
#include "core/rules/conversion.h"
#include "core/rules/program.h"
#include "core/rules/syntax.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

constexpr int kMostDepth = 60;

std::string quotedText(std::string_view text) { return constantText(std::string(text)); }

/// % and _ stand for themselves after \.
std::string likeEscaped(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (c == '%' || c == '_' || c == '\\') out += '\\';
        out += c;
    }
    return out;
}

std::string periodRule(const std::string& period, const std::string& day) {
    constexpr std::string_view today = "CURRENT_DATE";
    if (period == "today") return fmt::format("{} = {}", day, today);
    if (period == "yesterday") return fmt::format("{} = {} - 1", day, today);
    if (period == "tomorrow") return fmt::format("{} = {} + 1", day, today);
    const int shift = period.starts_with("last") ? -1 : period.starts_with("next") ? 1 : 0;
    if (period.ends_with("week")) {
        const std::string monday = fmt::format("{} - EXTRACT(ISODOW FROM {})", today, today);
        return fmt::format("{} BETWEEN {} + {} AND {} + {}", day, monday, 1 + 7 * shift, monday, 7 + 7 * shift);
    }
    const std::string unit = period.ends_with("month") ? "MONTH" : "YEAR";
    const std::string moved =
        shift == 0 ? std::string(today) : fmt::format("{} {} INTERVAL '1' {}", today, shift < 0 ? '-' : '+', unit);
    std::string year = fmt::format("EXTRACT(YEAR FROM {}) = EXTRACT(YEAR FROM {})", day, moved);
    if (unit == "YEAR") return year;
    return fmt::format("{} AND EXTRACT(MONTH FROM {}) = EXTRACT(MONTH FROM {})", year, day, moved);
}

std::string valueInRule(const std::string& value, Type type, const TimeZone& zone) {
    const auto kind = ruleKindOf(type);
    const auto converted = convertedConstant(RuleValue(value), kind, zone);
    if (converted && kind == RuleKind::Instant && std::holds_alternative<Instant>(*converted))
        return "TIMESTAMP WITH TIME ZONE " + quotedText(textOfInstant(std::get<Instant>(*converted).micros, zone));
    if (!converted || kind == RuleKind::Text || kind == RuleKind::Null) return quotedText(value);
    return constantText(*converted);
}

class Reader {
  public:
    Reader(const std::string& text, const Syntax& syntax, const TableSchema& schema, const Design& design)
        : text_(text), syntax_(syntax), schema_(schema), design_(design) {}

    Condition read(std::uint32_t at, int depth) const {
        if (depth > kMostDepth) return asRule(at);
        const SyntaxNode& node = syntax_.nodes[at];
        if (auto leaf = test(at)) return *leaf;
        if (node.kind == SyntaxKind::Operation && (node.op == Op::And || node.op == Op::Or)) {
            Condition group;
            group.kind = node.op == Op::And ? ConditionKind::All : ConditionKind::Any;
            // A chain of the same operator is one group; it leans to the left.
            std::vector<std::uint32_t> parts;
            std::uint32_t left = at;
            while (syntax_.nodes[left].kind == SyntaxKind::Operation && syntax_.nodes[left].op == node.op &&
                   !test(left)) {
                parts.push_back(syntax_.nodes[left].children[1]);
                left = syntax_.nodes[left].children[0];
            }
            parts.push_back(left);
            std::reverse(parts.begin(), parts.end());
            for (const std::uint32_t part : parts) group.children.push_back(read(part, depth + 1));
            return group;
        }
        if (node.kind == SyntaxKind::Operation && node.op == Op::Not) {
            Condition inner = read(node.children[0], depth + 1);
            if (inner.kind == ConditionKind::Test && inner.test == Test::IsTrue) {
                inner.test = Test::IsFalse;
                return inner;
            }
            if (inner.kind == ConditionKind::Test && !inner.negated) {
                inner.negated = true;
                return inner;
            }
            if (inner.kind == ConditionKind::Any) {
                inner.kind = ConditionKind::None;
                return inner;
            }
            Condition none;
            none.kind = ConditionKind::None;
            none.children.push_back(std::move(inner));
            return none;
        }
        return asRule(at);
    }

  private:
    Condition asRule(std::uint32_t at) const {
        const TextRange range = syntax_.nodes[at].range;
        Condition out;
        out.kind = ConditionKind::Rule;
        out.rule = text_.substr(std::min(range.offset, text_.size()), range.length);
        return out;
    }
    const SyntaxNode& node(std::uint32_t at) const { return syntax_.nodes[at]; }
    std::optional<FieldIndex> fieldAt(std::uint32_t at) const {
        const SyntaxNode& n = node(at);
        if (n.kind != SyntaxKind::Column) return std::nullopt;
        return findField(schema_, n.text, n.quoted);
    }
    std::optional<std::string> plain(const RuleValue& value) const {
        if (std::holds_alternative<Empty>(value)) return std::nullopt;
        return localTextOf(value, zoneOf(schema_));
    }
    /// Literals, and negative numbers.
    std::optional<std::string> valueAt(std::uint32_t at) const {
        const SyntaxNode& n = node(at);
        if (n.kind == SyntaxKind::Literal) return plain(n.literal);
        // How a double is written, and a time of the zone's clocks.
        if (n.kind == SyntaxKind::Cast && (n.text == "DOUBLE PRECISION" || n.text == "TIMESTAMP WITH TIME ZONE") &&
            node(n.children[0]).kind == SyntaxKind::Literal)
            return plain(node(n.children[0]).literal);
        if (n.kind == SyntaxKind::Operation && n.op == Op::Negate && node(n.children[0]).kind == SyntaxKind::Literal)
            if (const auto inner = plain(node(n.children[0]).literal); inner && !inner->starts_with('-'))
                return "-" + *inner;
        return std::nullopt;
    }
    std::string name(FieldIndex field) const { return schema_.field(field).name; }

    std::optional<Condition> test(std::uint32_t at) const {
        const SyntaxNode& n = node(at);
        if (const auto field = fieldAt(at); field && schema_.field(*field).type == Type::Boolean)
            return Condition::of(Test::IsTrue, name(*field));
        if (n.kind == SyntaxKind::Call) return operatorCall(n);
        if (auto period = periodTest(at)) return period;
        if (n.kind != SyntaxKind::Operation) return std::nullopt;
        static constexpr std::array<std::pair<Op, Test>, 6> kSigns = {{{Op::Equal, Test::Equal},
                                                                       {Op::NotEqual, Test::NotEqual},
                                                                       {Op::Less, Test::Less},
                                                                       {Op::LessEqual, Test::LessEqual},
                                                                       {Op::Greater, Test::Greater},
                                                                       {Op::GreaterEqual, Test::GreaterEqual}}};
        for (const auto& [op, sign] : kSigns) {
            if (n.op != op) continue;
            const auto field = fieldAt(n.children[0]);
            if (!field) return std::nullopt;
            if (const auto value = valueAt(n.children[1])) return Condition::of(sign, name(*field), {*value});
            if (const auto other = fieldAt(n.children[1])) {
                Condition out = Condition::of(sign, name(*field), {name(*other)});
                out.toField = true;
                return out;
            }
            return std::nullopt;
        }
        if (n.op == Op::IsNull)
            if (const auto field = fieldAt(n.children[0])) return Condition::of(Test::IsEmpty, name(*field));
        if (n.op == Op::And) return between(n);
        if (n.op == Op::In) return oneOf(n);
        if (n.op == Op::Like && n.children.size() == 2) return like(n);
        return std::nullopt;
    }

    std::optional<Condition> between(const SyntaxNode& n) const {
        const SyntaxNode &low = node(n.children[0]), &high = node(n.children[1]);
        const bool shape = low.kind == SyntaxKind::Operation && high.kind == SyntaxKind::Operation &&
                           low.op == Op::GreaterEqual && high.op == Op::LessEqual &&
                           low.children[0] == high.children[0];
        if (!shape) return std::nullopt;
        const auto field = fieldAt(low.children[0]);
        const auto from = valueAt(low.children[1]), to = valueAt(high.children[1]);
        if (!field || !from || !to) return std::nullopt;
        return Condition::of(Test::Between, name(*field), {*from, *to});
    }

    std::optional<Condition> oneOf(const SyntaxNode& n) const {
        const auto field = fieldAt(n.children[0]);
        if (!field) return std::nullopt;
        Condition out = Condition::of(Test::OneOf, name(*field));
        for (std::size_t i = 1; i < n.children.size(); ++i) {
            const auto value = valueAt(n.children[i]);
            if (!value) return std::nullopt;
            out.values.push_back(*value);
        }
        return out;
    }

    std::optional<Condition> like(const SyntaxNode& n) const {
        const SyntaxNode& left = node(n.children[0]);
        if (left.kind != SyntaxKind::Call || left.text != "LOWER" || left.children.size() != 1) return std::nullopt;
        const auto field = fieldAt(left.children[0]);
        const SyntaxNode& right = node(n.children[1]);
        const bool folded = right.kind == SyntaxKind::Call && right.text == "LOWER" && right.children.size() == 1;
        const auto pattern = valueAt(folded ? right.children[0] : n.children[1]);
        if (!field || !pattern) return std::nullopt;
        std::string text;
        bool start = false, end = false;
        for (std::size_t i = 0; i < pattern->size(); ++i) {
            const char c = (*pattern)[i];
            if (c == '_') return std::nullopt;
            if (c == '%') {
                if (i == 0)
                    start = true;
                else if (i + 1 == pattern->size())
                    end = true;
                else
                    return std::nullopt;
                continue;
            }
            if (c == '\\' && ++i == pattern->size()) return std::nullopt;
            text += (*pattern)[i];
        }
        const Test test = start && end ? Test::Contains : start ? Test::EndsWith : end ? Test::StartsWith : Test::Is;
        return Condition::of(test, name(*field), {text});
    }

    std::optional<Condition> operatorCall(const SyntaxNode& n) const {
        std::string lower = n.text;
        std::transform(lower.begin(), lower.end(), lower.begin(),
                       [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
        const OperatorDesign* known = findOperator(design_, lower);
        if (!known || n.children.size() != known->arguments.size() + 1) return std::nullopt;
        const auto field = fieldAt(n.children[0]);
        if (!field) return std::nullopt;
        Condition out = Condition::of(Test::Operator, name(*field));
        out.name = known->name;
        for (std::size_t i = 1; i < n.children.size(); ++i) {
            const auto value = valueAt(n.children[i]);
            if (!value) return std::nullopt;
            out.values.push_back(*value);
        }
        return out;
    }

    /// The trees of the periods' own rules, compared as they are written out.
    std::optional<Condition> periodTest(std::uint32_t at) const {
        const SyntaxNode& n = node(at);
        if (n.kind != SyntaxKind::Operation || (n.op != Op::Equal && n.op != Op::And)) return std::nullopt;
        const std::string own = text_.substr(std::min(n.range.offset, text_.size()), n.range.length);
        if (own.find("CURRENT_DATE") == std::string::npos) return std::nullopt;
        for (const std::string& named : columnsNamed(own)) {
            const auto field = schema_.find(named);
            if (!field) continue;
            const std::string day = dayOf(*field);
            for (const std::string& period : periodNames())
                if (periodRule(period, day) == own) return Condition::of(Test::Period, name(*field), {period});
        }
        return std::nullopt;
    }

  public:
    std::string dayOf(FieldIndex field) const {
        const std::string written = fieldInRule(schema_.field(field).name);
        return isMoment(schema_.field(field).type) ? fmt::format("CAST({} AS DATE)", written) : written;
    }

  private:
    const std::string& text_;
    const Syntax& syntax_;
    const TableSchema& schema_;
    const Design& design_;
};

std::string testRule(const Condition& c, const TableSchema& schema) {
    std::string field = fieldInRule(c.field);
    const auto known = schema.find(c.field);
    const Type type = known ? schema.field(*known).type : Type::Text;
    const auto value = [&](std::size_t i) {
        const std::string text = i < c.values.size() ? c.values[i] : std::string();
        return c.toField ? fieldInRule(text) : valueInRule(text, type, zoneOf(schema));
    };
    const std::string value0 = c.values.empty() ? std::string() : c.values[0];
    const auto pattern = [&](std::string_view before, std::string_view after) {
        // The text keeps the case it was typed in, for reading; it is folded where it is compared.
        const std::string text = quotedText(fmt::format("{}{}{}", before, likeEscaped(value0), after));
        return lowered(value0) == value0 ? fmt::format("LOWER({}) LIKE {}", field, text)
                                         : fmt::format("LOWER({}) LIKE LOWER({})", field, text);
    };
    switch (c.test) {
        case Test::Equal: return fmt::format("{} = {}", field, value(0));
        case Test::NotEqual: return fmt::format("{} <> {}", field, value(0));
        case Test::Less: return fmt::format("{} < {}", field, value(0));
        case Test::LessEqual: return fmt::format("{} <= {}", field, value(0));
        case Test::Greater: return fmt::format("{} > {}", field, value(0));
        case Test::GreaterEqual: return fmt::format("{} >= {}", field, value(0));
        case Test::Between: return fmt::format("{} BETWEEN {} AND {}", field, value(0), value(1));
        case Test::OneOf: {
            if (c.values.empty()) return "FALSE";
            std::string list;
            for (std::size_t i = 0; i < c.values.size(); ++i) list.append(i == 0 ? "" : ", ").append(value(i));
            return fmt::format("{} IN ({})", field, list);
        }
        case Test::Contains: return pattern("%", "%");
        case Test::StartsWith: return pattern("", "%");
        case Test::EndsWith: return pattern("%", "");
        case Test::Is: return pattern("", "");
        case Test::IsEmpty: return fmt::format("{} IS NULL", field);
        case Test::IsTrue: return field;
        case Test::IsFalse: return fmt::format("NOT {}", field);
        case Test::Period: {
            const std::string day = isMoment(type) ? fmt::format("CAST({} AS DATE)", field) : field;
            return periodRule(c.values.empty() ? std::string("today") : c.values[0], day);
        }
        case Test::Operator: {
            std::string call = fmt::format("{}({}", c.name, field);
            for (const std::string& argument : c.values) {
                const bool number = parseWideDecimal(argument).has_value();
                const auto date = dateFromText(argument);
                call += ", " + (number ? argument : date ? "DATE " + quotedText(argument) : quotedText(argument));
            }
            return call + ")";
        }
    }
    return "TRUE";
}

std::string bracketed(const Condition& c, const TableSchema& schema) {
    const std::string rule = ruleOf(c, schema);
    const bool single = c.kind == ConditionKind::Test && !(c.test == Test::Period && !c.negated);
    return single || rule.empty() ? rule : "(" + rule + ")";
}

std::string shownValue(const std::string& value, const std::string& field, const TableSchema& schema,
                       const Design& design) {
    const auto known = schema.find(field);
    if (!known) return value;
    const FieldSchema& at = schema.field(*known);
    const auto converted = convertedConstant(RuleValue(value), ruleKindOf(at.type), zoneOf(schema));
    if (!converted || ruleKindOf(at.type) == RuleKind::Text) return value;
    const ColumnDesign* column = design.column(field);
    const TextFormat format = column ? textFormatOf(design, *column, at) : defaultFormat(at, false);
    if (const auto formatter = formatterFor(format, schema, design); formatter && !(*formatter)->isMessage()) {
        std::string out;
        (*formatter)->append(out, plainValue(*converted));
        return out;
    }
    return value;
}

}  // namespace

const std::vector<std::string>& periodNames() {
    static const std::vector<std::string> kNames = {"today",      "yesterday", "tomorrow",   "this week",
                                                    "last week",  "next week", "this month", "last month",
                                                    "next month", "this year", "last year",  "next year"};
    return kNames;
}

std::string fieldInRule(std::string_view field) {
    // What reads back as the same column needs no quotes.
    const auto asItIs = parseRule(field);
    if (asItIs && asItIs->nodes.size() == 1 && asItIs->root().kind == SyntaxKind::Column &&
        asItIs->root().text == field)
        return std::string(field);
    std::string out = "\"";
    for (const char c : field) {
        if (c == '"') out += c;
        if (c == '.')
            out += "\".\"";
        else
            out += c;
    }
    return out + "\"";
}

std::string testedField(const Design& design, const TableSchema& schema, const std::string& field) {
    const auto link = foreignKeyOf(schema, field);
    if (!link) return field;
    const ColumnDesign* column = design.column(field);
    const std::string& label = column && !column->label.empty() ? column->label : schema.foreignKeys[*link].label;
    const std::string path = field + "." + label;
    return !label.empty() && schema.find(path) ? path : field;
}

Condition conditionFrom(const std::string& rule, const TableSchema& schema, const Design& design) {
    const auto syntax = parseRule(rule);
    if (!syntax) {
        Condition out;
        out.kind = ConditionKind::Rule;
        out.rule = rule;
        return out;
    }
    return Reader(rule, *syntax, schema, design).read(static_cast<std::uint32_t>(syntax->nodes.size() - 1), 0);
}

std::string ruleOf(const Condition& c, const TableSchema& schema) {
    switch (c.kind) {
        case ConditionKind::Rule: return c.rule;
        case ConditionKind::Test: {
            std::string rule = testRule(c, schema);
            if (!c.negated) return rule;
            if (c.test == Test::IsEmpty) return fieldInRule(c.field) + " IS NOT NULL";
            if (c.test == Test::IsTrue) return "NOT " + rule;
            return "NOT (" + rule + ")";
        }
        case ConditionKind::All:
        case ConditionKind::Any:
        case ConditionKind::None: break;
    }
    std::string out;
    std::size_t parts = 0;
    for (const Condition& child : c.children) {
        const std::string rule = bracketed(child, schema);
        if (rule.empty()) continue;
        if (parts++ != 0) out += c.kind == ConditionKind::All ? " AND " : " OR ";
        out += rule;
    }
    if (parts == 0) return {};
    if (c.kind == ConditionKind::None && parts == 1 && out.front() == '(') return "NOT " + out;
    return c.kind == ConditionKind::None ? "NOT (" + out + ")" : out;
}

namespace {

std::string sentenceOfSeveral(const Condition& c, const TableSchema& schema, const Design& design) {
    if (c.children.empty()) return "everything";
    std::string list;
    for (std::size_t i = 0; i < c.children.size(); ++i) {
        const Condition& child = c.children[i];
        const bool group = child.kind != ConditionKind::Test && child.kind != ConditionKind::Rule;
        const std::string words = sentenceOf(child, schema, design);
        if (i != 0) list += i + 1 == c.children.size() ? (c.kind == ConditionKind::All ? " and " : " or ") : ", ";
        list += group ? "(" + words + ")" : words;
    }
    return c.kind == ConditionKind::None ? "none of: " + list : list;
}

std::string sentenceOfOperator(const Condition& c, const TableSchema& schema, const Design& design) {
    const OperatorDesign* op = findOperator(design, c.name);
    std::string title = op ? op->title : c.name;
    if (c.negated && title.starts_with("is "))
        title = "is not " + title.substr(3);
    else if (c.negated)
        title = "not: " + title;
    std::string out = fmt::format("{} {}", design.headingOf(c.field), title);
    for (const std::string& argument : c.values) {
        const auto date = dateFromText(argument);
        out += " " + (date && !c.field.empty() ? shownValue(argument, c.field, schema, design) : argument);
    }
    return out;
}

}  // namespace

std::string sentenceOf(const Condition& c, const TableSchema& schema, const Design& design) {
    if (c.kind == ConditionKind::Rule) return c.rule;
    if (c.kind != ConditionKind::Test) return sentenceOfSeveral(c, schema, design);
    const std::string heading = design.headingOf(c.field);
    const auto value = [&](std::size_t i) {
        const std::string text = i < c.values.size() ? c.values[i] : std::string();
        return c.toField ? design.headingOf(text) : shownValue(text, c.field, schema, design);
    };
    const auto known = schema.find(c.field);
    const bool isDay = known && hasDay(schema.field(*known).type);
    const std::string is = c.negated ? "is not" : "is";
    switch (c.test) {
        case Test::Equal:
        case Test::Is: return fmt::format("{} {} {}", heading, is, value(0));
        case Test::NotEqual: return fmt::format("{} is not {}", heading, value(0));
        case Test::Less: return fmt::format("{} {} {} {}", heading, is, isDay ? "before" : "under", value(0));
        case Test::LessEqual: return fmt::format("{} {} {} {}", heading, is, isDay ? "until" : "at most", value(0));
        case Test::Greater: return fmt::format("{} {} {} {}", heading, is, isDay ? "after" : "over", value(0));
        case Test::GreaterEqual: return fmt::format("{} {} {} {}", heading, is, isDay ? "from" : "at least", value(0));
        case Test::Between: return fmt::format("{} {} from {} to {}", heading, is, value(0), value(1));
        case Test::OneOf: {
            constexpr std::size_t kShown = 3;
            std::string list;
            for (std::size_t i = 0; i < std::min(c.values.size(), kShown); ++i) {
                const bool last = i + 1 == c.values.size();
                list.append(i == 0 ? "" : last ? " or " : ", ").append(value(i));
            }
            if (c.values.size() > kShown) list += fmt::format(" or {} more", c.values.size() - kShown);
            return fmt::format("{} {} {}", heading, is, c.values.empty() ? "nothing at all" : list);
        }
        case Test::Contains:
            return fmt::format("{} {} {}", heading, c.negated ? "does not contain" : "contains", value(0));
        case Test::StartsWith:
            return fmt::format("{} {} {}", heading, c.negated ? "does not begin with" : "begins with", value(0));
        case Test::EndsWith:
            return fmt::format("{} {} {}", heading, c.negated ? "does not end with" : "ends with", value(0));
        case Test::IsEmpty: return fmt::format("{} {} empty", heading, is);
        case Test::IsTrue: return fmt::format("{}: {}", heading, c.negated ? "no" : "yes");
        case Test::IsFalse: return fmt::format("{}: {}", heading, c.negated ? "yes" : "no");
        case Test::Period: {
            const std::string& period = c.values.empty() ? periodNames().front() : c.values[0];
            return fmt::format("{} {} {}", heading, is, period);
        }
        case Test::Operator: return sentenceOfOperator(c, schema, design);
    }
    return {};
}

}  // namespace jollyrow
