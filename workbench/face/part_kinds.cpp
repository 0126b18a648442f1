// SPDX-License-Identifier: MIT
// PartFittings: what only parts of one kind have.
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

#include "core/design/plan.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/face/part_fittings.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {

QDoubleSpinBox* PartFittings::numberBox(double value, const QString& name) {
    auto* box = new QDoubleSpinBox(content_);
    box->setRange(-1e12, 1e12);
    box->setDecimals(2);
    box->setValue(value);
    box->setAccessibleName(name);
    return box;
}

/// As a column's: a pattern of its type, or a duration; what is wrong with it is said beneath.
void PartFittings::addFormat(QVBoxLayout& to) {
    auto* row = line(to, tr("Format"));
    const bool isDuration = part_.format.style == FormatStyle::Duration;
    auto* kind = new PickBox(content_);
    kind->setAccessibleName(tr("Kind of format"));
    for (const QString& words : {tr("as its column"), tr("pattern"), tr("duration")}) kind->addItem(words);
    kind->setCurrentIndex(isDuration ? 2 : part_.format == FormatSpec{} ? 0 : 1);
    connect(kind, &QComboBox::activated, this, [this](int chosen) {
        take(
            [chosen](FacePart& p) {
                p.format = {};
                if (chosen > 0) p.format.style = chosen == 1 ? FormatStyle::Pattern : FormatStyle::Duration;
                if (chosen > 0) p.format.pattern = chosen == 1 ? "#,##0.00" : "h:mm";
            },
            tr("Format of a part"));
    });
    row->addWidget(kind, 1);
    if (part_.format == FormatSpec{}) return;
    auto* pattern = smallEntry(tr("Pattern"), isDuration ? 64 : 96, content_);
    pattern->setText(QString::fromStdString(part_.format.pattern));
    row->addWidget(pattern);
    auto* problem = problemLabel(content_);
    const auto check = [this, problem] {
        TextFormat format;
        const auto field = grid_.session().schema().find(part_.field.empty() ? ownField_ : part_.field);
        if (field) format = defaultFormat(grid_.session().schema().field(*field), false);
        format.spec = part_.format;
        const auto made = formatterFor(format, grid_.session().schema(), design_);
        problem->setVisible(!made);
        problem->setText(made ? QString() : QString::fromStdString(made.error().message));
    };
    connect(pattern, &QLineEdit::textEdited, this, [this, check](const QString& text) {
        take([text = text.toStdString()](FacePart& p) { p.format.pattern = text; }, tr("Format of a part"), true);
        check();
    });
    if (isDuration) {
        auto* unit = new PickBox(content_);
        unit->setAccessibleName(tr("What one stands for"));
        for (const QString& words : {tr("seconds"), tr("minutes"), tr("hours"), tr("days")}) unit->addItem(words);
        unit->setCurrentIndex(static_cast<int>(part_.format.unit));
        connect(unit, &QComboBox::activated, this, [this](int chosen) {
            take([chosen](FacePart& p) { p.format.unit = static_cast<DurationUnit>(chosen); },
                 tr("Unit of a duration"));
        });
        row->addWidget(unit);
    }
    to.addWidget(problem);
    check();
}

void PartFittings::addLines(QHBoxLayout& row) {
    auto* lines = new QSpinBox(content_);
    lines->setRange(0, 50);
    lines->setSpecialValueText(tr("wraps"));
    lines->setValue(part_.lines);
    lines->setSuffix(part_.lines == 1 ? tr(" line") : tr(" lines"));
    lines->setToolTip(tr("Lines that the text may take; wraps: as many as there is room for"));
    lines->setAccessibleName(tr("Lines of text"));
    lines->setFixedWidth(scaled(76));
    connect(lines, &QSpinBox::valueChanged, this,
            [this](int value) { take([value](FacePart& p) { p.lines = value; }, tr("Lines of a part"), true); });
    row.addWidget(lines);
}

/// The address of a link, and whether the grid lets it open.
void PartFittings::addOpens(QVBoxLayout& to) {
    auto* row = line(to, tr("Opens"));
    auto* opens = smallEntry(tr("Opens"), 0, content_);
    opens->setText(QString::fromStdString(part_.opens));
    opens->setPlaceholderText(tr("nothing; e.g. mailto:{mail}"));
    opens->setToolTip(
        tr("The address that a press opens, with fields in braces. Which kinds of address may open by "
           "themselves is set for the whole grid."));
    row->addWidget(opens, 1);
    auto* note = quietLabel({}, content_);
    const auto say = [this, note](const QString& text) {
        const qsizetype colon = text.indexOf(u':');
        const std::string scheme = colon > 0 ? text.left(colon).toLower().toStdString() : std::string();
        const auto& allowed = design_.grid.linkSchemes;
        const bool isAllowed = std::find(allowed.begin(), allowed.end(), scheme) != allowed.end();
        note->setVisible(!scheme.empty() && !isAllowed && !scheme.starts_with("{"));
        note->setText(mayOpen(scheme) ? tr("%1 is not allowed yet: Links may open, in the settings of the grid.")
                                            .arg(QString::fromStdString(scheme))
                                      : tr("Addresses of this kind are never opened from a grid."));
    };
    note->setWordWrap(true);
    to.addWidget(note);
    say(opens->text());
    connect(opens, &QLineEdit::textEdited, this, [this, say](const QString& text) {
        take([text = text.toStdString()](FacePart& p) { p.opens = text; }, tr("Address of a link"), true);
        say(text);
    });
}

void PartFittings::addBar(QVBoxLayout& to) {
    auto* row = line(to, tr("Ends"));
    auto* ends = new SegmentedSwitch({tr("All"), tr("Shown"), tr("Fixed")}, content_);
    ends->setToolTip(tr("The least and greatest of all records, of those shown, or two numbers"));
    ends->setCurrent(static_cast<int>(part_.bar.ends));
    connect(ends, &SegmentedSwitch::chosen, this, [this](int index) {
        take([index](FacePart& p) { p.bar.ends = static_cast<BarEnds>(index); }, tr("Ends of a bar"));
    });
    row->addWidget(ends, 1);
    if (part_.bar.ends == BarEnds::Fixed) {
        auto* numbers = line(to, tr("from"));
        for (double BarDesign::*end : {&BarDesign::from, &BarDesign::to}) {
            auto* box = numberBox(part_.bar.*end, end == &BarDesign::from ? tr("From") : tr("To"));
            connect(box, &QDoubleSpinBox::valueChanged, this, [this, end](double value) {
                take([end, value](FacePart& p) { p.bar.*end = value; }, tr("Ends of a bar"), true);
            });
            numbers->addWidget(box, 1);
            if (end == &BarDesign::from) numbers->addWidget(quietLabel(tr("to"), content_));
        }
    }
    auto* number = line(to, tr("Number"));
    auto* where = new SegmentedSwitch({tr("Beside"), tr("Within"), tr("None")}, content_);
    where->setCurrent(static_cast<int>(part_.bar.number));
    connect(where, &SegmentedSwitch::chosen, this, [this](int index) {
        take([index](FacePart& p) { p.bar.number = static_cast<BarNumber>(index); }, tr("Number of a bar"));
    });
    number->addWidget(where, 1);
    auto* stacked = line(to, tr("Stacked"));
    PickBox* more = fieldBox(
        part_.bar.fields.empty() ? tr("on another field…") : tr("%1 fields, add…").arg(part_.bar.fields.size()), {});
    more->setAccessibleName(tr("Stack another field"));
    connect(more, &QComboBox::activated, this, [this, more](int index) {
        if (index <= 0) return;
        take(
            [field = more->itemData(index).toString().toStdString(), own = ownField_](FacePart& p) {
                if (p.bar.fields.empty()) p.bar.fields.push_back(p.field.empty() ? own : p.field);
                p.bar.fields.push_back(field);
            },
            tr("Stack a bar"));
    });
    stacked->addWidget(more, 1);
    if (!part_.bar.fields.empty()) {
        auto* single = new QPushButton(tr("One again"), content_);
        single->setFlat(true);
        connect(single, &QPushButton::clicked, this,
                [this] { take([](FacePart& p) { p.bar.fields.clear(); }, tr("One bar again")); });
        stacked->addWidget(single);
    }
    auto* checks = line(to, {});
    for (const auto& [words, setting] :
         {std::pair(tr("shares of 100 %"), &BarDesign::shares), std::pair(tr("axis at the foot"), &BarDesign::axis)}) {
        auto* check = new CheckBox(words, content_);
        check->setChecked(part_.bar.*setting);
        connect(check, &QCheckBox::clicked, this,
                [this, s = setting](bool on) { take([s, on](FacePart& p) { p.bar.*s = on; }, tr("Bar")); });
        checks->addWidget(check);
    }
    checks->addStretch();
}

void PartFittings::addTrend(QVBoxLayout& to) {
    auto* row = line(to, tr("Drawn as"));
    auto* looks = new SegmentedSwitch({tr("Line"), tr("Area"), tr("Columns")}, content_);
    looks->setCurrent(static_cast<int>(part_.trend.look));
    connect(looks, &SegmentedSwitch::chosen, this, [this](int index) {
        take([index](FacePart& p) { p.trend.look = static_cast<TrendLook>(index); }, tr("Look of a trend"));
    });
    row->addWidget(looks, 1);
    auto* shown = line(to, tr("Shows"));
    auto* last = new QSpinBox(content_);
    last->setRange(0, 100'000);
    last->setSpecialValueText(tr("all of them"));
    last->setPrefix(tr("the last "));
    last->setValue(part_.trend.last);
    last->setAccessibleName(tr("How many of the last numbers"));
    connect(last, &QSpinBox::valueChanged, this, [this](int value) {
        take([value](FacePart& p) { p.trend.last = value; }, tr("Numbers of a trend"), true);
    });
    shown->addWidget(last, 1);
    auto* checks = line(to, {});
    for (const auto& [words, setting] :
         {std::pair(tr("least and greatest"), &TrendDesign::marks), std::pair(tr("band behind"), &TrendDesign::band)}) {
        auto* check = new CheckBox(words, content_);
        check->setChecked(part_.trend.*setting);
        connect(check, &QCheckBox::clicked, this,
                [this, s = setting](bool on) { take([s, on](FacePart& p) { p.trend.*s = on; }, tr("Trend")); });
        checks->addWidget(check);
    }
    checks->addStretch();
    if (!part_.trend.band) return;
    auto* ends = line(to, tr("Band from"));
    for (double TrendDesign::*end : {&TrendDesign::from, &TrendDesign::to}) {
        auto* box = numberBox(part_.trend.*end, end == &TrendDesign::from ? tr("Band from") : tr("Band to"));
        connect(box, &QDoubleSpinBox::valueChanged, this, [this, end](double value) {
            take([end, value](FacePart& p) { p.trend.*end = value; }, tr("Band of a trend"), true);
        });
        ends->addWidget(box, 1);
        if (end == &TrendDesign::from) ends->addWidget(quietLabel(tr("to"), content_));
    }
}

void PartFittings::addPicture(QVBoxLayout& to) {
    auto* row = line(to, tr("Picture"));
    auto* fit = new SegmentedSwitch({tr("All of it"), tr("Fills its place")}, content_);
    fit->setCurrent(part_.picture.fills ? 1 : 0);
    connect(fit, &SegmentedSwitch::chosen, this, [this](int index) {
        take([index](FacePart& p) { p.picture.fills = index == 1; }, tr("Fit of a picture"));
    });
    row->addWidget(fit, 1);
    auto* larger = new CheckBox(tr("larger under the pointer"), content_);
    larger->setChecked(part_.picture.enlarges);
    connect(larger, &QCheckBox::clicked, this,
            [this](bool on) { take([on](FacePart& p) { p.picture.enlarges = on; }, tr("Enlarge a picture")); });
    auto* second = line(to, {});
    second->addWidget(larger);
    second->addStretch();
}

void PartFittings::addRating(QVBoxLayout& to) {
    auto* row = line(to, tr("Out of"));
    auto* most = new QSpinBox(content_);
    most->setRange(1, 20);
    most->setValue(part_.most);
    most->setAccessibleName(tr("Out of"));
    connect(most, &QSpinBox::valueChanged, this,
            [this](int value) { take([value](FacePart& p) { p.most = value; }, tr("Marks of a rating"), true); });
    row->addWidget(most);
    row->addStretch();
}

void PartFittings::addName(QVBoxLayout& to) {
    auto* row = line(to, tr("Name"));
    auto* name = smallEntry(tr("Name"), 0, content_);
    name->setText(QString::fromStdString(part_.name));
    name->setToolTip(tr("The application is told this name when it is pressed."));
    connect(name, &QLineEdit::textEdited, this, [this](const QString& text) {
        take([text = text.toStdString()](FacePart& p) { p.name = text; }, tr("Name of a part"), true);
    });
    row->addWidget(name, 1);
}

}  // namespace jollyrow
