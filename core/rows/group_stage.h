// SPDX-License-Identifier: MIT
#pragma once
// The Group and Summaries stages: groups of records by levels of keys, and figures of each group and of all. Keeps what
// it made until an input changes: an edit of a record touches only the sums that read it and only the groups it is in.

#include <cstdint>
#include <list>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/rows/group_moves.h"
#include "core/rows/group_tree.h"
#include "core/rows/term_sums.h"
#include "core/rules/evaluator.h"
#include "core/rules/sort_term.h"
#include "core/rules/summary_list.h"

namespace jollyrow {

/// One level of groups.
struct GroupTerm {
    SortTerm key;
    /// The groups stand by this summary (an index) instead of by their key, in the key's direction; empties last.
    std::optional<std::size_t> orderBy = std::nullopt;
};

/// What is shown of a figure.
enum class SummaryMeasure {
    Itself,
    ShareOfParent,  ///< a fraction of the figure of the group above; of all on the outermost level
    ShareOfAll,     ///< a fraction of the figure of all records
    RunningTotal,   ///< with those of the groups before it in the same group above
};

struct SummarySpec {
    SummaryRule rule;
    SummaryMeasure measure = SummaryMeasure::Itself;
};

/// Groups with their figures. Immutable once made.
struct GroupedRows {
    std::shared_ptr<const GroupTree> tree;
    std::vector<std::shared_ptr<const Figures>> figures;  ///< by summary
    std::map<std::uint32_t, std::int64_t> leaving;        ///< records to be deleted, by node; they count in no figure
    /// Records of a group that count.
    std::int64_t records(std::uint32_t node) const {
        const auto some = leaving.find(node);
        return tree->nodes[node].count - (some == leaving.end() ? 0 : some->second);
    }
    EvaluatedCell figure(std::size_t summary, std::size_t node) const { return figures[summary]->at(node); }
    EvaluatedCell total(std::size_t summary) const { return figures[summary]->at(tree->nodes.size()); }
};

/// How an order came to be from another: without some records, and with some before or behind all others.
struct OrderChange {
    std::shared_ptr<const RowOrder> before;
    std::vector<std::uint32_t> left, joined;
    bool joinedFirst = false;
};

struct GroupInput {
    std::vector<GroupTerm> levels;
    std::vector<SummarySpec> summaries;
    std::shared_ptr<const RowOrder> order;  ///< the records in the order they keep in their group; null: all
    std::shared_ptr<const OrderChange> change = nullptr;  ///< where `order` comes from, when it is known
};

/// Confined to one thread.
class GroupStage final {
  public:
    /// Fails when cancelled, when a column is not loaded, or with too many groups; what was kept stays. `ranks` keeps
    /// the order of text columns.
    Result<std::shared_ptr<const GroupedRows>> run(const GroupInput& input, const EvaluationInput& records,
                                                   RankCache& ranks, const Cancel& cancel);
    /// What the last run() took, milliseconds; 0 for what it had kept.
    double groupMilliseconds() const { return groupMs_; }
    double sumMilliseconds() const { return sumMs_; }

  private:
    /// What a program was run over, to tell whether it gives the same again.
    struct Basis {
        std::vector<std::uint64_t> columns;
        std::map<std::string, RuleValue> parameters;
        std::int32_t today = 0;
        std::size_t rows = 0;
        std::uint64_t presence = 0;
        bool operator==(const Basis&) const = default;
    };
    static Basis basisOf(const std::vector<const Program*>& programs, const EvaluationInput& records);
    struct KeptKeys {
        std::shared_ptr<const Program> program;
        Basis basis;
        std::shared_ptr<const Codes> plain;  ///< without edits; null for rules over all records
        std::shared_ptr<const Edits> edits;  ///< that `codes` was made with
        std::shared_ptr<const Codes> codes;
        SortTerm term;
        std::vector<std::uint32_t> ranks;  ///< of `codes` by `term`; empty before
    };
    struct KeptSums {
        SummaryTerm term;
        Basis basis;
        std::shared_ptr<const GroupTree> tree;
        std::shared_ptr<const Edits> edits;
        std::shared_ptr<const TermSums> sums;
    };
    /// Of a rule over aggregates.
    struct KeptFigures {
        std::string text;
        std::shared_ptr<const Program> outer;
        Basis basis;  ///< of `outer`
        std::vector<std::shared_ptr<const TermSums>> sums;
        std::shared_ptr<const Figures> figures;
    };
    Result<GroupKeys> keysOf(const SortTerm& term, const EvaluationInput& records, RankCache& ranks,
                             const Cancel& cancel);
    Result<std::shared_ptr<const TermSums>> sumsFor(const SummaryTerm& term, const EvaluationInput& records,
                                                    const Cancel& cancel);
    bool moveRecords(const std::vector<GroupKeys>& keys, const GroupInput& input, const EvaluationInput& records);
    bool joinRecords(const GroupInput& input, const EvaluationInput& records);
    void moveSums(const std::shared_ptr<const GroupTree>& moved, const std::vector<GroupMove>& moves,
                  const EvaluationInput& records);
    static bool follow(KeptSums& kept, const EvaluationInput& records, const std::vector<FieldIndex>& fields);
    Result<std::shared_ptr<const Figures>> figuresOf(const SummaryRule& rule, const EvaluationInput& records,
                                                     const Cancel& cancel);

    static constexpr std::size_t kKeptKeys = 16, kKeptSums = 64;
    std::list<KeptKeys> keys_;
    std::list<KeptSums> sums_;
    std::list<KeptFigures> figures_;
    std::vector<GroupKeys> treeKeys_;
    std::shared_ptr<const RowOrder> treeOrder_;
    std::size_t treeRows_ = 0;
    std::shared_ptr<const Edits> treeEdits_;  ///< that `tree_` was made or followed with
    GroupPlaces places_;                      ///< of records in `treeOrder_`; empty until one moves
    std::shared_ptr<const GroupTree> tree_;
    std::shared_ptr<const GroupTree> counted_, countedOf_;  ///< without records to be deleted, and the tree it is of
    std::shared_ptr<const Edits> countedWith_;
    double groupMs_ = 0, sumMs_ = 0;
};

/// The same in one go, for edges: the command line, tests, the figures of a selection. `order` may be null.
Result<std::shared_ptr<const GroupedRows>> groupRows(const std::vector<GroupTerm>& levels,
                                                     const std::vector<SummarySpec>& summaries,
                                                     std::shared_ptr<const RowOrder> order,
                                                     const EvaluationInput& records, const Cancel& cancel);

/// Terms that stand for themselves.
std::vector<GroupTerm> groupTermsOf(const std::vector<SortTerm>& keys);
std::vector<SummarySpec> summarySpecsOf(const std::vector<SummaryRule>& rules);

}  // namespace jollyrow
