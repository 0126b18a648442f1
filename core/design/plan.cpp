// SPDX-License-Identifier: MIT
// Idea: one walk over the columns in display order. What is shown gets the next place across, or a place beneath
// another where it stands under one; tiers then are the runs of columns with the same name on the same level. Folded
// tiers leave their lead column only. Covered by tests/design/design_test.cpp and, for tiers,
// tests/design/tier_tree_test.cpp.
#include "core/design/plan.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <unordered_map>

#include "core/base/near_name.h"
#include "core/design/condition.h"
#include "core/design/message_arguments.h"
#include "core/design/planned_banner.h"
#include "core/design/planned_line_style.h"
#include "core/design/tier_tree.h"
#include "core/rules/conversion.h"
#include "core/rules/query_parameters.h"
#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

Alignment naturalAlignment(const PlannedColumn& column, Type type) {
    if (column.formatter->isMessage() || column.label) return Alignment::Left;
    if (type == Type::Boolean)
        return column.format.spec.style == FormatStyle::Words ? Alignment::Left : Alignment::Center;
    if (type == Type::Binary) return Alignment::Center;
    return isNumber(type) ? Alignment::Right : Alignment::Left;
}

class Planner {
  public:
    Planner(const Design& design, const TableSchema& schema, const ViewPlan* previous, const Registered* registered)
        : design_(design), schema_(schema), registered_(registered) {
        for (std::size_t i = 0; i < schema.fields.size(); ++i)
            fields_.emplace(schema.fields[i].name, static_cast<FieldIndex>(i));
        if (previous)
            for (const PlannedColumn& column : previous->columns) known_.emplace(column.design.field, &column);
        for (const ColumnDesign& column : design.columns) designed_.emplace(column.field, &column);
        for (const TierDesign& tier : design.tiers) tiers_.emplace(tier.name, &tier);
    }

    ViewPlan run() {
        plan_.wanted.assign(schema_.fields.size(), false);
        for (std::size_t i = 0; i < schema_.fields.size(); ++i)
            plan_.wanted[i] = schema_.fields[i].type != Type::Binary;
        plan_.computed = computedTerms(design_, schema_, registered_);
        findLeads();
        checkSource();
        checkLook();
        plan_.columns.reserve(design_.columns.size());
        for (const ColumnDesign& column : design_.columns) addColumn(column);
        placeBeneath();
        addTiers();
        for (const PlannedColumn& column : plan_.columns)
            for (std::size_t i = 0; column.face && i < column.face->parts.size(); ++i)
                if (const PlannedPart& part = column.face->parts[i];
                    part.isRecorded &&
                    std::find(plan_.recorded.begin(), plan_.recorded.end(), *part.field) == plan_.recorded.end())
                    plan_.recorded.push_back(*part.field);
        plan_.styles = plannedStyles(design_, schema_, registered_, plan_.findings);
        for (const PlannedStyle& style : plan_.styles)
            for (std::size_t i = 0; style.design.isByPlace() && i < style.fields.size(); ++i)
                addExtent(scaleTermOf(style.fields[i]));
        for (PlannedColumn& column : plan_.columns)
            column.hasIcons = std::any_of(plan_.styles.begin(), plan_.styles.end(), [&](const PlannedStyle& style) {
                return !style.design.icons.empty() &&
                       std::find(style.fields.begin(), style.fields.end(), column.field) != style.fields.end();
            });
        plan_.banners = plannedBanners(design_, schema_, registered_, plan_.columns, plan_.findings);
        plan_.checks = plannedChecks(design_, schema_, registered_, plan_.findings);
        for (std::size_t i = 0; i < design_.sort.size(); ++i) addSort(design_.sort[i], static_cast<int>(i) + 1);
        for (std::size_t i = 0; i < design_.filter.size(); ++i) addFilter(i);
        for (std::size_t i = 0; i < design_.summaries.size(); ++i) addSummary(i);
        grouping_.styles = plannedLineStyles(design_, schema_, registered_, plan_.findings);
        for (std::size_t i = 0; i < design_.groups.size(); ++i) addGroup(i);
        plan_.grouping = std::make_shared<const Grouping>(std::move(grouping_));
        for (const std::string& name : parametersIn(design_.source.query)) addParameterOfQuery(name);
        addVersion();
        addChangedBy();
        lookAtParameters();
        addFieldsRead(plan_, plan_.wanted);  // binary data is loaded only where it is read
        return std::move(plan_);
    }

  private:
    std::optional<FieldIndex> find(const std::string& name) const {
        const auto found = fields_.find(name);
        return found == fields_.end() ? std::nullopt : std::optional(found->second);
    }

    using TierPath = std::vector<const TierDesign*>;

    /// The outermost first. As tierPath() has them, without a search through all tiers for each.
    const TierPath& pathOf(const std::string& name) {
        static const TierPath kNone;
        if (name.empty()) return kNone;
        const auto [known, isNew] = paths_.try_emplace(name);
        TierPath& path = known->second;
        for (auto at = isNew ? tiers_.find(name) : tiers_.end(); at != tiers_.end() && path.size() <= tiers_.size();
             at = tiers_.find(at->second->parent))
            path.push_back(at->second);
        if (isNew) std::reverse(path.begin(), path.end());
        return path;
    }

    bool isCandidate(const ColumnDesign& column) const {
        return column.shown && !column.hiddenFromUsers && fields_.contains(column.field);
    }

    /// The column that stays of each folded tier.
    void findLeads() {
        if (std::none_of(design_.tiers.begin(), design_.tiers.end(), [](const TierDesign& t) { return t.folded; }))
            return;
        for (const ColumnDesign& column : design_.columns) {
            if (!isCandidate(column)) continue;
            for (const TierDesign* tier : pathOf(column.tier)) {
                if (!tier->folded) continue;
                std::string& lead = leads_[tier->name];
                if (lead.empty() || column.field == tier->lead) lead = column.field;
            }
        }
    }

    /// False when a folded tier hides it; counts it there.
    bool survivesFolds(const ColumnDesign& column) {
        if (leads_.empty()) return true;
        for (const TierDesign* tier : pathOf(column.tier)) {
            const auto lead = leads_.find(tier->name);
            if (lead == leads_.end()) continue;
            if (column.field == lead->second || column.under == lead->second) return true;
            ++folded_[tier->name];
            return false;
        }
        return true;
    }

    /// Entries that are like a field: there must be one, with values of the parameter's type.
    void lookAtParameters() {
        for (const ParameterDesign& parameter : design_.parameters) {
            if (parameter.like.empty()) continue;
            const auto field = find(parameter.like);
            const std::string where = fmt::format("parameters/{}/like", parameter.name);
            if (!field)
                missing(where, parameter.like, parameter.type, Mending::None);
            else if (schema_.field(*field).type != parameter.type)
                plan_.findings.push_back(
                    {Severity::Warning,
                     where,
                     fmt::format("{} is {} and cannot be entered like {}, which is {}. Give it that type.",
                                 parameter.name, article(parameter.type), parameter.like,
                                 article(schema_.field(*field).type)),
                     {},
                     Mending::None,
                     {}});
        }
    }

    void addVersion() {
        const std::string& name = design_.grid.version;
        if (name.empty()) return;
        const auto field = find(name);
        const FieldSchema* version = field ? &schema_.field(*field) : nullptr;
        if (version && version->join == 0 && version->rule.empty() && !version->generated && !version->unread)
            plan_.wanted[raw(*field)] = true;
        else
            plan_.findings.push_back(
                {Severity::Problem,
                 "grid/version",
                 version ? fmt::format("{} cannot count versions of records: nothing can be written there. Edits are "
                                       "compared with the values that they were made on.",
                                       name)
                         : fmt::format("There is no column {} that counts versions. Edits are compared with the values "
                                       "that they were made on.",
                                       name),
                 {}});
    }

    /// Who has changed a record last is read with it.
    void addChangedBy() {
        const std::string& name = design_.grid.changedBy;
        if (name.empty()) return;
        const auto field = find(name);
        const FieldSchema* who = field ? &schema_.field(*field) : nullptr;
        if (who && who->join == 0 && who->rule.empty() && who->type == Type::Text)
            plan_.wanted[raw(*field)] = true;
        else
            plan_.findings.push_back(
                {Severity::Warning,
                 "grid/changedBy",
                 who ? fmt::format("{} is no text of the table itself: conflicts do not name who has changed a record.",
                                   name)
                     : fmt::format("There is no column {} that names who has changed a record.", name),
                 {}});
    }

    void checkLook() {
        const std::string& look = design_.grid.look;
        std::vector<std::string> names(kReadyLooks.begin(), kReadyLooks.end());
        for (const LookDesign& own : design_.looks) names.push_back(own.name);
        if (look.empty() || std::find(names.begin(), names.end(), look) != names.end()) return;
        const auto near = nearestName(look, names);
        plan_.findings.push_back({Severity::Warning,
                                  "grid/look",
                                  fmt::format("There is no look {}; the grid has the application's.{}", look,
                                              near ? fmt::format(" Did you mean {}?", *near) : ""),
                                  {}});
    }

    void checkSource() {
        if (!TimeZone::named(design_.source.zone))
            plan_.findings.push_back(
                {Severity::Warning,
                 "source/zone",
                 fmt::format("There is no time zone {}; the machine's is used. Zones are named like "
                             "Europe/Berlin.",
                             design_.source.zone),
                 {}});
        for (const auto& [field, how] : design_.source.readAs)
            if (how.form != StoredForm::Own && !find(field) && field.find('.') == std::string::npos)
                plan_.findings.push_back(
                    {Severity::Warning,
                     "source/readAs/" + field,
                     fmt::format("{} has no column {} to read as {}.", schema_.name, field, toText(how)),
                     {}});
    }

    void missing(std::string where, const std::string& field, std::optional<Type> type, Mending otherwise) {
        std::vector<std::string> sameType, unused;
        for (const FieldSchema& candidate : schema_.fields) {
            if (designed_.contains(candidate.name) || candidate.join != 0) continue;
            unused.push_back(candidate.name);
            if (type && candidate.type == *type) sameType.push_back(candidate.name);
        }
        auto near = nearestName(field, sameType);
        if (!near && sameType.size() == 1 && unused.size() == 1) near = sameType.front();
        if (!near) near = nearestName(field, unused);
        Finding finding{
            Severity::Problem, std::move(where), {}, near.value_or(""), near ? Mending::RenameField : otherwise, field};
        finding.message = fmt::format("{} has no column {}.{}", schema_.name, field,
                                      near ? fmt::format(" It may be called {} now.", *near)
                                           : " Take it out of the design or add it to the table.");
        plan_.findings.push_back(std::move(finding));
    }

    void addColumn(const ColumnDesign& column) {
        const auto field = find(column.field);
        if (!column.rule.empty() && (!field || schema_.field(*field).rule != column.rule)) {
            plan_.findings.push_back({Severity::Problem,
                                      "columns/" + column.field + "/rule",
                                      whyNotComputed(design_, column, schema_, registered_),
                                      {},
                                      Mending::RemoveColumn,
                                      column.field});
            return;
        }
        if (!field) return missing("columns/" + column.field, column.field, column.type, Mending::RemoveColumn);
        const FieldSchema& found = schema_.field(*field);
        if (column.type && *column.type != found.type)
            plan_.findings.push_back({Severity::Warning,
                                      "columns/" + column.field,
                                      fmt::format("{} held {} when it was designed and holds {} now.", column.field,
                                                  article(*column.type), article(found.type)),
                                      {}});
        if (!isCandidate(column) || !survivesFolds(column)) return;
        plan_.wanted[raw(*field)] = true;
        PlannedColumn& planned = plan_.columns.emplace_back();
        planned.field = *field;
        planned.design = column;
        planned.foreignKey = foreignKeyOf(schema_, column.field);
        if (planned.foreignKey) {
            const std::string& label =
                column.label.empty() ? schema_.foreignKeys[*planned.foreignKey].label : column.label;
            if (!label.empty()) planned.label = find(column.field + "." + label);
        }
        planned.format = textFormatOf(design_, column, found);
        planned.formatter = formatter(planned.format, column);
        planned.alignment =
            column.alignment == Alignment::Automatic ? naturalAlignment(planned, found.type) : column.alignment;
        planned.levels = static_cast<int>(pathOf(column.tier).size());
        addFace(planned);
        planned.editable = schema_.writable && !column.readOnly && !found.generated && found.join == 0 &&
                           (found.type != Type::Binary || showsPicture(planned));
    }

    /// Binary data can be edited where it is seen as what it is.
    static bool showsPicture(const PlannedColumn& planned) {
        return planned.face && std::any_of(planned.face->parts.begin(), planned.face->parts.end(), [&](const auto& p) {
                   return p.design.kind == FacePartKind::Picture && p.field == planned.field;
               });
    }

    void addExtent(const ExtentTerm& term) {
        if (std::find(plan_.extents.begin(), plan_.extents.end(), term) == plan_.extents.end())
            plan_.extents.push_back(term);
    }

    void addFace(PlannedColumn& planned) {
        const FieldSchema& field = schema_.field(planned.field);
        const FacePart* automatic = planned.design.face.empty() ? automaticFace(field.type, field.use) : nullptr;
        if (automatic)
            planned.face =
                plannedFace(design_, {"", *automatic, {}}, planned.design, schema_, registered_, plan_.findings);
        if (planned.design.face.empty()) return;
        if (const FaceDesign* face = design_.findFace(planned.design.face)) {
            planned.face = plannedFace(design_, *face, planned.design, schema_, registered_, plan_.findings);
            for (std::size_t i = 0; planned.face && i < planned.face->parts.size(); ++i)
                if (const auto& extent = planned.face->parts[i].extent) addExtent(*extent);
            return;
        }
        std::vector<std::string> names;
        for (const FaceDesign& face : design_.faces) names.push_back(face.name);
        const auto near = nearestName(planned.design.face, names);
        plan_.findings.push_back(
            {Severity::Warning,
             "columns/" + planned.design.field + "/face",
             fmt::format("There is no face {}; {} is shown by its type.{}", planned.design.face, planned.design.heading,
                         near ? fmt::format(" Did you mean {}?", *near) : ""),
             {}});
    }

    std::shared_ptr<const Formatter> formatter(const TextFormat& format, const ColumnDesign& column) {
        const auto known = known_.find(column.field);
        if (known != known_.end() && known->second->formatter->format() == format &&
            format.spec.style != FormatStyle::Message)
            return known->second->formatter;
        auto made = formatterFor(format, schema_, design_);
        if (made) return *made;
        plan_.findings.push_back(
            {Severity::Warning,
             "columns/" + column.field + "/format",
             fmt::format("The format \"{}\" of {} cannot be used; its values are shown by type. {}",
                         format.spec.pattern, column.field, made.error().message),
             {},
             Mending::DropFormat,
             column.field});
        return Formatter::automatic(format);
    }

    /// Gives places across and lines. A column beneath another takes the first line on which its places are free.
    void placeBeneath() {
        std::unordered_map<std::string_view, int> placeOf;
        for (PlannedColumn& column : plan_.columns) {
            if (!column.design.under.empty() && placeOf.contains(column.design.under)) continue;
            column.place = static_cast<int>(plan_.places.size());
            placeOf.emplace(column.design.field, column.place);
            plan_.places.push_back(static_cast<int>(&column - plan_.columns.data()));
        }
        std::vector<std::vector<bool>> taken;  // by line beneath the first, by place
        for (PlannedColumn& column : plan_.columns) {
            const auto anchor = placeOf.find(column.design.under);
            if (column.design.under.empty() || anchor == placeOf.end() || placeOf.contains(column.design.field))
                continue;
            column.place = anchor->second;
            column.span = std::clamp(column.design.span, 1, static_cast<int>(plan_.places.size()) - column.place);
            // It stays inside the tier of the one above, so that no heading is torn.
            const PlannedColumn& top =
                plan_.columns[static_cast<std::size_t>(plan_.places[static_cast<std::size_t>(column.place)])];
            while (column.span > 1 &&
                   plan_.columns[static_cast<std::size_t>(
                                     plan_.places[static_cast<std::size_t>(column.place + column.span - 1)])]
                           .design.tier != top.design.tier)
                --column.span;
            for (std::size_t line = 0;; ++line) {
                if (line == taken.size()) taken.emplace_back(plan_.places.size(), false);
                const auto begin = taken[line].begin() + column.place, end = begin + column.span;
                if (std::find(begin, end, true) != end) continue;
                std::fill(begin, end, true);
                column.line = static_cast<int>(line) + 1;
                break;
            }
            plan_.recordLines = std::max(plan_.recordLines, column.line + 1);
        }
    }

    void addTiers() {
        for (const PlannedColumn& column : plan_.columns) plan_.tierLevels = std::max(plan_.tierLevels, column.levels);
        for (int level = 0; level < plan_.tierLevels; ++level) {
            const TierDesign* open = nullptr;
            for (int i = 0; i < static_cast<int>(plan_.columns.size()); ++i) {
                const auto& path = pathOf(plan_.columns[static_cast<std::size_t>(i)].design.tier);
                const TierDesign* tier =
                    static_cast<int>(path.size()) > level ? path[static_cast<std::size_t>(level)] : nullptr;
                if (tier && tier == open) {
                    plan_.tiers.back().end = i + 1;
                } else if (tier) {
                    const auto folded = folded_.find(tier->name);
                    plan_.tiers.push_back({*tier, level, i, i + 1, folded == folded_.end() ? 0 : folded->second});
                }
                open = tier;
            }
        }
    }

    void addParameterOfQuery(const std::string& name) {
        if (std::any_of(design_.parameters.begin(), design_.parameters.end(),
                        [&](const ParameterDesign& p) { return p.name == name; }))
            return;
        plan_.findings.push_back({Severity::Warning,
                                  "source/query",
                                  fmt::format("The SELECT has a parameter :{} that the design does not define; it "
                                              "restricts nothing.",
                                              name),
                                  {},
                                  Mending::AddParameter,
                                  name});
    }

    void addSort(const SortDesign& key, int rank) {
        const std::string& subject = !key.by.empty() ? key.by : !key.rule.empty() ? key.rule : key.field;
        if (key.by.empty() && key.rule.empty() && !find(key.field)) {
            const auto column = designed_.find(key.field);
            return missing("sort/" + key.field, key.field,
                           column == designed_.end() ? std::nullopt : column->second->type, Mending::RemoveSort);
        }
        auto terms = sortTermsOf(design_, key, schema_, registered_);
        if (!terms) {
            plan_.findings.push_back(
                {Severity::Problem, "sort/" + subject, terms.error().message, {}, Mending::RemoveSort, subject});
            return;
        }
        plan_.sort.insert(plan_.sort.end(), terms->begin(), terms->end());
        const std::string& shown = !key.field.empty() ? key.field : fieldSortedBy(key);
        if (const auto field = find(shown)) plan_.sortMarks.push_back({*field, rank, key.direction});
    }

    /// The column whose heading sorts by this key's rule.
    const std::string& fieldSortedBy(const SortDesign& key) const {
        static const std::string kNone;
        for (const ColumnDesign& column : design_.columns)
            if (!key.by.empty() && column.sortBy == key.by) return column.field;
        return kNone;
    }

    void addFilter(std::size_t index) {
        const FilterDesign& part = design_.filter[index];
        if (!part.on) return;
        FilterTerm term{part.rule, nullptr};
        BindOptions options;
        options.expected = RuleKind::Boolean;
        auto program = compileRule(part.rule, schema_, vocabularyOf(design_, registered_), options);
        if (!program) {
            plan_.findings.push_back({Severity::Problem,
                                      fmt::format("filter/{}", index),
                                      fmt::format("The condition {} cannot be used and filters nothing. {}", part.rule,
                                                  program.error().message),
                                      {},
                                      Mending::RemoveFilter,
                                      part.rule});
            return;
        }
        term.program = std::move(*program);
        for (const FieldIndex field : term.program->fields)
            if (std::find(plan_.filterMarks.begin(), plan_.filterMarks.end(), field) == plan_.filterMarks.end())
                plan_.filterMarks.push_back(field);
        plan_.filter.push_back(std::move(term));
        plan_.filterParts.push_back(index);
    }

    void addSummary(std::size_t index) {
        const SummaryDesign& summary = design_.summaries[index];
        auto planned = plannedSummary(design_, index, schema_, registered_);
        if (!planned) {
            plan_.findings.push_back(
                {Severity::Problem,
                 "summaries/" + summary.name,
                 fmt::format("The summary {} cannot be had. {}", summary.name, planned.error().message),
                 {},
                 Mending::RemoveSummary,
                 summary.name});
            return;
        }
        summaryAt_.resize(design_.summaries.size());
        summaryAt_[index] = grouping_.summaries.size();
        grouping_.summaries.push_back(std::move(*planned));
    }

    void addGroup(std::size_t index) {
        const GroupDesign& group = design_.groups[index];
        const std::string& subject = group.key.field.empty() ? group.key.rule : group.key.field;
        auto planned = plannedGroup(design_, index, schema_, registered_);
        std::string problem = planned ? std::string() : planned.error().message;
        if (grouping_.groups.size() == kMostGroupLevels)
            problem = fmt::format("{} levels of groups are the most.", kMostGroupLevels);
        if (planned && planned->term.orderBy) {
            // The figures that can be had may be fewer.
            summaryAt_.resize(design_.summaries.size());
            planned->term.orderBy = summaryAt_[*planned->term.orderBy];
            if (!planned->term.orderBy)
                problem = fmt::format("The summary {} that its groups stand by cannot be had.", group.orderBy);
        }
        if (!problem.empty()) {
            plan_.findings.push_back({Severity::Problem,
                                      fmt::format("groups/{}", index),
                                      fmt::format("Grouping by {} is left out. {}", subject, problem),
                                      {},
                                      Mending::RemoveGroup,
                                      subject});
            return;
        }
        grouping_.groups.push_back(std::move(*planned));
    }

    const Design& design_;
    const TableSchema& schema_;
    const Registered* registered_;
    static constexpr std::size_t kMostGroupLevels = 12;
    Grouping grouping_;
    std::vector<std::optional<std::size_t>> summaryAt_;  ///< by the design's summaries their place in the plan
    std::unordered_map<std::string_view, FieldIndex> fields_;
    std::unordered_map<std::string_view, const PlannedColumn*> known_;
    std::unordered_map<std::string_view, const ColumnDesign*> designed_;
    std::unordered_map<std::string_view, const TierDesign*> tiers_;
    std::unordered_map<std::string_view, TierPath> paths_;
    std::unordered_map<std::string, std::string> leads_;
    std::unordered_map<std::string, int> folded_;
    ViewPlan plan_;
};

std::string labelOf(const Design& design, const TableSchema& schema, const std::string& field) {
    const auto link = foreignKeyOf(schema, field);
    if (!link) return {};
    const ColumnDesign* column = design.column(field);
    const std::string& label = column && !column->label.empty() ? column->label : schema.foreignKeys[*link].label;
    return label.empty() ? std::string() : field + "." + label;
}

}  // namespace

std::optional<std::size_t> foreignKeyOf(const TableSchema& schema, std::string_view field) {
    for (std::size_t i = 0; i < schema.foreignKeys.size(); ++i)
        if (schema.foreignKeys[i].fields.size() == 1 && schema.foreignKeys[i].fields.front() == field) return i;
    return std::nullopt;
}

TextFormat textFormatOf(const Design& design, const ColumnDesign& column, const FieldSchema& field) {
    TextFormat format = defaultFormat(field, field.use == Use::LookUp);
    format.spec = column.format;
    format.locale = design.locale;
    return format;
}

Result<std::shared_ptr<const Formatter>> formatterFor(const TextFormat& format, const TableSchema& schema,
                                                      const Design& design) {
    return Formatter::make(format, schema, [&](std::string_view name) -> std::optional<MessageField> {
        const auto field = schema.find(name);
        if (!field) return std::nullopt;
        const std::string label = labelOf(design, schema, std::string(name));
        const auto shown = label.empty() ? std::nullopt : schema.find(label);
        return MessageField{*field, shown.value_or(*field)};
    });
}

std::vector<std::string> relatedFields(const Design& design, const TableSchema& schema) {
    std::vector<std::string> related;
    const auto add = [&](const std::string& field) {
        if (field.find('.') != std::string::npos && !schema.find(field) &&
            std::find(related.begin(), related.end(), field) == related.end())
            related.push_back(field);
    };
    for (const ColumnDesign& column : design.columns) {
        if (column.rule.empty()) add(column.field);
        add(labelOf(design, schema, column.field));
        if (column.format.style == FormatStyle::Message)
            forEachArgument(column.format.pattern, [&](const std::string& name, bool typed) {
                add(name);
                if (!typed) add(labelOf(design, schema, name));
            });
    }
    const auto addRule = [&](const std::string& rule) {
        if (rule.empty()) return;
        for (const std::string& name : columnsNamed(rule)) add(name);
    };
    const auto addKey = [&](const SortDesign& key) {
        add(key.field);
        add(labelOf(design, schema, key.field));
        addRule(key.rule);
    };
    for (const SortDesign& key : design.sort) addKey(key);
    for (const SortRuleDesign& rule : design.sortRules)
        for (const SortDesign& key : rule.keys) addKey(key);
    for (const GroupDesign& group : design.groups) addKey(group.key);
    for (const SummaryDesign& summary : design.summaries) {
        add(fieldOf(summary));
        add(summary.weight);
        addRule(summary.where);
        // A rule with aggregates is none by itself; their words are names enough.
        if (summary.show == SummaryShow::Rule)
            for (const std::string& name : namesIn(summary.rule)) add(name);
    }
    for (const FilterDesign& part : design.filter) addRule(part.rule);
    for (const ColumnDesign& column : design.columns) {
        addRule(column.rule);
        if (const FaceDesign* face = column.face.empty() ? nullptr : design.findFace(column.face))
            for (const std::string& name : fieldNamesOf(face->root)) {
                add(name);
                add(labelOf(design, schema, name));
            }
    }
    for (const std::string& name : fieldNamesOf(design.styles)) add(name);
    for (const std::string& name : fieldNamesOf(design.banners)) add(name);
    for (const std::string& name : fieldNamesOf(design.checks)) add(name);
    return related;
}

void addFieldsRead(const ViewPlan& plan, std::vector<bool>& wanted) {
    for (const PlannedColumn& column : plan.columns) {
        wanted[raw(column.field)] = true;
        if (column.label) wanted[raw(*column.label)] = true;
        for (const FieldIndex field : column.formatter->fieldsRead()) wanted[raw(field)] = true;
        if (!column.face) continue;
        for (const FieldIndex field : column.face->fields) wanted[raw(field)] = true;
    }
    for (const PlannedStyle& style : plan.styles) {
        for (const FieldIndex field : style.fields) wanted[raw(field)] = true;
        if (style.where)
            for (const FieldIndex field : style.where->fields) wanted[raw(field)] = true;
        for (const auto& [own, program] : style.byField)
            for (const FieldIndex field : program->fields) wanted[raw(field)] = true;
    }
    for (const PlannedBanner& banner : plan.banners) {
        for (const FieldIndex field : banner.where->fields) wanted[raw(field)] = true;
        if (!banner.caption) continue;
        for (const FieldIndex field : banner.caption->fieldsRead()) wanted[raw(field)] = true;
    }
    for (const PlannedCheck& check : plan.checks) {
        for (const FieldIndex field : check.fields) wanted[raw(field)] = true;
        if (!check.message) continue;
        for (const FieldIndex field : check.message->fieldsRead()) wanted[raw(field)] = true;
    }
    for (const SortTerm& term : plan.sort)
        for (const FieldIndex field : fieldsOf(term)) wanted[raw(field)] = true;
    for (const FilterTerm& term : plan.filter)
        for (const FieldIndex field : term.program->fields) wanted[raw(field)] = true;
    for (const PlannedGroup& group : plan.grouping->groups)
        for (const FieldIndex field : fieldsOf(group.term.key)) wanted[raw(field)] = true;
    for (const PlannedSummary& summary : plan.grouping->summaries)
        for (const FieldIndex field : fieldsOf(summary.spec.rule)) wanted[raw(field)] = true;
    for (const PlannedLineStyle& style : plan.grouping->styles)
        for (const FieldIndex field : style.having ? fieldsOf(style.having->rule) : std::vector<FieldIndex>())
            wanted[raw(field)] = true;
    for (auto term = plan.computed.rbegin(); term != plan.computed.rend(); ++term)
        if (wanted[raw(term->field)])
            for (const FieldIndex field : term->program->fields) wanted[raw(field)] = true;
}

Result<SortTerm> keyTermOf(const Design& design, const SortDesign& key, const TableSchema& schema,
                           const Registered* registered) {
    SortTerm term;
    term.direction = key.direction;
    term.empties = key.empties;
    term.text = {key.natural, key.strength, design.locale};
    term.values = key.values;
    if (!key.rule.empty()) {
        BindOptions options;
        options.isSortKey = key.values.empty() && key.comparator.empty() && !key.natural;
        auto program = compileRule(key.rule, schema, vocabularyOf(design, registered), options);
        if (!program)
            return Error{program.error().code,
                         fmt::format("The sort key {} cannot be used. {}", key.rule, program.error().message),
                         program.error().where};
        term.program = std::move(*program);
        term.rule = key.rule;
    } else if (const auto known = schema.find(key.field); known && schema.field(*known).type == Type::Interval) {
        // Spans are texts in their column; a rule knows how long they are.
        auto program = compileRule(fieldInRule(key.field), schema, {});
        if (!program) return program.error();
        term.program = std::move(*program);
        term.rule = fieldInRule(key.field);
    } else {
        term.field = known;
        if (!term.field) return Error{ErrorCode::NotFound, fmt::format("{} has no column {}.", schema.name, key.field)};
        // A look-up sorts as it reads: by the label.
        const std::string label = key.values.empty() ? labelOf(design, schema, key.field) : std::string();
        if (const auto labelled = label.empty() ? std::nullopt : schema.find(label)) term.field = labelled;
        const Type type = schema.field(*term.field).type;
        if (type == Type::Binary || type == Type::NumberList)
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} holds {}, which has no order; it does not sort.", key.field, article(type))};
        if (const FieldSchema& field = schema.field(*term.field);
            field.ordered && term.values.empty() && !key.natural && key.comparator.empty())
            term.values = field.permitted;
    }
    if (!key.comparator.empty()) {
        const auto* known = registered ? &registered->comparators : nullptr;
        for (std::size_t i = 0; known && i < known->size(); ++i)
            if ((*known)[i]->name == key.comparator) term.comparator = (*known)[i];
        if (!term.comparator)
            return Error{ErrorCode::NotFound,
                         fmt::format("The application has registered no comparator {}.", key.comparator)};
    }
    return term;
}

Result<std::vector<SortTerm>> sortTermsOf(const Design& design, const SortDesign& key, const TableSchema& schema,
                                          const Registered* registered) {
    std::string by = key.by;
    if (by.empty() && key.rule.empty())
        if (const ColumnDesign* column = design.column(key.field)) by = column->sortBy;
    std::vector<SortDesign> keys{key};
    if (!by.empty()) {
        const SortRuleDesign* rule = design.sortRule(by);
        if (!rule) return Error{ErrorCode::NotFound, fmt::format("There is no sort rule called {}.", by)};
        keys = rule->keys;
        if (key.direction == Direction::Descending)
            for (SortDesign& one : keys)
                one.direction = one.direction == Direction::Ascending ? Direction::Descending : Direction::Ascending;
    }
    std::vector<SortTerm> terms;
    for (const SortDesign& one : keys) {
        auto term = keyTermOf(design, one, schema, registered);
        if (!term) return term.error();
        terms.push_back(std::move(*term));
    }
    return terms;
}

std::map<std::string, RuleValue> parametersOf(const Design& design) {
    const TimeZone* zone = TimeZone::named(design.source.zone);
    std::map<std::string, RuleValue> values;
    for (const ParameterDesign& parameter : design.parameters) {
        if (parameter.value.empty()) continue;
        const auto value =
            convertedConstant(parameter.value, ruleKindOf(parameter.type), zone ? *zone : TimeZone::machine());
        if (value) values.emplace(parameter.name, *value);
    }
    return values;
}

ViewPlan planOf(const Design& design, const TableSchema& schema, const ViewPlan* previous,
                const Registered* registered) {
    return Planner(design, schema, previous, registered).run();
}

}  // namespace jollyrow
