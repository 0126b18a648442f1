// SPDX-License-Identifier: MIT
#include "workbench/fittings/column_fittings.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFontDatabase>
#include <QPushButton>

#include "grid/headings/heading_landing.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/entry_fittings.h"
#include "workbench/fittings/face_fittings.h"
#include "workbench/fittings/format_fittings.h"
#include "workbench/fittings/read_as_fittings.h"

namespace jollyrow {
namespace {

constexpr Alignment kAlignments[] = {Alignment::Automatic, Alignment::Left, Alignment::Center, Alignment::Right};

/// What all have in common; nothing when they differ.
template <class Columns, class Get>
auto common(const Columns& columns, const Get& get) -> std::optional<std::decay_t<decltype(get(*columns.front()))>> {
    for (const ColumnDesign* column : columns)
        if (!(get(*column) == get(*columns.front()))) return std::nullopt;
    return get(*columns.front());
}

void fillCheck(QCheckBox* box, const std::optional<bool>& value) {
    box->setTristate(!value);
    box->setCheckState(!value ? Qt::PartiallyChecked : *value ? Qt::Checked : Qt::Unchecked);
}

}  // namespace

ColumnFittings::ColumnFittings(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(0);
    face_ = new FaceFittings(this);
    connect(face_, &FaceFittings::changed, this, &ColumnFittings::changed);
    connect(face_, &FaceFittings::composeWanted, this, &ColumnFittings::composeWanted);
    layout->addWidget(face_);
    layout->addWidget(sections_.heading = makeHeading());
    layout->addWidget(sections_.rule = makeRule());
    format_ = new FormatFittings(this);
    layout->addWidget(format_);
    layout->addWidget(makeWidth());
    layout->addWidget(makeAlignment());
    layout->addWidget(sections_.place = makePlace());
    layout->addWidget(sections_.order = makeOrder());
    layout->addWidget(makeForm());
    entry_ = new EntryFittings(this);
    connect(entry_, &EntryFittings::changed, this, &ColumnFittings::changed);
    layout->addWidget(entry_);
    readAs_ = new ReadAsFittings(this);
    connect(readAs_, &ReadAsFittings::changed, this, &ColumnFittings::changed);
    layout->addWidget(readAs_);
    sections_.facts = new Section(tr("In the database"), this);
    facts_ = new QLabel(sections_.facts);
    facts_->setWordWrap(true);
    facts_->setTextFormat(Qt::PlainText);
    sections_.facts->body()->addWidget(facts_);
    layout->addWidget(sections_.facts);
    layout->addStretch();
    connectChanges();
}

Section* ColumnFittings::makeRule() {
    auto* section = new Section(tr("Computed by a rule"), this);
    rule_ = new QLabel(section);
    rule_->setWordWrap(true);
    rule_->setTextFormat(Qt::PlainText);
    QFont mono = QFontDatabase::systemFont(QFontDatabase::FixedFont);
    mono.setPixelSize(sized(12).pixelSize());
    rule_->setFont(mono);
    auto* changeRule = new QPushButton(tr("Change the rule…"), section);
    connect(changeRule, &QPushButton::clicked, this, [this] { Q_EMIT ruleWanted(content_.fields.front()); });
    section->body()->addWidget(rule_);
    auto* row = section->row();
    row->addWidget(changeRule);
    row->addStretch();
    return section;
}

Section* ColumnFittings::makeAlignment() {
    auto* align = new Section(tr("Alignment"), this);
    alignment_ = new SegmentedSwitch({tr("By type"), tr("Left"), tr("Middle"), tr("Right")}, align);
    align->body()->addWidget(alignment_);
    wrap_ = new CheckBox(tr("Wrap text"), align);
    merge_ = new CheckBox(tr("Merge equal"), align);
    merge_->setToolTip(tr("Equal neighbours show their value once."));
    auto* checks = align->row();
    checks->addWidget(wrap_);
    checks->addSpacing(8);
    checks->addWidget(merge_);
    checks->addStretch();
    return align;
}

Section* ColumnFittings::makeOrder() {
    auto* section = new Section(tr("A click on the heading sorts by"), this);
    sortBy_ = new PickBox(section);
    sortBy_->setAccessibleName(tr("Sorts by"));
    section->body()->addWidget(sortBy_);
    connect(sortBy_, &QComboBox::activated, this, [this](int index) {
        const std::string rule = sortBy_->itemData(index).toString().toStdString();
        change(tr("Sort rule of %1"), [&](ColumnDesign& c) { c.sortBy = rule; });
    });
    return section;
}

void ColumnFittings::connectChanges() {
    connect(format_, &FormatFittings::chosen, this, [this](const FormatSpec& format) {
        change(
            tr("Format of %1"), [&](ColumnDesign& c) { c.format = format; }, Joining::WithLastOfSameName);
    });
    connect(alignment_, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Align %1"), [index](ColumnDesign& c) { c.alignment = kAlignments[index]; });
    });
    const auto check = [this](QCheckBox* box, const QString& on, const QString& off, bool ColumnDesign::*setting) {
        connect(box, &QCheckBox::clicked, this, [this, on, off, setting, box](bool) {
            const bool value = box->checkState() != Qt::Unchecked;
            change(value ? on : off, [value, setting](ColumnDesign& c) { c.*setting = value; });
        });
    };
    check(wrap_, tr("Wrap %1"), tr("Do not wrap %1"), &ColumnDesign::wrap);
    check(merge_, tr("Merge equal neighbours in %1"), tr("Do not merge in %1"), &ColumnDesign::merge);
    check(shown_, tr("Show %1"), tr("Hide %1"), &ColumnDesign::shown);
    check(readOnly_, tr("Lock %1"), tr("Unlock %1"), &ColumnDesign::readOnly);
    check(hiddenFromUsers_, tr("Keep %1 from users"), tr("Offer %1 to users"), &ColumnDesign::hiddenFromUsers);
}

Section* ColumnFittings::makeHeading() {
    auto* section = new Section(tr("Heading"), this);
    heading_ = smallEntry(tr("Heading"), 0, section);
    tier_ = new PickBox(section);
    tier_->setAccessibleName(tr("Under"));
    auto* row = section->row();
    row->addWidget(heading_, 1);
    row->addWidget(quietLabel(tr("under"), section));
    row->addWidget(tier_, 1);
    // One step a typed heading: the label names the field, so that all keystrokes join.
    connect(heading_, &QLineEdit::textEdited, this, [this](const QString& text) {
        change(
            tr("Rename %1"), [&](ColumnDesign& c) { c.heading = text.toStdString(); }, Joining::WithLastOfSameName);
    });
    connect(tier_, &QComboBox::activated, this, [this](int index) {
        if (filling_ || index < 0) return;
        const QString to = tier_->itemData(index).toString();
        std::vector<std::string> fields;
        for (const ColumnDesign* column : columns()) fields.push_back(column->field);
        Design next = content_.design;
        if (tier_->itemData(index, Qt::UserRole + 1).toBool()) {
            makeTier(next, fields, tr("New heading").toStdString());
            return Q_EMIT changed(next, tr("New heading over %1").arg(nameOfThem(Joining::OwnStep)), Joining::OwnStep);
        }
        moveColumns(next, fields, {to.toStdString(), {}});
        Q_EMIT changed(next,
                       to.isEmpty()
                           ? tr("Move %1 to the top").arg(nameOfThem(Joining::OwnStep))
                           : tr("Move %1 under %2")
                                 .arg(nameOfThem(Joining::OwnStep), headingOfTier(content_.design, to.toStdString())),
                       Joining::OwnStep);
    });
    return section;
}

Section* ColumnFittings::makeWidth() {
    auto* section = new Section(tr("Width"), this);
    width_.mode = new SegmentedSwitch({tr("Fixed"), tr("Fit"), tr("Share")}, section);
    section->body()->addWidget(width_.mode);
    auto* size = section->row();
    width_.pixels = pixelsBox(Width::kLeastPixels, Width::kMostPixels, section);
    width_.pixels->setAccessibleName(tr("Width in pixels"));
    width_.weight = new QDoubleSpinBox(section);
    width_.weight->setRange(0.01, 1000);
    width_.weight->setDecimals(2);
    width_.weight->setSingleStep(0.5);
    width_.weight->setFixedWidth(scaled(62));
    width_.weight->setKeyboardTracking(false);
    width_.weight->setAccessibleName(tr("Weight"));
    width_.note = quietLabel({}, section);
    size->addWidget(width_.pixels);
    size->addWidget(width_.weight);
    size->addWidget(width_.note, 1);
    auto* bounds = section->row();
    width_.minimum = pixelsBox(Width::kLeastPixels, Width::kMostPixels, section);
    width_.maximum = pixelsBox(0, Width::kMostPixels, section);
    width_.maximum->setSpecialValueText(tr("none"));
    width_.minimum->setAccessibleName(tr("Least width"));
    width_.maximum->setAccessibleName(tr("Most width"));
    bounds->addWidget(quietLabel(tr("from"), section));
    bounds->addWidget(width_.minimum);
    bounds->addWidget(quietLabel(tr("to"), section));
    bounds->addWidget(width_.maximum);
    bounds->addStretch();
    connect(width_.mode, &SegmentedSwitch::chosen, this, [this](int index) {
        change(tr("Width of %1"), [&](ColumnDesign& c) {
            if (static_cast<WidthMode>(index) == WidthMode::Fixed && content_.fields.size() == 1 &&
                content_.widthPx > 0)
                c.width.pixels = std::clamp(content_.widthPx, Width::kLeastPixels, Width::kMostPixels);
            c.width.mode = static_cast<WidthMode>(index);
        });
    });
    const auto number = [this](QSpinBox* box, int Width::*setting) {
        connect(box, &QSpinBox::valueChanged, this, [this, setting](int value) {
            change(
                tr("Width of %1"), [=](ColumnDesign& c) { c.width.*setting = value; }, Joining::WithLastOfSameName);
        });
    };
    number(width_.pixels, &Width::pixels);
    number(width_.minimum, &Width::minimum);
    number(width_.maximum, &Width::maximum);
    connect(width_.weight, &QDoubleSpinBox::valueChanged, this, [this](double value) {
        change(
            tr("Width of %1"), [value](ColumnDesign& c) { c.width.weight = value; }, Joining::WithLastOfSameName);
    });
    return section;
}

Section* ColumnFittings::makePlace() {
    auto* section = new Section(tr("Place in the record"), this);
    under_ = new PickBox(section);
    under_->setAccessibleName(tr("Beneath"));
    span_ = new QSpinBox(section);
    span_->setRange(1, 20);
    span_->setFixedWidth(scaled(44));
    span_->setAccessibleName(tr("Places wide"));
    auto* row = section->row();
    row->addWidget(quietLabel(tr("beneath"), section));
    row->addWidget(under_, 1);
    auto* wide = section->row();
    wide->addWidget(quietLabel(tr("as wide as"), section));
    wide->addWidget(span_);
    wide->addWidget(quietLabel(tr("columns"), section), 1);
    connect(under_, &QComboBox::activated, this, [this](int index) {
        const std::string anchor = under_->itemData(index).toString().toStdString();
        changeTree(anchor.empty()
                       ? tr("Place %1 on the first line")
                       : tr("Put %1 beneath %2").arg(QStringLiteral("%1"), headingOfField(content_.design, anchor)),
                   [&](Design& d, const std::string& field) { putUnder(d, field, anchor); });
    });
    connect(span_, &QSpinBox::valueChanged, this, [this](int value) {
        change(
            tr("Width of %1"), [value](ColumnDesign& c) { c.span = value; }, Joining::WithLastOfSameName);
    });
    return section;
}

Section* ColumnFittings::makeForm() {
    auto* section = new Section(tr("In the form"), this);
    shown_ = new CheckBox(tr("Shown"), section);
    readOnly_ = new CheckBox(tr("Read-only"), section);
    hiddenFromUsers_ = new CheckBox(tr("Kept from users"), section);
    hiddenFromUsers_->setToolTip(
        tr("Never shown, nor offered in their list of columns; messages and sort keys may use it."));
    auto* checks = section->row();
    checks->addWidget(shown_);
    checks->addSpacing(8);
    checks->addWidget(readOnly_);
    checks->addStretch();
    section->body()->addWidget(hiddenFromUsers_);
    auto* look = section->row();
    label_ = new PickBox(section);
    label_->setAccessibleName(tr("Field that stands for the other record"));
    labelWords_ = quietLabel(tr("look-up shows"), section);
    look->addWidget(labelWords_);
    look->addWidget(label_, 1);
    hint_ = smallEntry(tr("Hint in the empty entry"), 0, section);
    toolTip_ = smallEntry(tr("Tooltip of the heading"), 0, section);
    hint_->setPlaceholderText(tr("hint in the empty entry"));
    toolTip_->setPlaceholderText(tr("tooltip of the heading"));
    section->body()->addWidget(hint_);
    section->body()->addWidget(toolTip_);
    connect(label_, &QComboBox::activated, this, [this](int index) {
        const std::string field = label_->itemData(index).toString().toStdString();
        change(tr("Label of %1"), [&](ColumnDesign& c) { c.label = field; });
    });
    connect(hint_, &QLineEdit::textEdited, this, [this](const QString& text) {
        change(
            tr("Hint of %1"), [&](ColumnDesign& c) { c.hint = text.toStdString(); }, Joining::WithLastOfSameName);
    });
    connect(toolTip_, &QLineEdit::textEdited, this, [this](const QString& text) {
        change(
            tr("Tooltip of %1"), [&](ColumnDesign& c) { c.toolTip = text.toStdString(); }, Joining::WithLastOfSameName);
    });
    return section;
}

std::vector<const ColumnDesign*> ColumnFittings::columns() const {
    std::vector<const ColumnDesign*> all;
    for (const QString& field : content_.fields)
        if (const ColumnDesign* column = content_.design.column(field.toStdString())) all.push_back(column);
    return all;
}

/// "Due" or "3 columns"; by field while typing, so that the name of the step stays.
QString ColumnFittings::nameOfThem(Joining joining) const {
    if (content_.fields.size() > 1) return tr("%1 columns").arg(content_.fields.size());
    const QString& field = content_.fields.front();
    return joining == Joining::WithLastOfSameName ? field : headingOfField(content_.design, field.toStdString());
}

template <class Change>
void ColumnFittings::change(const QString& label, const Change& change, Joining joining) {
    if (filling_ || content_.fields.empty()) return;
    Design next = content_.design;
    for (const QString& field : content_.fields)
        if (ColumnDesign* column = next.column(field.toStdString())) change(*column);
    Q_EMIT changed(next, label.arg(nameOfThem(joining)), joining);
}

template <class Change>
void ColumnFittings::changeTree(const QString& label, const Change& change) {
    if (filling_) return;
    Design next = content_.design;
    for (const QString& field : content_.fields) change(next, field.toStdString());
    Q_EMIT changed(next, label.arg(nameOfThem(Joining::OwnStep)), Joining::OwnStep);
}

void ColumnFittings::setContent(const FittingsContent& content) {
    filling_ = true;
    content_ = content;
    const auto all = columns();
    if (all.empty()) {
        filling_ = false;
        return;
    }
    const auto heading = common(all, [](const ColumnDesign& c) { return c.heading; });
    fillEntry(heading_, heading ? QString::fromStdString(*heading) : QString());
    heading_->setPlaceholderText(heading ? QString() : tr("mixed"));
    face_->setContent(content_);
    format_->setContent(content_);
    readAs_->setContent(content_);
    entry_->setContent(content_);
    const auto alignment = common(all, [](const ColumnDesign& c) { return c.alignment; });
    alignment_->setCurrent(-1);
    for (int i = 0; i < 4; ++i)
        if (alignment == kAlignments[i]) alignment_->setCurrent(i);
    fillCheck(wrap_, common(all, [](const ColumnDesign& c) { return c.wrap; }));
    fillCheck(merge_, common(all, [](const ColumnDesign& c) { return c.merge; }));
    fillCheck(shown_, common(all, [](const ColumnDesign& c) { return c.shown; }));
    fillCheck(readOnly_, common(all, [](const ColumnDesign& c) { return c.readOnly; }));
    fillCheck(hiddenFromUsers_, common(all, [](const ColumnDesign& c) { return c.hiddenFromUsers; }));
    const auto mode = common(all, [](const ColumnDesign& c) { return c.width.mode; });
    width_.mode->setCurrent(mode ? static_cast<int>(*mode) : -1);
    const bool fixed = mode == WidthMode::Fixed, share = mode == WidthMode::Share;
    const Width& width = all.front()->width;
    width_.pixels->setVisible(fixed);
    width_.weight->setVisible(share);
    width_.pixels->setValue(width.pixels);
    width_.weight->setValue(width.weight);
    const QString now =
        content_.fields.size() == 1 && content_.widthPx > 0 ? tr(", %1 px now").arg(content_.widthPx) : QString();
    width_.note->setText(!mode   ? tr("mixed")
                         : fixed ? QString()
                         : share ? tr("parts of what is left")
                                 : tr("heading and content") + now);
    width_.minimum->setValue(width.minimum);
    width_.maximum->setValue(width.maximum);
    width_.minimum->setEnabled(!fixed);
    width_.maximum->setEnabled(!fixed);
    const auto hint = common(all, [](const ColumnDesign&c) { return c.hint; }),
               tip = common(all, [](const ColumnDesign&c) { return c.toolTip; });
    fillEntry(hint_, QString::fromStdString(hint.value_or("")));
    fillEntry(toolTip_, QString::fromStdString(tip.value_or("")));
    fillPicks();
    fillFacts();
    filling_ = false;
}

void ColumnFittings::fillPicks() {
    const auto all = columns();
    const Design& design = content_.design;
    tier_->clear();
    tier_->addItem(tr("nothing"), QString());
    for (const TierDesign& tier : design.tiers)
        tier_->addItem(QString::fromStdString(tier.heading), QString::fromStdString(tier.name));
    tier_->addItem(tr("a new heading"));
    tier_->setItemData(tier_->count() - 1, true, Qt::UserRole + 1);
    const auto tier = common(all, [](const ColumnDesign& c) { return c.tier; });
    tier_->setPlaceholderText(tr("mixed"));
    tier_->setCurrentIndex(tier ? std::max(0, tier_->findData(QString::fromStdString(*tier))) : -1);

    under_->clear();
    under_->addItem(tr("nothing"), QString());
    for (const ColumnDesign& column : design.columns) {
        const bool isSelected =
            std::find(all.begin(), all.end(), design.column(column.field)) != all.end() ||
            std::any_of(all.begin(), all.end(), [&](const ColumnDesign* c) { return c->field == column.field; });
        if (column.under.empty() && column.shown && !isSelected)
            under_->addItem(QString::fromStdString(column.heading), QString::fromStdString(column.field));
    }
    const auto under = common(all, [](const ColumnDesign& c) { return c.under; });
    under_->setPlaceholderText(tr("mixed"));
    under_->setCurrentIndex(under ? std::max(0, under_->findData(QString::fromStdString(*under))) : -1);
    span_->setValue(all.front()->span);
    span_->setEnabled(under && !under->empty());

    sections_.order->setVisible(!design.sortRules.empty());
    sortBy_->clear();
    sortBy_->addItem(tr("its own values"), QString());
    for (const SortRuleDesign& rule : design.sortRules)
        sortBy_->addItem(tr("the rule %1").arg(QString::fromStdString(rule.name)), QString::fromStdString(rule.name));
    const auto sortBy = common(all, [](const ColumnDesign& c) { return c.sortBy; });
    sortBy_->setPlaceholderText(tr("mixed"));
    sortBy_->setCurrentIndex(sortBy ? std::max(0, sortBy_->findData(QString::fromStdString(*sortBy))) : -1);

    const auto link = content_.fields.size() == 1 ? foreignKeyOf(content_.schema, all.front()->field) : std::nullopt;
    label_->setVisible(link.has_value());
    labelWords_->setVisible(link.has_value());
    if (!link) return;
    const ForeignKey& key = content_.schema.foreignKeys[*link];
    label_->clear();
    label_->addItem(key.label.empty() ? tr("its key") : QString::fromStdString(key.label), QString());
    for (const std::string& field : key.targetChoices)
        if (field != key.label) label_->addItem(QString::fromStdString(field), QString::fromStdString(field));
    label_->setCurrentIndex(std::max(0, label_->findData(QString::fromStdString(all.front()->label))));
}

void ColumnFittings::fillFacts() {
    const auto all = columns();
    const bool isComputed = all.size() == 1 && !all.front()->rule.empty();
    sections_.rule->setVisible(isComputed);
    if (isComputed) rule_->setText(QString::fromStdString(all.front()->rule));
    readOnly_->setVisible(!isComputed);
    hint_->setVisible(!isComputed);
    sections_.facts->setVisible(content_.fields.size() == 1 && !isComputed);
    if (isComputed) return;
    if (content_.fields.size() != 1) return;
    const auto index = content_.schema.find(content_.fields.front().toStdString());
    if (!index)
        return facts_->setText(
            tr("The table has no such column. Rename it in the database or take it out of the design."));
    const FieldSchema& f = content_.schema.field(*index);
    QStringList facts;
    facts << (f.declaredType.empty() ? tr("no declared type") : QString::fromStdString(f.declaredType));
    if (f.stored.form != StoredForm::Own) facts << tr("read as %1").arg(QString::fromStdString(toText(f.stored)));
    if (f.primaryKeyRank > 0) facts << tr("primary key");
    if (f.required) facts << tr("required");
    if (f.unique && f.primaryKeyRank == 0) facts << tr("unique");
    if (f.defaultSql) facts << tr("default %1").arg(QString::fromStdString(*f.defaultSql));
    if (f.join > 0)
        facts << tr("of %1, reached by %2")
                     .arg(QString::fromStdString(content_.schema.joins[static_cast<std::size_t>(f.join) - 1].table),
                          QString::fromStdString(content_.schema.joins[static_cast<std::size_t>(f.join) - 1].path));
    if (const auto link = foreignKeyOf(content_.schema, f.name))
        facts << tr("points to %1").arg(QString::fromStdString(content_.schema.foreignKeys[*link].table));
    QString text = facts.join(QStringLiteral(", "));
    if (!f.permitted.empty()) {
        QStringList values;
        for (const std::string& value : f.permitted) values << QString::fromStdString(value);
        text += tr("\none of ") + values.join(QStringLiteral(", "));
    }
    facts_->setText(text);
}

}  // namespace jollyrow
