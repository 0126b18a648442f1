// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_record_control.cpp.
#include "grid/api/record_changes.h"

#include <algorithm>

#include "core/formats/text_format.h"
#include "grid/inside/grid_context.h"

namespace jollyrow {
namespace {

QString nameOf(const Record& record) {
    QStringList parts;
    for (const Value& part : record.key()) {
        std::string text;
        appendPlain(text, part);
        if (!text.empty()) parts << QString::fromStdString(text);
    }
    return parts.isEmpty() ? Grid::tr("new") : parts.join(QStringLiteral(", "));
}

int gravity(EditState state) {
    switch (state) {
        case EditState::Saved: return 0;
        case EditState::Saving: return 1;
        case EditState::Draft: return 2;
        case EditState::Conflict: return 3;
        case EditState::Refused: return 4;
    }
    return 0;
}

class ChangeReader {
  public:
    explicit ChangeReader(const GridContext& context) : context_(context) {}

    RecordChanges::Cell cell(FieldIndex field, const CellEdit& edit) const {
        const std::string& name = context_.schema().field(field).name;
        const ColumnDesign* designed = context_.design().column(name);
        RecordChanges::Cell cell;
        cell.field = QString::fromStdString(name);
        cell.heading = designed && !designed->heading.empty() ? QString::fromStdString(designed->heading) : cell.field;
        cell.before = shown(field, edit.original);
        cell.after = edit.label.empty() ? shown(field, edit.value) : QString::fromStdString(edit.label);
        cell.state = edit.state;
        return cell;
    }

  private:
    QString shown(FieldIndex field, const Value& value) const {
        std::string text;
        if (const auto column = context_.columnOf(QString::fromStdString(context_.schema().field(field).name)))
            context_.planned(*column).formatter->append(text, value);
        else
            appendDisplay(text, value, {.zone = context_.schema().zone});
        return QString::fromStdString(text);
    }
    const GridContext& context_;
};

}  // namespace

std::vector<RecordChanges> changesOf(const GridContext& context) {
    std::vector<RecordChanges> all;
    if (!context.session().snapshot()) return all;
    const ChangeReader reader(context);
    context.snapshot().edits->forEachRecord([&](SourceRow row, const RecordEdit& record) {
        RecordChanges changes;
        EditState gravest = EditState::Saved;
        const auto note = [&](EditState state, const std::string& message) {
            if (gravity(state) <= gravity(gravest)) return;
            gravest = state;
            if (!message.empty()) changes.message = QString::fromStdString(message);
        };
        const RecordFate* fate = record.fate();
        if (fate && isUnsaved(fate->state)) {
            changes.change = fate->change;
            note(fate->state, fate->message);
        }
        const std::size_t stored = context.schema().storedFields();
        for (const auto& [field, edit] : record.cells()) {
            if (!isUnsaved(edit.state) || raw(field) >= stored) continue;
            note(edit.state, edit.message);
            if (changes.change != RecordChange::Delete) changes.cells.push_back(reader.cell(field, edit));
        }
        if (gravest == EditState::Saved) return;
        changes.state = gravest;
        QStringList overridden;
        for (const RecordProblem& problem : record.problems()) {
            if (problem.blocks() && changes.message.isEmpty())
                changes.message = QString::fromStdString(problem.message);
            if (problem.isOverridden) overridden << QString::fromStdString(problem.message);
        }
        const auto& problems = record.problems();
        changes.isBlocked = changes.change != RecordChange::Delete &&
                            std::any_of(problems.begin(), problems.end(), [](const RecordProblem& problem) {
                                return problem.blocks() && !problem.isWaiting;
                            });
        changes.overridden = overridden.join(u' ');
        changes.record = context.record(row);
        changes.name = nameOf(changes.record);
        all.push_back(std::move(changes));
    });
    return all;
}

}  // namespace jollyrow
