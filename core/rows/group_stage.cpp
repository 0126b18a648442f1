// SPDX-License-Identifier: MIT
// Idea: keys become small numbers, numbers a tree, aggregates sums by group (group_codes, group_tree, term_sums); each
// is kept with what it was made from. After an edit the numbers of that record are made anew; only when they changed is
// the tree built again (a few milliseconds a million records), else the sums that read the field follow along the
// record's path. Covered by tests/rows/group_test.cpp.
#include "core/rows/group_stage.h"

#include <algorithm>
#include <chrono>

#include "core/rows/figures.h"
#include "core/rows/parallel.h"
#include "core/rows/sort_stage.h"

namespace jollyrow {
namespace {

/// More changed records than this, and making anew costs less than following.
constexpr std::size_t kMostFollowed = 200;

double millisecondsSince(std::chrono::steady_clock::time_point begun) {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count();
}

bool sameTerm(const SummaryTerm& a, const SummaryTerm& b) {
    return a.kind == b.kind && a.fraction == b.fraction && a.external == b.external &&
           sameMeaning(a.argument, b.argument) && sameMeaning(a.filter, b.filter);
}

std::vector<EvaluatedCell> cellsOf(const TermSums& sums, std::size_t slots) {
    constexpr std::size_t kParallelFrom = 20'000;
    std::vector<EvaluatedCell> cells(slots);
    const std::size_t threads = threadsFor(slots, kParallelFrom);
    inParallel(threads, [&](std::size_t t) {
        for (std::size_t slot = slots * t / threads; slot < slots * (t + 1) / threads; ++slot)
            cells[slot] = sums.at(slot);
    });
    return cells;
}

std::vector<FieldIndex> fieldsOf(const SummaryTerm& term) {
    std::vector<FieldIndex> fields;
    for (const auto& program : {term.argument, term.filter})
        if (program) fields.insert(fields.end(), program->fields.begin(), program->fields.end());
    return fields;
}

}  // namespace

GroupStage::Basis GroupStage::basisOf(const std::vector<const Program*>& programs, const EvaluationInput& records) {
    Basis basis;
    basis.today = records.today;
    basis.rows = records.table->rows;
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
        kept->codes = std::make_shared<const Codes>(std::move(*codes));
        kept->ranks.clear();
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
    return GroupKeys{kept->codes, kept->ranks};
}

/// Lets sums follow the records edited since. False when they must be made anew.
bool GroupStage::follow(KeptSums& kept, const EvaluationInput& records, const std::vector<FieldIndex>& fields) {
    const auto changed = changedRecords(kept.edits.get(), records.edits.get(), fields);
    if (changed.empty()) {
        kept.edits = records.edits;
        return true;
    }
    if (changed.size() > kMostFollowed) return false;
    auto next = kept.sums->copy();
    EvaluationInput before = records;
    before.edits = kept.edits;
    std::vector<std::uint32_t> touched;
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
        touched.insert(touched.end(), path.begin(), path.end());
    }
    kept.before = std::move(kept.sums);
    kept.sums = std::move(next);
    kept.touched = std::move(touched);
    kept.edits = records.edits;
    return true;
}

Result<GroupStage::KeptSums*> GroupStage::sumsFor(const SummaryTerm& term, const EvaluationInput& records,
                                                  const Cancel& cancel) {
    const Basis basis = basisOf({term.argument.get(), term.filter.get()}, records);
    const auto kept = std::find_if(sums_.begin(), sums_.end(), [&](const KeptSums& k) {
        return k.tree == tree_ && k.basis == basis && sameTerm(k.term, term);
    });
    if (kept != sums_.end()) {
        sums_.splice(sums_.begin(), sums_, kept);
        if (follow(*kept, records, fieldsOf(term))) return &sums_.front();
        sums_.pop_front();
    }
    auto made = sumsOf(term, *tree_, records, cancel);
    if (!made) return made.error();
    sums_.push_front({term, basis, tree_, records.edits, std::move(*made), {}, nullptr});
    if (sums_.size() > kKeptSums) sums_.pop_back();
    return &sums_.front();
}

Result<std::shared_ptr<const std::vector<EvaluatedCell>>> GroupStage::figuresOf(const SummaryRule& rule,
                                                                                const EvaluationInput& records,
                                                                                const Cancel& cancel) {
    std::vector<std::shared_ptr<const TermSums>> sums;
    std::vector<KeptSums*> kept;
    for (const SummaryTerm& term : rule.terms) {
        auto found = sumsFor(term, records, cancel);
        if (!found) return found.error();
        kept.push_back(*found);
        sums.push_back((*found)->sums);
    }
    const Basis basis = basisOf({rule.outer.get()}, records);
    auto known = std::find_if(figures_.begin(), figures_.end(), [&](const KeptFigures& k) {
        return k.text == rule.text && k.basis == basis && sameMeaning(k.outer, rule.outer);
    });
    if (known != figures_.end() && known->sums == sums) return known->cells;
    const std::size_t slots = tree_->nodes.size() + 1;
    std::shared_ptr<std::vector<EvaluatedCell>> cells;
    if (!rule.outer && known != figures_.end() && known->sums.front() == kept.front()->before) {
        // Only the groups that the edited records are in.
        cells = std::make_shared<std::vector<EvaluatedCell>>(*known->cells);
        for (const std::uint32_t slot : kept.front()->touched) (*cells)[slot] = sums.front()->at(slot);
    } else if (!rule.outer) {
        cells = std::make_shared<std::vector<EvaluatedCell>>(cellsOf(*sums.front(), slots));
    } else {
        std::vector<std::vector<EvaluatedCell>> aggregates(sums.size());
        for (std::size_t i = 0; i < sums.size(); ++i) aggregates[i] = cellsOf(*sums[i], slots);
        auto made = outerFigures(rule, aggregates, records, cancel);
        if (!made) return made.error();
        cells = std::make_shared<std::vector<EvaluatedCell>>(std::move(*made));
    }
    if (known != figures_.end()) figures_.erase(known);
    figures_.push_front({rule.text, rule.outer, basis, std::move(sums), cells});
    if (figures_.size() > kKeptSums) figures_.pop_back();
    return std::shared_ptr<const std::vector<EvaluatedCell>>(std::move(cells));
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
    if (!sameTree) {
        auto made = groupTree(keys, input.order.get(), records.table->rows, cancel);
        if (!made) return made.error();
        tree_ = std::move(*made);
        treeKeys_ = std::move(keys);
        treeOrder_ = input.order;
        treeRows_ = records.table->rows;
        std::erase_if(sums_, [&](const KeptSums& k) { return k.tree != tree_; });
        figures_.clear();
    }
    groupMs_ = sameTree ? 0 : millisecondsSince(begun);
    const auto summing = std::chrono::steady_clock::now();
    auto out = std::make_shared<GroupedRows>();
    out->tree = tree_;
    for (const SummarySpec& summary : input.summaries) {
        auto cells = figuresOf(summary.rule, records, cancel);
        if (!cells) return cells.error();
        out->figures.push_back(std::move(*cells));
    }
    const bool byFigure = std::any_of(input.levels.begin(), input.levels.end(),
                                      [](const GroupTerm& level) { return level.orderBy.has_value(); });
    if (byFigure && !tree_->nodes.empty()) {
        std::vector<std::uint32_t> from;
        out->tree = reordered(*tree_, ranksByFigures(*tree_, input.levels, out->figures), from);
        for (auto& figures : out->figures) {
            auto moved = std::make_shared<std::vector<EvaluatedCell>>();
            moved->reserve(figures->size());
            for (const std::uint32_t node : from) moved->push_back((*figures)[node]);
            moved->push_back(figures->back());
            figures = std::move(moved);
        }
    }
    for (std::size_t i = 0; i < input.summaries.size(); ++i)
        if (input.summaries[i].measure != SummaryMeasure::Itself)
            out->figures[i] = std::make_shared<const std::vector<EvaluatedCell>>(
                measured(*out->figures[i], input.summaries[i].measure, *out->tree));
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
