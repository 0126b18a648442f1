// SPDX-License-Identifier: MIT
#include "workbench/popovers/named_popover.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include <fmt/format.h>

#include <utility>

#include "core/design/make_design.h"
#include "core/design/operators.h"
#include "core/design/rule_texts.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/rules/rule_entry.h"

namespace jollyrow {
namespace {

QToolButton* crossButton(const QString& words, QWidget* parent) {
    auto* away = new QToolButton(parent);
    away->setIcon(makeIcon(Icon::Cross, look().ink2, 14));
    away->setToolTip(words);
    away->setAccessibleName(words);
    return away;
}

struct TypeChoice {
    const char* words;
    Type type;
};
constexpr TypeChoice kTypes[] = {{QT_TRANSLATE_NOOP("NamedPopover", "text"), Type::Text},
                                 {QT_TRANSLATE_NOOP("NamedPopover", "whole number"), Type::Integer},
                                 {QT_TRANSLATE_NOOP("NamedPopover", "decimal number"), Type::Decimal},
                                 {QT_TRANSLATE_NOOP("NamedPopover", "date"), Type::Date},
                                 {QT_TRANSLATE_NOOP("NamedPopover", "date and time"), Type::Timestamp},
                                 {QT_TRANSLATE_NOOP("NamedPopover", "time"), Type::Time},
                                 {QT_TRANSLATE_NOOP("NamedPopover", "yes or no"), Type::Boolean}};

struct Offer {
    const char* words;
    std::vector<Type> types;
};
const std::vector<Offer>& offers() {
    static const std::vector<Offer> kAll = {
        {QT_TRANSLATE_NOOP("NamedPopover", "all columns"), {}},
        {QT_TRANSLATE_NOOP("NamedPopover", "numbers"), {Type::Integer, Type::Decimal, Type::Real}},
        {QT_TRANSLATE_NOOP("NamedPopover", "texts"), {Type::Text}},
        {QT_TRANSLATE_NOOP("NamedPopover", "dates"), {Type::Date, Type::Timestamp, Type::Instant}},
        {QT_TRANSLATE_NOOP("NamedPopover", "yes or no"), {Type::Boolean}}};
    return kAll;
}

/// An operator is sound when its rule makes sense for some column it is offered for.
Result<std::shared_ptr<const Program>> compiledOperator(const OperatorDesign& design, const std::string& rule) {
    std::vector<Type> types = design.types;
    if (types.empty()) types = {Type::Text, Type::Integer, Type::Decimal, Type::Date, Type::Boolean};
    std::optional<Error> first;
    for (const Type value : types)
        for (const Type argument : {value, Type::Integer, Type::Text}) {
            TableSchema schema;
            const auto add = [&schema](const std::string& name, Type type) {
                FieldSchema field;
                field.name = name;
                field.type = type;
                schema.fields.push_back(std::move(field));
            };
            add("value", value);
            for (const std::string& name : design.arguments) add(name, argument);
            BindOptions options;
            options.expected = RuleKind::Boolean;
            auto made = compileRule(rule, schema, {}, options);
            if (made) return made;
            if (!first) first = made.error();
        }
    return *first;
}

}  // namespace

NamedPopover::NamedPopover(const QString& title, const QString& words, QWidget* window, const Design& design,
                           Session& session)
    : Popover(title, window),
      design_(design),
      session_(session),
      cards_(new QWidget(this)),
      problem_(problemLabel(this)) {
    auto* lead = new QLabel(words, this);
    lead->setWordWrap(true);
    lead->setForegroundRole(QPalette::PlaceholderText);
    body()->addWidget(lead);
    body()->addWidget(scrolling(cards_));
    body()->addWidget(problem_);
}

void NamedPopover::setDesign(const Design& design) {
    const bool same = count(design) == count(design_);
    design_ = design;
    if (!same) rebuild();
}

void NamedPopover::rebuild() {
    auto* old = std::exchange(cards_, new QWidget(this));
    auto* list = new QVBoxLayout(cards_);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(8);
    fill(*list);
    exchange(old, cards_);
}

void NamedPopover::take(const Design& next, const QString& label) {
    design_ = next;
    showProblem({});
    Q_EMIT changed(
        [parameters = next.parameters, operators = next.operators, styles = next.styles, banners = next.banners,
         checks = next.checks, looks = next.looks, look = next.grid.look, theme = next.grid.theme](Design& d) {
            d.parameters = parameters;
            d.operators = operators;
            d.styles = styles;
            d.banners = banners;
            d.checks = checks;
            d.looks = looks;
            d.grid.look = look;
            d.grid.theme = theme;
        },
        label);
}

void NamedPopover::takeLater(const Design& next, const QString& label) {
    QTimer::singleShot(0, this, [this, next, label] {
        take(next, label);
        rebuild();
    });
}

void NamedPopover::showProblem(const QString& problem) {
    if (problem.isEmpty() == problem_->isHidden() && problem == problem_->text()) return;
    problem_->setText(problem);
    problem_->setVisible(!problem.isEmpty());
    fitHeight();
}

// ---- Parameters

ParametersPopover::ParametersPopover(QWidget* window, const Design& design, Session& session)
    : NamedPopover(tr("Parameters"),
                   tr("Each one is an entry above the grid, and :name in rules and in a bound SELECT. Left empty, it "
                      "restricts nothing."),
                   window, design, session) {
    rebuild();
}

void ParametersPopover::fill(QVBoxLayout& list) {
    for (std::size_t i = 0; i < design_.parameters.size(); ++i) addCard(list, i);
    auto* add = new QPushButton(tr("+ Parameter"), cards());
    add->setObjectName(QStringLiteral("addParameter"));
    connect(add, &QPushButton::clicked, this, [this] {
        Design next = design_;
        ParameterDesign made;
        for (int n = 1; made.name.empty(); ++n) {
            const std::string name = n == 1 ? std::string("search") : fmt::format("search_{}", n);
            if (std::none_of(next.parameters.begin(), next.parameters.end(),
                             [&](const ParameterDesign& p) { return p.name == name; }))
                made.name = name;
        }
        made.heading = headingFor(made.name, false);
        next.parameters.push_back(made);
        takeLater(next, tr("Add a parameter"));
    });
    auto* row = new QHBoxLayout;
    row->addWidget(add);
    row->addStretch();
    list.addLayout(row);
}

void ParametersPopover::addCard(QVBoxLayout& list, std::size_t index) {
    const ParameterDesign parameter = design_.parameters[index];
    auto* card = new Card(cards());
    auto* lines = new QVBoxLayout(card);
    lines->setContentsMargins(10, 8, 8, 8);
    lines->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    lines->addLayout(row);
    auto* heading = new QLineEdit(QString::fromStdString(parameter.heading), card);
    heading->setAccessibleName(tr("Heading"));
    auto* name = new QLineEdit(QString::fromStdString(parameter.name), card);
    name->setAccessibleName(tr("Name"));
    name->setFixedWidth(scaled(110));
    auto* type = new PickBox(card);
    type->setAccessibleName(tr("Type"));
    type->setFixedWidth(scaled(128));
    for (const TypeChoice& choice : kTypes) {
        type->addItem(NamedPopover::tr(choice.words));
        if (choice.type == parameter.type) type->setCurrentIndex(type->count() - 1);
    }
    auto* value = new QLineEdit(QString::fromStdString(parameter.value), card);
    value->setAccessibleName(tr("Value at opening"));
    value->setPlaceholderText(tr("at opening: any"));
    value->setFixedWidth(scaled(118));
    auto* away = crossButton(tr("Take this parameter away"), card);
    row->addWidget(heading, 1);
    row->addWidget(quietLabel(QStringLiteral(":"), card));
    row->addWidget(name);
    row->addWidget(type);
    row->addWidget(value);
    row->addWidget(away);
    auto* below = new QHBoxLayout;
    below->setSpacing(8);
    auto* hint = new QLineEdit(QString::fromStdString(parameter.hint), card);
    hint->setObjectName(QStringLiteral("hint"));
    hint->setAccessibleName(tr("Hint in the empty entry"));
    hint->setPlaceholderText(tr("hint while it is empty: any"));
    below->addWidget(hint, 1);
    below->addWidget(quietLabel(tr("entered like"), card));
    below->addWidget(likeBox(card, index));
    lines->addLayout(below);
    connect(hint, &QLineEdit::textEdited, this, [this, index](const QString& text) {
        Design next = design_;
        if (index >= next.parameters.size()) return;
        next.parameters[index].hint = text.trimmed().toStdString();
        take(next, tr("Change the parameter %1").arg(index + 1));
    });
    list.addWidget(card);
    connectParameter({heading, name, type, value}, index);
    connect(away, &QToolButton::clicked, this, [this, index] {
        Design next = design_;
        if (index < next.parameters.size())
            next.parameters.erase(next.parameters.begin() + static_cast<std::ptrdiff_t>(index));
        takeLater(next, tr("Take a parameter away"));
    });
}

/// The columns whose choices, look-up or calendar an entry may have.
QWidget* ParametersPopover::likeBox(QWidget* card, std::size_t index) {
    auto* box = new PickBox(card);
    box->setObjectName(QStringLiteral("like"));
    box->setAccessibleName(tr("Entered like a column"));
    box->setToolTip(tr("The entry has this column's choices, its look-up with search or its calendar"));
    box->setFixedWidth(scaled(164));
    box->addItem(tr("its type"), QString());
    for (const ColumnDesign& column : design_.columns) {
        if (!session_.schema().find(column.field)) continue;
        box->addItem(QString::fromStdString(design_.headingOf(column.field)), QString::fromStdString(column.field));
        if (column.field == design_.parameters[index].like) box->setCurrentIndex(box->count() - 1);
    }
    connect(box, &QComboBox::activated, this, [this, box, index](int chosen) {
        Design next = design_;
        if (index >= next.parameters.size()) return;
        ParameterDesign& parameter = next.parameters[index];
        parameter.like = box->itemData(chosen).toString().toStdString();
        if (const auto field = session_.schema().find(parameter.like); field && !parameter.like.empty()) {
            parameter.type = session_.schema().field(*field).type;
            if (!convertedConstant(parameter.value, ruleKindOf(parameter.type))) parameter.value.clear();
        }
        takeLater(next, tr("Change the parameter %1").arg(index + 1));
    });
    return box;
}

void ParametersPopover::connectParameter(const Entries& of, std::size_t index) {
    const auto [heading, name, type, value] = of;
    const QString label = tr("Change the parameter %1").arg(index + 1);
    const auto change = [this, index, label](auto act) {
        Design next = design_;
        if (index >= next.parameters.size()) return;
        act(next.parameters[index]);
        take(next, label);
    };
    connect(heading, &QLineEdit::textEdited, this,
            [change](const QString& text) { change([&](ParameterDesign& p) { p.heading = text.toStdString(); }); });
    connect(name, &QLineEdit::textEdited, this, [this, label, index](const QString& text) {
        const std::string wanted = text.trimmed().toStdString();
        const bool taken = std::any_of(design_.parameters.begin(), design_.parameters.end(), [&](const auto& p) {
            return p.name == wanted && &p != &design_.parameters[index];
        });
        if (wanted.empty() || nameFor(wanted) != wanted)
            return showProblem(
                tr("\"%1\" is no name: small letters, digits and underscores, a letter first.").arg(text));
        if (taken) return showProblem(tr("There is a parameter %1 already.").arg(text));
        // The rules go on asking for it.
        const std::string old = design_.parameters[index].name;
        if (wanted == old) return;
        renameParameter(design_, old, wanted);
        showProblem({});
        Q_EMIT changed([old, wanted](Design& d) { renameParameter(d, old, wanted); }, label);
    });
    connect(type, &QComboBox::activated, this, [change](int chosen) {
        change([chosen](ParameterDesign& p) {
            p.type = kTypes[chosen].type;
            if (!convertedConstant(p.value, ruleKindOf(p.type))) p.value.clear();
        });
    });
    connect(value, &QLineEdit::textEdited, this, [this, change, index](const QString& text) {
        const Type kind = design_.parameters[index].type;
        const std::string plain = text.trimmed().toStdString();
        if (!plain.empty() && !convertedConstant(plain, ruleKindOf(kind)))
            return showProblem(tr("\"%1\" is not %2.").arg(text, QString::fromStdString(std::string(article(kind)))));
        change([&](ParameterDesign& p) { p.value = plain; });
    });
}

// ---- Operators

OperatorsPopover::OperatorsPopover(QWidget* window, const Design& design, Session& session)
    : NamedPopover(tr("Own operators"),
                   tr("Conditions with a name, offered in filter rows, conditions and rules. In the rule, value is the "
                      "cell that is tested; further arguments are asked for where the operator is used."),
                   window, design, session) {
    rebuild();
}

void OperatorsPopover::fill(QVBoxLayout& list) {
    for (std::size_t i = 0; i < design_.operators.size(); ++i) addCard(list, i);
    auto* add = new QPushButton(tr("+ Operator"), cards());
    add->setObjectName(QStringLiteral("addOperator"));
    connect(add, &QPushButton::clicked, this, [this] {
        Design next = design_;
        OperatorDesign made;
        for (int n = 1; made.name.empty(); ++n) {
            const std::string name = n == 1 ? std::string("is_special") : fmt::format("is_special_{}", n);
            if (!findOperator(next, name)) made.name = name;
        }
        made.title = tr("is special").toStdString();
        made.rule = "value IS NOT NULL";
        next.operators.push_back(made);
        takeLater(next, tr("Add an operator"));
    });
    auto* row = new QHBoxLayout;
    row->addWidget(add);
    row->addStretch();
    list.addLayout(row);
}

/// The columns that an operator is offered for.
QComboBox* OperatorsPopover::offerBox(const OperatorDesign& known, QWidget* card) {
    auto* offered = new PickBox(card);
    offered->setAccessibleName(tr("Offered for"));
    offered->setFixedWidth(scaled(112));
    offered->setPlaceholderText(tr("other types"));  // a design file may name any
    int chosen = -1;
    for (const Offer& offer : offers()) {
        if (offer.types == known.types) chosen = offered->count();
        offered->addItem(NamedPopover::tr(offer.words));
    }
    offered->setCurrentIndex(chosen);
    return offered;
}

void OperatorsPopover::addCard(QVBoxLayout& list, std::size_t index) {
    const OperatorDesign known = design_.operators[index];
    auto* card = new Card(cards());
    auto* lines = new QVBoxLayout(card);
    lines->setContentsMargins(10, 8, 8, 8);
    lines->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* title = new QLineEdit(QString::fromStdString(known.title), card);
    title->setAccessibleName(tr("Words"));
    auto* arguments = new QLineEdit(card);
    QStringList names;
    for (const std::string& name : known.arguments) names << QString::fromStdString(name);
    arguments->setText(names.join(QStringLiteral(", ")));
    arguments->setPlaceholderText(tr("further arguments"));
    arguments->setAccessibleName(tr("Further arguments"));
    arguments->setFixedWidth(scaled(130));
    QComboBox* offered = offerBox(known, card);
    auto* away = crossButton(tr("Take this operator away"), card);
    row->addWidget(title, 1);
    row->addWidget(arguments);
    row->addWidget(quietLabel(tr("for"), card));
    row->addWidget(offered);
    row->addWidget(away);
    lines->addLayout(row);
    QStringList offeredNames{QStringLiteral("value")};
    offeredNames += names;
    auto* rule = new RuleEntry(
        offeredNames,
        [this, index](const std::string& text) {
            return compiledOperator(index < design_.operators.size() ? design_.operators[index] : OperatorDesign{},
                                    text);
        },
        card);
    rule->setText(QString::fromStdString(known.rule));
    rule->setNote(tr("rules call it %1(…)").arg(QString::fromStdString(known.name)));
    lines->addWidget(rule);
    list.addWidget(card);
    connectOperator({title, arguments, offered, rule}, index);
    connect(away, &QToolButton::clicked, this, [this, index] {
        Design next = design_;
        if (index < next.operators.size())
            next.operators.erase(next.operators.begin() + static_cast<std::ptrdiff_t>(index));
        takeLater(next, tr("Take an operator away"));
    });
}

void OperatorsPopover::connectOperator(const Entries& of, std::size_t index) {
    const auto [title, arguments, offered, rule] = of;
    const QString label = tr("Change the operator %1").arg(index + 1);
    const auto change = [this, index, label](auto act) {
        Design next = design_;
        if (index >= next.operators.size()) return;
        act(next.operators[index], next);
        if (!(next == design_)) take(next, label);
    };
    connect(title, &QLineEdit::textEdited, this, [this, change, rule = rule](const QString& text) {
        change([&](OperatorDesign& o, const Design& next) {
            o.title = text.toStdString();
            // The name follows as long as nothing calls it.
            const bool used = isCalled(next, o.name);
            const std::string name = nameFor(o.title);
            if (!used && !name.empty() && !findOperator(design_, name)) o.name = name;
            rule->setNote(tr("rules call it %1(…)").arg(QString::fromStdString(o.name)));
        });
    });
    connect(arguments, &QLineEdit::textEdited, this, [this, change](const QString& text) {
        std::vector<std::string> written;
        for (const QString& part : text.split(',', Qt::SkipEmptyParts)) {
            const std::string name = part.trimmed().toStdString();
            if (nameFor(name) != name || name == "value")
                return showProblem(tr("\"%1\" is no name for an argument.").arg(part.trimmed()));
            written.push_back(name);
        }
        change([&](OperatorDesign& o, const Design&) { o.arguments = written; });
    });
    connect(offered, &QComboBox::activated, this, [change](int chosen) {
        change(
            [chosen](OperatorDesign& o, const Design&) { o.types = offers()[static_cast<std::size_t>(chosen)].types; });
    });
    connect(rule, &RuleEntry::changed, this, [change](const QString& text) {
        change([&](OperatorDesign& o, const Design&) { o.rule = text.toStdString(); });
    });
}

}  // namespace jollyrow
