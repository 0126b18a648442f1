// SPDX-License-Identifier: MIT
#pragma once
// HeadingGestures: the mouse on headings: a click sorts or selects what is under a tier, the border resizes, dragging
// moves, joins or makes tiers (heading_landing.h). Each gesture becomes one step of the design.

#include <QMouseEvent>

#include <variant>

#include "grid/headings/exact_fits.h"
#include "grid/headings/heading_control.h"

namespace jollyrow {

class HeadingGestures final {
  public:
    HeadingGestures(GridContext& context, const BodyGeometry& body, Scroller& scroller, HeadingControl& headings,
                    ExactFits& fits)
        : context_(context), body_(body), scroller_(scroller), headings_(headings), fits_(fits) {}

    /// True when the event was on a heading.
    bool press(const QMouseEvent& event);
    bool doubleClick(const QMouseEvent& event);
    /// True when one is under way or the mouse is over the headings.
    bool move(const QMouseEvent& event);
    /// True when one was under way.
    bool release(const QMouseEvent& event);
    /// Ends what is under way as if it had not been begun. False when nothing is.
    bool cancel();
    void leave() { hover(std::nullopt, false); }
    bool isDragging() const { return std::holds_alternative<Drag>(doing_); }
    /// Adds what is dragged to the state that is painted.
    void mark(HeadingState& state) const;

  private:
    struct Press {
        HeadingHit hit;
        QPoint at;
        int column = 0;  ///< the pressed one, or the first under the pressed tier
    };
    struct Resize {
        int column = 0;
        QPoint at;
        int widthBefore = 0;
        Design before;
    };
    struct Drag {
        Press pressed;
        QPoint at;
        HeadingLanding landing;
    };
    void hover(const std::optional<HeadingHit>& hit, bool onBorder);
    bool hoverAt(QPoint position);
    std::optional<int> borderAt(QPoint position, const std::optional<HeadingHit>& hit) const;
    void resizeTo(const Resize& resize, int x);
    void dragTo(Drag& drag, QPoint position);
    void click(const Press& press, Qt::KeyboardModifiers modifiers);
    void endResize(const Resize& resize);
    void drop(const Drag& drag, QPoint position);
    QString fieldOf(int column) const { return QString::fromStdString(context_.planned(column).design.field); }

    GridContext& context_;
    const BodyGeometry& body_;
    Scroller& scroller_;
    HeadingControl& headings_;
    ExactFits& fits_;
    std::variant<std::monostate, Press, Resize, Drag> doing_;
};

}  // namespace jollyrow
