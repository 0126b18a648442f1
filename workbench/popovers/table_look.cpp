// SPDX-License-Identifier: MIT
#include "workbench/popovers/table_look.h"

#include <QLabel>
#include <QScrollArea>
#include <QVBoxLayout>

#include "core/design/make_design.h"
#include "core/sources/source.h"
#include "grid/api/grid.h"
#include "workbench/app/look.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {
namespace {

constexpr std::int64_t kFirst = 20;

Result<std::shared_ptr<const Table>> firstOf(const std::string& path, const std::string& table, const Cancel& cancel) {
    auto source = openSource(path);
    if (!source) return source.error();
    LoadRequest request;
    request.binding.table = table;
    request.most = kFirst;
    return (*source)->load(request, cancel);
}

QString joined(const std::vector<std::string>& names) {
    QStringList all;
    for (const std::string& name : names) all << QString::fromStdString(name);
    return all.join(QStringLiteral(", "));
}

QStringList factsOf(const TableSchema& schema) {
    QStringList facts;
    std::vector<std::pair<int, std::string>> key;
    for (const FieldSchema& field : schema.fields)
        if (field.primaryKeyRank > 0) key.emplace_back(field.primaryKeyRank, field.name);
    std::sort(key.begin(), key.end());
    std::vector<std::string> names;
    for (const auto& [rank, name] : key) names.push_back(name);
    facts << (names.empty() ? TableLook::tr("no key of its own") : TableLook::tr("key: %1").arg(joined(names)));
    for (const auto& unique : schema.uniqueKeys) facts << TableLook::tr("unique: %1").arg(joined(unique));
    for (const ForeignKey& link : schema.foreignKeys)
        facts << TableLook::tr("%1 points to %2").arg(joined(link.fields), QString::fromStdString(link.table));
    for (const std::string& check : schema.checks)
        facts << TableLook::tr("check: %1").arg(QString::fromStdString(check).simplified());
    if (!schema.writable && !schema.whyNotWritable.empty()) facts << QString::fromStdString(schema.whyNotWritable);
    return facts;
}

QStringList columnsOf(const TableSchema& schema) {
    QStringList columns;
    for (const FieldSchema& field : schema.fields) {
        QString words = QString::fromStdString(field.name + "  " + field.declaredType);
        if (field.primaryKeyRank > 0) words += TableLook::tr(", key");
        if (field.required && field.primaryKeyRank == 0) words += TableLook::tr(", required");
        if (field.generated) words += TableLook::tr(", made by the database");
        if (!field.comment.empty()) words += QStringLiteral(": ") + QString::fromStdString(field.comment);
        columns << words;
    }
    return columns;
}

}  // namespace

TableLook::TableLook(std::string databasePath, QWidget* parent)
    : QWidget(parent),
      path_(std::move(databasePath)),
      title_(new QLabel(this)),
      facts_(quietLabel({}, this)),
      columns_(new QLabel(this)),
      records_(new Grid(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    title_->setFont(sized(15, QFont::DemiBold));
    for (QLabel* label : {title_, facts_, columns_}) {
        label->setTextFormat(Qt::PlainText);
        label->setWordWrap(true);
    }
    auto* said = new QWidget(this);
    auto* list = new QVBoxLayout(said);
    list->setContentsMargins(0, 0, 6, 0);
    list->addWidget(facts_);
    list->addWidget(columns_);
    list->addStretch();
    auto* scrolled = new QScrollArea(this);
    scrolled->setFrameShape(QFrame::NoFrame);
    scrolled->setWidgetResizable(true);
    scrolled->setWidget(said);
    column->addWidget(title_);
    column->addWidget(scrolled, 1);
    records_->setAccessibleName(tr("First records"));
    records_->setEditable(false);
    records_->setFixedHeight(scaled(150));
    column->addWidget(records_);
}

TableLook::~TableLook() {
    latest_.cancel();
    worker_.stop();
}

void TableLook::look(const std::string& table) {
    title_->setText(QString::fromStdString(table));
    facts_->setText(tr("looking at it…"));
    const Latest::Turn turn = latest_.next();
    worker_.run([this, table, turn, path = path_] {
        if (turn.cancel.requested()) return;
        const auto first = firstOf(path, table, turn.cancel);
        // This waits for its worker before it goes.
        QMetaObject::invokeMethod(this, [this, table, turn, first] {
            if (latest_.isNewest(turn)) show(table, first);
        });
    });
}

QString TableLook::words() const { return title_->text() + u'\n' + facts_->text() + u'\n' + columns_->text(); }

void TableLook::show(const std::string& table, const Result<std::shared_ptr<const Table>>& first) {
    if (!first) {
        facts_->setText(QString::fromStdString(first.error().message));
        columns_->clear();
        records_->hide();
    } else {
        const TableSchema& schema = (*first)->schema;
        facts_->setText(factsOf(schema).join(QStringLiteral("   ·   ")));
        columns_->setText(columnsOf(schema).join(u'\n'));
        SourceDesign from;
        from.table = table;
        const auto opened = records_->open(designFor(schema, from), *first);
        records_->setVisible(opened.ok());
    }
    Q_EMIT shown(QString::fromStdString(table));
}

}  // namespace jollyrow
