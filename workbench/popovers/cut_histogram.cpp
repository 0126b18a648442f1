// SPDX-License-Identifier: MIT
#include "workbench/popovers/cut_histogram.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {
namespace {
constexpr double kSide = 8, kTop = 18, kFoot = 18, kGrip = 5;
}  // namespace

CutHistogram::CutHistogram(QWidget* parent) : QWidget(parent) {
    setMinimumHeight(scaled(108));
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Cut points on the values"));
    setToolTip(tr("A click cuts; a line is dragged, or moved with the arrow keys; Delete takes it away"));
}

void CutHistogram::setSpread(std::shared_ptr<const ValueSpread> spread) {
    spread_ = std::move(spread);
    update();
}

void CutHistogram::setCuts(std::vector<double> cuts) {
    if (dragged_ >= 0) return;
    cuts_ = std::move(cuts);
    current_ = std::clamp(current_, 0, std::max(0, static_cast<int>(cuts_.size()) - 1));
    update();
}

QString CutHistogram::textOf(double cut) const {
    if (!spread_) return {};
    const QString text = QString::fromStdString(plainCut(cut, spread_->kind));
    if (!isNumber(spread_->kind)) return text;
    const qsizetype point = text.indexOf(QLatin1Char('.'));
    return (text.startsWith(QLatin1Char('-')) ? QStringLiteral("−") : QString()) +
           grouped(std::abs(text.left(point).toLongLong())) + (point < 0 ? QString() : text.mid(point));
}

QRectF CutHistogram::plot() const { return QRectF(rect()).adjusted(kSide, kTop, -kSide, -kFoot); }

double CutHistogram::xOf(double value) const {
    const double width = spread_ ? spread_->to - spread_->from : 0;
    return plot().left() + (width > 0 ? (value - spread_->from) / width : 0.5) * plot().width();
}

double CutHistogram::valueAt(double x) const {
    return spread_->from + (x - plot().left()) / plot().width() * (spread_->to - spread_->from);
}

double CutHistogram::rounded(double value) const {
    const double perPixel = (spread_->to - spread_->from) / std::max(1.0, plot().width());
    double step = std::pow(10.0, std::ceil(std::log10(std::max(perPixel, 1e-9))));
    if (perPixel <= step / 5)
        step /= 5;
    else if (perPixel <= step / 2)
        step /= 2;
    if (spread_->kind != RuleKind::Decimal && spread_->kind != RuleKind::Real) step = std::max(1.0, std::round(step));
    return std::round(value / step) * step;
}

int CutHistogram::cutAt(double x) const {
    int nearest = -1;
    double least = kGrip + 1;
    for (std::size_t i = 0; i < cuts_.size(); ++i)
        if (const double apart = std::abs(xOf(cuts_[i]) - x); apart < least) {
            least = apart;
            nearest = static_cast<int>(i);
        }
    return nearest;
}

void CutHistogram::moveCut(int cut, double to, bool settled) {
    const auto at = static_cast<std::size_t>(cut);
    // Cuts do not pass each other.
    if ((at > 0 && to <= cuts_[at - 1]) || (at + 1 < cuts_.size() && to >= cuts_[at + 1])) return;
    cuts_[at] = to;
    update();
    Q_EMIT cutsChanged(settled);
}

void CutHistogram::mousePressEvent(QMouseEvent* event) {
    if (!spread_ || spread_->counted == 0 || event->button() != Qt::LeftButton) return;
    dragged_ = cutAt(event->position().x());
    if (dragged_ < 0) {
        const double value = rounded(valueAt(event->position().x()));
        const auto at = std::lower_bound(cuts_.begin(), cuts_.end(), value);
        if (at != cuts_.end() && *at == value) return;
        dragged_ = static_cast<int>(at - cuts_.begin());
        cuts_.insert(at, value);
        Q_EMIT cutsChanged(false);
    }
    current_ = dragged_;
    draggedFrom_ = cuts_[static_cast<std::size_t>(dragged_)];
    update();
}

void CutHistogram::mouseMoveEvent(QMouseEvent* event) {
    if (dragged_ < 0) {
        setCursor(spread_ && cutAt(event->position().x()) >= 0 ? Qt::SizeHorCursor : Qt::ArrowCursor);
        return;
    }
    moveCut(dragged_, rounded(valueAt(std::clamp(event->position().x(), plot().left(), plot().right()))), false);
}

void CutHistogram::mouseReleaseEvent(QMouseEvent* event) {
    if (dragged_ < 0) return;
    const auto at = std::exchange(dragged_, -1);
    // Dragged well out above or below, it goes.
    if ((event->position().y() < -24 || event->position().y() > height() + 24) && cuts_.size() > 1) {
        cuts_.erase(cuts_.begin() + at);
        current_ = 0;
        update();
    }
    Q_EMIT cutsChanged(true);
}

/// To the next cut, or that one by a little.
void CutHistogram::step(int way, bool toNext) {
    if (toNext) {
        current_ = std::clamp(current_ + way, 0, static_cast<int>(cuts_.size()) - 1);
        return;
    }
    const double perPixel = (spread_->to - spread_->from) / std::max(1.0, plot().width());
    const double little = std::max(rounded(perPixel * 2), rounded(perPixel * 4));
    moveCut(current_, rounded(cuts_[static_cast<std::size_t>(current_)] + way * little), true);
}

void CutHistogram::keyPressEvent(QKeyEvent* event) {
    const int way = event->key() == Qt::Key_Left ? -1 : event->key() == Qt::Key_Right ? 1 : 0;
    const bool isDelete = event->key() == Qt::Key_Delete;
    if (cuts_.empty() || !spread_ || (way == 0 && !isDelete)) return QWidget::keyPressEvent(event);
    if (way != 0) {
        step(way, event->modifiers() & Qt::ControlModifier);
    } else if (cuts_.size() >= 2) {
        cuts_.erase(cuts_.begin() + current_);
        current_ = 0;
        Q_EMIT cutsChanged(true);
    }
    update();
}

void CutHistogram::focusInEvent(QFocusEvent*) { update(); }
void CutHistogram::focusOutEvent(QFocusEvent*) { update(); }

void CutHistogram::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF area = plot();
    painter.setPen(t.hair);
    painter.drawLine(area.bottomLeft() + QPointF(0, 0.5), area.bottomRight() + QPointF(0, 0.5));
    painter.setFont(sized(11));
    if (!spread_ || spread_->counted == 0) {
        painter.setPen(t.ink2);
        painter.drawText(area, Qt::AlignCenter, spread_ ? tr("no values") : tr("looking at the values…"));
        return;
    }
    paintBins(painter, area);
    paintCuts(painter, area);
    paintEnds(painter, area);
}

void CutHistogram::paintBins(QPainter& painter, const QRectF& area) const {
    const Tokens& t = look();
    const auto most = static_cast<double>(*std::max_element(spread_->bins.begin(), spread_->bins.end()));
    const double wide = area.width() / static_cast<double>(spread_->bins.size());
    for (std::size_t i = 0; i < spread_->bins.size(); ++i) {
        if (spread_->bins[i] == 0) continue;
        // Roots, so that rare values can be seen beside frequent ones.
        const double high = std::max(1.5, std::sqrt(static_cast<double>(spread_->bins[i]) / most) * area.height());
        const double left = area.left() + static_cast<double>(i) * wide;
        const double middle = spread_->from + (static_cast<double>(i) + 0.5) /
                                                  static_cast<double>(spread_->bins.size()) *
                                                  (spread_->to - spread_->from);
        const auto range = std::upper_bound(cuts_.begin(), cuts_.end(), middle) - cuts_.begin();
        QColor colour = t.teal;
        colour.setAlphaF(range % 2 == 0 ? 0.75F : 0.45F);
        painter.fillRect(QRectF(left + 0.5, area.bottom() - high, std::max(1.0, wide - 1), high), colour);
    }
}

void CutHistogram::paintCuts(QPainter& painter, const QRectF& area) const {
    const Tokens& t = look();
    double lastRight = -1e9;
    for (std::size_t i = 0; i < cuts_.size(); ++i) {
        const double x = xOf(cuts_[i]);
        if (x < 0 || x > width()) continue;
        const bool isCurrent = hasFocus() && static_cast<int>(i) == current_;
        painter.setPen(QPen(t.brass, isCurrent ? 2.4 : 1.6));
        painter.drawLine(QPointF(x, kTop - 3), QPointF(x, area.bottom()));
        painter.setBrush(t.brass);
        painter.setPen(Qt::NoPen);
        painter.drawEllipse(QPointF(x, area.bottom()), isCurrent ? 4.5 : 3.2, isCurrent ? 4.5 : 3.2);
        painter.setPen(t.brassText);
        painter.setFont(sized(11, QFont::DemiBold));
        const QString text = textOf(cuts_[i]);
        const double textWidth = painter.fontMetrics().horizontalAdvance(text);
        const double left = std::clamp(x - textWidth / 2, 0.0, width() - textWidth);
        if (left > lastRight + 4) {
            painter.drawText(QPointF(left, 11), text);
            lastRight = left + textWidth;
        }
    }
}

/// A side that leaves out values says how many there are and how far they go.
void CutHistogram::paintEnds(QPainter& painter, const QRectF& area) const {
    painter.setFont(sized(11));
    painter.setPen(look().ink2);
    const QRectF under(area.left(), area.bottom() + 3, area.width(), 14);
    painter.drawText(under, Qt::AlignLeft,
                     spread_->below == 0
                         ? textOf(spread_->least)
                         : tr("← %1 more, down to %2").arg(grouped(spread_->below), textOf(spread_->least)));
    painter.drawText(under, Qt::AlignRight,
                     spread_->above == 0
                         ? textOf(spread_->greatest)
                         : tr("%1 more, up to %2 →").arg(grouped(spread_->above), textOf(spread_->greatest)));
    if (spread_->empties > 0) painter.drawText(under, Qt::AlignHCenter, tr("%1 empty").arg(grouped(spread_->empties)));
}

}  // namespace jollyrow
