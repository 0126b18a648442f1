// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_editors.cpp.
#include "grid/editors/rating_editor.h"

#include <QKeyEvent>
#include <QPainter>

#include <algorithm>

#include "grid/paint/looks.h"
#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {
constexpr int kPitch = 18, kRadius = 5;
}

RatingEditor::RatingEditor(const EditorTask& task, QWidget* parent) : Editor(task, parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setCursor(Qt::PointingHandCursor);
    setAccessibleDescription(tr("A number from 0 to %1").arg(task.most));
}

void RatingEditor::begin(const EditedCell& cell) {
    const auto* number = std::get_if<std::int64_t>(&cell.value);
    const bool fits = number && *number >= 0 && *number <= task().most;
    if (number && !fits) outside_ = *number;
    if (fits) now_ = static_cast<int>(*number);
    begun_ = now_;
    update();
}

void RatingEditor::beginWith(const QString& typed) {
    begun_ = now_;  // what is no rating changes nothing
    bool isNumber = false;
    const int number = typed.toInt(&isNumber);
    if (isNumber) take(number);
}

void RatingEditor::take(int typed) {
    if (typed > task().most) return Q_EMIT failed(tr("This goes from 0 to %1.").arg(task().most));
    set(typed);
}

void RatingEditor::set(std::optional<int> rating) {
    if (rating && (*rating < 0 || *rating > task().most)) return;
    now_ = rating;
    outside_.reset();
    begun_ = begun_ && *begun_ == now_ ? begun_ : std::nullopt;
    setRefused(false);
    setAccessibleDescription(now_ ? tr("%1 of %2").arg(*now_).arg(task().most) : tr("empty"));
    update();
    Q_EMIT edited();
}

QString RatingEditor::typed() const { return now_ ? QString::number(*now_) : QString(); }

Result<Entered> RatingEditor::entered() const {
    if (outside_) return Entered{Value(*outside_)};
    auto value = parseTyped(typed().toStdString(), task().field);
    if (!value) return value.error();
    return Entered{std::move(*value)};
}

int RatingEditor::leastWidth() const { return task().most * kPitch + 2 * measure::kCellPadding; }

int RatingEditor::at(double x) const {
    return std::clamp(static_cast<int>((x - measure::kCellPadding + kPitch) / kPitch), 0, task().most);
}

void RatingEditor::paintEvent(QPaintEvent* event) {
    Editor::paintEvent(event);
    const Tokens& t = tokensAt(*this);
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const int shown = hovered_ >= 0 ? hovered_ : now_.value_or(0);
    for (int i = 0; i < task().most; ++i) {
        const QPointF centre(measure::kCellPadding + kPitch * i + kPitch / 2.0 - 2, height() / 2.0);
        painter.setPen(QPen(i < shown ? t.brass : t.ink2, 1.2));
        painter.setBrush(i < shown ? QBrush(hovered_ >= 0 ? t.brass.lighter(120) : t.brass) : QBrush(Qt::NoBrush));
        painter.drawEllipse(centre, kRadius, kRadius);
    }
}

void RatingEditor::mousePressEvent(QMouseEvent* event) {
    const int rating = at(event->position().x());
    set(now_ == rating ? rating - 1 : rating);  // the last mark again takes it away
    Q_EMIT committed(0, 0);
}

void RatingEditor::mouseMoveEvent(QMouseEvent* event) {
    hovered_ = at(event->position().x());
    update();
}

void RatingEditor::leaveEvent(QEvent*) {
    hovered_ = -1;
    update();
}

bool RatingEditor::event(QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto& key = *static_cast<QKeyEvent*>(event);
        if (key.key() == Qt::Key_Tab || key.key() == Qt::Key_Backtab) {  // else the toolkit moves the focus
            Q_EMIT committed(0, key.key() == Qt::Key_Tab ? 1 : -1);
            return true;
        }
    }
    return Editor::event(event);
}

void RatingEditor::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter:
        case Qt::Key_Down: Q_EMIT committed(1, 0); return;
        case Qt::Key_Up: Q_EMIT committed(-1, 0); return;
        case Qt::Key_Escape: Q_EMIT abandoned(); return;
        case Qt::Key_Right: return set(std::min(now_.value_or(0) + 1, task().most));
        case Qt::Key_Left: return set(std::max(now_.value_or(0) - 1, 0));
        case Qt::Key_Delete:
        case Qt::Key_Backspace: return set(std::nullopt);
        default: break;
    }
    bool isNumber = false;
    const int digit = event->text().toInt(&isNumber);
    if (isNumber)
        take(digit);
    else
        QWidget::keyPressEvent(event);
}

}  // namespace jollyrow
