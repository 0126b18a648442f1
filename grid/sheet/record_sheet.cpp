// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_record_sheet.cpp.
#include "grid/sheet/record_sheet.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/cell_text.h"
#include "core/formats/text_format.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/paint/fonts.h"
#include "grid/paint/grouped.h"
#include "grid/paint/palette_of.h"
#include "grid/paint/side_panel.h"
#include "grid/paint/tokens.h"
#include "grid/sheet/field_box.h"

namespace jollyrow {
namespace {
constexpr int kSheetFoot = 54;
}
RecordSheet::RecordSheet(Grid& grid, QWidget* parent)
    : QWidget(parent),
      grid_(grid),
      title_(new QLabel(this)),
      subtitle_(new QLabel(this)),
      place_(new QLabel(this)),
      status_(new QLabel(this)),
      before_(new QToolButton(this)),
      after_(new QToolButton(this)),
      revert_(new QPushButton(tr("Revert"), this)),
      save_(new QPushButton(tr("Save"), this)),
      scroll_(new QScrollArea(this)) {
    setAccessibleName(tr("Record"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(1, 1, 1, 1);
    layout->setSpacing(0);
    layout->addWidget(headOf());
    scroll_->setWidgetResizable(true);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->viewport()->setAutoFillBackground(false);
    layout->addWidget(scroll_, 1);
    layout->addWidget(footOf());
    connect(&grid, &Grid::currentRecordChanged, this, &RecordSheet::refresh);
    connect(&grid, &Grid::snapshotChanged, this, &RecordSheet::refresh);
    connect(&grid, &Grid::columnsChanged, this, &RecordSheet::refresh);
    connect(before_, &QToolButton::clicked, this, [this] { step(-1); });
    connect(after_, &QToolButton::clicked, this, [this] { step(1); });
    connect(revert_, &QPushButton::clicked, this, [this] { grid_.records().revert(grid_.selection().current()); });
    connect(save_, &QPushButton::clicked, this, [this] {
        if (commit()) grid_.records().save(grid_.selection().current());
    });
    refresh();
}

RecordSheet::~RecordSheet() = default;

QWidget* RecordSheet::headOf() {
    auto* head = new QWidget(this);
    auto* row = new QHBoxLayout(head);
    row->setContentsMargins(16, 13, 10, 11);
    auto* words = new QVBoxLayout;
    words->setSpacing(1);
    title_->setFont(scaledFont(font(), 1.3));
    for (QLabel* label : {title_, subtitle_, place_, status_}) label->setTextFormat(Qt::PlainText);
    title_->setMinimumWidth(40);
    words->addWidget(title_);
    words->addWidget(subtitle_);
    row->addLayout(words, 1);
    before_->setArrowType(Qt::NoArrow);
    before_->setText(QStringLiteral("‹"));
    after_->setText(QStringLiteral("›"));
    before_->setToolTip(tr("The record before (Ctrl+Page Up)"));
    after_->setToolTip(tr("The next record (Ctrl+Page Down)"));
    before_->setAccessibleName(tr("The record before"));
    after_->setAccessibleName(tr("The next record"));
    for (QToolButton* button : {before_, after_}) {
        button->setAutoRaise(true);
        button->setCursor(Qt::PointingHandCursor);
        button->setFont(scaledFont(font(), 1.5, QFont::Normal));
        button->setFixedSize(26, 28);
    }
    row->addWidget(before_);
    row->addWidget(place_);
    row->addWidget(after_);
    return head;
}

QWidget* RecordSheet::footOf() {
    auto* foot = new QWidget(this);
    foot->setFixedHeight(kSheetFoot);
    auto* row = new QHBoxLayout(foot);
    row->setContentsMargins(16, 0, 14, 0);
    row->setSpacing(8);
    row->addWidget(status_, 1);
    row->addWidget(revert_);
    row->addWidget(save_);
    return foot;
}

/// The boxes anew, when the columns are others.
void RecordSheet::build() {
    const auto plan = grid_.session().sharedPlan();
    if (builtFor_ == plan) return;
    builtFor_ = plan;
    boxes_.clear();
    auto* form = new QWidget;
    form->setAutoFillBackground(false);
    auto* layout = new QGridLayout(form);
    layout->setContentsMargins(16, 8, 16, 12);
    layout->setHorizontalSpacing(10);
    layout->setVerticalSpacing(0);
    int row = 0, side = 0;
    std::string tier;
    for (std::size_t i = 0; i < plan->columns.size(); ++i) {
        std::string heading;
        for (const PlannedTier& one : plan->tiers)
            if (one.level == 0 && one.first <= static_cast<int>(i) && static_cast<int>(i) < one.end)
                heading = one.design.heading;
        if (heading != tier && !heading.empty()) {
            row += side;
            side = 0;
            layout->addWidget(new BracketLine(QString::fromStdString(heading), {}, grid_.look(), form), row++, 0, 1, 2);
        }
        tier = heading;
        auto* box = new FieldBox(grid_, static_cast<int>(i), form);
        connect(box, &FieldBox::left, this, [this, box](int by) { moveFocus(box, by); });
        boxes_.push_back(box);
        if (box->isWide()) {
            row += side;
            side = 0;
            layout->addWidget(box, row++, 0, 1, 2);
            continue;
        }
        layout->addWidget(box, row, side, Qt::AlignTop);
        side = 1 - side;
        row += side == 0 ? 1 : 0;
    }
    layout->setRowStretch(row + 1, 1);
    layout->setColumnStretch(0, 1);
    layout->setColumnStretch(1, 1);
    layout->setColumnMinimumWidth(0, 100);
    layout->setColumnMinimumWidth(1, 100);
    scroll_->setWidget(form);
    QPalette clear = form->palette();
    clear.setColor(QPalette::Window, grid_.look().paper);
    scroll_->setPalette(clear);
    form->setPalette(clear);
}

void RecordSheet::refresh() {
    if (const QPalette own = paletteOf(grid_.look(), grid_.palette()); palette() != own) setPalette(own);
    if (!grid_.snapshot()) return;
    build();
    const Record record = grid_.selection().current();
    const SourceRow row = record.isValid() ? record.row() : kNoRow;
    for (FieldBox* box : boxes_) box->show(row);
    const RecordEdit* edit = row == kNoRow ? nullptr : grid_.snapshot()->edits->record(row);
    showName(record, edit);
    const auto place = row == kNoRow ? std::nullopt : grid_.snapshot()->placeOf(row);
    const std::int64_t count = grid_.snapshot()->recordCount();
    place_->setText(place ? tr("%1 of %2").arg(grouped(*place + 1), grouped(count)) : QString());
    before_->setEnabled(place && *place > 0);
    after_->setEnabled(place && *place + 1 < count);
    showState(edit);
}

void RecordSheet::showName(const Record& record, const RecordEdit* edit) {
    const SourceRow row = record.isValid() ? record.row() : kNoRow;
    QString title, name;
    const auto& columns = grid_.session().plan().columns;
    for (const PlannedColumn& column : columns) {
        const Type type = grid_.session().schema().field(column.label.value_or(column.field)).type;
        if (type != Type::Text || row == kNoRow || !title.isEmpty()) continue;
        // What a face puts around it is no part of a name.
        CellText own;
        readField(*grid_.snapshot(), row, column, own);
        title = QString::fromStdString(own.text);
    }
    for (const Value& part : record.key()) {
        std::string text;
        appendPlain(text, part);
        name += (name.isEmpty() ? QString() : QStringLiteral(", ")) + QString::fromStdString(text);
    }
    const bool isNew = edit && edit->change() == RecordChange::Insert && edit->fate()->state != EditState::Saved;
    if (row == kNoRow)
        title = tr("No record");
    else if (title.isEmpty())
        title = isNew ? tr("New record") : name;
    title_->setText(title_->fontMetrics().elidedText(title, Qt::ElideRight, std::max(60, width() - 150)));
    title_->setToolTip(title);
    subtitle_->setText(isNew ? tr("new, not saved") : name.isEmpty() ? QString() : tr("Record %1").arg(name));
}

/// What is not saved of it, and what can be done about that.
void RecordSheet::showState(const RecordEdit* edit) {
    int changed = 0, wrong = 0;
    if (edit) {
        const std::size_t stored = grid_.session().schema().storedFields();
        for (const auto& [field, cell] : edit->cells()) {
            changed += isUnsaved(cell.state) && raw(field) < stored ? 1 : 0;
            wrong += cell.state == EditState::Refused || cell.state == EditState::Conflict ? 1 : 0;
        }
        for (const RecordProblem& problem : edit->problems()) wrong += problem.blocks() ? 1 : 0;
    }
    QStringList words;
    if (changed != 0) words << tr("%1 changed").arg(changed);
    if (wrong != 0) words << tr("%1 to put right").arg(wrong);
    status_->setText(words.join(QStringLiteral(", ")));
    const bool isSaving = edit && recordMarkOf(*edit) == CellMark::Saving;
    const bool isUnsavedNow = edit && recordMarkOf(*edit) > CellMark::Saved;
    if (isSaving) status_->setText(tr("saving…"));
    revert_->setEnabled(isUnsavedNow && !isSaving);
    save_->setEnabled(isUnsavedNow && !isSaving && wrong == 0);
    const Tokens& t = grid_.look();
    QPalette quiet = status_->palette();
    quiet.setColor(QPalette::WindowText, t.ink2);
    for (QLabel* label : {subtitle_, place_}) label->setPalette(quiet);
    quiet.setColor(QPalette::WindowText, wrong != 0 ? t.buoyText : t.ink2);
    status_->setPalette(quiet);
    revert_->setStyleSheet(panelButtonSheet(t, false));
    save_->setStyleSheet(panelButtonSheet(t, true));
}

QString RecordSheet::status() const { return status_->text(); }

QWidget* RecordSheet::fieldBox(const QString& field) const {
    for (FieldBox* box : boxes_)
        if (box->field() == field.toStdString()) return box;
    return nullptr;
}

bool RecordSheet::commit() {
    for (FieldBox* box : boxes_)
        if (!box->commit()) return false;
    return true;
}

void RecordSheet::focusFirst() {
    for (FieldBox* box : boxes_)
        if (box->focusPolicy() == Qt::StrongFocus) return box->setFocus();
}

/// What is wrong stays in the way, as in the grid.
void RecordSheet::step(int lines) {
    const auto current = grid_.selection().currentCell();
    if (!current || !commit()) return;
    const std::int64_t count = grid_.lineCount();
    for (std::int64_t line = current->line + lines; line >= 0 && line < count; line += lines)
        if (grid_.recordAt(line).isValid()) return grid_.selection().setCurrentCell(line, current->column);
}

void RecordSheet::moveFocus(FieldBox* from, int step) {
    const auto count = static_cast<int>(boxes_.size());
    int at = static_cast<int>(std::find(boxes_.begin(), boxes_.end(), from) - boxes_.begin());
    if (step == 0) return from->setFocus();
    for (at += step; at >= 0 && at < count; at += step)
        if (boxes_[static_cast<std::size_t>(at)]->focusPolicy() == Qt::StrongFocus) {
            boxes_[static_cast<std::size_t>(at)]->setFocus();
            scroll_->ensureWidgetVisible(boxes_[static_cast<std::size_t>(at)], 0, 20);
            return;
        }
    step > 0 ? save_->setFocus() : from->setFocus();
}

void RecordSheet::keyPressEvent(QKeyEvent* event) {
    const bool isControl = event->modifiers() & Qt::ControlModifier;
    if (isControl && event->key() == Qt::Key_PageDown) return step(1);
    if (isControl && event->key() == Qt::Key_PageUp) return step(-1);
    if (isControl && event->key() == Qt::Key_S) return void(save_->isEnabled() && (save_->click(), true));
    if (event->key() == Qt::Key_Escape) {
        if (revert_->isEnabled()) return revert_->click();
        return leaveWanted();
    }
    QWidget::keyPressEvent(event);
}

void RecordSheet::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paintSidePanel(painter, rect(), scroll_->y(), kSheetFoot, grid_.look());
}

}  // namespace jollyrow
