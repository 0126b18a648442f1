// SPDX-License-Identifier: MIT
#include "workbench/rules/rule_entry.h"

#include <QAbstractItemView>
#include <QAbstractTextDocumentLayout>
#include <QCompleter>
#include <QFontDatabase>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QScrollBar>
#include <QStandardItemModel>
#include <QStyledItemDelegate>
#include <QSyntaxHighlighter>
#include <QTextBlock>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

#include "core/rules/lexer.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {

constexpr int kWordRole = Qt::UserRole + 1;  ///< what is put in for an offer
constexpr int kHelpRole = Qt::UserRole + 2;  ///< what it gives, in a few words; "" for a column
constexpr int kBesideOffers = 16;

/// Colours by the kind of word: the language's own, values, texts.
class RuleColours final : public QSyntaxHighlighter {
  public:
    using QSyntaxHighlighter::QSyntaxHighlighter;
    std::optional<TextRange> wrong;  ///< bytes of the whole text

  protected:
    void highlightBlock(const QString& block) override {
        const Tokens& t = look();
        const QByteArray bytes = block.toUtf8();
        const auto charsBefore = [&](std::size_t byte) {
            return static_cast<int>(QString::fromUtf8(bytes.left(static_cast<qsizetype>(byte))).size());
        };
        if (const auto tokens = tokensOf(std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())))) {
            for (const Token& token : *tokens) {
                QTextCharFormat format;
                switch (token.kind) {
                    case TokenKind::Number: format.setForeground(t.buoyText); break;
                    case TokenKind::String: format.setForeground(t.brassText); break;
                    case TokenKind::Name:
                        if (!isLanguage(token)) continue;
                        format.setForeground(t.blue);
                        format.setFontWeight(QFont::DemiBold);
                        break;
                    default: continue;
                }
                const int from = charsBefore(token.range.offset);
                setFormat(from, charsBefore(token.range.offset + token.range.length) - from, format);
            }
        }
        if (!wrong) return;
        // Blocks are lines; the range counts bytes of the whole text.
        const auto start =
            static_cast<std::size_t>(document()->toPlainText().left(currentBlock().position()).toUtf8().size());
        const std::size_t end = wrong->offset + std::max<std::size_t>(1, wrong->length);
        if (end <= start || wrong->offset > start + static_cast<std::size_t>(bytes.size())) return;
        const int from = charsBefore(wrong->offset > start ? wrong->offset - start : 0);
        const int to = std::max(from + 1, charsBefore(std::min(end - start, static_cast<std::size_t>(bytes.size()))));
        for (int i = from; i < to; ++i) {
            QTextCharFormat format = this->format(i);
            format.setUnderlineStyle(QTextCharFormat::SpellCheckUnderline);
            format.setUnderlineColor(t.buoy);
            format.setBackground(t.buoyPale);
            setFormat(i, 1, format);
        }
    }

  private:
    static bool isLanguage(const Token& token) {
        static const QStringList kWords =
            QStringLiteral(
                "AND OR NOT IS NULL TRUE FALSE UNKNOWN IN LIKE ESCAPE BETWEEN CASE WHEN THEN ELSE END CAST AS DISTINCT "
                "FROM FOR EXTRACT YEAR MONTH DAY HOUR MINUTE SECOND WEEK QUARTER DOY "
                "ISODOW ISOYEAR DATE TIME TIMESTAMP INTERVAL CURRENT_DATE OVER PARTITION BY ORDER ASC DESC BOTH "
                "LEADING TRAILING PLACING INTEGER DECIMAL TEXT ILIKE SIMILAR LIKE_REGEX FLAG SYMMETRIC OVERLAPS "
                "COLLATE "
                "FILTER WHERE ROWS RANGE GROUPS UNBOUNDED PRECEDING FOLLOWING CURRENT ROW EXCLUDE NULLS")
                .split(' ');
        const QString word = QString::fromStdString(token.text).toUpper();
        return kWords.contains(word) || findFunction(word.toStdString()) || aggregateFromName(word.toStdString());
    }
};

/// An offer: how it is written and, of a function, below it what it gives.
class OfferDelegate final : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;

    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const QString help = index.data(kHelpRole).toString();
        const QFontMetrics form(option.font), below(sized(11));
        const int width = std::max(form.horizontalAdvance(index.data().toString()), below.horizontalAdvance(help));
        // All as high as those of two lines: the list is made as high as so many of its first.
        const int height = form.height() + below.height();
        return {width + 2 * kSide, height + 2 * kAbove};
    }
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Tokens& t = look();
        const bool isChosen = (option.state & QStyle::State_Selected) != 0;
        if (isChosen) painter->fillRect(option.rect, t.tealPale);
        const QRect room = option.rect.adjusted(kSide, kAbove, -kSide, -kAbove);
        const QString help = index.data(kHelpRole).toString();
        painter->setFont(option.font);
        painter->setPen(t.ink);
        const QFontMetrics form(option.font);
        painter->drawText(room, (help.isEmpty() ? Qt::AlignVCenter : Qt::AlignTop) | Qt::AlignLeading,
                          form.elidedText(index.data().toString(), Qt::ElideRight, room.width()));
        if (help.isEmpty()) return;
        painter->setFont(sized(11));
        painter->setPen(t.ink2);
        painter->drawText(room, Qt::AlignBottom | Qt::AlignLeading,
                          QFontMetrics(sized(11)).elidedText(help, Qt::ElideRight, room.width()));
    }

  private:
    static constexpr int kSide = 7, kAbove = 2;
};

/// While the list of completions is open, its keys belong to it: the completer asks the entry first, past any event
/// filter.
class RuleText final : public QPlainTextEdit {
  public:
    using QPlainTextEdit::QPlainTextEdit;
    QCompleter* completer = nullptr;

  protected:
    void keyPressEvent(QKeyEvent* event) override {
        const int key = event->key();
        const bool chooses =
            key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Tab || key == Qt::Key_Escape;
        if (chooses && completer && completer->popup()->isVisible()) return event->ignore();
        QPlainTextEdit::keyPressEvent(event);
    }
};

}  // namespace

RuleEntry::RuleEntry(QStringList names, Compile compile, QWidget* parent)
    : QWidget(parent),
      edit_(new RuleText(this)),
      label_(new QLabel(this)),
      completer_(new QCompleter(this)),
      compile_(std::move(compile)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* room = new QHBoxLayout;
    room->setContentsMargins(7, 4, 5, 4);
    room->addWidget(edit_);
    layout->addLayout(room);
    edit_->setFrameShape(QFrame::NoFrame);
    edit_->document()->setDocumentMargin(1);
    layout->addWidget(label_);
    QFont mono = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    mono.setPixelSize(sized(12).pixelSize());
    edit_->setFont(mono);
    edit_->setTabChangesFocus(true);
    edit_->setAccessibleName(tr("Rule"));
    edit_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);  // lines are wrapped
    fitLines();
    connect(edit_->document()->documentLayout(), &QAbstractTextDocumentLayout::documentSizeChanged, this,
            &RuleEntry::fitLines);
    label_->setWordWrap(true);
    label_->setTextFormat(Qt::PlainText);
    new RuleColours(edit_->document());
    names << QStringLiteral("CURRENT_DATE") << QStringLiteral("EXTRACT") << QStringLiteral("CAST")
          << QStringLiteral("CASE WHEN") << QStringLiteral("BETWEEN") << QStringLiteral("INTERVAL");
    completer_->setModel(new QStandardItemModel(completer_));
    completer_->setCompletionRole(kWordRole);
    for (const QString& name : names) offer(name, name);
    const auto worded = [](std::string_view of) {
        return QString::fromUtf8(of.data(), static_cast<qsizetype>(of.size()));
    };
    for (const FunctionShape& shape : FunctionList{}) offer(worded(shape.form), worded(shape.name), worded(shape.help));
    for (const std::string_view of : aggregateNames())
        if (const auto aggregate = aggregateFromName(of); aggregate && name(*aggregate) == of)
            offer(worded(formOf(*aggregate)), worded(of), worded(helpOf(*aggregate)));
    completer_->setCaseSensitivity(Qt::CaseInsensitive);
    completer_->setFilterMode(Qt::MatchStartsWith);
    completer_->setWidget(edit_);
    static_cast<RuleText*>(edit_)->completer = completer_;
    completer_->popup()->setFont(mono);
    completer_->popup()->setItemDelegate(new OfferDelegate(completer_));
    connect(completer_, qOverload<const QString&>(&QCompleter::activated), this, &RuleEntry::insertCompletion);
    connect(edit_, &QPlainTextEdit::textChanged, this, [this] {
        const QString now = text();
        if (now == said_) return;  // only its colours are others
        said_ = now;
        check();
        // While its list is open, keys reach the entry past eventFilter().
        QMetaObject::invokeMethod(
            this,
            [this] {
                if (completer_->popup()->isVisible()) complete(false);
            },
            Qt::QueuedConnection);
        if (program_) Q_EMIT changed(now);
    });
    edit_->installEventFilter(this);
    setFocusProxy(edit_);
    check();
}

/// As high as its lines need, from two to six; more are scrolled.
void RuleEntry::fitLines() {
    constexpr int kFewestLines = 2, kMostLines = 6;
    // A plain text's layout says its height in lines, wrapped ones counted.
    const int lines = static_cast<int>(std::ceil(edit_->document()->documentLayout()->documentSize().height()));
    edit_->setVerticalScrollBarPolicy(lines > kMostLines ? Qt::ScrollBarAsNeeded : Qt::ScrollBarAlwaysOff);
    edit_->setFixedHeight(std::clamp(lines, kFewestLines, kMostLines) * edit_->fontMetrics().lineSpacing() + 4);
}

void RuleEntry::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const bool wrong = error_ && !text().isEmpty(), keyed = edit_->hasFocus();
    painter.setPen(QPen(wrong ? t.buoy : keyed ? t.teal : t.entryEdge, wrong || keyed ? 1.4 : 1));
    painter.setBrush(t.paper);
    painter.drawRoundedRect(QRectF(edit_->geometry()).adjusted(-6.5, -3.5, 4.5, 3.5), 4, 4);
}

void RuleEntry::setText(const QString& text) {
    if (text == this->text()) return;
    said_ = text;
    edit_->setPlainText(text);
    check();
}

QString RuleEntry::text() const { return edit_->toPlainText(); }
QString RuleEntry::message() const { return label_->text(); }

void RuleEntry::setNote(const QString& note) {
    note_ = note;
    showMessage();
}

/// Functions are offered as they are written, "ROUND(number, decimals)", and put in by their names.
void RuleEntry::offer(const QString& shown, const QString& word, const QString& help) {
    auto* model = static_cast<QStandardItemModel*>(completer_->model());
    const auto same = model->match(model->index(0, 0), kWordRole, word, 1, Qt::MatchExactly | Qt::MatchCaseSensitive);
    if (!same.isEmpty()) return;
    auto* item = new QStandardItem(shown);
    item->setData(word, kWordRole);
    item->setData(help, kHelpRole);
    if (!help.isEmpty()) item->setAccessibleText(QStringLiteral("%1: %2").arg(shown, help));
    model->appendRow(item);
}

void RuleEntry::addNames(const QStringList& names) {
    for (const QString& name : names) offer(name, name);
    check();
}

void RuleEntry::check() {
    auto made = compile_(text().toStdString());
    program_ = made ? *made : nullptr;
    error_ = made ? std::nullopt : std::optional(made.error());
    auto* colours = edit_->document()->findChild<QSyntaxHighlighter*>();
    if (auto* rule = dynamic_cast<RuleColours*>(colours)) {
        rule->wrong = error_ && !text().isEmpty() ? error_->where : std::nullopt;
        rule->rehighlight();
    }
    showMessage();
    update();
}

void RuleEntry::showMessage() {
    QPalette colours = label_->palette();
    colours.setColor(QPalette::WindowText, error_ && !text().isEmpty() ? look().buoyText
                                           : program_                  ? look().tealText
                                                                       : look().ink2);
    label_->setPalette(colours);
    if (program_) {
        const std::string_view type = article(program_->type().kind);
        label_->setText(QString::fromUtf8(type.data(), static_cast<qsizetype>(type.size())) +
                        (note_.isEmpty() ? QString() : QStringLiteral(" · ") + note_));
    } else {
        label_->setText(text().isEmpty()
                            ? tr("An expression over the columns of one record. Ctrl+Space lists what can stand here.")
                            : QString::fromStdString(error_->message));
    }
}

QString RuleEntry::wordBefore() const {
    const QTextCursor cursor = edit_->textCursor();
    const QString line = cursor.block().text().left(cursor.positionInBlock());
    qsizetype start = line.size();
    while (start > 0 && (line[start - 1].isLetterOrNumber() || line[start - 1] == '_' || line[start - 1] == '.'))
        --start;
    return line.mid(start);
}

void RuleEntry::complete(bool asked) {
    const QString word = wordBefore();
    if (!asked && word.size() < 2) {
        completer_->popup()->hide();
        return;
    }
    completer_->setCompletionPrefix(word);
    const bool onlyItself =
        completer_->completionCount() == 1 && completer_->currentCompletion().compare(word, Qt::CaseInsensitive) == 0;
    if (completer_->completionCount() == 0 || onlyItself) {
        completer_->popup()->hide();
        return;
    }
    completer_->popup()->setCurrentIndex(completer_->completionModel()->index(0, 0));
    QRect at = edit_->cursorRect();
    const int widest = completer_->popup()->sizeHintForColumn(0);
    at.setWidth(std::clamp(widest + 2 * kBesideOffers, 240, 560));
    completer_->complete(at);
}

void RuleEntry::insertCompletion(const QString& word) {
    QTextCursor cursor = edit_->textCursor();
    cursor.movePosition(QTextCursor::Left, QTextCursor::KeepAnchor, static_cast<int>(wordBefore().size()));
    const bool isFunction = findFunction(word.toStdString()) != nullptr ||
                            aggregateFromName(word.toStdString()).has_value() || word == QLatin1String("EXTRACT") ||
                            word == QLatin1String("CAST");
    cursor.insertText(isFunction ? word + QStringLiteral("(") : word);
    edit_->setTextCursor(cursor);
}

/// A key while completions are offered; false where it is for the text.
bool RuleEntry::keyAtOffers(int key) {
    if (!completer_->popup()->isVisible()) return false;
    const bool takes = key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Tab;
    if (takes) insertCompletion(completer_->popup()->currentIndex().data(kWordRole).toString());
    if (!takes && key != Qt::Key_Escape) return false;
    completer_->popup()->hide();
    return true;
}

bool RuleEntry::eventFilter(QObject* watched, QEvent* event) {
    if (watched == edit_ && (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut)) update();
    if (watched != edit_ || event->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, event);
    auto* key = static_cast<QKeyEvent*>(event);
    if (keyAtOffers(key->key())) return true;
    const bool isCommand = key->modifiers() & Qt::ControlModifier;
    if (key->key() == Qt::Key_Space && isCommand) {
        complete(true);
        return true;
    }
    const bool types = !key->text().isEmpty() && key->text().at(0).isPrint() && !isCommand;
    if (types || key->key() == Qt::Key_Backspace)
        QMetaObject::invokeMethod(
            this, [this] { complete(false); }, Qt::QueuedConnection);
    return false;
}

}  // namespace jollyrow
