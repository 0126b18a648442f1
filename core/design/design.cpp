// SPDX-License-Identifier: MIT
#include "core/design/design.h"
#include "core/design/make_design.h"

#include <algorithm>
#include <utility>

namespace jollyrow {

const ColumnDesign* Design::column(std::string_view field) const {
    const auto found =
        std::find_if(columns.begin(), columns.end(), [field](const ColumnDesign& c) { return c.field == field; });
    return found == columns.end() ? nullptr : &*found;
}

const FaceDesign* Design::findFace(std::string_view name) const {
    const auto found = std::find_if(faces.begin(), faces.end(), [name](const FaceDesign& f) { return f.name == name; });
    return found == faces.end() ? nullptr : &*found;
}

FaceDesign* Design::findFace(std::string_view name) {
    return const_cast<FaceDesign*>(std::as_const(*this).findFace(name));
}

std::string Design::headingOf(std::string_view field) const {
    if (const ColumnDesign* named = column(field); named && !named->heading.empty()) return named->heading;
    const std::size_t dot = field.rfind('.');
    if (dot == std::string_view::npos) return headingFor(field, false);
    const std::string_view own = field.substr(dot + 1);
    const ColumnDesign* lookUp = column(field.substr(0, dot));
    const bool isUsual = own == "name" || own == "title" || own == "label" || own.ends_with("name");
    const bool isLabel = lookUp && (lookUp->label.empty() ? isUsual : own == lookUp->label);
    return isLabel && !lookUp->heading.empty() ? lookUp->heading : headingFor(own, false);
}

ColumnDesign* Design::column(std::string_view field) {
    return const_cast<ColumnDesign*>(std::as_const(*this).column(field));
}

const FilterDesign* Design::filterAt(std::string_view field) const {
    const auto found =
        std::find_if(filter.begin(), filter.end(), [field](const FilterDesign& part) { return part.field == field; });
    return found == filter.end() ? nullptr : &*found;
}

FilterDesign* Design::filterAt(std::string_view field) {
    return const_cast<FilterDesign*>(std::as_const(*this).filterAt(field));
}

const SummaryDesign* Design::summary(std::string_view name) const {
    const auto found =
        std::find_if(summaries.begin(), summaries.end(), [name](const SummaryDesign& s) { return s.name == name; });
    return found == summaries.end() ? nullptr : &*found;
}

const SortRuleDesign* Design::sortRule(std::string_view name) const {
    const auto found =
        std::find_if(sortRules.begin(), sortRules.end(), [name](const SortRuleDesign& r) { return r.name == name; });
    return found == sortRules.end() ? nullptr : &*found;
}

const TierDesign* Design::findTier(std::string_view name) const {
    const auto found = std::find_if(tiers.begin(), tiers.end(), [name](const TierDesign& t) { return t.name == name; });
    return found == tiers.end() ? nullptr : &*found;
}

TierDesign* Design::findTier(std::string_view name) {
    return const_cast<TierDesign*>(std::as_const(*this).findTier(name));
}

}  // namespace jollyrow
