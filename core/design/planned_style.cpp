// SPDX-License-Identifier: MIT
// Covered by tests/design/style_test.cpp.
#include "core/design/planned_style.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "core/design/condition.h"
#include "core/design/operators.h"
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
            if (field && (!planned.isScale() || isNumber(schema_.field(*field).type)))
                planned.fields.push_back(*field);
            else
                say(style,
                    field ? fmt::format("{} holds {}, which has no scale", name, article(schema_.field(*field).type))
                          : fmt::format("{} has no column {}", schema_.name, name));
        }
        if (planned.fields.empty() && (!style.columns.empty() || planned.isScale())) {
            if (style.columns.empty()) say(style, "a scale is of columns, and it names none");
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
        if (style.on)
            if (auto one = planner.plan(style)) planned.push_back(std::move(*one));
    return planned;
}

std::vector<std::string> fieldNamesOf(const std::vector<StyleDesign>& styles) {
    std::vector<std::string> names;
    for (const StyleDesign& style : styles) {
        names.insert(names.end(), style.columns.begin(), style.columns.end());
        if (style.where.empty()) continue;
        const auto read = columnsNamed(style.where);
        names.insert(names.end(), read.begin(), read.end());
    }
    return names;
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
        if (!style.isScale()) continue;
        for (const FieldIndex field : style.fields) scales_.emplace(field, snapshot.extentOf(scaleTermOf(field)));
    }
}

const std::vector<bool>& StyleReader::heldBy(SourceRow row) {
    constexpr std::size_t kKept = 256;
    held_.resize(kKept);
    Held& held = held_[raw(row) % kKept];
    if (held.row == row) return held.is;
    held.row = row;
    held.is.assign(styles_.size(), false);
    for (std::size_t i = 0; i < styles_.size(); ++i) held.is[i] = where_[i] && !isPending_[i] && where_[i]->holds(row);
    return held.is;
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
    if (!styles_[style].isScale() || std::isnan(number)) return std::nullopt;
    const Extent& ends = scales_.at(field);
    return ends.low < ends.high ? std::clamp((number - ends.low) / (ends.high - ends.low), 0.0, 1.0) : 0.5;
}

CellStyle StyleReader::of(SourceRow row, FieldIndex field) {
    lastHeld_ = &heldBy(row);
    CellStyle out;
    for (std::size_t i = 0; i < styles_.size(); ++i) {
        const PlannedStyle& style = styles_[i];
        if (!style.fields.empty() && std::find(style.fields.begin(), style.fields.end(), field) == style.fields.end())
            continue;
        if (!holds(i, row, field)) continue;
        if (!out.ink && !style.design.ink.empty()) out.ink = &style.design;
        if (!out.background) {
            const auto part = partOf(i, row, field);
            if (part || (!style.isScale() && !style.design.background.empty())) out.background = &style.design;
            out.part = part.value_or(0);
        }
        if (out.weight == LineWeight::Theme) out.weight = style.design.weight;
        out.strike = out.strike || style.design.strike;
        if (style.design.last) break;
    }
    return out;
}

}  // namespace jollyrow
