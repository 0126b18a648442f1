// SPDX-License-Identifier: MIT
#include "grid/sheet/field_box.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>

#include "core/design/cell_text.h"
#include "grid/api/grid.h"
#include "grid/editors/editor_task.h"
#include "grid/inside/grid_private.h"
#include "grid/paint/tokens.h"

namespace jollyrow {
namespace {
constexpr int kHeadingHeight = 20, kBoxHeight = 30, kTallBox = 68, kBelow = 20, kGap = 8;
constexpr int kLongText = 60;  // a declared length from which a text takes the whole width
}  // namespace

FieldBox::FieldBox(Grid& grid, int column, QWidget* parent)
    : QWidget(parent), grid_(grid), column_(column), below_(new QLabel(this)) {
    const PlannedColumn& planned = grid.session().plan().columns[static_cast<std::size_t>(column)];
    const FieldSchema& schema = grid.session().schema().field(planned.field);
    field_ = planned.design.field;
    heading_ = QString::fromStdString(planned.design.heading);
    isBoolean_ = schema.type == Type::Boolean;
    wide_ = schema.type == Type::Text && (planned.design.wrap || schema.maxLength >= kLongText) &&
            schema.permitted.empty() && !planned.label;
    setFocusPolicy(canEdit() ? Qt::StrongFocus : Qt::ClickFocus);
    setAccessibleName(heading_);
    setObjectName(QStringLiteral("field_") + QString::fromStdString(field_));
    below_->setTextFormat(Qt::PlainText);
    below_->setWordWrap(true);
    below_->hide();
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

const PlannedColumn* FieldBox::planned() const {
    const auto& columns = grid_.session().plan().columns;
    const auto at = static_cast<std::size_t>(column_);
    return at < columns.size() && columns[at].design.field == field_ ? &columns[at] : nullptr;
}

bool FieldBox::canEdit() const {
    const PlannedColumn* column = planned();
    return column && column->editable && grid_.isEditable() &&
           grid_.session().schema().field(column->field).type != Type::Binary;
}

QSize FieldBox::sizeHint() const {
    const int below = below_->isHidden() ? 0 : std::max(kBelow, below_->heightForWidth(std::max(width(), 120)));
    return {130, kHeadingHeight + (wide_ ? kTallBox : kBoxHeight) + below + kGap};
}

QRect FieldBox::valueRect() const { return {0, kHeadingHeight, width(), wide_ ? kTallBox : kBoxHeight}; }

void FieldBox::show(SourceRow row) {
    const PlannedColumn* column = planned();
    if (editor_ && row != row_) close();
    row_ = row;
    text_.clear();
    was_.clear();
    mark_ = CellMark::None;
    isEmpty_ = true;
    QString message;
    const auto& snapshot = grid_.session().snapshot();
    if (column && row != kNoRow && raw(row) < snapshot->table->rows) {
        CellText cell;
        readField(*snapshot, row, *column, cell);
        text_ = cell.isPending ? QStringLiteral("…") : QString::fromStdString(cell.text);
        isEmpty_ = cell.isEmpty;
        isChecked_ = cell.isChecked;
        mark_ = cell.mark;
        const RecordEdit* record = snapshot->edits->record(row);
        const CellEdit* edit = record ? record->find(column->field) : nullptr;
        if (edit && isUnsaved(edit->state)) {
            std::string was;
            column->formatter->append(was, edit->original);
            was_ = was.empty() ? tr("was empty") : tr("was %1").arg(QString::fromStdString(was));
            message = QString::fromStdString(edit->message);
        }
        if (const RecordProblem* problem = record ? problemAt(*record, column->field) : nullptr;
            problem && problem->blocks() && message.isEmpty())
            message = QString::fromStdString(problem->message);
    }
    if (!editor_) setMessage(message);
    setAccessibleDescription(isEmpty_ ? tr("empty") : text_);
    update();
}

void FieldBox::setMessage(const QString& message) {
    if (message == message_ && below_->isHidden() == message.isEmpty()) return;
    message_ = message;
    below_->setText(message);
    QPalette red = below_->palette();
    red.setColor(QPalette::WindowText, grid_.look().buoyText);
    below_->setPalette(red);
    below_->setVisible(!message.isEmpty());
    resizeEvent(nullptr);
    updateGeometry();
}

QString FieldBox::message() const { return message_; }

bool FieldBox::begin(const QString& typed) {
    const PlannedColumn* column = planned();
    if (editor_ || !column || row_ == kNoRow || !canEdit()) return false;
    if (isBoolean_) {
        const Value now = grid_.session().snapshot()->value(row_, column->field);
        write({turnedOver(now, grid_.session().schema().field(column->field))});
        return true;
    }
    editor_ = grid_.d->context.makeEditor(*column, this);
    editor_->setFont(font());
    editor_->setGeometry(valueRect());
    connect(editor_, &Editor::committed, this, [this](int lines, int columns) {
        if (commit()) Q_EMIT left(lines + columns);
    });
    connect(editor_, &Editor::abandoned, this, [this] {
        close();
        setFocus();
    });
    connect(editor_, &Editor::failed, this, [this](const QString& message) { refuse(message, false); });
    connect(editor_, &Editor::edited, this, [this] {
        overridden_.clear();
        setMessage({});
    });
    overridden_.clear();
    if (typed.isEmpty())
        editor_->begin(editedCellAt(grid_.session(), *column, row_));
    else
        editor_->beginWith(typed);
    editor_->show();
    editor_->setFocus();
    return true;
}

bool FieldBox::commit() {
    if (!editor_) return true;
    const PlannedColumn* column = planned();
    if (!column || editor_->isUnchanged()) return close(), true;
    if (editor_->commitsLater()) return false;
    const Result<Entered> entered = editor_->entered();
    if (!entered) {
        refuse(QString::fromStdString(entered.error().message), false);
        return false;
    }
    const auto problem = grid_.session().checks().problemWith(row_, column->field, entered->value);
    if (problem && (problem->isWarning ? overridden_ != problem->check : !grid_.design().grid.keepsDrafts)) {
        refuse(QString::fromStdString(problem->message), problem->isWarning);
        if (problem->isWarning) overridden_ = problem->check;
        return false;
    }
    const std::string overridden = std::exchange(overridden_, {});
    close();
    write(*entered);
    if (!overridden.empty()) grid_.session().records().overrideWarning(row_, overridden);
    return true;
}

void FieldBox::write(const Entered& entered) {
    const PlannedColumn* column = planned();
    if (column) grid_.d->editors.write(row_, column->field, entered);
}

void FieldBox::refuse(const QString& message, bool isWarning) {
    if (editor_) editor_->setRefused(true);
    setMessage(isWarning ? tr("%1 Enter keeps it all the same.").arg(message) : message);
}

void FieldBox::close() {
    if (!editor_) return;
    Editor* closing = editor_;
    editor_ = nullptr;
    closing->hide();
    closing->deleteLater();
    setMessage({});
    show(row_);
}

void FieldBox::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void FieldBox::paint(QPainter& painter) {
    const Tokens& t = grid_.look();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(t.ink2);
    const QFontMetrics metrics = fontMetrics();
    const QRect head(0, 0, width(), kHeadingHeight - 3);
    painter.drawText(head, Qt::AlignLeft | Qt::AlignVCenter,
                     metrics.elidedText(heading_, Qt::ElideRight, width() - 16));
    int x = std::min(metrics.horizontalAdvance(heading_), width() - 16) + 8;
    if (mark_ > CellMark::Saved) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(mark_ >= CellMark::Invalid ? t.buoy : t.teal);
        painter.drawEllipse(QPointF(x + 3, head.center().y() + 0.5), 3, 3);
        x += 12;
        if (!was_.isEmpty() && x < width() - 20) {
            painter.setPen(t.ink2);
            painter.drawText(QRect(x, 0, width() - x, head.height()), Qt::AlignLeft | Qt::AlignVCenter,
                             metrics.elidedText(was_, Qt::ElideRight, width() - x));
        }
    }
    const QRectF box = QRectF(valueRect()).adjusted(0.5, 0.5, -0.5, -0.5);
    const bool isWrong = mark_ >= CellMark::Invalid;
    if (canEdit()) {
        painter.setPen(QPen(isWrong ? t.buoy : hasFocus() ? t.teal : t.entryEdge, hasFocus() && !isWrong ? 2 : 1));
        painter.setBrush(isWrong ? t.buoyPale : t.paper);
        painter.drawRoundedRect(box, 5, 5);
    } else {  // a line beneath what cannot be edited
        painter.setPen(QPen(t.hair, 1));
        painter.drawLine(box.bottomLeft(), box.bottomRight());
    }
    if (editor_) return;
    const PlannedColumn* column = planned();
    const QRect inside = valueRect().adjusted(canEdit() ? 10 : 1, wide_ ? 6 : 0, canEdit() ? -10 : -1, wide_ ? -4 : 0);
    painter.setPen(isWrong ? t.buoyText : isEmpty_ ? t.ink2 : t.ink);
    const QString shown = isBoolean_ && column && !column->face ? (isEmpty_     ? QString()
                                                                   : isChecked_ ? tr("yes")
                                                                                : tr("no"))
                          : isEmpty_ && column                  ? QString::fromStdString(column->design.format.empty)
                                                                : text_;
    const bool right = column && column->alignment == Alignment::Right;
    if (wide_)
        painter.drawText(inside, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, shown);
    else
        painter.drawText(inside, (right ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                         metrics.elidedText(QString(shown).replace(u'\n', u' '), Qt::ElideRight, inside.width()));
}

void FieldBox::resizeEvent(QResizeEvent*) {
    below_->setGeometry(0, valueRect().bottom() + 2, width(), std::max(kBelow, below_->heightForWidth(width())));
    if (editor_) editor_->setGeometry(valueRect());
}

void FieldBox::mousePressEvent(QMouseEvent* event) {
    setFocus();
    if (event->button() == Qt::LeftButton && valueRect().contains(event->pos())) begin({});
}

void FieldBox::keyPressEvent(QKeyEvent* event) {
    const bool isCommand = event->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier);
    switch (event->key()) {
        case Qt::Key_F2:
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (begin({})) return;
            break;
        case Qt::Key_Down: Q_EMIT left(1); return;
        case Qt::Key_Up: Q_EMIT left(-1); return;
        case Qt::Key_Space:
            if (isBoolean_ && begin({})) return;
            break;
        default: break;
    }
    const QString typed = event->text();
    if (!isCommand && !typed.isEmpty() && typed.at(0).isPrint() && !isBoolean_ && begin(typed)) return;
    QWidget::keyPressEvent(event);
}

void FieldBox::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    update();
}

void FieldBox::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    update();
}

}  // namespace jollyrow
