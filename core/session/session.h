// SPDX-License-Identifier: MIT
#pragma once
// Session: one design at work on one source. Loads and computes on threads of its own, holds the edits, saves them,
// and hands out snapshots. The one object an application keeps beside the widget. What can be done with it is grouped
// by subject: records(), steps(), checks(), drafts(), elsewhere(), groups(), questions(), view().
//
//   Session session(post, listener);
//   session.open(design, "kelpie-quay.db");
//   session.records().edit(row, field, value);
//   session.steps().undo();
//
// Confined to the thread that made it (the owner's); nothing here waits for a lock; open() reads the schema, and
// the destructor waits for the work being stopped. What the workers finish arrives through Post, as calls of Listener.

#include <memory>
#include <optional>
#include <string>

#include "core/base/post.h"
#include "core/base/result.h"
#include "core/columns/row_ref.h"
#include "core/design/plan.h"
#include "core/rows/snapshot.h"
#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/enquiries.h"
#include "core/session/record_finder.h"
#include "core/session/record_loading.h"
#include "core/session/save_answers.h"
#include "core/session/session_checks.h"
#include "core/session/session_drafts.h"
#include "core/session/session_elsewhere.h"
#include "core/session/session_groups.h"
#include "core/session/session_listener.h"
#include "core/session/session_questions.h"
#include "core/session/session_records.h"
#include "core/session/session_steps.h"
#include "core/session/session_view.h"
#include "core/sources/source.h"

namespace jollyrow {

class Session final {
  public:
    using Post = jollyrow::Post;
    Session(Post post, SessionListener listener);
    /// Cancels loading and computing; waits for saves that were begun.
    ~Session();
    Session(const Session&) = delete;
    Session& operator=(const Session&) = delete;

    /// Opens the source at `sourcePath`, reads the schema and begins to load. On failure nothing has changed. A schema
    /// that takes longer than longestWait(), e.g. as another program holds the database locked, comes behind: schema()
    /// and plan() are empty until then, and onLoaded tells when it was in vain.
    Result<void> open(Design design, const std::string& sourcePath);
    /// The same on any source; `store` opens the way to write, when the first edit is saved. `sourcePath`: the file
    /// behind it, where there is one.
    Result<void> open(Design design, std::shared_ptr<const Source> source, StoreOpener store,
                      const std::string& sourcePath = {});
    /// The same on a table in memory, which cannot be edited.
    Result<void> open(Design design, std::shared_ptr<const Table> table);
    /// Re-plans; recomputes from the first stage that the change touches; loads again only when fields are missing.
    void setDesign(Design design);
    const Design& design() const { return bound_.design; }
    const ViewPlan& plan() const { return *bound_.plan; }
    std::shared_ptr<const ViewPlan> sharedPlan() const { return bound_.plan; }
    const TableSchema& schema() const { return bound_.schema; }
    const std::string& sourcePath() const { return bound_.sourcePath; }
    /// Never null after open(); empty until the first rows are there.
    const std::shared_ptr<const Snapshot>& snapshot() const { return bound_.snapshot; }

    // ---- What can be done, by subject
    SessionRecords& records() { return records_; }
    const SessionRecords& records() const { return records_; }
    SessionSteps& steps() { return steps_; }
    SessionChecks& checks() { return checks_; }
    SessionDrafts& drafts() { return drafts_; }
    SessionElsewhere& elsewhere() { return elsewhere_; }
    SessionGroups& groups() { return groups_; }
    SessionQuestions& questions() { return questions_; }
    SessionView& view() { return set_; }
    const SessionView& view() const { return set_; }

    // ---- Loading
    bool isLoading() const { return loading_.isLoading(); }
    /// How far the load has come; the last one's end when not loading.
    const LoadProgress& progress() const { return loading_.progress(); }
    /// The load was stopped, or failed, after these records: there are more, and what is counted is of these alone.
    bool isPartial() const {
        return !isLoading() && bound_.table && !bound_.table->complete && bound_.table->rows != 0;
    }
    void cancelLoad() { loading_.cancel(); }
    /// Reads all records again; the present ones stay in sight until the new ones are whole. Unsaved edits are kept.
    void reload() { loading_.reload(); }
    /// schema() with the related fields that a rule names ("vessel.name") and the design does not read yet, as far as
    /// they are known (schemaOf).
    TableSchema schemaReading(const std::string& rule) const { return loading_.schemaReading(rule); }
    /// Another table of the source, e.g. to offer its fields. Read once, and again after a reload. Locked while it is
    /// still being read; onSchemas tells when it is there.
    Result<TableSchema> schemaOf(const std::string& table) const { return loading_.schemaOf(table); }

    /// Functions for rules and comparators for sort keys, to be named in the design. Call before open().
    void setRegistered(std::shared_ptr<const Registered> registered) { bound_.registered = std::move(registered); }
    const Registered* registered() const { return bound_.registered.get(); }
    /// What rules of the present design are evaluated with, for previews. The records are the snapshot's.
    EvaluationInput evaluationInput() const { return bound_.evaluationInput(); }

    // ---- Which record
    /// A record as it can be kept over reloads. Requires: a row of the snapshot.
    RowRef refOf(SourceRow row) const { return finder_.refOf(row); }
    /// The row that the record has in the snapshot; nullopt when it is gone. O(log rows), or O(1).
    std::optional<SourceRow> now(const RowRef& ref) const { return finder_.now(ref); }
    /// The record that has this key in the store, as far as is known. O(log rows), or O(1), once the index is made on
    /// the worker behind a load; O(rows) before.
    std::optional<SourceRow> rowOf(const RecordKey& key) const { return finder_.rowOf(key); }

  private:
    Result<void> openOn(std::shared_ptr<const Source> source, Design design, const std::string& sourcePath,
                        StoreOpener store);
    EditedView::Hooks viewHooks();
    RecordLoading::Hooks loadingHooks();

    std::shared_ptr<bool> alive_ = std::make_shared<bool>(true);
    BoundRecords bound_;
    RecordFinder finder_;
    EditedView view_;
    mutable RecordLoading loading_;
    Enquiries enquiries_;
    SessionChecks checks_;
    SaveAnswers answers_;
    SessionRecords records_;
    SessionSteps steps_;
    SessionDrafts drafts_;
    SessionElsewhere elsewhere_;
    SessionGroups groups_;
    SessionView set_;
    SessionQuestions questions_;
};

}  // namespace jollyrow
