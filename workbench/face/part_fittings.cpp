// SPDX-License-Identifier: MIT
#include "workbench/face/part_fittings.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/plan.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/faces/parts/mark_part.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/ink_box.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/controls/shape_box.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

constexpr int kWords = 62;  // pixels of the words before a setting

bool hasText(FacePartKind kind) {
    return kind == FacePartKind::Text || kind == FacePartKind::Field || kind == FacePartKind::Link ||
           kind == FacePartKind::Button || kind == FacePartKind::Bar;
}

bool hasField(FacePartKind kind) {
    return kind == FacePartKind::Field || kind == FacePartKind::Bar || kind == FacePartKind::Trend ||
           kind == FacePartKind::Rating || kind == FacePartKind::Swatch || kind == FacePartKind::Mark ||
           kind == FacePartKind::Picture;
}

bool hasSays(FacePartKind kind) {
    return kind == FacePartKind::Text || kind == FacePartKind::Link || kind == FacePartKind::Button;
}

/// Do two parts have the same controls, whatever stands in them?
bool hasSameControls(const FacePart& a, const FacePart& b) {
    return a.kind == b.kind && a.rules.size() == b.rules.size() && a.width.mode == b.width.mode &&
           a.bar.ends == b.bar.ends && a.bar.fields == b.bar.fields && a.format.style == b.format.style &&
           a.trend.band == b.trend.band;
}

}  // namespace

PartFittings::PartFittings(Grid& grid, std::string ownField, QWidget* parent)
    : QWidget(parent), grid_(grid), ownField_(std::move(ownField)) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
}

void PartFittings::setPart(const Design& design, const FacePath& path, const FacePart& part, bool isShown) {
    const bool same = content_ && path == path_ && hasSameControls(part, built_);
    design_ = design;
    path_ = path;
    const bool equal = part == part_ && isShown == isShown_;
    part_ = part;
    isShown_ = isShown;
    if (same && (isTyping_ || equal)) return;
    build();
}

void PartFittings::take(Change change, const QString& label, bool joins) {
    change(part_);
    isTyping_ = joins;
    Q_EMIT changed(change, label, joins);
    isTyping_ = false;
}

void PartFittings::build() {
    built_ = part_;
    QWidget* focused = content_ && content_->isAncestorOf(focusWidget()) ? focusWidget() : nullptr;
    const QString focusName = focused ? focused->accessibleName() : QString();
    QWidget* old = std::exchange(content_, new QWidget(this));
    auto* column = new QVBoxLayout(content_);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(7);
    addHead(*column);
    if (hasSays(part_.kind)) addSays(*column);
    if (hasField(part_.kind)) addField(*column);
    if (part_.kind == FacePartKind::Bar) addBar(*column);
    if (part_.kind == FacePartKind::Trend) addTrend(*column);
    if (part_.kind == FacePartKind::Rating) addRating(*column);
    if (part_.kind == FacePartKind::Picture) addPicture(*column);
    if (part_.kind == FacePartKind::Link || part_.kind == FacePartKind::Button) addName(*column);
    if (part_.kind == FacePartKind::Link) addOpens(*column);
    if (part_.kind == FacePartKind::Field || part_.kind == FacePartKind::Bar) addFormat(*column);
    if (hasText(part_.kind)) addText(*column);
    addWidth(*column);
    if (part_.kind == FacePartKind::Mark) addRules(*column);
    addCondition(*column);
    if (part_.kind != FacePartKind::Mark && hasField(part_.kind)) addRules(*column);
    if (!holdsParts(part_.kind) && part_.kind != FacePartKind::Spacer) addToolTip(*column);
    column->addStretch();
    if (old) old->hide(), old->deleteLater();
    layout()->addWidget(content_);
    content_->show();
    if (focusName.isEmpty()) return;
    for (QWidget* control : content_->findChildren<QWidget*>())
        if (control->accessibleName() == focusName && control->focusPolicy() != Qt::NoFocus) control->setFocus();
}

QHBoxLayout* PartFittings::line(QVBoxLayout& to, const QString& words) {
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* label = quietLabel(words, content_);
    label->setFixedWidth(scaled(kWords));
    row->addWidget(label);
    to.addLayout(row);
    return row;
}

void PartFittings::addHead(QVBoxLayout& to) {
    auto* row = new QHBoxLayout;
    auto* title = new QLabel(QString::fromStdString(partWords(part_, design_, ownField_)), content_);
    title->setTextFormat(Qt::PlainText);
    title->setFont(sized(13, QFont::DemiBold));
    title->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(title, 1);
    if (!isShown_) row->addWidget(quietLabel(tr("not shown here"), content_));
    auto* out = new QPushButton(tr("Take out"), content_);
    out->setFlat(true);
    connect(out, &QPushButton::clicked, this, &PartFittings::removeWanted);
    row->addWidget(out);
    to.addLayout(row);
}

void PartFittings::addSays(QVBoxLayout& to) {
    auto* row = line(to, tr("Says"));
    auto* says = smallEntry(tr("Says"), 0, content_);
    says->setText(QString::fromStdString(part_.text));
    says->setPlaceholderText(tr("its column's value"));
    row->addWidget(says, 1);
    PickBox* put = fieldBox(tr("put in…"), {});
    put->setAccessibleName(tr("Put a field in"));
    put->setFixedWidth(scaled(84));
    row->addWidget(put);
    auto* problem = problemLabel(content_);
    to.addWidget(problem);
    const auto check = [this, problem](const QString& text) {
        TextFormat format;
        format.spec.style = FormatStyle::Message;
        format.spec.pattern = text.toStdString();
        const auto made = formatterFor(format, grid_.session().schemaReading(text.toStdString()), design_);
        const bool wrong = !text.isEmpty() && !made && text.contains(u'{');
        problem->setVisible(wrong);
        problem->setText(wrong ? QString::fromStdString(made.error().message) : QString());
    };
    check(says->text());
    connect(says, &QLineEdit::textEdited, this, [this, check](const QString& text) {
        take([text = text.toStdString()](FacePart& p) { p.text = text; }, tr("Text of a part"), true);
        check(text);
    });
    connect(put, &QComboBox::activated, this, [says, put](int index) {
        if (index <= 0) return;
        says->insert(QStringLiteral("{%1}").arg(put->itemData(index).toString()));
        Q_EMIT says->textEdited(says->text());
        put->setCurrentIndex(0);
        says->setFocus();
    });
}

PickBox* PartFittings::fieldBox(const QString& first, const std::string& current) {
    auto* box = new PickBox(content_);
    box->addItem(first, QString());
    const auto add = [&](const std::string& field) {
        const QString name = QString::fromStdString(field);
        if (box->findData(name) < 0) box->addItem(QString::fromStdString(design_.headingOf(field)), name);
        if (field == current) box->setCurrentIndex(box->findData(name));
    };
    const TableSchema& schema = grid_.session().schema();
    for (const FieldSchema& field : schema.fields) add(field.name);
    for (const ForeignKey& key : schema.foreignKeys) {
        if (key.fields.size() != 1 || schema.isView) continue;
        if (const auto target = grid_.session().schemaOf(key.table))
            for (const FieldSchema& field : target->fields) add(key.fields.front() + "." + field.name);
    }
    if (!current.empty() && box->findData(QString::fromStdString(current)) < 0) add(current);
    return box;
}

void PartFittings::addField(QVBoxLayout& to) {
    auto* row = line(to, part_.kind == FacePartKind::Mark ? tr("value is") : tr("Field"));
    PickBox* box = fieldBox(tr("its column's"), part_.field);
    box->setAccessibleName(tr("Field"));
    connect(box, &QComboBox::activated, this, [this, box](int index) {
        take([field = box->itemData(index).toString().toStdString()](FacePart& p) { p.field = field; },
             tr("Field of a part"));
    });
    row->addWidget(box, 1);
}

void PartFittings::addText(QVBoxLayout& to) {
    auto* row = line(to, tr("Letters"));
    auto* larger = new QSpinBox(content_);
    larger->setRange(-6, 20);
    larger->setValue(part_.larger);
    larger->setPrefix(part_.larger > 0 ? QStringLiteral("+") : QString());
    larger->setSuffix(tr(" px"));
    larger->setFixedWidth(scaled(64));
    larger->setAccessibleName(tr("Pixels larger than the grid's letters"));
    connect(larger, &QSpinBox::valueChanged, this,
            [this](int value) { take([value](FacePart& p) { p.larger = value; }, tr("Size of a part"), true); });
    row->addWidget(larger);
    if (part_.kind == FacePartKind::Text || part_.kind == FacePartKind::Field) addLines(*row);
    auto* weight = new PickBox(content_);
    weight->setAccessibleName(tr("Weight"));
    for (const QString& words : {tr("as the grid"), tr("regular"), tr("medium"), tr("bold")}) weight->addItem(words);
    weight->setCurrentIndex(static_cast<int>(part_.weight));
    connect(weight, &QComboBox::activated, this, [this](int index) {
        take([index](FacePart& p) { p.weight = static_cast<LineWeight>(index); }, tr("Weight of a part"));
    });
    row->addWidget(weight, 1);
    row->addWidget(
        inkBox(
            part_.colour, false,
            [this](const std::string& ink) { take([ink](FacePart& p) { p.colour = ink; }, tr("Colour of a part")); },
            content_),
        1);
}

void PartFittings::addWidth(QVBoxLayout& to) {
    auto* row = line(to, tr("Width"));
    auto* mode = new SegmentedSwitch({tr("Fixed"), tr("Fit"), tr("Share")}, content_);
    mode->setCurrent(static_cast<int>(part_.width.mode));
    connect(mode, &SegmentedSwitch::chosen, this, [this](int index) {
        take([index](FacePart& p) { p.width.mode = static_cast<WidthMode>(index); }, tr("Width of a part"));
    });
    row->addWidget(mode, 1);
    if (part_.width.mode != WidthMode::Fixed) return;
    auto* pixels = pixelsBox(0, Width::kMostPixels, content_);
    pixels->setAccessibleName(tr("Pixels"));
    pixels->setValue(part_.width.pixels);
    connect(pixels, &QSpinBox::valueChanged, this,
            [this](int value) { take([value](FacePart& p) { p.width.pixels = value; }, tr("Width of a part"), true); });
    row->addWidget(pixels);
}

void PartFittings::addCondition(QVBoxLayout& to) {
    auto* entry = new RuleEntry(
        ruleNames(grid_.session(), design_),
        [this](const std::string& text) {
            return partCondition(text.empty() ? "TRUE" : text, part_.field.empty() ? ownField_ : part_.field,
                                 grid_.session().schemaReading(text),
                                 vocabularyOf(design_, grid_.session().registered()));
        },
        content_);
    entry->edit().setAccessibleName(tr("Shown when"));
    entry->edit().setPlaceholderText(tr("always"));
    entry->setText(QString::fromStdString(part_.shownWhen));
    to.addWidget(quietLabel(tr("Shown when"), content_));
    to.addWidget(entry);
    connect(entry, &RuleEntry::changed, this, [this](const QString& text) {
        take([rule = text.trimmed().toStdString()](FacePart& p) { p.shownWhen = rule; }, tr("When a part is shown"),
             true);
    });
}

void PartFittings::changeRule(std::size_t index, std::function<void(FaceRule&)> act, const QString& label, bool joins) {
    take(
        [index, act = std::move(act)](FacePart& p) {
            if (index < p.rules.size()) act(p.rules[index]);
        },
        label, joins);
}

void PartFittings::addRules(QVBoxLayout& to) {
    to.addWidget(quietLabel(
        part_.kind == FacePartKind::Mark ? tr("The first that holds is shown") : tr("Coloured by the first that holds"),
        content_));
    for (std::size_t i = 0; i < part_.rules.size(); ++i) addRule(to, i);
    auto* add = new QPushButton(tr("Add a rule"), content_);
    add->setFlat(true);
    connect(add, &QPushButton::clicked, this, [this] {
        take(
            [](FacePart& p) {
                p.rules.push_back(
                    {"value IS NOT NULL", "teal", p.kind == FacePartKind::Mark ? MarkShape::Disc : MarkShape::None});
            },
            tr("Add a rule to a part"));
    });
    auto* row = new QHBoxLayout;
    row->addWidget(add);
    row->addStretch();
    to.addLayout(row);
}

void PartFittings::addRule(QVBoxLayout& to, std::size_t index) {
    const FaceRule& rule = part_.rules[index];
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    if (part_.kind == FacePartKind::Mark) row->addWidget(shapeBox(index), 1);
    row->addWidget(inkBox(
                       rule.colour, false,
                       [this, index](const std::string& ink) {
                           changeRule(
                               index, [ink](FaceRule& r) { r.colour = ink; }, tr("Colour of a rule"));
                       },
                       content_),
                   1);
    auto* away = cardButton(Icon::Cross, tr("Take rule %1 out").arg(index + 1), true, content_);
    connect(away, &QToolButton::clicked, this, [this, index] {
        take(
            [index](FacePart& p) {
                if (index < p.rules.size()) p.rules.erase(p.rules.begin() + static_cast<std::ptrdiff_t>(index));
            },
            tr("Take a rule out"));
    });
    row->addWidget(away);
    to.addLayout(row);
    auto* where = new RuleEntry(
        ruleNames(grid_.session(), design_) << QStringLiteral("value"),
        [this](const std::string& text) {
            return partCondition(text.empty() ? "TRUE" : text, part_.field.empty() ? ownField_ : part_.field,
                                 grid_.session().schemaReading(text),
                                 vocabularyOf(design_, grid_.session().registered()));
        },
        content_);
    where->edit().setAccessibleName(tr("Holds when %1").arg(index + 1));
    where->edit().setPlaceholderText(tr("always"));
    where->setText(QString::fromStdString(rule.where));
    connect(where, &RuleEntry::changed, this, [this, index](const QString& text) {
        changeRule(
            index, [rule = text.trimmed().toStdString()](FaceRule& r) { r.where = rule; }, tr("Rule of a part"), true);
    });
    to.addWidget(where);
    if (part_.kind == FacePartKind::Mark) addWords(to, index);
}

QWidget* PartFittings::shapeBox(std::size_t index) {
    const FaceRule& rule = part_.rules[index];
    auto* shape = new PickBox(content_);
    shape->setAccessibleName(tr("Shape %1").arg(index + 1));
    const QStringList names = shapeNames();
    for (int i = 0; i < names.size(); ++i) shape->addItem(shapeIcon(static_cast<MarkShape>(i), rule.colour), names[i]);
    shape->setCurrentIndex(static_cast<int>(rule.shape));
    connect(shape, &QComboBox::activated, this, [this, index](int chosen) {
        changeRule(
            index, [chosen](FaceRule& r) { r.shape = static_cast<MarkShape>(chosen); }, tr("Shape of a mark"));
    });
    return shape;
}

/// What is read aloud instead of a mark.
void PartFittings::addWords(QVBoxLayout& to, std::size_t index) {
    auto* words = smallEntry(tr("Words %1").arg(index + 1), 0, content_);
    words->setPlaceholderText(tr("nothing"));
    words->setToolTip(tr("What is read aloud, found and copied instead of the shape"));
    words->setText(QString::fromStdString(part_.rules[index].words));
    words->setCursorPosition(0);
    connect(words, &QLineEdit::textEdited, this, [this, index](const QString& text) {
        changeRule(
            index, [text = text.toStdString()](FaceRule& r) { r.words = text; }, tr("Words of a mark"), true);
    });
    line(to, tr("read as"))->addWidget(words, 1);
}

void PartFittings::addToolTip(QVBoxLayout& to) {
    auto* row = line(to, tr("Tool tip"));
    auto* tip = smallEntry(tr("Tool tip"), 0, content_);
    tip->setPlaceholderText(tr("its text, where it is cut"));
    tip->setText(QString::fromStdString(part_.toolTip));
    connect(tip, &QLineEdit::textEdited, this, [this](const QString& text) {
        take([text = text.toStdString()](FacePart& p) { p.toolTip = text; }, tr("Tool tip of a part"), true);
    });
    row->addWidget(tip, 1);
}

}  // namespace jollyrow
