// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_workbench.cpp.
#include "workbench/build/extremes_finder.h"

namespace jollyrow {

ExtremesFinder::~ExtremesFinder() {
    if (worker_) worker_->finish();
}

void ExtremesFinder::look(const std::shared_ptr<const Column>& column) {
    const std::uint64_t id = column ? column->id() : 0;
    if (id == of_) return;
    of_ = id;
    extremes_ = {};
    if (id == 0) return;
    if (!worker_) worker_ = std::make_unique<Worker>();
    worker_->run([this, column, id] {
        QMetaObject::invokeMethod(
            this,
            [this, found = extremesOf(*column), id] {
                if (id != of_) return;
                extremes_ = found;
                Q_EMIT this->found();
            },
            Qt::QueuedConnection);
    });
}

}  // namespace jollyrow
