// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_going.cpp.
#include "grid/input/go_to_entry.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>

#include "grid/paint/grouped.h"
#include "grid/paint/looks.h"

namespace jollyrow {

GoToEntry::GoToEntry(Offer offer, By by, QWidget* parent)
    : QFrame(parent), offer_(std::move(offer)), by_(by), entry_(new QLineEdit(this)), note_(new QLabel(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 6, 10, 6);
    column->setSpacing(4);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    row->addWidget(new QLabel(tr("Go to"), this));
    const QString words[] = {tr("line"), offer_.key, tr("%1 beginning with").arg(offer_.column)};
    for (const By way : {By::Line, By::Key, By::Beginning}) {
        QToolButton* button = nullptr;
        if (isOffered(way)) {
            button = new QToolButton(this);
            button->setText(words[static_cast<int>(way)]);
            button->setCheckable(true);
            button->setFocusPolicy(Qt::NoFocus);
            button->setToolTip(tr("Ctrl+J goes from one to the next"));
            connect(button, &QToolButton::clicked, this, [this, way] { setBy(way); });
            row->addWidget(button);
        }
        ways_.push_back(button);
    }
    row->addWidget(entry_);
    column->addLayout(row);
    note_->setTextFormat(Qt::PlainText);
    column->addWidget(note_);
    entry_->setObjectName(QStringLiteral("goToEntry"));
    entry_->setFixedWidth(130);
    entry_->installEventFilter(this);
    setFocusProxy(entry_);
    connect(entry_, &QLineEdit::textEdited, this, [this](const QString& text) {
        setWrong({});
        if (by_ == By::Beginning && !text.isEmpty()) Q_EMIT beginningTyped(text, false);
    });
    setBy(isOffered(by) ? by : By::Line);
}

bool GoToEntry::isOffered(By by) const {
    return by == By::Line || !(by == By::Key ? offer_.key : offer_.column).isEmpty();
}

void GoToEntry::setBy(By by) {
    by_ = by;
    for (std::size_t i = 0; i < ways_.size(); ++i)
        if (ways_[i]) ways_[i]->setChecked(i == static_cast<std::size_t>(by_));
    entry_->setAccessibleName(tr("Go to %1").arg(ways_[static_cast<std::size_t>(by_)]->text()));
    entry_->selectAll();
    setWrong({});
    const Tokens& t = tokensAt(*this);
    for (QToolButton* way : ways_)
        if (way)
            way->setStyleSheet(QStringLiteral("QToolButton{border:none;border-radius:4px;padding:2px 7px;color:%1}"
                                              "QToolButton:checked{background:%2;color:%3;font-weight:600}")
                                   .arg(t.ink2.name(), t.tealPale.name(), t.ink.name()));
}

void GoToEntry::turn() {
    for (int step = 1; step <= 3; ++step)
        if (const auto next = static_cast<By>((static_cast<int>(by_) + step) % 3); isOffered(next)) return setBy(next);
}

void GoToEntry::setWrong(const QString& why) {
    wrong_ = !why.isEmpty();
    const Tokens& t = tokensAt(*this);
    QPalette colours = palette();
    colours.setColor(QPalette::WindowText, wrong_ ? t.buoyText : t.ink2);
    note_->setPalette(colours);
    const QString usual = by_ == By::Line  ? tr("1 to %1").arg(grouped(offer_.lines))
                          : by_ == By::Key ? tr("Enter goes there, also into a closed group")
                                           : tr("goes as you type; Enter to the next one");
    note_->setText(wrong_ ? why : usual);
    if (isVisible()) {
        const int right = geometry().right();
        adjustSize();
        move(right - width() + 1, y());
    }
    update();
}

void GoToEntry::openIn(const QRect& room) {
    adjustSize();
    move(room.right() - width() - 12, room.top() + 8);
    show();
    raise();
    entry_->setFocus();
}

void GoToEntry::choose() {
    const QString text = entry_->text();
    if (by_ == By::Key) return Q_EMIT keyChosen(text.trimmed());
    if (by_ == By::Beginning) return Q_EMIT beginningTyped(text, true);
    QString digits = text;
    digits.remove(u' ').remove(QChar(0x2009));
    bool isNumber = false;
    const qlonglong number = digits.toLongLong(&isNumber);
    if (!isNumber || number < 1 || number > offer_.lines)
        return setWrong(tr("There are the lines 1 to %1.").arg(grouped(offer_.lines)));
    Q_EMIT lineChosen(number - 1);
}

bool GoToEntry::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::FocusOut) Q_EMIT closed();
    if (event->type() == QEvent::ShortcutOverride) {
        event->accept();  // keys that mean something here mean nothing around it
        return true;
    }
    if (event->type() != QEvent::KeyPress) return QFrame::eventFilter(watched, event);
    const auto& press = static_cast<const QKeyEvent&>(*event);
    switch (press.key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter: choose(); return true;
        case Qt::Key_Escape: Q_EMIT closed(); return true;
        case Qt::Key_J:
            if (!(press.modifiers() & Qt::ControlModifier)) return false;
            turn();
            return true;
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
