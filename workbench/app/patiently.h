// SPDX-License-Identifier: MIT
#pragma once
// Reading what a window needs before it can go on, from a database that another program may hold locked: at once when
// nobody does; else on a thread, while the window goes on painting and takes no other input.

#include <QCoreApplication>
#include <QEventLoop>

#include <functional>
#include <optional>
#include <thread>

#include "core/base/result.h"
#include "core/sources/source.h"

namespace jollyrow {

template <class T>
Result<T> patiently(const std::function<Result<T>(Patience)>& read) {
    Result<T> answer = read(Patience::None);
    if (answer.ok() || answer.error().code != ErrorCode::Locked) return answer;
    QEventLoop loop;
    std::jthread reader([&] {
        answer = read(Patience::Stated);
        // Queued, so that it is not lost before exec().
        QMetaObject::invokeMethod(&loop, &QEventLoop::quit, Qt::QueuedConnection);
    });
    loop.exec(QEventLoop::ExcludeUserInputEvents);
    reader.join();
    return answer;
}

}  // namespace jollyrow
