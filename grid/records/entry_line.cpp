// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_record_control.cpp.
#include "grid/records/entry_line.h"

#include <QMouseEvent>
#include <QPainter>

#include "core/formats/text_format.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

QString plainDefault(const FieldSchema& field, const Formatter& formatter) {
    if (!field.defaultSql || formatter.isMessage()) return {};
    std::string literal = *field.defaultSql;
    const bool isQuoted = literal.size() >= 2 && literal.front() == '\'' && literal.back() == '\'';
    if (isQuoted) {
        const std::string inside = literal.substr(1, literal.size() - 2);
        literal.clear();
        for (std::size_t i = 0; i < inside.size(); ++i) {
            if (inside[i] == '\'' && (i + 1 >= inside.size() || inside[++i] != '\'')) return {};  // not one literal
            literal += inside[i];
        }
    } else if (literal.empty() || literal.find_first_not_of("0123456789.-") != std::string::npos) {
        return {};  // an expression: the database alone knows
    }
    const auto value = parseTyped(literal, field);
    std::string text;
    if (value) formatter.append(text, *value);
    return QString::fromStdString(text);
}

EntryLine::EntryLine(GridContext& context, const BodyGeometry& body, std::function<void(int column)> begin)
    : QWidget(&context.viewport()), context_(context), body_(body), begin_(std::move(begin)) {
    setObjectName(QStringLiteral("entryLine"));
    setAccessibleName(Grid::tr("New record"));
    setAttribute(Qt::WA_OpaquePaintEvent);
    setCursor(Qt::PointingHandCursor);
    setToolTip(Grid::tr("Begins a new record (Insert)"));
    hide();
}

void EntryLine::place(int height) {
    setVisible(height != 0);
    if (height == 0) return;
    const bool isTop = context_.design().grid.entryLine == EntryLinePlace::Top;
    setGeometry(0, isTop ? body_.headerHeight() - height : body_.totalsTop(), body_.viewport().width(), height);
    update();
}

void EntryLine::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void EntryLine::paint(QPainter& painter) {
    const Tokens& t = context_.look();
    const bool isTop = context_.design().grid.entryLine == EntryLinePlace::Top;
    painter.setFont(context_.grid().font());
    painter.fillRect(rect(), hovered_ ? t.tealPale : t.panel);
    painter.fillRect(0, isTop ? height() - 1 : 0, width(), 1, t.hair);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(t.teal, 1.6, Qt::SolidLine, Qt::RoundCap));
    const QPointF centre(measure::kGutter / 2.0, height() / 2.0);
    painter.drawLine(centre - QPointF(4, 0), centre + QPointF(4, 0));
    painter.drawLine(centre - QPointF(0, 4), centre + QPointF(0, 4));
    const ColumnLayout& columns = body_.columns();
    bool isFirst = true;
    for (int i = 0; i < columns.count(); ++i) {
        if (columns.line(i) != 0 || !context_.canEdit(i)) continue;
        const PlannedColumn& column = context_.planned(i);
        QString words = plainDefault(context_.schema().field(column.field), *column.formatter);
        const bool isInvitation = std::exchange(isFirst, false) && words.isEmpty();
        if (isInvitation) words = Grid::tr("New record");
        if (words.isEmpty()) continue;
        const QRect cell(columns.x(i, body_.scrollX()), 0, columns.width(i), height());
        painter.setClipRect(body_.roomOf(i).intersected(rect()) & cell);
        painter.setPen(isInvitation ? t.tealText : t.ink2);
        const bool isRight = column.alignment == Alignment::Right && !isInvitation;
        painter.drawText(cell.adjusted(measure::kCellPadding, 0, -measure::kCellPadding, 0),
                         (isRight ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter, words);
    }
}

void EntryLine::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    begin_(body_.columns().columnAt(event->pos().x(), body_.scrollX(), 0).value_or(-1));
}

bool EntryLine::event(QEvent* event) {
    if (event->type() == QEvent::Enter || event->type() == QEvent::Leave) {
        hovered_ = event->type() == QEvent::Enter;
        update();
    }
    return QWidget::event(event);
}

}  // namespace jollyrow
