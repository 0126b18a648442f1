// SPDX-License-Identifier: MIT
#include "workbench/app/command_row.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>

#include "workbench/app/document.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/segmented_switch.h"

namespace jollyrow {
namespace {

/// Looks like an entry, acts like a button.
class FinderButton final : public QPushButton {
  public:
    explicit FinderButton(QWidget* parent) : QPushButton(parent) {
        setFixedSize(scaled(212), scaled(28));
        setCursor(Qt::PointingHandCursor);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Tokens& t = look();
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(hasFocus() ? t.teal : underMouse() ? t.ink2 : t.entryEdge, 1));
        painter.setBrush(t.paper);
        painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
        const int icon = scaled(16);
        drawIcon(painter, Icon::Find, QRectF(8, (height() - icon) / 2.0, icon, icon), t.ink2);
        painter.setFont(sized(12));
        painter.setPen(t.ink2);
        painter.drawText(rect().adjusted(icon + 14, 0, -8, 0), Qt::AlignLeft | Qt::AlignVCenter, tr("Find an action"));
        painter.setFont(sized(11));
        painter.drawText(rect().adjusted(0, 0, -9, 0), Qt::AlignRight | Qt::AlignVCenter, tr("Ctrl K"));
    }
};

}  // namespace

CommandRow::CommandRow(QWidget* parent)
    : QWidget(parent),
      mark_(new QToolButton(this)),
      title_(new QLabel(this)),
      state_(new QLabel(this)),
      save_(new QToolButton(this)),
      screens_(new SegmentedSwitch({tr("Build"), tr("Try")}, this)),
      undo_(new QToolButton(this)),
      redo_(new QToolButton(this)),
      finder_(new FinderButton(this)) {
    setFixedHeight(std::max(scaled(40), fontMetrics().height() + 20));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(8, 0, 14, 0);
    layout->setSpacing(7);
    QPixmap mark(44, 44);
    mark.fill(Qt::transparent);
    QPainter painter(&mark);
    drawAppMark(painter, QRectF(2, 2, 40, 40), look().dark);
    painter.end();
    mark.setDevicePixelRatio(2);
    mark_->setIcon(QIcon(mark));
    mark_->setIconSize(QSize(scaled(22), scaled(22)));
    mark_->setToolTip(tr("Start screen"));
    for (QToolButton* button : {mark_, save_, undo_, redo_}) button->setFocusPolicy(Qt::TabFocus);
    finder_->setFocusPolicy(Qt::TabFocus);
    mark_->setAccessibleName(tr("Start screen"));
    title_->setFont(sized(14, QFont::DemiBold));
    title_->setTextFormat(Qt::PlainText);
    state_->setForegroundRole(QPalette::PlaceholderText);
    state_->setContentsMargins(14, 0, 0, 0);
    save_->setText(tr("Save"));
    save_->setStyleSheet(
        QStringLiteral("QToolButton{color:%1;font-weight:500;padding:3px 7px}").arg(look().tealText.name()));
    undo_->setIcon(makeIcon(Icon::Undo, look().ink, scaled(17)));
    redo_->setIcon(makeIcon(Icon::Redo, look().ink, scaled(17)));
    undo_->setIconSize(QSize(scaled(17), scaled(17)));
    redo_->setIconSize(QSize(scaled(17), scaled(17)));
    undo_->setAccessibleName(tr("Undo"));
    redo_->setAccessibleName(tr("Redo"));
    finder_->setAccessibleName(tr("Find an action"));
    for (QWidget* widget : std::initializer_list<QWidget*>{mark_, title_, state_, save_}) layout->addWidget(widget);
    layout->addStretch();
    for (QWidget* widget : std::initializer_list<QWidget*>{undo_, redo_, finder_}) layout->addWidget(widget);
    connect(mark_, &QToolButton::clicked, this, &CommandRow::homeClicked);
    connect(save_, &QToolButton::clicked, this, &CommandRow::saveClicked);
    connect(screens_, &SegmentedSwitch::chosen, this, &CommandRow::screenChosen);
    connect(undo_, &QToolButton::clicked, this, &CommandRow::undoClicked);
    connect(redo_, &QToolButton::clicked, this, &CommandRow::redoClicked);
    connect(finder_, &QPushButton::clicked, this, &CommandRow::finderClicked);
}

void CommandRow::showState(const Document& document) {
    const bool open = document.isOpen();
    title_->setText(open ? document.title() : tr("Jolly Row"));
    state_->setText(!open                ? QString()
                    : document.isDirty() ? (document.designPath().isEmpty() ? tr("not saved yet") : tr("changed"))
                                         : tr("saved"));
    save_->setVisible(open && document.isDirty());
    screens_->setVisible(open);
    const auto show = [](QToolButton* button, const QString& label, const QString& verb, const QString& keys) {
        button->setEnabled(!label.isEmpty());
        button->setToolTip(label.isEmpty() ? verb : QStringLiteral("%1: %2 (%3)").arg(verb, label, keys));
    };
    undo_->setVisible(open);
    redo_->setVisible(open);
    show(undo_, document.undoLabel(), tr("Undo"), QStringLiteral("Ctrl+Z"));
    show(redo_, document.redoLabel(), tr("Redo"), QStringLiteral("Ctrl+Shift+Z"));
    undo_->setIcon(makeIcon(Icon::Undo, undo_->isEnabled() ? look().ink : look().disabledIcon, 17));
    redo_->setIcon(makeIcon(Icon::Redo, redo_->isEnabled() ? look().ink : look().disabledIcon, 17));
    update();
}

void CommandRow::setScreen(int index) { screens_->setCurrent(index); }
QRect CommandRow::finderRect() const { return finder_->geometry(); }

void CommandRow::resizeEvent(QResizeEvent*) {
    const QSize size = screens_->sizeHint();
    screens_->setGeometry((width() - size.width()) / 2, (height() - size.height()) / 2, size.width(), size.height());
}

void CommandRow::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), look().page);
    painter.fillRect(0, height() - 1, width(), 1, look().hair);
    // The unsaved dot, beside the words that say the same.
    if (!state_->text().isEmpty() && save_->isVisible()) {
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(look().buoy);
        painter.drawEllipse(QPointF(state_->geometry().left() + 7, height() / 2.0), 3.5, 3.5);
    }
}

}  // namespace jollyrow
