// SPDX-License-Identifier: MIT
#include "grid/api/parameter_bar.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

#include "core/columns/schema.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/paint/looks.h"

namespace jollyrow {
namespace {

FieldSchema fieldOf(const ParameterDesign& parameter) {
    FieldSchema field;
    field.name = parameter.heading.empty() ? parameter.name : parameter.heading;
    field.type = parameter.type;
    field.scale = parameter.type == Type::Decimal ? Decimal::kMaxScale / 2 : 0;
    return field;
}

int widthFor(Type type) {
    switch (type) {
        case Type::Text: return 150;
        case Type::Timestamp:
        case Type::Instant: return 150;
        case Type::Date: return 104;
        default: return 84;
    }
}

}  // namespace

ParameterBar::ParameterBar(Grid& grid, QWidget* parent)
    : QWidget(parent),
      grid_(&grid),
      message_(new QLabel(this)),
      clear_(new QPushButton(tr("Clear"), this)),
      row_(new QHBoxLayout(this)) {
    setAccessibleName(tr("Search by parameters"));
    row_->setContentsMargins(12, 5, 10, 5);
    row_->setSpacing(8);
    message_->setTextFormat(Qt::PlainText);
    clear_->setFlat(true);
    clear_->setToolTip(tr("Empty all entries: nothing is restricted"));
    connect(clear_, &QPushButton::clicked, this, &ParameterBar::clearAll);
    row_->addWidget(message_, 1);
    row_->addWidget(clear_);
    connect(&grid, &Grid::snapshotChanged, this, &ParameterBar::refresh);
    hide();
    refresh();
}

QLineEdit* ParameterBar::entry(const QString& name) const {
    for (std::size_t i = 0; i < shown_.size(); ++i)
        if (QString::fromStdString(shown_[i].name) == name) return qobject_cast<QLineEdit*>(entries_[i]);
    return nullptr;
}

QString ParameterBar::message() const { return message_->text(); }

/// Entries are made anew only when the design's parameters are other ones, so that typing is never disturbed.
void ParameterBar::refresh() {
    if (!grid_ || !grid_->snapshot()) return;
    const auto& parameters = grid_->session().design().parameters;
    if (parameters == shown_) return;
    for (const auto& old : entries_)
        if (old) old->deleteLater();
    while (row_->count() > 2) {
        QLayoutItem* item = row_->takeAt(0);
        if (item->widget()) item->widget()->deleteLater();
        delete item;
    }
    shown_ = parameters;
    entries_.clear();
    problems_.assign(shown_.size(), {});
    for (std::size_t i = 0; i < shown_.size(); ++i) {
        auto* words =
            new QLabel(QString::fromStdString(shown_[i].heading.empty() ? shown_[i].name : shown_[i].heading), this);
        words->setTextFormat(Qt::PlainText);
        words->setForegroundRole(QPalette::PlaceholderText);
        QWidget* entry = makeEntry(shown_[i]);
        words->setBuddy(entry);
        entries_.emplace_back(entry);
        row_->insertWidget(static_cast<int>(2 * i), words);
        row_->insertWidget(static_cast<int>(2 * i + 1), entry);
    }
    setVisible(!shown_.empty());
    showState();
}

QWidget* ParameterBar::makeEntry(const ParameterDesign& parameter) {
    const auto& values = grid_->session().view().parameters();
    const auto value = values.find(parameter.name);
    if (parameter.type == Type::Boolean) {
        auto* box = new QComboBox(this);
        box->addItems({tr("any"), tr("yes"), tr("no")});
        if (value != values.end()) box->setCurrentIndex(value->second == RuleValue(true) ? 1 : 2);
        box->setAccessibleName(QString::fromStdString(parameter.heading));
        connect(box, &QComboBox::activated, this, [this, name = parameter.name](int index) {
            if (!grid_) return;
            grid_->setParameter(QString::fromStdString(name), index == 0 ? Value(Empty{}) : Value(index == 1));
            showState();
            Q_EMIT parameterSet(QString::fromStdString(name));
        });
        return box;
    }
    auto* entry = new QLineEdit(this);
    entry->setFixedWidth(widthFor(parameter.type));
    entry->setClearButtonEnabled(parameter.type == Type::Text);
    entry->setPlaceholderText(tr("any"));
    entry->setAccessibleName(QString::fromStdString(parameter.heading));
    if (value != values.end()) entry->setText(QString::fromStdString(textOf(value->second)));
    connect(entry, &QLineEdit::textEdited, this, [this, parameter](const QString& text) { typed(parameter, text); });
    return entry;
}

void ParameterBar::typed(const ParameterDesign& parameter, const QString& text) {
    if (!grid_) return;
    const auto at = std::find(shown_.begin(), shown_.end(), parameter);
    if (at == shown_.end()) return;
    QString& problem = problems_[static_cast<std::size_t>(at - shown_.begin())];
    problem.clear();
    Value value = Empty{};
    if (!text.trimmed().isEmpty()) {
        const auto read = parseTyped(text.trimmed().toStdString(), fieldOf(parameter));
        if (read)
            value = *read;
        else
            problem = QString::fromStdString(read.error().message);
    }
    if (problem.isEmpty()) grid_->setParameter(QString::fromStdString(parameter.name), value);
    showState();
    if (problem.isEmpty()) Q_EMIT parameterSet(QString::fromStdString(parameter.name));
}

void ParameterBar::clearAll() {
    if (!grid_) return;
    for (std::size_t i = 0; i < shown_.size(); ++i) {
        if (auto* entry = qobject_cast<QLineEdit*>(entries_[i])) entry->clear();
        if (auto* box = qobject_cast<QComboBox*>(entries_[i])) box->setCurrentIndex(0);
        problems_[i].clear();
        grid_->setParameter(QString::fromStdString(shown_[i].name), Value(Empty{}));
        Q_EMIT parameterSet(QString::fromStdString(shown_[i].name));
    }
    showState();
}

void ParameterBar::showState() {
    const Tokens& t = tokensAt(*this);
    QString said;
    bool anySet = false;
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        auto* entry = qobject_cast<QLineEdit*>(entries_[i]);
        auto* box = qobject_cast<QComboBox*>(entries_[i]);
        anySet = anySet || (entry && !entry->text().isEmpty()) || (box && box->currentIndex() > 0);
        if (said.isEmpty()) said = problems_[i];
        if (!entry) continue;
        QPalette colours = palette();
        if (!problems_[i].isEmpty()) colours.setColor(QPalette::Text, t.buoyText);
        entry->setPalette(colours);
        entry->setToolTip(problems_[i]);
    }
    QPalette red = palette();
    red.setColor(QPalette::WindowText, t.buoyText);
    message_->setPalette(red);
    message_->setText(said);
    clear_->setVisible(anySet);
}

}  // namespace jollyrow
