// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_editors.cpp.
#include "grid/editors/text_editor.h"

#include <QKeyEvent>
#include <QScrollBar>
#include <QTextBlock>

#include <algorithm>

#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {

constexpr int kLeastLines = 3, kMostLines = 12, kInset = 4;
/// Stands for a carriage return that is no part of a line's end: the entry would take it for one.
constexpr QChar kReturn(u'\u240d');

/// As it stands in the entry: only '\n' ends a line there.
QString forEntry(const QString& text, bool endsLinesByCrLf) {
    QString shown = text;
    if (endsLinesByCrLf) shown.replace(QStringLiteral("\r\n"), QStringLiteral("\n"));
    return shown.replace(u'\r', kReturn);
}

}  // namespace

TextEditor::TextEditor(const EditorTask& task, QWidget* parent)
    : Editor(task, parent), text_(new QPlainTextEdit(this)) {
    text_->setObjectName(QStringLiteral("cellText"));
    text_->setFrameShape(QFrame::NoFrame);
    text_->setPlaceholderText(task.hint);
    text_->setAccessibleName(task.heading);
    text_->setTabChangesFocus(true);
    text_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    text_->document()->setDocumentMargin(0);
    text_->viewport()->setAutoFillBackground(false);
    QPalette clear = palette();
    clear.setColor(QPalette::Base, Qt::transparent);
    text_->setPalette(clear);
    text_->installEventFilter(this);
    setFocusProxy(text_);
    connect(text_, &QPlainTextEdit::textChanged, this, [this] {
        setRefused(false);
        Q_EMIT edited();
        Q_EMIT resized();
    });
}

void TextEditor::begin(const EditedCell& cell) {
    const auto* held = std::get_if<std::string>(&cell.value);
    const QString text = held ? QString::fromStdString(*held) : cell.misfit;
    const auto returns = text.count(u'\r');
    endsLinesByCrLf_ = returns > 0 && returns == text.count(QStringLiteral("\r\n")) && returns == text.count(u'\n');
    text_->setPlainText(forEntry(text, endsLinesByCrLf_));
    begunWith_ = typed();
    text_->selectAll();
}

void TextEditor::beginWith(const QString& typed) {
    begunWith_.reset();
    text_->setPlainText(typed);
    text_->moveCursor(QTextCursor::End);
}

/// Not toPlainText(): that turns spaces that do not break into ones that do.
QString TextEditor::typed() const {
    QString text;
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
        if (block != text_->document()->begin()) text += u'\n';
        text += block.text();
    }
    text.replace(QChar::LineSeparator, u'\n').replace(kReturn, u'\r');
    return endsLinesByCrLf_ ? text.replace(u'\n', QStringLiteral("\r\n")) : text;
}

Result<Entered> TextEditor::entered() const {
    auto value = parseTyped(typed().toStdString(), task().field);
    if (!value) return value.error();
    return Entered{std::move(*value)};
}

/// As many lines as there are, within bounds.
int TextEditor::wantedHeight(int cellHeight) const {
    int lines = 0;
    for (QTextBlock block = text_->document()->begin(); block.isValid() && lines < kMostLines; block = block.next())
        lines += std::max(1, block.layout() ? block.layout()->lineCount() : 1);
    const int wanted = std::clamp(lines + 1, kLeastLines, kMostLines) * text_->fontMetrics().lineSpacing();
    return std::max(cellHeight, wanted + 2 * kInset);
}

bool TextEditor::key(const QKeyEvent& key) {
    switch (key.key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (key.modifiers() & (Qt::ShiftModifier | Qt::AltModifier)) {
                text_->insertPlainText(QStringLiteral("\n"));
                text_->ensureCursorVisible();
            } else {
                Q_EMIT committed(1, 0);
            }
            return true;
        case Qt::Key_Tab: Q_EMIT committed(0, 1); return true;
        case Qt::Key_Backtab: Q_EMIT committed(0, -1); return true;
        case Qt::Key_Escape: Q_EMIT abandoned(); return true;
        default: return false;
    }
}

bool TextEditor::eventFilter(QObject* watched, QEvent* event) {
    if (watched != text_ || (event->type() != QEvent::KeyPress && event->type() != QEvent::ShortcutOverride))
        return Editor::eventFilter(watched, event);
    const auto& key = *static_cast<QKeyEvent*>(event);
    const bool isCommand = key.modifiers() & (Qt::ControlModifier | Qt::AltModifier);
    if (event->type() == QEvent::ShortcutOverride) {
        // Typing and the entry's own shortcuts stay here; saving, say, goes through.
        if (!isCommand || key.key() != Qt::Key_S) event->accept();
        return false;
    }
    return this->key(key) || Editor::eventFilter(watched, event);
}

void TextEditor::resizeEvent(QResizeEvent*) {
    text_->setGeometry(measure::kCellPadding - 2, kInset, width() - 2 * measure::kCellPadding + 4,
                       height() - 2 * kInset + 2);
}

}  // namespace jollyrow
