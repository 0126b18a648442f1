// SPDX-License-Identifier: MIT
// Covered by tests/rules/window_oracle_test.cpp.
#include "core/rules/window_instructions.h"

#include "core/base/near_name.h"

namespace jollyrow {
namespace {

struct Counts {
    std::size_t least = 0, most = 0;
};
Counts argumentsOf(Aggregate aggregate) {
    switch (aggregate) {
        case Aggregate::Count: return {0, 1};
        case Aggregate::Nth:
        case Aggregate::Joined: return {2, 2};
        case Aggregate::Lag:
        case Aggregate::Lead: return {1, 3};
        case Aggregate::RowNumber:
        case Aggregate::Rank:
        case Aggregate::DenseRank:
        case Aggregate::PercentRank:
        case Aggregate::CumulativeShare: return {0, 0};
        default: return {1, 1};
    }
}

/// In which kind a distance of RANGE is counted, for keys of this kind; Null for keys without distances.
RuleKind distanceKind(RuleKind key) {
    if (isNumber(key)) return key;
    const bool isMoment = hasDay(key) || key == RuleKind::Time || key == RuleKind::Interval;
    return isMoment ? RuleKind::Interval : RuleKind::Null;
}

}  // namespace

Result<WindowInstructions::Ref> WindowInstructions::window(const SyntaxNode& node, const std::vector<Ref>& children) {
    WindowSpec spec;
    if (auto read = readSpec(node, children, spec); !read) return read.error();
    // MIN and MAX of an enum go by its order.
    const bool isExtreme = spec.aggregate == Aggregate::Minimum || spec.aggregate == Aggregate::Maximum;
    const auto* values = isExtreme && !spec.arguments.empty() ? enumOf(spec.arguments[0]) : nullptr;
    if (values) {
        auto place = placeIn(*values, spec.arguments[0]);
        if (!place) return place;
        spec.arguments[0] = *place;
    }
    if (isExtreme && isCollated(spec.arguments[0]))
        return fail(node.range, fmt::format("COLLATE does not reach into {}.", node.text));
    if (auto settled = settle(node, spec); !settled) return settled.error();
    Instruction instruction{Op::Window, spec.type};
    instruction.index = static_cast<std::uint32_t>(program_.windows.size());
    instruction.range = node.range;
    program_.windows.push_back(std::move(spec));
    auto made = add(std::move(instruction));
    return made && values ? valueAt(*values, *made) : made;
}

Result<void> WindowInstructions::readSpec(const SyntaxNode& node, const std::vector<Ref>& children, WindowSpec& spec) {
    auto aggregate = aggregateFromName(node.text);
    for (const auto& external : vocabulary_.aggregates)
        if (!aggregate && sameName(external->name, node.text)) spec.external = external;
    if (spec.external) aggregate = Aggregate::External;
    if (!aggregate) {
        std::vector<std::string> names(aggregateNames().begin(), aggregateNames().end());
        const auto near = nearestName(node.text, names);
        return fail(node.range, fmt::format("{} sums up no records and has no place among them, so OVER (…) cannot "
                                            "stand behind it.{}",
                                            node.text, near ? fmt::format(" Did you mean {}?", *near) : ""));
    }
    spec.aggregate = *aggregate;
    for (const Ref ref : children)
        if (comesFrom(ref, Op::Window)) return fail(node.range, "One OVER (…) cannot stand inside another.");
    if (auto fits = checkForm(node, spec); !fits) return fits;
    auto next = children.begin();
    const auto takeSome = [&](std::size_t count) {
        const auto from = std::exchange(next, next + static_cast<std::ptrdiff_t>(count));
        return std::vector<Ref>(from, next);
    };
    spec.arguments = takeSome(node.arguments);
    spec.partition = takeSome(node.partitions);
    spec.order = takeSome(node.descending.size());
    spec.distances.assign(next, children.end());
    spec.descending = node.descending;
    spec.emptiesFirst = node.emptiesFirst;
    spec.frame = node.frame.value_or(WindowFrame{});
    if (auto read = readDistances(node, spec); !read) return read;
    return readOrder(node, spec);
}

Result<void> WindowInstructions::checkForm(const SyntaxNode& node, const WindowSpec& spec) const {
    const auto [least, most] = argumentsOf(spec.aggregate);
    if (node.arguments < least || node.arguments > most)
        return fail(node.range, spec.external ? fmt::format("{} takes one value.", node.text)
                                              : fmt::format("{} is written {}.", node.text, formOf(spec.aggregate)));
    const bool isOrdered = !node.descending.empty();
    if (!isOrdered && !isSum(spec.aggregate))
        return fail(node.range, fmt::format("{} needs ORDER BY in its OVER (…).", node.text));
    if (!node.frame) {
        if (spec.external && isOrdered)
            return fail(node.range,
                        fmt::format("{} sums up all records of a partition; leave ORDER BY out.", node.text));
        return {};
    }
    if (spec.external) return fail(node.range, fmt::format("{} looks at no frame; leave it out.", node.text));
    const bool hasUnit =
        node.frame->unit != FrameUnit::Range || hasDistance(node.frame->begin) || hasDistance(node.frame->end);
    if (!isOrdered && hasUnit) return fail(node.range, "This frame needs ORDER BY in its OVER (…).");
    return {};
}

Result<void> WindowInstructions::readOrder(const SyntaxNode& node, WindowSpec& spec) {
    for (Ref& key : spec.order) {
        auto by = orderedBy(key);
        if (!by) return by.error();
        if (kind(*by) == RuleKind::Null) return fail(node.range, "NULL alone is no order.");
        key = *by;
    }
    return {};
}

Result<void> WindowInstructions::readDistances(const SyntaxNode& node, WindowSpec& spec) {
    if (spec.distances.empty()) return {};
    RuleKind wanted = RuleKind::Integer;
    if (spec.frame.unit == FrameUnit::Range) {
        if (spec.order.size() != 1)
            return fail(node.range, "A distance of RANGE is one of the value ordered by: ORDER BY takes one here.");
        wanted = distanceKind(kind(spec.order[0]));
        if (wanted == RuleKind::Null)
            return fail(node.range, fmt::format("RANGE has no distances between values such as {}; ROWS and GROUPS "
                                                "count records.",
                                                article(kind(spec.order[0]))));
    }
    for (Ref& distance : spec.distances) {
        if (comesFrom(distance, Op::Load) || comesFrom(distance, Op::External))
            return fail(program_.code[distance].range, "The distance of a frame is the same for all records.");
        auto fit = fitted_(distance, wanted, "A frame");
        if (!fit) return fit.error();
        distance = *fit;
    }
    return {};
}

Result<void> WindowInstructions::settle(const SyntaxNode& node, WindowSpec& spec) {
    return isSum(spec.aggregate) ? settleSum(node, spec) : settlePlace(node, spec);
}

Result<void> WindowInstructions::settleSum(const SyntaxNode& node, WindowSpec& spec) {
    const RuleType whole{RuleKind::Integer, 0}, exact{RuleKind::Decimal, RuleType::kVaries}, real{RuleKind::Real, 0};
    const auto fit = [&](std::size_t i, RuleKind wanted) -> Result<void> {
        auto value = fitted_(spec.arguments[i], wanted, node.text);
        if (!value) return value.error();
        spec.arguments[i] = *value;
        return {};
    };
    switch (spec.aggregate) {
        case Aggregate::Count: spec.type = whole; return {};
        case Aggregate::Minimum:
        case Aggregate::Maximum: spec.type = type(spec.arguments[0]); return {};
        case Aggregate::Every:
        case Aggregate::AnyOf: spec.type = {RuleKind::Boolean, 0}; return fit(0, RuleKind::Boolean);
        case Aggregate::Joined:
            spec.type = {RuleKind::Text, 0};
            if (auto done = fit(0, RuleKind::Text); !done) return done;
            return fit(1, RuleKind::Text);
        case Aggregate::External:
            spec.type = {spec.external->result, spec.external->result == RuleKind::Decimal ? RuleType::kVaries : 0};
            return fit(0, spec.external->argument);
        default: break;
    }
    auto value = number(spec.arguments[0], node.text);
    if (!value) return value.error();
    spec.arguments[0] = *value;
    const bool isWhole = spec.aggregate == Aggregate::Sum && sumsToWhole(program_.code, *value, schema_);
    spec.type = kind(*value) == RuleKind::Real ? real : isWhole ? whole : exact;
    return {};
}

Result<void> WindowInstructions::settlePlace(const SyntaxNode& node, WindowSpec& spec) {
    switch (spec.aggregate) {
        case Aggregate::RowNumber:
        case Aggregate::Rank:
        case Aggregate::DenseRank: spec.type = {RuleKind::Integer, 0}; return {};
        case Aggregate::PercentRank:
        case Aggregate::CumulativeShare: spec.type = {RuleKind::Real, 0}; return {};
        default: break;
    }
    const std::size_t count = spec.aggregate == Aggregate::Tile ? 0 : 1;  // which argument says how many
    if (spec.arguments.size() > count) {
        auto fit = fitted_(spec.arguments[count], RuleKind::Integer, node.text);
        if (!fit) return fit.error();
        spec.arguments[count] = *fit;
    }
    if (spec.aggregate == Aggregate::Tile) {
        spec.type = {RuleKind::Integer, 0};
        return {};
    }
    if (spec.arguments.size() < 3) {
        spec.type = type(spec.arguments[0]);
        return {};
    }
    std::vector<Ref> both{spec.arguments[0], spec.arguments[2]};
    auto common = unified(both, "the value and what stands for a missing one must be of one kind");
    if (!common) return common.error();
    spec.arguments[0] = both[0];
    spec.arguments[2] = both[1];
    spec.type = commonType(*common, both);
    return {};
}

bool WindowInstructions::comesFrom(Ref root, Op op) const {
    std::vector<Ref> todo{root};
    std::vector<bool> seen(program_.code.size());
    while (!todo.empty()) {
        const Ref ref = todo.back();
        todo.pop_back();
        if (seen[ref]) continue;
        seen[ref] = true;
        if (program_.code[ref].op == op) return true;
        todo.insert(todo.end(), program_.code[ref].operands.begin(), program_.code[ref].operands.end());
    }
    return false;
}

}  // namespace jollyrow
