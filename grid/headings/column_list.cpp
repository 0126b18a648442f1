// SPDX-License-Identifier: MIT
#include "grid/headings/column_list.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/design/tier_tree.h"
#include "grid/headings/heading_landing.h"
#include "grid/paint/tokens.h"

#include "grid/paint/looks.h"

namespace jollyrow {
namespace {
constexpr int kWidth = 250, kMostHeight = 420;
constexpr int kField = Qt::UserRole;
constexpr int kMarkPx = 26;  // as far as the mark of a line reaches

/// The check of the grid's own cells.
QIcon checkIcon(const Tokens& t, bool on) {
    QPixmap mark(30, 30);
    mark.setDevicePixelRatio(2);
    mark.fill(Qt::transparent);
    QPainter painter(&mark);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(on ? t.teal : t.entryEdge, 1.2));
    painter.setBrush(on ? t.teal : t.paper);
    painter.drawRoundedRect(QRectF(1, 1, 13, 13), 3, 3);
    if (on) {
        painter.setPen(QPen(t.onTeal, 1.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        const QPointF tick[] = {{4.2, 7.8}, {6.6, 10.2}, {10.9, 5.2}};
        painter.drawPolyline(tick, 3);
    }
    painter.end();
    QIcon icon;
    for (const QIcon::Mode mode : {QIcon::Normal, QIcon::Selected, QIcon::Active}) icon.addPixmap(mark, mode);
    return icon;
}
}  // namespace

ColumnList::ColumnList(const Design& design, const TableSchema& schema, bool designing, QWidget* parent)
    : QFrame(parent, Qt::Popup),
      design_(design),
      schema_(schema),
      designing_(designing),
      entry_(new QLineEdit(this)),
      list_(new QListWidget(this)),
      count_(new QLabel(this)) {
    setAttribute(Qt::WA_DeleteOnClose);
    setObjectName(QStringLiteral("columnList"));
    setAccessibleName(tr("Columns"));
    const Tokens& t = tokensAt(*parent);
    setStyleSheet(QStringLiteral("QFrame#columnList { background: %1; border: 1px solid %2; }"
                                 "QListWidget { background: transparent; border: none; outline: none; }"
                                 "QListWidget::item { padding: 3px 2px; border-radius: 3px; color: %3; }"
                                 "QListWidget::item:selected { background: %4; color: %3; }"
                                 "QListWidget::indicator { width: 0; height: 0; }")
                      .arg(t.paper.name(), t.popEdge.name(), t.ink.name(), t.tealPale.name()));
    for (const bool on : {false, true}) marks_[on ? 1 : 0] = checkIcon(t, on);
    makeParts();
    connect(entry_, &QLineEdit::textChanged, this, &ColumnList::fill);
    connect(list_, &QListWidget::itemChanged, this, &ColumnList::toggle);
    connect(list_, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) { Q_EMIT found(fieldOf(item)); });
    connect(list_, &QListWidget::itemDoubleClicked, this,
            [this](QListWidgetItem* item) { Q_EMIT found(fieldOf(item)); });
    connect(list_->model(), &QAbstractItemModel::rowsMoved, this, &ColumnList::dropped, Qt::QueuedConnection);
    fill();
}

void ColumnList::makeParts() {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(12, 10, 12, 10);
    layout->setSpacing(8);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("Columns"), this);
    QFont bold = title->font();
    bold.setWeight(QFont::DemiBold);
    title->setFont(bold);
    count_->setForegroundRole(QPalette::PlaceholderText);
    head->addWidget(title);
    head->addWidget(count_, 1);
    layout->addLayout(head);
    entry_->setPlaceholderText(tr("Find a column"));
    entry_->setAccessibleName(tr("Find a column"));
    entry_->setClearButtonEnabled(true);
    entry_->installEventFilter(this);
    layout->addWidget(entry_);
    list_->setFrameShape(QFrame::NoFrame);
    list_->setDragDropMode(QAbstractItemView::InternalMove);
    list_->setAccessibleName(tr("Columns in order"));
    list_->installEventFilter(this);
    list_->viewport()->installEventFilter(this);
    list_->setIconSize(QSize(15, 15));
    layout->addWidget(list_, 1);
    auto* foot = new QHBoxLayout;
    auto* all = new QPushButton(tr("Show all"), this);
    auto* none = new QPushButton(tr("Hide all but one"), this);
    for (QPushButton* button : {all, none}) {
        button->setProperty("flat", true);
        button->setAutoDefault(false);
        foot->addWidget(button);
    }
    foot->addStretch();
    layout->addLayout(foot);
    connect(all, &QPushButton::clicked, this, [this] { showAll(true); });
    connect(none, &QPushButton::clicked, this, [this] { showAll(false); });
}

void ColumnList::setDesign(const Design& design) {
    design_ = design;
    fill();
}

QString ColumnList::fieldOf(const QListWidgetItem* item) const { return item->data(kField).toString(); }

void ColumnList::fill() {
    filling_ = true;
    const QString current = list_->currentItem() ? fieldOf(list_->currentItem()) : QString();
    list_->clear();
    int shown = 0, all = 0;
    for (const ColumnDesign& column : design_.columns) {
        if (column.hiddenFromUsers || !schema_.find(column.field)) continue;
        ++all;
        shown += column.shown ? 1 : 0;
        QString text = QString::fromStdString(column.heading);
        QStringList path;
        for (const std::string& tier : tierPath(design_, column.tier)) path << headingOfTier(design_, tier);
        const QString where = path.join(QStringLiteral(" · "));
        if (!text.contains(entry_->text(), Qt::CaseInsensitive) && !where.contains(entry_->text(), Qt::CaseInsensitive))
            continue;
        if (!where.isEmpty()) text += QStringLiteral("   ") + where;
        auto* item = new QListWidgetItem(text, list_);
        item->setData(kField, QString::fromStdString(column.field));
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable |
                       (entry_->text().isEmpty() ? Qt::ItemIsDragEnabled : Qt::NoItemFlags));
        item->setCheckState(column.shown ? Qt::Checked : Qt::Unchecked);
        item->setIcon(marks_[column.shown ? 1 : 0]);
        item->setToolTip(QString::fromStdString(column.toolTip));
        if (fieldOf(item) == current) list_->setCurrentItem(item);
    }
    if (!list_->currentItem() && list_->count() > 0) list_->setCurrentRow(0);
    count_->setText(tr("%1 of %2 shown").arg(shown).arg(all));
    filling_ = false;
}

void ColumnList::toggle(QListWidgetItem* item) {
    if (filling_) return;
    Design next = design_;
    ColumnDesign* column = next.column(fieldOf(item).toStdString());
    if (!column) return;
    column->shown = item->checkState() == Qt::Checked;
    const QString heading = QString::fromStdString(column->heading);
    Q_EMIT changed(next, column->shown ? tr("Show %1").arg(heading) : tr("Hide %1").arg(heading));
}

void ColumnList::showAll(bool shown) {
    Design next = design_;
    bool first = true;
    for (ColumnDesign& column : next.columns) {
        if (column.hiddenFromUsers) continue;
        column.shown = shown || first;
        first = false;
    }
    Q_EMIT changed(next, shown ? tr("Show all columns") : tr("Hide columns"));
}

/// A dropped item takes its place among its like: form users keep columns inside their tiers.
void ColumnList::dropped() {
    if (filling_ || !list_->currentItem()) return;
    const int row = list_->currentRow();
    const std::string field = fieldOf(list_->currentItem()).toStdString();
    const std::string before = row + 1 < list_->count() ? fieldOf(list_->item(row + 1)).toStdString() : std::string();
    const ColumnDesign* moved = design_.column(field);
    const ColumnDesign* target = before.empty() ? nullptr : design_.column(before);
    if (!moved) return;
    Landing to{moved->tier, before};
    if (designing_) to.tier = target ? target->tier : std::string();
    Design next = design_;
    moveColumns(next, {field}, to);
    if (next == design_) return fill();
    Q_EMIT changed(next, tr("Move %1").arg(headingOfField(design_, field)));
}

void ColumnList::move(int step) {
    const int row = list_->currentRow(), to = row + step;
    if (row < 0 || to < 0 || to >= list_->count() || !entry_->text().isEmpty()) return;
    filling_ = true;
    list_->insertItem(to, list_->takeItem(row));
    list_->setCurrentRow(to);
    filling_ = false;
    dropped();
}

void ColumnList::openOver(QWidget* over, int belowY) {
    const int height = std::min(kMostHeight, std::max(220, over->height() - belowY - 20));
    setFixedSize(kWidth, height);
    QWidget::move(over->mapToGlobal(QPoint(over->width() - kWidth - 10, belowY + 6)));
    show();
    entry_->setFocus();
}

void ColumnList::flip(QListWidgetItem* item) {
    item->setCheckState(item->checkState() == Qt::Checked ? Qt::Unchecked : Qt::Checked);
}

/// A press on an item's mark.
bool ColumnList::pressed(const QPoint& at) {
    QListWidgetItem* item = at.x() < kMarkPx ? list_->itemAt(at) : nullptr;
    if (!item) return false;
    list_->setCurrentItem(item);
    flip(item);
    return true;
}

bool ColumnList::key(const QKeyEvent& key, bool inEntry) {
    const int step = key.key() == Qt::Key_Up ? -1 : key.key() == Qt::Key_Down ? 1 : 0;
    QListWidgetItem* current = list_->currentItem();
    if (!inEntry && key.key() == Qt::Key_Space && current) {
        flip(current);
    } else if (step != 0 && key.modifiers() & Qt::AltModifier) {
        move(step);
    } else if (step != 0 && inEntry && list_->count() > 0) {
        list_->setCurrentRow(std::clamp(list_->currentRow() + step, 0, list_->count() - 1));
        list_->setFocus();
    } else if ((key.key() == Qt::Key_Return || key.key() == Qt::Key_Enter) && current) {
        Q_EMIT found(fieldOf(current));
    } else {
        return false;
    }
    return true;
}

bool ColumnList::eventFilter(QObject* watched, QEvent* event) {
    const bool isPress = watched == list_->viewport() && event->type() == QEvent::MouseButtonPress;
    if (isPress && pressed(static_cast<QMouseEvent*>(event)->pos())) return true;
    if (event->type() == QEvent::KeyPress && key(*static_cast<QKeyEvent*>(event), watched == entry_)) return true;
    return QFrame::eventFilter(watched, event);
}

}  // namespace jollyrow
