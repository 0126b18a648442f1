// SPDX-License-Identifier: MIT
#include "grid/editors/look_up_editor.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QPointer>
#include <QStringListModel>

#include <algorithm>

#include "core/formats/text_format.h"

namespace jollyrow {

LookUpEditor::LookUpEditor(const EditorTask& task, QWidget* parent) : LineEditor(task, parent) {
    completer_ = new QCompleter(this);
    completer_->setModel(new QStringListModel(completer_));
    completer_->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    completer_->setWidget(&line());
    connect(completer_, qOverload<const QModelIndex&>(&QCompleter::activated), this, [this](const QModelIndex& index) {
        if (index.row() < 0) return;
        if (static_cast<std::size_t>(index.row()) >= entries_.size()) return addTyped();
        chosen_ = entries_[static_cast<std::size_t>(index.row())];
        setText(QString::fromStdString(chosen_->label));
        Q_EMIT committed(0, 0);
    });
    connect(&line(), &QLineEdit::textEdited, this, [this](const QString& typed) {
        chosen_.reset();
        search(typed);
    });
    addButton(tr("Show the records to choose from"));
}

void LookUpEditor::begin(const EditedCell& cell) {
    beginWithAll(cell.shown);
    search({});
}

void LookUpEditor::beginWith(const QString& typed) {
    LineEditor::beginWith(typed);
    search(typed);
}

void LookUpEditor::search(const QString& contains) {
    ++searching_;
    task().search(contains, [target = QPointer<LookUpEditor>(this)](const Result<std::vector<LookUpEntry>>& found) {
        if (!target) return;
        target->searching_ = 0;  // an older search is not answered any more
        if (found) return target->showEntries(*found);
        Q_EMIT target->failed(QString::fromStdString(found.error().message));
    });
}

void LookUpEditor::showEntries(std::vector<LookUpEntry> entries) {
    entries_ = std::move(entries);
    QStringList texts;
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        QString text = QString::fromStdString(entries_[i].label);
        const auto same = [&](std::size_t other) {
            return other < entries_.size() && entries_[other].label == entries_[i].label;
        };
        // Two of one name are told apart by their keys; one without a name has nothing else.
        if (text.isEmpty() || same(i + 1) || (i > 0 && same(i - 1))) {
            std::string key;
            appendPlain(key, entries_[i].key);
            text += QStringLiteral("  (%1)").arg(QString::fromStdString(key));
        }
        texts << text;
    }
    const QString wanted = typed().trimmed();
    const bool isThere = std::any_of(entries_.begin(), entries_.end(), [&](const LookUpEntry& entry) {
        return QString::fromStdString(entry.label).compare(wanted, Qt::CaseInsensitive) == 0;
    });
    if (task().add && !isUnchanged() && !wanted.isEmpty() && !isThere)
        texts << tr("New in %1: %2").arg(QString::fromStdString(task().linkedTable), wanted);
    static_cast<QStringListModel*>(completer_->model())->setStringList(texts);
    if (std::exchange(commitWhenFound_, false)) {
        if (entries_.size() == 1) chosen_ = entries_.front();
        Q_EMIT committed(1, 0);
        return;
    }
    showCompletions(*completer_, {}, *this);
}

/// What is typed becomes a record of the other table, which then is chosen.
void LookUpEditor::addTyped() {
    const QString label = typed().trimmed();
    ++searching_;
    task().add(label, [target = QPointer<LookUpEditor>(this)](const Result<LookUpEntry>& made) {
        if (!target) return;
        target->searching_ = 0;
        if (!made) return Q_EMIT target->failed(QString::fromStdString(made.error().message));
        target->chosen_ = *made;
        target->setText(QString::fromStdString(made->label));
        Q_EMIT target->committed(0, 0);
    });
}

std::optional<LookUpEntry> LookUpEditor::chosenEntry() const {
    if (chosen_) return chosen_;
    std::optional<LookUpEntry> named;
    for (const LookUpEntry& entry : entries_) {
        if (QString::fromStdString(entry.label).compare(typed().trimmed(), Qt::CaseInsensitive) != 0) continue;
        if (named) return std::nullopt;  // two of one name: the list must say which
        named = entry;
    }
    return named;
}

bool LookUpEditor::commitsLater() {
    if (isUnchanged() || searching_ == 0 || typed().trimmed().isEmpty()) return false;
    commitWhenFound_ = true;
    return true;
}

Result<Entered> LookUpEditor::entered() const {
    const QString text = typed().trimmed();
    if (const auto entry = chosenEntry(); entry && !text.isEmpty()) return Entered{entry->key, entry->label};
    if (text.isEmpty() && !task().field.required) return Entered{Empty{}};
    const QString table = QString::fromStdString(task().linkedTable);
    const QString why = text.isEmpty()
                            ? tr("This must not be empty: choose a record of %1.").arg(table)
                            : tr("No one record of %1 is called \"%2\". Choose from the list.").arg(table, text);
    return Error{ErrorCode::InvalidInput, why.toStdString()};
}

}  // namespace jollyrow
