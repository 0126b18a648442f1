// SPDX-License-Identifier: MIT
#pragma once
// Scroller: moves the body and keeps the two scroll bars and what lies over the body (editors, strips, the filter row)
// in step with it.

#include <QWheelEvent>

#include <functional>

#include "grid/inside/grid_context.h"
#include "grid/layout/body_geometry.h"

namespace jollyrow {

class Scroller final {
  public:
    enum class Way { Across, Down };
    /// `moved` is called after each move, before the frame is asked for.
    Scroller(GridContext& context, BodyGeometry& body, std::function<void(Way)> moved)
        : context_(context), body_(body), moved_(std::move(moved)) {}

    void setX(int x) { told(body_.setScrollX(x), Way::Across); }
    void setY(std::int64_t y) { told(body_.setScrollY(y), Way::Down); }
    void byPixels(std::int64_t pixels) { told(body_.scrollPixels(pixels), Way::Down); }
    void show(CellPlace place);
    void showColumn(int column) { setX(body_.columns().scrollToShow(column, body_.scrollX())); }
    /// The bars were moved.
    void followBars();
    void wheel(QWheelEvent& event);
    void syncBars();

  private:
    void told(bool isMoved, Way way);

    GridContext& context_;
    BodyGeometry& body_;
    std::function<void(Way)> moved_;
    double wheelRest_ = 0;
    bool syncing_ = false;
};

}  // namespace jollyrow
