// SPDX-License-Identifier: MIT
#include "grid/pictures/picture_panel.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QPainter>

#include "grid/api/grid.h"
#include "grid/paint/card.h"

namespace jollyrow {

PicturePanel::PicturePanel(PictureShelf& shelf, QWidget* parent)
    : QFrame(parent), view_(new PictureView(shelf, this)), look_(tokens(Theme::Light)) {
    setObjectName(QStringLiteral("picturePanel"));
    setAccessibleName(Grid::tr("Picture"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(18, 16, 18, 19);
    column->setSpacing(8);
    column->addWidget(view_);
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    const std::pair<Action, QString> kActions[] = {{Action::Load, Grid::tr("&Load…")},
                                                   {Action::Paste, Grid::tr("&Paste")},
                                                   {Action::Copy, Grid::tr("&Copy")},
                                                   {Action::Save, Grid::tr("&Save…")},
                                                   {Action::Empty, Grid::tr("&Take out")}};
    for (const auto& [action, words] : kActions) {
        auto* button = new QPushButton(words, this);
        button->setAutoDefault(true);
        connect(button, &QPushButton::clicked, this, [this, a = action] { Q_EMIT chosen(a); });
        row->addWidget(button, 1);
        buttons_.push_back(button);
    }
    column->addLayout(row);
}

void PicturePanel::open(const QRect& cell, const Tokens& look, bool isEditable, bool hasPicture) {
    look_ = look;
    view_->setLook(look);
    for (const Action action : {Action::Load, Action::Paste, Action::Empty}) button(action)->setVisible(isEditable);
    for (const Action action : {Action::Copy, Action::Save, Action::Empty}) button(action)->setEnabled(hasPicture);
    adjustSize();
    const QRect room = parentWidget()->rect();
    QPoint at(cell.left() - 12, cell.bottom() - 2);
    if (at.y() + height() > room.bottom()) at.setY(cell.top() - height() + 4);
    if (at.y() < room.top()) at = QPoint(cell.right() - 4, room.center().y() - height() / 2);
    at.setX(std::clamp(at.x(), room.left(), std::max(room.left(), room.right() - width())));
    at.setY(std::clamp(at.y(), room.top(), std::max(room.top(), room.bottom() - height())));
    move(at);
    show();
    raise();
    button(isEditable ? Action::Load : Action::Copy)->setFocus();
}

void PicturePanel::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paintCard(painter, QRectF(rect()).adjusted(8, 6, -8, -9), 6, look_);
}

void PicturePanel::keyPressEvent(QKeyEvent* event) {
    const int step = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    if (event->key() == Qt::Key_Escape) {
        Q_EMIT closed();
    } else if (event->matches(QKeySequence::Paste) && button(Action::Paste)->isVisible()) {
        Q_EMIT chosen(Action::Paste);
    } else if (event->matches(QKeySequence::Copy) && button(Action::Copy)->isEnabled()) {
        Q_EMIT chosen(Action::Copy);
    } else if (event->key() == Qt::Key_Delete && button(Action::Empty)->isVisible() &&
               button(Action::Empty)->isEnabled()) {
        Q_EMIT chosen(Action::Empty);
    } else if (step != 0) {
        focusNextPrevChild(step > 0);
    } else {
        QFrame::keyPressEvent(event);
    }
}

}  // namespace jollyrow
