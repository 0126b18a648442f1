// SPDX-License-Identifier: MIT
#include "workbench/popovers/source_popover.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>

#include <algorithm>

#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/popovers/table_look.h"

namespace jollyrow {
namespace {
constexpr int kListWidth = 250, kHeight = 360;
}

SourcePopover::SourcePopover(QWidget* window, const QString& databasePath, const SourceDesign& bound,
                             const std::vector<TableSummary>& tables)
    : Popover(tr("Source"), window),
      bound_(bound),
      search_(new QLineEdit(this)),
      look_(new TableLook(databasePath.toStdString(), this)),
      bind_(new QPushButton(this)),
      query_(new QLineEdit(this)),
      problem_(new QLabel(this)) {
    auto* file = new QLabel(databasePath, this);
    file->setForegroundRole(QPalette::PlaceholderText);
    file->setText(file->fontMetrics().elidedText(databasePath, Qt::ElideMiddle, 680));
    file->setToolTip(databasePath);
    body()->addWidget(file);
    auto* both = new QHBoxLayout;
    both->setSpacing(16);
    both->addWidget(makeList(tables));
    auto* right = new QVBoxLayout;
    right->setSpacing(8);
    look_->setFixedHeight(scaled(kHeight - 40));
    right->addWidget(look_);
    bind_->setObjectName(QStringLiteral("bindTable"));
    bind_->setProperty("primary", true);
    connect(bind_, &QPushButton::clicked, this, [this] { Q_EMIT tableChosen(looked_); });
    right->addWidget(bind_, 0, Qt::AlignLeft);
    both->addLayout(right, 1);
    body()->addLayout(both);
    addQuery();
    auto* foot = new QHBoxLayout;
    auto* reload =
        new QPushButton(makeIcon(Icon::Reload, jollyrow::look().tealText), tr("Read all records again"), this);
    reload->setFlat(true);
    foot->addWidget(reload);
    foot->addStretch();
    body()->addLayout(foot);
    connect(reload, &QPushButton::clicked, this, &SourcePopover::reloadChosen);
    const QString first = bound.query.empty() ? QString::fromStdString(bound.table) : QString();
    if (!first.isEmpty())
        look(first);
    else if (!rows_.empty())
        look(rows_.front()->text());
}

/// All that the database has, however much that is, with a search over the names.
QWidget* SourcePopover::makeList(const std::vector<TableSummary>& tables) {
    auto* box = new QWidget(this);
    box->setFixedSize(scaled(kListWidth), scaled(kHeight));
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    search_->setObjectName(QStringLiteral("searchTables"));
    search_->setPlaceholderText(
        tables.size() == 1 ? tr("1 table")
                           : tr("search %1 tables and views").arg(grouped(static_cast<qint64>(tables.size()))));
    search_->setAccessibleName(tr("Search the tables"));
    search_->setClearButtonEnabled(true);
    search_->installEventFilter(this);
    connect(search_, &QLineEdit::textChanged, this, &SourcePopover::search);
    column->addWidget(search_);
    auto* inside = new QWidget(box);
    auto* list = new QVBoxLayout(inside);
    list->setContentsMargins(0, 0, 4, 0);
    list->setSpacing(2);
    for (const TableSummary& table : tables) list->addWidget(rows_.emplace_back(makeRow(table)));
    none_ = quietLabel(tables.empty() ? tr("The database has no tables.") : tr("No table is called so."), inside);
    none_->setVisible(tables.empty());
    list->addWidget(none_);
    list->addStretch();
    auto* scrolled = new QScrollArea(box);
    scrolled->setFrameShape(QFrame::NoFrame);
    scrolled->setWidgetResizable(true);
    scrolled->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scrolled->setWidget(inside);
    column->addWidget(scrolled, 1);
    return box;
}

QPushButton* SourcePopover::makeRow(const TableSummary& table) {
    const QString name = QString::fromStdString(table.name);
    const bool isBound = bound_.query.empty() && bound_.table == table.name;
    auto* row = new QPushButton(
        makeIcon(table.isView ? Icon::View : Icon::Table, isBound ? jollyrow::look().brassText : jollyrow::look().ink2),
        name, this);
    row->setFlat(true);
    row->setCheckable(true);
    row->setStyleSheet(QStringLiteral("QPushButton{text-align:left;padding:3px 6px}"
                                      "QPushButton:checked{background:%1}")
                           .arg(jollyrow::look().tealPale.name()));
    row->setToolTip(isBound           ? tr("%1: bound now").arg(name)
                    : table.isView    ? tr("%1: a view").arg(name)
                    : table.aboutRows ? tr("%1: about %2 rows").arg(name, grouped(*table.aboutRows))
                                      : name);
    connect(row, &QPushButton::clicked, this, [this, name] { look(name); });
    return row;
}

void SourcePopover::search(const QString& words) {
    bool isAny = false;
    for (QPushButton* row : rows_) {
        const bool fits = row->text().contains(words.trimmed(), Qt::CaseInsensitive);
        row->setVisible(fits);
        isAny = isAny || fits;
    }
    none_->setVisible(!isAny);
}

void SourcePopover::look(const QString& table) {
    looked_ = table;
    for (QPushButton* row : rows_) row->setChecked(row->text() == table);
    const bool isBound = bound_.query.empty() && bound_.table == table.toStdString();
    bind_->setText(isBound ? tr("Bound to %1 now").arg(table) : tr("Bind to %1").arg(table));
    bind_->setEnabled(!isBound);
    bind_->setProperty("primary", !isBound);
    bind_->style()->unpolish(bind_);
    bind_->style()->polish(bind_);
    look_->look(table.toStdString());
}

/// To the next table of those that the search leaves.
void SourcePopover::step(int by) {
    std::vector<QPushButton*> left;
    for (QPushButton* row : rows_)
        if (row->isVisibleTo(this)) left.push_back(row);
    if (left.empty()) return;
    const auto now =
        std::find_if(left.begin(), left.end(), [this](const QPushButton* row) { return row->text() == looked_; });
    const auto count = static_cast<int>(left.size());
    const int at = now == left.end() ? (by > 0 ? 0 : count - 1)
                                     : std::clamp(static_cast<int>(now - left.begin()) + by, 0, count - 1);
    QPushButton* row = left[static_cast<std::size_t>(at)];
    look(row->text());
    for (QWidget* up = row->parentWidget(); up; up = up->parentWidget())
        if (auto* scrolled = qobject_cast<QScrollArea*>(up)) return scrolled->ensureWidgetVisible(row);
}

/// Up and down go through the tables while one searches; Enter binds to the one looked at.
bool SourcePopover::eventFilter(QObject* watched, QEvent* event) {
    if (watched != search_ || event->type() != QEvent::KeyPress) return Popover::eventFilter(watched, event);
    switch (static_cast<const QKeyEvent*>(event)->key()) {
        case Qt::Key_Down: step(1); return true;
        case Qt::Key_Up: step(-1); return true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (bind_->isEnabled()) bind_->click();
            return true;
        default: return false;
    }
}

void SourcePopover::addQuery() {
    auto* own = new QHBoxLayout;
    query_->setPlaceholderText(tr("or a SELECT of your own"));
    query_->setText(QString::fromStdString(bound_.query));
    query_->setAccessibleName(tr("SELECT"));
    auto* bind = new QPushButton(tr("Bind"), this);
    own->addWidget(query_, 1);
    own->addWidget(bind);
    body()->addLayout(own);
    problem_->setWordWrap(true);
    problem_->setStyleSheet(QStringLiteral("color:%1").arg(jollyrow::look().buoyText.name()));
    problem_->hide();
    body()->addWidget(problem_);
    const auto choose = [this] {
        if (!query_->text().trimmed().isEmpty()) Q_EMIT queryChosen(query_->text().trimmed());
    };
    connect(bind, &QPushButton::clicked, this, choose);
    connect(query_, &QLineEdit::returnPressed, this, choose);
}

void SourcePopover::showProblem(const QString& message) {
    problem_->setText(message);
    problem_->show();
    fitHeight();
}

}  // namespace jollyrow
