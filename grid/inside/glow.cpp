// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_follow.cpp.
#include "grid/inside/glow.h"

#include <QApplication>
#include <QStyle>
#include <QTimerEvent>

#include <algorithm>

namespace jollyrow {
namespace {

constexpr int kLookMs = 300, kFrameMs = 40;
constexpr qint64 kStayMs = 400, kLastMs = 1600;

bool wantsMotion(const QWidget& widget) {
    return widget.style()->styleHint(QStyle::SH_Widget_Animation_Duration, nullptr, &widget) > 0;
}

}  // namespace

void Glow::follow() {
    const bool wanted = context_.design().grid.followsOthers;
    if (wanted && !looking_.isActive()) looking_.start(kLookMs, this);
    if (!wanted) looking_.stop();
}

void Glow::lightUp(const std::vector<SourceRow>& rows) {
    const qint64 now = clock_.elapsed();
    for (const SourceRow row : rows) since_[row] = now;
    if (!rows.empty() && !fading_.isActive()) fading_.start(kFrameMs, this);
    context_.update();
}

double Glow::of(SourceRow row) const {
    const auto found = since_.find(row);
    if (found == since_.end()) return 0;
    const qint64 age = clock_.elapsed() - found->second;
    if (age >= kLastMs) return 0;
    if (age <= kStayMs || !wantsMotion(context_.viewport())) return 1;
    return 1 - static_cast<double>(age - kStayMs) / static_cast<double>(kLastMs - kStayMs);
}

void Glow::timerEvent(QTimerEvent* event) {
    if (event->timerId() == looking_.timerId()) return context_.session().elsewhere().look();
    const qint64 now = clock_.elapsed();
    std::erase_if(since_, [now](const auto& one) { return now - one.second >= kLastMs; });
    if (since_.empty()) fading_.stop();
    context_.update();
}

}  // namespace jollyrow
