// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_editors.cpp.
#include "grid/editors/colour_editor.h"

#include <QRegularExpression>

#include "grid/editors/colour_card.h"

namespace jollyrow {

ColourEditor::ColourEditor(const EditorTask& task, QWidget* parent) : LineEditor(task, parent) {
    if (task.hint.isEmpty()) line().setPlaceholderText(QStringLiteral("#rrggbb"));
    addButton(tr("Choose a colour"));
}

Result<Entered> ColourEditor::entered() const {
    static const QRegularExpression form(QStringLiteral("^#?([0-9a-fA-F]{6}|[0-9a-fA-F]{3})$"));
    const QString text = typed().trimmed();
    if (text.isEmpty()) return LineEditor::entered();
    const auto found = form.match(text);
    if (!found.hasMatch())
        return Error{ErrorCode::InvalidInput,
                     tr("\"%1\" is no colour. Type it like #1f6f6b, or choose one.").arg(text).toStdString()};
    QString digits = found.captured(1).toLower();
    if (digits.size() == 3) digits = QString(2, digits[0]) + QString(2, digits[1]) + QString(2, digits[2]);
    auto value = parseTyped((u'#' + digits).toStdString(), task().field);
    if (!value) return value.error();
    return Entered{std::move(*value)};
}

void ColourEditor::openChoices() {
    auto* card = new ColourCard(QColor(typed()), this);
    connect(card, &ColourCard::chosen, this, [this](const QColor& colour) {
        setText(colour.name());
        Q_EMIT edited();
        Q_EMIT committed(0, 0);
    });
    card->move(mapToGlobal(QPoint(0, height() + 2)));
    card->show();
    card->setFocus();
}

}  // namespace jollyrow
