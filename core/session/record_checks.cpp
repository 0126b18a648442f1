// SPDX-License-Identifier: MIT
// Covered by tests/session/record_checks_test.cpp.
#include "core/session/record_checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <exception>

#include "core/formats/text_format.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostRemembered = 20'000;

std::string plainOf(const Value& value) {
    std::string text;
    appendDisplay(text, value, {});
    return text;
}

bool isNewDraft(const RecordEdit& edit) {
    return edit.change() == RecordChange::Insert && edit.fate()->state != EditState::Saved;
}

bool isTyped(const RecordEdit& edit, FieldIndex field) {
    const CellEdit* cell = edit.find(field);
    return cell && isUnsaved(cell->state);
}

/// All that an answer may hang on: what is typed of the record, and that it is this one.
std::vector<Value> valuesTyped(const RecordEdit& edit) {
    std::vector<Value> values;
    for (const auto& [field, cell] : edit.cells()) {
        values.emplace_back(static_cast<std::int64_t>(raw(field)));
        values.push_back(cell.value);
    }
    return values;
}

std::string fieldsInWords(const RecordChecks::Record& record, const std::vector<FieldIndex>& fields,
                          const std::vector<Value>& values) {
    std::string words;
    for (std::size_t i = 0; i < fields.size(); ++i)
        words += fmt::format("{}{} {}", i == 0 ? "" : " and ",
                             record.heading ? record.heading(fields[i]) : record.schema.field(fields[i]).name,
                             plainOf(values[i]));
    return words;
}

}  // namespace

void RecordChecks::set(std::vector<RecordCheck> checks) {
    checks_ = std::move(checks);
    asked_.clear();
}

void RecordChecks::forget() {
    asked_.clear();
    wanted_.clear();
    constraints_.reset();
}

namespace {

ReadRecord readerOf(const RecordChecks::Record& record) {
    return [&record](std::string_view name) {
        const auto field = record.schema.find(name);
        return field ? record.read(*field) : Value(Empty{});
    };
}

/// What a function of the application throws is something to be told, too.
template <class Work>
std::string guarded(const RecordCheck& check, const Work& work) {
    try {
        return work();
    } catch (const std::exception& error) {
        return fmt::format("The check {} could not be made: {}", check.name, error.what());
    } catch (...) {
        return fmt::format("The check {} could not be made.", check.name);
    }
}

bool isToCheck(const RecordEdit& edit) {
    const auto& cells = edit.cells();
    return edit.change() != RecordChange::Delete &&
           (isNewDraft(edit) ||
            std::any_of(cells.begin(), cells.end(), [](const auto& cell) { return isUnsaved(cell.second.state); }));
}

/// Of a field, and of the record, the first problem is said. `say(isWaiting)` answers the message.
template <class Say>
void addProblem(const RecordCheck& check, const RecordChecks::Record& record, std::vector<RecordProblem>& problems,
                const Say& say) {
    RecordProblem problem;
    if (!check.field.empty()) {
        const auto field = record.schema.find(check.field);
        if (!field) return;
        problem.fields = {*field};
    }
    if (std::any_of(problems.begin(), problems.end(), [&](const auto& p) { return p.fields == problem.fields; }))
        return;
    problem.message = say(problem.isWaiting);
    if (problem.message.empty() && !problem.isWaiting) return;
    if (problem.isWaiting) problem.message = "This is still being checked.";
    problem.check = check.name;
    problem.isWarning = check.warning && !problem.isWaiting;
    for (const RecordProblem& before : record.edit.problems())
        if (before.check == problem.check && before.message == problem.message)
            problem.isOverridden = before.isOverridden;
    problems.push_back(std::move(problem));
}

}  // namespace

/// What a check that answers later has answered of these very values, asking it when it was not.
std::string RecordChecks::answerOf(const RecordCheck& check, const Record& record, bool& isWaiting) {
    const auto key = std::pair(record.row, check.name);
    const std::vector<Value> values = valuesTyped(record.edit);
    if (const auto known = asked_.find(key); known != asked_.end() && known->second.values == values) {
        isWaiting = known->second.state == State::Waiting;
        return known->second.message;
    }
    if (asked_.size() >= kMostRemembered)
        std::erase_if(asked_, [](const auto& asked) { return asked.second.state == State::Answered; });
    const std::uint64_t number = next_++;
    asked_[key] = {values, State::Waiting, {}, number};
    asking_ = true;
    const std::string failed = guarded(check, [&] {
        check.ask(readerOf(record), [this, alive = std::weak_ptr<bool>(alive_), key, number](std::string message) {
            if (alive.expired()) return;
            const auto asked = asked_.find(key);
            if (asked == asked_.end() || asked->second.number != number || asked->second.state == State::Answered)
                return;  // of older values, or said twice
            asked->second.state = State::Answered;
            asked->second.message = std::move(message);
            if (!asking_) answered_(key.first);
        });
        return std::string();
    });
    asking_ = false;
    Asked& asked = asked_[key];
    if (!failed.empty()) {
        asked.state = State::Answered;
        asked.message = failed;
    }
    isWaiting = asked.state == State::Waiting;
    return asked.message;
}

void RecordChecks::addJudged(const Record& record, std::vector<RecordProblem>& problems) {
    if (checks_.empty() || !isToCheck(record.edit)) return;
    for (const RecordCheck& check : checks_)
        addProblem(check, record, problems, [&](bool& isWaiting) {
            if (check.judge) return guarded(check, [&] { return check.judge(readerOf(record)); });
            return check.ask ? answerOf(check, record, isWaiting) : std::string();
        });
}

void RecordChecks::addJudgedAtOnce(const Record& record, std::vector<RecordProblem>& problems) const {
    if (!isToCheck(record.edit)) return;
    for (const RecordCheck& check : checks_)
        if (check.judge)
            addProblem(check, record, problems,
                       [&](bool&) { return guarded(check, [&] { return check.judge(readerOf(record)); }); });
}

const std::vector<RecordChecks::Constraint>& RecordChecks::constraintsOf(const TableSchema& schema) {
    if (constraints_) return *constraints_;
    std::vector<Constraint> all;
    const auto indexes = [&](const std::vector<std::string>& names) {
        std::vector<FieldIndex> fields;
        for (const std::string& name : names)
            if (const auto field = schema.find(name); field && schema.field(*field).join == 0) fields.push_back(*field);
        return fields.size() == names.size() ? fields : std::vector<FieldIndex>{};
    };
    const auto add = [&](std::string name, std::vector<FieldIndex> fields, std::optional<ForeignKey> link) {
        for (const FieldIndex field : fields) name += " " + schema.field(field).name;
        const bool isKnown =
            std::any_of(all.begin(), all.end(), [&](const Constraint& constraint) { return constraint.name == name; });
        if (!fields.empty() && !isKnown) all.push_back({std::move(name), std::move(fields), std::move(link)});
    };
    for (std::size_t i = 0; i < schema.storedFields(); ++i)
        if (schema.fields[i].unique && schema.fields[i].join == 0)
            add("unique", {static_cast<FieldIndex>(i)}, std::nullopt);
    for (const auto& names : schema.uniqueKeys) add("unique", indexes(names), std::nullopt);
    for (const ForeignKey& link : schema.foreignKeys)
        if (link.targetFields.size() == link.fields.size()) add("link", indexes(link.fields), link);
    constraints_ = std::move(all);
    return *constraints_;
}

void RecordChecks::addPresence(const Record& record, const std::function<RecordRequest()>& itself,
                               std::vector<RecordProblem>& problems) {
    if (!record.schema.writable || record.edit.change() == RecordChange::Delete) return;
    const bool isNew = isNewDraft(record.edit);
    for (const Constraint& constraint : constraintsOf(record.schema)) {
        const auto key = std::pair(record.row, constraint.name);
        const auto& fields = constraint.fields;
        std::vector<Value> values;
        for (const FieldIndex field : fields) values.push_back(record.read(field));
        const bool isAsked =
            std::any_of(fields.begin(), fields.end(), [&](FieldIndex f) { return isTyped(record.edit, f); }) &&
            std::none_of(values.begin(), values.end(), [](const Value& v) {
                return isEmpty(v) || std::holds_alternative<Unfit>(v) || std::holds_alternative<Unread>(v);
            });
        if (!isAsked) {
            wanted_.erase(key);
            continue;
        }
        const auto known = wanted_.find(key);
        if (known == wanted_.end() || known->second.values != values) {
            if (wanted_.size() >= kMostRemembered) wanted_.clear();
            Wanted wanted;
            wanted.values = values;
            wanted.request.table = constraint.link ? constraint.link->table : record.schema.name;
            for (std::size_t i = 0; i < fields.size(); ++i) {
                const FieldSchema& field = record.schema.field(fields[i]);
                wanted.request.fields.push_back(constraint.link ? constraint.link->targetFields[i] : field.name);
                wanted.request.forms.push_back(field);
            }
            wanted.request.values = std::move(values);
            if (!constraint.link && !isNew) wanted.request.except = itself();
            wanted_[key] = std::move(wanted);
            continue;
        }
        const Wanted& wanted = known->second;
        if (!wanted.isKnown || wanted.isPresent == constraint.link.has_value()) continue;
        RecordProblem problem;
        problem.fields = fields.size() == 1 ? std::vector{fields.front()} : std::vector<FieldIndex>{};
        if (std::any_of(problems.begin(), problems.end(), [&](const auto& p) { return p.fields == problem.fields; }))
            continue;
        problem.check = constraint.name;
        problem.isForeseen = true;
        problem.message = constraint.link ? fmt::format("There is no record of {} for {}.", constraint.link->table,
                                                        fieldsInWords(record, fields, wanted.values))
                                          : fmt::format("There is another record with {}.",
                                                        fieldsInWords(record, fields, wanted.values));
        problems.push_back(std::move(problem));
    }
}

void RecordChecks::doubt(std::string_view table) {
    for (auto& [key, wanted] : wanted_)
        if (wanted.request.table == table) wanted.isInDoubt = true;
}

std::vector<RecordChecks::Question> RecordChecks::open() const {
    std::vector<Question> all;
    for (const auto& [key, wanted] : wanted_)
        if (!wanted.isKnown || wanted.isInDoubt) all.push_back({key.first, key.second, wanted.request});
    return all;
}

bool RecordChecks::take(const Question& question, bool isPresent) {
    const auto wanted = wanted_.find({question.row, question.constraint});
    if (wanted == wanted_.end() || wanted->second.values != question.request.values) return false;
    const bool isNews = !wanted->second.isKnown || wanted->second.isPresent != isPresent;
    wanted->second.isKnown = true;
    wanted->second.isInDoubt = false;
    wanted->second.isPresent = isPresent;
    return isNews;
}

}  // namespace jollyrow
