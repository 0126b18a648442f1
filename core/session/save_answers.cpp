// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp and records_test.cpp.
#include "core/session/save_answers.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

namespace jollyrow {

SaveAnswers::SaveAnswers(BoundRecords& bound, RecordFinder& finder, EditedView& view, SessionChecks& checks,
                         Enquiries& enquiries, Hooks hooks)
    : bound_(bound), finder_(finder), view_(view), checks_(checks), enquiries_(enquiries), hooks_(std::move(hooks)) {
    bound_.journal.setConflictWords(
        [this](const Conflict& conflict, const std::string& changedBy) { return wordsOf(conflict, changedBy); });
}

void SaveAnswers::moving() { insertsMayBeRead_ = insertsMayBeRead_ || bound_.journal.isInserting(); }

/// What hangs on a link that was saved meanwhile may have been read before.
void SaveAnswers::moved() {
    bound_.edits()->forEach([this](Edits::Place place, const CellEdit& edit) {
        if (edit.state == EditState::Saved) readRelatedAgain(place.first, {&place.second, 1});
    });
}

/// By the heading of its column, and the value as that shows it; keys of look-ups tell nobody anything.
/// Who has saved the record last need not be who changed this field.
std::string SaveAnswers::wordsOf(const Conflict& conflict, const std::string& changedBy) const {
    if (conflict.isGone()) return words(conflict, bound_.schema);
    const std::string last = changedBy.empty() ? "." : fmt::format("; {} saved the record last.", changedBy);
    const Conflict::Field& first = conflict.fields.front();
    const std::string heading = bound_.design.headingOf(bound_.schema.field(first.field).name);
    for (const PlannedColumn& column : bound_.plan->columns) {
        if (column.field != first.field || column.formatter->isMessage()) continue;
        if (std::holds_alternative<Unfit>(first.stored) || std::holds_alternative<Unread>(first.stored)) break;
        if (column.label) return fmt::format("Somebody changed {} meanwhile{}", heading, last);
        std::string shown;
        column.formatter->append(shown, first.stored);
        return fmt::format("Somebody changed {} to {} meanwhile{}", heading, shown.empty() ? "empty" : shown, last);
    }
    TableSchema named = bound_.schema;
    named.fields[raw(first.field)].name = heading;
    std::string said = words(conflict, named);
    if (!said.empty() && said.back() == '.') said.pop_back();
    return said + last;
}

void SaveAnswers::noteAnswered(const RecordJournal::Answered& answer) {
    if (!answer.isStored) return;
    if (answer.change == RecordChange::Insert) {
        view_.hold(answer.row);
        bound_.history.given(answer.row, answer.given);
    } else if (answer.change == RecordChange::Delete) {
        view_.release(answer.row);
        bound_.history.noteGone({&answer.row, 1});
        bound_.history.noteTakenAlong(answer.row, answer.takenAlong);
    }
    // Those of this table came and went unseen here.
    if (answer.takenAlong && answer.takenAlong->isOf(bound_.schema.name)) hooks_.readAgain();
}

void SaveAnswers::take(std::uint64_t serial, const RecordJournal::Answers& answers) {
    const auto taken = bound_.journal.take(serial, answers, *bound_.table);
    hooks_.taken();
    if (taken.empty()) return;
    std::vector<SourceRow> rows;
    bool linesChanged = false, isStored = false;
    for (const auto& answer : taken) {
        rows.push_back(answer.row);
        linesChanged = linesChanged || (answer.isStored && answer.change != RecordChange::Update);
        isStored = isStored || answer.isStored;
        noteAnswered(answer);
    }
    if (isStored) checks_.doubt(bound_.schema.name);
    readDoubledAgain(taken);
    view_.setEdits(bound_.edits(), rows);
    view_.showEdits(linesChanged ? EditedView::Lines::Changed : EditedView::Lines::Same);
    for (const auto& answer : taken)
        if (answer.isStored && answer.change != RecordChange::Delete) readRelatedAgain(answer.row, answer.fields);
    if (isStored && bound_.design.grid.resortAtOnce && !view_.outOfPlace().empty()) view_.recompute();
    tell(taken);
}

void SaveAnswers::tell(const std::vector<RecordJournal::Answered>& taken) const {
    const auto shown = bound_.edits();  // a listener may edit again
    for (const auto& answer : taken) {
        if (EditHistory::isLost(answer.row)) continue;  // shown as gone already
        for (const FieldIndex field : answer.fields)
            if (const CellEdit* edit = shown->find(answer.row, field); edit && bound_.listener.onEditAnswered)
                bound_.listener.onEditAnswered(answer.row, field, *edit);
        if (bound_.listener.onRecordAnswered) bound_.listener.onRecordAnswered(answer);
    }
}

/// A record that was inserted here, and that the table has, too: read while the store had it and its answer was still
/// on its way. Reading again makes them one.
void SaveAnswers::readDoubledAgain(const std::vector<RecordJournal::Answered>& answers) {
    if (!insertsMayBeRead_) return;
    insertsMayBeRead_ = bound_.journal.isInserting();
    const auto& keys = finder_.known();
    const bool isDoubled = keys && std::any_of(answers.begin(), answers.end(), [&](const auto& answer) {
                               return answer.isStored && answer.change == RecordChange::Insert &&
                                      keys->find(bound_.journal.keyOf(*bound_.table, answer.row));
                           });
    if (isDoubled) hooks_.readAgain();
}

/// Related fields that are read by way of these.
std::vector<FieldIndex> SaveAnswers::relatedBy(std::span<const FieldIndex> changed) const {
    const TableSchema& schema = bound_.schema;
    std::vector<bool> touched(schema.joins.size() + 1, false);
    const auto isChanged = [&](const std::string& name) {
        return std::any_of(changed.begin(), changed.end(),
                           [&](FieldIndex field) { return schema.field(field).name == name; });
    };
    for (std::size_t n = 1; n < touched.size(); ++n) {
        const Join& join = schema.joins[n - 1];
        touched[n] = join.parent != 0 ? touched[static_cast<std::size_t>(join.parent)]
                                      : std::any_of(join.fields.begin(), join.fields.end(), isChanged);
    }
    std::vector<FieldIndex> related;
    for (std::size_t i = 0; i < schema.fields.size(); ++i)
        if (touched[static_cast<std::size_t>(schema.fields[i].join)]) related.push_back(static_cast<FieldIndex>(i));
    return related;
}

/// After a foreign key was saved, the record's related fields are other ones.
void SaveAnswers::readRelatedAgain(SourceRow row, std::span<const FieldIndex> changed) {
    const std::vector<FieldIndex> fields = relatedBy(changed);
    if (fields.empty() || !bound_.table->hasKeys()) return;
    enquiries_.ask(
        [request = bound_.request(row, fields), source = bound_.source] { return source->valuesOf(request); },
        [this, fields, row, table = bound_.table](const Result<std::vector<Value>>& values) {
            if (!values || table != bound_.table) return;
            auto next = bound_.edits();
            for (std::size_t i = 0; i < fields.size(); ++i)
                next = next->with(row, fields[i], {(*values)[i], (*values)[i], EditState::Saved, {}});
            view_.setEdits(std::move(next), row);
            view_.showEdits();
        });
}

}  // namespace jollyrow
