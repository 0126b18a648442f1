// SPDX-License-Identifier: MIT
#pragma once
// Gestures: the mouse on the whole grid: on the headings or on what stands beneath them.

#include "grid/input/body_gestures.h"
#include "grid/input/heading_gestures.h"

namespace jollyrow {

class Gestures final {
  public:
    Gestures(const BodyGestures::Parts& parts, HeadingControl& headings, ExactFits& fits)
        : focus_(headings),
          editors_(parts.editors),
          headings_(parts.context, parts.body, parts.scroller, headings, fits),
          body_(parts) {}

    void press(const QMouseEvent& event);
    void doubleClick(const QMouseEvent& event);
    void move(const QMouseEvent& event);
    void release(const QMouseEvent& event) {
        if (!headings_.release(event)) body_.release(event);
    }
    void leave();
    /// Ends what is under way as if it had not been begun. False when nothing is.
    bool cancel() { return body_.cancel() || headings_.cancel(); }
    void forgetRecords() { body_.forgetRecords(); }
    const HeadingGestures& onHeadings() const { return headings_; }
    const BodyGestures& onBody() const { return body_; }
    BodyGestures& onBody() { return body_; }

  private:
    HeadingControl& focus_;
    EditorHost& editors_;
    HeadingGestures headings_;
    BodyGestures body_;
};

}  // namespace jollyrow
