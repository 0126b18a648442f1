// SPDX-License-Identifier: MIT
#include "grid/filter/filter_row.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>

#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {

constexpr int kInset = 2;
constexpr int kCross = 16;
constexpr int kMarkGap = 4;

/// A funnel, 12 pixels wide.
void paintFunnel(QPainter& painter, const QPointF& at, const QColor& colour, bool filled) {
    QPainterPath path(at + QPointF(0, 0.5));
    path.lineTo(at + QPointF(11, 0.5));
    path.lineTo(at + QPointF(7, 5.5));
    path.lineTo(at + QPointF(7, 10));
    path.lineTo(at + QPointF(4, 8.4));
    path.lineTo(at + QPointF(4, 5.5));
    path.closeSubpath();
    painter.setPen(QPen(colour, 1.2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.setBrush(filled ? QBrush(colour) : QBrush(Qt::NoBrush));
    painter.drawPath(path);
}

}  // namespace

FilterRow::FilterRow(QWidget* viewport) : QWidget(viewport), entry_(new QLineEdit(this)) {
    setObjectName(QStringLiteral("filterRow"));
    setMouseTracking(true);
    setCursor(Qt::IBeamCursor);
    setAccessibleName(tr("Filter row"));
    entry_->setFrame(false);
    // The row draws the cell around it.
    entry_->setStyleSheet(QStringLiteral("QLineEdit{border:none;background:transparent;padding:0;margin:0}"));
    entry_->setMinimumHeight(0);
    entry_->hide();
    entry_->installEventFilter(this);
    connect(entry_, &QLineEdit::textEdited, this, [this](const QString& text) {
        if (focused_) Q_EMIT typed(*focused_, text);
    });
}

int FilterRow::heightFor(const QFont& font) { return QFontMetrics(font).height() + 13; }

void FilterRow::setLook(const Tokens* look) {
    look_ = look;
    update();
}

const FilterCell* FilterRow::find(const QString& field) const {
    for (const FilterCell& cell : cells_)
        if (cell.field == field) return &cell;
    return nullptr;
}

const FilterCell* FilterRow::cellAt(int x) const {
    for (const FilterCell& cell : cells_)
        if (cell.width > 0 && x >= cell.left && x < cell.left + cell.width) return &cell;
    return nullptr;
}

QRect FilterRow::boxOf(const FilterCell& cell) const {
    return {cell.left + kInset, 3, cell.width - 2 * kInset, height() - 7};
}
QRect FilterRow::crossOf(const FilterCell& cell) const {
    const QRect box = boxOf(cell);
    return {box.right() - kCross + 1, box.top(), kCross, box.height()};
}

QRect FilterRow::cellRect(const QString& field) const {
    const FilterCell* cell = find(field);
    return cell && cell->width > 0 ? boxOf(*cell).translated(pos()) : QRect();
}

void FilterRow::setCells(std::vector<FilterCell> cells) {
    cells_ = std::move(cells);
    if (focused_) {
        const FilterCell* cell = find(*focused_);
        if (!cell || (!entry_->hasFocus() && cell->problem.isEmpty())) endEntry();
        // What is being typed is the person's; only another source of the text replaces it.
        else if (!entry_->hasFocus() || (cell->problem.isEmpty() && cell->text != entry_->text() &&
                                         entry_->text().trimmed() != cell->text.trimmed())) {
            if (cell->typed) entry_->setText(cell->text);
        }
    }
    placeEntry();
    update();
}

bool FilterRow::focusCell(const QString& field) {
    const FilterCell* cell = find(field);
    if (!cell || cell->width <= 0) return false;
    const bool other = focused_ != field;
    focused_ = field;
    if (other) entry_->setText(cell->typed ? cell->text : QString());
    entry_->setAccessibleName(tr("Filter %1").arg(cell->heading));
    entry_->setPlaceholderText(cell->typed ? cell->mark : cell->text);
    placeEntry();
    entry_->show();
    entry_->setFocus(Qt::OtherFocusReason);
    entry_->selectAll();
    update();
    return true;
}

void FilterRow::placeEntry() {
    const FilterCell* cell = focused_ ? find(*focused_) : nullptr;
    if (!cell || cell->width <= 0) {
        entry_->hide();
        return;
    }
    const Tokens& t = look_ ? *look_ : tokens(Theme::Light);
    QPalette colours = entry_->palette();
    colours.setColor(QPalette::Text, cell->problem.isEmpty() ? t.ink : t.buoyText);
    colours.setColor(QPalette::Base, cell->problem.isEmpty() ? t.paper : t.buoyPale);
    colours.setColor(QPalette::PlaceholderText, t.ink2);
    entry_->setPalette(colours);
    const QRect box = boxOf(*cell);
    entry_->setGeometry(box.adjusted(5, 1, entry_->text().isEmpty() && !cell->filtered ? -3 : -kCross, -1));
    if (!entry_->isVisible() && entry_->hasFocus()) entry_->show();
}

void FilterRow::endEntry() {
    focused_.reset();
    entry_->hide();
    update();
}

void FilterRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void FilterRow::paint(QPainter& painter) {
    const Tokens& t = look_ ? *look_ : tokens(Theme::Light);
    painter.fillRect(rect(), t.page);
    painter.fillRect(0, height() - 1, width(), 1, t.hair);
    painter.setRenderHint(QPainter::Antialiasing);
    bool any = false;
    for (const FilterCell& cell : cells_) any = any || (cell.filtered && cell.on);
    paintFunnel(painter, QPointF(6, (height() - 11) / 2.0), any ? t.tealText : t.ink2, any);
    for (const FilterCell& cell : cells_) {
        if (cell.width <= 8) continue;
        const QRect box = boxOf(cell);
        const bool editing = focused_ == cell.field && entry_->isVisible();
        const bool wrong = !cell.problem.isEmpty();
        painter.setClipRect(cell.left, 0, cell.width, height());
        if (wrong || cell.filtered || editing) {
            painter.setPen(QPen(wrong ? t.buoy : editing ? t.teal : t.tealPaleEdge, wrong || editing ? 1.4 : 1));
            painter.setBrush(wrong ? t.buoyPale : editing ? t.paper : cell.on ? t.tealPale : t.page);
            painter.drawRoundedRect(QRectF(box).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
        } else {
            painter.fillRect(QRect(box.left() + 3, box.bottom(), box.width() - 6, 1),
                             hovered_ == cell.field ? t.teal : t.entryEdge);
        }
        if (!editing) {
            QRect room = box.adjusted(6, 0, cell.filtered ? -kCross : -4, 0);
            const QString text = cell.filtered || wrong ? cell.text : cell.mark;
            painter.setPen(wrong ? t.buoyText : cell.filtered && cell.on ? t.ink : t.ink2);
            QFont shown = font();
            shown.setStrikeOut(cell.filtered && !cell.on);
            painter.setFont(shown);
            painter.drawText(room, Qt::AlignLeft | Qt::AlignVCenter,
                             painter.fontMetrics().elidedText(text, Qt::ElideRight, room.width()));
        }
        if (cell.filtered || (editing && !entry_->text().isEmpty())) {
            const QPointF c = QRectF(crossOf(cell)).center();
            painter.setPen(QPen(t.ink2, 1.3, Qt::SolidLine, Qt::RoundCap));
            painter.drawLine(c + QPointF(-3, -3), c + QPointF(3, 3));
            painter.drawLine(c + QPointF(-3, 3), c + QPointF(3, -3));
        }
    }
}

void FilterRow::pressed(const FilterCell& cell, const QPoint& at) {
    const QString field = cell.field;
    const bool typing = focused_ == field && !entry_->text().isEmpty();
    const int mark = cell.left + kInset + 6 + fontMetrics().horizontalAdvance(cell.mark) + kMarkGap;
    if ((cell.filtered || typing) && crossOf(cell).contains(at)) {
        if (focused_ == field) entry_->clear();
        Q_EMIT typed(field, {});
    } else if (!cell.filtered && focused_ != field && at.x() < mark) {
        Q_EMIT menuWanted(field, mapToGlobal(QPoint(cell.left + kInset, height() - 2)));
    } else {
        focusCell(field);
    }
}

void FilterRow::mousePressEvent(QMouseEvent* event) {
    const FilterCell* cell = cellAt(event->pos().x());
    const QPoint global = event->globalPosition().toPoint();
    if (!cell)
        Q_EMIT rowMenuWanted(global);
    else if (event->button() == Qt::RightButton)
        Q_EMIT menuWanted(QString(cell->field), global);
    else
        pressed(*cell, event->pos());
}

void FilterRow::mouseMoveEvent(QMouseEvent* event) {
    const FilterCell* cell = cellAt(event->pos().x());
    const auto over = cell ? std::optional(cell->field) : std::nullopt;
    const bool onCross = cell && cell->filtered && crossOf(*cell).contains(event->pos());
    setCursor(onCross || !cell ? Qt::ArrowCursor : Qt::IBeamCursor);
    if (over == hovered_) return;
    hovered_ = over;
    update();
}

void FilterRow::leaveEvent(QEvent*) {
    hovered_.reset();
    update();
}

bool FilterRow::eventFilter(QObject* watched, QEvent* event) {
    if (watched == entry_ && (event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride)) {
        auto& key = *static_cast<QKeyEvent*>(event);
        if (event->type() == QEvent::ShortcutOverride) {
            if (key.key() == Qt::Key_Escape) key.accept();
            return false;
        }
        return entryKey(key);
    }
    if (watched == entry_ && event->type() == QEvent::FocusOut &&
        static_cast<QFocusEvent*>(event)->reason() != Qt::PopupFocusReason) {
        // A wrong text stays in sight until it is mended or taken away.
        const FilterCell* cell = focused_ ? find(*focused_) : nullptr;
        if (!cell || cell->problem.isEmpty()) endEntry();
    }
    return QWidget::eventFilter(watched, event);
}

bool FilterRow::entryKey(QKeyEvent& event) {
    if (!focused_) return false;
    const QString field = *focused_;
    switch (event.key()) {
        case Qt::Key_Escape:
            if (!entry_->text().isEmpty()) {
                entry_->clear();
                Q_EMIT typed(field, {});
            } else {
                Q_EMIT left(false);
            }
            return true;
        case Qt::Key_Return:
        case Qt::Key_Enter: Q_EMIT left(false); return true;
        case Qt::Key_Up: Q_EMIT left(true); return true;
        case Qt::Key_Down:
            if (event.modifiers() & Qt::AltModifier)
                Q_EMIT pickWanted(field);
            else
                Q_EMIT left(false);
            return true;
        case Qt::Key_F4:
            Q_EMIT menuWanted(field, mapToGlobal(QPoint(boxOf(*find(field)).left(), height() - 2)));
            return true;
        case Qt::Key_Tab: Q_EMIT neighbourWanted(field, 1); return true;
        case Qt::Key_Backtab: Q_EMIT neighbourWanted(field, -1); return true;
        default: return false;
    }
}

bool FilterRow::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const FilterCell* cell = cellAt(help->pos().x());
        if (!cell) {
            QToolTip::showText(help->globalPos(), tr("What to do with the filter row"), this);
        } else if (!cell->problem.isEmpty()) {
            QToolTip::showText(help->globalPos(), cell->problem, this);
        } else {
            QToolTip::showText(help->globalPos(),
                               cell->filtered ? cell->text
                                              : tr("Filter %1: type a value, > 4, 2..8, Otter*, a, b, empty, "
                                                   "today.\nThe mark at the left, or F4, lists what can be asked.")
                                                    .arg(cell->heading),
                               this);
        }
        return true;
    }
    return QWidget::event(event);
}

}  // namespace jollyrow
