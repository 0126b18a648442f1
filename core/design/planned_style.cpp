// SPDX-License-Identifier: MIT
// Covered by tests/design/style_test.cpp.
#include "core/design/planned_style.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/design/condition.h"
#include "core/design/operators.h"
#include "core/rules/summary_list.h"
#include "core/rules/syntax.h"

namespace jollyrow {
namespace {

class StylePlanner {
  public:
    StylePlanner(const Design& design, const TableSchema& schema, const Registered* registered,
                 std::vector<Finding>& findings)
        : schema_(schema), vocabulary_(vocabularyOf(design, registered)), findings_(findings) {}

    std::optional<PlannedStyle> plan(const StyleDesign& style) {
        PlannedStyle planned;
        planned.design = style;
        for (const std::string& name : style.columns) {
            const auto field = schema_.find(name);
            if (field && (!style.isByPlace() || isNumber(schema_.field(*field).type)))
                planned.fields.push_back(*field);
            else
                say(style,
                    field ? fmt::format("{} holds {}, which has no scale", name, article(schema_.field(*field).type))
                          : fmt::format("{} has no column {}", schema_.name, name));
        }
        const bool needsColumns = style.isByPlace() || !style.icons.empty();
        if (planned.fields.empty() && (!style.columns.empty() || needsColumns)) {
            if (style.columns.empty()) say(style, "a scale or an icon is of columns, and it names none");
            return std::nullopt;
        }
        if (!style.where.empty() && !addCondition(planned)) return std::nullopt;
        return planned;
    }

  private:
    void say(const StyleDesign& style, const std::string& why) {
        findings_.push_back({Severity::Warning,
                             "styles/" + style.name,
                             fmt::format("The style {} is left out there: {}.", style.name, why),
                             {}});
    }

    /// Of the record where that is enough, else of each column's value.
    bool addCondition(PlannedStyle& planned) {
        const StyleDesign& style = planned.design;
        BindOptions options;
        options.expected = RuleKind::Boolean;
        auto made = compileRule(style.where, schema_, vocabulary_, options);
        if (made && !(*made)->windows.empty())
            made = Error{ErrorCode::Unsupported,
                         "A style looks at one record; what looks at others is for a computed column"};
        if (made) {
            planned.where = std::move(*made);
            return true;
        }
        std::erase_if(planned.fields, [&](FieldIndex field) {
            auto own = partCondition(style.where, schema_.field(field).name, schema_, vocabulary_);
            if (own) planned.byField.emplace(field, std::move(*own));
            return !own;
        });
        if (!planned.fields.empty()) return true;
        std::string why = made.error().message;
        while (!why.empty() && why.back() == '.') why.pop_back();
        say(style, why);
        return false;
    }

    const TableSchema& schema_;
    RuleVocabulary vocabulary_;
    std::vector<Finding>& findings_;
};

}  // namespace

std::vector<PlannedStyle> plannedStyles(const Design& design, const TableSchema& schema, const Registered* registered,
                                        std::vector<Finding>& findings) {
    std::vector<PlannedStyle> planned;
    if (design.styles.empty()) return planned;
    StylePlanner planner(design, schema, registered, findings);
    for (const StyleDesign& style : design.styles)
        if (style.on && style.lines == StyledLines::Records)
            if (auto one = planner.plan(style)) planned.push_back(std::move(*one));
    return planned;
}

std::vector<std::string> fieldNamesOf(const std::vector<StyleDesign>& styles) {
    std::vector<std::string> names;
    for (const StyleDesign& style : styles) {
        names.insert(names.end(), style.columns.begin(), style.columns.end());
        if (style.where.empty()) continue;
        // Of one with aggregates, which is no rule by itself, the words are names enough.
        const auto read = style.lines == StyledLines::Records ? columnsNamed(style.where) : namesIn(style.where);
        names.insert(names.end(), read.begin(), read.end());
    }
    return names;
}

void CellStyle::add(const StyleDesign& style, std::optional<double> place) {
    if (!ink && !style.ink.empty()) ink = &style;
    if (!background && (style.lowest.empty() ? !style.background.empty() : place.has_value())) {
        background = &style;
        part = place.value_or(0);
    }
    if (!icon && !style.icons.empty() && (style.icons.size() == 1 || place)) {
        const auto count = style.icons.size();
        const std::size_t at = count == 1 ? 0 : static_cast<std::size_t>(*place * static_cast<double>(count));
        icon = &style.icons[std::min(count - 1, at)];
        iconOf = &style;
    }
    if (weight == LineWeight::Theme) weight = style.weight;
    italic = italic || style.italic;
    strike = strike || style.strike;
}

ExtentTerm scaleTermOf(FieldIndex field) {
    ExtentTerm term{{field}, true};
    term.isSpread = true;
    return term;
}

StyleReader::StyleReader(const Snapshot& snapshot, const std::vector<PlannedStyle>& styles)
    : styles_(styles), table_(snapshot.table), edits_(snapshot.edits) {
    for (const PlannedStyle& style : styles) {
        bool pending = false;
        const auto made = [&](const std::shared_ptr<const Program>& program) {
            auto condition = RecordCondition::make(program, snapshot);
            pending = pending || (program && !condition);
            return condition;
        };
        where_.push_back(made(style.where));
        auto& own = byField_.emplace_back();
        for (const auto& [field, program] : style.byField) own.emplace(field, made(program));
        isPending_.push_back(pending);
        for (const FieldIndex field : style.fields) {
            if (raw(field) >= kinds_.size()) kinds_.resize(raw(field) + 1, 0);
            if (kinds_[raw(field)] == 0) kinds_[raw(field)] = kindCount_++;
        }
        if (!style.design.isByPlace()) continue;
        for (const FieldIndex field : style.fields) scales_.emplace(field, snapshot.extentOf(scaleTermOf(field)));
    }
}

StyleReader::Held& StyleReader::heldBy(SourceRow row) {
    constexpr std::size_t kKept = 256;
    held_.resize(kKept);
    Held& held = held_[raw(row) % kKept];
    if (held.row == row) return held;
    held.row = row;
    held.is.assign(styles_.size(), false);
    held.styles.assign(kindCount_, std::nullopt);
    for (std::size_t i = 0; i < styles_.size(); ++i) held.is[i] = where_[i] && !isPending_[i] && where_[i]->holds(row);
    return held;
}

StyleReader::~StyleReader() = default;

bool StyleReader::holds(std::size_t style, SourceRow row, FieldIndex field) {
    if (isPending_[style]) return false;
    if (const auto own = byField_[style].find(field); own != byField_[style].end()) return own->second->holds(row);
    return !where_[style] || (*lastHeld_)[style];
}

/// Where a value lies between the least and the greatest; nullopt where there is none.
std::optional<double> StyleReader::partOf(std::size_t style, SourceRow row, FieldIndex field) const {
    const double number = numberIn(*table_, edits_.get(), row, field);
    if (!styles_[style].design.isByPlace() || std::isnan(number)) return std::nullopt;
    const Extent& ends = scales_.at(field);
    return ends.low < ends.high ? std::clamp((number - ends.low) / (ends.high - ends.low), 0.0, 1.0) : 0.5;
}

CellStyle StyleReader::of(SourceRow row, FieldIndex field) {
    Held& held = heldBy(row);
    lastHeld_ = &held.is;
    auto& kept = held.styles[raw(field) < kinds_.size() ? kinds_[raw(field)] : 0];
    if (!kept) kept = made(row, field);
    return *kept;
}

CellStyle StyleReader::made(SourceRow row, FieldIndex field) {
    CellStyle out;
    for (std::size_t i = 0; i < styles_.size(); ++i) {
        const PlannedStyle& style = styles_[i];
        if (!style.fields.empty() && std::find(style.fields.begin(), style.fields.end(), field) == style.fields.end())
            continue;
        if (!holds(i, row, field)) continue;
        out.add(style.design, partOf(i, row, field));
        if (style.design.last) break;
    }
    return out;
}

}  // namespace jollyrow
