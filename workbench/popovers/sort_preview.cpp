// SPDX-License-Identifier: MIT
#include "workbench/popovers/sort_preview.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <numeric>

#include "core/design/cell_text.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluator.h"
#include "core/session/session.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {
constexpr std::size_t kSamples = 8;
constexpr int kHead = 24, kLine = 22, kLinks = 84;
}  // namespace

SortPreview::SortPreview(Grid& grid, QWidget* parent) : QWidget(parent), grid_(grid), before_(grid.snapshot()) {
    setAccessibleName(tr("Records before and after"));
    connect(&grid, &Grid::snapshotChanged, this, &SortPreview::refresh);
    choose();
    refresh();
}

void SortPreview::chooseOthers() {
    ++turn_;
    choose();
    refresh();
}

void SortPreview::choose() {
    samples_.clear();
    const std::int64_t lines = before_ ? before_->recordCount() : 0;
    if (lines == 0) return;
    const auto count = std::min<std::int64_t>(static_cast<std::int64_t>(kSamples), lines);
    for (std::int64_t i = 0; i < count; ++i) {
        // Spread over all of them, others each turn.
        const std::int64_t line = (i * lines / count + static_cast<std::int64_t>(turn_) * 7919) % lines;
        const SourceRow row = before_->record(line);
        if (std::none_of(samples_.begin(), samples_.end(), [&](const Sample& s) { return s.row == row; }))
            samples_.push_back({row, 0, 0, {}, false});
    }
}

std::vector<int> SortPreview::placesIn(const Snapshot& snapshot) const {
    std::vector<std::int64_t> lines;
    for (const Sample& sample : samples_) {
        const auto line = snapshot.placeOf(sample.row);
        lines.push_back(line.value_or(std::numeric_limits<std::int64_t>::max()));
    }
    std::vector<std::size_t> order(lines.size());
    std::iota(order.begin(), order.end(), 0);
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return lines[a] < lines[b]; });
    std::vector<int> places(lines.size());
    for (std::size_t i = 0; i < order.size(); ++i) places[order[i]] = static_cast<int>(i);
    return places;
}

void SortPreview::refresh() {
    const auto& now = grid_.snapshot();
    if (!now || !before_ || now->table->rows != before_->table->rows) return update();
    std::vector<int> before = placesIn(*before_);
    const std::vector<int> after = placesIn(*now);
    // Nothing moved yet: against the order of the database, which says what the keys do.
    againstBound_ = before == after;
    if (againstBound_) {
        std::vector<std::size_t> order(samples_.size());
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(),
                  [&](std::size_t a, std::size_t b) { return samples_[a].row < samples_[b].row; });
        for (std::size_t i = 0; i < order.size(); ++i) before[order[i]] = static_cast<int>(i);
    }
    const ViewPlan& plan = grid_.session().plan();
    for (std::size_t i = 0; i < samples_.size(); ++i) {
        samples_[i].before = before[i];
        samples_[i].after = after[i];
        samples_[i].key.clear();
        if (plan.sort.empty()) continue;
        const SortTerm& first = plan.sort.front();
        if (first.program) {
            const auto cell = evaluateOne(first.program, grid_.session().evaluationInput(), samples_[i].row);
            samples_[i].key = !cell || isError(cell->state)     ? tr("error")
                              : cell->state == CellState::Empty ? tr("empty")
                                                                : QString::fromStdString(jollyrow::textOf(cell->value));
        } else if (first.field && now->table->column(*first.field)) {
            std::string text;
            appendDisplay(text, now->value(samples_[i].row, *first.field),
                          defaultFormat(now->table->schema.field(*first.field), false));
            samples_[i].key = text.empty() ? tr("empty") : QString::fromStdString(text);
        }
    }
    for (Sample& sample : samples_)
        sample.tied = std::any_of(samples_.begin(), samples_.end(), [&](const Sample& other) {
            return other.after == sample.after - 1 && other.key == sample.key;
        });
    update();
}

std::vector<int> SortPreview::shownColumns() const {
    std::vector<int> out;
    const ViewPlan& plan = grid_.session().plan();
    for (int i = 0; i < static_cast<int>(plan.columns.size()) && out.size() < 2; ++i)
        if (plan.columns[static_cast<std::size_t>(i)].format.type == Type::Text ||
            plan.columns[static_cast<std::size_t>(i)].label)
            out.push_back(i);
    if (out.empty() && !plan.columns.empty()) out.push_back(0);
    return out;
}

QString SortPreview::textOf(SourceRow row, int column) const {
    CellText cell;
    readCell(*grid_.snapshot(), row, grid_.session().plan().columns[static_cast<std::size_t>(column)], cell);
    return QString::fromStdString(cell.text).simplified();
}

void SortPreview::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paint(painter, shownColumns());
}

void SortPreview::paint(QPainter& painter, const std::vector<int>& shown) const {
    const Tokens& t = look();
    if (samples_.empty() || shown.empty()) {
        painter.setPen(t.ink2);
        painter.drawText(rect(), Qt::AlignCenter, tr("There are no records to show."));
        return;
    }
    const auto count = static_cast<int>(samples_.size());
    const int side = (width() - kLinks) / 2;
    const QRect left(0, kHead, side, count * kLine), right(width() - side, kHead, side, count * kLine);
    painter.setFont(sized(12, QFont::DemiBold));
    painter.setPen(t.ink);
    painter.drawText(QRect(0, 0, side, kHead), Qt::AlignLeft | Qt::AlignVCenter,
                     againstBound_ ? tr("In the order of the database") : tr("Before"));
    painter.drawText(QRect(right.left(), 0, side, kHead), Qt::AlignLeft | Qt::AlignVCenter, tr("After"));
    painter.setPen(QPen(t.hair, 1));
    painter.setBrush(t.paper);
    for (const QRect& table : {left, right})
        painter.drawRoundedRect(QRectF(table).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    for (const Sample& sample : samples_) {
        const QRect before(left.left(), left.top() + sample.before * kLine, side, kLine),
            after(right.left(), right.top() + sample.after * kLine, side, kLine);
        for (const QRect& row : {before, after})
            if (row.top() != left.top())
                painter.fillRect(QRect(row.left() + 1, row.top(), row.width() - 2, 1), t.hair2);
        paintRecord(painter, sample, before, false, shown);
        paintRecord(painter, sample, after, true, shown);
        paintWay(painter, sample.after - sample.before, {left.right() + 5.0, before.top() + kLine / 2.0},
                 {right.left() - 5.0, after.top() + kLine / 2.0});
    }
}

void SortPreview::paintRecord(QPainter& painter, const Sample& sample, const QRect& row, bool isAfter,
                              const std::vector<int>& shown) const {
    const Tokens& t = look();
    const QFontMetrics metrics(sized(12));
    const bool keyed = !grid_.session().plan().sort.empty();
    const int keyWidth = keyed ? std::min(96, row.width() / 3) : 0;
    int x = row.left() + 8;
    if (keyed) {
        painter.setFont(sized(12, isAfter ? QFont::DemiBold : QFont::Normal));
        painter.setPen(isAfter ? t.tealText : t.ink2);
        painter.drawText(QRect(x, row.top(), keyWidth - 10, kLine), Qt::AlignRight | Qt::AlignVCenter,
                         metrics.elidedText(sample.key, Qt::ElideRight, keyWidth - 10));
        x += keyWidth + 2;
    }
    painter.setFont(sized(12));
    painter.setPen(t.ink);
    const int each = (row.right() - 14 - x) / static_cast<int>(shown.size());
    for (const int column : shown) {
        painter.drawText(QRect(x, row.top(), each - 8, kLine), Qt::AlignLeft | Qt::AlignVCenter,
                         metrics.elidedText(textOf(sample.row, column), Qt::ElideRight, each - 8));
        x += each;
    }
    if (isAfter && sample.tied && keyed) {
        painter.setPen(QPen(t.brass, 1.4));
        const int bx = row.right() - 6;
        painter.drawPolyline(QPolygonF({QPointF(bx - 4, row.top() - kLine / 2.0), QPointF(bx, row.top() - kLine / 2.0),
                                        QPointF(bx, row.center().y()), QPointF(bx - 4, row.center().y())}));
    }
}

/// From where a record stood to where it stands; bold where it moved far.
void SortPreview::paintWay(QPainter& painter, int moved, QPointF from, QPointF to) {
    const Tokens& t = look();
    const double half = (to.x() - from.x()) / 2;
    const QColor colour = moved < 0 ? t.teal : moved > 0 ? t.blue : t.ink3;
    QPainterPath link(from);
    link.cubicTo(from.x() + half, from.y(), to.x() - half, to.y(), to.x(), to.y());
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colour, std::abs(moved) >= 2 ? 1.8 : 1.2));
    painter.drawPath(link);
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    painter.drawEllipse(from, 2.2, 2.2);
    painter.drawEllipse(to, 2.2, 2.2);
}

}  // namespace jollyrow
