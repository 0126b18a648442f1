// SPDX-License-Identifier: MIT
// Session's groups: opening and closing, figures of a selection, how a figure came to be.
// Covered by tests/session/groups_test.cpp.
#include "core/session/session_threads.h"

namespace jollyrow {

void Session::showOpen(OpenGroups open) {
    if (open == open_) return;
    open_ = std::move(open);
    if (!snapshot_ || !snapshot_->grouped) return;
    auto next = std::make_shared<Snapshot>(*snapshot_);
    next->grouped = std::make_shared<const GroupedLines>(*snapshot_->grouped, open_);
    show(std::move(next));
}

void Session::setGroupOpen(std::uint32_t node, bool open) {
    if (!snapshot_->grouped || node >= snapshot_->grouped->tree().nodes.size()) return;
    OpenGroups next = open_;
    next.setOpen(snapshot_->grouped->tree().nodes[node], open);
    showOpen(std::move(next));
}

void Session::setLevelOpen(int level, bool open) {
    if (level < 0 || !snapshot_->grouped || level >= snapshot_->grouped->tree().levels()) return;
    const GroupTree& tree = snapshot_->grouped->tree();
    OpenGroups next = open_;
    const auto at = static_cast<std::size_t>(level);
    for (std::uint32_t n = tree.levelBegin[at]; !next.others.empty() && n < tree.levelBegin[at + 1]; ++n)
        next.others.erase(tree.nodes[n].path);
    if (next.levels.size() <= at) next.levels.resize(at + 1, true);
    next.levels[at] = open;
    showOpen(std::move(next));
}

void Session::setAllGroupsOpen(bool open) {
    OpenGroups next;
    next.levels.assign(plan_->grouping->groups.size(), open);
    showOpen(std::move(next));
}

bool Session::openGroupsAround(SourceRow row) {
    const auto place = snapshot_->placeOf(row);
    if (!place) return false;
    if (!snapshot_->grouped) return true;
    const GroupTree& tree = snapshot_->grouped->tree();
    OpenGroups next = open_;
    for (int level = 0; level < tree.levels(); ++level) next.setOpen(tree.nodes[tree.nodeAt(level, *place)], true);
    showOpen(std::move(next));
    return true;
}

void Session::figuresOf(std::vector<SourceRow> rows,
                        std::function<void(const Result<std::vector<EvaluatedCell>>&)> done) {
    cancelFigures_.request();
    cancelFigures_ = Cancel();
    auto order = std::make_shared<RowOrder>();
    for (const SourceRow row : rows) order->push_back(raw(row));
    std::vector<SummarySpec> summaries;
    if (const Grouping* grouping = groupingOf(*snapshot_))
        for (const PlannedSummary& summary : grouping->summaries)
            if (summaries.size() < snapshot_->groups->figures.size()) summaries.push_back(summary.spec);
    threads_->look.run([this, summaries = std::move(summaries), order = std::move(order), input = evaluationInput(),
                        cancel = cancelFigures_, number = ++figuresNumber_, done = std::move(done)] {
        if (cancel.requested()) return;
        Result<std::vector<EvaluatedCell>> figures = std::vector<EvaluatedCell>();
        if (const auto made = groupRows({}, summaries, order, input, cancel); !made)
            figures = made.error();
        else
            for (std::size_t i = 0; i < summaries.size(); ++i) figures->push_back((*made)->total(i));
        post_([this, number, figures = std::move(figures), done] {
            if (number == figuresNumber_) done(figures);
        });
    });
}

void Session::spread(const std::string& field, const std::string& rule, std::size_t bins,
                     std::function<void(const Result<std::shared_ptr<const ValueSpread>>&)> done) {
    std::shared_ptr<const Program> program;
    if (!rule.empty()) {
        auto compiled = compileRule(rule, schema_, vocabularyOf(design_, registered_.get()));
        if (!compiled) return done(compiled.error());
        program = std::move(*compiled);
    } else if (const auto index = schema_.find(field)) {
        program = programOf(*index, schema_);
    } else {
        return done(Error{ErrorCode::NotFound, "There is no such column."});
    }
    threads_->look.run([this, program, bins, input = evaluationInput(), done = std::move(done)] {
        auto spread = spreadOf(program, input, bins, Cancel());
        post_([spread = std::move(spread), done] { done(spread); });
    });
}

void Session::summaryTable(const SummaryTableWanted& wanted, std::function<void(const Result<SummaryTable>&)> done) {
    const Grouping* known = groupingOf(*snapshot_);
    Grouping grouping;
    if (known && snapshot_->groups) grouping = *known;
    cancelTable_.request();
    cancelTable_ = Cancel();
    threads_->look.run([this, wanted, grouping = std::move(grouping), design = design_, order = snapshot_->order,
                        input = evaluationInput(), cancel = cancelTable_, number = ++tableNumber_,
                        done = std::move(done)] {
        if (cancel.requested()) return;
        auto made = jollyrow::summaryTable(grouping, design, order, input, wanted, cancel);
        post_([this, number, made = std::move(made), done] {
            if (number == tableNumber_) done(made);
        });
    });
}

void Session::originOf(std::size_t summary, std::uint32_t node, std::function<void(const Result<FigureOrigin>&)> done) {
    const Grouping* grouping = groupingOf(*snapshot_);
    if (!grouping || !snapshot_->groups || summary >= snapshot_->groups->figures.size()) return;
    cancelOrigin_.request();
    cancelOrigin_ = Cancel();
    threads_->look.run([this, rule = grouping->summaries[summary].spec.rule, tree = snapshot_->groups->tree, node,
                        input = evaluationInput(), cancel = cancelOrigin_, number = ++originNumber_,
                        done = std::move(done)] {
        if (cancel.requested()) return;
        auto origin = jollyrow::originOf(rule, *tree, node, input, cancel);
        post_([this, number, origin = std::move(origin), done] {
            if (number == originNumber_) done(origin);
        });
    });
}

}  // namespace jollyrow
