// SPDX-License-Identifier: MIT
// The parts of the design's filter are shown as one group "all of"; what is built or typed goes back as parts: the
// children of a top group of all, each one the words above the grid can switch off by itself. Parts made in the filter
// row keep their place there as long as their condition stays the same.
#include "workbench/popovers/filter_popover.h"
#include "grid/headings/heading_landing.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

#include "core/design/filter_entry.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"

namespace jollyrow {
namespace {

constexpr int kIndent = 22;

struct TestWords {
    Test test;
    const char* words;
    bool negated = false;
    int values = 1;
};

std::vector<TestWords> testsFor(Type type) {
    std::vector<TestWords> out;
    if (type == Type::Text)
        out = {{Test::Contains, QT_TRANSLATE_NOOP("FilterPopover", "contains")},
               {Test::Contains, QT_TRANSLATE_NOOP("FilterPopover", "does not contain"), true},
               {Test::StartsWith, QT_TRANSLATE_NOOP("FilterPopover", "begins with")},
               {Test::EndsWith, QT_TRANSLATE_NOOP("FilterPopover", "ends with")},
               {Test::Equal, QT_TRANSLATE_NOOP("FilterPopover", "is exactly")},
               {Test::NotEqual, QT_TRANSLATE_NOOP("FilterPopover", "is not")},
               {Test::Is, QT_TRANSLATE_NOOP("FilterPopover", "is, in any case")},
               {Test::OneOf, QT_TRANSLATE_NOOP("FilterPopover", "is one of"), false, -1}};
    else if (type == Type::Boolean)
        out = {{Test::IsTrue, QT_TRANSLATE_NOOP("FilterPopover", "is yes"), false, 0},
               {Test::IsFalse, QT_TRANSLATE_NOOP("FilterPopover", "is no"), false, 0}};
    else if (hasDay(type))
        out = {{Test::Equal, QT_TRANSLATE_NOOP("FilterPopover", "is")},
               {Test::NotEqual, QT_TRANSLATE_NOOP("FilterPopover", "is not")},
               {Test::Greater, QT_TRANSLATE_NOOP("FilterPopover", "is after")},
               {Test::GreaterEqual, QT_TRANSLATE_NOOP("FilterPopover", "is from … on")},
               {Test::Less, QT_TRANSLATE_NOOP("FilterPopover", "is before")},
               {Test::LessEqual, QT_TRANSLATE_NOOP("FilterPopover", "is until")},
               {Test::Between, QT_TRANSLATE_NOOP("FilterPopover", "is from … to"), false, 2},
               {Test::OneOf, QT_TRANSLATE_NOOP("FilterPopover", "is one of"), false, -1}};
    else if (type != Type::Binary && type != Type::NumberList)
        out = {{Test::Equal, QT_TRANSLATE_NOOP("FilterPopover", "is")},
               {Test::NotEqual, QT_TRANSLATE_NOOP("FilterPopover", "is not")},
               {Test::Greater, QT_TRANSLATE_NOOP("FilterPopover", "is over")},
               {Test::GreaterEqual, QT_TRANSLATE_NOOP("FilterPopover", "is at least")},
               {Test::Less, QT_TRANSLATE_NOOP("FilterPopover", "is under")},
               {Test::LessEqual, QT_TRANSLATE_NOOP("FilterPopover", "is at most")},
               {Test::Between, QT_TRANSLATE_NOOP("FilterPopover", "is from … to"), false, 2},
               {Test::OneOf, QT_TRANSLATE_NOOP("FilterPopover", "is one of"), false, -1}};
    if (hasDay(type)) out.push_back({Test::Period, QT_TRANSLATE_NOOP("FilterPopover", "is in"), false, 1});
    out.push_back({Test::IsEmpty, QT_TRANSLATE_NOOP("FilterPopover", "is empty"), false, 0});
    out.push_back({Test::IsEmpty, QT_TRANSLATE_NOOP("FilterPopover", "is not empty"), true, 0});
    return out;
}

std::string neutralValue(Type type) {
    switch (type) {
        case Type::Date: return "2026-01-01";
        case Type::Time: return "08:00:00";
        case Type::Timestamp:
        case Type::Instant: return "2026-01-01 00:00:00";
        case Type::Text: return "";
        default: return "0";
    }
}

/// Another test on the same field; keeps the values that it can.
void turnInto(Condition& target, const TestWords& words, Type type) {
    const std::vector<std::string> before = target.values;
    target.test = words.test;
    target.negated = words.negated;
    const std::size_t wanted =
        words.values < 0 ? std::max<std::size_t>(1, before.size()) : static_cast<std::size_t>(words.values);
    target.values.resize(wanted, before.empty() ? neutralValue(type) : before.back());
    if (target.test == Test::Period) target.values = {periodNames().front()};
    if (target.values.size() != 1) target.toField = false;
}

void turnInto(Condition& target, const OperatorDesign& own) {
    target = Condition::of(Test::Operator, target.field);
    target.name = own.name;
    for (const std::string& argument : own.arguments) target.values.push_back(argument == "day" ? "2026-01-01" : "10");
}

}  // namespace

FilterPopover::FilterPopover(QWidget* window, const Design& design, Session& session)
    : Popover(tr("Filter"), window), design_(design), session_(session), sentence_(new QLabel(this)) {
    sentence_->setWordWrap(true);
    sentence_->setForegroundRole(QPalette::PlaceholderText);
    body()->addWidget(sentence_);
    rule_ = new RuleEntry(
        ruleNames(session_, design_),
        [this](const std::string& text) -> Result<std::shared_ptr<const Program>> {
            BindOptions options;
            options.expected = RuleKind::Boolean;
            return compileRule(text.empty() ? "TRUE" : text, session_.schemaReading(text),
                               vocabularyOf(design_, session_.registered()), options);
        },
        this);
    connect(rule_, &RuleEntry::changed, this, [this](const QString& text) {
        const std::string rule = text.trimmed().toStdString();
        root_ = rule.empty() ? Condition{} : conditionFrom(rule, session_.schema(), design_);
        taking_ = true;
        take(tr("Filter by a rule"));
        taking_ = false;
        later([this] { rebuild(); });
    });
    auto* foot = new QHBoxLayout;
    auto* bypass = new CheckBox(tr("Bypass the filter for a moment"), this);
    bypass->setChecked(session_.view().isBypassed(Stage::Filter));
    connect(bypass, &QCheckBox::toggled, this, &FilterPopover::bypassed);
    foot->addWidget(bypass);
    foot->addStretch();
    auto* clear = new QPushButton(tr("Clear all"), this);
    clear->setFlat(true);
    connect(clear, &QPushButton::clicked, this, [this] {
        later([this] {
            root_ = Condition{};
            take(tr("Clear all filters"));
            rebuild();
        });
    });
    foot->addWidget(clear);
    tree_ = new QWidget(this);
    body()->addWidget(tree_);
    auto* asRule = new QLabel(tr("The same as a rule"), this);
    asRule->setFont(sized(11, QFont::Medium));
    body()->addWidget(asRule);
    body()->addWidget(rule_);
    body()->addLayout(foot);
    setDesign(design);
}

void FilterPopover::setDesign(const Design& design) {
    const bool mine = taking_;
    const bool same = design.filter == design_.filter && tree_ && tree_->layout();
    design_ = design;
    if (mine || same) return;
    root_ = Condition{};
    for (const FilterDesign& part : design_.filter)
        if (part.on) root_.children.push_back(conditionFrom(part.rule, session_.schema(), design_));
    if (root_.children.size() == 1 && root_.children[0].kind != ConditionKind::Test &&
        root_.children[0].kind != ConditionKind::Rule)
        root_ = Condition(root_.children[0]);
    rebuild();
}

void FilterPopover::later(std::function<void()> act) {
    // The widget that asked is still in its handler.
    QTimer::singleShot(0, this, std::move(act));
}

Condition* FilterPopover::at(const Path& path) {
    Condition* c = &root_;
    for (const std::size_t step : path) {
        if (step >= c->children.size()) return nullptr;
        c = &c->children[step];
    }
    return c;
}

QString FilterPopover::headingOf(const std::string& field) const { return headingOfField(design_, field); }

std::vector<std::string> FilterPopover::fieldsOffered() const {
    std::vector<std::string> out;
    for (const ColumnDesign& column : design_.columns)
        if (session_.schema().find(column.field)) out.push_back(column.field);
    for (const FieldSchema& field : session_.schema().fields)
        if (!design_.column(field.name)) out.push_back(field.name);
    return out;
}

Condition FilterPopover::newTest() const {
    for (const std::string& field : fieldsOffered()) {
        const Type type = session_.schema().field(*session_.schema().find(field)).type;
        const auto tests = testsFor(type);
        if (tests.front().test == Test::IsEmpty) continue;
        Condition out = Condition::of(tests.front().test, field);
        for (int i = 0; i < tests.front().values; ++i) out.values.push_back(neutralValue(type));
        return out;
    }
    return Condition::of(Test::IsEmpty, {});
}

/// Back into the parts of the design.
void FilterPopover::take(const QString& label) {
    std::vector<Condition> parts;
    if (root_.kind == ConditionKind::All)
        parts = root_.children;
    else
        parts = {root_};
    std::vector<FilterDesign> filter;
    for (const Condition& part : parts) {
        const std::string rule = ruleOf(part, session_.schema());
        if (rule.empty()) continue;
        const auto known = std::find_if(design_.filter.begin(), design_.filter.end(),
                                        [&](const FilterDesign& f) { return f.rule == rule; });
        filter.push_back(known != design_.filter.end() ? *known : FilterDesign{rule, {}, {}, true});
    }
    // Those switched off are not part of the tree; they stay.
    for (const FilterDesign& part : design_.filter)
        if (!part.on) filter.push_back(part);
    design_.filter = std::move(filter);
    const bool outer = taking_;
    taking_ = true;
    Q_EMIT changed([filter = design_.filter](Design& d) { d.filter = filter; }, label);
    taking_ = outer;
    showSentence();
}

void FilterPopover::showSentence() {
    sentence_->setText(root_.children.empty() && root_.kind == ConditionKind::All
                           ? tr("Every record is shown. Add a condition, or type a rule.")
                           : tr("Shown are records where %1.")
                                 .arg(QString::fromStdString(sentenceOf(root_, session_.schema(), design_))));
}

void FilterPopover::addButtons(QHBoxLayout& into, const Path& path, int depth) {
    const auto link = [&](const QString& words, auto act) {
        auto* button = new QPushButton(words, tree_);
        button->setFlat(true);
        button->setCursor(Qt::PointingHandCursor);
        connect(button, &QPushButton::clicked, this, [this, path, act] {
            later([this, path, act] {
                if (Condition* c = at(path)) act(*c);
                take(tr("Change the filter"));
                rebuild();
            });
        });
        into.addWidget(button);
    };
    link(tr("+ Condition"), [this](Condition& c) { c.children.push_back(newTest()); });
    if (depth < 5)
        link(tr("+ Set"), [this](Condition& c) {
            Condition group;
            group.kind = c.kind == ConditionKind::Any ? ConditionKind::All : ConditionKind::Any;
            group.children.push_back(newTest());
            c.children.push_back(std::move(group));
        });
}

void FilterPopover::addGroup(QVBoxLayout& into, const Path& path, int depth) {
    const Condition group = *at(path);
    auto* row = new QHBoxLayout;
    row->setContentsMargins(depth * kIndent, 0, 0, 0);
    row->setSpacing(8);
    auto* kind = new PickBox(tree_);
    kind->addItems({tr("all of"), tr("any of"), tr("none of")});
    kind->setCurrentIndex(static_cast<int>(group.kind));
    kind->setFixedWidth(scaled(96));
    kind->setAccessibleName(tr("How the conditions of this set are joined"));
    connect(kind, &QComboBox::activated, this, [this, path](int index) {
        later([this, path, index] {
            if (Condition* c = at(path)) c->kind = static_cast<ConditionKind>(index);
            take(tr("Change the filter"));
            rebuild();
        });
    });
    row->addWidget(kind);
    addButtons(*row, path, depth);
    row->addStretch();
    if (!path.empty()) {
        auto* away = new QToolButton(tree_);
        away->setIcon(makeIcon(Icon::Cross, look().ink2, 14));
        away->setToolTip(tr("Take this group away"));
        connect(away, &QToolButton::clicked, this, [this, path] {
            later([this, path] {
                Path up(path.begin(), path.end() - 1);
                if (Condition* c = at(up); c && path.back() < c->children.size())
                    c->children.erase(c->children.begin() + static_cast<std::ptrdiff_t>(path.back()));
                take(tr("Change the filter"));
                rebuild();
            });
        });
        row->addWidget(away);
    }
    into.addLayout(row);
    for (std::size_t i = 0; i < group.children.size(); ++i) {
        Path inner = path;
        inner.push_back(i);
        const ConditionKind kindOfChild = group.children[i].kind;
        if (kindOfChild == ConditionKind::Test || kindOfChild == ConditionKind::Rule)
            addTest(into, inner, depth + 1);
        else
            addGroup(into, inner, depth + 1);
    }
}

void FilterPopover::changeAt(const Path& path, std::function<void(Condition&)> act) {
    later([this, path, act = std::move(act)] {
        if (Condition* target = at(path)) act(*target);
        take(tr("Change the filter"));
        rebuild();
    });
}

void FilterPopover::addTest(QVBoxLayout& into, const Path& path, int depth) {
    const Condition c = *at(path);
    auto* row = new QHBoxLayout;
    row->setContentsMargins(depth * kIndent, 0, 0, 0);
    row->setSpacing(8);
    if (c.kind == ConditionKind::Rule) {
        auto* text = new QLabel(QString::fromStdString(c.rule), tree_);
        text->setToolTip(tr("A condition of its own form: edit it in the rule below."));
        row->addWidget(text, 1);
    } else {
        addField(*row, path, c);
        addTestPick(*row, path, c);
        if (c.test == Test::Period)
            addPeriod(*row, path, c);
        else if (c.test != Test::IsEmpty && c.test != Test::IsTrue && c.test != Test::IsFalse)
            addValues(*row, path, c);
        else
            row->addStretch(1);
    }
    addTakeAway(*row, path);
    into.addLayout(row);
}

void FilterPopover::addField(QHBoxLayout& row, const Path& path, const Condition& c) {
    auto* field = new PickBox(tree_);
    field->setFixedWidth(scaled(140));
    field->setAccessibleName(tr("Column"));
    for (const std::string& name : fieldsOffered()) field->addItem(headingOf(name), QString::fromStdString(name));
    if (field->findData(QString::fromStdString(c.field)) < 0)
        field->addItem(headingOf(c.field), QString::fromStdString(c.field));
    field->setCurrentIndex(field->findData(QString::fromStdString(c.field)));
    connect(field, &QComboBox::activated, this, [this, field, path](int index) {
        const std::string name = field->itemData(index).toString().toStdString();
        changeAt(path, [this, name](Condition& target) {
            const Type type = typeOf(name);
            const TestWords first = testsFor(type).front();
            target = Condition::of(first.test, name);
            for (int i = 0; i < first.values; ++i) target.values.push_back(neutralValue(type));
        });
    });
    row.addWidget(field);
}

Type FilterPopover::typeOf(const std::string& field) const {
    const auto known = session_.schema().find(field);
    return known ? session_.schema().field(*known).type : Type::Text;
}

void FilterPopover::addTestPick(QHBoxLayout& row, const Path& path, const Condition& c) {
    const Type type = typeOf(c.field);
    const std::vector<TestWords> tests = testsFor(type);
    const std::vector<OperatorDesign> own = operatorsFor(design_, type);
    auto* test = new PickBox(tree_);
    test->setFixedWidth(scaled(176));
    test->setAccessibleName(tr("Test"));
    int current = -1;
    for (std::size_t i = 0; i < tests.size(); ++i) {
        test->addItem(tr(tests[i].words));
        if (tests[i].test == c.test && tests[i].negated == c.negated && c.test != Test::Operator)
            current = static_cast<int>(i);
    }
    for (std::size_t i = 0; i < own.size(); ++i) {
        test->addItem(QString::fromStdString(own[i].title));
        if (c.test == Test::Operator && own[i].name == c.name) current = static_cast<int>(tests.size() + i);
    }
    if (current < 0) {
        test->addItem(tr("not …"));
        current = test->count() - 1;
    }
    test->setCurrentIndex(current);
    connect(test, &QComboBox::activated, this, [this, tests, own, type, path](int index) {
        const auto i = static_cast<std::size_t>(index);
        if (i < tests.size())
            changeAt(path, [words = tests[i], type](Condition& target) { turnInto(target, words, type); });
        else if (i - tests.size() < own.size())
            changeAt(path, [one = own[i - tests.size()]](Condition& target) { turnInto(target, one); });
    });
    row.addWidget(test);
}

void FilterPopover::addPeriod(QHBoxLayout& row, const Path& path, const Condition& c) {
    auto* period = new PickBox(tree_);
    for (const std::string& name : periodNames()) period->addItem(QString::fromStdString(name));
    period->setCurrentText(QString::fromStdString(c.values.empty() ? std::string() : c.values[0]));
    connect(period, &QComboBox::activated, this, [this, period, path](int) {
        changeAt(path, [name = period->currentText().toStdString()](Condition& target) { target.values = {name}; });
    });
    row.addWidget(period, 1);
}

void FilterPopover::addValues(QHBoxLayout& row, const Path& path, const Condition& c) {
    const std::size_t count = c.test == Test::OneOf ? 1 : c.values.size();
    for (std::size_t k = 0; k < count; ++k) {
        if (c.toField)
            addOtherField(row, path, c);
        else
            addValue(row, path, c, k);
    }
    const bool single = c.test == Test::Equal || c.test == Test::NotEqual || c.test == Test::Less ||
                        c.test == Test::LessEqual || c.test == Test::Greater || c.test == Test::GreaterEqual;
    if (!single) return;
    auto* side = new QToolButton(tree_);
    side->setText(c.toField ? tr("a value") : tr("a column"));
    side->setToolTip(c.toField ? tr("Compare with a value instead") : tr("Compare with another column instead"));
    connect(side, &QToolButton::clicked, this, [this, type = typeOf(c.field), path] {
        changeAt(path, [type](Condition& target) {
            target.toField = !target.toField;
            target.values = {target.toField ? target.field : neutralValue(type)};
        });
    });
    row.addWidget(side);
}

void FilterPopover::addOtherField(QHBoxLayout& row, const Path& path, const Condition& c) {
    auto* other = new PickBox(tree_);
    for (const std::string& name : fieldsOffered()) other->addItem(headingOf(name), QString::fromStdString(name));
    other->setCurrentIndex(other->findData(QString::fromStdString(c.values[0])));
    connect(other, &QComboBox::activated, this, [this, other, path](int) {
        changeAt(path,
                 [name = other->currentData().toString().toStdString()](Condition& target) { target.values = {name}; });
    });
    row.addWidget(other, 1);
}

void FilterPopover::addValue(QHBoxLayout& row, const Path& path, const Condition& c, std::size_t index) {
    auto* value = new QLineEdit(tree_);
    QString text = QString::fromStdString(c.values.empty() ? std::string() : c.values[index]);
    if (c.test == Test::OneOf) {
        QStringList all;
        for (const std::string& one : c.values) all << QString::fromStdString(one);
        text = all.join(QStringLiteral(", "));
    }
    value->setText(text);
    value->setAccessibleName(tr("Value"));
    value->setMinimumWidth(scaled(70));
    connect(value, &QLineEdit::textEdited, this, [this, path, index, value] { takeTyped(*value, path, index); });
    row.addWidget(value, 1);
}

/// What is typed, once it is a value of the column's type; read as the filter row reads it.
void FilterPopover::takeTyped(QLineEdit& entry, const Path& path, std::size_t index) {
    Condition* target = at(path);
    if (!target) return;
    const Type type = typeOf(target->field);
    const bool list = target->test == Test::OneOf;
    const bool asTyped = type == Type::Text || target->test == Test::Operator;
    std::vector<std::string> values;
    bool sound = true;
    for (const QString& one : list ? entry.text().split(',') : QStringList(entry.text())) {
        const std::string plain = list ? one.trimmed().toStdString() : one.toStdString();
        if (asTyped) {
            values.push_back(plain);
            continue;
        }
        const auto read = conditionFromEntry("= " + plain, design_, session_.schema(), target->field);
        sound = sound && read && read->values.size() == 1;
        if (sound) values.push_back(read->values[0]);
    }
    QPalette colours = entry.palette();
    colours.setColor(QPalette::Text, sound ? look().ink : look().buoyText);
    entry.setPalette(colours);
    const std::string_view noun = article(type);
    entry.setToolTip(
        sound ? QString()
              : tr("This is not %1.").arg(QString::fromUtf8(noun.data(), static_cast<qsizetype>(noun.size()))));
    if (!sound) return;
    if (list)
        target->values = values;
    else if (index < target->values.size())
        target->values[index] = values.front();
    take(tr("Change the filter"));
    rule_->setText(QString::fromStdString(ruleOf(root_, session_.schema())));
}

void FilterPopover::addTakeAway(QHBoxLayout& row, const Path& path) {
    auto* away = new QToolButton(tree_);
    away->setIcon(makeIcon(Icon::Cross, look().ink2, 14));
    away->setToolTip(tr("Take this condition away"));
    away->setAccessibleName(tr("Take this condition away"));
    connect(away, &QToolButton::clicked, this, [this, path] {
        later([this, path] {
            Path up(path.begin(), path.end() - 1);
            if (path.empty())
                root_ = Condition{};
            else if (Condition* group = at(up); group && path.back() < group->children.size())
                group->children.erase(group->children.begin() + static_cast<std::ptrdiff_t>(path.back()));
            take(tr("Change the filter"));
            rebuild();
        });
    });
    row.addWidget(away);
}

void FilterPopover::rebuild() {
    // A single test typed as a rule stands in a group, so that more can be added.
    if (root_.kind == ConditionKind::Test || root_.kind == ConditionKind::Rule) {
        Condition all;
        all.children.push_back(std::move(root_));
        root_ = std::move(all);
    }
    auto* fresh = new QWidget(this);
    auto* old = std::exchange(tree_, fresh);
    auto* layout = new QVBoxLayout(fresh);
    layout->setContentsMargins(0, 2, 0, 2);
    layout->setSpacing(6);
    addGroup(*layout, {}, 0);
    exchange(old, fresh);
    if (!rule_->edit().hasFocus()) rule_->setText(QString::fromStdString(ruleOf(root_, session_.schema())));
    showSentence();
    showCount();
    fitHeight();
}

void FilterPopover::showCount() {
    const auto& snapshot = session_.snapshot();
    if (snapshot)
        rule_->setNote(
            tr("%1 of %2 records").arg(grouped(snapshot->filter.rowsOut), grouped(snapshot->source.rowsOut)));
}

}  // namespace jollyrow
