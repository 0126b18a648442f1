// SPDX-License-Identifier: MIT
#include "workbench/fittings/read_as_fittings.h"
#include "core/base/source_address.h"

#include <QComboBox>
#include <QFontDatabase>

#include "workbench/app/look.h"
#include "workbench/controls/controls.h"

namespace jollyrow {
namespace {

constexpr StoredForm kForms[] = {StoredForm::Own,          StoredForm::Pattern, StoredForm::Seconds,
                                 StoredForm::Milliseconds, StoredForm::Number,  StoredForm::Words};

/// A row of entries that can be hidden together.
QWidget* entryRow(Section* section, std::initializer_list<QWidget*> parts) {
    auto* row = new QWidget(section);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    for (QWidget* part : parts) layout->addWidget(part);
    section->body()->addWidget(row);
    return row;
}

}  // namespace

ReadAsFittings::ReadAsFittings(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    auto* section = new Section(tr("Read as"), this);
    layout->addWidget(section);
    forms_ = new PickBox(section);
    forms_->setAccessibleName(tr("Read as"));
    forms_->addItems({tr("what the table declares"), tr("date or time by a pattern"), tr("seconds since 1970"),
                      tr("milliseconds since 1970"), tr("exact number in texts"), tr("yes or no by two words")});
    section->body()->addWidget(forms_);
    pattern_ = smallEntry(tr("Pattern of the stored texts"), 0, section);
    QFont mono = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    mono.setPixelSize(sized(12).pixelSize());
    pattern_->setFont(mono);
    pattern_->setPlaceholderText(QStringLiteral("dd.MM.yyyy"));
    pattern_->setToolTip(tr("Letters of UTS #35: y M d, H m s S, h with a, X for the offset.\nReturn takes it over."));
    sign_ = new PickBox(section);
    sign_->setAccessibleName(tr("Decimal sign"));
    sign_->addItem(tr("1,234.50 with a point"), QStringLiteral("."));
    sign_->addItem(tr("1.234,50 with a comma"), QStringLiteral(","));
    patternRow_ = entryRow(section, {pattern_, sign_});
    yes_ = smallEntry(tr("Word for yes"), 70, section);
    no_ = smallEntry(tr("Word for no"), 70, section);
    wordsRow_ = entryRow(section, {quietLabel(tr("yes is"), section), yes_, quietLabel(tr("no is"), section), no_});
    problem_ = problemLabel(section);
    section->body()->addWidget(problem_);
    fit_ = quietLabel({}, section);
    fit_->setWordWrap(true);
    section->body()->addWidget(fit_);
    connect(forms_, &QComboBox::activated, this, &ReadAsFittings::chooseForm);
    connect(sign_, &QComboBox::activated, this, [this](int index) {
        how_.pattern = sign_->itemData(index).toString().toStdString();
        send();
    });
    for (QLineEdit* entry : {pattern_, yes_, no_})
        connect(entry, &QLineEdit::editingFinished, this, [this] {
            if (filling_) return;
            if (how_.form == StoredForm::Pattern) how_.pattern = pattern_->text().toStdString();
            how_.yes = yes_->text().toStdString();
            how_.no = no_->text().toStdString();
            send();
        });
}

void ReadAsFittings::setContent(const FittingsContent& content) {
    const ColumnDesign* column =
        content.fields.size() == 1 ? content.design.column(content.fields.front().toStdString()) : nullptr;
    const auto index = column && column->rule.empty() ? content.schema.find(column->field) : std::nullopt;
    // A server's types say what its values are.
    setVisible(index && content.schema.field(*index).type != Type::Binary &&
               !isServerAddress(content.design.source.path));
    if (!isVisibleTo(parentWidget())) return;
    const FieldSchema& field = content.schema.field(*index);
    const bool same = field_ == content.fields.front() && content_.design.source == content.design.source;
    content_ = content;
    field_ = content.fields.front();
    showFit(field);
    if (same) return;  // what is being chosen or typed stays
    const auto said = content.design.source.readAs.find(column->field);
    // A count that the declaration and the values gave away is shown as what it is.
    how_ = said != content.design.source.readAs.end() ? said->second : field.stored;
    filling_ = true;
    for (int i = 0; i < 6; ++i)
        if (kForms[i] == how_.form) forms_->setCurrentIndex(i);
    pattern_->setText(how_.form == StoredForm::Pattern ? QString::fromStdString(how_.pattern) : QString());
    sign_->setCurrentIndex(how_.pattern == "," ? 1 : 0);
    yes_->setText(QString::fromStdString(how_.yes));
    no_->setText(QString::fromStdString(how_.no));
    filling_ = false;
    problem_->hide();
    showParts();
}

void ReadAsFittings::showParts() {
    pattern_->setVisible(how_.form == StoredForm::Pattern);
    sign_->setVisible(how_.form == StoredForm::Number);
    patternRow_->setVisible(how_.form == StoredForm::Pattern || how_.form == StoredForm::Number);
    wordsRow_->setVisible(how_.form == StoredForm::Words);
}

void ReadAsFittings::chooseForm(int index) {
    if (index < 0 || kForms[index] == how_.form) return;
    how_ = {};
    how_.form = kForms[index];
    if (how_.form == StoredForm::Number) how_.pattern = sign_->currentData().toString().toStdString();
    if (how_.form == StoredForm::Pattern) how_.pattern = pattern_->text().toStdString();
    how_.yes = yes_->text().toStdString();
    how_.no = no_->text().toStdString();
    showParts();
    problem_->hide();
    // Forms that still need words wait for them.
    if (how_.form == StoredForm::Pattern && how_.pattern.empty()) return pattern_->setFocus();
    if (how_.form == StoredForm::Words && how_.yes.empty()) return yes_->setFocus();
    send();
}

void ReadAsFittings::send() {
    if (how_.form != StoredForm::Words) how_.yes = how_.no = {};
    if (how_.form == StoredForm::Words && (how_.yes.empty() || how_.no.empty())) return;  // half typed
    Design next = content_.design;
    const std::string name = field_.toStdString();
    FieldSchema read;
    if (const auto index = content_.schema.find(name)) read = content_.schema.field(*index);
    const auto checked = readFieldAs(read, how_);
    problem_->setVisible(!checked.ok());
    if (!checked) return problem_->setText(QString::fromStdString(checked.error().message));
    if (how_.form == StoredForm::Own)
        next.source.readAs.erase(name);
    else
        next.source.readAs[name] = how_;
    if (next.source == content_.design.source) return;
    for (ColumnDesign& column : next.columns) {
        if (column.field != name) continue;
        // What the column holds now; a format for another type has lost its sense.
        column.type = how_.form == StoredForm::Own ? std::nullopt : std::optional(read.type);
        column.format.style = FormatStyle::Automatic;
        column.format.pattern.clear();
    }
    Q_EMIT changed(next, tr("Read %1 otherwise").arg(field_), Joining::OwnStep);
}

void ReadAsFittings::showFit(const FieldSchema& field) {
    const auto& table = content_.snapshot ? content_.snapshot->table : nullptr;
    const auto index = content_.schema.find(field.name);
    const Column* column = table && index && raw(*index) < table->columns.size() ? table->column(*index) : nullptr;
    QString words;
    if (column && column->misfitCount() > 0) {
        const Misfit& first = column->misfits().front();
        words = tr("%1 of %2 do not fit, the first: %3")
                    .arg(grouped(static_cast<qint64>(column->misfitCount())), grouped(static_cast<qint64>(table->rows)),
                         QString::fromStdString(first.text).left(40));
    } else if (field.stored.form != StoredForm::Own && column) {
        words = tr("All values fit.");
    } else if (field.type == Type::Instant) {
        words = tr("Points of time, shown on the grid's clocks.");
    }
    fit_->setText(words);
    fit_->setVisible(!words.isEmpty());
}

}  // namespace jollyrow
