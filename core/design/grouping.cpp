// SPDX-License-Identifier: MIT
// Idea: every way to group is a rule, every figure a rule with aggregates, so that grid, command line and later a
// server compute the same. Covered by tests/design/grouping_test.cpp.
#include "core/design/grouping.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/design/condition.h"
#include "core/design/make_design.h"
#include "core/design/plan.h"
#include "core/rules/conversion.h"
#include "core/rules/sort_list.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostCuts = 200;

Error unsuited(const GroupDesign& group, std::string_view kind) {
    return {ErrorCode::Unsupported,
            fmt::format("{} cannot be grouped by {}: it holds {}.",
                        group.key.field.empty() ? group.key.rule : group.key.field, words(group.by), kind)};
}

/// A cut point as a constant of the language.
Result<std::string> cutText(const std::string& cut, RuleKind kind, const TimeZone& zone) {
    const RuleKind read = kind == RuleKind::Integer || kind == RuleKind::Real ? RuleKind::Decimal : kind;
    const auto value = convertedConstant(RuleValue(cut), read, zone);
    if (!value || std::holds_alternative<Empty>(*value))
        return Error{ErrorCode::InvalidInput, fmt::format("The cut point \"{}\" is not {}.", cut, article(kind))};
    return constantText(*value);
}

Result<std::string> rangesRule(const GroupDesign& group, const std::string& value, RuleKind kind,
                               const TimeZone& zone) {
    if (!isNumber(kind) && !hasDay(kind) && kind != RuleKind::Time) return unsuited(group, article(kind));
    if (group.cuts.empty()) return Error{ErrorCode::InvalidInput, "Ranges need cut points, such as 0, 250, 500."};
    if (group.cuts.size() > kMostCuts)
        return Error{ErrorCode::InvalidInput,
                     fmt::format("{} cut points are too many; {} are the most.", group.cuts.size(), kMostCuts)};
    const RuleKind read = isNumber(kind) ? RuleKind::Decimal : kind;
    std::string rule = fmt::format("CASE WHEN {} IS NULL THEN NULL", value);
    for (std::size_t i = 0; i < group.cuts.size(); ++i) {
        const auto text = cutText(group.cuts[i], kind, zone);
        if (!text) return text.error();
        if (i > 0 && compareValues(*convertedConstant(RuleValue(group.cuts[i - 1]), read, zone),
                                   *convertedConstant(RuleValue(group.cuts[i]), read, zone)) >= 0)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("Cut points rise: {} does not stand after {}.", group.cuts[i], group.cuts[i - 1])};
        rule += fmt::format(" WHEN {} < {} THEN {}", value, *text, i);
    }
    return rule + fmt::format(" ELSE {} END", group.cuts.size());
}

Result<RuleKind> kindOfKey(const GroupDesign& group, const TableSchema& schema, const RuleVocabulary& vocabulary) {
    if (!group.key.rule.empty()) {
        auto program = compileRule(group.key.rule, schema, vocabulary);
        if (!program) return program.error();
        const auto syntax = parseRule(group.key.rule);
        if (auto collated = syntax ? whyNoGroups(*syntax) : std::nullopt) return *collated;
        return (*program)->type().kind;
    }
    const auto field = schema.find(group.key.field);
    if (!field) return Error{ErrorCode::NotFound, fmt::format("{} has no column {}.", schema.name, group.key.field)};
    const Type type = schema.field(*field).type;
    if (type == Type::Binary || type == Type::NumberList)
        return Error{ErrorCode::Unsupported,
                     fmt::format("{} holds {}, which makes no groups; a rule over other columns can.", group.key.field,
                                 article(type))};
    return ruleKindOf(type);
}

bool countsOnly(SummaryShow show) {
    return show == SummaryShow::Count || show == SummaryShow::Filled || show == SummaryShow::Blank ||
           show == SummaryShow::Distinct;
}

/// Figures that are values of the column, and so are written like them.
bool keepsFormat(SummaryShow show) {
    return show == SummaryShow::Sum || show == SummaryShow::Minimum || show == SummaryShow::Maximum ||
           show == SummaryShow::First || show == SummaryShow::Last;
}

TextFormat figureFormat(const Design& design, const SummaryDesign& summary, const TableSchema& schema,
                        const RuleType& type) {
    TextFormat format;
    const auto field = schema.find(fieldOf(summary));
    const ColumnDesign* column = design.column(fieldOf(summary));
    if (summary.as == SummaryAs::ShareOfParent || summary.as == SummaryAs::ShareOfAll) {
        format.type = Type::Decimal;
        format.scale = 3;
        format.spec.style = FormatStyle::Pattern;
        format.spec.pattern = "0.0 %";
    } else if (countsOnly(summary.show)) {
        format.type = Type::Integer;
    } else if (field && summary.show != SummaryShow::Rule) {
        const FieldSchema& of = schema.field(*field);
        format = defaultFormat(of, false);
        format.grouped = true;
        if (column && column->format.style != FormatStyle::Message && column->format.style != FormatStyle::Words &&
            (keepsFormat(summary.show) || (isNumber(of.type) && summary.show != SummaryShow::Variance &&
                                           summary.show != SummaryShow::VariancePopulation)))
            format.spec = column->format;
        if (!keepsFormat(summary.show) && isNumber(of.type) && of.type != Type::Real) {
            format.type = Type::Decimal;
            format.scale = of.type == Type::Integer && summary.show != SummaryShow::Range ? 1 : of.scale;
        }
        if (summary.show == SummaryShow::Range && !isNumber(of.type)) format = TextFormat{Type::Integer};
    } else {
        format.type = columnTypeOf(type.kind);
        format.scale = type.scale == RuleType::kVaries ? 2 : type.scale;
    }
    // Without a style of its own it is written as its column; what stands around it is its own.
    if (summary.format.style != FormatStyle::Automatic) {
        format.spec = summary.format;
    } else {
        if (!summary.format.prefix.empty()) format.spec.prefix = summary.format.prefix;
        if (!summary.format.suffix.empty()) format.spec.suffix = summary.format.suffix;
    }
    format.spec.empty = summary.format.empty;
    format.locale = design.locale;
    return format;
}

}  // namespace

Result<std::string> groupRuleOf(const GroupDesign& group, const TableSchema& schema, const RuleVocabulary& vocabulary) {
    const auto kind = kindOfKey(group, schema, vocabulary);
    if (!kind) return kind.error();
    const std::string value = group.key.rule.empty() ? fieldInRule(group.key.field) : "(" + group.key.rule + ")";
    if (group.by == GroupBy::EachValue) return group.key.rule;
    if (group.by == GroupBy::Ranges) return rangesRule(group, value, *kind, zoneOf(schema));
    if (group.by == GroupBy::FirstLetters) {
        if (*kind != RuleKind::Text) return unsuited(group, article(*kind));
        return fmt::format("UPPER(SUBSTRING({} FROM 1 FOR {}))", value, group.letters);
    }
    if (!hasDay(*kind)) return unsuited(group, article(*kind));
    const std::string day = *kind == RuleKind::Date ? value : fmt::format("CAST({} AS DATE)", value);
    switch (group.by) {
        case GroupBy::Year: return fmt::format("CAST(EXTRACT(YEAR FROM {}) AS INTEGER)", day);
        case GroupBy::Quarter:
            return fmt::format("CAST(EXTRACT(YEAR FROM {0}) * 10 + EXTRACT(QUARTER FROM {0}) AS INTEGER)", day);
        case GroupBy::Month: return fmt::format("{0} - (CAST(EXTRACT(DAY FROM {0}) AS INTEGER) - 1)", day);
        case GroupBy::Week: return fmt::format("{0} - (CAST(EXTRACT(ISODOW FROM {0}) AS INTEGER) - 1)", day);
        case GroupBy::Nearness:
            return fmt::format(
                "CASE WHEN {0} IS NULL THEN NULL WHEN {0} < CURRENT_DATE THEN 0 WHEN {0} = CURRENT_DATE THEN 1 "
                "WHEN {0} < CURRENT_DATE + (8 - CAST(EXTRACT(ISODOW FROM CURRENT_DATE) AS INTEGER)) THEN 2 "
                "WHEN {0} < CURRENT_DATE + (15 - CAST(EXTRACT(ISODOW FROM CURRENT_DATE) AS INTEGER)) THEN 3 ELSE 4 END",
                day);
        default: return day;
    }
}

const std::string& fieldOf(const SummaryDesign& summary) {
    static const std::string kNone;
    if (summary.show == SummaryShow::Rule || summary.show == SummaryShow::Count) return kNone;
    return summary.of.empty() ? summary.column : summary.of;
}

std::string summaryRuleOf(const SummaryDesign& summary) {
    const std::string x = fieldInRule(fieldOf(summary));
    const std::string filter = summary.where.empty() ? std::string() : " FILTER (WHERE " + summary.where + ")";
    const auto call = [&](std::string_view name) { return fmt::format("{}({}){}", name, x, filter); };
    const auto percentile = [&](double fraction) {
        return fmt::format("PERCENTILE_CONT({}) WITHIN GROUP (ORDER BY {}){}", fraction, x, filter);
    };
    switch (summary.show) {
        case SummaryShow::Count: return "COUNT(*)" + filter;
        case SummaryShow::Filled: return call("COUNT");
        case SummaryShow::Blank: return "COUNT(*)" + filter + " - " + call("COUNT");
        case SummaryShow::Distinct: return fmt::format("COUNT(DISTINCT {}){}", x, filter);
        case SummaryShow::Sum: return call("SUM");
        case SummaryShow::Mean: return call("AVG");
        case SummaryShow::Minimum: return call("MIN");
        case SummaryShow::Maximum: return call("MAX");
        case SummaryShow::Range: return call("MAX") + " - " + call("MIN");
        case SummaryShow::Median: return percentile(0.5);
        case SummaryShow::Percentile: return percentile(summary.percent / 100);
        case SummaryShow::Variance: return call("VAR_SAMP");
        case SummaryShow::VariancePopulation: return call("VAR_POP");
        case SummaryShow::Deviation: return call("STDDEV_SAMP");
        case SummaryShow::DeviationPopulation: return call("STDDEV_POP");
        case SummaryShow::First: return call("FIRST_VALUE");
        case SummaryShow::Last: return call("LAST_VALUE");
        case SummaryShow::WeightedMean: {
            const std::string w = fieldInRule(summary.weight);
            const std::string both =
                summary.where.empty() ? x + " IS NOT NULL" : fmt::format("({}) AND {} IS NOT NULL", summary.where, x);
            return fmt::format("SUM({0} * {1}){2} * 1.0 / NULLIF(SUM({1}) FILTER (WHERE {3}), 0)", x, w, filter, both);
        }
        case SummaryShow::Rule: return summary.rule;
    }
    return {};
}

namespace {

/// How the values of a group are written: as those of the column that it is by, where they are its values.
TextFormat groupFormat(const Design& design, const GroupDesign& group, const SortTerm& key, const TableSchema& schema) {
    TextFormat format;
    const auto field = schema.find(group.key.field);
    const ColumnDesign* column = design.column(group.key.field);
    if (field && key.field) {  // a look-up is grouped by its label, like everything of its kind
        format = defaultFormat(schema.field(*key.field), true);
        if (column && *key.field == *field && column->format.style != FormatStyle::Message)
            format = textFormatOf(design, *column, schema.field(*field));
    } else if (field && (group.by == GroupBy::Ranges || group.by == GroupBy::Day)) {
        format = defaultFormat(schema.field(*field), true);
        if (column && column->format.style != FormatStyle::Message &&
            (group.by == GroupBy::Ranges || schema.field(*field).type == Type::Date))
            format = textFormatOf(design, *column, schema.field(*field));
        if (group.by == GroupBy::Day) format.type = Type::Date;
    } else {
        const RuleType type = key.program->type();
        format.type = columnTypeOf(type.kind);
        format.scale = type.scale == RuleType::kVaries ? 2 : type.scale;
    }
    format.locale = design.locale;
    return format;
}

Result<void> planCaptions(const Design& design, const TableSchema& schema, const RuleVocabulary& vocabulary,
                          PlannedGroup& planned) {
    std::vector<Caption::Name> names{{"heading", Type::Text}, {"value", Type::Text}, {"count", Type::Integer}};
    for (const SummaryDesign& summary : design.summaries) {
        auto made = parseSummary(summaryRuleOf(summary), schema, vocabulary);
        names.push_back(
            {summary.name, made && made->type.kind != RuleKind::Interval && made->type.kind != RuleKind::Null
                               ? columnTypeOf(made->type.kind)
                               : Type::Text});
    }
    for (const auto& [pattern, caption] : {std::pair{&planned.design.caption, &planned.caption},
                                           std::pair{&planned.design.footerCaption, &planned.footer}}) {
        if (pattern->empty()) continue;
        auto made = Caption::make(*pattern, names, design.locale);
        if (!made)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("The caption {} cannot be used. {}", *pattern, made.error().message)};
        *caption = std::move(*made);
    }
    return {};
}

}  // namespace

Result<PlannedGroup> plannedGroup(const Design& design, std::size_t index, const TableSchema& schema,
                                  const Registered* registered) {
    PlannedGroup planned;
    planned.design = design.groups[index];
    const GroupDesign& group = planned.design;
    const RuleVocabulary vocabulary = vocabularyOf(design, registered);
    auto rule = groupRuleOf(group, schema, vocabulary);
    if (!rule) return rule.error();
    SortDesign key = group.key;
    key.by.clear();
    if (!rule->empty()) {
        key.field.clear();
        key.rule = *rule;
    }
    auto term = keyTermOf(design, key, schema, registered);
    if (!term) return term.error();
    if (!key.rule.empty()) {
        // What a group is called is the rule's value, not what it would be sorted by.
        auto shown = compileRule(key.rule, schema, vocabulary);
        if (!shown) return shown.error();
        term->program = std::move(*shown);
        const Instruction& root = term->program->code.back();
        const FieldSchema* field = root.op == Op::Load ? &schema.field(static_cast<FieldIndex>(root.index)) : nullptr;
        if (field && field->ordered && key.values.empty() && key.comparator.empty()) term->values = field->permitted;
    }
    planned.term.key = std::move(*term);
    for (std::size_t i = 0; i < design.summaries.size() && !group.orderBy.empty(); ++i)
        if (design.summaries[i].name == group.orderBy) planned.term.orderBy = i;
    if (!group.orderBy.empty() && !planned.term.orderBy)
        return Error{ErrorCode::NotFound,
                     fmt::format("There is no summary called {} for the groups to stand by.", group.orderBy)};

    planned.heading = !group.key.title.empty() ? group.key.title
                      : group.key.rule.empty() ? design.headingOf(group.key.field)
                                               : group.key.rule;
    const TextFormat format = groupFormat(design, group, planned.term.key, schema);
    std::shared_ptr<const Formatter> formatter;
    if (auto made = formatterFor(format, schema, design)) formatter = std::move(*made);
    planned.names = std::make_shared<const GroupNames>(group, format, std::move(formatter), design.locale);
    if (auto done = planCaptions(design, schema, vocabulary, planned); !done) return done.error();
    return planned;
}

Result<PlannedSummary> plannedSummary(const Design& design, std::size_t index, const TableSchema& schema,
                                      const Registered* registered) {
    PlannedSummary planned;
    planned.design = design.summaries[index];
    const SummaryDesign& summary = planned.design;
    const std::string& field = fieldOf(summary);
    const auto known = schema.find(field);
    if (summary.show != SummaryShow::Rule && summary.show != SummaryShow::Count) {
        if (!known) return Error{ErrorCode::NotFound, fmt::format("{} has no column {}.", schema.name, field)};
        const std::vector<SummaryShow> fit = summariesFor(schema.field(*known).type);
        if (std::find(fit.begin(), fit.end(), summary.show) == fit.end())
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} of {} makes no sense: it holds {}.", words(summary.show, Type::Integer), field,
                                     article(schema.field(*known).type))};
    }
    auto rule = parseSummary(summaryRuleOf(summary), schema, vocabularyOf(design, registered));
    if (!rule) return rule.error();
    planned.spec.rule = std::move(*rule);
    const RuleKind kind = planned.spec.rule.type.kind;
    if (kind == RuleKind::Interval || kind == RuleKind::Null)
        return Error{ErrorCode::Unsupported, fmt::format("A figure cannot be {}.", article(kind))};
    planned.spec.measure = summary.as == SummaryAs::ShareOfParent  ? SummaryMeasure::ShareOfParent
                           : summary.as == SummaryAs::ShareOfAll   ? SummaryMeasure::ShareOfAll
                           : summary.as == SummaryAs::RunningTotal ? SummaryMeasure::RunningTotal
                                                                   : SummaryMeasure::Itself;
    if (summary.as != SummaryAs::Itself && !isNumber(kind))
        return Error{ErrorCode::Unsupported,
                     fmt::format("A share or running total is made of numbers, not of {}.", article(kind))};
    const Type type = known ? schema.field(*known).type : Type::Integer;
    planned.words = summary.show == SummaryShow::Rule ? summary.rule
                    : summary.show == SummaryShow::Count
                        ? words(summary.show, type)
                        : fmt::format("{} of {}", words(summary.show, type), design.headingOf(field));
    if (summary.as == SummaryAs::ShareOfParent) planned.words += ", share of the group above";
    if (summary.as == SummaryAs::ShareOfAll) planned.words += ", share of all";
    if (summary.as == SummaryAs::RunningTotal) planned.words += ", running total";
    auto formatter = formatterFor(figureFormat(design, summary, schema, planned.spec.rule.type), schema, design);
    if (!formatter)
        return Error{ErrorCode::InvalidInput,
                     fmt::format("The format of {} cannot be used. {}", summary.name, formatter.error().message)};
    planned.formatter = std::move(*formatter);
    if (!summary.caption.empty()) {
        const Type shown = planned.formatter->format().type;
        auto made = Caption::make(summary.caption, {{"value", shown}}, design.locale);
        if (!made)
            return Error{ErrorCode::InvalidInput,
                         fmt::format("The caption {} cannot be used. {}", summary.caption, made.error().message)};
        planned.caption = std::move(*made);
    }
    return planned;
}

std::vector<SummaryShow> summariesFor(Type type) {
    using S = SummaryShow;
    if (type == Type::Binary || type == Type::NumberList) return {S::Count};
    std::vector<S> all;
    if (isNumber(type)) all = {S::Sum, S::Mean, S::Minimum, S::Maximum, S::Median, S::Range};
    if (isCalendar(type)) all = {S::Minimum, S::Maximum};
    if (type == Type::Date) all.push_back(S::Range);
    for (const S show : {S::Count, S::Filled, S::Blank, S::Distinct}) all.push_back(show);
    if (type == Type::Text) all.insert(all.end(), {S::Minimum, S::Maximum});
    all.insert(all.end(), {S::First, S::Last});
    if (isNumber(type))
        all.insert(all.end(), {S::Percentile, S::WeightedMean, S::Deviation, S::DeviationPopulation, S::Variance,
                               S::VariancePopulation});
    return all;
}

std::vector<GroupBy> groupingsFor(Type type) {
    using G = GroupBy;
    if (type == Type::Binary || type == Type::NumberList) return {};
    if (type == Type::Text) return {G::EachValue, G::FirstLetters};
    if (hasDay(type)) return {G::Month, G::Week, G::Day, G::Quarter, G::Year, G::Nearness, G::Ranges, G::EachValue};
    if (isNumber(type) || type == Type::Time) return {G::EachValue, G::Ranges};
    return {G::EachValue};
}

std::string words(SummaryShow show, Type type) {
    const bool isTime = isCalendar(type);
    switch (show) {
        case SummaryShow::Count: return "count";
        case SummaryShow::Filled: return "filled";
        case SummaryShow::Blank: return "empty";
        case SummaryShow::Distinct: return "different values";
        case SummaryShow::Sum: return "sum";
        case SummaryShow::Mean: return "mean";
        case SummaryShow::Minimum: return isTime ? "earliest" : type == Type::Text ? "first by alphabet" : "smallest";
        case SummaryShow::Maximum: return isTime ? "latest" : type == Type::Text ? "last by alphabet" : "largest";
        case SummaryShow::Range: return isTime ? "days between" : "range";
        case SummaryShow::Median: return "median";
        case SummaryShow::Percentile: return "percentile";
        case SummaryShow::Variance: return "variance (sample)";
        case SummaryShow::VariancePopulation: return "variance (population)";
        case SummaryShow::Deviation: return "standard deviation (sample)";
        case SummaryShow::DeviationPopulation: return "standard deviation (population)";
        case SummaryShow::First: return "first in order";
        case SummaryShow::Last: return "last in order";
        case SummaryShow::WeightedMean: return "weighted mean";
        case SummaryShow::Rule: return "rule";
    }
    return {};
}

std::string words(GroupBy by) {
    switch (by) {
        case GroupBy::EachValue: return "value";
        case GroupBy::Ranges: return "ranges";
        case GroupBy::Year: return "year";
        case GroupBy::Quarter: return "quarter";
        case GroupBy::Month: return "month";
        case GroupBy::Week: return "week";
        case GroupBy::Day: return "day";
        case GroupBy::Nearness: return "nearness to today";
        case GroupBy::FirstLetters: return "first letters";
    }
    return {};
}

std::string newSummaryName(const Design& design, const SummaryDesign& summary) {
    std::string base = summary.show == SummaryShow::Count || summary.show == SummaryShow::Rule ? std::string()
                                                                                               : fieldOf(summary) + " ";
    base += words(summary.show, Type::Integer);
    std::string name;
    for (const char c : base) {
        const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9');
        if (plain)
            name += c;
        else if (!name.empty() && name.back() != '_')
            name += '_';
    }
    while (!name.empty() && name.back() == '_') name.pop_back();
    std::string free = name;
    for (int n = 2; design.summary(free); ++n) free = fmt::format("{}_{}", name, n);
    return free;
}

namespace {

/// What makes sense for a type but for what levels of the design group the field by already.
std::vector<GroupBy> groupingsLeft(const Design& design, const std::string& field, Type type) {
    std::vector<GroupBy> kinds = groupingsFor(type);
    for (const GroupDesign& level : design.groups)
        if (level.key.field == field) std::erase(kinds, level.by);
    return kinds;
}

/// Larger is finer: groups of it lie within groups of a smaller one.
int fineness(GroupBy by) {
    switch (by) {
        case GroupBy::Nearness: return 0;
        case GroupBy::Ranges:
        case GroupBy::FirstLetters:
        case GroupBy::Year: return 1;
        case GroupBy::Quarter: return 2;
        case GroupBy::Month: return 3;
        case GroupBy::Week: return 4;
        case GroupBy::Day: return 5;
        case GroupBy::EachValue: return 6;
    }
    return 6;
}

/// The part one would look at next inside of another.
GroupBy partIn(GroupBy by) {
    if (by == GroupBy::Year || by == GroupBy::Quarter) return GroupBy::Month;
    if (by == GroupBy::Month || by == GroupBy::Week || by == GroupBy::Nearness) return GroupBy::Day;
    return GroupBy::EachValue;
}

}  // namespace

GroupDesign newGroup(const Design& design, const TableSchema& schema, const std::string& field) {
    GroupDesign group;
    group.key.field = field;
    const ColumnDesign* column = design.column(field);
    const auto index = schema.find(field);
    if (!index || (column && column->label.empty() && schema.field(*index).use == Use::LookUp)) return group;
    const std::vector<GroupBy> fit = groupingsFor(schema.field(*index).type);
    if (!fit.empty()) group.by = fit.front();
    const std::vector<GroupBy> left = groupingsLeft(design, field, schema.field(*index).type);
    if (left.empty() || left.size() == fit.size()) return group;
    const auto isLeft = [&](GroupBy by) { return std::find(left.begin(), left.end(), by) != left.end(); };
    GroupBy finest = GroupBy::Nearness;
    for (const GroupDesign& level : design.groups)
        if (level.key.field == field && fineness(level.by) > fineness(finest)) finest = level.by;
    for (GroupBy by = finest; by != GroupBy::EachValue && !isLeft(group.by);) group.by = by = partIn(by);
    if (!isLeft(group.by)) group.by = left.front();
    return group;
}

void addGroup(Design& design, GroupDesign group) {
    std::erase_if(design.groups, [&](const GroupDesign& level) {
        return !level.key.field.empty() && level.key.field == group.key.field && level.by == group.by;
    });
    const auto finer = std::find_if(design.groups.begin(), design.groups.end(), [&](const GroupDesign& level) {
        return !level.key.field.empty() && level.key.field == group.key.field &&
               fineness(level.by) > fineness(group.by);
    });
    design.groups.insert(finer, std::move(group));
}

SummaryDesign newSummary(const Design& design, const TableSchema& schema, const std::string& column) {
    SummaryDesign summary;
    summary.column = column;
    const auto index = schema.find(column);
    std::vector<SummaryShow> fit = summariesFor(index ? schema.field(*index).type : Type::Binary);
    if (index && (schema.field(*index).use != Use::Plain || schema.field(*index).primaryKeyRank > 0 ||
                  schema.field(*index).unique))
        fit.insert(fit.begin(), SummaryShow::Count);  // nobody adds numbers that name things
    if (index && schema.field(*index).type == Type::Text) fit.insert(fit.begin(), SummaryShow::Count);
    summary.show = fit.front();
    for (const SummaryShow show : fit) {
        const bool taken = std::any_of(design.summaries.begin(), design.summaries.end(),
                                       [&](const SummaryDesign& s) { return s.column == column && s.show == show; });
        if (taken) continue;
        summary.show = show;
        break;
    }
    summary.name = newSummaryName(design, summary);
    return summary;
}

}  // namespace jollyrow
