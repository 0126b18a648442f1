// SPDX-License-Identifier: MIT
#include "core/rules/program.h"

#include <fmt/format.h>

#include <algorithm>

#include "core/rules/conversion.h"

namespace jollyrow {

std::string Program::dump() const {
    std::string out;
    for (std::size_t i = 0; i < code.size(); ++i) {
        const Instruction& c = code[i];
        out += fmt::format("%{} = {}", i, name(c.op));
        if (c.op == Op::Load || c.op == Op::Parameter || c.op == Op::Window || c.op == Op::External)
            out += fmt::format(" #{}", c.index);
        if (c.op == Op::Constant) out.append(" ").append(constantText(c.constant));
        if (c.op == Op::Extract || c.op == Op::TruncateTime) out += fmt::format(" {}", name(c.part));
        if (c.bits != 0) out += fmt::format(" {} bits", c.bits);
        for (const std::uint32_t ref : c.operands) out += fmt::format(" %{}", ref);
        out += fmt::format(" : {}", name(c.type.kind));
        if (c.type.kind == RuleKind::Decimal)
            out += c.type.scale == RuleType::kVaries ? "(*)" : fmt::format("({})", c.type.scale);
        out += '\n';
    }
    for (const WindowSpec& spec : windows) {
        out += fmt::format("{} OVER", spec.external ? std::string_view(spec.external->name) : name(spec.aggregate));
        for (const std::uint32_t ref : spec.arguments) out += fmt::format(" of %{}", ref);
        for (const std::uint32_t ref : spec.partition) out += fmt::format(" by %{}", ref);
        for (std::size_t k = 0; k < spec.order.size(); ++k)
            out += fmt::format(" in %{}{}{}", spec.order[k], spec.descending[k] ? " down" : "",
                               spec.emptiesFirst[k] ? " empties first" : "");
        const auto distance = [&](bool isFirst) {
            return spec.distances.empty()
                       ? std::string()
                       : fmt::format("%{}", isFirst ? spec.distances.front() : spec.distances.back());
        };
        out += ' ';
        out += frameText(spec.frame, distance(true), distance(false));
        out += '\n';
    }
    return out;
}

void dropUnused(Program& program, std::uint32_t root) {
    std::vector<bool> used(program.code.size());
    used[root] = true;
    const auto mark = [&](const std::vector<std::uint32_t>& refs) {
        for (const std::uint32_t ref : refs) used[ref] = true;
    };
    for (std::uint32_t at = root + 1; at-- > 0;) {
        if (!used[at]) continue;
        mark(program.code[at].operands);
        if (program.code[at].op != Op::Window) continue;
        WindowSpec::eachRef(program.windows[program.code[at].index], [&](std::uint32_t ref) { used[ref] = true; });
    }
    std::vector<std::uint32_t> moved(program.code.size());
    std::uint32_t next = 0;
    for (std::uint32_t at = 0; at <= root; ++at) {
        if (!used[at]) continue;
        moved[at] = next;
        if (next != at) program.code[next] = std::move(program.code[at]);
        for (std::uint32_t& ref : program.code[next].operands) ref = moved[ref];
        ++next;
    }
    program.code.resize(next);
    for (WindowSpec& spec : program.windows) WindowSpec::eachRef(spec, [&](std::uint32_t& ref) { ref = moved[ref]; });
}

bool sameMeaning(const std::shared_ptr<const Program>& a, const std::shared_ptr<const Program>& b) {
    if (a == b || !a || !b) return a == b;
    const auto sameAggregates = [](const WindowSpec& x, const WindowSpec& y) { return x.external == y.external; };
    return a->externals == b->externals && a->dump() == b->dump() &&
           std::equal(a->windows.begin(), a->windows.end(), b->windows.begin(), b->windows.end(), sameAggregates);
}

bool sumsToWhole(std::span<const Instruction> code, std::uint32_t of, const TableSchema& schema) {
    if (code[of].type.kind != RuleKind::Integer) return false;
    std::vector<std::uint32_t> open{of};
    std::vector<bool> seen(code.size(), false);
    while (!open.empty()) {
        const std::uint32_t at = open.back();
        open.pop_back();
        if (seen[at] || code[at].type.kind != RuleKind::Integer) continue;
        seen[at] = true;
        if (code[at].op == Op::Load) {
            std::string declared = schema.field(static_cast<FieldIndex>(code[at].index)).declaredType;
            std::transform(declared.begin(), declared.end(), declared.begin(),
                           [](char c) { return c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c; });
            const bool isWhole = declared.find("INT") != std::string::npos;
            if (!isWhole || declared.find("BIGINT") != std::string::npos || declared.find("INT8") != std::string::npos)
                return false;
        }
        const auto* constant = std::get_if<std::int64_t>(&code[at].constant);
        if (code[at].op == Op::Constant && constant && *constant != static_cast<std::int32_t>(*constant)) return false;
        open.insert(open.end(), code[at].operands.begin(), code[at].operands.end());
    }
    return true;
}

}  // namespace jollyrow
