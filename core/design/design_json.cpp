// SPDX-License-Identifier: MIT
// Design <-> JSON (docs/formats/design.md). Defaults are left out of columns and tiers, so that a design file says what
// somebody decided, and two of them compare line by line.
#include <fmt/format.h>

#include "core/design/design_file.h"
#include "core/design/face_json.h"
#include "core/design/grid_switches.h"
#include "core/design/json_parts.h"
#include "core/design/look_json.h"
#include "core/design/tier_tree.h"
#include "core/formats/formatter.h"

namespace jollyrow {
namespace {

using Json = nlohmann::ordered_json;

constexpr int kMaxDepth = 64;

constexpr std::array<EnumName<Direction>, 2> kDirections = {
    {{Direction::Ascending, "ascending"}, {Direction::Descending, "descending"}}};
constexpr std::array<EnumName<Empties>, 2> kEmpties = {{{Empties::First, "first"}, {Empties::Last, "last"}}};
constexpr std::array<EnumName<TextStrength>, 4> kStrengths = {{{TextStrength::Exact, "exact"},
                                                               {TextStrength::IgnoreCase, "ignoreCase"},
                                                               {TextStrength::IgnoreAccents, "ignoreAccents"},
                                                               {TextStrength::Letters, "letters"}}};
constexpr std::array<EnumName<TierLook>, 3> kTierLooks = {
    {{TierLook::Bracket, "bracket"}, {TierLook::Band, "band"}, {TierLook::Plain, "plain"}}};
constexpr std::array<EnumName<LineHeight>, 2> kLineHeights = {
    {{LineHeight::Fixed, "fixed"}, {LineHeight::Automatic, "automatic"}}};
constexpr std::array<EnumName<EntryKind>, 5> kEntryKinds = {{{EntryKind::Automatic, "automatic"},
                                                             {EntryKind::Line, "line"},
                                                             {EntryKind::Lines, "lines"},
                                                             {EntryKind::Rating, "rating"},
                                                             {EntryKind::Colour, "colour"}}};
constexpr std::array<EnumName<Saving>, 3> kSavings = {
    {{Saving::EachCell, "eachCell"}, {Saving::EachRecord, "eachRecord"}, {Saving::Together, "together"}}};
constexpr std::array<EnumName<EntryLinePlace>, 3> kEntryLines = {
    {{EntryLinePlace::None, "none"}, {EntryLinePlace::Top, "top"}, {EntryLinePlace::Bottom, "bottom"}}};
constexpr std::array<EnumName<SelectionMode>, 5> kSelectionModes = {{{SelectionMode::OneRow, "oneRecord"},
                                                                     {SelectionMode::Rows, "records"},
                                                                     {SelectionMode::Cells, "cells"},
                                                                     {SelectionMode::Columns, "columns"},
                                                                     {SelectionMode::None, "none"}}};
constexpr std::array<EnumName<GridTheme>, 3> kThemes = {
    {{GridTheme::Automatic, "automatic"}, {GridTheme::Light, "light"}, {GridTheme::Dark, "dark"}}};
constexpr std::array<EnumName<PinnedRecord::Edge>, 2> kEdges = {
    {{PinnedRecord::Edge::Top, "top"}, {PinnedRecord::Edge::Bottom, "bottom"}}};

constexpr std::array<EnumName<GroupBy>, 9> kGroupBys = {{{GroupBy::EachValue, "value"},
                                                         {GroupBy::Ranges, "ranges"},
                                                         {GroupBy::Year, "year"},
                                                         {GroupBy::Quarter, "quarter"},
                                                         {GroupBy::Month, "month"},
                                                         {GroupBy::Week, "week"},
                                                         {GroupBy::Day, "day"},
                                                         {GroupBy::Nearness, "nearness"},
                                                         {GroupBy::FirstLetters, "firstLetters"}}};
constexpr std::array<EnumName<SummaryShow>, 19> kShows = {{{SummaryShow::Count, "count"},
                                                           {SummaryShow::Filled, "filled"},
                                                           {SummaryShow::Blank, "empty"},
                                                           {SummaryShow::Distinct, "distinct"},
                                                           {SummaryShow::Sum, "sum"},
                                                           {SummaryShow::Mean, "mean"},
                                                           {SummaryShow::Minimum, "minimum"},
                                                           {SummaryShow::Maximum, "maximum"},
                                                           {SummaryShow::Range, "range"},
                                                           {SummaryShow::Median, "median"},
                                                           {SummaryShow::Percentile, "percentile"},
                                                           {SummaryShow::Variance, "variance"},
                                                           {SummaryShow::VariancePopulation, "variancePopulation"},
                                                           {SummaryShow::Deviation, "deviation"},
                                                           {SummaryShow::DeviationPopulation, "deviationPopulation"},
                                                           {SummaryShow::First, "first"},
                                                           {SummaryShow::Last, "last"},
                                                           {SummaryShow::WeightedMean, "weightedMean"},
                                                           {SummaryShow::Rule, "rule"}}};
constexpr std::array<EnumName<SummaryAs>, 4> kSummaryAs = {{{SummaryAs::Itself, "value"},
                                                            {SummaryAs::ShareOfParent, "shareOfParent"},
                                                            {SummaryAs::ShareOfAll, "shareOfAll"},
                                                            {SummaryAs::RunningTotal, "runningTotal"}}};

Json jsonOf(const EntryDesign& entry) {
    const EntryDesign usual;
    Json out = Json::object();
    put(out, "kind", entry.kind, usual.kind, kEntryKinds);
    put(out, "most", entry.most, usual.most);
    put(out, "pattern", entry.pattern, usual.pattern);
    put(out, "adds", entry.adds, usual.adds);
    addUnknown(out, entry.unknown);
    return out;
}

Json jsonOf(const ColumnDesign& column) {
    const ColumnDesign usual;
    Json out = {{"field", column.field}};
    if (column.type) out["type"] = std::string(name(*column.type));
    out["heading"] = column.heading;
    put(out, "tier", column.tier, usual.tier);
    put(out, "under", column.under, usual.under);
    put(out, "span", column.span, usual.span);
    out["shown"] = column.shown;
    put(out, "hiddenFromUsers", column.hiddenFromUsers, usual.hiddenFromUsers);
    put(out, "readOnly", column.readOnly, usual.readOnly);
    put(out, "wrap", column.wrap, usual.wrap);
    put(out, "merge", column.merge, usual.merge);
    put(out, "alignment", column.alignment, usual.alignment, kAlignments);
    out["width"] = {{"mode", nameOf(kWidthModes, column.width.mode)},
                    {"pixels", column.width.pixels},
                    {"weight", column.width.weight},
                    {"minimum", column.width.minimum},
                    {"maximum", column.width.maximum}};
    addUnknown(out["width"], column.width.unknown);
    if (column.format != usual.format) out["format"] = jsonOf(column.format);
    put(out, "face", column.face, usual.face);
    put(out, "rule", column.rule, usual.rule);
    put(out, "sortBy", column.sortBy, usual.sortBy);
    put(out, "label", column.label, usual.label);
    put(out, "hint", column.hint, usual.hint);
    if (column.entry != usual.entry) out["entry"] = jsonOf(column.entry);
    put(out, "toolTip", column.toolTip, usual.toolTip);
    addUnknown(out, column.unknown);
    return out;
}

Json jsonOf(const SortDesign& key) {
    const SortDesign usual;
    Json out = Json::object();
    put(out, "field", key.field, usual.field);
    put(out, "rule", key.rule, usual.rule);
    put(out, "by", key.by, usual.by);
    put(out, "title", key.title, usual.title);
    out["direction"] = nameOf(kDirections, key.direction);
    out["empties"] = nameOf(kEmpties, key.empties);
    put(out, "natural", key.natural, usual.natural);
    put(out, "strength", key.strength, usual.strength, kStrengths);
    put(out, "values", key.values, usual.values);
    put(out, "comparator", key.comparator, usual.comparator);
    addUnknown(out, key.unknown);
    return out;
}

Json jsonOf(const SortRuleDesign& rule) {
    Json out = {{"name", rule.name}, {"keys", Json::array()}};
    for (const SortDesign& key : rule.keys) out["keys"].push_back(jsonOf(key));
    addUnknown(out, rule.unknown);
    return out;
}

Json jsonOf(const GroupDesign& group) {
    const GroupDesign usual;
    Json out = jsonOf(group.key);
    put(out, "groupBy", group.by, usual.by, kGroupBys);
    put(out, "cuts", group.cuts, usual.cuts);
    put(out, "letters", group.letters, usual.letters);
    put(out, "orderBy", group.orderBy, usual.orderBy);
    put(out, "caption", group.caption, usual.caption);
    put(out, "footer", group.footer, usual.footer);
    put(out, "footerCaption", group.footerCaption, usual.footerCaption);
    put(out, "open", group.open, usual.open);
    put(out, "across", group.across, usual.across);
    put(out, "height", group.height, usual.height);
    put(out, "colour", group.colour, usual.colour);
    put(out, "textWeight", group.weight, usual.weight, kLineWeights);
    put(out, "textColour", group.textColour, usual.textColour);
    put(out, "footerHeight", group.footerHeight, usual.footerHeight);
    put(out, "footerColour", group.footerColour, usual.footerColour);
    put(out, "footerTextColour", group.footerTextColour, usual.footerTextColour);
    put(out, "footerTextWeight", group.footerWeight, usual.footerWeight, kLineWeights);
    addUnknown(out, group.unknown);
    return out;
}

Json jsonOf(const SummaryDesign& summary) {
    const SummaryDesign usual;
    Json out = {{"name", summary.name}, {"column", summary.column}, {"show", nameOf(kShows, summary.show)}};
    put(out, "of", summary.of, usual.of);
    put(out, "rule", summary.rule, usual.rule);
    put(out, "weight", summary.weight, usual.weight);
    put(out, "percent", summary.percent, usual.percent);
    put(out, "where", summary.where, usual.where);
    put(out, "as", summary.as, usual.as, kSummaryAs);
    put(out, "caption", summary.caption, usual.caption);
    if (summary.format != usual.format) out["format"] = jsonOf(summary.format);
    put(out, "onGroups", summary.onGroups, usual.onGroups);
    put(out, "onFooters", summary.onFooters, usual.onFooters);
    put(out, "onTotal", summary.onTotal, usual.onTotal);
    addUnknown(out, summary.unknown);
    return out;
}

Json jsonOf(const FilterDesign& part) {
    const FilterDesign usual;
    Json out = {{"rule", part.rule}};
    put(out, "field", part.field, usual.field);
    put(out, "entry", part.entry, usual.entry);
    put(out, "on", part.on, usual.on);
    addUnknown(out, part.unknown);
    return out;
}

Json jsonOf(const OperatorDesign& op) {
    Json out = {{"name", op.name}, {"title", op.title}, {"rule", op.rule}};
    put(out, "arguments", op.arguments, {});
    std::vector<std::string> types;
    for (const Type type : op.types) types.emplace_back(name(type));
    put(out, "types", types, {});
    addUnknown(out, op.unknown);
    return out;
}

Json jsonOf(const ParameterDesign& parameter) {
    Json out = {{"name", parameter.name}, {"heading", parameter.heading}, {"type", std::string(name(parameter.type))}};
    put(out, "value", parameter.value, std::string());
    put(out, "hint", parameter.hint, std::string());
    put(out, "like", parameter.like, std::string());
    addUnknown(out, parameter.unknown);
    return out;
}

Json jsonOf(const CheckDesign& check) {
    const CheckDesign usual;
    Json out = {{"name", check.name}, {"rule", check.rule}};
    put(out, "field", check.field, usual.field);
    put(out, "message", check.message, usual.message);
    put(out, "warning", check.warning, usual.warning);
    put(out, "on", check.on, usual.on);
    addUnknown(out, check.unknown);
    return out;
}

/// A list that is written when it holds something.
template <class T>
void putList(Json& out, const char* key, const std::vector<T>& list) {
    if (list.empty()) return;
    out[key] = Json::array();
    for (const T& item : list) out[key].push_back(jsonOf(item));
}

Json jsonOf(const TierDesign& tier) {
    const TierDesign usual;
    Json out = {{"name", tier.name}, {"heading", tier.heading}};
    put(out, "parent", tier.parent, usual.parent);
    put(out, "alignment", tier.alignment, usual.alignment, kAlignments);
    put(out, "look", tier.look, usual.look, kTierLooks);
    put(out, "colour", tier.colour, usual.colour);
    put(out, "toolTip", tier.toolTip, usual.toolTip);
    put(out, "folded", tier.folded, usual.folded);
    put(out, "lead", tier.lead, usual.lead);
    addUnknown(out, tier.unknown);
    return out;
}

Json jsonOf(const GridDesign& grid) {
    const GridDesign usual;
    Json out = {{"pinned", grid.pinned}};
    put(out, "pinnedRight", grid.pinnedRight, usual.pinnedRight);
    for (const GridSwitch& one : kGridSwitches)
        if (one.place == GridSwitchPlace::Rows || grid.*one.setting != usual.*one.setting)
            out[one.key] = grid.*one.setting;
    out["rowHeight"] = grid.rowHeight;
    put(out, "lineHeight", grid.lineHeight, usual.lineHeight, kLineHeights);
    put(out, "mostLines", grid.mostLines, usual.mostLines);
    put(out, "saving", grid.saving, usual.saving, kSavings);
    put(out, "version", grid.version, usual.version);
    put(out, "changedBy", grid.changedBy, usual.changedBy);
    put(out, "entryLine", grid.entryLine, usual.entryLine, kEntryLines);
    put(out, "selection", grid.selection, usual.selection, kSelectionModes);
    put(out, "theme", grid.theme, usual.theme, kThemes);
    put(out, "look", grid.look, usual.look);
    put(out, "linkSchemes", grid.linkSchemes, usual.linkSchemes);
    put(out, "pictureMegabytes", grid.pictureMegabytes, usual.pictureMegabytes);
    put(out, "groupIndent", grid.groupIndent, usual.groupIndent);
    put(out, "totalHeight", grid.totalHeight, usual.totalHeight);
    put(out, "totalColour", grid.totalColour, usual.totalColour);
    put(out, "totalTextColour", grid.totalTextColour, usual.totalTextColour);
    put(out, "totalTextWeight", grid.totalWeight, usual.totalWeight, kLineWeights);
    for (const PinnedRecord& record : grid.pinnedRecords) {
        Json& pinned =
            out["pinnedRecords"].emplace_back(Json{{"key", record.key}, {"edge", nameOf(kEdges, record.edge)}});
        addUnknown(pinned, record.unknown);
    }
    addUnknown(out, grid.unknown);
    return out;
}

void readColour(ObjectReader& reader, const char* key, std::string& colour, std::vector<Finding>& findings) {
    reader.read(key, colour);
    if (colour.empty() || isColour(colour)) return;
    findings.push_back({Severity::Warning, reader.path(key),
                        fmt::format("\"{}\" is not a colour like #1e7f78; the theme's is used.", colour), ""});
    colour.clear();
}

/// A type by its name; what is no type is said.
std::optional<Type> readType(const ObjectReader& reader, const char* key, const std::string& text,
                             std::vector<Finding>& findings) {
    const auto type = typeFromName(text);
    if (!type)
        findings.push_back({Severity::Warning, reader.path(key),
                            fmt::format("\"{}\" is no type; text, integer, decimal, real, boolean, date, time and "
                                        "timestamp are some.",
                                        text),
                            ""});
    return type;
}

ColumnDesign columnFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    ColumnDesign column;
    ObjectReader reader(json, where, findings);
    reader.read("field", column.field);
    std::string type;
    reader.read("type", type);
    if (!type.empty()) column.type = readType(reader, "type", type, findings);
    column.heading = column.field;
    reader.read("heading", column.heading);
    reader.read("tier", column.tier);
    reader.read("under", column.under);
    reader.read("span", column.span, 1, 100);
    reader.read("shown", column.shown);
    reader.read("hiddenFromUsers", column.hiddenFromUsers);
    reader.read("readOnly", column.readOnly);
    reader.read("wrap", column.wrap);
    reader.read("merge", column.merge);
    reader.read("alignment", column.alignment, kAlignments);
    if (const Json* width = reader.object("width")) {
        ObjectReader inner(*width, reader.path("width"), findings);
        inner.read("mode", column.width.mode, kWidthModes);
        inner.read("pixels", column.width.pixels, Width::kLeastPixels, Width::kMostPixels);
        inner.read("weight", column.width.weight, 0.01, 1000.0);
        inner.read("minimum", column.width.minimum, Width::kLeastPixels, Width::kMostPixels);
        inner.read("maximum", column.width.maximum, 0, Width::kMostPixels);
        column.width.unknown = inner.unknown();
    }
    readFormat(reader, column.format, findings);
    reader.read("rule", column.rule);
    reader.read("sortBy", column.sortBy);
    reader.read("face", column.face);
    reader.read("label", column.label);
    reader.read("hint", column.hint);
    if (const Json* entry = reader.object("entry")) {
        ObjectReader inner(*entry, reader.path("entry"), findings);
        inner.read("kind", column.entry.kind, kEntryKinds);
        inner.read("most", column.entry.most, 1, EntryDesign::kMostMarks);
        inner.read("pattern", column.entry.pattern);
        inner.read("adds", column.entry.adds);
        column.entry.unknown = inner.unknown();
    }
    reader.read("toolTip", column.toolTip);
    column.unknown = reader.unknown();
    return column;
}

void readColumns(const Json& list, Design& design, std::vector<Finding>& findings) {
    std::set<std::string> known;
    for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string where = fmt::format("columns/{}", i);
        if (!list[i].is_object()) {
            findings.push_back({Severity::Problem, where, where + " is not an object; it is left out.", ""});
            continue;
        }
        ColumnDesign column = columnFrom(list[i], where, findings);
        if (column.field.empty())
            findings.push_back({Severity::Problem, where, where + " names no field; it is left out.", ""});
        else if (!known.insert(column.field).second)
            findings.push_back(
                {Severity::Warning, where, fmt::format("{} stands twice; the first is used.", column.field), ""});
        else
            design.columns.push_back(std::move(column));
    }
}

void readTiers(const Json& list, Design& design, std::vector<Finding>& findings) {
    for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string where = fmt::format("tiers/{}", i);
        if (!list[i].is_object()) {
            findings.push_back({Severity::Problem, where, where + " is not an object; it is left out.", ""});
            continue;
        }
        TierDesign tier;
        ObjectReader reader(list[i], where, findings);
        reader.read("name", tier.name);
        tier.heading = tier.name;
        reader.read("heading", tier.heading);
        reader.read("parent", tier.parent);
        reader.read("alignment", tier.alignment, kAlignments);
        reader.read("look", tier.look, kTierLooks);
        readColour(reader, "colour", tier.colour, findings);
        reader.read("toolTip", tier.toolTip);
        reader.read("folded", tier.folded);
        reader.read("lead", tier.lead);
        tier.unknown = reader.unknown();
        design.tiers.push_back(std::move(tier));
    }
}

void readKey(ObjectReader& reader, SortDesign& key) {
    reader.read("field", key.field);
    reader.read("rule", key.rule);
    reader.read("by", key.by);
    reader.read("title", key.title);
    reader.read("direction", key.direction, kDirections);
    reader.read("empties", key.empties, kEmpties);
    reader.read("natural", key.natural);
    reader.read("strength", key.strength, kStrengths);
    reader.read("values", key.values);
    reader.read("comparator", key.comparator);
}

SortDesign sortFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    SortDesign key;
    ObjectReader reader(json, where, findings);
    readKey(reader, key);
    key.unknown = reader.unknown();
    return key;
}

void readSort(const Json& list, const std::string& path, std::vector<SortDesign>& sort,
              std::vector<Finding>& findings) {
    for (std::size_t i = 0; i < list.size(); ++i) {
        const std::string where = fmt::format("{}/{}", path, i);
        SortDesign key;
        if (list[i].is_object()) key = sortFrom(list[i], where, findings);
        if (key.field.empty() && key.rule.empty() && key.by.empty())
            findings.push_back({Severity::Problem, where, where + " names no field; it is left out.", ""});
        else
            sort.push_back(std::move(key));
    }
}

/// Objects of a list that must have a text in `key`; others become findings.
template <class Read>
void readNamed(ObjectReader& outer, const char* list, const char* key, std::vector<Finding>& findings,
               const Read& read) {
    const Json* json = outer.array(list);
    if (!json) return;
    for (std::size_t i = 0; i < json->size(); ++i) {
        const std::string where = fmt::format("{}/{}", list, i);
        const Json& item = (*json)[i];
        if (!item.is_object() || !item.contains(key) || !item[key].is_string() ||
            item[key].get<std::string>().empty()) {
            findings.push_back(
                {Severity::Problem, where, fmt::format("{} has no {}; it is left out.", where, key), ""});
            continue;
        }
        ObjectReader reader(item, where, findings);
        read(item, reader);
    }
}

void readRules(ObjectReader& reader, Design& design, std::vector<Finding>& findings) {
    readNamed(reader, "filter", "rule", findings, [&](const Json&, ObjectReader& inner) {
        FilterDesign part;
        inner.read("rule", part.rule);
        inner.read("field", part.field);
        inner.read("entry", part.entry);
        inner.read("on", part.on);
        part.unknown = inner.unknown();
        design.filter.push_back(std::move(part));
    });
    readNamed(reader, "checks", "rule", findings, [&](const Json&, ObjectReader& inner) {
        CheckDesign check;
        inner.read("rule", check.rule);
        check.name = check.rule;
        inner.read("name", check.name);
        inner.read("field", check.field);
        inner.read("message", check.message);
        inner.read("warning", check.warning);
        inner.read("on", check.on);
        check.unknown = inner.unknown();
        design.checks.push_back(std::move(check));
    });
    readNamed(reader, "sortRules", "name", findings, [&](const Json&, ObjectReader& inner) {
        SortRuleDesign rule;
        inner.read("name", rule.name);
        if (const Json* keys = inner.array("keys")) readSort(*keys, inner.path("keys"), rule.keys, findings);
        rule.unknown = inner.unknown();
        design.sortRules.push_back(std::move(rule));
    });
    readNamed(reader, "operators", "name", findings, [&](const Json&, ObjectReader& inner) {
        OperatorDesign op;
        inner.read("name", op.name);
        op.title = op.name;
        inner.read("title", op.title);
        inner.read("rule", op.rule);
        inner.read("arguments", op.arguments);
        std::vector<std::string> types;
        inner.read("types", types);
        for (const std::string& type : types)
            if (const auto known = readType(inner, "types", type, findings)) op.types.push_back(*known);
        op.unknown = inner.unknown();
        design.operators.push_back(std::move(op));
    });
    readNamed(reader, "parameters", "name", findings, [&](const Json&, ObjectReader& inner) {
        ParameterDesign parameter;
        inner.read("name", parameter.name);
        parameter.heading = parameter.name;
        inner.read("heading", parameter.heading);
        std::string type = "text";
        inner.read("type", type);
        parameter.type = readType(inner, "type", type, findings).value_or(Type::Text);
        inner.read("value", parameter.value);
        inner.read("hint", parameter.hint);
        inner.read("like", parameter.like);
        parameter.unknown = inner.unknown();
        design.parameters.push_back(std::move(parameter));
    });
}

void readGroups(ObjectReader& reader, Design& design, std::vector<Finding>& findings) {
    const Json* list = reader.array("groups");
    for (std::size_t i = 0; list && i < list->size(); ++i) {
        const std::string where = fmt::format("groups/{}", i);
        GroupDesign group;
        if ((*list)[i].is_object()) {
            ObjectReader inner((*list)[i], where, findings);
            readKey(inner, group.key);
            inner.read("groupBy", group.by, kGroupBys);
            inner.read("cuts", group.cuts);
            inner.read("letters", group.letters, 1, 100);
            inner.read("orderBy", group.orderBy);
            inner.read("caption", group.caption);
            inner.read("footer", group.footer);
            inner.read("footerCaption", group.footerCaption);
            inner.read("open", group.open);
            inner.read("across", group.across);
            inner.read("height", group.height, 0, 400);
            readColour(inner, "colour", group.colour, findings);
            inner.read("textWeight", group.weight, kLineWeights);
            readColour(inner, "textColour", group.textColour, findings);
            inner.read("footerHeight", group.footerHeight, 0, 400);
            readColour(inner, "footerColour", group.footerColour, findings);
            readColour(inner, "footerTextColour", group.footerTextColour, findings);
            inner.read("footerTextWeight", group.footerWeight, kLineWeights);
            group.unknown = inner.unknown();
        }
        if (!group.key.by.empty())
            findings.push_back({Severity::Warning, where + "/by",
                                where + "/by names a rule to sort by, which groups have not; what of the values makes "
                                        "a group is said by \"groupBy\".",
                                ""});
        if (group.key.field.empty() && group.key.rule.empty())
            findings.push_back({Severity::Problem, where, where + " names no field; it is left out.", ""});
        else
            design.groups.push_back(std::move(group));
    }
}

void readSummaries(ObjectReader& reader, Design& design, std::vector<Finding>& findings) {
    readNamed(reader, "summaries", "name", findings, [&](const Json&, ObjectReader& inner) {
        SummaryDesign summary;
        inner.read("name", summary.name);
        inner.read("column", summary.column);
        inner.read("show", summary.show, kShows);
        inner.read("of", summary.of);
        inner.read("rule", summary.rule);
        inner.read("weight", summary.weight);
        inner.read("percent", summary.percent, 0.0, 100.0);
        inner.read("where", summary.where);
        inner.read("as", summary.as, kSummaryAs);
        inner.read("caption", summary.caption);
        readFormat(inner, summary.format, findings);
        inner.read("onGroups", summary.onGroups);
        inner.read("onFooters", summary.onFooters);
        inner.read("onTotal", summary.onTotal);
        summary.unknown = inner.unknown();
        if (design.summary(summary.name))
            findings.push_back({Severity::Warning, inner.path("name"),
                                fmt::format("{} names two summaries; the first is used.", summary.name), ""});
        else
            design.summaries.push_back(std::move(summary));
    });
}

void readSchemes(ObjectReader& grid, std::vector<std::string>& schemes, std::vector<Finding>& findings) {
    std::vector<std::string> written;
    grid.read("linkSchemes", written);
    for (const std::string& one : written) {
        if (mayOpen(one))
            schemes.push_back(one);
        else
            findings.push_back({Severity::Warning, grid.path("linkSchemes"),
                                fmt::format("Addresses that begin with \"{}:\" are not opened from a grid.", one), ""});
    }
}

void readGrid(const Json& json, GridDesign& grid, std::vector<Finding>& findings) {
    ObjectReader inner(json, "grid", findings);
    inner.read("pinned", grid.pinned, 0, 1000);
    inner.read("pinnedRight", grid.pinnedRight, 0, 1000);
    for (const GridSwitch& one : kGridSwitches) inner.read(one.key, grid.*one.setting);
    inner.read("rowHeight", grid.rowHeight, 16, 400);
    inner.read("lineHeight", grid.lineHeight, kLineHeights);
    inner.read("mostLines", grid.mostLines, 1, 40);
    inner.read("saving", grid.saving, kSavings);
    inner.read("version", grid.version);
    inner.read("changedBy", grid.changedBy);
    inner.read("entryLine", grid.entryLine, kEntryLines);
    inner.read("selection", grid.selection, kSelectionModes);
    inner.read("theme", grid.theme, kThemes);
    inner.read("look", grid.look);
    readSchemes(inner, grid.linkSchemes, findings);
    inner.read("pictureMegabytes", grid.pictureMegabytes, 1, 4096);
    inner.read("groupIndent", grid.groupIndent, 0, 200);
    inner.read("totalHeight", grid.totalHeight, 0, 400);
    readColour(inner, "totalColour", grid.totalColour, findings);
    readColour(inner, "totalTextColour", grid.totalTextColour, findings);
    inner.read("totalTextWeight", grid.totalWeight, kLineWeights);
    if (const Json* records = inner.array("pinnedRecords"))
        for (std::size_t i = 0; i < std::min<std::size_t>(records->size(), 20); ++i) {
            const std::string where = fmt::format("grid/pinnedRecords/{}", i);
            PinnedRecord record;
            if ((*records)[i].is_object()) {
                ObjectReader reader((*records)[i], where, findings);
                reader.read("key", record.key);
                reader.read("edge", record.edge, kEdges);
                record.unknown = reader.unknown();
            }
            if (record.key.empty())
                findings.push_back({Severity::Warning, where, where + " names no record; it is left out.", ""});
            else
                grid.pinnedRecords.push_back(std::move(record));
        }
    grid.unknown = inner.unknown();
}

/// JSON libraries recurse, and look through all keys of an object for each new one: what no design has is refused
/// before they see it. nullopt when there is nothing to refuse.
std::optional<std::string> tooMuch(std::string_view text) {
    constexpr int kMostKeys = 10'000;
    std::vector<int> members;  // of each open object or list, so far
    std::string kinds;
    bool inString = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inString) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                inString = false;
        } else if (c == '"') {
            inString = true;
        } else if (c == '{' || c == '[') {
            members.push_back(0);
            kinds += c;
            if (members.size() > kMaxDepth) return fmt::format("it is nested deeper than {} levels", kMaxDepth);
        } else if ((c == '}' || c == ']') && !members.empty()) {
            members.pop_back();
            kinds.pop_back();
        } else if (c == ',' && !members.empty() && ++members.back() >= kMostKeys && kinds.back() == '{') {
            return fmt::format("an object in it has more than {} keys", kMostKeys);
        }
    }
    return std::nullopt;
}

/// More than five tables of SQLite have. Planning looks through all of them for each that a rule names.
constexpr std::size_t kMostColumns = 10'000;

std::string lineAndColumn(std::string_view text, std::size_t byte) {
    const std::string_view before = text.substr(0, std::min(byte, text.size()));
    const auto lines = std::count(before.begin(), before.end(), '\n') + 1;
    const std::size_t lastBreak = before.rfind('\n');
    return fmt::format("line {}, column {}", lines,
                       before.size() - (lastBreak == std::string_view::npos ? 0 : lastBreak + 1));
}

}  // namespace

std::string toJson(const Design& design) {
    Json out = {{"jollyrow", design.version}, {"title", design.title}};
    put(out, "locale", design.locale, std::string());
    out["source"] = jsonOf(design.source);
    addUnknown(out["source"], design.source.unknown);
    out["grid"] = jsonOf(design.grid);
    out["sort"] = Json::array();
    for (const SortDesign& key : design.sort) out["sort"].push_back(jsonOf(key));
    putList(out, "filter", design.filter);
    putList(out, "sortRules", design.sortRules);
    putList(out, "groups", design.groups);
    putList(out, "summaries", design.summaries);
    putList(out, "operators", design.operators);
    putList(out, "parameters", design.parameters);
    putList(out, "faces", design.faces);
    putList(out, "looks", design.looks);
    putList(out, "styles", design.styles);
    putList(out, "banners", design.banners);
    putList(out, "checks", design.checks);
    if (!design.tiers.empty()) out["tiers"] = Json::array();
    for (const TierDesign& tier : design.tiers) out["tiers"].push_back(jsonOf(tier));
    out["columns"] = Json::array();
    for (const ColumnDesign& column : design.columns) out["columns"].push_back(jsonOf(column));
    addUnknown(out, design.unknown);
    return out.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

namespace {

/// The document, where it is one of a version that is known here.
Result<Json> documentIn(std::string_view text) {
    if (const auto why = tooMuch(text))
        return Error{ErrorCode::InvalidInput, fmt::format("This is not a design: {}.", *why)};
    Json json;
    try {
        json = Json::parse(text);
    } catch (const Json::parse_error& failure) {
        const std::size_t at = failure.byte == 0 ? 0 : failure.byte - 1;  // of the character that was not expected
        const std::size_t before = text.substr(0, std::min(at, text.size())).find_last_not_of(" \t\r\n");
        const bool afterComma = before != std::string_view::npos && text[before] == ',';
        return Error{ErrorCode::InvalidInput,
                     at >= text.size()
                         ? fmt::format("This file breaks off after {}: it is not whole. Take an earlier copy.",
                                       lineAndColumn(text, text.size()))
                     : afterComma && (text[at] == '}' || text[at] == ']')
                         ? fmt::format("This is not a design file: there is a comma too many at {}.",
                                       lineAndColumn(text, before))
                         : fmt::format("This is not a design file: it is not JSON at {}.", lineAndColumn(text, at)),
                     TextRange{std::min(at, text.size()), 1}};
    } catch (const Json::exception&) {
        return Error{ErrorCode::InvalidInput, "This is not a design file: a number in it is too large to be read."};
    }
    if (!json.is_object() || !json.contains("jollyrow") || !json["jollyrow"].is_number_integer())
        return Error{ErrorCode::InvalidInput,
                     "This is JSON but not a design of this program: it has no \"jollyrow\" version number."};
    if (json["jollyrow"].get<std::int64_t>() > Design::kVersion)
        return Error{
            ErrorCode::Unsupported,
            fmt::format("This design is of version {}; this program knows versions up to {}. Open it with a newer one.",
                        json["jollyrow"].get<std::int64_t>(), Design::kVersion)};
    return json;
}

}  // namespace

Result<ReadDesign> designFromJson(std::string_view text) {
    const auto document = documentIn(text);
    if (!document) return document.error();
    const Json& json = *document;
    ReadDesign out;
    ObjectReader reader(json, "", out.findings);
    reader.read("jollyrow", out.design.version, 1, Design::kVersion);
    reader.read("title", out.design.title);
    reader.read("locale", out.design.locale);
    if (!out.design.locale.empty() && !isKnownLocale(out.design.locale))
        out.findings.push_back({Severity::Warning, "locale",
                                fmt::format("\"{}\" is no language that is known here; numbers and days are written as "
                                            "without one. It is written like \"de-DE\" (BCP 47).",
                                            out.design.locale),
                                ""});
    if (const Json* source = reader.object("source")) readSource(*source, out.design.source, out.findings);
    if (const Json* grid = reader.object("grid")) readGrid(*grid, out.design.grid, out.findings);
    if (const Json* tiers = reader.array("tiers")) readTiers(*tiers, out.design, out.findings);
    if (const Json* columns = reader.array("columns"); columns && columns->size() > kMostColumns)
        return Error{ErrorCode::InvalidInput,
                     fmt::format("This design has {} columns; {} are the most.", columns->size(), kMostColumns)};
    else if (columns)
        readColumns(*columns, out.design, out.findings);
    if (const Json* sort = reader.array("sort")) readSort(*sort, "sort", out.design.sort, out.findings);
    readRules(reader, out.design, out.findings);
    readGroups(reader, out.design, out.findings);
    readSummaries(reader, out.design, out.findings);
    readFaces(reader, out.design.faces, out.findings);
    readLooks(reader, out.design.looks, out.findings);
    readStyles(reader, out.design.styles, out.findings);
    readBanners(reader, out.design.banners, out.findings);
    out.design.unknown = reader.unknown();
    const std::vector<Finding> settled = settleTiers(out.design);
    out.findings.insert(out.findings.end(), settled.begin(), settled.end());
    return out;
}

}  // namespace jollyrow
