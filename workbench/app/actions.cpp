// SPDX-License-Identifier: MIT
#include "workbench/app/actions.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTimer>
#include <QVBoxLayout>

#include "workbench/app/look.h"

namespace jollyrow {

Actions::Actions(QWidget* window) : QObject(window), window_(window) {}

void Actions::add(ActionSpec spec) {
    if (!spec.keys.isEmpty()) {
        auto* action = new QAction(spec.name, window_);
        action->setShortcut(spec.keys);
        connect(action, &QAction::triggered, this, [run = spec.run, possible = spec.isPossible] {
            if (!possible || possible()) run();
        });
        window_->addAction(action);
    }
    specs_.push_back(std::move(spec));
}

ActionFinder::ActionFinder(QWidget* window, const std::vector<ActionSpec>& actions)
    : Popover(tr("Find an action"), window), entry_(new QLineEdit(this)), list_(new QListWidget(this)) {
    for (const ActionSpec& action : actions)
        if (!action.isPossible || action.isPossible()) actions_.push_back(action);
    entry_->setPlaceholderText(tr("Type what you want to do"));
    entry_->installEventFilter(this);
    list_->setFrameShape(QFrame::NoFrame);
    list_->setFixedHeight(scaled(280));
    list_->setFocusPolicy(Qt::NoFocus);
    list_->setStyleSheet(QStringLiteral("QListWidget{background:transparent;border:none;padding:0}"));
    body()->addWidget(entry_);
    body()->addWidget(list_);
    connect(entry_, &QLineEdit::textChanged, this, &ActionFinder::filter);
    connect(list_, &QListWidget::itemClicked, this, [this] { runCurrent(); });
    filter({});
}

void ActionFinder::showEvent(QShowEvent* event) {
    Popover::showEvent(event);
    QTimer::singleShot(0, entry_, [this] { entry_->setFocus(); });
}

void ActionFinder::filter(const QString& typed) {
    list_->clear();
    const QStringList words = typed.split(u' ', Qt::SkipEmptyParts);
    for (std::size_t i = 0; i < actions_.size(); ++i) {
        const bool fits = std::all_of(words.begin(), words.end(), [&](const QString& word) {
            return actions_[i].name.contains(word, Qt::CaseInsensitive);
        });
        if (!fits) continue;
        auto* item = new QListWidgetItem(list_);
        item->setData(Qt::UserRole, static_cast<int>(i));
        auto* row = new QWidget(list_);
        auto* layout = new QHBoxLayout(row);
        layout->setContentsMargins(8, 3, 8, 3);
        layout->addWidget(new QLabel(actions_[i].name, row), 1);
        auto* keys = new QLabel(actions_[i].keys.toString(QKeySequence::NativeText), row);
        keys->setFont(sized(11));
        keys->setForegroundRole(QPalette::PlaceholderText);
        layout->addWidget(keys);
        item->setSizeHint(QSize(10, 28));
        list_->setItemWidget(item, row);
    }
    list_->setCurrentRow(0);
}

void ActionFinder::runCurrent() {
    QListWidgetItem* item = list_->currentItem();
    if (!item) return;
    const auto run = actions_[static_cast<std::size_t>(item->data(Qt::UserRole).toInt())].run;
    close();
    Q_EMIT closed();
    QTimer::singleShot(0, parentWidget(), run);
}

bool ActionFinder::eventFilter(QObject* watched, QEvent* event) {
    if (watched == entry_ && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Up || key == Qt::Key_Down) {
            const int to = list_->currentRow() + (key == Qt::Key_Down ? 1 : -1);
            if (to >= 0 && to < list_->count()) list_->setCurrentRow(to);
            return true;
        }
        if (key == Qt::Key_Return || key == Qt::Key_Enter) {
            runCurrent();
            return true;
        }
    }
    return Popover::eventFilter(watched, event);
}

}  // namespace jollyrow
