// SPDX-License-Identifier: MIT
#pragma once
// RecordLoading: how a session comes by schema, plan and records: read behind, from the first moment, when the database
// may be locked, to the related fields that a design comes to ask for. Nothing here waits longer than a moment
// (SchemaDesk). Confined to the session's thread.

#include <functional>
#include <memory>
#include <optional>
#include <string>

#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/loader.h"
#include "core/session/schema_desk.h"

namespace jollyrow {

class RecordLoading final {
  public:
    struct Hooks {
        std::function<void()> fieldsChanged;  ///< they are counted anew, without records
        std::function<void()> planned;        ///< the plan is another one: checks are to be made again
        std::function<void()> begun;          ///< the schema of another source is there
        std::function<void()> ended;          ///< a load, with or without success, and it was told
    };
    RecordLoading(BoundRecords& bound, EditedView& view, Hooks hooks);
    void stop();

    /// The schema that a design asks of a source; `late` is called with it when it does not come in time.
    std::optional<Result<TableSchema>> ask(std::shared_ptr<const Source> source, const Design& design,
                                           SchemaDesk::Late late);
    /// The present source's schema is still wanted, after ask() for another one was in vain.
    void awaitAgain();
    /// Another source: nothing that was asked of the last one comes any more.
    void forget(std::shared_ptr<const Source> source);
    /// A view without records on these fields; without a plan when the schema is not known yet.
    void beginWith(TableSchema schema);
    /// What goes on when the schema is there.
    Loader::SchemaCame schemaAwaited();
    /// Reads the records that the design asks for; all at once where some are shown already.
    void begin();
    void begin(Loader::Parts parts);
    void reload();
    /// As soon as nothing is being read.
    void reloadBehind();
    void cancel();
    /// All records are there, and so is their view.
    void viewIsThere();

    /// The design is another one; what follows from it is made again. `computesAnew`: groups, figures or parameters,
    /// too.
    void planAgain(bool computesAnew, std::optional<TableSchema> read = std::nullopt);
    /// Tables that were asked for may have changed.
    void forgetSchemas() { schemas_.forget(bound_.source); }
    Result<TableSchema> schemaOf(const std::string& table) { return schemas_.schemaOf(table); }
    TableSchema schemaReading(const std::string& rule);

    bool isLoading() const { return loader_.isLoading(); }
    const LoadProgress& progress() const { return loader_.progress(); }

  private:
    Loader::Hooks loaderHooks();
    void awaitSchema();
    bool takeFields(std::optional<TableSchema> read);
    std::optional<TableSchema> readFields(Binding binding);

    BoundRecords& bound_;
    EditedView& view_;
    Hooks hooks_;
    SchemaDesk schemas_;
    Loader loader_;
    bool readsAgain_ = false;   ///< behind the load under way
    bool isCancelled_ = false;  ///< the load under way
};

}  // namespace jollyrow
