// SPDX-License-Identifier: MIT
#pragma once
// Rowline: the path of the rows, Source (with its computed columns) -> Filter -> Sort -> Group -> Summaries, as pure
// stages whose products are kept and recomputed from the first one whose input changed. Confined to the thread that
// calls run(), one at a time.

#include <list>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "core/base/cancel.h"
#include "core/base/result.h"
#include "core/rows/compute_stage.h"
#include "core/rows/pick_list.h"
#include "core/rows/record_set.h"
#include "core/rows/snapshot.h"
#include "core/rows/sort_stage.h"
#include "core/rules/sort_term.h"

namespace jollyrow {

/// One condition that records must meet.
struct FilterTerm {
    std::string rule;                        ///< its text, which names it
    std::shared_ptr<const Program> program;  ///< never null, Boolean
    /// The same text may mean another thing once an operator it calls is another one.
    bool operator==(const FilterTerm& other) const { return rule == other.rule && sameMeaning(program, other.program); }
};

/// Records that are drawn as a heading.
struct BannerTerm {
    FilterTerm where;
    bool heads = false;  ///< the records behind it, up to the next one that does
};

struct RowlineInput {
    std::shared_ptr<const Table> table;
    std::shared_ptr<const Edits> edits;
    std::shared_ptr<const Edits> orderEdits = nullptr;  ///< those to filter and sort with; null: `edits`
    std::vector<ComputedTerm> computed;                 ///< their columns are made here
    std::vector<FilterTerm> filter;                     ///< all must hold
    std::shared_ptr<const RecordSet> only;              ///< besides the filter; may be null
    std::vector<SortTerm> sort;
    std::vector<BannerTerm> banners;
    std::vector<GroupTerm> groups;  ///< outermost first
    std::vector<SummarySpec> summaries;
    std::vector<ExtentTerm> extents;  ///< each once
    bool figuresOfAll = false;        ///< also of the records that the filter leaves out
    OpenGroups open;
    std::vector<bool> footers;                       ///< by level: an open group ends with a line of its own
    std::shared_ptr<const void> grouping = nullptr;  ///< handed on to the snapshot
    std::map<std::string, RuleValue> parameters;
    std::int32_t today = 0;
    std::int64_t now = 0;
    double loadMilliseconds = 0;
    std::uint64_t generation = 0;
    /// Made by the Rowline: the rows that are records, null when all are; and those inserted here and not saved, which
    /// stand at the end, whatever is filtered.
    std::shared_ptr<const RecordSet> present = nullptr;
    std::vector<std::uint32_t> drafts = {};
    bool draftsFirst = false;  ///< they stand before all others, else behind them
};

class Rowline final {
  public:
    /// Fails only when cancelled, when a column is not loaded, or when a key has no order; the kept products stay.
    Result<std::shared_ptr<const Snapshot>> run(const RowlineInput& input, const Cancel& cancel);
    /// The records that meet all conditions but the given one (an index into the filter of the input); all of them
    /// for nullopt. What run() kept is used again.
    Result<std::shared_ptr<const RecordSet>> rowsWithout(const RowlineInput& input, std::optional<std::size_t> leftOut,
                                                         const Cancel& cancel);
    /// The distinct values of a column under all conditions but one, for its pick list.
    Result<std::shared_ptr<const PickList>> pickList(const RowlineInput& input, FieldIndex field,
                                                     std::optional<std::size_t> leftOut, const TextOrder& order,
                                                     const Cancel& cancel);
    /// Rows evaluated for what follows, e.g. a preview: shares the folded texts.
    EvaluationInput evaluationInput(const RowlineInput& input);

  private:
    Result<std::shared_ptr<const Snapshot>> made(const RowlineInput& input, const Cancel& cancel);
    /// The input with its computed columns made.
    Result<RowlineInput> computed(const RowlineInput& input, const Cancel& cancel);
    struct KeptSet {
        FilterTerm term;
        std::vector<std::uint64_t> columns;
        std::map<std::string, RuleValue> parameters;
        std::int32_t today = 0;
        std::size_t rows = 0;
        std::uint64_t presence = 0;
        std::shared_ptr<const Edits> edits;
        std::shared_ptr<const RecordSet> set;
    };
    Result<std::shared_ptr<const RecordSet>> setFor(const FilterTerm& term, const RowlineInput& input,
                                                    const Cancel& cancel);
    Result<std::vector<std::shared_ptr<const RecordSet>>> setsFor(const RowlineInput& input,
                                                                  std::optional<std::size_t> leftOut,
                                                                  const Cancel& cancel);

    /// The records that head sections, as the input's order edits have it; null without sections.
    std::shared_ptr<const RowOrder> shownOrder(const RowlineInput& input, const std::shared_ptr<const RecordSet>& set,
                                               const std::shared_ptr<const RowOrder>& order,
                                               const std::shared_ptr<const RecordSet>& heads);
    Result<std::shared_ptr<const RecordSet>> headsFor(const RowlineInput& input, const Cancel& cancel);
    Result<std::shared_ptr<const RecordSet>> filteredSet(const RowlineInput& input,
                                                         const std::shared_ptr<const RecordSet>& heads,
                                                         StageReport& report, const Cancel& cancel);
    void markPresent(RowlineInput& input, const Edits* orderEdits);
    std::shared_ptr<const RowOrder> orderOf(const RowlineInput& input, const std::shared_ptr<const RecordSet>& set,
                                            const RowOrder* order);
    Result<void> addBanners(const RowlineInput& input, Snapshot& snapshot, const Cancel& cancel);

    static constexpr std::size_t kKeptSets = 24;  ///< 1/8 byte a row each
    FoldCache folds_;
    ComputeStage compute_;
    struct Reports {
        StageReport compute, filter, sort, group, summaries;
    } reports_;
    std::list<KeptSet> sets_;  ///< the latest used first
    bool filterDidWork_ = false;
    SortStage sort_;
    ExtentStage extents_;
    GroupStage group_, all_;
    Result<void> addGroups(const RowlineInput& input, Snapshot& snapshot, const Cancel& cancel);
    // The last lines made: of these records in this order.
    std::shared_ptr<const RecordSet> shownSet_;
    std::shared_ptr<const RecordSet> shownHeads_;  ///< null without sections
    std::vector<std::shared_ptr<const RecordSet>> headSets_;
    std::shared_ptr<const RecordSet> heads_;  ///< of headSets_
    std::shared_ptr<const RecordSet> withHeadsFrom_, withHeads_;
    std::shared_ptr<const RowOrder> shownFrom_;
    std::vector<std::uint32_t> shownDrafts_;
    bool shownDraftsFirst_ = false;
    std::shared_ptr<const RecordSet> present_;  ///< the last one made
    std::vector<std::uint32_t> absent_;         ///< that it leaves out
    std::shared_ptr<const RowOrder> shown_;
    std::shared_ptr<const OrderChange> shownChange_;  ///< how it came from the one before it; null: otherwise
    bool follow(const RowlineInput& input, const std::shared_ptr<const RecordSet>& set);
};

}  // namespace jollyrow
