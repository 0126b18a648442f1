// SPDX-License-Identifier: MIT
// The registry of editors: one line a kind; the first whose test holds is made.
#include "grid/editors/choice_editor.h"
#include "grid/editors/colour_editor.h"
#include "grid/editors/date_editor.h"
#include "grid/editors/duration_editor.h"
#include "grid/editors/look_up_editor.h"
#include "grid/editors/rating_editor.h"
#include "grid/editors/text_editor.h"

namespace jollyrow {
namespace {

struct EditorKind {
    bool (*edits)(const EditorTask& task);
    Editor* (*make)(const EditorTask& task, QWidget* parent);
};

template <class Kind>
Editor* made(const EditorTask& task, QWidget* parent) {
    return new Kind(task, parent);
}

/// What a builder chose for a field that it is nothing for is passed over.
bool isLines(const EditorTask& task) {
    const bool isFree = task.field.type == Type::Text && task.field.permitted.empty() && !task.search;
    if (!isFree || task.kind != EntryKind::Automatic) return isFree && task.kind == EntryKind::Lines;
    return !task.pattern && (task.wraps || task.field.use == Use::LongText);
}

constexpr EditorKind kKinds[] = {
    {[](const EditorTask& task) { return task.kind == EntryKind::Line; }, made<LineEditor>},
    {[](const EditorTask& task) { return task.kind == EntryKind::Rating && task.field.type == Type::Integer; },
     made<RatingEditor>},
    {[](const EditorTask& task) { return task.kind == EntryKind::Colour && task.field.type == Type::Text; },
     made<ColourEditor>},
    {isLines, made<TextEditor>},
    {[](const EditorTask& task) { return static_cast<bool>(task.search); }, made<LookUpEditor>},
    {[](const EditorTask& task) { return task.field.type == Type::Date || task.field.type == Type::Timestamp; },
     made<DateEditor>},
    {DurationEditor::edits, made<DurationEditor>},
    {[](const EditorTask& task) { return !task.field.permitted.empty(); }, made<ChoiceEditor>},
    {[](const EditorTask&) { return true; }, made<LineEditor>},
};

}  // namespace

Editor* makeEditor(const EditorTask& task, QWidget* parent) {
    for (const EditorKind& kind : kKinds)
        if (kind.edits(task)) return kind.make(task, parent);
    return nullptr;
}

}  // namespace jollyrow
