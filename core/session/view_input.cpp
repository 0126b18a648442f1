// SPDX-License-Identifier: MIT
#include "core/session/view_input.h"

#include <algorithm>

#include "core/columns/time_zone.h"
#include "core/rules/conversion.h"
#include "core/rules/query_parameters.h"
#include "core/session/schema_for.h"

namespace jollyrow {
namespace {

/// Which columns of a table are there, the computed ones as soon as what they are made from is.
class Loaded {
  public:
    explicit Loaded(const Table& table) {
        for (const auto& column : table.columns) there_.push_back(column != nullptr);
    }
    bool has(const std::vector<FieldIndex>& fields) const {
        return std::all_of(fields.begin(), fields.end(),
                           [this](FieldIndex field) { return raw(field) < there_.size() && there_[raw(field)]; });
    }
    bool take(const ComputedTerm& term) {
        if (raw(term.field) >= there_.size() || !has(term.program->fields)) return false;
        there_[raw(term.field)] = true;
        return true;
    }

  private:
    std::vector<bool> there_;
};

bool isGiven(const FilterTerm& term, const std::map<std::string, RuleValue>& parameters) {
    const auto& used = term.program->parameters;
    return std::all_of(used.begin(), used.end(), [&](const auto& p) { return parameters.contains(p.name); });
}

void addGroups(const Grouping& grouping, const Loaded& loaded, const ViewState& state, RowlineInput& input) {
    bool levels = !state.isBypassed(Stage::Group), figures = !state.isBypassed(Stage::Summaries);
    for (const PlannedGroup& group : grouping.groups) levels = levels && loaded.has(fieldsOf(group.term.key));
    for (const PlannedSummary& summary : grouping.summaries)
        figures = figures && loaded.has(fieldsOf(summary.spec.rule));
    for (const PlannedLineStyle& style : grouping.styles)
        figures = figures && (!style.having || loaded.has(fieldsOf(style.having->rule)));
    for (const PlannedGroup& group : grouping.groups) {
        if (!levels) break;
        input.groups.push_back(group.term);
        if (!figures) input.groups.back().orderBy.reset();
        input.footers.push_back(group.design.footer);
    }
    for (const PlannedSummary& summary : grouping.summaries)
        if (figures) input.summaries.push_back(summary.spec);
    for (const PlannedLineStyle& style : grouping.styles)
        if (figures && style.having && !grouping.empty()) input.summaries.push_back(*style.having);
}

}  // namespace

RowlineInput viewInput(const ViewPlan& plan, std::shared_ptr<const Table> table, std::shared_ptr<const Edits> edits,
                       const ViewState& state) {
    Loaded loaded(*table);
    RowlineInput input;
    for (const ComputedTerm& term : plan.computed)
        if (loaded.take(term)) input.computed.push_back(term);
    for (const FilterTerm& term : plan.filter)
        if (!state.isBypassed(Stage::Filter) && isGiven(term, state.parameters) && loaded.has(term.program->fields))
            input.filter.push_back(term);
    for (const PlannedBanner& banner : plan.banners) {
        BannerTerm term{{banner.design.where, banner.where}, banner.design.heads};
        if (isGiven(term.where, state.parameters) && loaded.has(banner.where->fields))
            input.banners.push_back(std::move(term));
    }
    for (const SortTerm& term : plan.sort)
        if (!state.isBypassed(Stage::Sort) && loaded.has(fieldsOf(term))) input.sort.push_back(term);
    for (const ExtentTerm& term : plan.extents)
        if (loaded.has(term.fields)) input.extents.push_back(term);
    addGroups(*plan.grouping, loaded, state, input);
    input.open = state.open;
    input.grouping = plan.grouping;
    input.only = state.only;
    input.parameters = state.parameters;
    input.today = zoneOf(table->schema).today();
    input.now = state.now;
    input.loadMilliseconds = state.loadMilliseconds;
    input.table = std::move(table);
    input.edits = std::move(edits);
    return input;
}

EvaluationInput evaluationInput(std::shared_ptr<const Table> table, std::shared_ptr<const Edits> edits,
                                const ViewState& state) {
    EvaluationInput input;
    input.parameters = state.parameters;
    input.today = zoneOf(table->schema).today();
    input.now = state.now;
    input.table = std::move(table);
    input.edits = std::move(edits);
    return input;
}

LoadRequest loadRequest(const Design& design, const TableSchema& schema, std::vector<bool> wanted,
                        const ViewState& state) {
    LoadRequest request;
    request.binding = bindingFor(design, schema);
    wanted.resize(schema.storedFields());
    request.wanted = std::move(wanted);
    for (const std::string& name : parametersIn(request.binding.query))
        if (const auto given = state.parameters.find(name); given != state.parameters.end())
            request.parameters.emplace(name, plainValue(given->second));
    return request;
}

}  // namespace jollyrow
