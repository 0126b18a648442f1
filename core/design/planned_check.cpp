// SPDX-License-Identifier: MIT
// Covered by tests/design/check_test.cpp.
#include "core/design/planned_check.h"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

#include "core/design/condition.h"
#include "core/design/message_arguments.h"
#include "core/design/plan.h"
#include "core/formats/text_format.h"
#include "core/rules/syntax.h"
#include "core/rules/utf8.h"

namespace jollyrow {
namespace {

class CheckPlanner {
  public:
    CheckPlanner(const Design& design, const TableSchema& schema, const Registered* registered,
                 std::vector<Finding>& findings)
        : design_(design), schema_(schema), vocabulary_(vocabularyOf(design, registered)), findings_(findings) {
        for (const ColumnDesign& column : design.columns) columns_.emplace(column.field, &column);
    }

    std::optional<PlannedCheck> plan(const CheckDesign& check) {
        PlannedCheck planned;
        planned.design = check;
        if (!check.field.empty()) {
            planned.field = schema_.find(check.field);
            if (!planned.field) return say(check, fmt::format("There is no column {}.", check.field));
        }
        auto rule = ruleOf(check.rule);
        if (!rule) return say(check, rule.error().message);
        if (!(*rule)->windows.empty()) return say(check, "A check is over one record; this rule sums up others.");
        planned.rule = std::move(*rule);
        planned.fields = planned.rule->fields;
        if (check.message.empty()) {
            planned.design.message = fmt::format("This does not hold: {}", check.rule);
        } else if (check.message.find('{') != std::string::npos) {
            TextFormat format;
            format.spec.style = FormatStyle::Message;
            format.spec.pattern = check.message;
            format.locale = design_.locale;
            auto message = formatterFor(format, schema_, design_);
            if (!message) return say(check, message.error().message);
            planned.message = std::move(*message);
        }
        return planned;
    }

    /// What one field's declaration demands.
    void addDemands(FieldIndex index, std::vector<PlannedCheck>& out) const {
        const FieldSchema& field = schema_.field(index);
        if (field.join != 0 || field.generated || !field.rule.empty()) return;
        const auto add = [&](PlannedCheck::Demand demand, std::string message) {
            PlannedCheck planned;
            planned.design.name = field.name;
            planned.design.field = field.name;
            planned.design.message = std::move(message);
            planned.field = index;
            planned.fields = {index};
            planned.demand = demand;
            planned.whereEdited = true;
            out.push_back(std::move(planned));
        };
        // A key that nobody enters is given by the database.
        const bool isGiven = field.defaultSql || (field.primaryKeyRank == 1 && field.type == Type::Integer);
        if (field.required && !isGiven)
            add(PlannedCheck::Demand::Filled, fmt::format("{} must not be empty.", headingOf(field)));
        if (field.maxLength > 0 && field.type == Type::Text)
            add(PlannedCheck::Demand::Length,
                fmt::format("{} takes at most {} characters.", headingOf(field), field.maxLength));
        if (!field.permitted.empty()) add(PlannedCheck::Demand::Permitted, permittedWords(field));
    }

    /// What a column's pattern demands of its texts.
    std::optional<PlannedCheck> planPattern(const ColumnDesign& column) {
        if (column.entry.pattern.empty()) return std::nullopt;
        const auto field = schema_.find(column.field);
        if (!field) return std::nullopt;
        const auto leftOut = [&](const std::string& why) {
            findings_.push_back(
                {Severity::Warning,
                 "columns/" + column.field + "/entry/pattern",
                 fmt::format("The pattern of {} is left out. {}", headingOf(schema_.field(*field)), why),
                 {}});
            return std::nullopt;
        };
        if (schema_.field(*field).type != Type::Text)
            return leftOut(fmt::format("Patterns are for texts; this is {}.", article(schema_.field(*field).type)));
        auto pattern = EntryPattern::make(column.entry.pattern);
        if (!pattern) return leftOut(pattern.error().message);
        PlannedCheck planned;
        planned.design.name = "pattern of " + column.field;
        planned.design.field = column.field;
        planned.design.message =
            column.hint.empty()
                ? fmt::format("{} must match {}.", headingOf(schema_.field(*field)), column.entry.pattern)
                : fmt::format("{} must look like {}.", headingOf(schema_.field(*field)), column.hint);
        planned.field = field;
        planned.fields = {*field};
        planned.demand = PlannedCheck::Demand::Pattern;
        planned.pattern = std::move(*pattern);
        planned.whereEdited = true;
        return planned;
    }

    /// A CHECK of the table, where it is a rule of ours that means the same.
    std::optional<PlannedCheck> planDatabases(const std::string& sql) const {
        auto rule = ruleOf(sql);
        if (!rule || !(*rule)->windows.empty() || (*rule)->fields.empty()) return std::nullopt;
        // Texts are compared by the database's collation and its own LIKE, doubles by its arithmetic: what it would
        // take must never be refused here.
        for (const FieldIndex field : (*rule)->fields) {
            const Type type = schema_.field(field).type;
            if (type != Type::Integer && type != Type::Decimal && type != Type::Date) return std::nullopt;
        }
        PlannedCheck planned;
        planned.design.name = sql;
        planned.design.rule = sql;
        planned.design.message = fmt::format("The database demands: {}", sql);
        planned.rule = std::move(*rule);
        planned.fields = planned.rule->fields;
        if (planned.fields.size() == 1) {
            planned.field = planned.fields.front();
            planned.design.field = schema_.field(*planned.field).name;
            if (!schema_.field(*planned.field).permitted.empty()) return std::nullopt;  // said already
        }
        planned.whereEdited = true;
        return planned;
    }

  private:
    Result<std::shared_ptr<const Program>> ruleOf(const std::string& rule) const {
        BindOptions options;
        options.expected = RuleKind::Boolean;
        return compileRule(rule, schema_, vocabulary_, options);
    }
    std::string headingOf(const FieldSchema& field) const {
        const auto column = columns_.find(field.name);
        return column != columns_.end() && !column->second->heading.empty() ? column->second->heading : field.name;
    }
    std::string permittedWords(const FieldSchema& field) const {
        constexpr std::size_t kMostNamed = 8;
        std::string words;
        for (std::size_t i = 0; i < std::min(field.permitted.size(), kMostNamed); ++i)
            words += (i == 0 ? "" : ", ") + field.permitted[i];
        if (field.permitted.size() > kMostNamed) words += ", …";
        return fmt::format("{} takes only: {}.", headingOf(field), words);
    }
    std::nullopt_t say(const CheckDesign& check, const std::string& why) {
        findings_.push_back({Severity::Warning,
                             "checks/" + check.name,
                             fmt::format("The check {} is left out. {}", check.name, why),
                             {}});
        return std::nullopt;
    }

    const Design& design_;
    const TableSchema& schema_;
    std::unordered_map<std::string_view, const ColumnDesign*> columns_;  ///< by field
    RuleVocabulary vocabulary_;
    std::vector<Finding>& findings_;
};

Value valueOf(const EvaluationInput& input, SourceRow row, FieldIndex field) {
    const CellEdit* edit = input.edits ? input.edits->find(row, field) : nullptr;
    if (edit) return edit->value;
    const Column* column = raw(field) < input.table->columns.size() ? input.table->column(field) : nullptr;
    return column ? column->value(row) : Value(Empty{});
}

enum class Verdict {
    Kept,
    Broken,
    Untold,  ///< it took too long to tell; a pattern that is not known to fit does not let a value pass
};

Verdict fitOf(const EntryPattern& pattern, const std::string& text) {
    switch (pattern.fit(text)) {
        case EntryPattern::Fit::Whole: return Verdict::Kept;
        case EntryPattern::Fit::Unknown: return Verdict::Untold;
        case EntryPattern::Fit::Begun:
        case EntryPattern::Fit::None: break;
    }
    return Verdict::Broken;
}

Verdict verdictOn(const PlannedCheck& check, const FieldSchema& field, const Value& value) {
    const auto told = [](bool isKept) { return isKept ? Verdict::Kept : Verdict::Broken; };
    const auto* text = std::get_if<std::string>(&value);
    switch (check.demand) {
        case PlannedCheck::Demand::None: return Verdict::Kept;
        case PlannedCheck::Demand::Filled: return told(!isEmpty(value));
        case PlannedCheck::Demand::Length:
            return told(!text || codePointCount(*text) <= static_cast<std::size_t>(field.maxLength));
        case PlannedCheck::Demand::Permitted:
            return told(!text ||
                        std::find(field.permitted.begin(), field.permitted.end(), *text) != field.permitted.end());
        case PlannedCheck::Demand::Pattern:
            return !text || text->empty() ? Verdict::Kept : fitOf(*check.pattern, *text);
    }
    return Verdict::Kept;
}

/// The checks made ready for some records. Only a rule that is false is broken: an empty value breaks none, and one
/// that cannot be worked out is said by the database, if at all.
class Breaking {
  public:
    Breaking(const std::vector<PlannedCheck>& checks, const EvaluationInput& input) : checks_(checks), input_(input) {
        input_.forFew = true;
        runners_.resize(checks.size());
    }
    Verdict verdict(std::size_t at, SourceRow row) {
        const PlannedCheck& check = checks_[at];
        if (check.demand != PlannedCheck::Demand::None)
            return verdictOn(check, input_.table->schema.field(*check.field), valueOf(input_, row, *check.field));
        for (const FieldIndex field : check.fields)
            if (raw(field) >= input_.table->columns.size() || !input_.table->column(field))
                return Verdict::Kept;  // to come
        if (!runners_[at]) {
            auto evaluation = Evaluation::prepare(check.rule, input_, Cancel());
            if (!evaluation) return Verdict::Kept;
            runners_[at] = std::make_unique<Runner>(*evaluation);
        }
        const EvaluatedCell cell = cellOf(runners_[at]->run(raw(row), 1), 0);
        return cell.state == CellState::Filled && cell.value == RuleValue(false) ? Verdict::Broken : Verdict::Kept;
    }

  private:
    const std::vector<PlannedCheck>& checks_;
    EvaluationInput input_;
    std::vector<std::unique_ptr<Runner>> runners_;  ///< by check, when first asked for
};

std::vector<RecordProblem> problemsOfOne(const std::vector<PlannedCheck>& checks, const EvaluationInput& input,
                                         SourceRow row, Breaking& breaking) {
    std::vector<RecordProblem> problems;
    const RecordEdit* record = input.edits->record(row);
    if (!record || record->change() == RecordChange::Delete) return problems;
    const bool isNew = record->change() == RecordChange::Insert && record->fate()->state != EditState::Saved;
    const auto isEdited = [&](FieldIndex field) {
        const CellEdit* edit = record->find(field);
        return edit && isUnsaved(edit->state);
    };
    const auto& cells = record->cells();
    if (!isNew && std::none_of(cells.begin(), cells.end(),
                               [](const RecordEdit::Cell& cell) { return isUnsaved(cell.second.state); }))
        return problems;
    for (std::size_t i = 0; i < checks.size(); ++i) {
        const PlannedCheck& check = checks[i];
        const bool isAsked =
            isNew || !check.whereEdited || std::any_of(check.fields.begin(), check.fields.end(), isEdited);
        const auto known = std::find_if(problems.begin(), problems.end(), [&](const RecordProblem& problem) {
            return check.field ? problem.fields == std::vector{*check.field} : problem.fields.empty();
        });
        const Verdict verdict = !isAsked || known != problems.end() ? Verdict::Kept : breaking.verdict(i, row);
        if (verdict == Verdict::Kept) continue;
        RecordProblem problem;
        if (check.field) problem.fields = {*check.field};
        problem.check = check.design.name;
        problem.isWarning = check.design.warning;
        if (verdict == Verdict::Untold)
            problem.message = check.design.message + " Whether it does took too long to tell.";
        else if (check.message)
            check.message->appendMessage(problem.message, [&](FieldIndex field) { return valueOf(input, row, field); });
        else
            problem.message = check.design.message;
        for (const RecordProblem& before : record->problems())
            if (before.check == problem.check && before.message == problem.message)
                problem.isOverridden = before.isOverridden;
        problems.push_back(std::move(problem));
    }
    return problems;
}

}  // namespace

std::vector<PlannedCheck> plannedChecks(const Design& design, const TableSchema& schema, const Registered* registered,
                                        std::vector<Finding>& findings) {
    std::vector<PlannedCheck> planned;
    CheckPlanner planner(design, schema, registered, findings);
    for (const ColumnDesign& column : design.columns)
        if (auto one = planner.planPattern(column)) planned.push_back(std::move(*one));
    for (const CheckDesign& check : design.checks)
        if (check.on)
            if (auto one = planner.plan(check)) planned.push_back(std::move(*one));
    if (!schema.writable) return planned;
    for (std::size_t i = 0; i < schema.storedFields(); ++i) planner.addDemands(static_cast<FieldIndex>(i), planned);
    for (const std::string& sql : schema.checks)
        if (auto one = planner.planDatabases(sql)) planned.push_back(std::move(*one));
    return planned;
}

std::vector<std::string> fieldNamesOf(const std::vector<CheckDesign>& checks) {
    std::vector<std::string> names;
    for (const CheckDesign& check : checks) {
        const auto read = columnsNamed(check.rule);
        names.insert(names.end(), read.begin(), read.end());
        forEachArgument(check.message, [&](const std::string& name, bool) { names.push_back(name); });
    }
    return names;
}

std::vector<std::vector<RecordProblem>> problemsOf(const std::vector<PlannedCheck>& checks,
                                                   const EvaluationInput& input, std::span<const SourceRow> rows) {
    std::vector<std::vector<RecordProblem>> all(rows.size());
    if (checks.empty() || !input.edits) return all;
    auto some = std::make_shared<Edits>();
    for (const SourceRow row : rows)
        if (const RecordEdit* record = input.edits->record(row)) some->setRecord(row, *record);
    EvaluationInput few = input;
    few.edits = std::move(some);
    Breaking breaking(checks, few);
    for (std::size_t i = 0; i < rows.size(); ++i) all[i] = problemsOfOne(checks, few, rows[i], breaking);
    return all;
}

bool isBlocked(const RecordEdit& record) {
    return std::any_of(record.problems().begin(), record.problems().end(),
                       [](const RecordProblem& problem) { return problem.blocks() && !problem.isForeseen; });
}

bool onlyWaits(const RecordEdit& record) {
    const auto& problems = record.problems();
    return isBlocked(record) && std::none_of(problems.begin(), problems.end(), [](const RecordProblem& problem) {
               return problem.blocks() && !problem.isForeseen && !problem.isWaiting;
           });
}

const RecordProblem* problemAt(const RecordEdit& record, FieldIndex field) {
    for (const RecordProblem& problem : record.problems())
        if (std::find(problem.fields.begin(), problem.fields.end(), field) != problem.fields.end()) return &problem;
    return nullptr;
}

std::string failingRule(const CheckDesign& check) { return fmt::format("NOT ({})", check.rule); }

}  // namespace jollyrow
