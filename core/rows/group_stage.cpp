// SPDX-License-Identifier: MIT
// Idea: keys become small numbers, numbers a tree, aggregates sums by group (group_codes, group_tree, term_sums); each
// is kept with what it was made from. After an edit the numbers of that record are made anew. When they changed, the
// record moves to its group (group_moves.h), or the tree is built again where a group appears or vanishes; the sums
// follow along the record's paths. Covered by tests/rows/group_test.cpp.
#include "core/rows/group_stage.h"

#include <algorithm>
#include <chrono>

#include "core/rows/figures.h"
#include "core/rows/group_moves.h"
#include "core/rows/leaving.h"
#include "core/rows/sort_stage.h"

namespace jollyrow {
namespace {

/// More changed records than this, and making anew costs less than following.
constexpr std::size_t kMostFollowed = 200;

double millisecondsSince(std::chrono::steady_clock::time_point begun) {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
}

bool sameTerm(const SummaryTerm& a, const SummaryTerm& b) {
    const auto sameKey = [](const SummaryOrder& x, const SummaryOrder& y) {
        return x.descending == y.descending && x.emptiesFirst == y.emptiesFirst && sameMeaning(x.key, y.key);
    };
    return a.kind == b.kind && a.distinct == b.distinct && sameMeaning(a.second, b.second) &&
           std::equal(a.order.begin(), a.order.end(), b.order.begin(), b.order.end(), sameKey) &&
           a.fraction == b.fraction && a.external == b.external && sameMeaning(a.argument, b.argument) &&
           sameMeaning(a.filter, b.filter);
}

}  // namespace

GroupStage::Basis GroupStage::basisOf(const std::vector<const Program*>& programs, const EvaluationInput& records) {
    Basis basis;
    basis.today = records.today;
    basis.rows = records.table->rows;
    for (const Program* program : programs)
        if (program) basis.presence = basis.presence * 31 + presenceOf(*program, records);
    for (const Program* program : programs) {
        if (!program) continue;
        for (const FieldIndex field : program->fields)
            basis.columns.push_back(records.table->column(field) ? records.table->column(field)->id() : 0);
        for (const auto& parameter : program->parameters)
            if (const auto found = records.parameters.find(parameter.name); found != records.parameters.end())
                basis.parameters.insert(*found);
    }
    return basis;
}

Result<GroupKeys> GroupStage::keysOf(const SortTerm& term, const EvaluationInput& records, RankCache& ranks,
                                     const Cancel& cancel) {
    const auto program = term.program ? term.program : programOf(*term.field, records.table->schema);
    const Basis basis = basisOf({program.get()}, records);
    auto kept = std::find_if(keys_.begin(), keys_.end(),
                             [&](const KeptKeys& k) { return k.basis == basis && sameMeaning(k.program, program); });
    const bool overAll = !program->windows.empty();
    if (kept == keys_.end()) {
        EvaluationInput plain = records;
        if (!overAll) plain.edits = nullptr;
        auto codes = codesOf(program, plain, kMostGroups, cancel);
        if (!codes) return codes.error();
        auto shared = std::make_shared<const Codes>(std::move(*codes));
        keys_.push_front({program, basis, overAll ? nullptr : shared, plain.edits, shared, {}, {}});
        kept = keys_.begin();
        if (keys_.size() > kKeptKeys) keys_.pop_back();
    } else {
        keys_.splice(keys_.begin(), keys_, kept);
    }
    if (!changedRecords(kept->edits.get(), records.edits.get(), program->fields).empty()) {
        const auto edited = changedRecords(nullptr, records.edits.get(), program->fields);
        const bool follows = kept->plain && edited.size() <= kMostFollowed;
        auto codes = follows ? patchedCodes(*kept->plain, program, records, edited)
                             : codesOf(program, records, kMostGroups, cancel);
        if (!codes) return codes.error();
        // While no value has joined those of the column, each has the place that it had.
        const auto joined = [&](const Codes& of) { return of.values.size() != kept->plain->values.size(); };
        if (!follows || joined(*kept->codes) || joined(*codes)) kept->ranks.clear();
        kept->codes = std::make_shared<const Codes>(std::move(*codes));
    }
    kept->edits = records.edits;
    if (kept->ranks.empty() || !(kept->term == term)) {
        const bool plain = program->code.size() == 1 && program->code[0].op == Op::Load;
        const Column* column = plain ? records.table->column(static_cast<FieldIndex>(program->code[0].index)) : nullptr;
        auto made = ranksOf(*kept->codes, term, column, &ranks, cancel);
        if (!made) return made.error();
        kept->ranks = std::move(*made);
        kept->term = term;
    }
    return GroupKeys{kept->codes, kept->ranks, kept->plain};
}

/// Lets sums follow the records edited since. False when they must be made anew.
bool GroupStage::follow(KeptSums& kept, const EvaluationInput& records, const std::vector<FieldIndex>& fields) {
    auto changed = changedRecords(kept.edits.get(), records.edits.get(), fields);
    if (const auto other = leavingDifference(kept.edits.get(), records.edits.get()); !other.empty()) {
        const auto own = std::exchange(changed, {});
        std::set_union(own.begin(), own.end(), other.begin(), other.end(), std::back_inserter(changed));
    }
    if (changed.empty()) {
        kept.edits = records.edits;
        return true;
    }
    if (changed.size() > kMostFollowed) return false;
    auto next = kept.sums->copy();
    EvaluationInput before = records;
    before.edits = kept.edits;
    const GroupTree& tree = *kept.tree;
    for (const std::uint32_t row : changed) {
        const auto was = countedOf(kept.term, before, row), is = countedOf(kept.term, records, row);
        if (!was || !is) return false;
        if (tree.leafOf[row] >= tree.leaves()) continue;
        std::vector<std::uint32_t> path;
        path.push_back(static_cast<std::uint32_t>(tree.nodes.size()));
        if (tree.levels() > 0) {
            std::uint32_t node = static_cast<std::uint32_t>(tree.leafBegin()) + tree.leafOf[row];
            path.push_back(node);
            for (; tree.nodes[node].level > 0; path.push_back(node)) node = tree.nodes[node].parent;
        }
        if (!next->change(path, *was, path, *is)) return false;
    }
    kept.sums = std::move(next);
    kept.edits = records.edits;
    return true;
}

/// Sums of the tree that was follow its records into the one that is; those that cannot are let go.
void GroupStage::moveSums(const std::shared_ptr<const GroupTree>& moved, const std::vector<GroupMove>& moves,
                          const EvaluationInput& records) {
    std::erase_if(sums_, [&](KeptSums& kept) {
        if (kept.tree != tree_) return true;
        auto next = kept.sums->copy();
        EvaluationInput before = records;
        before.edits = kept.edits;
        for (const GroupMove& move : moves) {
            const auto value = countedOf(kept.term, before, move.row);
            // One that comes counted for nothing, one that goes will.
            const EvaluatedCell nothing{};
            if (!value ||
                !next->change(ownNodes(*moved, move.from, move.to), move.from == GroupMove::kNone ? nothing : *value,
                              ownNodes(*moved, move.to, move.from), move.to == GroupMove::kNone ? nothing : *value))
                return true;
        }
        kept.sums = std::move(next);
        kept.tree = moved;
        return false;
    });
}

/// Moves records whose keys were edited to their groups, those that come and go, too, and lets the sums follow. False
/// when the tree must be made anew.
bool GroupStage::moveRecords(const std::vector<GroupKeys>& keys, const GroupInput& input,
                             const EvaluationInput& records) {
    const bool isFollowed = input.change && input.change->before && input.change->before == treeOrder_;
    if (!tree_ || (treeOrder_ != input.order && !isFollowed) || treeRows_ != records.table->rows ||
        keys.size() != treeKeys_.size())
        return false;
    if (keys.empty()) return isFollowed && joinRecords(input, records);
    std::vector<std::uint32_t> rows;
    for (std::size_t k = 0; k < keys.size(); ++k) {
        const SortTerm& term = input.levels[k].key;
        const auto program = term.program ? term.program : programOf(*term.field, records.table->schema);
        // Other columns, e.g. after a reload: what differs is not what was edited.
        if (!program->windows.empty() || keys[k].plain != treeKeys_[k].plain || keys[k].ranks != treeKeys_[k].ranks)
            return false;
        if (keys[k].codes == treeKeys_[k].codes) continue;
        const auto changed = changedRecords(treeEdits_.get(), records.edits.get(), program->fields);
        rows.insert(rows.end(), changed.begin(), changed.end());
    }
    std::sort(rows.begin(), rows.end());
    rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    if (treeOrder_ && places_.empty()) places_.make(*treeOrder_, treeRows_);
    GroupComings comings;
    if (treeOrder_ != input.order) {
        comings = {input.change->joined, input.change->left};
        for (const std::uint32_t row : comings.joined)
            input.change->joinedFirst ? places_.addFirst(row) : places_.addLast(row);
    }
    std::vector<GroupMove> moves;
    auto moved = movedTree(*tree_, keys, rows, input.order ? &places_ : nullptr, comings, moves);
    if (!moved) return false;
    moveSums(moved, moves, records);
    tree_ = std::move(moved);
    treeKeys_ = keys;
    treeOrder_ = input.order;
    figures_.clear();
    return true;
}

/// The same without groups: figures of all records alone.
bool GroupStage::joinRecords(const GroupInput& input, const EvaluationInput& records) {
    auto moved = std::make_shared<GroupTree>(*tree_);
    moved->order = input.order;
    std::vector<GroupMove> moves;
    const auto turn = [&](const std::vector<std::uint32_t>& rows, bool joins) {
        for (const std::uint32_t row : rows) {
            if ((moved->leafOf[row] == 0) == joins) continue;
            moved->leafOf[row] = joins ? 0 : 1;
            moves.push_back({row, joins ? GroupMove::kNone : 0, joins ? 0 : GroupMove::kNone});
        }
    };
    turn(input.change->left, false);
    turn(input.change->joined, true);
    moveSums(moved, moves, records);
    tree_ = std::move(moved);
    treeOrder_ = input.order;
    figures_.clear();
    return true;
}

Result<std::shared_ptr<const TermSums>> GroupStage::sumsFor(const SummaryTerm& term, const EvaluationInput& records,
                                                            const Cancel& cancel) {
    std::vector<const Program*> programs;
    eachProgram(term, [&](const auto& program) { programs.push_back(program.get()); });
    const Basis basis = basisOf(programs, records);
    const auto kept = std::find_if(sums_.begin(), sums_.end(), [&](const KeptSums& k) {
        return k.tree == tree_ && k.basis == basis && sameTerm(k.term, term);
    });
    if (kept != sums_.end()) {
        sums_.splice(sums_.begin(), sums_, kept);
        if (follow(*kept, records, fieldsOf(term))) return sums_.front().sums;
        sums_.pop_front();
    }
    if (countedOf_ != tree_ || !leavingDifference(countedWith_.get(), records.edits.get()).empty()) {
        counted_ = countedTree(tree_, records.edits.get());
        countedOf_ = tree_;
        countedWith_ = records.edits;
    }
    auto made = sumsOf(term, *counted_, records, cancel);
    if (!made) return made.error();
    sums_.push_front({term, basis, tree_, records.edits, std::move(*made)});
    if (sums_.size() > kKeptSums) sums_.pop_back();
    return sums_.front().sums;
}

Result<std::shared_ptr<const Figures>> GroupStage::figuresOf(const SummaryRule& rule, const EvaluationInput& records,
                                                             const Cancel& cancel) {
    std::vector<std::shared_ptr<const TermSums>> sums;
    for (const SummaryTerm& term : rule.terms) {
        auto found = sumsFor(term, records, cancel);
        if (!found) return found.error();
        sums.push_back(std::move(*found));
    }
    if (!rule.outer) return std::shared_ptr<const Figures>(sums.front());
    const Basis basis = basisOf({rule.outer.get()}, records);
    const auto known = std::find_if(figures_.begin(), figures_.end(), [&](const KeptFigures& k) {
        return k.text == rule.text && k.basis == basis && sameMeaning(k.outer, rule.outer);
    });
    if (known != figures_.end()) {
        if (known->sums == sums) return known->figures;
        figures_.erase(known);
    }
    std::vector<std::vector<EvaluatedCell>> aggregates;
    for (const auto& term : sums) aggregates.push_back(cellsOf(*term, tree_->nodes.size() + 1));
    auto made = outerFigures(rule, aggregates, records, cancel);
    if (!made) return made.error();
    auto figures = std::make_shared<const KnownFigures>(std::move(*made));
    figures_.push_front({rule.text, rule.outer, basis, std::move(sums), figures});
    if (figures_.size() > kKeptSums) figures_.pop_back();
    return std::shared_ptr<const Figures>(std::move(figures));
}

Result<std::shared_ptr<const GroupedRows>> GroupStage::run(const GroupInput& input, const EvaluationInput& records,
                                                           RankCache& ranks, const Cancel& cancel) {
    const auto begun = std::chrono::steady_clock::now();
    std::vector<GroupKeys> keys;
    for (const GroupTerm& level : input.levels) {
        auto made = keysOf(level.key, records, ranks, cancel);
        if (!made) return made.error();
        keys.push_back(std::move(*made));
    }
    const bool sameTree =
        tree_ && treeOrder_ == input.order && treeRows_ == records.table->rows &&
        std::equal(keys.begin(), keys.end(), treeKeys_.begin(), treeKeys_.end(),
                   [](const GroupKeys& a, const GroupKeys& b) { return a.codes == b.codes && a.ranks == b.ranks; });
    if (!sameTree && !moveRecords(keys, input, records)) {
        auto made = groupTree(keys, input.order.get(), records.table->rows, cancel);
        if (!made) return made.error();
        tree_ = std::move(*made);
        treeKeys_ = std::move(keys);
        treeOrder_ = input.order;
        treeRows_ = records.table->rows;
        places_.clear();
        std::erase_if(sums_, [&](const KeptSums& k) { return k.tree != tree_; });
        figures_.clear();
    }
    treeEdits_ = records.edits;
    groupMs_ = sameTree ? 0 : millisecondsSince(begun);
    const auto summing = std::chrono::steady_clock::now();
    auto out = std::make_shared<GroupedRows>();
    out->tree = tree_;
    for (const SummarySpec& summary : input.summaries) {
        auto figures = figuresOf(summary.rule, records, cancel);
        if (!figures) return figures.error();
        out->figures.push_back(std::move(*figures));
    }
    const bool byFigure = std::any_of(input.levels.begin(), input.levels.end(),
                                      [](const GroupTerm& level) { return level.orderBy.has_value(); });
    if (byFigure && !tree_->nodes.empty()) {
        auto from = std::make_shared<std::vector<std::uint32_t>>();
        out->tree = reordered(*tree_, ranksByFigures(*tree_, input.levels, out->figures), *from);
        for (auto& figures : out->figures) figures = std::make_shared<const MovedFigures>(std::move(figures), from);
    }
    for (std::size_t i = 0; i < input.summaries.size(); ++i)
        if (input.summaries[i].measure != SummaryMeasure::Itself)
            out->figures[i] = std::make_shared<const KnownFigures>(
                measured(*out->figures[i], input.summaries[i].measure, *out->tree));
    out->leaving = leavingByNode(*out->tree, records.edits.get());
    sumMs_ = input.summaries.empty() ? 0 : millisecondsSince(summing);
    return std::shared_ptr<const GroupedRows>(std::move(out));
}

Result<std::shared_ptr<const GroupedRows>> groupRows(const std::vector<GroupTerm>& levels,
                                                     const std::vector<SummarySpec>& summaries,
                                                     std::shared_ptr<const RowOrder> order,
                                                     const EvaluationInput& records, const Cancel& cancel) {
    RankCache ranks;
    return GroupStage().run({levels, summaries, std::move(order)}, records, ranks, cancel);
}

std::vector<GroupTerm> groupTermsOf(const std::vector<SortTerm>& keys) {
    std::vector<GroupTerm> terms;
    for (const SortTerm& key : keys) terms.push_back({key});
    return terms;
}

std::vector<SummarySpec> summarySpecsOf(const std::vector<SummaryRule>& rules) {
    std::vector<SummarySpec> specs;
    for (const SummaryRule& rule : rules) specs.push_back({rule});
    return specs;
}

}  // namespace jollyrow
