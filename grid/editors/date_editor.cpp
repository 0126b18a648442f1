// SPDX-License-Identifier: MIT
#include "grid/editors/date_editor.h"

#include "core/formats/text_format.h"
#include "grid/editors/month_popup.h"

namespace jollyrow {
namespace {
const QDate kEpoch(1970, 1, 1);
constexpr std::int64_t kDayMicros = 86'400'000'000;
}  // namespace

DateEditor::DateEditor(const EditorTask& task, QWidget* parent) : LineEditor(task, parent) {
    addButton(tr("Open the calendar"));
    if (!task.hint.isEmpty()) return;
    const auto days = static_cast<std::int32_t>(kEpoch.daysTo(QDate::currentDate()));
    const Value day = task.field.type == Type::Date ? Value(Date{days}) : Value(Timestamp{days * kDayMicros});
    const std::string shown = task.formatter ? task.formatter->editText(day, task.field) : editText(day);
    line().setPlaceholderText(QString::fromStdString(shown));
}

void DateEditor::openChoices() {
    const Result<Entered> present = entered();
    const auto* day = present ? std::get_if<Date>(&present->value) : nullptr;
    const auto* moment = present ? std::get_if<Timestamp>(&present->value) : nullptr;
    // The day is chosen; the time of day stays.
    const std::int64_t micros = moment ? moment->micros : 0;
    const std::int64_t ofDay = (micros % kDayMicros + kDayMicros) % kDayMicros;
    const std::int64_t days = day ? day->days : (micros - ofDay) / kDayMicros;
    auto* popup = new MonthPopup(day || moment ? kEpoch.addDays(days) : QDate::currentDate(), this);
    connect(popup, &MonthPopup::chosen, this, [this, ofDay](QDate chosen) {
        const std::int64_t to = kEpoch.daysTo(chosen);
        const Value value = task().field.type == Type::Date ? Value(Date{static_cast<std::int32_t>(to)})
                                                            : Value(Timestamp{to * kDayMicros + ofDay});
        const Formatter* formatter = task().formatter.get();
        setText(QString::fromStdString(formatter ? formatter->editText(value, task().field) : editText(value)));
        setRefused(false);
        line().setFocus();
    });
    popup->move(mapToGlobal(QPoint(0, height() + 2)));
    popup->show();
}

}  // namespace jollyrow
