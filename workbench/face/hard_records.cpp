// SPDX-License-Identifier: MIT
#include "workbench/face/hard_records.h"

#include <QElapsedTimer>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

#include "core/rows/extents.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kMostLookedAt = 2000;  // a few milliseconds
constexpr std::size_t kMost = 6;
constexpr int kGap = 10, kNotes = 112, kPitch = 11;

bool readsRightToLeft(const std::string& text) {
    const QString words = QString::fromStdString(text.substr(0, 200));
    return std::any_of(words.begin(), words.end(),
                       [](QChar c) { return c.direction() == QChar::DirR || c.direction() == QChar::DirAL; });
}

/// The record that is the most of something so far.
struct Champion {
    std::optional<SourceRow> row;
    double value = 0;
    void take(SourceRow at, double is) {
        if (row && is <= value) return;
        row = at;
        value = is;
    }
};

}  // namespace

HardRecords::HardRecords(QWidget* parent) : QWidget(parent) {
    setAccessibleName(tr("The face on hard records"));
    setCursor(Qt::PointingHandCursor);
}

void HardRecords::present(CellDrawing* drawing, const Snapshot& snapshot, QSize cell) {
    drawing_ = drawing;
    cell_ = cell;
    entries_.clear();
    cut_ = widest_ = lookedAt_ = 0;
    if (!drawing_ || snapshot.recordCount() == 0) return update();
    Champion wide, narrow, least, most, foreign, none;
    QElapsedTimer timer;
    timer.start();
    const std::int64_t step = std::max<std::int64_t>(1, snapshot.recordCount() / kMostLookedAt);
    for (std::int64_t place = 0; place < snapshot.recordCount(); place += step) {
        const SourceRow row = snapshot.record(place);
        const CellText& text = drawing_->read(row);
        const int width = drawing_->neededWidth();
        ++lookedAt_;
        cut_ += width > cell_.width() ? 1 : 0;
        widest_ = std::max(widest_, width);
        const double number = drawing_->column().label
                                  ? 0
                                  : numberIn(*snapshot.table, snapshot.edits.get(), row, drawing_->column().field);
        if (text.isEmpty)
            none.take(row, 1);
        else
            narrow.take(row, -width);
        wide.take(row, width);
        if (number < 0) least.take(row, -number);
        if (number > 0) most.take(row, number);
        if (readsRightToLeft(text.text)) foreign.take(row, width);
    }
    microseconds_ = static_cast<double>(timer.nsecsElapsed()) / 1000 / std::max(1, lookedAt_);
    const auto add = [&](const Champion& champion, const QString& words) {
        if (!champion.row || entries_.size() == kMost) return;
        if (std::any_of(entries_.begin(), entries_.end(), [&](const Entry& e) { return e.row == *champion.row; }))
            return;
        drawing_->read(*champion.row);
        const int width = drawing_->neededWidth();
        const bool isCut = width > cell_.width();
        entries_.push_back({*champion.row, words,
                            isCut ? tr("needs %1 px").arg(width) : tr("%1 px to spare").arg(cell_.width() - width),
                            isCut});
    };
    add(wide, tr("Widest"));
    add(foreign, tr("Right to left"));
    add(least, tr("Below zero"));
    add(none, tr("Nothing to show"));
    add(most, tr("Largest number"));
    add(narrow, tr("Narrowest"));
    updateGeometry();
    update();
}

int HardRecords::columns() const { return std::max(1, (width() + kGap) / (cell_.width() + kNotes + 2 * kGap)); }

QSize HardRecords::sizeHint() const {
    const int rows = (static_cast<int>(entries_.size()) + columns() - 1) / columns();
    return {300, std::max(1, std::min(rows, 3)) * (cell_.height() + kPitch)};
}

QRect HardRecords::cellRect(std::size_t entry) const {
    const int column = static_cast<int>(entry) % columns(), row = static_cast<int>(entry) / columns();
    const int pitch = width() / columns();
    return {QPoint(column * pitch + 1, row * (cell_.height() + kPitch) + 1), cell_};
}

void HardRecords::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    for (std::size_t i = 0; i < entries_.size() && drawing_; ++i) {
        const QRect cell = cellRect(i);
        if (cell.bottom() > height()) break;
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(entries_[i].isCut ? t.buoy : t.hair, 1));
        painter.setBrush(t.paper);
        painter.drawRoundedRect(QRectF(cell).adjusted(-0.5, -0.5, 0.5, 0.5), 4, 4);
        painter.setRenderHint(QPainter::Antialiasing, false);
        drawing_->read(entries_[i].row);
        drawing_->paint(painter, cell, t);
        const QRect words(cell.right() + 8, cell.top(), kNotes, cell.height());
        painter.setPen(t.ink);
        painter.setFont(sized(11));
        painter.drawText(words.adjusted(0, 0, 0, -words.height() / 2), Qt::AlignLeft | Qt::AlignBottom,
                         entries_[i].words);
        painter.setPen(entries_[i].isCut ? t.buoyText : t.ink2);
        painter.drawText(words.adjusted(0, words.height() / 2, 0, 0), Qt::AlignLeft | Qt::AlignTop, entries_[i].note);
    }
}

void HardRecords::mousePressEvent(QMouseEvent* event) {
    for (std::size_t i = 0; i < entries_.size(); ++i)
        if (cellRect(i).adjusted(0, 0, kNotes, 0).contains(event->pos())) return Q_EMIT chosen(raw(entries_[i].row));
}

}  // namespace jollyrow
