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

/// The database is locked just now: its schema is read on the loading thread, as patiently as its records.
void Session::awaitSchema() {
    loader_.await([source = source_, design = design_,
                   registered = registered_] { return schemaFor(*source, design, Patience::Stated, registered.get()); },
                  [this](const TableSchema& schema) {
                      beginWith(schema);
                      beginDrafts();
                      beginLoad(Loader::Parts::Shown);
                  });
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
        auto schema = read ? Result<TableSchema>(std::move(*read)) : source_->schema(more, Patience::None);
        if (!schema && schema.error().code == ErrorCode::Locked) readFieldsLater(std::move(more));
        const std::size_t known = schema_.storedFields();
        wider = schema && schema->fields.size() > known &&
                std::equal(schema_.fields.begin(), schema_.fields.begin() + static_cast<std::ptrdiff_t>(known),
                           schema->fields.begin());
        if (wider) next = std::move(*schema);
    }
    next = withComputedFields(std::move(next), design_, registered_.get());
    if (next.fields != schema_.fields) takeSchema(std::move(next));
    return wider;
}

/// The same when the lock is gone.
void Session::readFieldsLater(Binding binding) {
    enquiries_.ask(
        [source = source_, binding = std::move(binding)] { return source->schema(binding, Patience::Stated); },
        [this, source = source_](const Result<TableSchema>& schema) {
            if (source != source_) return;
            if (schema) return planAgain(false, *schema);
            if (listener_.onFailure) listener_.onFailure(schema.error());
        });
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

Result<TableSchema> Session::schemaOf(const std::string& table) const {
    if (!source_) return Error{ErrorCode::NotFound, "Nothing is open."};
    return source_->schema({table, {}, {}}, Patience::None);
}

TableSchema Session::schemaReading(const std::string& rule) const {
    Binding more = binding();
    const std::size_t known = more.related.size();
    for (const std::string& name : columnsNamed(rule))
        if (name.find('.') != std::string::npos && !schema_.find(name)) more.related.push_back(name);
    if (more.related.size() == known || !source_ || schema_.isView) return schema_;
    auto schema = source_->schema(more, Patience::None);
    return schema ? withComputedFields(std::move(*schema), design_, registered_.get()) : schema_;
}

}  // namespace jollyrow
