// SPDX-License-Identifier: MIT
#pragma once
// Session: one design at work on one source. Loads and computes on threads of its own, holds the edits, saves them,
// and hands out snapshots. The one object an application keeps beside the widget. A face: the work is done by the
// loader, the view computer, the enquiries and the record journal; what is here is what makes them one.
//
// Confined to the thread that made it (the owner's); nothing here waits for a lock; open() reads the schema, and
// the destructor waits for the work being stopped. What the workers finish arrives through Post, as calls of Listener.

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>

#include "core/base/post.h"
#include "core/base/require.h"
#include "core/base/result.h"
#include "core/columns/row_ref.h"
#include "core/design/find.h"
#include "core/design/plan.h"
#include "core/design/summary_table.h"
#include "core/editing/draft_keeper.h"
#include "core/editing/edit_history.h"
#include "core/editing/record_journal.h"
#include "core/editing/saver.h"
#include "core/formats/named_records.h"
#include "core/rows/cell_figures.h"
#include "core/rows/figure_origin.h"
#include "core/rows/rowline.h"
#include "core/rows/snapshot.h"
#include "core/rows/value_spread.h"
#include "core/session/enquiries.h"
#include "core/session/loader.h"
#include "core/session/record_checks.h"
#include "core/session/rereader.h"
#include "core/session/schema_desk.h"
#include "core/session/view_computer.h"
#include "core/session/view_input.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Told, on the owner's thread, what has happened. All default to nothing.
struct SessionListener {
    std::function<void()> onSnapshot;                     ///< snapshot() is a new one
    std::function<void()> onSchemas;                      ///< schemaOf() and schemaReading() know more
    std::function<void(const LoadProgress&)> onProgress;  ///< while loading
    std::function<void(const Result<void>&)> onLoaded;    ///< loading ended: whole, cancelled or failed
    std::function<void(SourceRow, FieldIndex, const CellEdit&)> onEditAnswered;  ///< saved or refused
    /// A record was saved, inserted, deleted, or not; after the snapshot shows it.
    std::function<void(const RecordJournal::Answered&)> onRecordAnswered;
    /// An earlier session on the same records ended without saving these: takeUpDrafts() or dropDrafts().
    std::function<void()> onDraftsLeft;
    /// What is unsaved is on disk (setDraftFolder), or is not any more for the reason that onFailure has said.
    std::function<void()> onDraftsKept;
    /// A step that undo() can take back was made: cells edited, records inserted or deleted.
    std::function<void(const EditStep&)> onStep;
    std::function<void(const Error&)> onFailure;  ///< a stage could not run, or an edit lost its record
    /// Others have saved so many records (lookElsewhere()); the rows of those that are still there.
    std::function<void(const std::vector<SourceRow>&, std::size_t records)> onElsewhere;
    /// The next snapshot's rows are those of another table: where the records of the last one stand in it.
    std::function<void(const RowMoves&)> onRowsMoved;
};

/// A value for a cell, and what a look-up shows for it until its related fields have been read again.
struct CellWrite {
    SourceRow row{};
    FieldIndex field{};
    Value value;
    std::string label = {};
};

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
    const Design& design() const { return design_; }
    const ViewPlan& plan() const { return *plan_; }
    std::shared_ptr<const ViewPlan> sharedPlan() const { return plan_; }
    const TableSchema& schema() const { return schema_; }
    const std::string& sourcePath() const { return sourcePath_; }
    /// Never null after open(); empty until the first rows are there.
    const std::shared_ptr<const Snapshot>& snapshot() const { return snapshot_; }

    bool isLoading() const { return loader_.isLoading(); }
    /// How far the load has come; the last one's end when not loading.
    const LoadProgress& progress() const { return loader_.progress(); }
    void cancelLoad();
    /// Reads all records again; the present ones stay in sight until the new ones are whole. Unsaved edits are kept.
    void reload();

    /// Shows the value at once, and saves it behind when the design says so (Saving) and the record breaks no check.
    /// Ignored when it is what the cell shows already, and on deleted records. `label` is what a look-up shows for the
    /// value until the related fields have been read again; may be empty.
    /// Requires: the plan says the column is editable.
    void edit(SourceRow row, FieldIndex field, Value value, std::string label = {});
    /// Many at once, as a paste makes them: shown in one step, and saved in one transaction. O(cells).
    void edit(const std::vector<CellWrite>& cells);
    /// Takes back what was typed into a cell and is not saved.
    void putBack(SourceRow row, FieldIndex field);
    /// Saves the record of a refused edit again; after a conflict what was typed here goes over what is there now.
    void retry(SourceRow row, FieldIndex field);

    /// What a check would say to this value in the cell: the first problem of the field; nullopt when there is none.
    std::optional<RecordProblem> problemWith(SourceRow row, FieldIndex field, const Value& value) const {
        return problemsWith({{row, field, value}}).front();
    }
    /// The same of many that come together, in their order. O(cells + records * checks).
    std::vector<std::optional<RecordProblem>> problemsWith(const std::vector<CellWrite>& cells) const;
    /// An application that decides what becomes of each save (core/editing/saver.h); an empty one: the database alone.
    /// Saves that wait for its answer when the session ends stay drafts.
    void setSaver(Saver saver) { saver_->set(std::move(saver)); }
    /// What functions of the application check of each record that is edited, besides the design's rules.
    void setRecordChecks(std::vector<RecordCheck> checks);

    // ---- Records (session_records.cpp)
    /// A new record with these values, a draft until it is saved, behind all others. Fails in words while records are
    /// still being read, and where the source takes none.
    Result<SourceRow> insert(const std::vector<std::pair<FieldIndex, Value>>& values = {});
    /// A new record with the values of another one, but for keys, unique fields and what the database makes. Binary
    /// data that was not read, e.g. pictures, follows a moment later.
    Result<SourceRow> duplicate(SourceRow row);
    /// Deletes records; those that are not saved yet are dropped. With Saving::Together they stay as drafts until
    /// saved.
    void remove(const std::vector<SourceRow>& rows);
    /// Hands what is typed, refused, inserted and deleted of these records to the database, in one transaction, but for
    /// records that break a check or are in conflict. Returns how many records are on their way.
    std::size_t save(const std::vector<SourceRow>& rows);
    std::size_t saveAll();
    /// Saves what is unsaved in all of them in one transaction, e.g. an order and its lines. Fails when they are not
    /// on one database, or an application decides about saves of one; else returns how many records are on their way.
    static Result<std::size_t> saveTogether(std::span<Session* const> sessions);
    /// The person has gone on to another record: it is saved when the design says so.
    void leave(SourceRow row);
    /// What was typed into the record is taken back, a new one let go, a deleted one brought back; what is being saved
    /// stays.
    void revert(SourceRow row);
    void revertAll();
    enum class Keep { Mine, Theirs };
    /// Decides a conflict, field by field; fields that are not named keep what was typed here. Then the record is
    /// saved.
    void resolve(SourceRow row, const std::map<FieldIndex, Keep>& choices);
    /// A record that was deleted elsewhere while it was edited here is made again, with the values known of it.
    Result<SourceRow> makeAgain(SourceRow row);
    /// Overrides a warning; the record keeps it as overridden.
    void overrideWarning(SourceRow row, const std::string& check);
    /// What points to these records in other tables, and what deleting them does to it.
    void dependentsOf(const std::vector<SourceRow>& rows,
                      std::function<void(const Result<std::vector<Dependents>>&)> done);
    /// Takes the last change back, also when it is saved: by another change, which is checked for conflicts. Of what
    /// somebody has changed since, nothing. False when there is none.
    bool undo();
    bool redo();
    const EditHistory& history() const { return history_; }
    // ---- Drafts that outlive a crash (session_drafts.cpp)
    /// Keeps what is typed and not saved in files in this folder, flushed to disk before onDraftsKept; "" = not. Call
    /// before open(). Sources without a path are not kept.
    void setDraftFolder(std::string folder);
    enum class LeftState {
        Ready,    ///< the record stands as it did when this was typed
        Changed,  ///< somebody has written the same cells since
        Stored,   ///< the database has it already
        Gone,     ///< the record is no longer there
    };
    struct LeftDraft {
        KeptRecord record;
        std::optional<SourceRow> row;
        LeftState state = LeftState::Ready;
    };
    /// What earlier sessions have left, with what has become of each. Meant when all records are there. O(drafts).
    std::vector<LeftDraft> leftDrafts() const;
    /// Puts them into the records, as drafts; those whose cells somebody has changed are in conflict. Those whose
    /// record is gone stay where they are. Returns how many records have drafts now.
    std::size_t takeUpDrafts();
    void dropDrafts();
    /// Everything typed until now is on disk.
    bool isKept() const { return drafts_.isReady() && drafts_.keptNumber() == draftNumber_; }

    /// What begins now is one step until endStep(), named so.
    void beginStep(std::string label) { history_.begin(std::move(label)); }
    void endStep() { history_.end(); }
    // ---- What others do (session_elsewhere.cpp)
    /// Shows what others have made of records, in place: changed ones go where they belong, added ones stand behind all
    /// others, and a cell that was typed over here is in conflict at once. False when not all could be shown: reload().
    /// Records that are being saved are left as they are: `later` is called, once, when that is answered, to ask what
    /// they hold then. O(changes * fields), and the edits that are there.
    bool takeElsewhere(std::span<const ElsewhereChange> changes, std::function<void(const RecordKey&)> later = {});

    /// Looks, behind, whether others have saved records of the table since it was called before, and shows what they
    /// hold now (takeElsewhere); where that cannot be told, onFailure says so once. Call it several times a second; one
    /// that is called before the last has its answer does nothing, nor while records are being read.
    void lookElsewhere();

    /// True when edits have moved records out of the sort order or the filter; they stay until resort().
    bool orderIsStale() const { return !outOfPlace_.empty(); }
    /// The records that edits have moved so: those whose sort keys were edited, and those the filter now leaves out.
    const std::set<SourceRow>& outOfPlace() const { return outOfPlace_; }
    void resort();

    /// Functions for rules and comparators for sort keys, to be named in the design. Call before open().
    void setRegistered(std::shared_ptr<const Registered> registered) { registered_ = std::move(registered); }
    const Registered* registered() const { return registered_.get(); }
    /// The value of `:name` in rules and in a bound SELECT, which then is read again; Empty lifts the conditions that
    /// use it. Ignored when the design has no such parameter or the value is of another type.
    void setParameter(const std::string& name, const Value& value);
    const std::map<std::string, RuleValue>& parameters() const { return state_.parameters; }
    /// Leaves a stage (any but Source) out for a moment, to compare; the design stays as it is.
    void setBypassed(Stage stage, bool bypassed);
    bool isBypassed(Stage stage) const { return state_.isBypassed(stage); }
    /// The distinct values of a column under all conditions but that of `leftOut` (an index into the design's filter),
    /// computed on a worker; `done` is called on the owner's thread. A newer request takes an older one's place.
    void pickList(FieldIndex field, std::optional<std::size_t> leftOut,
                  std::function<void(const Result<std::shared_ptr<const PickList>>&)> done);
    /// Searches the records of the snapshot on a worker; a newer search takes an older one's place.
    void find(FindQuery query, std::function<void(const Result<std::shared_ptr<const RecordSet>>&)> done);
    /// Shows only these records besides the filter, e.g. those found; null for all. Lifted when records are read again.
    void setOnly(std::shared_ptr<const RecordSet> only);
    /// Opens or closes one group of the snapshot at once; nobody moves but the lines beneath. O(open groups).
    void setGroupOpen(std::uint32_t node, bool open);
    /// All groups of a level, or of all levels.
    void setLevelOpen(int level, bool open);
    void setAllGroupsOpen(bool open);
    /// The groups around a record are opened; false when it is not shown at all. O(records).
    bool openGroupsAround(SourceRow row);
    const OpenGroups& openGroups() const { return state_.open; }
    /// The figures of some records alone, e.g. the selected ones, in the order of the design's summaries that can be
    /// had. A newer request takes an older one's place.
    void figuresOf(std::vector<SourceRow> rows, std::function<void(const Result<std::vector<EvaluatedCell>>&)> done);
    /// What some cells come to; rows and fields of the snapshot. A newer request takes an older one's place.
    void figuresOfCells(std::vector<CellBlock> blocks, std::function<void(const Result<CellFigures>&)> done);
    /// How the values of a field, or of a rule when it is given, lie; for cut points. On a worker.
    void spread(const std::string& field, const std::string& rule, std::size_t bins,
                std::function<void(const Result<std::shared_ptr<const ValueSpread>>&)> done);
    /// The groups and figures shown, as a table of their own.
    void summaryTable(const SummaryTableWanted& wanted, std::function<void(const Result<SummaryTable>&)> done);
    /// How a figure of the snapshot came to be; `node` is tree().nodes.size() for that of all records shown.
    void originOf(std::size_t summary, std::uint32_t node, std::function<void(const Result<FigureOrigin>&)> done);
    /// What rules of the present design are evaluated with, for previews. The records are the snapshot's.
    EvaluationInput evaluationInput() const;
    /// Edits not in the store: being saved, or refused.
    std::size_t unsavedEdits() const { return journal_.unsaved(); }
    /// A record as it can be kept over reloads. Requires: a row of the snapshot.
    RowRef refOf(SourceRow row) const;
    /// The row that the record has in the snapshot; nullopt when it is gone. O(log rows), or O(1).
    std::optional<SourceRow> now(const RowRef& ref) const;
    /// The record that has this key in the store, as far as is known. O(log rows), or O(1), once the index is made on
    /// the worker behind a load; O(rows) before.
    std::optional<SourceRow> rowOf(const RecordKey& key) const;

    /// Reads a binary value, wherever it is: typed, loaded or still in the database. The call may be made on any thread
    /// and blocks there; it fails when the record is gone. Requires: a row of the snapshot.
    std::function<Result<Value>()> bytesReader(SourceRow row, FieldIndex field) const;
    /// What was read of a value that stays in the database, in the snapshot of this epoch: an edit made on it will not
    /// overwrite another.
    void noteRead(std::uint32_t epoch, SourceRow row, FieldIndex field, std::uint64_t digest);
    /// Searches the table a look-up points to, by label, on a thread of its own; `done` is called on the owner's. A
    /// newer search takes an older one's place, whose `done` is not called then.
    void lookUp(FieldIndex field, std::string contains,
                std::function<void(const Result<std::vector<LookUpEntry>>&)> done);
    /// The records of the table a look-up points to that are called so, by label or by key: all that there are, however
    /// many have one name. On a thread of its own; each call is answered.
    void linkedCalled(FieldIndex field, std::vector<std::string> names,
                      std::function<void(const Result<NamedRecords>&)> done);
    /// Makes a record of the table a look-up points to, called so, and hands it over; its other fields get what the
    /// database gives them, or it is refused. On a thread of its own; saved at once, and no step to take back.
    void addLinked(FieldIndex field, std::string label, std::function<void(const Result<LookUpEntry>&)> done);
    /// schema() with the related fields that a rule names ("vessel.name") and the design does not read yet, as far as
    /// they are known (schemaOf).
    TableSchema schemaReading(const std::string& rule) const;
    /// Another table of the source, e.g. to offer its fields. Read once, and again after a reload. Locked while it is
    /// still being read; onSchemas tells when it is there.
    Result<TableSchema> schemaOf(const std::string& table) const;

  private:
    void beginLoad(Loader::Parts parts);
    void take(std::shared_ptr<const Table> table, const LoadProgress& progress, std::uint64_t load);
    enum class Order { Anew, Kept };
    /// Kept: records stay on their lines whatever has been edited.
    void recompute(Order order = Order::Anew);
    void computed(const MadeView& made);
    void show(std::shared_ptr<Snapshot> snapshot);
    void moveRecorded(const MadeView& made, const RowMoves& moves);
    /// Runs an edit of a record and notes which of the recorded numbers it changes.
    template <class Edit>
    void recording(std::span<const SourceRow> rows, bool takesBack, const Edit& edit);
    enum class Lines { Same, Changed };
    void showEdits(Lines lines = Lines::Same);
    /// Makes the computed cells and the problems of records again, and their edits the present ones.
    void setEdits(std::shared_ptr<const Edits> edits, std::span<const SourceRow> changed);
    void setEdits(std::shared_ptr<const Edits> edits, SourceRow changed) { setEdits(std::move(edits), {&changed, 1}); }
    void findProblems(std::span<const SourceRow> rows);
    void findAllProblems();
    void addFound(SourceRow row, std::vector<RecordProblem>& problems);
    void askPresence();
    std::string wordsOf(const Conflict& conflict) const;
    void copyBytes(SourceRow from, FieldIndex field, SourceRow to);
    void checkAnswered(SourceRow row);
    void beginDrafts();
    void syncDrafts();
    void tellLeftDrafts();
    bool isMade(const KeptRecord& record, SourceRow row) const;
    LeftState stateOf(const KeptRecord& record, SourceRow row) const;
    RecordEdit takenUp(const LeftDraft& left, RecordEdit edit) const;
    DraftKeeper::Hooks draftHooks();
    std::shared_ptr<const Edits> withComputedOf(const Snapshot& made) const;
    bool take(const CellWrite& cell, Edits& next);
    void noteOutOfPlace(const std::map<SourceRow, std::set<FieldIndex>>& edited);
    void answered(std::uint64_t serial, const RecordJournal::Answers& answers);
    void askLater();
    void readDoubledAgain(const std::vector<RecordJournal::Answered>& answers);
    void saveAsDesigned(const std::vector<SourceRow>& rows);
    std::size_t save(const std::vector<SourceRow>& rows, const std::shared_ptr<JointSave>& joint);
    std::vector<SourceRow> editedRows() const;
    std::vector<SourceRow> savable(const std::vector<SourceRow>& rows) const;
    void changeOver(const MadeView& made);
    Result<void> makeRoom();
    std::vector<std::pair<FieldIndex, Value>> valuesToInsert(SourceRow row, bool withKeys) const;
    std::optional<RecordEdit> reverted(SourceRow row, const RecordEdit& record) const;
    bool apply(const EditStep& step, bool back);
    void lookFailed(const Error& error);
    void compareElsewhere();
    std::vector<ElsewhereChange> withEdited(std::vector<ElsewhereChange> changes, const KeyIndex& after) const;
    std::vector<ElsewhereChange> newsAmong(std::span<const ElsewhereChange> changes) const;
    void showElsewhere(std::span<const ElsewhereChange> changes);
    void beginWith(TableSchema schema);
    void awaitSchema();
    Loader::SchemaCame schemaAwaited();
    /// `read`: the schema with the related fields, when it came late.
    bool takeFields(std::optional<TableSchema> read = std::nullopt);
    std::optional<TableSchema> readFields(Binding binding);
    void planAgain(bool computesAnew, std::optional<TableSchema> read = std::nullopt);
    void takeSchema(TableSchema schema);
    void readRelatedAgain(SourceRow row, std::span<const FieldIndex> changed);
    void showOpen(OpenGroups open);
    Binding binding() const;
    Loader::Hooks loaderHooks();
    Result<void> openOn(std::shared_ptr<const Source> source, Design design, const std::string& sourcePath,
                        StoreOpener store);
    const std::shared_ptr<const Edits>& edits() const { return journal_.edits(); }

    SessionListener listener_;
    std::shared_ptr<bool> alive_ = std::make_shared<bool>(true);
    jollyrow::Post post_;  ///< drops what arrives after the end

    Design design_;
    std::string sourcePath_;
    std::shared_ptr<const Source> source_;
    TableSchema schema_;
    std::shared_ptr<const ViewPlan> plan_ = std::make_shared<ViewPlan>();
    std::shared_ptr<const Registered> registered_;
    ViewState state_;
    std::shared_ptr<const Table> table_;            ///< as loaded, computed columns null; rows of edits are its rows
    std::shared_ptr<const Table> incoming_;         ///< a reload's, until its snapshot is there
    std::shared_ptr<const ViewPlan> incomingPlan_;  ///< plan_, or another when the table's fields have changed
    std::uint32_t epoch_ = 0;                       ///< of table_
    std::uint64_t tableLoad_ = 0;                   ///< the load that table_ comes from
    std::uint64_t generation_ = 0;
    bool insertsMayBeRead_ = false;                 ///< table_ was read while the store inserted records
    bool readsAgain_ = false;                       ///< behind the load under way
    std::uint64_t rowsSince_ = 0;                   ///< the generation up to which views were of other rows
    mutable std::shared_ptr<const KeyIndex> keys_;  ///< of the records of table_ that were loaded; null until made
    std::shared_ptr<const Snapshot> snapshot_;
    std::shared_ptr<const Edits> orderEdits_;  ///< those that records were filtered and sorted with
    std::set<SourceRow> outOfPlace_;
    std::map<std::pair<SourceRow, FieldIndex>, std::uint64_t> digests_;  ///< of what was read beside table_

    ConfinedToThread owner_;
    StoreOpener openStore_;
    std::shared_ptr<SaverDesk> saver_;
    RecordJournal journal_;
    RecordChecks checks_{[this](SourceRow row) { checkAnswered(row); }};
    std::vector<std::pair<RecordKey, std::function<void(const RecordKey&)>>> askedLater_;  ///< takeElsewhere()
    std::set<SourceRow> leftWaiting_;  ///< records that were left while a check had not answered
    EditHistory history_;
    std::string draftFolder_;
    std::uint64_t draftNumber_ = 0;
    DraftKeeper drafts_;
    std::shared_ptr<RecordedValues> recorded_ = std::make_shared<RecordedValues>();
    mutable SchemaDesk schemas_;
    Loader loader_;
    ViewComputer computer_;
    Enquiries enquiries_;
    struct Following {
        bool isAsking = false, isImpossible = false;
        bool compares = false;  ///< all records, as soon as can be
        std::string failure;    ///< what was said last
    } following_;
    Rereader rereader_;
};

}  // namespace jollyrow
