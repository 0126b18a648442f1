// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_record_control.cpp.
#include "grid/records/conflict_card.h"

#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

namespace jollyrow {
namespace {

constexpr int kSideWidth = 132;

/// What the record says of who was the last, where the design has a column for it. That need not be who has changed it
/// meanwhile: somebody may write without a name.
QString whoWasLast(const GridContext& context, SourceRow row) {
    const auto who = context.schema().find(context.design().grid.changedBy);
    const Value name = who ? context.snapshot().value(row, *who) : Value(Empty{});
    const auto* text = std::get_if<std::string>(&name);
    return text && !text->empty() ? ConflictCard::tr("%1 saved it last").arg(QString::fromStdString(*text).left(60))
                                  : QString();
}

}  // namespace

ConflictCard::ConflictCard(GridContext& context, SourceRow row, QWidget* parent)
    : FloatingCard(tr("Somebody has changed this record meanwhile"), context.look(), parent), context_(context) {
    setObjectName(QStringLiteral("conflictCard"));
    if (const QString who = whoWasLast(context, row); !who.isEmpty()) body().addWidget(quietLabel(who));
    auto* table = new QGridLayout;
    table->setHorizontalSpacing(10);
    table->setVerticalSpacing(5);
    int line = 0;
    table->addWidget(quietLabel(tr("before")), line, 1);
    table->addWidget(quietLabel(tr("yours")), line, 2);
    table->addWidget(quietLabel(tr("theirs")), line, 3);
    if (const RecordEdit* record = context.snapshot().edits->record(row))
        for (const auto& [field, edit] : record->cells())
            if (edit.state == EditState::Conflict && edit.theirs) addField(*table, ++line, field, edit);
    table->setColumnStretch(0, 1);
    body().addLayout(table);
    QPushButton* mine = addButton(tr("Mine for all"), Weight::Plain);
    QPushButton* theirs = addButton(tr("Theirs for all"), Weight::Plain);
    addStretch();
    save_ = addButton({}, Weight::Main);
    save_->setObjectName(QStringLiteral("decide"));
    connect(mine, &QPushButton::clicked, this, [this] { chooseAll(SessionRecords::Keep::Mine); });
    connect(theirs, &QPushButton::clicked, this, [this] { chooseAll(SessionRecords::Keep::Theirs); });
    connect(save_, &QPushButton::clicked, this, &ConflictCard::decided);
    refresh();
}

QToolButton* ConflictCard::sideButton(const QString& words) {
    auto* button = new QToolButton(this);
    button->setText(words.isEmpty() ? tr("empty") : words);
    button->setCheckable(true);
    button->setCursor(Qt::PointingHandCursor);
    button->setFixedWidth(kSideWidth);
    button->setToolTip(words);
    const Tokens& t = look();
    button->setStyleSheet(
        QStringLiteral("QToolButton{border:1px solid %1;border-radius:4px;background:%2;color:%3;padding:4px "
                       "8px;text-align:left}QToolButton:checked{border-color:%4;background:%5;font-weight:500}"
                       "QToolButton:focus{border:2px solid %6;padding:3px 7px}")
            .arg(t.hair.name(), t.paper.name(), t.ink.name(), t.tealPaleEdge.name(), t.tealPale.name(), t.teal.name()));
    return button;
}

void ConflictCard::addField(QGridLayout& table, int row, FieldIndex field, const CellEdit& edit) {
    const std::string& name = context_.schema().field(field).name;
    const auto column = context_.columnOf(QString::fromStdString(name));
    const auto shown = [&](const Value& value) {
        std::string text;
        column ? context_.planned(*column).formatter->append(text, value) : appendDisplay(text, value, {});
        return QString::fromStdString(text);
    };
    const ColumnDesign* designed = context_.design().column(name);
    const QString heading = QString::fromStdString(designed && !designed->heading.empty() ? designed->heading : name);
    auto* label = new QLabel(heading, this);
    QFont medium = font();
    medium.setWeight(QFont::Medium);
    label->setFont(medium);
    table.addWidget(label, row, 0);
    table.addWidget(quietLabel(shown(edit.original)), row, 1);
    const QString mine = edit.label.empty() ? shown(edit.value) : QString::fromStdString(edit.label);
    Field one{field, sideButton(mine), sideButton(shown(*edit.theirs))};
    one.mine->setAccessibleName(tr("%1, yours: %2").arg(heading, one.mine->text()));
    one.theirs->setAccessibleName(tr("%1, theirs: %2").arg(heading, one.theirs->text()));
    connect(one.mine, &QToolButton::clicked, this, [this, field] { choose(field, SessionRecords::Keep::Mine); });
    connect(one.theirs, &QToolButton::clicked, this, [this, field] { choose(field, SessionRecords::Keep::Theirs); });
    table.addWidget(one.mine, row, 2);
    table.addWidget(one.theirs, row, 3);
    fields_.push_back(one);
    choices_[field] = SessionRecords::Keep::Mine;
}

void ConflictCard::choose(FieldIndex field, SessionRecords::Keep keep) {
    choices_[field] = keep;
    refresh();
}

void ConflictCard::chooseAll(SessionRecords::Keep keep) {
    for (auto& [field, chosen] : choices_) chosen = keep;
    refresh();
}

void ConflictCard::refresh() {
    int mine = 0;
    for (const Field& field : fields_) {
        const bool isMine = choices_.at(field.index) == SessionRecords::Keep::Mine;
        field.mine->setChecked(isMine);
        field.theirs->setChecked(!isMine);
        mine += isMine ? 1 : 0;
    }
    save_->setText(mine == 0 ? tr("Take theirs") : mine == 1 ? tr("Save 1 field") : tr("Save %1 fields").arg(mine));
}

}  // namespace jollyrow
