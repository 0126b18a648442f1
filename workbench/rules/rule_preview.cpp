// SPDX-License-Identifier: MIT
#include "workbench/rules/rule_preview.h"

#include <QPainter>

#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/rules/evaluator.h"
#include "core/session/session.h"
#include "workbench/app/look.h"

#include "grid/headings/heading_landing.h"
namespace jollyrow {
namespace {
constexpr int kRecords = 5, kHead = 24, kLine = 23, kEdge = 10;
constexpr std::size_t kMostInputs = 4;
}  // namespace

RulePreview::RulePreview(Grid& grid, QWidget* parent) : QWidget(parent), grid_(grid) {
    setAccessibleName(tr("What the rule gives for some records"));
    connect(&grid, &Grid::snapshotChanged, this, qOverload<>(&QWidget::update));
}

QSize RulePreview::sizeHint() const { return {460, kHead + kRecords * kLine + 6}; }

void RulePreview::setProgram(std::shared_ptr<const Program> program) {
    isCurrent_ = program != nullptr;
    if (program) program_ = std::move(program);
    update();
}

void RulePreview::chooseOthers() {
    ++turn_;
    update();
}

/// Spread over the lines shown, others each turn.
std::vector<SourceRow> RulePreview::records() const {
    std::vector<SourceRow> out;
    const auto& snapshot = grid_.snapshot();
    const std::int64_t lines = snapshot ? snapshot->recordCount() : 0;
    const std::int64_t count = std::min<std::int64_t>(kRecords, lines);
    for (std::int64_t i = 0; i < count; ++i)
        out.push_back(snapshot->record((i * lines / count + static_cast<std::int64_t>(turn_) * 7919) % lines));
    return out;
}

QString RulePreview::headingOf(FieldIndex field) const {
    return headingOfField(grid_.session().design(), grid_.session().schema().field(field).name);
}

QString RulePreview::textOf(SourceRow row, FieldIndex field) const {
    const auto& snapshot = grid_.snapshot();
    if (raw(field) >= snapshot->table->columns.size() || !snapshot->table->column(field)) return QStringLiteral("…");
    for (const PlannedColumn& column : grid_.session().plan().columns) {
        if (column.field != field || column.formatter->isMessage() || column.label) continue;
        std::string text;
        column.formatter->append(text, snapshot->value(row, field));
        return text.empty() ? tr("empty") : QString::fromStdString(text).simplified();
    }
    std::string text;
    appendDisplay(text, snapshot->value(row, field), defaultFormat(snapshot->table->schema.field(field), false));
    return text.empty() ? tr("empty") : QString::fromStdString(text).simplified();
}

QString RulePreview::valueOf(SourceRow row, bool* failed) const {
    const auto cell = evaluateOne(program_, grid_.session().evaluationInput(), row);
    *failed = !cell || isError(cell->state);
    if (!cell) return QString::fromStdString(cell.error().message);
    if (*failed) return QString::fromUtf8(words(cell->state).data(), static_cast<qsizetype>(words(cell->state).size()));
    return cell->state == CellState::Empty ? tr("empty") : QString::fromStdString(jollyrow::textOf(cell->value));
}

QString RulePreview::valueAt(int n) const {
    const auto rows = records();
    bool failed = false;
    return program_ && n < static_cast<int>(rows.size()) ? valueOf(rows[static_cast<std::size_t>(n)], &failed)
                                                         : QString();
}

void RulePreview::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter);
}

void RulePreview::paint(QPainter& painter) {
    const Tokens& t = look();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(t.hair, 1));
    painter.setBrush(t.paper);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    if (!program_ || !grid_.snapshot()) {
        painter.setPen(t.ink2);
        painter.drawText(rect(), Qt::AlignCenter, tr("Type a rule to see what it gives."));
        return;
    }
    if (!isCurrent_) painter.setOpacity(0.45);
    std::vector<FieldIndex> inputs = program_->fields;
    if (inputs.size() > kMostInputs) inputs.resize(kMostInputs);
    const int valueWidth = std::max(150, width() / (static_cast<int>(inputs.size()) + 1));
    const int inputsWidth = width() - 2 * kEdge - valueWidth;
    const int each = inputs.empty() ? 0 : inputsWidth / static_cast<int>(inputs.size());
    const auto cell = [&](int column, int line) {
        return QRect(kEdge + column * each, line == 0 ? 2 : kHead + (line - 1) * kLine, each - 12,
                     line == 0 ? kHead - 2 : kLine);
    };
    const auto value = [&](int line) {
        return QRect(width() - kEdge - valueWidth + 12, line == 0 ? 2 : kHead + (line - 1) * kLine, valueWidth - 12,
                     line == 0 ? kHead - 2 : kLine);
    };
    const auto draw = [&](const QRect& box, const QString& text) {
        painter.drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, box.width()));
    };
    painter.setFont(sized(11, QFont::Medium));
    painter.setPen(t.ink2);
    for (std::size_t i = 0; i < inputs.size(); ++i) draw(cell(static_cast<int>(i), 0), headingOf(inputs[i]));
    draw(value(0), tr("gives"));
    painter.fillRect(1, kHead - 1, width() - 2, 1, t.hair2);
    const auto rows = records();
    for (std::size_t n = 0; n < rows.size(); ++n) {
        const int line = static_cast<int>(n) + 1;
        painter.setFont(sized(12));
        painter.setPen(t.ink2);
        for (std::size_t i = 0; i < inputs.size(); ++i)
            draw(cell(static_cast<int>(i), line), textOf(rows[n], inputs[i]));
        bool failed = false;
        const QString text = valueOf(rows[n], &failed);
        painter.setFont(sized(12, QFont::DemiBold));
        painter.setPen(failed ? t.buoyText : t.ink);
        draw(value(line), text);
    }
}

}  // namespace jollyrow
