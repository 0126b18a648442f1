// SPDX-License-Identifier: MIT
#include "grid/api/parameter_bar.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>

#include "core/columns/schema.h"
#include "core/formats/text_format.h"
#include "core/rules/conversion.h"
#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/editors/editor.h"
#include "grid/editors/editor_task.h"
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
        case Type::Text:
        case Type::Timestamp:
        case Type::Instant: return 150;
        case Type::Date: return 104;
        default: return 84;
    }
}

QString hintOf(const ParameterDesign& parameter) {
    return parameter.hint.empty() ? ParameterBar::tr("any") : QString::fromStdString(parameter.hint);
}

int hintWidth(const QWidget& entry, const ParameterDesign& parameter) {
    constexpr int kAir = 18, kMost = 260;
    return std::min(kMost, entry.fontMetrics().horizontalAdvance(hintOf(parameter)) + kAir);
}

/// The line in which an entry is typed; null of a yes or no.
QLineEdit* lineOf(QWidget* entry) {
    auto* line = qobject_cast<QLineEdit*>(entry);
    return line || !entry ? line : entry->findChild<QLineEdit*>();
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
        if (QString::fromStdString(shown_[i].name) == name) return lineOf(entries_[i]);
    return nullptr;
}

QString ParameterBar::message() const { return message_->text(); }

/// Entries are made anew only when the design's parameters are other ones, so that typing is never disturbed.
void ParameterBar::refresh() {
    if (!grid_ || !grid_->snapshot()) return;
    const auto& parameters = grid_->session().design().parameters;
    const TableSchema& schema = grid_->session().schema();
    std::vector<FieldSchema> like;
    for (const ParameterDesign& parameter : parameters)
        if (const auto field = schema.find(parameter.like); field && !parameter.like.empty())
            like.push_back(schema.field(*field));
    if (parameters == shown_ && like == likeFields_) return;
    likeFields_ = std::move(like);
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
    QWidget* entry = nullptr;
    if (Editor* editor = makeEditorFor(parameter))
        entry = editor;
    else
        entry = parameter.type == Type::Boolean ? makeYesNo(parameter) : makeLine(parameter);
    entry->setAccessibleName(QString::fromStdString(parameter.heading));
    return entry;
}

QWidget* ParameterBar::makeYesNo(const ParameterDesign& parameter) {
    const auto& values = grid_->session().view().parameters();
    const auto value = values.find(parameter.name);
    auto* box = new QComboBox(this);
    box->addItems({hintOf(parameter), tr("yes"), tr("no")});
    if (value != values.end()) box->setCurrentIndex(value->second == RuleValue(true) ? 1 : 2);
    connect(box, &QComboBox::activated, this,
            [this, parameter](int index) { take(parameter, index == 0 ? Value(Empty{}) : Value(index == 1), {}); });
    return box;
}

QWidget* ParameterBar::makeLine(const ParameterDesign& parameter) {
    const auto& values = grid_->session().view().parameters();
    const auto value = values.find(parameter.name);
    auto* entry = new QLineEdit(this);
    entry->setFixedWidth(std::max(widthFor(parameter.type), hintWidth(*entry, parameter)));
    entry->setClearButtonEnabled(parameter.type == Type::Text);
    entry->setPlaceholderText(hintOf(parameter));
    if (value != values.end()) entry->setText(QString::fromStdString(textOf(value->second)));
    connect(entry, &QLineEdit::textEdited, this, [this, parameter](const QString& text) { typed(parameter, text); });
    return entry;
}

/// The editor of a day, or of the field that it is like; null: a plain entry is as good.
Editor* ParameterBar::makeEditorFor(const ParameterDesign& parameter) {
    Session& session = grid_->session();
    auto like = parameter.like.empty() ? std::nullopt : session.schema().find(parameter.like);
    if (like && session.schema().field(*like).type != parameter.type) like.reset();  // there is a finding
    EditorTask task;
    task.field = fieldOf(parameter);
    bool isWorthIt = parameter.type == Type::Date || parameter.type == Type::Timestamp;
    for (const PlannedColumn& column : session.plan().columns) {
        if (!like || column.field != *like) continue;
        const EditorTask cells = editorTaskFor(session, column);
        if (cells.search) {
            task.linkedTable = cells.linkedTable;
            task.search = [grid = grid_, field = *like](const QString& contains, const EditorTask::Found& found) {
                if (grid) grid->session().questions().lookUp(field, contains.toStdString(), found);
            };
        }
        task.field = cells.field;
    }
    if (like && task.search == nullptr) task.field = session.schema().field(*like);
    isWorthIt = isWorthIt || task.search || !task.field.permitted.empty() || task.field.type == Type::Date ||
                task.field.type == Type::Timestamp;
    if (!isWorthIt) return nullptr;
    task.field.required = false;
    task.heading = QString::fromStdString(parameter.heading);
    task.hint = hintOf(parameter);
    Editor* editor = makeEditor(task, this);
    editor->standAlone();
    const bool isNamed = task.search || !task.field.permitted.empty();
    editor->setFixedSize(std::max({isNamed ? 170 : widthFor(task.field.type) + 24, editor->leastWidth()}),
                         QLineEdit().sizeHint().height());
    auto* line = editor->findChild<QLineEdit*>();
    const auto& values = session.view().parameters();
    const auto value = values.find(parameter.name);
    if (line && value != values.end()) line->setText(QString::fromStdString(textOf(value->second)));
    const Said soon = task.search ? Said::WhenItCanBe : Said::InAnyCase;  // half a name is no mistake yet
    const auto take = [this, parameter, editor, soon] { entered(parameter, *editor, soon); };
    if (line) {
        connect(line, &QLineEdit::textChanged, this, take);  // also by the calendar and the list
        // Left with half a name in it, it says that it restricts to what it said before.
        connect(line, &QLineEdit::editingFinished, this,
                [this, parameter, editor] { entered(parameter, *editor, Said::InAnyCase); });
    } else {
        connect(editor, &Editor::edited, this, take);
    }
    connect(editor, &Editor::committed, this, [this, parameter, editor] {
        if (!editor->commitsLater()) entered(parameter, *editor, Said::InAnyCase);
    });
    return editor;
}

void ParameterBar::entered(const ParameterDesign& parameter, const Editor& editor, Said said) {
    if (editor.typed().trimmed().isEmpty()) return take(parameter, Empty{}, {});
    const auto read = editor.entered();
    if (read) return take(parameter, read->value, {});
    if (said == Said::InAnyCase) take(parameter, {}, QString::fromStdString(read.error().message));
}

void ParameterBar::typed(const ParameterDesign& parameter, const QString& text) {
    if (text.trimmed().isEmpty()) return take(parameter, Empty{}, {});
    const auto read = parseTyped(text.trimmed().toStdString(), fieldOf(parameter));
    read ? take(parameter, *read, {}) : take(parameter, {}, QString::fromStdString(read.error().message));
}

/// With a problem the last good value stays.
void ParameterBar::take(const ParameterDesign& parameter, const Value& value, const QString& problem) {
    const auto at = std::find(shown_.begin(), shown_.end(), parameter);
    if (!grid_ || at == shown_.end()) return;
    problems_[static_cast<std::size_t>(at - shown_.begin())] = problem;
    const QString name = QString::fromStdString(parameter.name);
    if (problem.isEmpty()) grid_->setParameter(name, value);
    showState();
    if (problem.isEmpty()) Q_EMIT parameterSet(name);
}

void ParameterBar::clearAll() {
    if (!grid_) return;
    for (std::size_t i = 0; i < shown_.size(); ++i) {
        if (auto* entry = lineOf(entries_[i])) entry->clear();
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
        auto* entry = lineOf(entries_[i]);
        auto* box = qobject_cast<QComboBox*>(entries_[i]);
        anySet = anySet || (entry && !entry->text().isEmpty()) || (box && box->currentIndex() > 0);
        if (said.isEmpty()) said = problems_[i];
        if (!entry) continue;
        QPalette colours = palette();
        if (!problems_[i].isEmpty()) colours.setColor(QPalette::Text, t.buoyText);
        entry->setPalette(colours);
        entry->setToolTip(problems_[i]);
        if (auto* editor = qobject_cast<Editor*>(entries_[i].data())) editor->setRefused(!problems_[i].isEmpty());
    }
    QPalette red = palette();
    red.setColor(QPalette::WindowText, t.buoyText);
    message_->setPalette(red);
    message_->setText(said);
    clear_->setVisible(anySet);
}

}  // namespace jollyrow
