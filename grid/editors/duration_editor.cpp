// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_editors.cpp.
#include "grid/editors/duration_editor.h"

#include <QKeyEvent>

#include <cmath>

#include "core/formats/formatter.h"
#include "core/rows/extents.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kQuarter = 15;  // minutes

double minutesOf(DurationUnit unit) {
    return unit == DurationUnit::Seconds   ? 1.0 / 60
           : unit == DurationUnit::Minutes ? 1
           : unit == DurationUnit::Hours   ? 60
                                           : 24 * 60;
}

}  // namespace

bool DurationEditor::edits(const EditorTask& task) {
    return task.formatter && task.formatter->format().spec.style == FormatStyle::Duration &&
           (task.field.type == Type::Integer || task.field.type == Type::Decimal || task.field.type == Type::Real);
}

DurationEditor::DurationEditor(const EditorTask& task, QWidget* parent) : LineEditor(task, parent) {
    if (task.hint.isEmpty()) line().setPlaceholderText(tr("%1, or 90 min").arg(written(90)));
}

/// Minutes as the column shows them, as far as it can keep them.
QString DurationEditor::written(std::int64_t minutes) const {
    const auto value = task().formatter->parse(std::to_string(minutes) + " min", task().field);
    return value ? QString::fromStdString(task().formatter->editText(*value, task().field))
                 : QStringLiteral("%1 min").arg(minutes);
}

void DurationEditor::step(int quarters) {
    const auto present = entered();
    if (!present) return;
    const double number = isEmpty(present->value) ? 0 : numberOf(present->value);
    const double at = number * minutesOf(task().formatter->format().spec.unit) / static_cast<double>(kQuarter);
    if (!(std::abs(at) < 1e6)) return;
    const double next = quarters > 0 ? std::floor(at + 1e-9) + 1 : std::ceil(at - 1e-9) - 1;
    setText(written(static_cast<std::int64_t>(next) * kQuarter));
    setRefused(false);
    Q_EMIT edited();
}

bool DurationEditor::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto& key = *static_cast<QKeyEvent*>(event);
        const bool isStep = key.key() == Qt::Key_Up || key.key() == Qt::Key_Down;
        if (isStep && key.modifiers().testFlag(Qt::ControlModifier)) {
            step(key.key() == Qt::Key_Up ? 1 : -1);
            return true;
        }
    }
    return LineEditor::eventFilter(watched, event);
}

}  // namespace jollyrow
