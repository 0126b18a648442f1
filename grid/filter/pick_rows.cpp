// SPDX-License-Identifier: MIT
#include "grid/filter/pick_rows.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>

#include <algorithm>
#include <array>

#include "core/columns/civil.h"
#include "core/rules/utf8.h"
#include "grid/paint/grouped.h"
#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {

constexpr int kIndent = 18;
constexpr int kBox = 14;

CivilDate civilOf(const Value& value, const TimeZone& zone) {
    if (const auto* date = std::get_if<Date>(&value)) return civilFromDays(date->days);
    const auto* instant = std::get_if<Instant>(&value);
    const std::int64_t micros = instant ? zone.toLocal(instant->micros) : std::get<Timestamp>(value).micros;
    return civilFromDays(static_cast<std::int32_t>(micros / kMicrosPerDay - (micros % kMicrosPerDay < 0 ? 1 : 0)));
}

}  // namespace

PickRows::PickRows(QWidget* parent) : QAbstractScrollArea(parent) {
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Values"));
    viewport()->setMouseTracking(true);
}

void PickRows::setList(std::shared_ptr<const PickList> list, std::function<std::string(const Value&)> words,
                       const PickList* chosen, const Tokens* look, const TimeZone* zone) {
    if (zone) zone_ = zone;
    list_ = std::move(list);
    words_ = std::move(words);
    look_ = look;
    const std::size_t count = list_->entries.size();
    kept_.assign(count, {});
    checked_.assign(count, !chosen);
    empties_ = !chosen || chosen->empties > 0;
    isDay_ = count != 0 && (std::holds_alternative<Date>(list_->entries[0].value) ||
                            std::holds_alternative<Timestamp>(list_->entries[0].value) ||
                            std::holds_alternative<Instant>(list_->entries[0].value));
    if (chosen) {
        // Both are in one order, the chosen ones being among the others.
        std::size_t at = 0;
        for (const PickEntry& entry : chosen->entries) {
            while (at < count && !(list_->entries[at].value == entry.value)) ++at;
            if (at == count) break;
            checked_[at] = true;
        }
    }
    makeLines();
}

const std::string& PickRows::wordsOfEntry(std::size_t entry) const {
    if (kept_[entry].empty()) kept_[entry] = words_(list_->entries[entry].value);
    return kept_[entry];
}

void PickRows::makeLines() {
    lines_.clear();
    const std::size_t count = list_ ? list_->entries.size() : 0;
    const bool searching = !sought_.empty();
    if (list_ && list_->empties > 0 && !searching) lines_.push_back({Line::Kind::Empties, 0, 0, 0});
    if (!isDay_ || searching) {
        for (std::size_t i = 0; i < count; ++i)
            if (!searching || lowered(wordsOfEntry(i)).find(sought_) != std::string::npos)
                lines_.push_back({Line::Kind::One, i, i + 1, 0});
    } else {
        for (std::size_t i = 0; i < count;) {
            const int year = civilOf(list_->entries[i].value, *zone_).year;
            std::size_t end = i;
            while (end < count && civilOf(list_->entries[end].value, *zone_).year == year) ++end;
            lines_.push_back({Line::Kind::Year, i, end, 0});
            if (std::find(opened_.begin(), opened_.end(), std::pair(year, 0)) != opened_.end()) {
                for (std::size_t m = i; m < end;) {
                    const auto month = static_cast<int>(civilOf(list_->entries[m].value, *zone_).month);
                    std::size_t monthEnd = m;
                    while (monthEnd < end &&
                           static_cast<int>(civilOf(list_->entries[monthEnd].value, *zone_).month) == month)
                        ++monthEnd;
                    lines_.push_back({Line::Kind::Month, m, monthEnd, 1});
                    if (std::find(opened_.begin(), opened_.end(), std::pair(year, month)) != opened_.end())
                        for (std::size_t d = m; d < monthEnd; ++d) lines_.push_back({Line::Kind::One, d, d + 1, 2});
                    m = monthEnd;
                }
            }
            i = end;
        }
    }
    current_ = std::clamp(current_, 0, std::max(0, static_cast<int>(lines_.size()) - 1));
    syncBar();
    viewport()->update();
}

void PickRows::search(const QString& text) {
    sought_ = lowered(text.trimmed().toStdString());
    current_ = 0;
    verticalScrollBar()->setValue(0);
    makeLines();
}

PickRows::Check PickRows::checkOf(const Line& line) const {
    if (line.kind == Line::Kind::Empties) return empties_ ? Check::On : Check::Off;
    bool any = false, all = true;
    for (std::size_t i = line.first; i < line.end; ++i) {
        any = any || checked_[i];
        all = all && checked_[i];
    }
    return all ? Check::On : any ? Check::Partly : Check::Off;
}

void PickRows::toggle(int at) {
    if (at < 0 || at >= static_cast<int>(lines_.size())) return;
    const Line& line = lines_[static_cast<std::size_t>(at)];
    const bool on = checkOf(line) != Check::On;
    if (line.kind == Line::Kind::Empties) empties_ = on;
    for (std::size_t i = line.first; i < line.end; ++i) checked_[i] = on;
    viewport()->update();
    Q_EMIT changed();
}

void PickRows::setShown(bool checked) {
    for (const Line& line : lines_) {
        if (line.kind == Line::Kind::Empties) empties_ = checked;
        for (std::size_t i = line.first; i < line.end; ++i) checked_[i] = checked;
    }
    viewport()->update();
    Q_EMIT changed();
}

std::size_t PickRows::checkedCount() const {
    return static_cast<std::size_t>(std::count(checked_.begin(), checked_.end(), true));
}

std::int64_t PickRows::checkedRecords() const {
    std::int64_t records = empties_ && list_ ? list_->empties : 0;
    for (std::size_t i = 0; i < checked_.size(); ++i) records += checked_[i] ? list_->entries[i].count : 0;
    return records;
}

bool PickRows::isEverythingChecked() const {
    return checkedCount() == checked_.size() && (empties_ || !list_ || list_->empties == 0);
}

bool PickRows::isFolded(const Line& line) const {
    const CivilDate date = civilOf(list_->entries[line.first].value, *zone_);
    const std::pair key(date.year, line.kind == Line::Kind::Month ? static_cast<int>(date.month) : 0);
    return std::find(opened_.begin(), opened_.end(), key) == opened_.end();
}

void PickRows::fold(int at) {
    if (at < 0 || at >= static_cast<int>(lines_.size())) return;
    const Line line = lines_[static_cast<std::size_t>(at)];
    if (line.kind != Line::Kind::Year && line.kind != Line::Kind::Month) return;
    const CivilDate date = civilOf(list_->entries[line.first].value, *zone_);
    const std::pair key(date.year, line.kind == Line::Kind::Month ? static_cast<int>(date.month) : 0);
    const auto found = std::find(opened_.begin(), opened_.end(), key);
    if (found == opened_.end())
        opened_.push_back(key);
    else
        opened_.erase(found);
    makeLines();
}

std::string PickRows::wordsOf(const Line& line) const {
    static const std::array<const char*, 12> kMonths = {
        QT_TR_NOOP("January"),   QT_TR_NOOP("February"), QT_TR_NOOP("March"),    QT_TR_NOOP("April"),
        QT_TR_NOOP("May"),       QT_TR_NOOP("June"),     QT_TR_NOOP("July"),     QT_TR_NOOP("August"),
        QT_TR_NOOP("September"), QT_TR_NOOP("October"),  QT_TR_NOOP("November"), QT_TR_NOOP("December")};
    switch (line.kind) {
        case Line::Kind::Empties: return tr("(empty)").toStdString();
        case Line::Kind::One: return wordsOfEntry(line.first);
        case Line::Kind::Year: return std::to_string(civilOf(list_->entries[line.first].value, *zone_).year);
        case Line::Kind::Month:
            return tr(kMonths[civilOf(list_->entries[line.first].value, *zone_).month - 1]).toStdString();
    }
    return {};
}

std::int64_t PickRows::countOf(const Line& line) const {
    if (line.kind == Line::Kind::Empties) return list_->empties;
    std::int64_t count = 0;
    for (std::size_t i = line.first; i < line.end; ++i) count += list_->entries[i].count;
    return count;
}

int PickRows::lineHeight() const { return fontMetrics().height() + 7; }

QRect PickRows::lineRect(int line) const {
    return {0, line * lineHeight() - verticalScrollBar()->value() * lineHeight(), viewport()->width(), lineHeight()};
}

int PickRows::lineOf(const QString& words) {
    for (std::size_t i = 0; i < lines_.size(); ++i)
        if (QString::fromStdString(wordsOf(lines_[i])) == words) return static_cast<int>(i);
    return -1;
}

void PickRows::syncBar() {
    const int shown = std::max(1, viewport()->height() / lineHeight());
    verticalScrollBar()->setRange(0, std::max(0, static_cast<int>(lines_.size()) - shown));
    verticalScrollBar()->setPageStep(shown);
    verticalScrollBar()->setSingleStep(1);
}

void PickRows::resizeEvent(QResizeEvent*) { syncBar(); }
void PickRows::focusInEvent(QFocusEvent*) { viewport()->update(); }
void PickRows::focusOutEvent(QFocusEvent*) { viewport()->update(); }

/// What folds a year or a month, its middle at `c`.
void PickRows::paintFold(QPainter& painter, const Line& line, const QPointF& c) const {
    painter.setPen(QPen(colours().ink2, 1.4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    const std::array<QPointF, 3> arrow =
        isFolded(line) ? std::array{c + QPointF(-1.6, -3.2), c + QPointF(1.8, 0), c + QPointF(-1.6, 3.2)}
                       : std::array{c + QPointF(-3.2, -1.6), c + QPointF(0, 1.8), c + QPointF(3.2, -1.6)};
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(arrow.data(), 3);
}

void PickRows::paintCheck(QPainter& painter, Check check, const QRectF& box) const {
    const Tokens& t = colours();
    painter.setPen(QPen(check == Check::Off ? t.entryEdge : t.teal, 1.2));
    painter.setBrush(check == Check::On ? QBrush(t.teal) : QBrush(t.paper));
    painter.drawRoundedRect(box, 3, 3);
    if (check == Check::On) {
        painter.setPen(QPen(t.onTeal, 1.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        const std::array<QPointF, 3> tick = {box.topLeft() + QPointF(3, 6.8), box.topLeft() + QPointF(5.6, 9.4),
                                             box.topLeft() + QPointF(10, 4)};
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(tick.data(), 3);
    } else if (check == Check::Partly) {
        painter.fillRect(box.adjusted(3, 5, -3, -5), t.teal);
    }
}

/// The value from `left` on, and how many records have it.
void PickRows::paintWords(QPainter& painter, const Line& line, const QRect& row, int left) const {
    const Tokens& t = colours();
    const QString count = grouped(countOf(line));
    const int countWidth = fontMetrics().horizontalAdvance(count) + 12;
    painter.setPen(t.ink2);
    painter.drawText(row.adjusted(0, 0, -8, 0), Qt::AlignRight | Qt::AlignVCenter, count);
    const QRect room = row.adjusted(left, 0, -countWidth - 8, 0);
    QFont own = font();
    own.setItalic(line.kind == Line::Kind::Empties);
    painter.setFont(own);
    painter.setPen(line.kind == Line::Kind::Empties ? t.ink2 : t.ink);
    const QString words = QString::fromStdString(wordsOf(line)).simplified();
    painter.drawText(room, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(words, Qt::ElideRight, room.width()));
    painter.setFont(font());
}

void PickRows::paintLine(QPainter& painter, int at, const QRect& row) const {
    const Tokens& t = colours();
    const Line& line = lines_[static_cast<std::size_t>(at)];
    if (at == current_ && hasFocus())
        painter.fillRect(row, t.tealPale);
    else if (at == hovered_)
        painter.fillRect(row, t.hoverRow);
    int x = 8 + line.level * kIndent;
    if (line.kind == Line::Kind::Year || line.kind == Line::Kind::Month)
        paintFold(painter, line, QPointF(x + 4, row.center().y() + 0.5));
    if (isDay_ && sought_.empty()) x += 14;
    paintCheck(painter, checkOf(line), QRectF(x + 0.5, row.center().y() - kBox / 2.0 + 1, kBox - 1, kBox - 1));
    paintWords(painter, line, row, x + kBox + 8);
}

const Tokens& PickRows::colours() const { return look_ ? *look_ : tokens(Theme::Light); }

void PickRows::paintEvent(QPaintEvent*) {
    QPainter painter(viewport());
    painter.fillRect(viewport()->rect(), colours().paper);
    painter.setRenderHint(QPainter::Antialiasing);
    for (int at = verticalScrollBar()->value(); at < static_cast<int>(lines_.size()); ++at) {
        const QRect row = lineRect(at);
        if (row.top() > viewport()->height()) break;
        paintLine(painter, at, row);
    }
    if (!lines_.empty()) return;
    painter.setPen(colours().ink2);
    painter.drawText(viewport()->rect(), Qt::AlignCenter, list_ ? tr("No value has this in it.") : tr("Counting…"));
}

void PickRows::mousePressEvent(QMouseEvent* event) {
    const int at = event->pos().y() / lineHeight() + verticalScrollBar()->value();
    if (at >= static_cast<int>(lines_.size())) return;
    current_ = at;
    const Line& line = lines_[static_cast<std::size_t>(at)];
    const bool tree = line.kind == Line::Kind::Year || line.kind == Line::Kind::Month;
    if (tree && event->pos().x() < 8 + line.level * kIndent + 12)
        fold(at);
    else
        toggle(at);
}

void PickRows::mouseMoveEvent(QMouseEvent* event) {
    const int at = event->pos().y() / lineHeight() + verticalScrollBar()->value();
    if (at == hovered_) return;
    hovered_ = at;
    viewport()->update();
}

void PickRows::keyPressEvent(QKeyEvent* event) {
    const int last = static_cast<int>(lines_.size()) - 1;
    int next = current_;
    switch (event->key()) {
        case Qt::Key_Up: next = current_ - 1; break;
        case Qt::Key_Down: next = current_ + 1; break;
        case Qt::Key_Home: next = 0; break;
        case Qt::Key_End: next = last; break;
        case Qt::Key_PageUp: next = current_ - verticalScrollBar()->pageStep(); break;
        case Qt::Key_PageDown: next = current_ + verticalScrollBar()->pageStep(); break;
        case Qt::Key_Space: toggle(current_); return;
        case Qt::Key_Left:
        case Qt::Key_Right: fold(current_); return;
        default: QAbstractScrollArea::keyPressEvent(event); return;
    }
    current_ = std::clamp(next, 0, std::max(0, last));
    const int top = verticalScrollBar()->value(), shown = verticalScrollBar()->pageStep();
    if (current_ < top) verticalScrollBar()->setValue(current_);
    if (current_ >= top + shown) verticalScrollBar()->setValue(current_ - shown + 1);
    viewport()->update();
}

}  // namespace jollyrow
