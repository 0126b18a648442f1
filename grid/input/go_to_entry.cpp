// SPDX-License-Identifier: MIT
#include "grid/input/go_to_entry.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>

#include "grid/paint/looks.h"

namespace jollyrow {

GoToEntry::GoToEntry(std::int64_t lines, QWidget* parent) : QFrame(parent), entry_(new QLineEdit(this)), lines_(lines) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(10, 6, 10, 6);
    row->addWidget(new QLabel(tr("Go to line"), this));
    row->addWidget(entry_);
    row->addWidget(new QLabel(tr("of %1").arg(lines), this));
    entry_->setObjectName(QStringLiteral("goToEntry"));
    entry_->setFixedWidth(90);
    entry_->setAccessibleName(tr("Go to line"));
    entry_->installEventFilter(this);
    setFocusProxy(entry_);
    connect(entry_, &QLineEdit::textEdited, this, [this] {
        wrong_ = false;
        update();
    });
}

void GoToEntry::openIn(const QRect& room) {
    adjustSize();
    move(room.right() - width() - 12, room.top() + 8);
    show();
    raise();
    entry_->setFocus();
}

void GoToEntry::choose() {
    QString digits = entry_->text();
    digits.remove(u' ').remove(QChar(0x2009));
    bool isNumber = false;
    const qlonglong number = digits.toLongLong(&isNumber);
    wrong_ = !isNumber || number < 1 || number > lines_;
    update();
    if (!wrong_) Q_EMIT chosen(number - 1);
}

bool GoToEntry::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::FocusOut) Q_EMIT closed();
    if (event->type() != QEvent::KeyPress) return QFrame::eventFilter(watched, event);
    switch (static_cast<QKeyEvent*>(event)->key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter: choose(); return true;
        case Qt::Key_Escape: Q_EMIT closed(); return true;
        default: return false;
    }
}

void GoToEntry::paintEvent(QPaintEvent*) {
    const Tokens& t = tokensAt(*this);
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(wrong_ ? t.buoy : t.popEdge, wrong_ ? 2 : 1));
    painter.setBrush(wrong_ ? t.buoyPale : t.page);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
}

}  // namespace jollyrow
