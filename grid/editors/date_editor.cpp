// SPDX-License-Identifier: MIT
#include "grid/editors/date_editor.h"

#include "core/formats/text_format.h"
#include "grid/editors/month_popup.h"

namespace jollyrow {
namespace {
const QDate kEpoch(1970, 1, 1);
}  // namespace

DateEditor::DateEditor(const EditorTask& task, QWidget* parent) : LineEditor(task, parent) {
    addButton(tr("Open the calendar"));
}

void DateEditor::openChoices() {
    FieldSchema anyDate;
    anyDate.type = Type::Date;
    const Result<Value> present = parseTyped(typed().toStdString(), anyDate);
    const Date* day = present ? std::get_if<Date>(&*present) : nullptr;
    auto* popup = new MonthPopup(day ? kEpoch.addDays(day->days) : QDate::currentDate(), this);
    connect(popup, &MonthPopup::chosen, this, [this](QDate chosen) {
        setText(QString::fromStdString(editText(Date{static_cast<std::int32_t>(kEpoch.daysTo(chosen))})));
        setRefused(false);
        line().setFocus();
    });
    popup->move(mapToGlobal(QPoint(0, height() + 2)));
    popup->show();
}

}  // namespace jollyrow
