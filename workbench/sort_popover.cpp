// SPDX-License-Identifier: MIT
#include "workbench/sort_popover.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include "workbench/controls.h"
#include "workbench/icons.h"
#include "workbench/look.h"
#include "workbench/segmented_switch.h"

namespace jollyrow {
namespace {

/// A card with a soft border.
class Card final : public QWidget {
  public:
    using QWidget::QWidget;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(QPen(look().hair, 1));
        painter.setBrush(look().paper);
        painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    }
};

/// How a direction reads for a type.
QStringList directionsFor(Type type) {
    switch (type) {
        case Type::Boolean: return {SortPopover::tr("no first"), SortPopover::tr("yes first")};
        case Type::Text: return {SortPopover::tr("A to Z"), SortPopover::tr("Z to A")};
        case Type::Date:
        case Type::Time:
        case Type::Timestamp: return {SortPopover::tr("earliest first"), SortPopover::tr("latest first")};
        default: return {SortPopover::tr("smallest first"), SortPopover::tr("largest first")};
    }
}

bool hasOrder(const FieldSchema& field) { return field.type != Type::Binary && field.type != Type::NumberList; }

}  // namespace

SortPopover::SortPopover(QWidget* window, const Design& design, const TableSchema& schema)
    : Popover(tr("Sort"), window), design_(design), schema_(schema) {
    rebuild();
}

void SortPopover::setDesign(const Design& design) {
    if (design.sort == design_.sort && design.columns == design_.columns) return;
    design_ = design;
    rebuild();
    fitHeight();
}

QString SortPopover::headingOf(const std::string& field) const {
    const ColumnDesign* column = design_.column(field);
    return QString::fromStdString(column ? column->heading : field);
}

void SortPopover::setKeys(std::vector<SortDesign> keys, const QString& label) {
    Design next = design_;
    next.sort = std::move(keys);
    // Later: the widget that asked is still in its handler.
    QTimer::singleShot(0, this, [this, next, label] {
        design_ = next;
        rebuild();
        fitHeight();
        Q_EMIT changed(next, label);
    });
}

QWidget* SortPopover::keyCard(std::size_t index) {
    const SortDesign key = design_.sort[index];
    const auto field = schema_.find(key.field);
    auto* card = new Card(cards_);
    auto* row = new QHBoxLayout(card);
    row->setContentsMargins(12, 8, 8, 8);
    row->setSpacing(10);
    auto* rank = new QLabel(QString::number(index + 1), card);
    rank->setFont(sized(13, QFont::DemiBold));
    rank->setForegroundRole(QPalette::Link);
    row->addWidget(rank);
    auto* what = new QLabel(headingOf(key.field), card);
    what->setFont(sized(13, QFont::DemiBold));
    row->addWidget(what, 1);
    auto* direction = new SegmentedSwitch(directionsFor(field ? schema_.field(*field).type : Type::Text), card);
    direction->setCurrent(key.direction == Direction::Ascending ? 0 : 1);
    row->addWidget(direction);
    auto* emptiesLabel = new QLabel(tr("empties"), card);
    emptiesLabel->setForegroundRole(QPalette::PlaceholderText);
    row->addWidget(emptiesLabel);
    auto* empties = new SegmentedSwitch({tr("first"), tr("last")}, card);
    empties->setCurrent(key.empties == Empties::First ? 0 : 1);
    row->addWidget(empties);
    connect(direction, &SegmentedSwitch::chosen, this, [this, index](int chosen) {
        auto keys = design_.sort;
        keys[index].direction = chosen == 0 ? Direction::Ascending : Direction::Descending;
        setKeys(std::move(keys), tr("Sort by %1").arg(headingOf(keys[index].field)));
    });
    connect(empties, &SegmentedSwitch::chosen, this, [this, index](int chosen) {
        auto keys = design_.sort;
        keys[index].empties = chosen == 0 ? Empties::First : Empties::Last;
        setKeys(std::move(keys), tr("Empties of %1").arg(headingOf(design_.sort[index].field)));
    });
    const auto button = [&](Icon icon, const QString& words, bool enabled, auto act) {
        auto* tool = new QToolButton(card);
        tool->setIcon(makeIcon(icon, enabled ? look().ink2 : look().disabledIcon, 14));
        tool->setToolTip(words);
        tool->setAccessibleName(words);
        tool->setEnabled(enabled);
        connect(tool, &QToolButton::clicked, this, act);
        row->addWidget(tool);
    };
    button(Icon::ArrowUp, tr("Sort by this earlier"), index > 0, [this, index] {
        auto keys = design_.sort;
        std::swap(keys[index], keys[index - 1]);
        setKeys(std::move(keys), tr("Reorder the sort"));
    });
    button(Icon::Cross, tr("Do not sort by this"), true, [this, index] {
        auto keys = design_.sort;
        const QString heading = headingOf(keys[index].field);
        keys.erase(keys.begin() + static_cast<std::ptrdiff_t>(index));
        setKeys(std::move(keys), tr("Stop sorting by %1").arg(heading));
    });
    return card;
}

void SortPopover::rebuild() {
    if (cards_) {
        body()->removeWidget(cards_);
        cards_->hide();
        cards_->deleteLater();
    }
    cards_ = new QWidget(this);
    auto* list = new QVBoxLayout(cards_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(8);
    if (design_.sort.empty()) {
        auto* none = new QLabel(tr("The records stand in the order in which the database gives them."), cards_);
        none->setForegroundRole(QPalette::PlaceholderText);
        list->addWidget(none);
    }
    for (std::size_t i = 0; i < design_.sort.size(); ++i) list->addWidget(keyCard(i));
    auto* add = new PickBox(cards_);
    add->setAccessibleName(tr("Add a key"));
    add->setMinimumWidth(150);
    add->addItem(design_.sort.empty() ? tr("Sort by…") : tr("Then by…"));
    for (const FieldSchema& field : schema_.fields) {
        const bool used = std::any_of(design_.sort.begin(), design_.sort.end(),
                                      [&](const SortDesign& key) { return key.field == field.name; });
        if (!used && hasOrder(field)) add->addItem(headingOf(field.name), QString::fromStdString(field.name));
    }
    connect(add, &QComboBox::activated, this, [this, add](int index) {
        if (index <= 0) return;
        auto keys = design_.sort;
        const std::string field = add->itemData(index).toString().toStdString();
        keys.push_back({field, Direction::Ascending, Empties::Last});
        setKeys(std::move(keys), tr("Sort by %1").arg(headingOf(field)));
    });
    auto* foot = new QHBoxLayout;
    foot->addWidget(add);
    foot->addStretch();
    if (!design_.sort.empty()) {
        auto* clear = new QPushButton(tr("Bound order"), cards_);
        clear->setFlat(true);
        connect(clear, &QPushButton::clicked, this, [this] { setKeys({}, tr("Bound order")); });
        foot->addWidget(clear);
    }
    list->addLayout(foot);
    body()->addWidget(cards_);
    cards_->show();
}

}  // namespace jollyrow
