// SPDX-License-Identifier: MIT
// The registry of editors: one line a kind; the first whose test holds is made.
#include "grid/editors/choice_editor.h"
#include "grid/editors/date_editor.h"
#include "grid/editors/look_up_editor.h"

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

constexpr EditorKind kKinds[] = {
    {[](const EditorTask& task) { return static_cast<bool>(task.search); }, made<LookUpEditor>},
    {[](const EditorTask& task) { return task.field.type == Type::Date; }, made<DateEditor>},
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
