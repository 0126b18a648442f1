// SPDX-License-Identifier: MIT
#include "grid/editors/choice_editor.h"

#include <QAbstractItemView>
#include <QCompleter>

namespace jollyrow {

ChoiceEditor::ChoiceEditor(const EditorTask& task, QWidget* parent) : LineEditor(task, parent) {
    QStringList choices;
    for (const std::string& value : task.field.permitted) choices << QString::fromStdString(value);
    completer_ = new QCompleter(choices, this);
    completer_->setCaseSensitivity(Qt::CaseInsensitive);
    completer_->setCompletionMode(QCompleter::PopupCompletion);
    completer_->setFilterMode(Qt::MatchContains);
    completer_->setWidget(&line());
    connect(completer_, qOverload<const QString&>(&QCompleter::activated), this, [this](const QString& chosen) {
        setText(chosen);
        Q_EMIT committed(0, 0);
    });
    connect(&line(), &QLineEdit::textEdited, this,
            [this](const QString& typed) { showCompletions(*completer_, typed, *this); });
    addButton(tr("Show the choices"));
}

void ChoiceEditor::begin(const EditedCell& cell) {
    LineEditor::begin(cell);
    openChoices();
}

void ChoiceEditor::beginWith(const QString& typed) {
    LineEditor::beginWith(typed);
    showCompletions(*completer_, typed, *this);
}

void ChoiceEditor::openChoices() {
    showCompletions(*completer_, {}, *this);
    QAbstractItemView* popup = completer_->popup();
    const QModelIndexList found =
        popup->model()->match(popup->model()->index(0, 0), Qt::DisplayRole, typed(), 1, Qt::MatchExactly);
    if (!found.isEmpty()) popup->setCurrentIndex(found.first());
}

}  // namespace jollyrow
