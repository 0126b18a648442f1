// SPDX-License-Identifier: MIT
#include "grid/input/body_gestures.h"

#include <QApplication>

#include "grid/faces/cell_face.h"

namespace jollyrow {
namespace {

constexpr int kAutoScrollMs = 30;

SelectHow howOf(Qt::KeyboardModifiers modifiers) {
    if (modifiers & Qt::ShiftModifier) return SelectHow::Extend;
    return modifiers & Qt::ControlModifier ? SelectHow::Toggle : SelectHow::Replace;
}

}  // namespace

BodyGestures::BodyGestures(const Parts& parts)
    : p_(parts), drop_(p_.context, p_.rows, p_.body, p_.cursor, [&editors = p_.editors](std::vector<CellWrite> cells) {
          editors.write(std::move(cells));
      }) {
    autoScroll_.setInterval(kAutoScrollMs);
    QObject::connect(&autoScroll_, &QTimer::timeout, &p_.context.grid(), [this] { extendTo(lastMove_); });
}

void BodyGestures::press(const QMouseEvent& event) {
    figurePressed_.reset();
    if (event.pos().y() >= p_.body.totalsTop()) return void(figurePressed_ = p_.groups.figureAt(event.pos()));
    if (pressGroup(event)) return;
    const auto place = p_.body.placeAt(event.pos());
    if (!place) return pressGutter(event);
    p_.navigator.choose(*place, howOf(event.modifiers()));
    if (event.modifiers() == Qt::NoModifier && p_.presses.pressAt(*place, event.pos())) return;
    doing_ = SelectCells{};
    if (p_.rows.banner(place->line)) return;  // its cells are not seen
    const PlannedColumn& column = p_.context.planned(place->column);
    const CellFace& face = faceOf(column);
    if (face.press() == FacePress::Toggles && p_.context.canEdit(place->column) &&
        event.modifiers() == Qt::NoModifier &&
        face.isPressedAt(event.pos(), p_.body.cellRect(*place), column.alignment))
        p_.editors.toggle(*place);
}

/// A click on a group's line: its mark opens and closes, the rest selects its records. True when it was one.
bool BodyGestures::pressGroup(const QMouseEvent& event) {
    const QPoint at = event.pos();
    const auto line = p_.body.lineAt(at.y());
    if (!line || at.y() < p_.body.headerHeight() || at.y() >= p_.body.bottom()) return false;
    if (p_.rows.isFooter(*line)) return figurePressed_ = p_.groups.figureAt(at), true;
    if (!p_.rows.groupOn(*line)) return false;
    if (event.modifiers() == Qt::NoModifier && p_.groups.isOnMark(*line, at)) {
        if (p_.cursor.current()) p_.navigator.chooseLine(*line, SelectHow::MoveOnly);
        p_.groups.toggle(*line);
    } else if (p_.body.columns().count() > 0) {
        p_.navigator.chooseLine(*line, howOf(event.modifiers()));
    }
    figurePressed_ = p_.groups.figureAt(at);
    return true;
}

/// A click on the gutter selects the record.
void BodyGestures::pressGutter(const QMouseEvent& event) {
    const auto line = p_.body.lineAt(event.pos().y());
    if (!line || !p_.rows.has(*line) || event.pos().x() >= measure::kGutter || p_.body.columns().count() == 0) return;
    // Of several that are selected all are taken along when they are dragged.
    const Selection& selection = p_.cursor.selection();
    const bool isAmong = event.modifiers() == Qt::NoModifier && selection.rows().count() > 1 &&
                         selection.isRowSelected(p_.rows.rowAt(*line));
    if (!isAmong) p_.navigator.chooseLine(*line, howOf(event.modifiers()));
    if (p_.rows.groups() && !selection.isOfCells()) doing_ = PressRecords{event.pos()};
}

void BodyGestures::doubleClick(const QMouseEvent& event) {
    auto place = p_.body.placeAt(event.pos());
    if (!place || !p_.editors.mayLeave()) return;
    // On a heading what it says is edited.
    if (const PlannedBanner* banner = p_.rows.banner(place->line); banner && banner->column >= 0)
        place->column = banner->column;
    if (p_.rows.groupOn(place->line)) {
        // On a figure the first click has opened what explains it.
        if (!p_.groups.figureAt(event.pos()) && !p_.groups.isOnMark(place->line, event.pos()))
            p_.groups.toggle(place->line);
        return;
    }
    if (!p_.rows.isRecord(place->line)) return;
    if (p_.cursor.current() != place) p_.navigator.choose(*place, SelectHow::Replace);
    // What toggles was toggled by the first click.
    const bool isEdited = p_.context.canEdit(place->column) && p_.context.design().grid.doubleClickEdits &&
                          faceOf(p_.context.planned(place->column)).press() == FacePress::OpensEditor;
    if (!isEdited)
        Q_EMIT p_.context.grid().recordActivated(p_.context.record(p_.rows.rowAt(place->line)));
    else
        p_.editors.begin({});
}

int BodyGestures::beyond(QPoint position) const {
    if (position.y() < p_.body.top()) return position.y() - p_.body.top();
    return std::max(0, position.y() - p_.body.bottom());
}

void BodyGestures::move(const QMouseEvent& event) {
    lastMove_ = event.pos();
    const auto* pressed = std::get_if<PressRecords>(&doing_);
    if (pressed && (event.pos() - pressed->at).manhattanLength() >= QApplication::startDragDistance())
        doing_ = DragRecords{};
    if (std::holds_alternative<DragRecords>(doing_)) return dragTo(event.pos());
    if (std::holds_alternative<SelectCells>(doing_)) return extendTo(event.pos());
    hover(p_.body.placeAt(event.pos()));
}

void BodyGestures::dragTo(QPoint position) {
    p_.context.viewport().setCursor(drop_.holdOver(position) ? Qt::DragMoveCursor : Qt::ForbiddenCursor);
    if (const int by = beyond(position); by != 0) p_.scroller.byPixels(by);
    p_.context.update();
}

/// Dragging past the edge scrolls, faster the farther out.
void BodyGestures::extendTo(QPoint position) {
    const int by = beyond(position);
    by != 0 ? autoScroll_.start() : autoScroll_.stop();
    if (by != 0) p_.scroller.byPixels(by);
    const int right = std::max(measure::kGutter, p_.body.viewport().width() - 1);
    const QPoint inside(std::clamp(position.x(), measure::kGutter, right),
                        std::clamp(position.y(), p_.body.top(), std::max(p_.body.top(), p_.body.bottom() - 1)));
    if (const auto place = p_.body.placeAt(inside); place && place != p_.cursor.current())
        p_.navigator.choose(*place, SelectHow::Extend);
}

void BodyGestures::release(const QMouseEvent& event) {
    autoScroll_.stop();
    const bool isDrag = std::holds_alternative<DragRecords>(doing_);
    doing_ = std::monostate{};
    if (isDrag) {
        p_.context.viewport().unsetCursor();
        drop_.drop();
        return p_.context.update();
    }
    const auto pressed = std::exchange(figurePressed_, std::nullopt);
    const auto still = pressed ? p_.groups.figureAt(event.pos()) : std::nullopt;
    if (still && still->summary == pressed->summary && still->node == pressed->node)
        Q_EMIT p_.context.grid().figureClicked(static_cast<int>(still->summary), still->node, still->rect);
}

bool BodyGestures::cancel() {
    if (!std::holds_alternative<DragRecords>(doing_) && !std::holds_alternative<PressRecords>(doing_)) return false;
    doing_ = std::monostate{};
    drop_.forget();
    p_.context.viewport().unsetCursor();
    p_.context.update();
    return true;
}

void BodyGestures::forgetRecords() {
    drop_.forget();
    if (!std::holds_alternative<SelectCells>(doing_)) doing_ = std::monostate{};
}

void BodyGestures::hover(std::optional<CellPlace> place) {
    if (place == hovered_) return;
    hovered_ = place;
    p_.context.update();
}

}  // namespace jollyrow
