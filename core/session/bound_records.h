// SPDX-License-Identifier: MIT
#pragma once
// BoundRecords: what a session is bound to and shows just now, as all of its parts read it: source, design, plan,
// records, edits. Each part changes only what is its own: RecordLoading the schema and the plan, EditedView the tables
// and the snapshot, SessionRecords the edits. No promise to applications.

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "core/base/post.h"
#include "core/base/require.h"
#include "core/design/plan.h"
#include "core/editing/edit_history.h"
#include "core/editing/record_journal.h"
#include "core/rows/snapshot.h"
#include "core/session/session_listener.h"
#include "core/session/view_input.h"
#include "core/sources/source.h"

namespace jollyrow {

struct BoundRecords {
    /// `answered`: the store has answered a save of the journal.
    BoundRecords(Post ownersPost, SessionListener told,
                 std::function<void(std::uint64_t serial, const RecordJournal::Answers&)> answered)
        : post(ownersPost), listener(std::move(told)), journal(std::move(ownersPost), std::move(answered)) {}

    const std::shared_ptr<const Edits>& edits() const { return journal.edits(); }
    /// What rules of the present design are evaluated with.
    EvaluationInput evaluationInput() const {
        return jollyrow::evaluationInput(snapshot ? snapshot->table : table, edits(), state);
    }
    /// What names a record of the table to its source; `fields` are those to be read. Requires: the table has keys.
    RecordRequest request(SourceRow row, std::vector<FieldIndex> fields = {}) const {
        return {schema, journal.keyOf(*table, row), table->rowIds != nullptr, table->keyFields, std::move(fields)};
    }
    /// What the cell shows: an edit if there is one, else what was loaded; Empty where nothing was.
    Value shown(SourceRow row, FieldIndex field) const {
        const CellEdit* edit = edits()->find(row, field);
        const Column* column = edit ? nullptr : table->column(field);
        return edit ? edit->value : column ? column->value(row) : Value(Empty{});
    }
    void fail(const Error& error) const {
        if (listener.onFailure) listener.onFailure(error);
    }

    ConfinedToThread owner;
    Post post;  ///< drops what arrives after the end
    SessionListener listener;

    std::shared_ptr<const Source> source;
    std::string sourcePath;
    StoreOpener openStore;
    std::shared_ptr<const Registered> registered;
    Design design;
    TableSchema schema;
    std::shared_ptr<const ViewPlan> plan = std::make_shared<ViewPlan>();
    ViewState state;
    std::shared_ptr<const Table> table;     ///< as loaded, computed columns null; rows of edits are its rows
    std::shared_ptr<const Table> incoming;  ///< a reload's, until its snapshot is there
    std::uint32_t epoch = 0;                ///< of `table`
    std::uint64_t tableLoad = 0;            ///< the load that `table` comes from
    std::shared_ptr<const Snapshot> snapshot;
    RecordJournal journal;
    EditHistory history;
};

}  // namespace jollyrow
