// SPDX-License-Identifier: MIT
#include "workbench/app/document.h"

#include <QFileInfo>

#include "core/base/source_address.h"
#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/session/schema_for.h"
#include "core/sources/source.h"
#include "workbench/app/patiently.h"

namespace jollyrow {

void Document::begin(Design design, const QString& designPath, const QString& databasePath, bool saved) {
    design_ = std::move(design);
    savedDesign_ = design_;
    designPath_ = designPath;
    databasePath_ = databasePath;
    saved_ = saved;
    open_ = true;
    history_.clear();
    Q_EMIT opened();
    Q_EMIT stateChanged();
}

namespace {

Result<TableSchema> schemaOf(const Source& source, const Binding& binding) {
    const QString doing = binding.query.empty()
                              ? Document::tr("Reading the columns of %1").arg(QString::fromStdString(binding.table))
                              : Document::tr("Reading the columns of the SELECT");
    return patiently<TableSchema>(doing, [&](const Cancel& cancel) { return source.schema(binding, cancel); });
}

}  // namespace

Result<std::vector<TableSummary>> tablesOf(const Source& source, const QString& path) {
    return patiently<std::vector<TableSummary>>(
        Document::tr("Looking what %1 holds").arg(QString::fromStdString(sourceNameOf(path.toStdString()))),
        [&](const Cancel& cancel) { return source.tables(cancel); });
}

Result<void> Document::openDatabase(const QString& path, const QString& table, const QString& query) {
    auto source = openSource(path.toStdString());
    if (!source) return source.error();
    auto schema = schemaOf(**source, {table.toStdString(), query.toStdString()});
    if (!schema) return schema.error();
    fileFindings_.clear();
    begin(designFor(*schema,
                    {sourceKindOf(path.toStdString()), path.toStdString(), table.toStdString(), query.toStdString()}),
          {}, path, false);
    return {};
}

Result<void> Document::rebind(const QString& table, const QString& query) {
    auto source = openSource(databasePath_.toStdString());
    if (!source) return source.error();
    // The zone is the grid's; how fields are read was that of the other table's.
    auto schema = schemaOf(**source, {table.toStdString(), query.toStdString(), {}, {}, design_.source.zone});
    if (!schema) return schema.error();
    Design next = designFor(*schema, {sourceKindOf(databasePath_.toStdString()),
                                      design_.source.path,
                                      table.toStdString(),
                                      query.toStdString(),
                                      {},
                                      design_.source.zone,
                                      design_.source.pictures});
    next.unknown = design_.unknown;
    apply(next, query.isEmpty() ? tr("Bind to %1").arg(table) : tr("Bind to a SELECT"));
    return {};
}

Result<void> Document::openDesign(const QString& path) {
    auto read = readDesignFile(path.toStdString());
    if (!read) return read.error();
    const std::string database = resolvedSourcePath(read->design, path.toStdString());
    auto source = openSource(database);
    if (!source) return source.error();
    auto schema = schemaOf(**source, bindingOf(read->design.source));
    if (!schema) return schema.error();
    fileFindings_ = std::move(read->findings);
    begin(std::move(read->design), path, QString::fromStdString(database), true);
    return {};
}

Result<void> Document::save(const QString& path) {
    Design stored = design_;
    stored.source.path = storedSourcePath(databasePath_.toStdString(), path.toStdString());
    if (auto written = writeDesignFile(path.toStdString(), stored); !written) return written;
    designPath_ = path;
    savedDesign_ = design_;
    saved_ = true;
    Q_EMIT stateChanged();
    return {};
}

QString Document::title() const {
    if (!design_.title.empty()) return QString::fromStdString(design_.title);
    return designPath_.isEmpty() ? tr("Untitled") : QFileInfo(designPath_).completeBaseName();
}

void Document::change(const DesignChange& change, const QString& label, Joining joining) {
    Design next = design();
    change(next);
    apply(next, label, joining);
}

void Document::apply(const Design& next, const QString& label, Joining joining) {
    if (next == design_) return;
    auto* last = joining == Joining::WithLastOfSameName ? history_.lastToExtend() : nullptr;
    auto* lastChange =
        last && last->label == label.toStdString() ? std::get_if<BeforeAndAfter>(&last->change) : nullptr;
    if (lastChange)
        lastChange->after = next;
    else
        history_.push(label.toStdString(), BeforeAndAfter{design_, next});
    design_ = next;
    Q_EMIT designChanged();
    Q_EMIT stateChanged();
}

void Document::noteRecords(const QString& label) {
    history_.push(label.toStdString(), Records{});
    Q_EMIT stateChanged();
}

QString Document::undoLabel() const {
    return history_.last() ? QString::fromStdString(history_.last()->label) : QString();
}
QString Document::redoLabel() const {
    return history_.next() ? QString::fromStdString(history_.next()->label) : QString();
}

void Document::step(bool forward) {
    const auto* step = forward ? history_.next() : history_.last();
    if (!step) return;
    const QString label = QString::fromStdString(step->label);
    const auto* design = std::get_if<BeforeAndAfter>(&step->change);
    const RecordStep carried = design || !carryRecords_ ? RecordStep::Carried : carryRecords_(forward);
    if (carried == RecordStep::NotNow) return;
    if (design) design_ = forward ? design->after : design->before;
    forward ? history_.redo() : history_.undo();
    if (design) Q_EMIT designChanged();
    if (carried == RecordStep::Gone) Q_EMIT recordsForgotten(label);
    Q_EMIT stateChanged();
}

void Document::undo() { step(false); }
void Document::redo() { step(true); }

}  // namespace jollyrow
