// SPDX-License-Identifier: MIT
#include "grid/editors/cell_editor.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QKeyEvent>
#include <QPainter>
#include <QStringListModel>
#include <QToolButton>

#include "core/columns/civil.h"
#include "core/formats/text_format.h"
#include "grid/editors/month_popup.h"
#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {
constexpr int kButtonPx = 20;
const QDate kEpoch(1970, 1, 1);
}  // namespace

CellEditor::CellEditor(const FieldSchema& field, Alignment alignment, QWidget* parent)
    : QFrame(parent), line_(new QLineEdit(this)), type_(field.type) {
    setObjectName(QStringLiteral("cellEditor"));
    setAutoFillBackground(false);
    line_->setFrame(false);
    line_->setObjectName(QStringLiteral("cellEntry"));
    line_->setTextMargins(0, 0, 0, 0);
    line_->setAlignment((alignment == Alignment::Right    ? Qt::AlignRight
                         : alignment == Alignment::Center ? Qt::AlignHCenter
                                                          : Qt::AlignLeft) |
                        Qt::AlignVCenter);
    QPalette clear = palette();
    clear.setColor(QPalette::Base, Qt::transparent);
    line_->setPalette(clear);
    line_->installEventFilter(this);
    setFocusProxy(line_);
    connect(line_, &QLineEdit::textEdited, this, [this] {
        setRefused(false);
        Q_EMIT edited();
    });
    if (field.type == Type::Date) {
        button_ = new QToolButton(this);
        button_->setText(QStringLiteral("▾"));
        button_->setAccessibleName(tr("Open the calendar"));
        button_->setFocusPolicy(Qt::NoFocus);
        button_->setAutoRaise(true);
        connect(button_, &QToolButton::clicked, this, &CellEditor::openCalendar);
    } else if (!field.permitted.empty()) {
        QStringList choices;
        for (const std::string& value : field.permitted) choices << QString::fromStdString(value);
        completer_ = new QCompleter(choices, this);
        completer_->setCaseSensitivity(Qt::CaseInsensitive);
        completer_->setCompletionMode(QCompleter::PopupCompletion);
        completer_->setFilterMode(Qt::MatchContains);
        completer_->setWidget(line_);
        connect(completer_, qOverload<const QString&>(&QCompleter::activated), this, [this](const QString& chosen) {
            setText(chosen);
            Q_EMIT committed(0, 0);
        });
        connect(line_, &QLineEdit::textEdited, this, [this](const QString& typed) { showChoices(typed); });
        button_ = new QToolButton(this);
        button_->setText(QStringLiteral("▾"));
        button_->setAccessibleName(tr("Show the choices"));
        button_->setFocusPolicy(Qt::NoFocus);
        button_->setAutoRaise(true);
        connect(button_, &QToolButton::clicked, this, &CellEditor::openChoices);
    }
}

void CellEditor::useLookUp() {
    isLookUp_ = true;
    completer_ = new QCompleter(this);
    completer_->setModel(new QStringListModel(completer_));
    completer_->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    completer_->setWidget(line_);
    connect(completer_, qOverload<const QModelIndex&>(&QCompleter::activated), this, [this](const QModelIndex& index) {
        if (index.row() < 0 || static_cast<std::size_t>(index.row()) >= entries_.size()) return;
        chosen_ = entries_[static_cast<std::size_t>(index.row())];
        line_->setText(QString::fromStdString(chosen_->label));
        Q_EMIT committed(0, 0);
    });
    connect(line_, &QLineEdit::textEdited, this, [this](const QString& typed) {
        chosen_.reset();
        searching_ = true;
        Q_EMIT searchWanted(typed);
    });
    if (!button_) {
        button_ = new QToolButton(this);
        button_->setText(QStringLiteral("▾"));
        button_->setFocusPolicy(Qt::NoFocus);
        button_->setAutoRaise(true);
        connect(button_, &QToolButton::clicked, this, [this] {
            searching_ = true;
            Q_EMIT searchWanted({});
        });
    }
    button_->setAccessibleName(tr("Show the records to choose from"));
}

void CellEditor::showEntries(std::vector<LookUpEntry> entries) {
    entries_ = std::move(entries);
    searching_ = false;
    QStringList texts;
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        QString text = QString::fromStdString(entries_[i].label);
        const auto same = [&](std::size_t other) {
            return other < entries_.size() && entries_[other].label == entries_[i].label;
        };
        // Two of one name are told apart by their keys; one without a name has nothing else.
        if (text.isEmpty() || same(i + 1) || (i > 0 && same(i - 1))) {
            std::string key;
            appendPlain(key, entries_[i].key);
            text += QStringLiteral("  (%1)").arg(QString::fromStdString(key));
        }
        texts << text;
    }
    static_cast<QStringListModel*>(completer_->model())->setStringList(texts);
    if (std::exchange(commitWhenFound_, false)) {
        if (entries_.size() == 1) chosen_ = entries_.front();
        Q_EMIT committed(1, 0);
        return;
    }
    showChoices({});
}

std::optional<LookUpEntry> CellEditor::chosenEntry() const {
    if (chosen_) return chosen_;
    std::optional<LookUpEntry> named;
    for (const LookUpEntry& entry : entries_) {
        if (QString::fromStdString(entry.label).compare(text().trimmed(), Qt::CaseInsensitive) != 0) continue;
        if (named) return std::nullopt;  // two of one name: the list must say which
        named = entry;
    }
    return named;
}

void CellEditor::setText(const QString& text) { line_->setText(text); }

void CellEditor::beginWith(const QString& typed) {
    line_->setText(typed);
    if (isLookUp_) {
        searching_ = true;
        Q_EMIT searchWanted(typed);
    } else if (completer_) {
        showChoices(typed);
    }
}

void CellEditor::beginWithAll() {
    line_->selectAll();
    if (completer_) openChoices();
}

void CellEditor::setRefused(bool refused) {
    if (refused == refused_) return;
    refused_ = refused;
    update();
}

/// The list of what begins with or holds the prefix, wide and high enough for its entries.
void CellEditor::showChoices(const QString& prefix) {
    constexpr int kMostShown = 12, kFrame = 10, kBeside = 36;
    completer_->setCompletionPrefix(prefix);
    QAbstractItemView* popup = completer_->popup();
    const int shown = std::min(kMostShown, completer_->completionCount());
    if (shown == 0) return popup->hide();
    completer_->setMaxVisibleItems(kMostShown);
    completer_->complete(QRect(0, 0, std::max(width(), popup->sizeHintForColumn(0) + kBeside), height()));
    popup->resize(popup->width(), shown * popup->sizeHintForRow(0) + kFrame);
}

void CellEditor::openChoices() {
    if (isLookUp_) {
        searching_ = true;
        return Q_EMIT searchWanted({});
    }
    showChoices({});
    QAbstractItemView* popup = completer_->popup();
    const QModelIndexList found =
        popup->model()->match(popup->model()->index(0, 0), Qt::DisplayRole, line_->text(), 1, Qt::MatchExactly);
    if (!found.isEmpty()) popup->setCurrentIndex(found.first());
}

void CellEditor::openCalendar() {
    FieldSchema anyDate;
    anyDate.type = Type::Date;
    const Result<Value> present = parseTyped(text().toStdString(), anyDate);
    const Date* day = present ? std::get_if<Date>(&*present) : nullptr;
    auto* popup = new MonthPopup(day ? kEpoch.addDays(day->days) : QDate::currentDate(), this);
    connect(popup, &MonthPopup::chosen, this, [this](QDate chosen) {
        setText(QString::fromStdString(editText(Date{static_cast<std::int32_t>(kEpoch.daysTo(chosen))})));
        setRefused(false);
        line_->setFocus();
    });
    popup->move(mapToGlobal(QPoint(0, height() + 2)));
    popup->show();
}

bool CellEditor::handleKey(const QKeyEvent& event) {
    switch (event.key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter: Q_EMIT committed(1, 0); return true;
        case Qt::Key_Tab: Q_EMIT committed(0, 1); return true;
        case Qt::Key_Backtab: Q_EMIT committed(0, -1); return true;
        case Qt::Key_Escape: Q_EMIT abandoned(); return true;
        case Qt::Key_Up:
        case Qt::Key_Down:
            if (event.modifiers() == Qt::AltModifier) {
                if (type_ == Type::Date) openCalendar();
                if (completer_) openChoices();
                return true;
            }
            Q_EMIT committed(event.key() == Qt::Key_Down ? 1 : -1, 0);
            return true;
        default: return false;
    }
}

bool CellEditor::eventFilter(QObject* watched, QEvent* event) {
    if (watched == line_ && event->type() == QEvent::ShortcutOverride) {
        // Typing and the entry's own shortcuts stay here; other commands of the window (saving, say) go through.
        const auto* key = static_cast<QKeyEvent*>(event);
        constexpr int kOwn[] = {Qt::Key_A,    Qt::Key_C,   Qt::Key_V,         Qt::Key_X,
                                Qt::Key_Y,    Qt::Key_Z,   Qt::Key_Left,      Qt::Key_Right,
                                Qt::Key_Home, Qt::Key_End, Qt::Key_Backspace, Qt::Key_Delete};
        const bool isCommand = key->modifiers() & (Qt::ControlModifier | Qt::AltModifier);
        if (!isCommand || std::find(std::begin(kOwn), std::end(kOwn), key->key()) != std::end(kOwn)) event->accept();
        return false;
    }
    if (watched == line_ && event->type() == QEvent::KeyPress && handleKey(*static_cast<QKeyEvent*>(event)))
        return true;
    return QFrame::eventFilter(watched, event);
}

void CellEditor::resizeEvent(QResizeEvent*) {
    const int button = button_ && width() > 3 * kButtonPx ? kButtonPx : 0;
    line_->setGeometry(measure::kCellPadding - 2, 1, width() - 2 * measure::kCellPadding + 4 - button, height() - 2);
    if (button_) {
        button_->setVisible(button != 0);
        button_->setGeometry(width() - kButtonPx - 2, 2, kButtonPx, height() - 4);
    }
}

void CellEditor::paintEvent(QPaintEvent*) {
    const Tokens& t = tokens(themeOf(palette()));
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(refused_ ? t.buoy : t.teal, 2));
    painter.setBrush(refused_ ? t.buoyPale : t.paper);
    painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 3, 3);
}

}  // namespace jollyrow
