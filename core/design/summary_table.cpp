// SPDX-License-Identifier: MIT
// Idea: the level that stands across is grouped by last, so that each of its groups is one cell of the row of the group
// above, and that group's own figures are the row's total. Covered by tests/design/summary_table_test.cpp.
#include "core/design/summary_table.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "core/columns/column_builder.h"
#include "core/design/make_design.h"
#include "core/rules/conversion.h"

namespace jollyrow {
namespace {

/// One column being made: its values as they come.
struct Making {
    FieldSchema field;
    ColumnDesign design;
    std::vector<Value> values;
};

/// A key as a value of its own where it has a type, else by its name.
bool keepsType(const PlannedGroup& group) {
    if (group.design.by == GroupBy::Ranges || group.design.by == GroupBy::Quarter ||
        group.design.by == GroupBy::Nearness)
        return false;
    return true;
}

Type keyType(const PlannedGroup& group, const TableSchema& schema) {
    if (!keepsType(group)) return Type::Text;
    const RuleKind kind = group.term.key.program ? group.term.key.program->type().kind
                                                 : ruleKindOf(schema.field(*group.term.key.field).type);
    return kind == RuleKind::Null || kind == RuleKind::Interval ? Type::Text : columnTypeOf(kind);
}

Value keyValue(const PlannedGroup& group, const EvaluatedCell& key, Type type) {
    if (key.state == CellState::Empty) return Empty{};
    std::string name;
    group.names->append(name, key);
    if (isError(key.state)) return type == Type::Text ? Value(name) : Value(Empty{});
    if (!keepsType(group)) return name;
    Value value = plainValue(key.value);
    // A row without a name would look like a mistake: an empty text is called as its group is.
    if (const auto* text = std::get_if<std::string>(&value); text && text->empty()) return name;
    if (type == Type::Decimal && !exactOf(value)) return Empty{};
    return value;
}

/// A figure rounded as it is shown; failures are empty.
Value figureValue(const EvaluatedCell& cell, const FieldSchema& field) {
    if (cell.state != CellState::Filled) return Empty{};
    if (field.type == Type::Decimal || field.type == Type::Integer) {
        std::optional<WideDecimal> exact;
        if (const auto* wide = std::get_if<WideDecimal>(&cell.value)) exact = *wide;
        if (const auto* whole = std::get_if<std::int64_t>(&cell.value)) exact = WideDecimal{*whole, 0};
        if (const auto* real = std::get_if<double>(&cell.value)) exact = wideFromReal(*real);
        const auto shown = exact ? rounded(*exact, field.scale) : std::nullopt;
        if (!shown) return Empty{};
        if (field.type == Type::Decimal) return narrowest(*shown);
        const auto narrow = narrowed(WideDecimal{shown->mantissa, 0});
        return narrow ? Value(narrow->mantissa) : Value(Empty{});
    }
    if (field.type == Type::Real)
        if (const auto* wide = std::get_if<WideDecimal>(&cell.value)) return toReal(*wide);
    return plainValue(cell.value);
}

void put(ColumnChunk& chunk, const Value& value) {
    if (isEmpty(value)) return chunk.addEmpty();
    if (const auto* text = std::get_if<std::string>(&value)) return chunk.addText(*text);
    if (const auto* real = std::get_if<double>(&value)) return chunk.addReal(*real);
    if (const auto* whole = std::get_if<std::int64_t>(&value)) return chunk.addInteger(*whole);
    if (const auto exact = exactOf(value)) {
        const auto same = rounded(*exact, chunk.scale);
        return same ? chunk.addWide(same->mantissa) : chunk.addMisfit(toString(*exact));
    }
    if (const auto* odd = std::get_if<Unfit>(&value)) return chunk.addMisfit(odd->text, odd->stored);
    if (const bool* yes = std::get_if<bool>(&value)) return chunk.addInteger(*yes ? 1 : 0);
    if (const auto* date = std::get_if<Date>(&value)) return chunk.addInteger(date->days);
    if (const auto* time = std::get_if<Time>(&value)) return chunk.addInteger(time->micros);
    if (const auto* stamp = std::get_if<Timestamp>(&value)) return chunk.addInteger(stamp->micros);
    if (const auto* instant = std::get_if<Instant>(&value)) return chunk.addInteger(instant->micros);
    chunk.addEmpty();
}

class Maker {
  public:
    Maker(const Grouping& grouping, const Design& from, const EvaluationInput& records,
          const SummaryTableWanted& wanted)
        : grouping_(grouping), from_(from), records_(records), wanted_(wanted) {}

    Result<SummaryTable> run(std::shared_ptr<const RowOrder> order, const Cancel& cancel) {
        if (grouping_.groups.empty() || grouping_.summaries.empty())
            return Error{ErrorCode::InvalidInput, "A summary table needs a group and a figure."};
        for (const std::size_t level : wanted_.across)
            if (level >= grouping_.groups.size())
                return Error{ErrorCode::InvalidInput, "There is no such level to stand across."};
        for (std::size_t i = 0; i < grouping_.groups.size(); ++i)
            if (!stands(i)) rows_.push_back(i);
        std::vector<GroupTerm> levels;
        for (const std::size_t i : rows_) levels.push_back(grouping_.groups[i].term);
        for (const std::size_t i : wanted_.across) levels.push_back(grouping_.groups[i].term);
        std::vector<SummarySpec> specs;
        for (const PlannedSummary& summary : grouping_.summaries) specs.push_back(summary.spec);
        auto grouped = groupRows(levels, specs, std::move(order), records_, cancel);
        if (!grouped) return grouped.error();
        grouped_ = std::move(*grouped);
        addKeys();
        if (auto done = wanted_.across.empty() ? addFigures() : addAcross(); !done) return done.error();
        if (wanted_.turned)
            if (auto done = turn(); !done) return done.error();
        return finished();
    }

  private:
    bool stands(std::size_t level) const {
        return std::find(wanted_.across.begin(), wanted_.across.end(), level) != wanted_.across.end();
    }
    const GroupTree& tree() const { return *grouped_->tree; }
    /// The nodes that make a row each; without other levels all records do.
    int rowLevel() const { return static_cast<int>(rows_.size()) - 1; }
    std::vector<std::uint32_t> rowNodes() const {
        std::vector<std::uint32_t> nodes;
        if (rowLevel() < 0) return {static_cast<std::uint32_t>(tree().nodes.size())};
        const auto level = static_cast<std::size_t>(rowLevel());
        for (std::uint32_t n = tree().levelBegin[level]; n < tree().levelBegin[level + 1]; ++n) nodes.push_back(n);
        return nodes;
    }

    Making& add(const std::string& heading, Type type, int scale) {
        Making& made = columns_.emplace_back();
        std::string name = nameFor(heading);
        if (name.empty()) name = "value";
        std::string free = name;
        for (int n = 2; taken_.contains(free); ++n) free = fmt::format("{}_{}", name, n);
        taken_.insert({free, columns_.size()});
        made.field.name = free;
        made.field.type = type;
        made.field.scale = scale;
        made.field.precision = 18;
        made.design.field = free;
        made.design.type = type;
        made.design.heading = heading;
        return made;
    }

    void addKeys() {
        for (std::size_t k = 0; k < rows_.size(); ++k) {
            const PlannedGroup& group = grouping_.groups[rows_[k]];
            const Type type = keyType(group, records_.table->schema);
            const auto field = records_.table->schema.find(group.design.key.field);
            Making& column = add(group.heading, type,
                                 type == Type::Decimal && field ? records_.table->schema.field(*field).scale : 0);
            if (group.design.by == GroupBy::Month || group.design.by == GroupBy::Week) {
                column.design.format.style = FormatStyle::Pattern;
                column.design.format.pattern = group.design.by == GroupBy::Month ? "MMMM y" : "d MMM y";
            }
            if (group.design.by == GroupBy::Year) column.field.use = Use::Plain;
            column.design.format.empty = "(empty)";
            for (std::uint32_t node : rowNodes()) {
                while (tree().nodes[node].level > static_cast<int>(k)) node = tree().nodes[node].parent;
                column.values.push_back(keyValue(group, tree().key(tree().nodes[node]), type));
            }
        }
    }

    Making& addFigure(const PlannedSummary& summary, const std::string& heading) {
        const TextFormat& format = summary.formatter->format();
        const int scale = summary.design.as == SummaryAs::ShareOfParent || summary.design.as == SummaryAs::ShareOfAll
                              ? 6
                              : format.scale;
        Making& column = add(heading, format.type, scale);
        column.design.format = format.spec;
        if (column.design.format.style == FormatStyle::Message) column.design.format = {};
        return column;
    }

    std::string headingOf(const PlannedSummary& summary) const {
        if (summary.design.show == SummaryShow::Rule) return headingFor(summary.design.name, false);
        std::string heading = summary.words;
        if (!heading.empty() && heading[0] >= 'a' && heading[0] <= 'z') heading[0] = static_cast<char>(heading[0] - 32);
        return heading;
    }

    Result<void> addFigures() {
        for (std::size_t s = 0; s < grouping_.summaries.size(); ++s) {
            Making& column = addFigure(grouping_.summaries[s], headingOf(grouping_.summaries[s]));
            for (const std::uint32_t node : rowNodes())
                column.values.push_back(figureValue(grouped_->figure(s, node), column.field));
        }
        return {};
    }

    /// The names of the groups across that a node stands in, outermost first; `first`: the level of the tree they begin
    /// on.
    std::vector<std::string> namesAcross(const GroupTree& of, std::uint32_t node, int first) const {
        std::vector<std::string> names(wanted_.across.size());
        for (;; node = of.nodes[node].parent) {
            const auto at = static_cast<std::size_t>(of.nodes[node].level - first);
            grouping_.groups[wanted_.across[at]].names->append(names[at], of.key(of.nodes[node]));
            if (at == 0) return names;
        }
    }

    /// All that stand across in some row, in the order of their levels.
    Result<std::vector<std::vector<std::string>>> groupsAcross() const {
        std::vector<GroupTerm> levels;
        for (const std::size_t i : wanted_.across) levels.push_back(GroupTerm{grouping_.groups[i].term.key});
        const auto alone = groupRows(levels, {}, tree().order, records_, Cancel());
        if (!alone) return alone.error();
        const GroupTree& groups = *(*alone)->tree;
        std::vector<std::vector<std::string>> all;
        std::set<std::vector<std::string>> known;
        for (auto n = static_cast<std::uint32_t>(groups.leafBegin()); n < groups.nodes.size(); ++n) {
            std::vector<std::string> names = namesAcross(groups, n, 0);
            if (known.insert(names).second) all.push_back(std::move(names));
        }
        return all;
    }

    /// A tier in another one ("" = in none), made where it is not there yet.
    std::string tierFor(std::map<std::string, std::string>& made, const std::string& parent, const std::string& path,
                        const std::string& heading) {
        const auto known = made.find(path);
        if (known != made.end()) return known->second;
        TierDesign tier;
        tier.name = fmt::format("t{}", design_.tiers.size());
        tier.heading = heading;
        tier.parent = parent;
        design_.tiers.push_back(tier);
        made.emplace(path, tier.name);
        return tier.name;
    }

    /// Columns for the figures of one group across, under the tiers of those it is in; with one figure the innermost
    /// group is the column's own heading.
    void addFiguresOf(const std::vector<std::string>& names, std::map<std::string, std::string>& tiers,
                      std::size_t rows) {
        const std::size_t figures = grouping_.summaries.size();
        std::string parent, path;
        for (std::size_t k = 0; k + (figures == 1 ? 1 : 0) < names.size(); ++k) {
            path += fmt::format("{}:{}", names[k].size(), names[k]);
            parent = tierFor(tiers, parent, path, names[k]);
        }
        for (const PlannedSummary& summary : grouping_.summaries) {
            Making& column = addFigure(summary, figures == 1 ? names.back() : headingOf(summary));
            column.design.tier = parent;
            column.values.assign(rows, Empty{});
        }
    }

    /// Tiers for the groups across, in the order in which they stand, and one for all of them.
    Result<void> addAcross() {
        const std::vector<std::uint32_t> rows = rowNodes();
        const auto groups = groupsAcross();
        if (!groups) return groups.error();
        const std::size_t figures = grouping_.summaries.size();
        if ((groups->size() + 1) * figures + rows_.size() > kMostTableColumns)
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} groups of {} with {} figures each would make {} columns; {} are the most.",
                                     groups->size(), grouping_.groups[wanted_.across.front()].heading, figures,
                                     (groups->size() + 1) * figures, kMostTableColumns)};
        const std::size_t first = columns_.size();
        std::map<std::string, std::string> tiers;
        std::map<std::vector<std::string>, std::size_t> places;
        for (const std::vector<std::string>& names : *groups) {
            places.emplace(names, places.size());
            addFiguresOf(names, tiers, rows.size());
        }
        std::map<std::string, std::string> own;  // a group may be called so, too
        addFiguresOf({"All"}, own, rows.size());
        std::map<std::uint32_t, std::size_t> rowOf;
        for (std::size_t row = 0; row < rows.size(); ++row) rowOf.emplace(rows[row], row);
        const auto fill = [&](std::size_t place, std::size_t row, std::uint32_t node) {
            for (std::size_t s = 0; s < figures; ++s) {
                Making& column = columns_[first + place * figures + s];
                column.values[row] = figureValue(grouped_->figure(s, node), column.field);
            }
        };
        for (auto n = static_cast<std::uint32_t>(tree().leafBegin()); n < tree().nodes.size(); ++n) {
            std::uint32_t above = n;
            while (tree().nodes[above].level > rowLevel() + 1) above = tree().nodes[above].parent;
            const auto row = rowLevel() < 0 ? std::size_t{0} : rowOf.at(tree().nodes[above].parent);
            fill(places.at(namesAcross(tree(), n, rowLevel() + 1)), row, n);
        }
        for (std::size_t row = 0; row < rows.size(); ++row) fill(groups->size(), row, rows[row]);
        return {};
    }

    /// Rows become columns: a row for each figure, its values in words.
    Result<void> turn() {
        std::vector<Making> before = std::move(columns_);
        columns_.clear();
        taken_.clear();
        design_.tiers.clear();
        const std::size_t rows = before.empty() ? 0 : before.front().values.size();
        if (rows + 1 > kMostTableColumns)
            return Error{ErrorCode::Unsupported,
                         fmt::format("{} rows are too many to stand side by side; {} are the most.", rows,
                                     kMostTableColumns - 1)};
        Making figure = add("Figure", Type::Text, 0);
        columns_.clear();
        for (std::size_t c = rows_.size(); c < before.size(); ++c) figure.values.emplace_back(before[c].design.heading);
        std::vector<Making> turned{figure};
        const auto textOfCell = [](const Making& column, std::size_t row) {
            TextFormat format;
            format.type = column.field.type;
            format.scale = column.field.scale;
            format.spec = column.design.format;
            auto made = Formatter::make(format, {}, [](std::string_view) { return std::nullopt; });
            std::string text;
            (made ? *made : Formatter::automatic(format))->append(text, column.values[row]);
            return text;
        };
        for (std::size_t row = 0; row < rows; ++row) {
            std::string heading;
            for (std::size_t k = 0; k < rows_.size(); ++k) {
                const std::string part = isEmpty(before[k].values[row]) ? "(empty)" : textOfCell(before[k], row);
                heading += (heading.empty() ? "" : " · ") + part;
            }
            columns_.clear();
            Making column = add(heading.empty() ? "All" : heading, Type::Text, 0);
            column.design.alignment = Alignment::Right;
            for (std::size_t c = rows_.size(); c < before.size(); ++c)
                column.values.emplace_back(textOfCell(before[c], row));
            turned.push_back(std::move(column));
        }
        columns_ = std::move(turned);
        rows_.clear();
        return {};
    }

    SummaryTable finished() {
        auto table = std::make_shared<Table>();
        table->schema.name = "summary";
        table->schema.writable = false;
        table->schema.whyNotWritable = "A summary table is computed; its records are edited where they come from.";
        design_.title = from_.title.empty() ? "Summary" : from_.title + ", summed up";
        design_.locale = from_.locale;
        design_.source = {"sqlite", "", "summary", ""};
        design_.grid.pinned = std::min<int>(static_cast<int>(rows_.size()), 2);
        // What all groups across make together stays in sight.
        constexpr std::size_t kMostPinned = 3;  // more of them would take the others' room
        if (!wanted_.across.empty() && !wanted_.turned && grouping_.summaries.size() <= kMostPinned)
            design_.grid.pinnedRight = static_cast<int>(grouping_.summaries.size());
        if (columns_.size() < 4 || wanted_.turned) design_.grid.pinned = std::min(design_.grid.pinned, 1);
        for (Making& column : columns_) {
            table->rows = column.values.size();
            ColumnChunk chunk;
            chunk.reset(column.field.type, column.field.scale, false);
            for (const Value& value : column.values) put(chunk, value);
            ColumnBuilder builder(column.field.type, column.field.scale);
            builder.append(chunk);
            table->columns.push_back(builder.share());
            table->schema.fields.push_back(column.field);
            column.design.width.mode = WidthMode::Fit;
            column.design.width.maximum = 280;
            design_.columns.push_back(column.design);
        }
        return {table, design_};
    }

    const Grouping& grouping_;
    const Design& from_;
    const EvaluationInput& records_;
    const SummaryTableWanted& wanted_;
    std::vector<std::size_t> rows_;  ///< levels that make rows
    std::shared_ptr<const GroupedRows> grouped_;
    std::vector<Making> columns_;
    std::map<std::string, std::size_t> taken_;
    Design design_;
};

}  // namespace

SummaryTableWanted summaryTableOf(const Grouping& grouping, const Design& design) {
    SummaryTableWanted wanted;
    for (std::size_t i = 0; i < grouping.groups.size(); ++i) {
        const GroupDesign& planned = grouping.groups[i].design;
        const auto known = std::find_if(design.groups.begin(), design.groups.end(), [&](const GroupDesign& group) {
            return group.key == planned.key && group.by == planned.by && group.cuts == planned.cuts;
        });
        if (known != design.groups.end() && known->across) wanted.across.push_back(i);
    }
    wanted.turned = design.grid.turnedSummary;
    return wanted;
}

Result<SummaryTable> summaryTable(const Grouping& grouping, const Design& from, std::shared_ptr<const RowOrder> order,
                                  const EvaluationInput& records, const SummaryTableWanted& wanted,
                                  const Cancel& cancel) {
    return Maker(grouping, from, records, wanted).run(std::move(order), cancel);
}

}  // namespace jollyrow
