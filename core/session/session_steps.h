// SPDX-License-Identifier: MIT
#pragma once
// SessionSteps: the undoing of what was done to a session's records, also when it is saved: by further changes, which
// are checked for conflicts. Confined to the session's thread.

#include <string>
#include <utility>

#include "core/session/bound_records.h"
#include "core/session/session_records.h"

namespace jollyrow {

class SessionSteps final {
  public:
    SessionSteps(BoundRecords& bound, SessionRecords& records);
    /// Takes the last change back; of what somebody has changed since, nothing. False when there is none.
    bool undo();
    bool redo();
    const EditHistory& history() const { return bound_.history; }
    /// What begins now is one step until end(), named so.
    void begin(std::string label) { bound_.history.begin(std::move(label)); }
    void end() { bound_.history.end(); }

  private:
    bool apply(const EditStep& step, bool back);
    bool applyCells(const EditStep& step, bool back);
    bool makeAgain(const EditStep& step, bool back);

    BoundRecords& bound_;
    SessionRecords& records_;
};

}  // namespace jollyrow
