// SPDX-License-Identifier: MIT
#include "grid/find/find_bar.h"
#include "grid/paint/card.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QToolButton>

#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {
constexpr int kFindShadow = 8;
}

FindBar::FindBar(QWidget* parent, const Tokens& look)
    : QFrame(parent),
      look_(look),
      entry_(new QLineEdit(this)),
      count_(new QLabel(this)),
      hideRest_(new QCheckBox(tr("Hide the rest"), this)) {
    setObjectName(QStringLiteral("findBar"));
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(kFindShadow + 9, kFindShadow + 7, kFindShadow + 7, kFindShadow + 7);
    rows->setSpacing(6);
    rows->setSizeConstraint(QLayout::SetFixedSize);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    rows->addLayout(row);
    rows->addWidget(replacing_ = makeReplacing());
    replacing_->hide();
    entry_->setPlaceholderText(tr("Find, or heading: text"));
    entry_->setMinimumWidth(190);
    entry_->setAccessibleName(tr("Find in any column"));
    row->addWidget(entry_);
    QPalette quiet = count_->palette();
    quiet.setColor(QPalette::WindowText, look.ink2);
    count_->setPalette(quiet);
    count_->setMinimumWidth(count_->fontMetrics().horizontalAdvance(QStringLiteral("0 000 of 0 000")));
    row->addWidget(count_);
    const auto button = [&](Qt::ArrowType arrow, const QString& words, int by) {
        auto* tool = new QToolButton(this);
        tool->setArrowType(arrow);
        tool->setAutoRaise(true);
        tool->setToolTip(words);
        tool->setAccessibleName(words);
        connect(tool, &QToolButton::clicked, this, [this, by] { Q_EMIT stepped(by); });
        row->addWidget(tool);
    };
    button(Qt::UpArrow, tr("The one before (Shift+Enter)"), -1);
    button(Qt::DownArrow, tr("The next (Enter)"), 1);
    row->addWidget(hideRest_);
    auto* replace = new QToolButton(this);
    replace->setText(tr("Replace…"));
    replace->setAutoRaise(true);
    replace->setToolTip(tr("Replace what is found in the current column (Ctrl+H)"));
    connect(replace, &QToolButton::clicked, this, &FindBar::replaceWanted);
    row->addWidget(replace);
    connect(entry_, &QLineEdit::textChanged, this, &FindBar::typed);
    connect(hideRest_, &QCheckBox::toggled, this, &FindBar::restHidden);
    entry_->installEventFilter(this);
    hideRest_->installEventFilter(this);
}

QWidget* FindBar::makeReplacing() {
    auto* box = new QWidget(this);
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(8);
    with_ = new QLineEdit(box);
    with_->setPlaceholderText(tr("Replace with"));
    with_->setAccessibleName(tr("Replace with"));
    with_->setMinimumWidth(190);
    with_->installEventFilter(this);
    row->addWidget(with_);
    where_ = new QLabel(box);
    where_->setTextFormat(Qt::PlainText);
    QPalette quiet = where_->palette();
    quiet.setColor(QPalette::WindowText, look_.ink2);
    where_->setPalette(quiet);
    row->addWidget(where_, 1);
    const auto button = [&](const QString& words, void (FindBar::*signal)(const QString&)) {
        auto* tool = new QToolButton(box);
        tool->setText(words);
        tool->setAutoRaise(true);
        connect(tool, &QToolButton::clicked, this, [this, signal] { Q_EMIT(this->*signal)(with_->text()); });
        row->addWidget(tool);
    };
    button(tr("This one"), &FindBar::replaceOne);
    button(tr("All of them"), &FindBar::replaceAll);
    return box;
}

void FindBar::openReplacing(const QRect& room, const QString& heading) {
    where_->setText(tr("in %1").arg(where_->fontMetrics().elidedText(heading, Qt::ElideRight, 140)));
    replacing_->show();
    openIn(room);
    if (!entry_->text().isEmpty()) with_->setFocus(Qt::OtherFocusReason);
}

void FindBar::openIn(const QRect& room) {
    adjustSize();
    move(std::max(room.left(), room.right() - width() - 4), std::max(room.top(), room.bottom() - height() - 2));
    show();
    raise();
    entry_->setFocus(Qt::OtherFocusReason);
    entry_->selectAll();
}

void FindBar::setCount(const QString& words, bool isWrong) {
    QPalette colours = count_->palette();
    colours.setColor(QPalette::WindowText, isWrong ? look_.buoyText : look_.ink2);
    count_->setPalette(colours);
    count_->setText(words);
}

QString FindBar::count() const { return count_->text(); }

void FindBar::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paintCard(painter, QRectF(rect()).adjusted(kFindShadow, kFindShadow - 3, -kFindShadow, -kFindShadow), kFindShadow,
              look_);
}

bool FindBar::key(const QObject* in, const QKeyEvent& key) {
    const bool enter = key.key() == Qt::Key_Return || key.key() == Qt::Key_Enter;
    const bool upOrDown = key.key() == Qt::Key_Up || key.key() == Qt::Key_Down;
    if (key.key() == Qt::Key_Escape) {
        Q_EMIT closed();
    } else if (in == with_ && enter) {
        const bool all = key.modifiers() & Qt::ControlModifier;
        all ? Q_EMIT replaceAll(with_->text()) : Q_EMIT replaceOne(with_->text());
    } else if (in == entry_ && (enter || key.key() == Qt::Key_F3 || upOrDown)) {
        const bool back = key.key() == Qt::Key_Up || (key.modifiers() & Qt::ShiftModifier);
        Q_EMIT stepped(back ? -1 : 1);
    } else {
        return false;
    }
    return true;
}

bool FindBar::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::ShortcutOverride && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
        event->accept();
        return false;
    }
    if (event->type() == QEvent::KeyPress && key(watched, *static_cast<QKeyEvent*>(event))) return true;
    return QFrame::eventFilter(watched, event);
}

}  // namespace jollyrow
