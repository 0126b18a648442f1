// SPDX-License-Identifier: MIT
#include "workbench/popovers/computed_popover.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>

#include <fmt/format.h>

#include "core/design/computed_fields.h"
#include "core/design/make_design.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "workbench/app/look.h"
#include "workbench/fittings/fitting_section.h"
#include "workbench/rules/rule_entry.h"
#include "workbench/rules/rule_names.h"
#include "workbench/rules/rule_preview.h"

namespace jollyrow {

ComputedPopover::ComputedPopover(QWidget* window, const Design& design, Grid& grid,
                                 const std::optional<std::string>& field, const std::string& behind)
    : Popover(field ? tr("Computed column") : tr("New computed column"), window),
      design_(design),
      grid_(grid),
      field_(field),
      behind_(behind),
      heading_(new QLineEdit(this)),
      name_(new QLineEdit(this)),
      problem_(problemLabel(this)),
      preview_(new RulePreview(grid, this)) {
    auto* words = new QLabel(tr("Its values come from a rule over other columns and are stored nowhere. It sorts, "
                                "filters and counts like any other."),
                             this);
    words->setWordWrap(true);
    words->setForegroundRole(QPalette::PlaceholderText);
    body()->addWidget(words);
    addNames();
    body()->addWidget(problem_);
    addRule();
    addFoot();
    showColumn(field_ ? design_.column(*field_) : nullptr);
    connect(heading_, &QLineEdit::textEdited, this, [this] {
        if (!field_ && !nameIsTyped_) showName();
        take();
    });
    connect(name_, &QLineEdit::textEdited, this, [this] {
        nameIsTyped_ = true;
        take();
    });
    connect(rule_, &RuleEntry::changed, this, &ComputedPopover::take);
    QTimer::singleShot(0, this, [this] {
        field_ ? rule_->edit().setFocus() : heading_->setFocus();
        heading_->selectAll();
    });
}

void ComputedPopover::addNames() {
    auto* names = new QHBoxLayout;
    names->setSpacing(8);
    heading_->setAccessibleName(tr("Heading"));
    heading_->setPlaceholderText(tr("Heading"));
    name_->setAccessibleName(tr("Name in rules"));
    name_->setFixedWidth(scaled(170));
    names->addWidget(heading_, 1);
    names->addWidget(quietLabel(tr("rules call it"), this));
    names->addWidget(name_);
    body()->addLayout(names);
}

void ComputedPopover::addRule() {
    QStringList known = ruleNames(grid_.session(), design_);
    if (field_) known.removeAll(QString::fromStdString(*field_));
    rule_ = new RuleEntry(
        known,
        [this](const std::string& text) {
            auto program = compileColumn(text, readable(text), vocabularyOf(design_, grid_.session().registered()));
            preview_->setProgram(program ? *program : nullptr);
            return program;
        },
        this);
    body()->addWidget(rule_);
    body()->addWidget(preview_);
}

void ComputedPopover::addFoot() {
    auto* foot = new QHBoxLayout;
    auto* others = new QPushButton(tr("Other records"), this);
    others->setFlat(true);
    connect(others, &QPushButton::clicked, preview_, &RulePreview::chooseOthers);
    foot->addWidget(others);
    foot->addStretch();
    auto* done = new QPushButton(tr("Done"), this);
    connect(done, &QPushButton::clicked, this, [this] {
        close();
        Q_EMIT closed();
    });
    foot->addWidget(done);
    body()->addLayout(foot);
}

/// `column` null: a new one.
void ComputedPopover::showColumn(const ColumnDesign* column) {
    heading_->setText(column ? QString::fromStdString(column->heading) : tr("Computed"));
    name_->setReadOnly(column != nullptr);
    name_->setToolTip(column ? tr("Other rules may use it already, so it stays.") : QString());
    showName();
    if (column) rule_->setText(QString::fromStdString(column->rule));
}

void ComputedPopover::setDesign(const Design& design) {
    design_ = design;
    // Undone: what is typed stays, and would make it anew.
    if (field_ && !design_.column(*field_)) {
        close();
        Q_EMIT closed();
    }
}

/// The fields that the rule may read: all but the column itself and those that are computed from it.
TableSchema ComputedPopover::readable(const std::string& rule) const {
    Design others = design_;
    if (field_) std::erase_if(others.columns, [&](const ColumnDesign& c) { return c.field == *field_; });
    return withComputedFields(grid_.session().schemaReading(rule), others, grid_.session().registered());
}

std::string ComputedPopover::freeName(const std::string& heading) const {
    std::string base = nameFor(heading);
    if (base.empty()) base = "computed";
    std::string name = base;
    for (int n = 2; design_.column(name) || grid_.session().schema().find(name); ++n)
        name = fmt::format("{}_{}", base, n);
    return name;
}

void ComputedPopover::showName() {
    name_->setText(QString::fromStdString(field_ ? *field_ : freeName(heading_->text().toStdString())));
}

void ComputedPopover::take() {
    const std::string name = name_->text().trimmed().toStdString();
    if (!field_) {
        auto allowed = checkComputedName(name, grid_.session().schema());
        if (allowed && design_.column(name))
            allowed = Error{ErrorCode::InvalidInput, "There is a column of this name in the design already."};
        problem_->setVisible(!allowed);
        problem_->setText(allowed ? QString() : QString::fromStdString(allowed.error().message));
        fitHeight();
        if (!allowed) return;
    }
    const auto program = rule_->program();
    const QString typed = rule_->text().trimmed();
    if (!program || typed.isEmpty()) return;
    Design next = design_;
    if (!field_) {
        FieldSchema made;
        made.name = name;
        made.type = columnTypeOf(program->type().kind);
        ColumnDesign column = columnFor(made);
        const auto at = std::find_if(next.columns.begin(), next.columns.end(),
                                     [&](const ColumnDesign& c) { return c.field == behind_; });
        if (at != next.columns.end()) column.tier = at->tier;
        next.columns.insert(at == next.columns.end() ? at : at + 1, std::move(column));
    }
    ColumnDesign* column = next.column(field_.value_or(name));
    if (!column) return;
    column->heading = heading_->text().toStdString();
    column->rule = typed.toStdString();
    column->type = columnTypeOf(program->type().kind);
    column->readOnly = true;
    if (next == design_) return;
    const bool isNew = !field_;
    field_ = column->field;
    name_->setReadOnly(true);
    design_ = next;
    Q_EMIT changed([columns = next.columns](Design& d) { d.columns = columns; },
                   tr("Compute %1").arg(QString::fromStdString(*field_)));
    if (isNew) Q_EMIT added(QString::fromStdString(*field_));
}

}  // namespace jollyrow
