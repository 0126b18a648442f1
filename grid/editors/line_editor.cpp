// SPDX-License-Identifier: MIT
#include "grid/editors/line_editor.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QKeyEvent>
#include <QToolButton>
#include <QValidator>

#include <limits>

#include "core/columns/civil.h"
#include "core/formats/loose_date.h"
#include "core/formats/text_format.h"
#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {
constexpr int kButtonPx = 20;
}  // namespace

class PatternValidator final : public QValidator {
  public:
    PatternValidator(std::shared_ptr<const EntryPattern> pattern, QObject* parent)
        : QValidator(parent), pattern_(std::move(pattern)) {}
    /// What a cell holds already may be anything; it can be changed freely until it fits.
    void beginWith(const QString& text) { isLenient_ = pattern_->fit(text.toStdString()) == EntryPattern::Fit::None; }
    State validate(QString& text, int& /*cursor*/) const override {
        const auto fit = text.isEmpty() ? EntryPattern::Fit::Begun : pattern_->fit(text.toStdString());
        if (fit != EntryPattern::Fit::None) isLenient_ = false;
        return fit == EntryPattern::Fit::Whole                ? Acceptable
               : fit != EntryPattern::Fit::None || isLenient_ ? Intermediate
                                                              : Invalid;
    }

  private:
    std::shared_ptr<const EntryPattern> pattern_;
    mutable bool isLenient_ = false;
};

LineEditor::LineEditor(const EditorTask& task, QWidget* parent) : Editor(task, parent), line_(new QLineEdit(this)) {
    line_->setFrame(false);
    line_->setMaxLength(std::numeric_limits<int>::max());  // the toolkit's own would cut long texts off
    line_->setObjectName(QStringLiteral("cellEntry"));
    line_->setTextMargins(0, 0, 0, 0);
    line_->setPlaceholderText(task.hint);
    line_->setAlignment((task.alignment == Alignment::Right    ? Qt::AlignRight
                         : task.alignment == Alignment::Center ? Qt::AlignHCenter
                                                               : Qt::AlignLeft) |
                        Qt::AlignVCenter);
    QPalette clear = palette();
    clear.setColor(QPalette::Base, Qt::transparent);
    line_->setPalette(clear);
    line_->installEventFilter(this);
    setFocusProxy(line_);
    connect(line_, &QLineEdit::textEdited, this, [this](const QString& text) {
        setRefused(false);
        fillIn(text);
        Q_EMIT edited();
    });
    if (!task.pattern) return;
    line_->setValidator(validator_ = new PatternValidator(task.pattern, line_));
    connect(line_, &QLineEdit::inputRejected, this, [this] {
        Q_EMIT failed(this->task().hint.isEmpty() ? tr("That does not go here.")
                                                  : tr("It must look like %1.").arg(this->task().hint));
    });
}

/// What alone can follow is filled in, where one types at the end.
void LineEditor::fillIn(const QString& text) {
    if (!task().pattern || isDeleting_ || line_->cursorPosition() != text.size()) return;
    const QString filled = QString::fromStdString(task().pattern->filledIn(text.toStdString()));
    if (filled.size() <= text.size()) return;
    line_->insert(filled.mid(text.size()));
}

void LineEditor::begin(const EditedCell& cell) {
    const std::string text =
        task().formatter ? task().formatter->editText(cell.value, task().field) : editText(cell.value);
    beginWithAll(text.empty() ? cell.misfit : QString::fromStdString(text));
}

void LineEditor::beginWithAll(const QString& text) {
    begunWith_ = text;
    if (validator_) validator_->beginWith(text);
    line_->setText(text);
    line_->selectAll();
}

void LineEditor::beginWith(const QString& typed) {
    begunWith_.reset();
    line_->clear();
    line_->insert(typed);
    fillIn(line_->text());
}

Result<Entered> LineEditor::entered() const {
    const std::string text = line_->text().toStdString();
    auto value = task().formatter ? task().formatter->parse(text, task().field) : parseTyped(text, task().field);
    if (!value && task().field.type == Type::Date)
        if (const auto days = looseDate(text, today())) return Entered{Value(Date{*days})};
    if (!value) return value.error();
    return Entered{std::move(*value)};
}

int LineEditor::leastWidth() const { return isMoment(task().field.type) ? 150 : Editor::leastWidth(); }

void LineEditor::addButton(const QString& accessibleName) {
    button_ = new QToolButton(this);
    button_->setText(QStringLiteral("▾"));
    button_->setAccessibleName(accessibleName);
    button_->setFocusPolicy(Qt::NoFocus);
    button_->setAutoRaise(true);
    connect(button_, &QToolButton::clicked, this, [this] { openChoices(); });
}

bool LineEditor::handleKey(const QKeyEvent& event) {
    switch (event.key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter: Q_EMIT committed(1, 0); return true;
        case Qt::Key_Tab: Q_EMIT committed(0, 1); return true;
        case Qt::Key_Backtab: Q_EMIT committed(0, -1); return true;
        case Qt::Key_Escape: Q_EMIT abandoned(); return true;
        case Qt::Key_Up:
        case Qt::Key_Down:
            if (event.modifiers() == Qt::AltModifier)
                openChoices();
            else
                Q_EMIT committed(event.key() == Qt::Key_Down ? 1 : -1, 0);
            return true;
        default: return false;
    }
}

bool LineEditor::eventFilter(QObject* watched, QEvent* event) {
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
    if (watched == line_ && event->type() == QEvent::KeyPress) {
        const auto& key = *static_cast<QKeyEvent*>(event);
        isDeleting_ = key.key() == Qt::Key_Backspace || key.key() == Qt::Key_Delete || key.matches(QKeySequence::Cut) ||
                      key.matches(QKeySequence::Undo);
    }
    if (watched == line_ && event->type() == QEvent::KeyPress && handleKey(*static_cast<QKeyEvent*>(event)))
        return true;
    return Editor::eventFilter(watched, event);
}

void LineEditor::resizeEvent(QResizeEvent*) {
    const int button = button_ && width() > 3 * kButtonPx ? kButtonPx : 0;
    line_->setGeometry(measure::kCellPadding - 2, 1, width() - 2 * measure::kCellPadding + 4 - button, height() - 2);
    if (!button_) return;
    button_->setVisible(button != 0);
    button_->setGeometry(width() - kButtonPx - 2, 2, kButtonPx, height() - 4);
}

void showCompletions(QCompleter& completer, const QString& prefix, const QWidget& over) {
    constexpr int kMostShown = 12, kFrame = 10, kBeside = 36;
    completer.setCompletionPrefix(prefix);
    QAbstractItemView* popup = completer.popup();
    const int shown = std::min(kMostShown, completer.completionCount());
    if (shown == 0) return popup->hide();
    completer.setMaxVisibleItems(kMostShown);
    completer.complete(QRect(0, 0, std::max(over.width(), popup->sizeHintForColumn(0) + kBeside), over.height()));
    popup->resize(popup->width(), shown * popup->sizeHintForRow(0) + kFrame);
}

}  // namespace jollyrow
