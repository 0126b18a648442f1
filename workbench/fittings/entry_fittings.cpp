// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_checks_workbench.cpp.
#include "workbench/fittings/entry_fittings.h"

#include <QComboBox>
#include <QFontDatabase>

#include "core/design/plan.h"
#include "core/formats/entry_pattern.h"
#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {
namespace {

/// Records that are looked at for the count: the first ones, about a frame.
constexpr std::size_t kMostCounted = 5'000;

struct KindWords {
    EntryKind kind;
    const char* words;
    bool (*isFor)(const FieldSchema& field);
};
constexpr KindWords kEntryKindWords[] = {
    {EntryKind::Automatic, QT_TRANSLATE_NOOP("jollyrow::EntryFittings", "what its type asks for"),
     [](const FieldSchema&) { return true; }},
    {EntryKind::Line, QT_TRANSLATE_NOOP("jollyrow::EntryFittings", "one line"),
     [](const FieldSchema&) { return true; }},
    {EntryKind::Lines, QT_TRANSLATE_NOOP("jollyrow::EntryFittings", "several lines"),
     [](const FieldSchema& field) { return field.type == Type::Text && field.permitted.empty(); }},
    {EntryKind::Rating, QT_TRANSLATE_NOOP("jollyrow::EntryFittings", "marks to click on"),
     [](const FieldSchema& field) { return field.type == Type::Integer; }},
    {EntryKind::Colour, QT_TRANSLATE_NOOP("jollyrow::EntryFittings", "a card of colours"),
     [](const FieldSchema& field) { return field.type == Type::Text && field.permitted.empty(); }},
};

}  // namespace

EntryFittings::EntryFittings(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* section = new Section(tr("Entered with"), this);
    layout->addWidget(section);
    kinds_ = new PickBox(section);
    kinds_->setAccessibleName(tr("Entered with"));
    most_ = pixelsBox(1, EntryDesign::kMostMarks, section);
    most_->setAccessibleName(tr("Marks"));
    mostWords_ = quietLabel(tr("of them"), section);
    auto* row = section->row();
    row->addWidget(kinds_, 1);
    row->addWidget(most_);
    row->addWidget(mostWords_);
    pattern_ = smallEntry(tr("Pattern that a text must match"), 0, section);
    QFont mono = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    mono.setPixelSize(sized(12).pixelSize());
    pattern_->setFont(mono);
    pattern_->setPlaceholderText(tr("pattern, e.g. [A-Z]{2}-\\d{4}"));
    pattern_->setToolTip(
        tr("A regular expression that the whole text must match.\n"
           "What can no longer match is not taken; what alone can follow is filled in."));
    section->body()->addWidget(pattern_);
    adds_ = new CheckBox(tr("What is not found may be added"), section);
    adds_->setToolTip(tr("A text that names no record of the other table can be made one, from the list"));
    section->body()->addWidget(adds_);
    connect(adds_, &QCheckBox::clicked, this, [this](bool on) {
        if (!column()) return;
        EntryDesign entry = column()->entry;
        entry.adds = on;
        send(on ? tr("Let %1 add records") : tr("Keep %1 from adding records"), entry);
    });
    problem_ = problemLabel(section);
    section->body()->addWidget(problem_);
    matches_ = quietLabel({}, section);
    matches_->setWordWrap(true);
    section->body()->addWidget(matches_);
    connect(kinds_, &QComboBox::activated, this, [this](int index) {
        if (!column()) return;
        EntryDesign entry = column()->entry;
        entry.kind = static_cast<EntryKind>(kinds_->itemData(index).toInt());
        send(tr("Editor of %1"), entry);
    });
    connect(most_, &QSpinBox::valueChanged, this, [this](int value) {
        if (filling_ || !column()) return;
        EntryDesign entry = column()->entry;
        entry.most = value;
        send(tr("Marks of %1"), entry, Joining::WithLastOfSameName);
    });
    connect(pattern_, &QLineEdit::editingFinished, this, [this] {
        if (filling_ || !column() || column()->entry.pattern == pattern_->text().toStdString()) return;
        const auto made = EntryPattern::make(pattern_->text().toStdString());
        problem_->setText(made ? QString() : QString::fromStdString(made.error().message));
        problem_->setVisible(!made);
        if (!made) return;
        EntryDesign entry = column()->entry;
        entry.pattern = pattern_->text().toStdString();
        send(tr("Pattern of %1"), entry);
    });
}

const ColumnDesign* EntryFittings::column() const {
    return content_.fields.size() == 1 ? content_.design.column(content_.fields.front().toStdString()) : nullptr;
}

void EntryFittings::send(const QString& label, const EntryDesign& entry, Joining joining) {
    Design next = content_.design;
    ColumnDesign* edited = next.column(content_.fields.front().toStdString());
    if (!edited || edited->entry == entry) return;
    edited->entry = entry;
    Q_EMIT changed(next, label.arg(headingOfField(next, edited->field)), joining);
}

void EntryFittings::setContent(const FittingsContent& content) {
    content_ = content;
    const ColumnDesign* design = column();
    const auto index = design && design->rule.empty() ? content.schema.find(design->field) : std::nullopt;
    const FieldSchema* field = index ? &content.schema.field(*index) : nullptr;
    setVisible(field && content.schema.writable && !design->readOnly && !field->generated && field->join == 0 &&
               field->type != Type::Binary && field->type != Type::Boolean);
    if (!isVisibleTo(parentWidget())) return;
    filling_ = true;
    kinds_->clear();
    for (const KindWords& kind : kEntryKindWords)
        if (kind.isFor(*field) || kind.kind == design->entry.kind)
            kinds_->addItem(tr(kind.words), static_cast<int>(kind.kind));
    kinds_->setCurrentIndex(std::max(0, kinds_->findData(static_cast<int>(design->entry.kind))));
    const bool isRating = design->entry.kind == EntryKind::Rating;
    most_->setVisible(isRating);
    mostWords_->setVisible(isRating);
    most_->setValue(design->entry.most);
    const bool isLink = foreignKeyOf(content.schema, design->field).has_value();
    adds_->setVisible(isLink);
    adds_->setChecked(design->entry.adds);
    pattern_->setVisible(field->type == Type::Text && !isLink);
    if (field_ != content.fields.front() || !pattern_->hasFocus())
        fillEntry(pattern_, QString::fromStdString(design->entry.pattern));
    if (field_ != content.fields.front()) problem_->hide();
    field_ = content.fields.front();
    filling_ = false;
    showMatches(*field);
}

void EntryFittings::showMatches(const FieldSchema& field) {
    const ColumnDesign* design = column();
    const auto index = content_.schema.find(design->field);
    const auto& snapshot = content_.snapshot;
    const auto pattern = EntryPattern::make(design->entry.pattern);
    const bool isMeant = field.type == Type::Text && !design->entry.pattern.empty() && pattern && snapshot && index &&
                         raw(*index) < snapshot->table->columns.size() && snapshot->table->column(*index);
    matches_->setVisible(isMeant);
    if (!isMeant) return;
    const std::size_t rows = std::min(snapshot->table->loaded(), kMostCounted);
    std::size_t other = 0, untold = 0;
    QString one;
    for (std::size_t i = 0; i < rows; ++i) {
        const Value value = snapshot->value(static_cast<SourceRow>(i), *index);
        const auto* text = std::get_if<std::string>(&value);
        if (!text || text->empty()) continue;
        const auto fit = (*pattern)->fit(*text);
        untold += fit == EntryPattern::Fit::Unknown ? 1 : 0;
        if (fit == EntryPattern::Fit::Whole || fit == EntryPattern::Fit::Unknown) continue;
        if (other++ == 0) one = QString::fromStdString(*text);
    }
    const QString of = rows < snapshot->table->loaded() ? tr("of the first %L1").arg(rows) : tr("of %L1").arg(rows);
    if (untold != 0)
        return matches_->setText(
            tr("Of %L1 texts this takes too long to tell: they will be refused. A simpler pattern is needed.")
                .arg(untold));
    matches_->setText(other == 0
                          ? tr("All texts %1 records match.").arg(of)
                          : tr("%L1 %2 records do not match, e.g. %3. They stay until they are edited.")
                                .arg(other)
                                .arg(of, matches_->fontMetrics().elidedText(one.simplified(), Qt::ElideRight, 120)));
}

}  // namespace jollyrow
