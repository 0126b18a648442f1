// SPDX-License-Identifier: MIT
// A session's schema: from the first moment, when the database may be locked, to the related fields that a design comes
// to ask for. Nothing here waits: what is locked is read behind. Covered by tests/session/session_test.cpp.
#include "core/rules/syntax.h"
#include "core/session/schema_for.h"
#include "core/session/session.h"

namespace jollyrow {

/// A view without records on the fields of a schema; without a plan when the schema is not known yet.
void Session::beginWith(TableSchema schema) {
    schema_ = std::move(schema);
    checks_.forget();
    plan_ = schema_.fields.empty() ? std::make_shared<ViewPlan>()
                                   : std::make_shared<ViewPlan>(planOf(design_, schema_, nullptr, registered_.get()));
    auto empty = std::make_shared<Table>();
    empty->schema = schema_;
    empty->columns.resize(schema_.fields.size());
    empty->complete = false;
    table_ = empty;
    incoming_.reset();
    incomingPlan_.reset();
    loader_.forget();
    auto snapshot = std::make_shared<Snapshot>();
    snapshot->generation = ++generation_;
    digests_.clear();  // fields may be counted anew
    snapshot->epoch = epoch_;
    snapshot->table = table_;
    snapshot->edits = edits();
    show(std::move(snapshot));
}

/// What goes on when the schema is there.
Loader::SchemaCame Session::schemaAwaited() {
    return loader_.await([this](const TableSchema& schema) {
        beginWith(schema);
        beginDrafts();
        beginLoad(Loader::Parts::Shown);
    });
}

void Session::awaitSchema() {
    const Loader::SchemaCame came = schemaAwaited();
    const auto read = [source = source_, design = design_, registered = registered_](const Cancel& cancel) {
        return schemaFor(*source, design, registered.get(), cancel);
    };
    if (const auto schema = schemas_.ask(read, came)) came(*schema);
}

void Session::cancelLoad() {
    loader_.cancel();
    if (schema_.fields.empty()) schemas_.cancel();
}

Binding Session::binding() const { return bindingFor(design_, schema_); }

/// Widens the schema by the related and computed fields that the design asks for. True when related ones have come:
/// their values come with the load that follows.
bool Session::takeFields(std::optional<TableSchema> read) {
    TableSchema next = schema_;
    bool wider = false;
    const std::vector<std::string> wanted = relatedFields(design_, schema_);
    if (!wanted.empty() && source_ && !schema_.isView) {
        Binding more = binding();
        more.related.insert(more.related.end(), wanted.begin(), wanted.end());
        if (!read) read = readFields(std::move(more));
        const std::size_t known = schema_.storedFields();
        wider = read && read->fields.size() > known &&
                std::equal(schema_.fields.begin(), schema_.fields.begin() + static_cast<std::ptrdiff_t>(known),
                           read->fields.begin());
        if (wider) next = std::move(*read);
    }
    next = withComputedFields(std::move(next), design_, registered_.get());
    if (next.fields != schema_.fields) takeSchema(std::move(next));
    return wider;
}

/// The schema with related fields; nullopt when it cannot be had, or comes late: then the plan is made again with it.
std::optional<TableSchema> Session::readFields(Binding binding) {
    auto read = schemas_.ask([source = source_, binding = std::move(binding)](
                                 const Cancel& cancel) { return source->schema(binding, cancel); },
                             [this](const Result<TableSchema>& schema) {
                                 if (schema) return planAgain(false, *schema);
                                 if (listener_.onFailure) listener_.onFailure(schema.error());
                             });
    return read && *read ? std::optional(std::move(**read)) : std::nullopt;
}

/// Another list of fields behind the same ones of the table: what is loaded and computed of them stays.
void Session::takeSchema(TableSchema schema) {
    const std::function<std::shared_ptr<const Table>(const Table&)> fitted = [&](const Table& from) {
        auto table = std::make_shared<Table>(from);
        table->schema = schema;
        table->columns.assign(schema.fields.size(), nullptr);
        for (std::size_t i = 0; i < schema.fields.size(); ++i)
            if (const auto known = from.schema.find(schema.fields[i].name);
                known && from.schema.field(*known) == schema.fields[i])
                table->columns[i] = from.columns[raw(*known)];
        if (from.roomy) table->roomy = fitted(*from.roomy);
        return table;
    };
    table_ = fitted(*table_);
    auto snapshot = std::make_shared<Snapshot>(*snapshot_);
    snapshot->table = fitted(*snapshot_->table);
    journal_.setEdits(withoutComputedCells(*edits(), schema_));
    recorded_->move([&](Edits::Place place) -> std::optional<Edits::Place> {
        const FieldSchema& field = schema_.field(place.second);
        const auto known = schema.find(field.name);
        if (!known || !(schema.field(*known) == field)) return std::nullopt;
        return Edits::Place(place.first, *known);
    });
    orderEdits_ = edits();
    snapshot->edits = edits();
    snapshot_ = std::move(snapshot);
    schema_ = std::move(schema);
    checks_.forget();
    incoming_.reset();
    incomingPlan_.reset();
}

Result<TableSchema> Session::schemaOf(const std::string& table) const { return schemas_.schemaOf(table); }

TableSchema Session::schemaReading(const std::string& rule) const {
    std::vector<std::string> more;
    for (const std::string& name : columnsNamed(rule))
        if (name.find('.') != std::string::npos && !schema_.find(name)) more.push_back(name);
    if (more.empty() || schema_.isView) return schema_;
    TableSchema stored = schema_;
    stored.fields.resize(schema_.storedFields());
    return withComputedFields(schemas_.withRelated(std::move(stored), more), design_, registered_.get());
}

}  // namespace jollyrow
