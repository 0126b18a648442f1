// SPDX-License-Identifier: MIT
#pragma once
// Reading what the workbench needs before it can go on, e.g. the columns of a table, while its windows go on painting.
// What takes long says what it is, and can be stopped. For the window's thread.

#include <QEventLoop>
#include <QString>

#include <functional>
#include <optional>

#include "core/base/cancel.h"
#include "core/base/in_time.h"
#include "core/base/result.h"

namespace jollyrow {

/// Keeps the windows alive until something that runs elsewhere is done. No input is taken but "Stop", which a card
/// offers after a moment.
class Meanwhile final {
  public:
    Meanwhile(QString doing, Cancel cancel) : doing_(std::move(doing)), cancel_(std::move(cancel)) {}
    /// Returns after the call that post() was given has been made.
    void wait();
    /// Makes a call on the window's thread. From any thread.
    Post post();

  private:
    const QString doing_;
    const Cancel cancel_;
    QEventLoop loop_;
};

/// `doing` for a person who waits: "Reading the columns of jobs". Cancelled when it was stopped.
template <class T>
Result<T> patiently(const QString& doing, const std::function<Result<T>(const Cancel&)>& read) {
    const Cancel cancel;
    Meanwhile meanwhile(doing, cancel);
    std::optional<Result<T>> answer;
    Worker worker;
    auto soon = inTime<Result<T>>(
        worker, meanwhile.post(), longestWait(), [&] { return read(cancel); },
        [&](const Result<T>& late) { answer = late; });
    if (soon) return std::move(*soon);
    meanwhile.wait();
    return std::move(*answer);
}

}  // namespace jollyrow
